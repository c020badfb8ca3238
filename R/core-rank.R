# Places. The rules for ties carry their names in statistics:
#
#   shared   tied names share the best place, the next place counts them: 1 2 2 4 (standard
#            competition ranking, R's "min")
#   dense    tied names share, the next place follows on: 1 2 2 3
#   average  tied names get the mean of their places: 1 2.5 2.5 4 (fractional ranking)
#   broken   further columns, then the name, decide: 1 2 3 4
#
# Missing values have no place.

# Runs of equal values among sorted ones: the number of the run. Exact values must be the same;
# others may differ by a relative tolerance.
tie_runs <- function(sorted, exact, tolerance = 1e-9) {
  n <- length(sorted)
  if (n < 2) return(seq_len(n))
  if (exact && !anyNA(sorted)) return(cumsum(c(TRUE, sorted[-1] != sorted[-n])))
  gap <- abs(sorted[-1] - sorted[-n])
  limit <- if (exact) 0 else tolerance * pmax(abs(sorted[-1]), abs(sorted[-n]))
  # Equal infinities leave a gap that is no number.
  apart <- is.na(gap) & sorted[-1] != sorted[-n] | !is.na(gap) & gap > limit
  cumsum(c(TRUE, apart))
}

# The order of names: by value (best first), then each of `further`, then the order given, which
# the caller makes the order of names. Missing values come last.
best_order <- function(value, higher = TRUE, further = list()) {
  keys <- c(list(if (higher) -value else value), further)
  do.call(order, c(keys, list(seq_along(value)), na.last = TRUE, method = "radix"))
}

# Values with their ties made exactly equal, so that further keys decide among tied ones.
settle_ties <- function(value, exact) {
  if (exact || length(value) < 2) return(value)
  at <- order(value, na.last = NA)
  run <- tie_runs(value[at], exact)
  value[at] <- value[at][match(run, run)]
  value
}

places <- function(value, higher = TRUE, ties = "shared", exact = TRUE, further = list()) {
  out <- rep(NA_real_, length(value))
  value <- settle_ties(value, exact)
  at <- best_order(value, higher, further)
  at <- at[!is.na(value[at])]
  if (!length(at)) return(out)
  run <- tie_runs(value[at], TRUE)
  first <- match(run, run)
  size <- tabulate(run)[run]
  out[at] <- switch(ties, shared = first, dense = run, average = first + (size - 1) / 2,
                    broken = seq_along(at))
  out
}

# Shared places of values that stand best first, none missing.
sorted_places <- function(sorted, exact) {
  run <- tie_runs(sorted, exact)
  if (!length(run)) return(numeric())
  as.numeric(which(c(TRUE, run[-1] != run[-length(run)]))[run])
}

# Within groups: each group placed on its own.
places_within <- function(value, group, ...) {
  if (all(group == group[1])) return(places(value, ...))
  out <- rep(NA_real_, length(value))
  further <- list(...)$further
  for (rows in split(seq_along(value), group)) {
    mine <- list(...)
    mine$further <- lapply(further, function(key) key[rows])
    out[rows] <- do.call(places, c(list(value[rows]), mine))
  }
  out
}
