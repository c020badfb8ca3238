# The Pareto cut: who holds the first so many percent, and how concentrated the whole is.

# Values must fall, none missing. For each cut how many of the first values are inside it. `of` is
# what the cut is a share of: "total" (of the positive values) or "names". Tied ones stay together.
# `crossing` says whether the one that crosses the cut is in, out, or whichever leaves the share
# nearer to it.
inside_counts <- function(value, cuts, of = "total", crossing = "in", exact = TRUE) {
  n <- length(value)
  most <- if (of == "names") n else sum(value > 0)
  if (!most) return(rep(0L, length(cuts)))
  upto <- if (of == "names") seq_len(n) / n else running_share(value)
  starts <- if (!exact) which(run_starts(value, exact))
  # A share is a quotient: equal within the tolerance of quotients.
  slack <- 1e-9
  vapply(cuts, function(cut) {
    within <- findInterval(cut + slack, upto)
    if (within >= most) return(most)
    # The next one crosses the cut, and those tied with it.
    tied <- run_around(value, within + 1, starts)
    before <- if (tied[1] > 1) upto[tied[1] - 1] else 0
    takes <- before < cut - slack &&
      switch(crossing, `in` = TRUE, out = FALSE, nearest = upto[tied[2]] - cut <= cut - before)
    if (takes) tied[2] else tied[1] - 1L
  }, 0L)
}

# First and last of the run of tied values around one, among sorted ones; `starts` is where runs
# start, NULL where only the same values tie.
run_around <- function(sorted, at, starts) {
  if (is.null(starts)) return(range(which(sorted == sorted[at])))
  run <- findInterval(at, starts)
  c(starts[run], c(starts, length(sorted) + 1L)[run + 1] - 1L)
}

# Of values that are not negative: the Gini coefficient (the mean difference over twice the mean, as
# sum((2 i - n - 1) x_i) / (n sum(x)) for rising x, without a correction for few values; Gini 1912),
# the Herfindahl index (the sum of squared shares), its reciprocal (the number of equal names that
# would be as concentrated), and how many of the largest bring half.
concentration <- function(value) {
  value <- sort(value, method = "radix")
  n <- length(value)
  total <- sum(value)
  if (!n || total <= 0 || value[1] < 0)
    return(c(gini = NA, herfindahl = NA, effective_names = NA, names_to_half = NA))
  share <- value / total
  c(gini = sum((2 * seq_len(n) - n - 1) * share) / n, herfindahl = sum(share^2),
    effective_names = 1 / sum(share^2), names_to_half = names_to_half(rev(value)))
}

names_to_half <- function(falling) {
  above <- falling[falling > 0]
  which(cumsum(above) >= (.5 - 1e-9) * sum(above))[1]
}
