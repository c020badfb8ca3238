# Shares and running shares.

# Share of each value in the total of the positive values: with no negatives that is the total.
# Missing where there is nothing positive.
share_of_positive <- function(value) {
  whole <- sum(value[!is.na(value) & value > 0])
  if (whole <= 0) return(rep(NA_real_, length(value)))
  value / whole
}

# Running total and share down the rows as given. The share runs over positive values only, so it
# never falls and ends at 1; `whole` is what it is a share of.
running <- function(value, whole = sum(value[!is.na(value) & value > 0])) {
  none <- is.na(value)
  plain <- value
  plain[none] <- 0
  # Added as whole numbers where they are decimals: no dust in the last places.
  exact <- scaled_number(plain)
  total <- cumsum(exact$v)
  if (is_exact(exact)) total <- total / 10^exact$places
  plain[plain < 0] <- 0
  share <- if (whole > 0) pmin(cumsum(plain) / whole, 1) else rep(NA_real_, length(value))
  total[none] <- NA
  share[none] <- NA
  list(total = total, share = share)
}
