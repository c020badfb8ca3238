# Totals that a file holds beside its lines: found, excluded, and held against the lines as control
# totals.

# The rows of `data` that are totals: those of total_rows(), with the words they bear. `keys` are
# the columns that name things or hold dates, which a total leaves empty. NULL where there is none.
totals_among <- function(data) {
  n <- length(data[[1]])
  numbers <- Filter(is.numeric, data[!named_like_rate(names(data))])
  keys <- data[!vapply(data, is.numeric, NA)]
  if (n < 2 || !length(numbers) || !length(keys)) return(NULL)
  rows <- total_candidates(keys, n)
  if (is.null(rows)) return(NULL)
  found <- total_rows(numbers, rows, shared_runs(keys, rows))
  if (!nrow(found) && any(rows$worded | rows$row == 1)) found <- totals_above(numbers, keys, rows, n)
  if (!nrow(found)) return(NULL)
  found$words <- words_of_rows(keys, found$row)
  found
}

# Totals that stand above their lines, those without a word for it on the first row: the same, read
# from the foot.
totals_above <- function(numbers, keys, rows, n) {
  rows <- rows[rows$worded | rows$row == 1, ]
  rows <- rows[rev(seq_len(nrow(rows))), ]
  rows$row <- n + 1L - rows$row
  rows$foot <- FALSE
  turned <- function(data) lapply(data, function(x) x[seq(n, 1)])
  found <- total_rows(turned(numbers), rows, shared_runs(turned(keys), rows))
  found$row <- n + 1L - found$row
  found$first <- n + 1L - found$first
  found[order(found$row), ]
}

# Rates and prices add up to nothing, so that a total says of them what it likes.
named_like_rate <- function(names) {
  words <- paste0("prices?|rates?|percent(age)?|pct|discount|average|avg|mean|ratio|prix|taux|",
                  "remise|",
                  "prijs|korting|precio|tasa|descuento|dto|prezzo|sconto|tasso|rabatt|quote|",
                  "desconto|cena|rabat|",
                  "\u0446\u0435\u043d\u0430|\u0441\u043a\u0438\u0434\u043a\u0430|",
                  "\u0441\u0442\u0430\u0432\u043a\u0430|\u043f\u0440\u043e\u0446\u0435\u043d\u0442")
  grepl("%", names, fixed = TRUE) |
    grepl(paste0("(^|_)(", words, ")(_|$)|(einzel|st\u00fcck|listen|verkaufs|einkaufs)preis(_|$)|(durch)?schnitt(_|$)|",
                 "(prozent|rabatt|steuer|zins|margen|provisions)satz(_|$)"), column_word(names))
}

most_candidates <- 1e5

# Rows that may be totals by what they call themselves; NULL where there are none.
total_candidates <- function(keys, n) {
  blank <- lapply(keys, function(x) is_blank_cell(x))
  blanks <- Reduce(`+`, blank)
  worded <- worded_rows(keys, blanks, n)
  bare <- which(blanks > length(keys) / 2)
  # Where many lines lack their names, lacking them tells nothing.
  if (length(bare) > max(20, n / 4) ||
        length(keys) == 1 && !length(worded) && blanks[n] == 0 && blanks[1] == 0)
    bare <- integer()
  rows <- sort(unique(c(worded, bare)))
  if (!length(rows) || length(rows) > most_candidates) return(NULL)
  out <- data.frame(row = rows, worded = rows %in% worded)
  label <- label_places(keys, rows)
  out$form <- vapply(seq_along(rows), function(i) {
    paste(c(ifelse(vapply(blank, `[`, NA, rows[i]), "-", "x"), label[i]), collapse = " ")
  }, "")
  lacking <- vapply(seq_along(rows), function(i) {
    others <- setdiff(seq_along(keys), label[i])
    length(others) > 0 && mean(vapply(blank[others], `[`, NA, rows[i])) >= .5
  }, NA)
  # Only those with nothing but totals below them.
  last <- rows == n - rev(seq_along(rows)) + 1
  out$foot <- out$worded & lacking & last & rows > n - 5
  out
}

# Which cells hold nothing: missing ones, or texts of blanks where some at the foot are such.
is_blank_cell <- function(x) {
  if (is.factor(x)) return(is.na(x) | as.integer(x) %in% which(is_blank(levels(x))))
  if (!is.character(x)) return(is.na(x))
  foot <- utils::tail(x, 40)
  if (any(!is.na(foot) & is_blank(foot))) is_blank(x) else is.na(x)
}

# Rows that call themselves a total. In long files only those that lack some name are looked at, and
# the first and last few.
worded_rows <- function(keys, blanks, n) {
  texts <- Filter(function(x) is.character(x) || is.factor(x), keys)
  some <- if (n <= 2e5) seq_len(n) else
    sort(unique(c(which(blanks > 0), utils::head(seq_len(n), 5), utils::tail(seq_len(n), 5))))
  if (!length(texts) || length(some) > 1e6) return(integer())
  hit <- lapply(texts, function(x) {
    x <- x[some]
    each <- if (is.factor(x)) levels(x) else unique(x)
    named <- each[!is.na(each) & names_total(each)]
    if (length(named)) some[x %in% named] else integer()
  })
  rows <- sort(unique(unlist(hit)))
  rows[vapply(rows, function(row) is_total_of_near(texts, row, rows, n), NA)]
}

# A total is of all, or of a name that the lines beside it bear: "Total Care" may be an item.
is_total_of_near <- function(texts, row, rows, n) {
  cells <- cells_of(texts, row)
  of <- total_of_what(cells[names_total(cells)])
  if (any(!nzchar(of))) return(TRUE)
  up <- seq(max(1, row - 20), row)
  down <- seq(row, min(n, row + 20))
  # Beside the nearest without such a word, the next ones: an item may be called so.
  near <- setdiff(c(utils::tail(up, 3), utils::tail(setdiff(up, rows), 1),
                    utils::head(down, 3), utils::head(setdiff(down, rows), 1)), row)
  beside <- unlist(lapply(near, function(at) cells_of(texts, at)))
  names <- tolower(c(setdiff(beside, cells[names_total(cells)]), names(texts)))
  of <- tolower(of)
  any(of %in% names) || any(vapply(names[nchar(names) > 2], grepl, NA, of[1], fixed = TRUE))
}

# The cells of a row that hold something.
cells_of <- function(data, row) {
  cells <- vapply(data, function(x) as.character(x[row]), "")
  cells[!is_blank(cells)]
}

# Which key of each row calls it a total; 0 where none does.
label_places <- function(keys, rows) {
  hit <- lapply(keys, function(x) {
    x <- as.character(x[rows])
    !is.na(x) & names_total(x)
  })
  at <- rep(0L, length(rows))
  for (k in rev(seq_along(hit))) at[hit[[k]]] <- k
  at
}

# Where the lines begin that share a name with each row: upwards from it, for each of its names.
shared_runs <- function(keys, rows) {
  changes <- lapply(keys, function(x) {
    n <- length(x)
    codes <- if (is.factor(x)) as.integer(x) else match(x, unique(x))
    which(c(TRUE, codes[-1] != codes[-n]))
  })
  lapply(rows$row, function(row) {
    if (row < 2) return(integer())
    unique(unlist(lapply(changes, function(at) {
      # The run that the line before belongs to.
      at[findInterval(row - 1L, at)]
    })))
  })
}

words_of_rows <- function(keys, rows) {
  vapply(rows, function(row) {
    cells <- cells_of(keys, row)
    c(cells[names_total(cells)], cells, "")[1]
  }, "")
}

# `data` without its totals: list(data, fixes, removed).
exclude_totals <- function(data, switches) {
  found <- if (switches[["total_rows"]]) totals_among(data)
  if (is.null(found)) return(list(data = data, removed = 0L))
  list(data = lapply(data, function(x) x[-found$row]), removed = nrow(found),
       fixes = total_fixes(found, data))
}

# What was excluded, and what the file's own totals say of its lines.
total_fixes <- function(found, data) {
  numbers <- names(Filter(is.numeric, data[!named_like_rate(names(data))]))
  lines <- setdiff(seq_along(data[[1]]), found$row)
  parts <- found[!found$all, ]
  all <- found[found$all, ]
  n <- c(nrow(parts), nrow(all))
  told <- c(if (n[1]) plural(n[1], "subtotal row"), if (n[2]) plural(n[2], "grand-total row"))
  first <- fix("total_rows", NA, nrow(found), paste0(
    and_list(told), " excluded (", and_list(fit_text(one_line(examples_of_totals(found)), 24), 3),
    ")"))
  rbind(first, if (n[1]) part_checks(parts, data, numbers, found$row),
        if (n[2]) grand_checks(all, data, numbers, lines))
}

examples_of_totals <- function(found) {
  words <- ifelse(nzchar(found$words), found$words, "without a name")
  unique(words[order(!found$all)])
}

# Of many columns one control for all; of a few one each.
grand_checks <- function(all, data, numbers, lines) {
  says <- vapply(data[numbers], function(x) as.double(x[all$row[1]]), 0)
  sums <- vapply(data[numbers], function(x) sum(as.double(x[lines]), na.rm = TRUE), 0)
  held <- which(!is.na(says))
  if (length(held) > 4) {
    same <- abs(says[held] - sums[held]) <= 1e-6 * abs(sums[held]) + .004
    return(fix("total_check", NA, length(held), paste0(
      "the grand-total row = the lines' in all ", length(held), " columns",
      if (!all(same)) paste0(", not in ", and_list(numbers[held][!same], 3))), length(held),
      sum(same)))
  }
  do.call(rbind, lapply(held, function(k) {
    fix("total_check", numbers[k], 1, paste0("the grand-total row's ", numbers[k], " = the lines'"),
        says[[k]], sums[[k]])
  }))
}

part_checks <- function(parts, data, numbers, totals) {
  wrong <- parts[!parts$agrees, ]
  text <- paste(plural(nrow(parts), "subtotal row"), "=", if (nrow(parts) == 1) "the sum of its lines" else
    "the sums of their lines")
  if (nrow(wrong)) {
    one <- wrong[1, ]
    lines <- setdiff(seq(min(one$first, one$row), max(one$first, one$row)), totals)
    says <- vapply(data[numbers], function(x) as.double(x[one$row]), 0)
    sums <- vapply(data[numbers], function(x) sum(as.double(x[lines]), na.rm = TRUE), 0)
    k <- which(!is.na(says) & abs(says - sums) > 1e-6 * abs(sums) + .004)[1]
    text <- paste0(text, " (", quoted(one$words), " says ", format_plain(says[[k]]), " ",
                   numbers[k], ", its lines come to ", format_plain(sums[[k]]), ")")
  }
  fix("total_check", NA, nrow(parts), text, nrow(parts), sum(parts$agrees))
}

# A total line with fewer cells tells one amount: it must be the sum of some column.
total_line_fix <- function(cells, data) {
  amount <- utils::tail(cells, 1)
  values <- c(read_numbers(amount, ".")$value, read_numbers(amount, ",")$value)
  sums <- vapply(Filter(is.numeric, data), function(x) sum(as.double(x), na.rm = TRUE), 0)
  if (all(is.na(values)) || !length(sums)) return(NULL)
  # By whichever decimal mark it comes nearest to some sum.
  gaps <- abs(outer(sums, values, `-`))
  best <- arrayInd(which.min(gaps), dim(gaps))
  near <- names(sums)[best[1]]
  value <- values[best[2]]
  fix("total_check", near, 1, paste0("the total line below the lines = the sum of ", near), value,
      sums[[near]])
}
