# Crosstab, continued: the table, its sentences, notes and proof.

# The name of each column: that of its head, and the metric where there are several.
column_labels <- function(s) {
  q <- s$q
  heads <- s$across[q$columns]
  if (!length(heads)) return(rep("total", nrow(s$across)))
  label <- joined_names(heads)
  label[s$across$level == 0] <- "total"
  label
}

crosstab_table <- function(s) {
  q <- s$q
  shares <- if (!is.null(q$share_of)) crosstab_shares(s)
  label <- column_labels(s)
  # The total stands first, where it is seen however wide the table.
  order <- c(which(s$across$level == 0), which(s$across$level != 0))
  cells <- list()
  heads <- list()
  columns <- new_columns(q$rows, rep("text", length(q$rows)))
  for (j in order) for (metric in q$metrics) {
    name <- if (!length(q$columns)) metric$name else if (length(q$metrics) > 1)
      paste(label[j], metric$name, sep = ": ") else label[j]
    name <- utils::tail(make.unique(c(q$rows, names(cells), name), " "), 1)
    value <- (shares %||% s$values[[metric$name]])[, j]
    cells[[name]] <- in_unit(value, metric)
    heads[[name]] <- j
    columns <- rbind(columns, if (is.null(shares)) new_columns(name, metric$unit) else
      new_columns(name, "percent", digits = 1))
  }
  table <- data.frame(s$down[q$rows], cells, check.names = FALSE)
  rownames(table) <- NULL
  last <- nrow(table)
  foot <- table[last, , drop = FALSE]
  foot[q$rows] <- c(list("total"), rep(list(""), length(q$rows) - 1))
  values <- if (!is.null(shares)) {
    plain <- s
    plain$q$share_of <- NULL
    crosstab_table(plain)$table
  }
  list(table = table[-last, , drop = FALSE], columns = columns, foot = foot, values = values,
       heads = heads)
}

crosstab_shares <- function(s) {
  v <- s$values[[1]]
  v[is.na(v) & is.na(s$count)] <- NA
  total_row <- which(s$down$level == 0)
  total_column <- which(s$across$level == 0)
  whole <- switch(s$q$share_of, row = v[, total_column],
                  column = rep(v[total_row, ], each = nrow(v)), all = v[total_row, total_column])
  whole[!is.na(whole) & whole <= 0] <- NA
  v / whole
}

share_words_of <- function(share_of) {
  switch(share_of, row = "each cell as a share of its row's total",
         column = "each cell as a share of its column's total",
         all = "each cell as a share of the whole total")
}

crosstab_settings <- function(q) {
  question_settings(q, rows = q$rows, columns = q$columns, share_of = q$share_of, top = q$top,
                    adds_up = names(Filter(function(m) m$adds_up, q$metrics)))
}

# "family jars with rep Maren Holt"
cell_name <- function(s, rows) {
  fields <- c(s$q$rows, s$q$columns)
  text <- lapply(fields, function(field) paste(spoken(field), one_line(s$long[[field]][rows])))
  do.call(paste, c(text, sep = if (length(fields) == 2) " with " else ", "))
}

crosstab_finding <- function(s) {
  m <- s$q$first
  value <- s$long[[m$name]]
  named <- Reduce(`&`, lapply(s$long[c(s$q$rows, s$q$columns)], function(key) {
    key != "(none)" & !grepl("^everyone else \\(", key)
  }))
  value[!named] <- NA
  if (all(is.na(value))) return(paste0("There is no ", spoken(m$name), " to cross."))
  best <- which(places(value, m$better == "high", exact = TRUE) == 1)
  whole <- s$values[[1]][s$down$level == 0, s$across$level == 0]
  share <- if (m$adds_up && isTRUE(whole > 0))
    paste0(", ", format_number(value[best[1]] / whole, "percent"), " of the total")
  cells <- if (length(best) > 3) paste(count_text(length(best)), "cells") else
    paste(cell_name(s, best), collapse = "; ")
  paste0("The ", if (m$better == "high") "most " else "least ", spoken(m$name), ": ", cells, ", ",
         said(value[best[1]], m), if (length(best) > 1) " each", share, ".")
}

crosstab_reading <- function(s) {
  q <- s$q
  who <- function(fields) paste(vapply(fields, spoken, ""), collapse = ", within it ")
  metrics <- and_list(vapply(q$metrics, metric_words, ""), 8)
  paste0(capital(metrics), " by ", who(q$rows), if (length(q$columns)) paste0(" (down) and ",
                                                                   who(q$columns), " (across)"),
         "; ", reading_tail(q, if (!is.null(q$share_of)) share_words_of(q$share_of),
                            if (!is.null(s$kept)) paste0("top ", q$top, ", the rest gathered")))
}

crosstab_notes <- function(s) {
  q <- s$q
  named <- Reduce(`&`, lapply(s$long[c(q$rows, q$columns)], function(key) key != "(none)"))
  empty <- sum(s$long$lines[named] == 0)
  not_added <- Filter(function(m) !m$adds_up, q$metrics)
  rbind(
    note("empty", if (length(q$columns) && empty) paste0(
      count_text(empty), " of ", plural(sum(named), "cell"), if (empty == 1) " has" else " have",
      " no lines and ", if (empty == 1) "is" else "are",
      " left blank (-); a 0 is a sum of lines that is zero.")),
    note("totals", if (length(not_added)) paste0(
      capital(and_list(spoken(names(not_added)))), ": totals are folded again from the lines, not ",
      "added or averaged over the cells.")),
    note_reversal(s), question_notes(q))
}

# The row that leads overall against the leaders of the columns.
note_reversal <- function(s) {
  q <- s$q
  m <- q$first
  if (length(q$columns) != 1 || length(q$rows) != 1) return(new_notes())
  rows <- which(s$down$level == 1 & s$down[[1]] != "(none)")
  columns <- which(s$across$level == 1 & s$across[[1]] != "(none)")
  if (length(rows) < 2 || length(columns) < 3) return(new_notes())
  lead <- function(v) {
    if (all(is.na(v))) NA else if (m$better == "high") which.max(v) else which.min(v)
  }
  overall <- lead(s$values[[1]][rows, s$across$level == 0])
  each <- apply(s$values[[1]][rows, columns, drop = FALSE], 2, lead)
  led <- sum(each == overall, na.rm = TRUE)
  if (is.na(overall) || led > length(columns) / 2) return(new_notes())
  note("reversal", s$down[[1]][rows][overall], " leads overall by ", spoken(m$name),
       " but is first in only ", led, " of ", plural(length(columns), spoken(q$columns)), ".")
}

crosstab_proof <- function(s) {
  q <- s$q
  at <- list(s$down$level == 0, s$across$level == 0)
  whole <- lapply(s$values, function(v) v[at[[1]], at[[2]]])
  exact <- fold_at(s, 0, 0)$exact
  rbind(prove_question(q, s$lines, whole, exact),
        prove_parts(q$metrics, s$long[names(q$metrics)], whole, exact, "cells"),
        prove_shares(s))
}

# Unrounded shares of each row, each column or the whole add up to one.
prove_shares <- function(s) {
  of <- s$q$share_of
  if (is.null(of)) return(NULL)
  share <- crosstab_shares(s)
  rows <- s$down$level == length(s$q$rows) | s$down$level == -1
  columns <- s$across$level == length(s$q$columns)
  leaves <- share[rows, columns, drop = FALSE]
  sums <- switch(of, row = rowSums(share[rows, columns, drop = FALSE], na.rm = TRUE),
                 column = colSums(leaves, na.rm = TRUE), all = sum(leaves, na.rm = TRUE))
  whole <- switch(of, row = share[rows, s$across$level == 0],
                  column = share[s$down$level == 0, columns],
                  all = share[s$down$level == 0, s$across$level == 0])
  sums <- sums[!is.na(whole)]
  proof_line(paste0("unrounded shares of ", switch(of, row = "every row", column = "every column",
                                                   all = "the whole"), " add up to 1"),
             length(sums), sum(abs(sums - 1) < 1e-9))
}

# The lines of a row, and of each column by the head it stands under.
crosstab_behind <- function(s, heads) {
  q <- s$q
  columns <- lapply(heads, function(j) {
    out <- NULL
    for (field in q$columns) out <- and_also(out, name_condition(q, field, s$across[[field]][j],
                                                                 NULL))
    out
  })
  list(keys = stats::setNames(q$rows, q$rows), columns = columns,
       kept = stats::setNames(list(s$kept), q$rows[1]))
}
