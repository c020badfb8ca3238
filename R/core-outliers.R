# Outliers: values so far from the rest that one asks whether they were mistyped.
#
# A value is an outlier only where it is so on the plain scale and on that of logarithms: on the
# plain scale alone every long tail is full of outliers, on the other alone every narrow spread.
# Both count in widths of the middle half, as Tukey's fences do (Tukey, J. W. (1977) Exploratory
# Data Analysis, Addison-Wesley, chapter 2), and further out: 20 widths plain, 3 of logarithms,
# which is 4.7 standard deviations of a log-normal value, one in a million.
#
# A middle half without a width says nothing, as with units of which most are 1: then the middle
# 80, 90, 95 or 98 % serve, the narrowest that has one, with as many widths as reach equally far
# in a normal distribution; and where 98 % have one value, that value.

outlier_spans <- c(.5, .8, .9, .95, .98)
plain_widths <- 20
log_widths <- 3

# c(low, high): what lies below or above is an outlier. `value` rises, each occurs `times` times.
outlier_fences <- function(value, times) {
  size <- sort(unique(abs(value[value != 0])))
  if (!length(size)) return(c(-Inf, Inf))
  plain <- span_fences(value, times, plain_widths,
                       function(one) if (one == 0) size[1] else abs(one))
  often <- as.vector(rowsum(times[value != 0], match(abs(value[value != 0]), size)))
  large <- exp(span_fences(log(size), often, log_widths, function(one) log(2)))
  c(if (plain[1] < 0) min(plain[1], -large[2]) else min(plain[1], large[1]),
    if (plain[2] > 0) max(plain[2], large[2]) else max(plain[2], -large[1]))
}

# Fences `widths` widths beyond the middle half; `alone` gives a width where nearly all have one
# value.
span_fences <- function(value, times, widths, alone) {
  # How far they lie from the middle, in standard deviations of a normal distribution.
  reach <- stats::qnorm(.75) * (1 + 2 * widths)
  for (span in outlier_spans) {
    ends <- counted_quantile(value, times, .5 + c(-1, 1) * span / 2)
    width <- ends[2] - ends[1]
    if (width > 0) {
      z <- stats::qnorm(.5 + span / 2)
      return(ends + c(-1, 1) * width * (reach - z) / (2 * z))
    }
  }
  ends + c(-1, 1) * widths * alone(ends[1])
}
