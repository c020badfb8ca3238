# Values with how often each occurs: what millions of lines come down to before they are spread over
# bands. `value` rises, `times` are counts from 1 up.

# The distinct values of a scaled vector, and how often each occurs. Whole numbers of a short range
# are marked off, not sorted.
count_values <- function(x) {
  v <- if (anyNA(x$v)) x$v[!is.na(x$v)] else x$v
  if (!length(v)) return(list(value = numeric(), times = numeric()))
  ends <- as.double(range(v))
  if (is_exact(x) && diff(ends) <= 2e7) {
    times <- tabulate(v - ends[1] + 1, diff(ends) + 1)
    there <- which(times > 0)
    return(list(value = scaled_value(scaled(there + ends[1] - 1, x$decimals)),
                times = times[there]))
  }
  v <- sort(scaled_value(scaled(v, x$decimals)), method = "radix")
  first <- which(c(TRUE, v[-1] != v[-length(v)]))
  list(value = v[first], times = diff(c(first, length(v) + 1)))
}

# The same of whole numbers as integers, of the lines to keep (all for NULL), with how many of them
# are `missing`: no copy is made of a short range.
count_whole <- function(x, keep) {
  ends <- kernel_ends(x$v, keep)
  if (!ends[["known"]]) return(list(missing = ends[["missing"]], value = numeric(),
                                    times = numeric()))
  span <- ends[["most"]] - ends[["least"]] + 1
  if (span > 2e7) {
    if (!is.null(keep)) x <- take(x, which(keep))
    return(c(list(missing = ends[["missing"]]), count_values(x)))
  }
  times <- kernel_tally(x$v, keep, ends[["least"]], span)
  there <- which(times > 0)
  list(missing = ends[["missing"]],
       value = scaled_value(scaled(there + ends[["least"]] - 1, x$decimals)),
       times = times[there])
}

# The quantile of type 7 (Hyndman and Fan 1996), R's default.
counted_quantile <- function(value, times, p) {
  n <- sum(times)
  if (!n) return(rep(NA_real_, length(p)))
  upto <- cumsum(times)
  at <- (n - 1) * p
  low <- floor(at + 4 * .Machine$double.eps * at)
  part <- pmax(at - low, 0)
  part[part < 1e-12] <- 0
  nth <- function(rank) value[findInterval(pmin(rank, n) - 1, upto) + 1]
  a <- nth(low + 1)
  a + part * (nth(low + 2) - a)
}

counted_mean <- function(value, times) sum(value * times) / sum(times)

# Second and third central moments, over n.
counted_moment <- function(value, times, power) {
  sum(times * (value - counted_mean(value, times))^power) / sum(times)
}
