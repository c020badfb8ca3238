# Change and growth between two values.

# Growth as a share of the value before. Missing where that was zero, negative or missing: a
# percentage of nothing, or of a loss, tells nothing.
growth_of <- function(now, before) {
  ok <- !is.na(before) & before > 0
  ifelse(ok, (now - before) / before, NA_real_)
}
