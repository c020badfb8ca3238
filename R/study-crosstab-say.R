# Crosstab, continued: the table, its sentences, notes and proof.

# The name of each column: that of its head, and the metric where there are several.
column_labels <- function(question, found, join = joined_names) {
  heads <- found$across[question$args$columns]
  if (!length(heads)) return(rep("total", nrow(found$across)))
  label <- join(heads)
  label[found$across$level == 0] <- "total"
  label
}

crosstab_table <- function(question, found) {
  args <- question$args
  heads <- crosstab_heads(question, found)
  shares <- if (!is.null(args$share_of)) crosstab_shares(question, found)
  laid <- crosstab_laid(question, found, heads, shares)
  last <- nrow(laid)
  foot <- laid[last, , drop = FALSE]
  foot[args$rows] <- c(list("total"), rep(list(""), length(args$rows) - 1))
  values <- if (!is.null(shares)) crosstab_laid(question, found, heads)[-last, , drop = FALSE]
  units <- unname(vapply(question$metrics, `[[`, "", "unit")[heads$metric])
  if (!is.null(shares)) units <- rep("percent", nrow(heads))
  list(table = laid[-last, , drop = FALSE],
       columns = rbind(new_columns(args$rows, rep("text", length(args$rows))),
                       new_columns(heads$name, units, digits = if (is.null(shares)) NA else 1,
                                   heading = heads$heading)),
       parts = list(foot = foot, cells = found$long, values = values))
}

# The columns of values in their order: name, heading, column (of found$across) and metric of each.
# The total stands first, where it is seen however wide the table.
crosstab_heads <- function(question, found) {
  args <- question$args
  label <- column_labels(question, found)
  total <- found$across$level == 0
  heads <- expand.grid(metric = names(question$metrics), column = c(which(total), which(!total)),
                       stringsAsFactors = FALSE)
  named <- function(label, metric = heads$metric) {
    if (!length(args$columns)) metric else if (length(question$metrics) > 1)
      paste(label[heads$column], metric, sep = ": ") else label[heads$column]
  }
  name <- named(label)
  in_words <- column_labels(question, found, function(keys) told_as_keys(question, keys))
  heads$heading <- named(in_words, spoken(heads$metric))
  # One after the other: a name that is made unique may be that of the next.
  taken <- args$rows
  for (one in name) taken <- c(taken, utils::tail(make.unique(c(taken, one), " "), 1))
  heads$name <- taken[-seq_along(args$rows)]
  heads
}

# Rows and values, or `shares` in their place, the total last.
crosstab_laid <- function(question, found, heads, shares = NULL) {
  cells <- Map(function(name, column) {
    in_unit((shares %||% found$values[[name]])[, column], question$metrics[[name]])
  }, heads$metric, heads$column)
  table <- data.frame(found$down[question$args$rows], stats::setNames(cells, heads$name),
                      check.names = FALSE)
  rownames(table) <- NULL
  table
}

crosstab_shares <- function(question, found) {
  v <- found$values[[1]]
  v[is.na(v) & is.na(found$count)] <- NA
  total_row <- which(found$down$level == 0)
  total_column <- which(found$across$level == 0)
  whole <- switch(question$args$share_of, row = v[, total_column],
                  column = rep(v[total_row, ], each = nrow(v)), all = v[total_row, total_column])
  whole[!is.na(whole) & whole <= 0] <- NA
  v / whole
}

share_words_of <- function(share_of) {
  switch(share_of, row = "each cell as a share of its row's total",
         column = "each cell as a share of its column's total",
         all = "each cell as a share of the whole total")
}

crosstab_settings <- function(question, found) {
  args <- question$args
  question_settings(question, rows = args$rows, columns = args$columns, share_of = args$share_of,
                    top = args$top,
                    adds_up = names(Filter(function(m) m$adds_up, question$metrics)))
}

# "family jars with rep Maren Holt"
cell_name <- function(question, found, rows) {
  fields <- c(question$args$rows, question$args$columns)
  text <- lapply(fields, function(field) {
    paste(spoken(field), told_as(question, field, found$long[[field]][rows]))
  })
  do.call(paste, c(text, sep = if (length(fields) == 2) " and " else ", "))
}

crosstab_finding <- function(question, found) {
  metric <- first_metric(question)
  value <- found$long[[metric$name]]
  named <- Reduce(`&`, lapply(found$long[c(question$args$rows, question$args$columns)],
                              function(key) {
    key != "(none)" & !grepl("^everyone else \\(", key)
  }))
  value[!named] <- NA
  if (all(is.na(value))) return(paste0("There is no ", spoken(metric$name), " to cross."))
  best <- which(ranks(value, metric$better == "high", exact = TRUE) == 1)
  whole <- found$values[[1]][found$down$level == 0, found$across$level == 0]
  share <- if (metric$adds_up && isTRUE(whole > 0)) of_the_total(value[best[1]] / whole)
  cells <- function(best) if (length(best) > 3) paste(count_text(length(best)), "cells") else
    paste(cell_name(question, found, best), collapse = "; ")
  unknown <- unknown_words(question, found, whole)
  if (!is.null(question$args$share_of)) {
    told <- share_cell_words(question, found, named, cells)
    if (!is.null(told)) return(paste0(told, unknown, "."))
  }
  high <- metric$better == "high"
  words <- if (metric$adds_up) c("most ", "least ") else c("highest ", "lowest ")
  word <- words[if (high) 1 else 2]
  paste0("The ", word, spoken(metric$name), ": ",
         cells(best), ", ", said(value[best[1]], metric), if (length(best) > 1) " each", share,
         unknown, ".")
}

# "The highest share of its row: channel web and type school, 52.1 % of 1,096,825 revenue"
share_cell_words <- function(question, found, named, cells) {
  metric <- first_metric(question)
  of <- question$args$share_of
  at <- function(keys, fields) match_keys(found$long[fields], as.list(keys[fields]))
  down <- at(found$down, question$args$rows)
  across <- if (length(question$args$columns)) at(found$across, question$args$columns) else
    rep(1L, length(down))
  share <- crosstab_shares(question, found)[cbind(down, across)]
  share[!named] <- NA
  if (all(is.na(share))) return(NULL)
  best <- which(abs(share - max(share, na.rm = TRUE)) < 1e-12)
  values <- found$values[[1]]
  whole <- switch(of, row = values[down[best[1]], found$across$level == 0],
                  column = values[found$down$level == 0, across[best[1]]],
                  all = values[found$down$level == 0, found$across$level == 0])
  paste0("The highest share of ", c(row = "its row", column = "its column", all = "all")[[of]], ": ",
         cells(best), ", ", format_number(share[best[1]], "percent", 1),
         if (length(best) == 1) paste0(" of ", said(whole, metric), " ", spoken(metric$name)))
}

# "; 44 % of the total has no channel": what a table of names leaves open, where it is much.
unknown_words <- function(question, found, whole) {
  metric <- first_metric(question)
  fields <- c(question$args$rows, question$args$columns)
  bare <- lapply(found$long[fields], function(key) key == "(none)")
  if (!metric$adds_up || !isTRUE(whole > 0)) return(NULL)
  share <- sum(found$long[[metric$name]][Reduce(`|`, bare)], na.rm = TRUE) / whole
  if (share < much_unknown) return(NULL)
  paste0("; ", format_number(share, "percent", 0), " of the total has no ",
         and_list(spoken(fields[vapply(bare, any, NA)]), last = "or"))
}

much_unknown <- .05   # of the total without a name, from which a headline says so

crosstab_reading <- function(question, found) {
  args <- question$args
  who <- function(fields) paste(vapply(fields, spoken, ""), collapse = ", within it ")
  metrics <- and_list(vapply(question$metrics, metric_words, ""), 8)
  paste0(capital(metrics), " by ", who(args$rows),
         if (length(args$columns)) paste0(" (down) and ", who(args$columns), " (across)"), "; ",
         reading_tail(question, if (!is.null(args$share_of)) share_words_of(args$share_of),
                      if (!is.null(found$kept)) paste0("top ", args$top, ", the rest gathered")))
}

crosstab_notes <- function(question, found) {
  args <- question$args
  named <- Reduce(`&`, lapply(found$long[c(args$rows, args$columns)],
                              function(key) key != "(none)"))
  empty <- sum(found$long$lines[named] == 0)
  not_added <- Filter(function(m) !m$adds_up, question$metrics)
  rbind(
    note("empty", if (length(args$columns) && empty) paste0(
      count_text(empty), " of ", plural(sum(named), "cell"), verb(empty, " has"),
      " no lines and ", verb(empty, "is"),
      " left blank (-); a 0 is a sum of lines that is zero.")),
    note("totals", if (length(not_added)) paste0(
      capital(and_list(spoken(names(not_added)))), ": totals are recalculated from the lines, not ",
      "added or averaged over the cells.")),
    note_reversal(question, found), question_notes(question))
}

# The row that leads overall against the leaders of the columns.
note_reversal <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  if (length(args$columns) != 1 || length(args$rows) != 1) return(new_notes())
  rows <- which(found$down$level == 1 & found$down[[1]] != "(none)")
  columns <- which(found$across$level == 1 & found$across[[1]] != "(none)")
  if (length(rows) < 2 || length(columns) < 3) return(new_notes())
  lead <- function(v) {
    if (all(is.na(v))) NA else if (metric$better == "high") which.max(v) else which.min(v)
  }
  overall <- lead(found$values[[1]][rows, found$across$level == 0])
  # Where the leader has no lines it could not be first.
  if (!is.na(overall)) columns <- columns[!is.na(found$values[[1]][rows, columns][overall, ])]
  if (!length(columns)) return(new_notes())
  each <- apply(found$values[[1]][rows, columns, drop = FALSE], 2, lead)
  led <- sum(each == overall, na.rm = TRUE)
  if (is.na(overall) || led > length(columns) / 2) return(new_notes())
  note("reversal", told_as(question, args$rows, found$down[[1]][rows][overall]),
       " leads overall by ", spoken(metric$name), " but is first in only ", led, " of ",
       plural(length(columns), noun_of(question, args$columns)), ".")
}

crosstab_proof <- function(question, found) {
  at <- list(found$down$level == 0, found$across$level == 0)
  whole <- lapply(found$values, function(v) v[at[[1]], at[[2]]])
  exact <- fold_at(found, 0, 0)$exact
  rbind(prove_question(question, found$lines, whole, exact),
        prove_parts(question$metrics, found$long[names(question$metrics)], whole, exact, "cells"),
        prove_shares(question, found))
}

# Unrounded shares of each row, each column or the whole add up to one.
prove_shares <- function(question, found) {
  of <- question$args$share_of
  if (is.null(of)) return(NULL)
  share <- crosstab_shares(question, found)
  rows <- found$down$level == length(question$args$rows) | found$down$level == -1
  columns <- found$across$level == length(question$args$columns)
  leaves <- share[rows, columns, drop = FALSE]
  sums <- switch(of, row = rowSums(share[rows, columns, drop = FALSE], na.rm = TRUE),
                 column = colSums(leaves, na.rm = TRUE), all = sum(leaves, na.rm = TRUE))
  whole <- switch(of, row = share[rows, found$across$level == 0],
                  column = share[found$down$level == 0, columns],
                  all = share[found$down$level == 0, found$across$level == 0])
  sums <- sums[!is.na(whole)]
  proof_line(paste0("unrounded shares of ", switch(of, row = "every row", column = "every column",
                                                   all = "the whole"), " add up to 1"),
             length(sums), sum(abs(sums - 1) < 1e-9))
}

# The lines of a row, and of each column by the head it stands under.
crosstab_behind <- function(question, found) {
  args <- question$args
  heads <- crosstab_heads(question, found)
  columns <- lapply(stats::setNames(heads$column, heads$name), function(j) {
    out <- NULL
    for (field in args$columns)
      out <- and_also(out, name_condition(question, field, found$across[[field]][j], NULL))
    out
  })
  list(keys = stats::setNames(args$rows, args$rows), columns = columns,
       kept = stats::setNames(list(found$kept), args$rows[1]))
}
