# The excess of a segment's money over the growth of all other lines, its score and its chance. With
# A then and B now, and g the growth B / A of all other lines, the excess is e = B - g A.
#
# Score, in nats. Segments are chosen by money and simplicity: the deviance of the money now from
# what the growth of the rest would make of it, over the size of orders, less the price of the
# segment,
#
#   s = [a log(a / E) + b log(b / E)] / (size + steady^2 E / 2) - price,
#
# with a = g A, b = B, E = (a + b) / 2. `size` is the geometric mean over the two periods of squared
# order totals over money, each drawn towards the book's own (phi) by five orders: a rise by a
# factor and a fall by it score alike. Only excesses of at least `least` count.
#
# Chance. z = e / sqrt(V), V = size_p (a + b) + (A / A_rest)^2 phi (A_all + B_all) + phi^2 / 4 +
# drift, where size_p is squared order totals over money of the segment in all periods but now,
# drawn towards phi by five orders: a rise of now does not widen its own noise. Drift is t^2 g times
# the sum over its customers of money then by money now, and the same of items (of coarser names by
# the squared shares of their items), since names buy more or less for reasons of their own; t^2 is
# fitted to all of them by Huber's proposal 2, see core-drift.R. Where the book has earlier pairs of
# like periods (the same periods moved back by their length, time and again), drift gives way to
# what the segment did in them (an empirical null: Efron 2004): V without drift is multiplied by the
# mean of their squared deviations, at most 9 each, with twelve pairs as the model has it among
# them, and by no less than a half. The chance that a book such as this does as much by itself is
# 1 - (1 - p)^N, N the number of names of as many conditions that hold at least half a per cent of
# the money. Fewer than ten customers have heavier tails (on
# the demo z beyond 2.58 in .037 and beyond 3.29 in .008 of such segments): p is that of a t with 9
# degrees of freedom.

excess_steady <- .02   # drift that any segment may have
excess_drawn <- 5      # orders by which a segment's size is drawn towards the book's
excess_most <- .5      # part of the money that a segment may hold
excess_left <- .3      # part of the money that is left as everything else
excess_pairs <- 12     # earlier pairs of periods that the model counts as
excess_cap <- 9        # squared deviations that one of them counts as at most
excess_regular <- .5   # part of the noise of its orders that a segment has at least

# `least` is the smallest excess that counts; `by_group` tells whether scores go by groups.
measure_amount <- function(least) {
  list(begin = excess_begin, whole = excess_whole, scores = excess_scores, part = excess_part,
       size = function(table) table[, "a"] + table[, "b"], chances = excess_chances,
       by_group = FALSE, least = least)
}

# Names that hold less than the least excess could come from are not looked at; an eighth of it,
# since the growth of what is left may be another.
excess_begin <- function(search, total) {
  search$all <- c(a = total[["a"]], b = total[["b"]])
  whole <- excess_whole(search, total)
  search$floor <- min(search$measure$least / (8 * max(1, whole$growth)),
                      where_large * (whole$a + whole$b))
}

# What is told of the rows left by their totals; phi is the size of orders of the whole.
excess_whole <- function(search, total) {
  whole <- as.list(total)
  g <- if (whole$a > 0) max(whole$b, 0) / whole$a else 1
  whole$growth <- g
  whole$phi <- max((g^2 * whole$qa + whole$qb) / max(g * whole$a + whole$b, 1e-9), 1e-9)
  whole$known <- whole$a > 0
  whole
}

# The part of both periods' money that each name has.
excess_part <- function(table, whole) (table[, "a"] + table[, "b"]) / (whole$a + whole$b)

excess_scores <- function(search, table, whole, dims, under) {
  score <- rep(-Inf, nrow(table))
  g <- pmax(whole$b - table[, "b"], 0) / pmax(whole$a - table[, "a"], 1e-9)
  excess <- table[, "b"] - g * table[, "a"]
  at <- which(table[, "na"] + table[, "nb"] >= where_orders &
                abs(excess) >= search$measure$least &
                excess_smaller(search, table) <= excess_room(search, whole))
  cells <- table[at, , drop = FALSE]
  g <- g[at]
  a <- pmax(g * cells[, "a"], 0)
  b <- pmax(cells[, "b"], 0)
  middle <- (a + b) / 2
  part <- function(x) ifelse(x > 0, x * log(x / middle), 0)
  drawn <- excess_drawn * whole$phi
  size <- sqrt((g^2 * cells[, "qa"] + drawn * whole$phi) / (a + drawn) *
                 (cells[, "qb"] + drawn * whole$phi) / (b + drawn))
  score[at] <- (part(a) + part(b)) / (size + excess_steady^2 * middle / 2) -
    segment_price(search, c(under$dims, dims))
  score[!is.finite(score)] <- -Inf
  list(score = score, excess = excess)
}

# The part of the money that a segment may have: the general growth is that of what is left, which
# would tell nothing where that is little.
excess_room <- function(search, whole) {
  min(excess_most, excess_smaller(search, cbind(a = whole$a, b = whole$b)) - excess_left)
}

# The part of all money, in the period in which it is less.
excess_smaller <- function(search, table) {
  pmin(table[, "a"] / search$all[["a"]], table[, "b"] / max(search$all[["b"]], 1e-9))
}

# Chances that the book does as much by itself, each segment held against everything else beside
# `parted`; of the disjoint segments themselves, or of candidates `within` what they leave.
excess_chances <- function(search, parted, parts, within) {
  rest <- excess_whole(search, parted$rest)
  # Fitted to all lines: what was named for a cause weighs little.
  if (is.null(search$drift)) search$drift <- excess_drifts(search)
  rest$drift <- search$drift
  out <- lapply(parts, function(mine) {
    whole <- rest
    pairs <- parted$rest_pairs
    if (!within) {
      whole$a <- rest$a + mine$now[["a"]]
      whole$b <- rest$b + mine$now[["b"]]
      pairs <- pairs + mine$pairs
    }
    excess_chance(whole, mine, pairs, search$large)
  })
  do.call(rbind, out) %||% no_chances
}

no_chances <- data.frame(excess = numeric(), z = numeric(), customers = numeric(),
                         chance = numeric())

# The drift of customers and of items between the two periods.
excess_drifts <- function(search) {
  of <- function(dim, prior) {
    if (is.null(dim)) return(0)
    table <- table_of(search, dim)
    g <- weighted_median(table[, "b"] / pmax(table[, "a"], 1e-9), pmax(table[, "a"], 0) +
                           pmax(table[, "b"], 0))
    t2 <- huber_drift(table[, "b"] - g * table[, "a"], table[, "qb"] + g^2 * table[, "qa"],
                      g * table[, "a"] * table[, "b"], prior)
    min(1, t2)
  }
  c(group = of(search$group, drift_prior[["group"]]), item = of(search$item, drift_prior[["item"]]))
}

# `large` is how many names of one, two and three conditions could have been named; `pairs` are the
# wholes of earlier pairs of like periods.
excess_chance <- function(whole, mine, pairs, large) {
  now <- mine$now
  drawn <- excess_drawn * whole$phi
  size <- (mine$past[["qa"]] + drawn * whole$phi) / (max(mine$past[["a"]], 0) + drawn)
  own <- excess_noise(now[["a"]], now[["b"]], whole$a, whole$b, size, whole$phi)
  drift <- whole$drift[["group"]] * own$g * max(now[["ab"]], 0) +
    whole$drift[["item"]] * own$ga * max(now[["b"]], 0) * mine$items
  factor <- excess_past(mine$pairs, pairs, size, whole$phi, 1 + drift / own$v)
  z <- own$excess / sqrt(own$v * factor)
  data.frame(excess = own$excess, z = z, customers = mine$customers,
             chance = book_chance(where_tail(z, mine$customers), large[mine$k]))
}

# The excess of a then and b now over the growth of the rest of A and B, and what it wavers by
# itself.
excess_noise <- function(a, b, whole_a, whole_b, size, phi) {
  rest <- pmax(whole_a - a, 1e-9)
  g <- pmax(whole_b - b, 0) / rest
  ga <- pmax(g * a, 0)
  list(g = g, ga = ga, excess = b - g * a,
       v = size * (ga + pmax(b, 0)) + (a / rest)^2 * phi * (whole_a + whole_b) + phi^2 / 4)
}

# How many times the noise of its orders a segment moves by itself: what the model says, drawn
# towards it by `excess_pairs` from the squared deviations in earlier pairs of like periods.
excess_past <- function(pairs, wholes, size, phi, model) {
  at <- which(pairs[, "na"] + pairs[, "nb"] >= where_orders & wholes[, "a"] > 0)
  if (!length(at)) return(model)
  was <- excess_noise(pairs[at, "a"], pairs[at, "b"], wholes[at, "a"], wholes[at, "b"], size, phi)
  # An event of its own in one of them tells little of the others.
  seen <- pmin(was$excess^2 / was$v, excess_cap)
  max(excess_regular, (excess_pairs * model + sum(seen)) / (excess_pairs + length(at)))
}

# The smallest excess that would have been beyond the ordinary, of a segment with this part of the
# money.
excess_least <- function(search, share, confidence) {
  whole <- excess_whole(search, wholes_of(search, list(segment_ask(NULL)))[[1]])
  p <- -expm1(log(confidence) / max(search$large[1], 1))
  v <- whole$phi * share * (whole$growth * whole$a + whole$b) +
    share^2 * whole$phi * (whole$a + whole$b) + whole$phi^2 / 4
  stats::qnorm(p / 2, lower.tail = FALSE) * sqrt(v)
}
