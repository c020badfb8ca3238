# Payouts: what amounts earn by steps, each step from its lower bound up.

# steps   data frame of `from` (rising) and `pays`: a rate, or for "sum" an amount
# pay     "whole"      the step's rate on the whole amount
#         "graduated"  each slice of the amount at its own step's rate
#         "sum"        the step's fixed sum
# number  the step that each value has reached, 0 for none (see tier_number())
# Amounts below zero and below the first step earn nothing.
paid_by_steps <- function(value, number, steps, pay) {
  at <- pmax(number, 1)
  out <- switch(pay, whole = value * steps$pays[at], sum = steps$pays[at],
                graduated = full_slices(steps)[at] + steps$pays[at] * (value - steps$from[at]))
  ifelse(number == 0 | value < 0, 0, out)
}

# What the slices below each step earn when they are full; slices below zero earn nothing.
full_slices <- function(steps) {
  n <- nrow(steps)
  cumsum(c(0, steps$pays[-n] * diff(pmax(steps$from, 0))))
}

# The second way to the graduated total: for each step the amounts that lie in its slice.
slice_amounts <- function(value, steps) {
  low <- pmax(steps$from, 0)
  high <- c(low[-1], Inf)
  value <- value[value > 0]
  vapply(seq_along(low), function(k) sum(pmin(pmax(value, low[k]), high[k]) - low[k]), 0)
}

# Half up to the cent: 0.125 is 0.13. Products of decimals come out a hair beside the half in the
# computer's fractions; the allowance is far below what any two decimal amounts can differ by.
to_the_cent <- function(x) {
  coins <- x * 100
  floor(coins + .5 + pmax(1e-7, 8 * .Machine$double.eps * abs(coins))) / 100
}
