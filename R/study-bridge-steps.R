# Bridge, continued: the steps that its kinds share: their order and what is gathered.

# Names of several rows would count twice where they overlap; then they are no steps.
refuse_overlap <- function(question, parts, whole, what = first_metric(question)$name) {
  if (isTRUE(all.equal(sum(parts, na.rm = TRUE), whole, tolerance = 1e-9))) return(invisible())
  ll_abort(c(paste0(capital(spoken(what)), " does not add up over ", spoken(question$args$by),
                    ": the same names are counted in several of them."),
             x = paste0("Counted apart they make ", format_number(sum(parts, na.rm = TRUE)),
                        ", together ", format_number(whole), "."),
             i = "Take a dimension of which each has one, or into = \"factors\"."), "argument")
}

# Gains largest first, then losses largest first; names decide ties.
step_order <- function(change, name) {
  by_name <- order(name, method = "radix")
  gain <- change[by_name] >= 0
  by_name[order(!gain, -abs(change[by_name]))]
}

# Which of the rows have a step of their own: the largest by size. One alone is not gathered.
top_steps <- function(change, top) {
  n <- length(change)
  if (n <= top + 1) return(seq_len(n))
  sort(order(-abs(change))[seq_len(top)])
}

# Steps in their order, gains before losses, what is gathered last on either side.
with_gathered <- function(named, gathered) {
  out <- data.frame(step = c(named$name, gathered$name), change = c(named$change, gathered$change))
  out[order(out$change < 0, seq_len(nrow(out))), ]
}

# Both periods by name, of a metric that adds up over the names.
added_names <- function(question) {
  metric <- first_metric(question)
  fold <- both_periods(question, question$args$by, stats::setNames(list(metric$tree), metric$name))
  if (!metric$adds_up) {
    refuse_overlap(question, fold$now[[1]], fold$total_now[[1]])
    refuse_overlap(question, fold$before[[1]], fold$total_before[[1]])
  }
  fold
}
