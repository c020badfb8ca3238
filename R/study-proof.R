# The proof that studies share: lines accounted for, totals by a second route, the ledger's own.

# `plain` is what plain_lines() found on the raw columns.
prove_lines <- function(book, asked, counted, plain) {
  parts <- c("counted" = counted,
             if (!is.null(asked$only)) c("outside the conditions" = plain$outside_conditions),
             if (!is.null(asked$now)) c("outside the period" = plain$outside_period))
  proof_line(paste0("lines read = ", paste(names(parts), collapse = " + ")), book$lines, sum(parts))
}

# The study's total of each metric against plain base R over the raw lines.
prove_totals <- function(book, metrics, total, exact, plain) {
  do.call(rbind, lapply(names(metrics), function(name) {
    proof_line(paste0("total of ", name, " = the lines added up by a second route"),
               plain_metric(book$source, metrics[[name]]$tree, plain$keep), total[[name]],
               exact[[name]])
  }))
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

# The ledger's own figures are of the whole book.
prove_control <- function(book) {
  do.call(rbind, lapply(names(book$control), function(name) {
    metric <- book$metrics[[name]]
    found <- fold_metrics(book, character(), book$metrics[name], NULL)
    proof_line(paste0("ledger's ", name, " = the whole book's"), book$control[[name]],
               found$values[[name]][1], found$exact[[1]])
  }))
}
