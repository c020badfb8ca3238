# The Pareto cut: who holds the first so many percent, and how concentrated the whole is.

# Values must fall, none missing. For each cut whether each value is inside it. `of` is what the cut
# is a share of: "total" (of the positive values) or "names". Tied values stay together. `crossing`
# says whether the one that crosses the cut is in, out, or whichever leaves the share nearer to it.
inside_cuts <- function(value, cuts, of = "total", crossing = "in", exact = TRUE) {
  n <- length(value)
  if (!n) return(matrix(NA, 0, length(cuts)))
  run <- tie_runs(value, exact)
  last <- cumsum(tabulate(run))
  upto <- if (of == "names") last / n else running(value)$share[last]
  before <- c(0, upto[-length(upto)])
  # A share is a quotient: equal within the tolerance of quotients.
  slack <- 1e-9
  inside <- vapply(cuts, function(cut) {
    whole <- upto <= cut + slack
    crosses <- before < cut - slack & !whole
    whole | crosses & switch(crossing, `in` = TRUE, out = FALSE,
                             nearest = upto - cut <= cut - before)
  }, logical(length(upto)))
  inside <- matrix(inside, ncol = length(cuts))
  if (of == "total") inside <- inside & value[last] > 0
  inside[run, , drop = FALSE]
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
