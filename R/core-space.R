# What names like one buy and it does not, from pairs of name and product that occur: never a table
# of all names by all products.
#
# pairs   list(name, product, value): codes from 1 and the metric of each pair that occurs
# group   for each name the group of its like, from 1
# peer    for each name whether it is one of those compared
# total   for each name its value over all products
# least   how many buyers a product needs within a group to be judged
#
# Gives a data frame of group, product, buyers, peers, typical (the median of the buyers' values),
# typical_share (the median of their shares of their totals), for every product of a group with so
# many buyers.
products_of_groups <- function(pairs, group, peer, total, groups, products, least) {
  group <- ifelse(peer, group, 0L)
  of <- group[pairs$name]
  buys <- of > 0L & !is.na(pairs$value) & pairs$value > 0
  column <- function(codes, n) list(codes = as.integer(codes), levels = seq_len(n))
  median_of <- function(x) list(fn = "quantile", column = scaled_number(x), prob = .5, keep = NULL)
  share <- ifelse(buys, pmin(pairs$value / total[pairs$name], 1), NA)
  fold <- fold_columns(list(group = column(of, groups), product = column(pairs$product, products)),
                       list(median_of(pairs$value), median_of(share)), buys, length(of))
  out <- data.frame(group = fold$keys$group, product = fold$keys$product, buyers = fold$lines,
                    typical = scaled_value(fold$parts[[1]]),
                    typical_share = scaled_value(fold$parts[[2]]))
  out$peers <- tabulate(group[group > 0L], groups)[out$group]
  out[out$buyers >= least, ]
}

# What each gap may be worth: the buyers' usual share of the name's total, no more than what buyers
# up to its size buy, times the part of the others that buy. Gives a function of a row of `judged`
# and of the codes of names. `at` is the row of `judged` of each pair.
worth_of_gaps <- function(judged, pairs, at, peer, total) {
  buys <- which(!is.na(at) & peer[pairs$name] & !is.na(pairs$value) & pairs$value > 0)
  buys <- buys[order(at[buys], total[pairs$name[buys]])]
  first <- match(seq_len(nrow(judged)), at[buys])
  size <- total[pairs$name[buys]]
  function(row, names) {
    mine <- first[row] + seq_len(judged$buyers[row]) - 1
    highest <- cummax(pairs$value[buys[mine]])
    own <- pmax(total[names], 0)
    limit <- highest[pmax(findInterval(own, size[mine]), 1)]
    pmin(judged$typical_share[row] * own, limit) *
      judged$buyers[row] / pmax(judged$peers[row] - peer[names], 1)
  }
}

# The gaps worth most: `targets` the codes of the names asked about, in their order. At most so
# many: data frame of name, row (of judged), worth, best first, then in the order of the names.
# `count` and `together` tell how many gaps each row of judged has, and what they are worth.
best_gaps <- function(judged, pairs, at, group, targets, most, worth) {
  asked <- logical(length(group))
  asked[targets] <- TRUE
  bought <- which(!is.na(pairs$value) & pairs$value > 0 & asked[pairs$name] & !is.na(at))
  buyers <- split(pairs$name[bought], factor(at[bought], seq_len(nrow(judged))))
  members <- split(targets, group[targets])
  rows <- lapply(seq_len(nrow(judged)), function(i) {
    mine <- members[[as.character(judged$group[i])]]
    lacking <- mine[!mine %in% buyers[[i]]]
    value <- worth(i, lacking)
    best <- order(-value)[seq_len(min(most, length(value)))]
    list(name = lacking[best], worth = value[best], count = length(lacking), together = sum(value))
  })
  taken <- function(part) unlist(lapply(rows, `[[`, part))
  name <- as.integer(taken("name"))
  gaps <- data.frame(name = name, worth = as.numeric(taken("worth")),
                     row = rep(seq_along(rows), vapply(rows, function(r) length(r$name), 0L)))
  best <- order(-gaps$worth, match(gaps$name, targets), judged$product[gaps$row])
  best <- best[seq_len(min(most, length(best)))]
  list(gaps = gaps[best, ], count = as.numeric(taken("count")),
       together = as.numeric(taken("together")))
}

# The row of `judged` of each group and product; missing where it is not judged.
judged_row <- function(judged, group, product) {
  width <- max(product, judged$product, 1)
  code <- function(group, product) (group - 1) * width + product
  last <- max(group, judged$group, 1) * width
  if (last > 1e7) return(match(code(group, product), code(judged$group, judged$product)))
  row <- rep(NA_integer_, last)
  row[code(judged$group, judged$product)] <- seq_len(nrow(judged))
  row[code(group, product)]
}

# Where a product sells far less than elsewhere: each name's share of it against that of all others
# together. `total` is each name's total. Gives name, product, value, expected, sellers, elsewhere,
# leader (the name of which it is the largest share), short.
short_of_others <- function(pairs, total, names, products, part) {
  value <- matrix(0, names, products)
  value[cbind(pairs$name, pairs$product)] <- ifelse(is.na(pairs$value), 0, pairs$value)
  rest <- sum(total) - total
  others <- rep(colSums(value), each = names) - value
  expected <- total * others / rest
  sells <- value > 0
  sellers <- rep(colSums(sells), each = names) - sells
  gap <- which(total > 0 & rest > 0 & expected > 0 & value < part * expected & sellers >= 2)
  at <- arrayInd(gap, dim(value))
  out <- data.frame(name = at[, 1], product = at[, 2], value = value[gap],
                    expected = expected[gap], sellers = sellers[gap],
                    elsewhere = (others / rest)[gap])
  # Where the product has its largest share.
  share <- value / ifelse(total > 0, total, Inf)
  out$leader <- max.col(t(share), "first")[out$product]
  out$short <- out$expected - pmax(out$value, 0)
  out[order(-out$short, out$name, out$product), ]
}
