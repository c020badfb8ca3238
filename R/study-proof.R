# The proof that studies share: lines accounted for, totals by a second route, the ledger's own.

prove_lines <- function(book, asked, counted) {
  source <- book$source
  outside <- outside_counts(source, asked)
  parts <- c("counted" = counted, outside)
  proof_line(paste0("lines read = ", paste(names(parts), collapse = " + ")), book$lines, sum(parts))
}

# Lines outside the conditions and outside the period, counted on the raw columns.
outside_counts <- function(source, asked) {
  count <- function(tree) plain_total(source, node("aggregate", fn = "count"), tree)
  out <- numeric()
  if (!is.null(asked$only))
    out["outside the conditions"] <- count(node("logic", op = "!", args = list(asked$only)))
  if (!is.null(asked$now)) {
    # where_now is the conditions and the period; what is left of the conditions is outside it.
    period <- asked$period_now
    beyond <- node("logic", op = "!", args = list(period))
    out["outside the period"] <- count(and_also(asked$only, beyond))
  }
  out
}

# The study's total of each metric against plain base R over the raw lines.
prove_totals <- function(book, metrics, total, exact, where) {
  do.call(rbind, lapply(names(metrics), function(name) {
    proof_line(paste0("total of ", name, " = the lines added up by a second route"),
               plain_total(book$source, metrics[[name]]$tree, where), total[[name]], exact[[name]])
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
