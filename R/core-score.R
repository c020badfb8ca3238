# Composite scores: metrics put on one scale, weighted and added (or multiplied), and how far ranks
# depend on the weights.
#
# Scalings, each so that more is better (`low` turns a metric of which less is better):
#   rank   (n - rank + 1/2) / n with averaged ranks: Hazen's plotting position, 0 to 1
#   range  (x - lowest) / (highest - lowest): 0 to 1
#   z      (x - mean) / sd, the sample's
#   best   x / highest; where less is better lowest / x
#   goal   x / goal, at most `cap`; where less is better goal / x
# Where all values are equal rank and range give 1/2, z gives 0, best gives 1.

scale_metric <- function(x, scaling, low = FALSE, goal = NULL, cap = Inf, exact = FALSE) {
  known <- x[!is.na(x)]
  if (!length(known)) return(x)
  turn <- if (low) -1 else 1
  switch(scaling,
         rank = (length(known) - ranks(x, !low, "average", exact) + .5) / length(known),
         range = if (max(known) > min(known))
           (turn * x - min(turn * known)) / (max(known) - min(known)) else 0 * x + .5,
         z = if (length(known) > 1 && stats::sd(known) > 0)
           turn * (x - mean(known)) / stats::sd(known) else 0 * x,
         best = if (low) to_lowest(x, min(known)) else x / max(known),
         goal = pmin(if (low) to_lowest(x, goal) else x / goal, cap))
}

# Zero is as low as it gets: it reaches any line.
to_lowest <- function(x, line) {
  ifelse(x <= 0, if (line <= 0) 1 else Inf, if (line <= 0) 0 else line / x)
}

# Values beyond two quantiles (type 7) are put on them. list(x, clipped)
clip_outliers <- function(x, shares) {
  ends <- stats::quantile(x, shares, na.rm = TRUE, names = FALSE)
  list(x = pmin(pmax(x, ends[1]), ends[2]), clipped = sum(x < ends[1] | x > ends[2], na.rm = TRUE))
}

# Weighted sum of the columns; where some are missing the other weights are raised.
weighted_score <- function(scaled, weights) {
  known <- !is.na(scaled)
  part <- known %*% weights
  scaled[!known] <- 0
  out <- drop(scaled %*% weights) / drop(part)
  # Weights that stand for themselves need no division, which would leave dust.
  whole <- rowSums(known) == ncol(known)
  out[whole] <- drop(scaled[whole, , drop = FALSE] %*% weights)
  out[drop(part) <= 0] <- NA
  out
}

# exp of the weighted mean of logarithms; a part of zero makes the whole zero.
geometric_score <- function(scaled, weights) {
  # Nothing to the power of no weight is no concern of the product.
  used <- weights > 0
  exp(weighted_score(log(pmax(scaled[, used, drop = FALSE], 0)), weights[used]))
}

# The rank that each name would have without each metric: a column for each.
ranks_without <- function(scaled, weights, combine) {
  out <- vapply(seq_along(weights), function(j) {
    rest <- weights[-j]
    if (sum(rest) <= 0) return(rep(NA_real_, nrow(scaled)))
    ranks(combine(scaled[, -j, drop = FALSE], rest / sum(rest)), exact = FALSE)
  }, numeric(nrow(scaled)))
  matrix(out, nrow(scaled), dimnames = list(NULL, colnames(scaled)))
}

# Rank correlations (Spearman) of all pairs of columns over the rows that have both.
rank_correlations <- function(scaled) {
  m <- seq_len(ncol(scaled))
  pairs <- rbind(rep(m, rev(m) - 1), unlist(lapply(m[-1], seq, to = ncol(scaled))))
  r <- apply(pairs, 2, function(p) {
    both <- !is.na(scaled[, p[1]]) & !is.na(scaled[, p[2]])
    x <- rank(scaled[both, p[1]])
    y <- rank(scaled[both, p[2]])
    if (sum(both) < 3 || stats::sd(x) == 0 || stats::sd(y) == 0) NA_real_ else stats::cor(x, y)
  })
  data.frame(metric = colnames(scaled)[pairs[1, ]], with = colnames(scaled)[pairs[2, ]],
             correlation = r)
}
