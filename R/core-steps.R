# How a change splits into steps that add up to it.
#
# Everything here is symmetric: with the two periods swapped every effect is the same with the
# other sign.

# Price and quantity of each product, at midpoint values: the changes of price times the mean
# quantity, and of quantity times the mean price (Bennet 1920, The theory of measurement of changes
# in cost of living, Journal of the Royal Statistical Society 83; Diewert 2005, Index number theory
# using differences rather than ratios). Within groups of products of like units the quantity part
# is told apart further: q = Q s with the group's whole quantity Q and the product's share s, so
# that volume is the change of Q at the mean share, and mix that of s at the mean Q. Mix is measured
# from the group's mean price, which moves amounts between products and not their sum.
#
# r0, q0, r1, q1: amounts and quantities then and now, quantities above zero; group: one number from
# 1 for each product, or NULL where none share a volume.
# Gives list(price, quantity) or list(price, volume, mix), each one value a product.
split_prices <- function(r0, q0, r1, q1, group = NULL) {
  p0 <- r0 / q0
  p1 <- r1 / q1
  mean_price <- (p0 + p1) / 2
  price <- (p1 - p0) * (q0 + q1) / 2
  quantity <- (q1 - q0) * mean_price
  if (is.null(group)) return(list(price = price, quantity = quantity))
  whole <- function(q) rowsum(q, group, reorder = FALSE)[match(group, unique(group)), 1]
  whole0 <- unname(whole(q0))
  whole1 <- unname(whole(q1))
  share0 <- q0 / whole0
  share1 <- q1 / whole1
  volume <- (whole1 - whole0) * (share0 + share1) / 2 * mean_price
  usual <- unname(whole(mean_price * (share0 + share1) / 2))
  mix <- (share1 - share0) * (whole0 + whole1) / 2 * (mean_price - usual)
  list(price = price, volume = volume, mix = mix)
}

# A rate is the sum of n over the sum of d. Each segment's part of its change: by its own rate (the
# change of its rate at its mean weight) and by mix (the change of its weight, valued at how far its
# mean rate lies from the whole's). A segment without d in one period has the other period's rate,
# so that coming and going is mix.
# Gives list(rate, mix), one value a segment; they add up to the change of the whole's rate.
split_rate <- function(n0, d0, n1, d1) {
  one <- function(n, d) {
    whole <- sum(d)
    list(part = n / whole, weight = d / whole, rate = ifelse(d != 0, n / d, NA),
         of = sum(n) / whole)
  }
  was <- one(n0, d0)
  now <- one(n1, d1)
  mean_rate <- ifelse(is.na(was$rate), now$rate, ifelse(is.na(now$rate), was$rate,
                                                        (was$rate + now$rate) / 2))
  mean_rate[is.na(mean_rate)] <- 0
  moved <- now$weight - was$weight
  list(rate = now$part - was$part - moved * mean_rate,
       mix = moved * (mean_rate - (was$of + now$of) / 2))
}

# What each factor contributes to the change of their product: the mean of its effect over every
# order in which the factors may be moved from then to now (Shapley 1953, A value for n-person
# games; Sun 1998, Accounting for energy use, for products). No division, so zeros are no trouble.
# The set of factors moved before is drawn with the weight it has among all orders.
shapley_product <- function(then, now) {
  k <- length(then)
  vapply(seq_len(k), function(i) {
    moved <- as.matrix(expand.grid(rep(list(c(FALSE, TRUE)), k - 1)))
    size <- rowSums(moved)
    weight <- factorial(size) * factorial(k - 1 - size) / factorial(k)
    others <- apply(moved, 1, function(m) prod(ifelse(m, now[-i], then[-i])))
    sum(weight * unlist(others)) * (now[i] - then[i])
  }, 0)
}

# The same moved one after the other, in the order given.
ordered_product <- function(then, now) {
  at <- vapply(0:length(then), function(i) {
    prod(ifelse(seq_along(then) <= i, now, then))
  }, 0)
  diff(at)
}

# now - then as decimals where both are, so that parts add up exactly.
exact_change <- function(now, then) {
  both <- scaled_number(c(now, then))
  if (!is_exact(both)) return(now - then)
  n <- length(now)
  (both$v[seq_len(n)] - both$v[n + seq_len(n)]) / 10^both$decimals
}

# Gains and losses of a change; `cancel` where they nearly make each other up, so that parts of the
# net change would tell nothing.
gross_moves <- function(change) {
  gains <- exact_total(change[!is.na(change) & change > 0])
  losses <- exact_total(change[!is.na(change) & change < 0])
  net <- exact_total(change)
  list(gains = gains, losses = losses, net = net, gross = gains - losses,
       cancel = gains - losses > 0 && abs(net) < .1 * (gains - losses))
}
