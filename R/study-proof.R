# The proof that studies share: lines accounted for, totals by a second route, the ledger's own.

# `plain` is what second_lines() found on the raw columns. Rows excluded on opening count as read.
prove_lines <- function(book, asked, counted, plain) {
  aside <- plain$exclude + book$removed
  parts <- c("counted" = counted,
             if (!is.null(asked$only)) c("outside the conditions" = plain$outside_conditions),
             if (!is.null(asked$now)) c("outside the period" = plain$outside_period),
             if (!is.null(book$aside) || book$removed > 0) c("excluded" = aside))
  rbind(proof_line(paste0("lines read = ", paste(names(parts), collapse = " + ")),
                   book$lines + book$removed, sum(parts)), prove_opening(book))
}

# The file's own count of lines, and every fix that has a control.
prove_opening <- function(book) {
  checked <- book$fixes[!is.null(book$fixes) & !is.na(book$fixes$expected), , drop = FALSE]
  rbind(if (!is.null(book$records))
          proof_line("lines in the file = lines read", book$records, book$lines + book$removed),
        if (NROW(checked)) do.call(rbind, lapply(seq_len(nrow(checked)), function(i) {
          held <- paste0("cells of ", checked$field[i], " that hold something = ")
          text <- switch(checked$kind[i], numbers = paste0(held, "numbers read"),
                         dates = paste0(held, "dates read"),
                         unpivot = "unpivoted cells = lines + blank cells", checked$text[i])
          proof_line(text, checked$expected[i], checked$found[i])
        })))
}

# Names on the lines against the registers in use, and the rows of those registers.
prove_registers <- function(book, used) {
  do.call(rbind, lapply(registers_used(book, used), function(dimension) {
    match <- register_match(book, dimension)
    rbind(proof_line(paste0("names of ", dimension, " on the lines = in the register + ",
                            count_text(length(match$unknown)), " not in it"),
                     length(match$seen),
                     sum(match$seen %in% book$registers[[dimension]]$names) +
                       length(match$unknown)),
          proof_line(paste0("rows of the register of ", dimension, " = names",
                            if (match$twice) " + repeated", if (match$blank) " + blank"),
                     match$rows, length(book$registers[[dimension]]$names) + match$twice +
                       match$blank))
  }))
}

# The study's total of each metric against plain base R over the raw lines.
prove_totals <- function(book, metrics, total, exact, plain, plain_before = NULL) {
  again <- second_metrics(book$source, lapply(metrics, `[[`, "tree"), plain$keep,
                          plain_before$keep)
  do.call(rbind, lapply(names(metrics), function(name) {
    text <- paste0("total of ", name, " = the lines added up by a second route")
    line <- proof_line(text, again[[name]], total[[name]], exact[[name]])
    slack <- if (!line$holds && is.finite(line$expected) && is.finite(line$found))
      rounding_bound(book, metrics[[name]]$tree, plain$keep)
    if (is.null(slack) || abs(line$expected - line$found) > slack) return(line)
    proof_line(paste0(text, ", as near as figures of such size are added"), again[[name]],
               total[[name]], holds = TRUE)
  }))
}

# How far two ways of adding floating numbers may lie apart, n x eps x the sum of their sizes (N.
# Higham, Accuracy and Stability of Numerical Algorithms, 2002, section 4.2), for sums and their sums
# and differences; NULL for other metrics. Amounts that cancel are small in the end, not on the way.
rounding_bound <- function(book, tree, keep) {
  if (tree$kind == "op" && tree$op %in% c("+", "-")) {
    each <- lapply(tree$args, rounding_bound, book = book, keep = keep)
    return(if (!any(vapply(each, is.null, NA))) sum(unlist(each)))
  }
  if (tree$kind == "number") return(0)
  if (tree$kind != "aggregate" || tree$fn != "sum" || is.null(tree$arg) || tree$arg$kind == "per")
    return(NULL)
  tree$arg <- node("op", op = "abs", args = list(tree$arg))
  book$lines * .Machine$double.eps * second_metric(book$source, tree, keep)
}

# The parts against the whole: equal where the metric adds up; for distinct counts the overlap is
# given, and the parts can only be more.
prove_parts <- function(metrics, parts, total, exact, what) {
  do.call(rbind, lapply(names(metrics), function(name) {
    metric <- metrics[[name]]
    values <- parts[[name]]
    added <- sum(values, na.rm = TRUE)
    whole <- total[[name]]
    if (metric$adds_up)
      return(proof_line(paste0(what, " of ", name, " add up to the total"),
                        if (is.na(whole)) 0 else whole, added, exact[[name]]))
    if (metric$distinct)
      return(proof_line(paste0(what, " of ", name, " overlap by ", count_text(added - whole),
                               " (distinct counts do not add up)"), whole, added,
                        holds = added >= whole))
  }))
}

# Periods against the whole of all lines, those without a date among them.
prove_periods <- function(question, metrics, parts, total, exact, what) {
  asked <- question$asked
  undated <- if (is.null(asked$now)) undated_lines(question, metrics, asked$where_now)
  if (!isTRUE(undated$lines > 0)) return(prove_parts(metrics, parts, total, exact, what))
  parts <- Map(c, parts[names(metrics)], undated$values[names(metrics)])
  prove_parts(metrics, parts, total, exact, paste(what, "and lines without a date"))
}

# The ledger's own figures are of the whole book, or of all its lines in a period.
prove_control <- function(book) {
  do.call(rbind, lapply(book$control, function(one) {
    found <- fold_metrics(book, character(), book$metrics[one$metric],
                          and_also(kept_lines(book), in_period(book, one$period)))
    of <- if (is.null(one$period)) "the whole book's" else paste("the book's in", one$period$text)
    control_line(paste0("ledger's ", one$metric, " = ", of), one$value,
                 found$values[[one$metric]][1], found$exact[[1]])
  }))
}

# Lines accounted for, totals by the second route, registers, the ledger.
prove_question <- function(question, counted, whole, exact, plain = raw_lines(question)) {
  # Only a metric that compares the periods itself needs the other one's lines.
  compares <- any(vapply(question$metrics, function(m) m$against, NA))
  plain_before <- if (compares) raw_lines(question, question$asked$period_before)
  rbind(prove_lines(question$book, question$asked, counted, plain),
        prove_totals(question$book, question$metrics, whole, exact, plain, plain_before),
        prove_registers(question$book, names_used(question)), prove_control(question$book))
}
