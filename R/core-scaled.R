# Exact decimals: whole numbers with a count of decimal places.
#
# A scaled vector is list(v, decimals, largest): the values are v / 10^decimals, v whole numbers,
# none larger in magnitude than `largest`. Where values are no decimals, or would leave the range in
# which doubles hold whole numbers exactly (2^53), decimals is NA and v holds plain doubles. `full`
# is TRUE where no value is known to be missing.

whole_limit <- 2^53
most_decimals <- 6L

scaled <- function(v, decimals = NA_integer_, largest = Inf) {
  list(v = v, decimals = decimals, largest = largest)
}

is_exact <- function(x) !is.na(x$decimals)

scale_column <- function(values) {
  if (is.integer(values)) {
    ends <- suppressWarnings(c(min(values, na.rm = TRUE), max(values, na.rm = TRUE)))
    largest <- max(abs(as.double(ends)))
    return(c(scaled(values, 0L, if (is.finite(largest)) largest else 0), full = !anyNA(values)))
  }
  out <- kernel_scale(as.double(values), most_decimals)
  if (out$decimals < 0) return(scaled(out$values))
  c(scaled(out$values, out$decimals, out$largest), full = out$full)
}

scaled_value <- function(x) {
  if (!is_exact(x)) return(as.double(x$v))
  if (x$decimals == 0) return(as.double(x$v))
  x$v / 10^x$decimals
}

# The same numbers at more decimals; inexact where they would not fit.
scale_up <- function(x, decimals) {
  factor <- 10^(decimals - x$decimals)
  scaled(as.double(x$v) * factor, decimals, x$largest * factor)
}

# Decimals as limits for whole numbers of so many places: the whole number itself where the decimal
# is one at these places, else the half between the two that it lies between. The decimal that was
# typed is the one whose nearest double it is, so a whole number divided back must give that double.
whole_limits <- function(value, decimals) {
  power <- 10^decimals
  near <- round(value * power)
  at <- near / power
  ifelse(at == value | abs(near) >= whole_limit, near, near + ifelse(value > at, .5, -.5))
}

# An operation by its sign, with one or two sides.
scaled_op <- function(op, args) {
  if (op %in% c("pmin", "pmax")) return(scaled_pick(args[[1]], args[[2]], op == "pmax"))
  if (length(args) == 2) return(scaled_arithmetic(op, args[[1]], args[[2]]))
  if (op == "abs") scaled_absolute(args[[1]]) else scaled_negate(args[[1]])
}

scaled_arithmetic <- function(op, a, b) {
  switch(op, `+` = scaled_add(a, b, 1), `-` = scaled_add(a, b, -1), `*` = scaled_multiply(a, b),
         `/` = scaled_divide(a, b))
}

scaled_add <- function(a, b, sign) {
  if (is_exact(a) && is_exact(b)) {
    decimals <- max(a$decimals, b$decimals)
    up <- lapply(list(a, b), scale_up, decimals = decimals)
    largest <- up[[1]]$largest + up[[2]]$largest
    if (largest < whole_limit) return(scaled(up[[1]]$v + sign * up[[2]]$v, decimals, largest))
  }
  scaled(scaled_value(a) + sign * scaled_value(b))
}

scaled_multiply <- function(a, b) {
  if (is_exact(a) && is_exact(b)) {
    largest <- a$largest * b$largest
    decimals <- a$decimals + b$decimals
    if (largest < whole_limit && decimals <= 2 * most_decimals)
      return(scaled(as.double(a$v) * b$v, decimals, largest))
  }
  scaled(scaled_value(a) * scaled_value(b))
}

# Division by zero gives missing.
scaled_divide <- function(a, b) {
  below <- scaled_value(b)
  below[!is.na(below) & below == 0] <- NA
  scaled(scaled_value(a) / below)
}

scaled_negate <- function(a) {
  a$v <- -a$v
  a
}

# Drops decimal places that no value uses, so that 12.340 and 12.34 are held alike.
scaled_number <- function(x) {
  out <- scale_column(x)
  out$v <- as.double(out$v)
  out
}

# What is known, added as whole numbers where they are decimals.
exact_total <- function(x) {
  exact <- scaled_number(x[!is.na(x)])
  if (is_exact(exact)) sum(exact$v) / 10^exact$decimals else sum(x, na.rm = TRUE)
}

scaled_absolute <- function(x) {
  x$v <- abs(x$v)
  x
}

# Two vectors at the same decimals; at none where they would not fit.
same_decimals <- function(a, b) {
  if (is_exact(a) && is_exact(b)) {
    decimals <- max(a$decimals, b$decimals)
    up <- lapply(list(a, b), scale_up, decimals = decimals)
    if (max(up[[1]]$largest, up[[2]]$largest) < whole_limit) return(up)
  }
  list(scaled(scaled_value(a)), scaled(scaled_value(b)))
}

# The smaller or larger of each pair; missing where either is.
scaled_pick <- function(a, b, larger) {
  both <- same_decimals(a, b)
  scaled((if (larger) pmax else pmin)(both[[1]]$v, both[[2]]$v), both[[1]]$decimals,
         max(both[[1]]$largest, both[[2]]$largest))
}

# The first where the test holds, the second elsewhere.
scaled_choose <- function(test, a, b) {
  both <- same_decimals(a, b)
  n <- length(test)
  v <- ifelse(test, rep_len(both[[1]]$v, n), rep_len(both[[2]]$v, n))
  scaled(as.double(v), both[[1]]$decimals, max(both[[1]]$largest, both[[2]]$largest))
}
