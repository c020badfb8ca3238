# Where the last days of a series of daily counts hold far fewer lines than such days usually do.
#
# Every number of last days k is held against what the days before make of it: the mean of the same
# weekdays over the `late_basis` days before, and no more than the same days of the year before
# held,
# where the series reaches so far. Lines come in orders and orders in waves, so that counts vary
# more
# than by chance: their variance is phi times the mean, phi from the weeks before (a quasi-Poisson
# model: McCullagh and Nelder, Generalized Linear Models, 2nd ed. 1989, section 6.2.3). The k with
# the smallest chance is taken, where it is below late_chance and the days hold less than late_part
# of what was expected.

late_most <- 100      # last days looked at
late_basis <- 182     # days before them that tell what is usual
late_part <- .2
late_chance <- 1e-5

# `counts`: lines of each day, in order. Gives how
# many of the last days lack lines, 0 where none do.
late_days <- function(counts) {
  n <- length(counts)
  most <- min(late_most, n - 2 * 28)
  if (n < 3 * 28) return(0L)
  total <- rev(cumsum(rev(counts)))
  chance <- function(ks) vapply(ks, function(k) late_chance_of(counts, total, n, k), 0)
  # A coarse look first, at the days without any line too, then between the neighbours of the best.
  bare <- n - max(which(counts > 0), 0)
  coarse <- sort(unique(pmin(most, c(round(1.25^(0:21)), max(bare, 1)))))
  seen <- chance(coarse)
  if (min(seen) >= 0) return(0L)
  at <- which.min(seen)
  fine <- coarse[max(1, at - 1)]:coarse[min(length(coarse), at + 1)]
  seen <- chance(fine)
  if (min(seen) >= log(late_chance)) return(0L)
  best <- fine[which.min(seen)]
  # A day that has what such days have is not among those that lack lines.
  usual <- usual_of_days(counts, n, best)
  lacks <- which(counts[n - best + seq_len(best)] <= late_part * usual)
  best <- best - lacks[1] + 1
  # Days without a line before them are of the gap too.
  before <- which(rev(counts[seq_len(n - best)]) > 0)
  if (length(before)) as.integer(best + before[1] - 1) else n
}

# What each of the last k days usually holds: the mean of its weekday over the days before.
usual_of_days <- function(counts, n, k) {
  basis <- max(1, n - k - late_basis + 1):(n - k)
  of_weekday <- vapply(0:6, function(w) mean(counts[basis][basis %% 7 == w]), 0)
  of_weekday[(n - k + 1):n %% 7 + 1]
}

# The logarithm of the chance of so few lines on the last k days; 0 where they are no fewer.
late_chance_of <- function(counts, total, n, k) {
  seen <- total[n - k + 1]
  basis <- counts[max(1, n - k - late_basis + 1):(n - k)]
  # Most series are told to be in order by their mean alone.
  if (seen > 2.5 * late_part * k * mean(basis)) return(0)
  expected <- sum(usual_of_days(counts, n, k))
  ago <- (n - k + 1):n - 364
  if (ago[1] >= 1) expected <- min(expected, sum(counts[ago]))
  if (!is.finite(expected) || expected <= 0 || seen > late_part * expected) return(0)
  phi <- waves(basis)
  stats::ppois(floor(seen / phi), expected / phi, log.p = TRUE)
}

# How much more weekly counts vary than by chance, at least 1.
waves <- function(counts) {
  weeks <- length(counts) %/% 7
  if (weeks < 4) return(1)
  of_week <- colSums(matrix(counts[length(counts) - 7 * weeks + seq_len(7 * weeks)], 7))
  mean <- mean(of_week)
  if (mean > 0) max(1, stats::var(of_week) / mean) else 1
}
