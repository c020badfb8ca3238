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
  plain <- ifelse(is.na(value), 0, value)
  # Added as whole numbers where they are decimals: no dust in the last places.
  exact <- scaled_number(plain)
  total <- cumsum(exact$v)
  if (is_exact(exact)) total <- total / 10^exact$places
  share <- if (whole > 0) pmin(cumsum(pmax(plain, 0)) / whole, 1) else rep(NA_real_, length(value))
  total[is.na(value)] <- NA
  share[is.na(value)] <- NA
  list(total = total, share = share)
}
