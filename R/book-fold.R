# Metrics of a book by dimensions: one fold of their parts, put together to values.

# One fold for several metrics: names of the keys, values and line counts as a data frame, with
# `exact` telling which metrics are exact decimals. `before` is the condition of the other period,
# for change() and growth(); `shown` the lines over which bands of what is shown are measured.
# Names with lines in the other period only are rows too when a metric compares the two.
fold_metrics <- function(book, keys, metrics, where, extra = list(), before = NULL,
                         shown = where, totals = list()) {
  trees <- c(lapply(metrics, `[[`, "tree"), extra)
  parts <- parts_of(trees)
  keys <- key_trees(book, keys, shown)
  now <- source_fold(book$source, keys, parts, where, totals)
  if (is.null(before) || !any(vapply(trees, needs_against, TRUE))) {
    out <- folded_values(trees, now, NULL)
    out$totals <- lapply(now$totals, function(total) folded_values(trees, total, NULL))
    return(out)
  }
  was <- source_fold(book$source, keys, parts, before, totals)
  both <- function(a, b) {
    joined <- join_folds(a, b)
    folded_values(trees, joined$now, joined$before)
  }
  out <- both(now, was)
  out$totals <- Map(both, now$totals, was$totals)
  out
}

folded_values <- function(trees, fold, before) {
  values <- lapply(trees, metric_value, parts = fold$parts, before = before)
  rows <- length(fold$lines)
  frame <- as.data.frame(lapply(values, function(v) rep_len(scaled_value(v), rows)),
                         optional = TRUE)
  for (i in seq_along(trees)) refuse_overflow(trees[[i]], frame[[i]])
  names(frame) <- names(trees)
  list(keys = fold$keys, values = frame, lines = fold$lines,
       exact = vapply(values, is_exact, TRUE), rows = rows, parts = fold$parts, before = before)
}

# Beyond what a double holds there is no number.
refuse_overflow <- function(tree, value) {
  if (any(is.infinite(value)))
    ll_abort(c(paste0("The metric ", quoted(fit_text(one_line(tree_text(tree)), 80)),
                      " grows beyond the largest number there is (1.8e308)."),
               i = "Look for mistyped amounts, or divide them: sum(net / 1000)."), "data")
}

# Two folds over the same keys, each with a row for every name of either.
join_folds <- function(now, before) {
  if (!length(now$keys)) return(list(now = now, before = before$parts))
  at <- match_keys(before$keys, now$keys)
  new <- which(is.na(at))
  n <- length(now$lines)
  at[new] <- n + seq_along(new)
  back <- match(seq_len(n + length(new)), at)
  keys <- Map(function(a, b) c(a, b[new]), now$keys, before$keys)
  ahead <- c(seq_len(n), rep(NA, length(new)))
  list(now = list(keys = keys, lines = c(now$lines, numeric(length(new))),
                  parts = lapply(now$parts, spread_part, ahead)),
       before = lapply(before$parts, spread_part, back))
}
