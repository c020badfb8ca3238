# Shares and running shares.

# Share of each value in the total of the positive values: with no negatives that is the total.
# Missing where there is nothing positive.
share_of_positive <- function(value) {
  whole <- sum(value[!is.na(value) & value > 0])
  if (whole <= 0) return(rep(NA_real_, length(value)))
  value / whole
}

# Running total and share down the rows as given.
running <- function(value) {
  none <- is.na(value)
  plain <- value
  plain[none] <- 0
  # Added as whole numbers where they are decimals: no dust in the last digits.
  exact <- scaled_number(plain)
  total <- cumsum(exact$v)
  if (is_exact(exact)) total <- total / 10^exact$decimals
  total[none] <- NA
  list(total = total, share = running_share(value))
}

# The share runs over positive values only, so it never falls and ends at 1.
running_share <- function(value) {
  none <- if (anyNA(value)) is.na(value)
  value[none] <- 0
  if (length(value) && min(value) < 0) value <- pmax(value, 0)
  share <- cumsum(value)
  whole <- share[length(share)]
  if (!length(value) || whole <= 0) return(rep(NA_real_, length(value)))
  share <- share / whole
  share[none] <- NA
  share
}

ratio_of <- function(a, b) {
  out <- a / b
  out[is.na(b) | b <= 0] <- NA
  out
}
