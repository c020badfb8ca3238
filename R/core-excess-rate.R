# The excess of a segment's part in the change of a rate over what all other lines did, its score
# and its chance. Every line carries its part of the rate's change and a weight w; a segment's
# excess is e = B - A - d w, with A then, B now and d the rest's change for each unit of weight.
#
# Score. The excess is tested against a variance of these parts:
#   squares of order totals, QB + QA: lines of one order come together, so they count once
#     (self-normalised sums: Efron 1969, Student's t-test under symmetry conditions; Shao 1997);
#   drift, t^2 A B over the groups (accounts) of the segment and over its items, fitted to all of
#     them, see core-drift.R;
#   what the rest's change wavers by itself.
# The score is -log p of a normal tail, less the price of the segment. The chance is that of one of
# the names of as many conditions that hold half a per cent of the weight, as for amounts.

rate_most <- .7     # part of the weight that a segment may hold

# `share`: the smallest excess that counts, as a part of five times the whole's change.
measure_rate <- function(share) {
  list(begin = rate_begin, whole = rate_whole, scores = rate_scores, part = rate_part,
       size = rate_weight, chances = rate_chances, by_group = TRUE, share = share)
}

rate_weight <- function(table) (table[, "wa"] + table[, "wb"]) / 2

rate_part <- function(table, whole) rate_weight(table) / whole$w

rate_begin <- function(search, total) {
  search$drift <- c(group = rate_drift(search, search$group, drift_prior[["group"]]),
                    item = rate_drift(search, search$item, drift_prior[["item"]]))
  whole <- rate_whole(search, total)
  # What an excess has to be material beside.
  search$least <- search$measure$share * max(abs(whole$b - whole$a), 1e-4) * 5
  search$floor <- min(search$least / (8 * max(1, abs(whole$b - whole$a))), 2 * where_large)
}

rate_whole <- function(search, total) {
  whole <- as.list(total)
  whole$w <- (whole$wa + whole$wb) / 2
  whole$variance <- whole$qb + whole$qa + search$drift[["group"]] * max(whole$ab, 0)
  whole$known <- whole$w > 0
  whole
}

rate_drift <- function(search, dim, prior) {
  if (is.null(dim)) return(0)
  table <- table_of(search, dim)
  w <- rate_weight(table)
  moved <- table[, "b"] - table[, "a"]
  shift <- weighted_median(moved / pmax(w, 1e-12), w)
  e <- moved - shift * w
  whole <- sum(moved)
  prior <- prior * (abs(whole) + stats::sd(e / pmax(w, 1e-12)) / 10)^2
  huber_drift(e, table[, "qb"] + table[, "qa"], table[, "wa"] * table[, "wb"], prior)
}

# Excess of each row of a table over the change of all other lines, and z; `items` is its part of
# the drift of items.
rate_excess <- function(search, table, whole, items) {
  w <- rate_weight(table)
  rest <- pmax(whole$w - w, 1e-9)
  shift <- ((whole$b - table[, "b"]) - (whole$a - table[, "a"])) / rest
  excess <- table[, "b"] - table[, "a"] - shift * w
  own <- table[, "qb"] + table[, "qa"] + search$drift[["group"]] * pmax(table[, "ab"], 0)
  v <- own + search$drift[["item"]] * pmax(table[, "wa"] * table[, "wb"], 0) * items +
    (w / rest)^2 * pmax(whole$variance - own, 0)
  list(excess = excess, z = ifelse(v > 0, excess / sqrt(v), 0), w = w)
}

rate_scores <- function(search, table, whole, dims, under) {
  made <- rate_excess(search, table, whole, rate_items(search, table, dims, under))
  score <- -(stats::pnorm(-abs(made$z), log.p = TRUE) + log(2)) -
    segment_price(search, c(under$dims, dims))
  enough <- table[, "na"] + table[, "nb"] >= where_orders & abs(made$excess) >= search$least &
    made$w / whole$w <= rate_most
  score[!enough] <- -Inf
  list(score = score, excess = made$excess)
}

# Each cell's part of the drift of items.
rate_items <- function(search, table, dims, under) {
  if (is.null(search$item)) return(0)
  if (search$item %in% c(under$dims, dims)) return(1)
  own <- dims[vapply(dims, function(dim) search$fixes[search$item, dim], NA)]
  if (length(own)) return(item_squares(search, own[1])[table[, match(own[1], dims)] + 1])
  if (is.null(under)) 0 else where_items(search, under)
}

rate_chances <- function(search, parted, parts, within) {
  out <- lapply(parts, function(mine) {
    total <- if (within) parted$rest else parted$rest + mine$now
    made <- rate_excess(search, rbind(mine$now), rate_whole(search, total), mine$items)
    data.frame(excess = made$excess, z = made$z, customers = mine$customers,
               chance = book_chance(where_tail(made$z, mine$customers), search$large[mine$k]))
  })
  do.call(rbind, out) %||% no_chances
}
