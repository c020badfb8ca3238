# What names like one buy and it does not, from pairs of name and product that occur: never a table
# of all names by all products.
#
# pairs   list(name, product, value): codes from 1 and the metric of each pair that occurs
# group   for each name the group of its like, from 1; 0 for names that are nobody's like
# least   how many buyers a product needs within a group to be judged
#
# Gives a data frame of group, product, buyers, peers, typical (the median of the buyers' values),
# for every product of a group with so many buyers.
products_of_groups <- function(pairs, group, groups, products, least) {
  of <- group[pairs$name]
  buys <- of > 0L & !is.na(pairs$value) & pairs$value > 0
  column <- function(codes, n) list(codes = as.integer(codes), levels = seq_len(n))
  fold <- fold_columns(list(group = column(of, groups), product = column(pairs$product, products)),
                       list(list(fn = "quantile", column = scaled_number(pairs$value), prob = .5,
                                 keep = NULL)), buys, length(of))
  out <- data.frame(group = fold$keys$group, product = fold$keys$product, buyers = fold$lines,
                    typical = scaled_value(fold$parts[[1]]))
  out$peers <- tabulate(group[group > 0L], groups)[out$group]
  out[out$buyers >= least, ]
}

# The gaps worth most: `judged` as above with `worth`, best first; `targets` the codes of the names
# asked about, in their order. At most so many: data frame of name, row (of judged). `count` tells
# how many gaps each row of judged has.
best_gaps <- function(judged, pairs, group, targets, most) {
  asked <- logical(length(group))
  asked[targets] <- TRUE
  bought <- !is.na(pairs$value) & pairs$value > 0 & asked[pairs$name]
  # Buyers among those asked about, counted for all rows at once.
  at <- judged_row(judged, group[pairs$name], pairs$product)
  buyers <- tabulate(at[bought], nrow(judged))
  members <- tabulate(group[targets][group[targets] > 0], max(group, 1))
  count <- members[judged$group] - buyers
  name <- row <- list()
  found <- 0
  for (i in which(count > 0)) {
    if (found >= most) break
    has <- pairs$name[bought & pairs$product == judged$product[i]]
    mine <- targets[group[targets] == judged$group[i]]
    lacking <- mine[!mine %in% has]
    lacking <- lacking[seq_len(min(length(lacking), most - found))]
    name[[length(name) + 1]] <- lacking
    row[[length(row) + 1]] <- rep(i, length(lacking))
    found <- found + length(lacking)
  }
  list(gaps = data.frame(name = as.integer(unlist(name)), row = as.integer(unlist(row))),
       count = count)
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
