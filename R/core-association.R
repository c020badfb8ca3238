# Association: how much of a value's variation goes with each of several fields.
#
# The share explained by names is eta squared, the sum of squares between them over the whole.
# Adjusted for their number it is epsilon squared, 1 - (1 - eta^2) (n - 1) / (n - k), which is 0 on
# average when nothing goes with nothing (Kelley, T. L. (1935) An unbiased correlation ratio
# measure, PNAS 21, 554-559, doi:10.1073/pnas.21.9.554): the adjusted R squared of a regression on
# the names.

# Codes from 0 without gaps, missing ones left: list(codes, size).
pack_codes <- function(codes) {
  used <- sort(unique(codes))
  list(codes = match(codes, used) - 1L, size = length(used))
}

# Share explained by one field: raw, and adjusted for its number of names.
explained_share <- function(value, field) {
  n <- length(value)
  means <- mean_by(value, field)
  raw <- sum(field_counts(field) * (means - mean(value))^2) / spread_of(value)
  list(raw = raw, adjusted = adjust_share(raw, n, field$size))
}

adjust_share <- function(raw, n, rank) {
  if (n <= rank) return(NA_real_)
  1 - (1 - raw) * (n - 1) / (n - rank)
}

spread_of <- function(value) sum((value - mean(value))^2)

field_counts <- function(field) tabulate(field$codes + 1L, field$size)

# For each value the mean of its name.
fitted_means <- function(value, field) mean_by(value, field)[field$codes + 1L]

mean_by <- function(value, field) {
  kernel_sum(as.double(value), FALSE, field$codes, field$size, NULL)$sum / field_counts(field)
}

# The sum of squares left within the names of a field, straight from the lines: the second route to
# the share explained.
left_within <- function(value, field) sum((value - fitted_means(value, field))^2)

# What a field still explains once another is taken into account: the fall in the residual variance
# when the field joins the other, each residual by its own degrees of freedom (the adjusted partial
# R squared). Additive: names of one do not change the effect of names of the other.
# `alike` is how many times more than independent values chance gives the field: lines of one order
# count for less than as many orders.
share_beyond <- function(value, field, other, alike = 1) {
  cells <- pair_cells(value, field, other)
  n <- length(value)
  rank <- field$size + other$size - pieces(cells$a, cells$b, field$size, other$size)
  if (n <= rank || n <= other$size) return(NA_real_)
  within <- left_within(value, other)
  if (within <= 0) return(NA_real_)
  # What varies within cells no additive model explains; between cells it is fitted.
  inside <- sum(value^2) - sum(cells$n * cells$mean^2)
  both <- max(inside, 0) + additive_residual(cells, field$size, other$size)
  expected <- min(alike * (rank - other$size) / (n - other$size), 1)
  if (expected >= 1) return(NA_real_)
  (1 - both / within - expected) / (1 - expected)
}

# Each pair of names that occurs: codes a and b, lines n, mean of the (centred) values.
pair_cells <- function(value, field, other) {
  pairs <- kernel_combine(field$codes, field$size, other$codes, other$size - 1L, NULL)
  size <- length(pairs$code)
  n <- tabulate(pairs$group + 1L, size)
  sums <- kernel_sum(as.double(value), FALSE, pairs$group, size, NULL)$sum
  list(a = pairs$parent, b = pairs$code, n = n, mean = sums / n)
}

# Between-cell sum of squares that an additive fit leaves: effects of one field and of the other in
# turn until they settle (alternating projections; Guimaraes and Portugal 2010, Stata Journal 10,
# 628-649, doi:10.1177/1536867X1101000406).
additive_residual <- function(cells, size_a, size_b, rounds = 500, tolerance = 1e-10) {
  residual <- cells$mean
  weight <- cells$n
  whole <- sum(weight * cells$mean^2)
  if (whole == 0) return(0)
  take_off <- function(residual, code, size) {
    total <- kernel_sum(weight * residual, FALSE, code, size, NULL)$sum
    count <- kernel_sum(as.double(weight), FALSE, code, size, NULL)$sum
    effect <- ifelse(count > 0, total / count, 0)
    residual - effect[code + 1L]
  }
  before <- whole
  for (round in seq_len(rounds)) {
    residual <- take_off(take_off(residual, cells$b, size_b), cells$a, size_a)
    now <- sum(weight * residual^2)
    if (before - now <= tolerance * whole) break
    before <- now
  }
  now
}

# How many pieces the names of two fields fall into when names that occur together are tied: each
# piece costs one degree of freedom less.
pieces <- function(a, b, size_a, size_b) {
  label <- seq_len(size_a)
  repeat {
    lowest_b <- kernel_extreme(as.double(label[a + 1L]), FALSE, b, size_b, NULL)$value
    lowest_a <- kernel_extreme(lowest_b[b + 1L], FALSE, a, size_a, NULL)$value
    lowest_a[is.na(lowest_a)] <- label[is.na(lowest_a)]
    if (all(lowest_a == label)) break
    label <- lowest_a
  }
  length(unique(label))
}

# Whether every name of the first field goes with one name of the other only.
is_part_of <- function(field, other) {
  pairs <- kernel_combine(field$codes, field$size, other$codes, other$size - 1L, NULL)
  length(pairs$code) == field$size
}

# Numbers as names: stretches of equal counts, ties kept together; at most `most`. Missing ones stay
# missing.
bands_of_numbers <- function(x, most = 20) {
  known <- !is.na(x)
  distinct <- sort(unique(x[known]))
  if (length(distinct) > most)
    distinct <- unique(stats::quantile(x[known], seq(0, 1, length.out = most + 1)[-(most + 1)],
                                       names = FALSE, type = 1))
  codes <- rep(NA_integer_, length(x))
  codes[known] <- findInterval(x[known], distinct)
  pack_codes(codes)
}

# Spearman's rank correlation, over lines where both are known.
rank_correlation <- function(a, b) {
  known <- !is.na(a) & !is.na(b)
  if (sum(known) < 3) return(NA_real_)
  a <- rank(a[known])
  b <- rank(b[known])
  if (stats::sd(a) == 0 || stats::sd(b) == 0) return(NA_real_)
  stats::cor(a, b)
}
