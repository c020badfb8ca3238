# Ranks. The rules for ties carry their names in statistics:
#
#   shared   tied names share the best rank, the next rank counts them: 1 2 2 4 (standard
#            competition ranking, R's "min")
#   dense    tied names share, the next rank follows on: 1 2 2 3
#   average  tied names get the mean of their ranks: 1 2.5 2.5 4 (fractional ranking)
#   broken   further columns, then the name, decide: 1 2 3 4
#
# Missing values have no rank.

# Where runs of equal values begin among sorted ones. Exact values must be the same; others may
# differ by a relative tolerance.
run_starts <- function(sorted, exact, tolerance = 1e-9) {
  n <- length(sorted)
  if (n < 2) return(rep(TRUE, n))
  a <- sorted[-1]
  b <- sorted[-n]
  if (exact && !anyNA(sorted)) return(c(TRUE, a != b))
  gap <- abs(a - b)
  limit <- if (exact) 0 else tolerance * pmax(abs(a), abs(b))
  # Equal infinities leave a gap that is no number.
  apart <- is.na(gap) & a != b | !is.na(gap) & gap > limit
  c(TRUE, apart)
}

# The order of names: by value (best first), then each of `further`, then the order given, which
# the caller makes the order of names. Missing values come last.
best_order <- function(value, higher = TRUE, further = list()) {
  # Sorting by radix keeps the order given among equals.
  if (!length(further))
    return(order(value, decreasing = higher, na.last = TRUE, method = "radix"))
  keys <- c(list(if (higher) -value else value), further)
  do.call(order, c(keys, list(seq_along(value)), na.last = TRUE, method = "radix"))
}

# Values with their ties made exactly equal, so that further keys decide among tied ones.
settle_ties <- function(value, exact) {
  if (exact || length(value) < 2) return(value)
  at <- order(value, na.last = NA, method = "radix")
  start <- run_starts(value[at], exact)
  value[at] <- value[at][start][cumsum(start)]
  value
}

ranks <- function(value, higher = TRUE, ties = "shared", exact = TRUE, further = list()) {
  value <- settle_ties(value, exact)
  at <- best_order(value, higher, further)
  if (anyNA(value)) at <- at[!is.na(value[at])]
  if (ties == "shared") return(kernel_shared_ranks(value, at))
  out <- rep(NA_real_, length(value))
  if (!length(at)) return(out)
  out[at] <- switch(ties, broken = seq_along(at), run_ranks(run_starts(value[at], TRUE), ties))
  out
}

# Ranks in order, from where runs of ties start.
run_ranks <- function(start, ties) {
  run <- cumsum(start)
  first <- which(start)
  # Without ties all rules agree.
  if (length(first) == length(start)) return(as.numeric(first))
  switch(ties, shared = as.numeric(first[run]), dense = as.numeric(run), average = {
    size <- diff(c(first, length(start) + 1L))
    (first + (size - 1) / 2)[run]
  })
}

# Shared ranks of values that stand best first, none missing.
sorted_ranks <- function(sorted, exact) {
  if (length(sorted)) run_ranks(run_starts(sorted, exact), "shared") else numeric()
}

# Some rows (all if not given) by their group. Where there is one group, which is common, names are
# not to be sorted to find that out.
rows_by_group <- function(group, rows = NULL) {
  if (!is.null(rows)) group <- group[rows] else rows <- seq_along(group)
  if (length(group) && isTRUE(all(group == group[1]))) list(rows) else split(rows, group)
}

# Within groups: each group ranked on its own.
ranks_within <- function(value, group, ...) {
  by_group <- rows_by_group(group)
  if (length(by_group) == 1) return(ranks(value, ...))
  out <- rep(NA_real_, length(value))
  further <- list(...)$further
  for (rows in by_group) {
    mine <- list(...)
    mine$further <- lapply(further, function(key) key[rows])
    out[rows] <- do.call(ranks, c(list(value[rows]), mine))
  }
  out
}
