# How much names change from one period to the next for reasons of their own.

drift_prior <- c(group = .03, item = .01)   # drift variances before any name is seen

# The drift variance t2 of names whose excesses e have the variances q + t2 m2: Huber's proposal 2
# (Huber 1964, Robust estimation of a location parameter), so that those that moved for a cause
# weigh little; each weighted by how much it tells of the drift, with a prior of three names.
huber_drift <- function(e, q, m2, prior) {
  weight <- 3
  ok <- m2 > 0 & q > 0
  if (sum(ok) < 5) return(prior)
  e2 <- e[ok]^2
  q <- q[ok]
  m2 <- m2[ok]
  t2 <- max(prior, 1e-300)
  for (step in 1:30) {
    w <- (t2 * m2 / (q + t2 * m2))^2
    seen <- pmin(e2 / (q + t2 * m2), 4) / huber_mean
    ratio <- (sum(w * seen) + weight) / (sum(w) + weight)
    t2 <- t2 * ratio
    if (abs(ratio - 1) < 1e-3) break
  }
  t2
}

# The mean of min(z^2, 4) for a standard normal z.
huber_mean <- stats::pchisq(4, 3) + 4 * stats::pchisq(4, 1, lower.tail = FALSE)

weighted_median <- function(x, w) {
  at <- order(x)
  x[at][which(cumsum(w[at]) >= sum(w) / 2)[1]]
}
