# Bridge, continued: the steps that its kinds share: their order, what is gathered, the table.

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
with_gathered <- function(named, label, change) {
  out <- data.frame(step = c(named$name, label), change = c(named$change, change))
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

# Columns of amounts then and now; `rows` has before, now, change.
change_table <- function(question, found, rows, first) {
  metric <- first_metric(question)$name
  out <- as.data.frame(first, optional = TRUE)
  out[[paste0(metric, "_before")]] <- rows$before
  out[[metric]] <- rows$now
  out[[paste0(metric, "_change")]] <- rows$change
  out[[paste0(metric, "_growth")]] <- growth_of(rows$now, rows$before)
  cbind(out, move_shares(found, rows$change))
}

change_columns <- function(metric) {
  new_columns(c(paste0(metric$name, "_before"), metric$name,
                paste0(metric$name, c("_change", "_growth")), "net_share", "gross_share"),
              c(metric$unit, metric$unit, change_unit(metric$unit), "percent", "percent",
                "percent"),
              digits = c(NA, NA, NA, NA, 1, 1))
}

# Each change as a part of the net change, withheld where gains and losses cancel, and of the gross
# movement.
move_shares <- function(found, change) {
  moves <- found$moves
  part <- function(of) if (of != 0) change / of else rep(NA_real_, length(change))
  data.frame(net_share = if (moves$cancel) rep(NA_real_, length(change)) else part(moves$net),
             gross_share = part(moves$gross) * sign(change))
}
