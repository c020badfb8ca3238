# Substitution, continued: the question and what is found.

gathered_words <- "^other .* [(][0-9,]+[)]$"
most_products <- 40   # old and new products told apart; the others are gathered

substitution_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("each", "product")), "substitution")
  refuse_several(question, "'substitution' looks at")
  refuse_pairs(question, "substitution")
  if (length(question$args$product) > 1) ll_abort("'product' takes one dimension.", "argument")
  if (question$args$product == question$args$each)
    ll_abort("'each' and 'product' are the same dimension.", "argument")
  metric <- first_metric(question)
  if (!metric$adds_up)
    ll_abort(c(paste0(capital(spoken(metric$name)), " does not add up, so no part of it can move ",
                      "from one product to another."),
               i = "Take a sum, such as revenue or units."), "argument")
  codes <- function(names) {
    if (!is.null(names)) check_names(question$book, question$args$product, names)
  }
  question <- with_args(question, old = codes(args$old), new = codes(args$new))
  both <- intersect(question$args$old, question$args$new)
  if (length(both))
    ll_abort(paste0(quoted(both[1]), " is given as old and as new."), "argument")
  ask_two_periods(question)
}

# Losses and gains of every customer by old and by new product.
substitution_moves <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  fold <- both_periods(question, c(args$each, args$product),
                       stats::setNames(list(metric$tree), metric$name))
  value <- period_changes(question, fold)
  found <- period_totals(question, fold)
  product <- fold$keys[[2]]
  total <- vapply(split(value$change, factor(product)), exact_total, 0)
  old <- args$old %||% setdiff(names(total)[total < 0], args$new)
  new <- args$new %||% setdiff(names(total)[total > 0], args$old)
  size <- function(names) names[order(-abs(ifelse(is.na(total[names]), 0, total[names])))]
  found$old <- size(old)
  found$new <- size(new)
  known <- !is.na(fold$keys[[1]]) & !is.na(product)
  side <- function(names, sign) {
    rows <- which(known & product %in% names & sign * value$change > 0)
    at <- match(product[rows], names)
    data.frame(who = fold$keys[[1]][rows], at = pmin(at, most_products + 1),
               amount = abs(value$change[rows]))
  }
  found$losses <- side(found$old, -1)
  found$gains <- side(found$new, 1)
  found$nameless <- exact_total(value$change[!known])
  found$customers <- length(unique(fold$keys[[1]][known]))
  # Whether anybody bought less of any one product and more of any other.
  who <- fold$keys[[1]][known]
  found$both <- length(intersect(who[value$change[known] < 0], who[value$change[known] > 0]))
  found
}

# The sum of the values at each of n positions.
sums_at <- function(x, at, n) {
  out <- numeric(n)
  if (length(x)) {
    sums <- rowsum(x, at)
    out[as.integer(rownames(sums))] <- sums
  }
  out
}

# What may have moved, for each pair and each product.
substitution_pairs <- function(question, found) {
  who <- unique(c(found$losses$who, found$gains$who))
  sums <- function(moves) sums_at(moves$amount, match(moves$who, who), length(who))
  each <- list(lost = sums(found$losses), gained = sums(found$gains))
  each$moved <- pmin(each$lost, each$gained)
  old <- gathered_labels(question, found$old)
  new <- gathered_labels(question, found$new)
  losses <- moves_gathered(found$losses, who)
  gains <- moves_gathered(found$gains, who)
  found$moved <- sum(each$moved)
  found$lost <- sum(each$lost)
  found$gained <- sum(each$gained)
  found$chance <- matched_by_chance(each$lost, each$gained, found$customers)
  bounds <- function(moves, other, names, what, verb) {
    stats::setNames(product_bounds(moves, other, names, found$customers),
                    c(what, verb, "at_most", "not_matched", "by_chance", "chance_deviation"))
  }
  found$new_products <- bounds(gains, each$lost, new, "new", "gained")
  found$old_products <- bounds(losses, each$gained, old, "old", "lost")
  pairs <- pairs_matched(losses, gains, each, old, new)
  pairs$old_lost <- found$old_products$lost[match(pairs$old, old)]
  pairs$new_gained <- found$new_products$gained[match(pairs$new, new)]
  pairs$gain_share <- ifelse(pairs$new_gained > 0, pairs$at_most / pairs$new_gained, NA)
  matched <- matrix(pairs$matched, length(old), length(new), dimnames = list(NULL, new))
  found$matrix <- cbind(old = old, as.data.frame(matched, optional = TRUE))
  pairs <- pairs[pairs$customers > 0, ]
  found$pairs <- pairs[order(-pairs$matched, pairs$old, pairs$new, method = "radix"), ]
  rownames(found$pairs) <- NULL
  found
}

# The products told apart, and one for all others.
gathered_labels <- function(question, names) {
  rest <- length(names) - most_products
  c(utils::head(names, most_products), if (rest > 0) paste0(
    "other ", plural_word(noun_of(question, question$args$product)), " (", count_text(rest), ")"))
}

# Moves by the number of their customer; products gathered are one for their customers.
moves_gathered <- function(moves, who) {
  key <- moves$at * (length(who) + 1) + match(moves$who, who)
  sums <- rowsum(moves$amount, key)
  id <- as.numeric(rownames(sums))
  data.frame(who = as.integer(id %% (length(who) + 1)), at = as.integer(id %/% (length(who) + 1)),
             amount = as.vector(sums))
}

# Every old product with every new one: what of a customer's smaller sum falls to the two by their
# shares, and the most that may have moved between them.
pairs_matched <- function(losses, gains, each, old, new) {
  by_old <- function(x, at) sums_at(x, at, length(old))
  pairs <- lapply(seq_along(new), function(j) {
    own <- numeric(length(each$lost))
    mine <- gains$at == j
    own[gains$who[mine]] <- gains$amount[mine]
    mine <- losses[own[losses$who] > 0, ]
    lost <- mine$amount
    who <- mine$who
    data.frame(old = old, new = rep(new[j], length(old)),
               customers = by_old(rep(1, length(lost)), mine$at),
               matched = by_old(each$moved[who] * lost / each$lost[who] * own[who] /
                                  each$gained[who], mine$at),
               at_most = by_old(pmin(lost, own[who]), mine$at))
  })
  do.call(rbind, pairs) %||% data.frame(
    old = character(), new = character(), customers = numeric(), matched = numeric(),
    at_most = numeric())
}

# For each product its amount, the most that all other products together leave for it, what they do
# not, and what would match by chance.
product_bounds <- function(moves, other, names, customers) {
  by_product <- function(x) split(x, factor(moves$at, seq_along(names)))
  sums <- function(x) vapply(by_product(x), sum, 0)
  amount <- sums(moves$amount)
  bound <- sums(pmin(moves$amount, other[moves$who]))
  chance <- vapply(by_product(moves$amount), matched_by_chance, c(mean = 0, deviation = 0), other,
                   customers)
  data.frame(names, amount, bound, amount - bound, chance["mean", ], chance["deviation", ],
             row.names = NULL)
}

# What would match if the gains fell to customers by lot, each keeping its amount: the mean and the
# standard deviation over all orders of the gains among n customers (Hoeffding 1951,
# doi:10.1214/aoms/1177729545). `a` and `b` are the amounts above zero; other customers have none.
matched_by_chance <- function(a, b, n) {
  a <- sort(a[a > 0])
  b <- sort(b[b > 0])
  if (n < 2 || !length(a) || !length(b)) return(c(mean = 0, deviation = 0))
  # Sums of min(x, each of y) and of its square, for every x.
  smaller <- function(x, y) {
    below <- findInterval(x, y)
    sums <- c(0, cumsum(y))
    squares <- c(0, cumsum(y^2))
    above <- length(y) - below
    list(sum = sums[below + 1] + above * x, square = squares[below + 1] + above * x^2)
  }
  down <- smaller(a, b)
  across <- smaller(b, a)
  mean <- sum(down$sum) / n
  spread <- sum(down$square) - sum(down$sum^2) / n - sum(across$sum^2) / n + mean^2
  c(mean = mean, deviation = sqrt(max(spread, 0) / (n - 1)))
}

substitution_found <- found_of(
  "substitution", common = found_change,
  old = holds("text", NULL, "products that fell, largest loss first"),
  new = holds("text", NULL, "products that rose, largest gain first"),
  lost = holds("metric", "one", "what customers bought less of the old"),
  gained = holds("metric", "one", "what they bought more of the new"),
  moved = holds("metric", "one", "what of it meets within the same customers"),
  both = holds("count", "one", "names that bought less of one product and more of another"),
  nameless = holds("metric", "one", "the change without a customer or product"),
  chance = holds("metric", NULL, "mean and deviation of what would meet by chance"),
  new_products = holds("table", NULL, "new, gained, at_most, not_matched, by_chance, ..."),
  old_products = holds("table", NULL, "old, lost, at_most, not_matched, by_chance, ..."),
  pairs = holds("table", NULL, "old, new, customers, matched, at_most, ...: most first"),
  matrix = holds("table", NULL, "matched amounts, old by new"))

substitution_work <- function(question) {
  found <- substitution_pairs(question, substitution_moves(question))
  do.call(substitution_found, without(found, "losses", "gains", "customers"))
}
