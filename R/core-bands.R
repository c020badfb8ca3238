# Bands: values sorted into named stretches by their lower bounds, bounds included. What is below
# the first bound has a name too: labels are one more than bounds, the first for what is below.

# A coded column of the band of each value; levels are the bands that occur, in their order.
code_bands <- function(x, bounds, labels) {
  value <- scaled_value(x)
  # Bounds are decimals as typed; exact values are compared as whole numbers.
  at <- if (is_exact(x)) findInterval(x$v, whole_limits(bounds, x$decimals)) else
    findInterval(value + abs(value) * 1e-9, bounds)
  at[is.na(value)] <- NA
  present <- sort(unique(at[!is.na(at)]))
  codes <- match(at, present)
  codes[is.na(codes)] <- 0L
  list(codes = codes, levels = labels[present + 1L])
}

# How many bounds each value has reached. On a bound is within the tolerance of the value's kind.
tier_number <- function(value, bounds, exact, on_bound_is_in = TRUE) {
  slack <- if (exact) 5e-8 else 1e-9 * abs(value)
  if (on_bound_is_in) findInterval(value + slack, bounds) else
    findInterval(value - slack, bounds, left.open = TRUE)
}

near_bound <- .05   # within this part of a bound a name is near to it
