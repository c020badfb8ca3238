# A column per month turned into lines: one line for each cell that holds something.

# The columns that are to be turned, by the names of the file.
unpivoted_names <- function(unpivot, names, where) {
  if (is.null(unpivot)) return(character())
  match_columns(check_unpivot(unpivot)$columns, names, where)
}

# list(data, values, units, fixes): `values` the column made of the cells.
unpivot_columns <- function(data, unpivot, where, switches) {
  if (is.null(unpivot)) return(list(data = data))
  spec <- check_unpivot(unpivot)
  asked <- match_columns(spec$columns, names(data), where)
  totals <- if (switches[["total_rows"]]) total_columns(data, asked) else list()
  chosen <- setdiff(asked, names(totals))
  keep <- setdiff(names(data), c(chosen, names(totals)))
  clash <- intersect(c(spec$names, spec$values), keep)
  if (length(clash))
    ll_abort(paste0("'unpivot' would make a second column ", quoted(clash[1]), "; choose another ",
                    "name for 'names' or 'values'."), "argument")
  n <- length(data[[1]])
  cells <- lapply(data[chosen], function(x) if (is.factor(x)) as.character(x) else x)
  text <- any(vapply(cells, is.character, TRUE))
  values <- unlist(if (text) lapply(cells, as.character) else cells, use.names = FALSE)
  blank <- if (text) is_blank(values) else is.na(values)
  row <- rep(seq_len(n), length(chosen))[!blank]
  days <- header_days(chosen)
  labels <- if (anyNA(days)) chosen else as_day(days)
  out <- lapply(data[keep], function(x) x[row])
  out[[spec$names]] <- rep(labels, each = n)[!blank]
  out[[spec$values]] <- values[!blank]
  if (!length(row)) ll_abort(paste0("Every cell of the unpivoted columns is blank (", where, ")."),
                             "data")
  unit <- if (!anyNA(days)) header_unit(chosen)
  list(data = out, values = spec$values, units = stats::setNames(list(unit), spec$names),
       fixes = rbind(total_column_fixes(data, totals), fix(
    "unpivot", spec$values, length(row),
    paste0(plural(length(chosen), "column"), " (", and_list(chosen, 3), ") of ",
           plural(n, "row"), " unpivoted into ", plural(length(row), "line"), ", ",
           plural(sum(blank), "blank cell"), " left out"),
    n * length(chosen), length(row) + sum(blank))))
}

# Columns that hold in every row the sum of others that are unpivoted: totals of the year, or of
# quarters among months. As with rows, what they are called has to agree: a word for a total, or no
# period where the others are, or a longer one. A list of the columns that each adds up.
total_columns <- function(data, chosen) {
  numbers <- names(Filter(is.numeric, data))
  asked <- intersect(chosen, numbers)
  if (length(asked) < 2) return(list())
  plain <- lapply(data[numbers], function(x) ifelse(is.na(x), 0, as.double(x)))
  found <- list()
  # Those that were not asked for are looked at last, where they stand is no matter.
  for (name in c(asked, setdiff(numbers, asked))[called_totals(c(asked, setdiff(numbers, asked)))]) {
    others <- setdiff(asked, c(names(found), name))
    before <- others[match(others, numbers) < match(name, numbers)]
    last <- max(match(names(found), numbers), 0L)
    since <- before[match(before, numbers) > last]
    fits <- Filter(function(of) length(of) > 1 && holds_sums(plain[[name]], plain[of]),
                   list(since, before, others))
    if (length(fits)) found[[name]] <- fits[[1]]
  }
  found
}

# Which headers of columns may be totals of others.
called_totals <- function(headers) {
  units <- vapply(headers, function(h) if (is.na(header_days(h))) "" else header_unit(h), "")
  usual <- names(which.max(table(units)))
  names_total(headers) | nzchar(usual) & units != usual
}

# Whether a column is the sum of others in every row, and some rows have several of them.
holds_sums <- function(x, parts) {
  sum <- Reduce(`+`, parts)
  several <- Reduce(`+`, lapply(parts, function(p) p != 0)) > 1
  any(several & x != 0) && all(abs(x - sum) <= pmin(.004, 1e-4 * abs(sum)) + 1e-9)
}

total_column_fixes <- function(data, totals) {
  added <- function(columns) sum(unlist(lapply(data[columns], as.double)), na.rm = TRUE)
  do.call(rbind, lapply(names(totals), function(name) {
    rbind(fix("total_rows", name, 1, paste0("the totals column ", name, " excluded")),
          fix("total_check", name, 1, paste0("the totals column ", name, " = the columns it adds up"),
              added(name), added(totals[[name]])))
  }))
}

check_unpivot <- function(unpivot) {
  if (!is.list(unpivot)) unpivot <- list(columns = unpivot)
  known <- book_keys("unpivot")
  unknown <- setdiff(names(unpivot) %||% "", known)
  if (length(unknown))
    ll_abort(c(paste0("'unpivot' has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  if (is.null(unpivot$columns))
    ll_abort(c("'unpivot' needs the columns to unpivot.",
               i = "For example list(columns = \"2026-*\", names = \"month\", values = \"net\")."),
             "argument")
  list(columns = check_words(unlist(unpivot$columns), "columns of unpivot"),
       names = check_words(unpivot$names %||% "period", "names of unpivot", one = TRUE),
       values = check_words(unpivot$values %||% "amount", "values of unpivot", one = TRUE))
}

# Names, or patterns in which * stands for any letters and ? for one.
match_columns <- function(asked, columns, where) {
  check_name_size(asked, "What 'unpivot' names", "argument")
  found <- lapply(asked, function(one) {
    hit <- if (one %in% columns) one else grep(utils::glob2rx(one), columns, value = TRUE)
    if (!length(hit))
      ll_abort(c(paste0("'unpivot' matches no column: ", quoted(one), " (", where, ")."),
                 offer(one, columns, "Columns")), "word")
    hit
  })
  columns[columns %in% unlist(found)]
}

# First days of the periods that headers name, in any of the forms of read_periods(), or days.
header_days <- function(headers) {
  periods <- read_periods(headers, TRUE, TRUE)$days %||% rep(NA, length(headers))
  days <- read_dates(headers)$days
  ifelse(is.na(days), periods, days)
}

# How long the periods are that all these headers name. Periods of different lengths are told by
# their first days.
header_unit <- function(headers) {
  read <- read_periods(headers, TRUE, TRUE)
  if (is.null(read) || anyNA(read$days)) "day" else read$unit
}

# Columns of numbers whose headers are periods of one length, where nothing was said of them: the
# words that turn them into lines, an offer.
offer_unpivot <- function(data) {
  numbers <- names(Filter(is.numeric, data))
  periods <- numbers[!is.na(header_days(numbers))]
  # One or two serve where nothing else tells a date.
  least <- if (any(vapply(data, inherits, NA, c("Date", "POSIXct")))) 3 else 1
  if (length(periods) < least || header_unit(periods) == "day") return(NULL)
  years <- unique(regmatches(periods, regexpr("(19|20)[0-9]{2}", periods)))
  globs <- c(paste0("* ", years), paste0(years, "-*"), paste0("*/", years), paste0("*-", years))
  fits <- vapply(globs, function(glob) {
    setequal(grep(utils::glob2rx(glob), numbers, value = TRUE), periods)
  }, NA)
  # A comma within a header would part it.
  asked <- c(globs[fits], paste(gsub(",", "?", periods, fixed = TRUE), collapse = ","))[1]
  option <- paste("--unpivot", shell_quoted(asked))
  an_offer(Inf, paste0(
    plural(length(periods), "column"), " (", and_list(periods, 3), ") ",
    if (length(periods) == 1) paste("is a", header_unit(periods)) else
      paste("are", plural_word(header_unit(periods))),
    ": ", option, " turns ", if (length(periods) == 1) "it" else "them",
    " into lines with a date and an amount (in a brief: unpivot: '", asked, "')"), option, asked)
}
