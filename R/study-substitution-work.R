# Substitution, continued: the question and what is found.

gathered_words <- "^other .* [(][0-9,]+[)]$"
most_products <- 40   # old and new products told apart; the others are gathered

substitution_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("each", "product")), "substitution")
  refuse_several(q, "'substitution' looks at")
  refuse_pairs(q, "substitution")
  if (length(q$product) > 1) ll_abort("'product' takes one dimension.", "argument")
  if (q$product == q$each)
    ll_abort("'each' and 'product' are the same dimension.", "argument")
  if (!q$first$adds_up)
    ll_abort(c(paste0(capital(spoken(q$first$name)), " does not add up, so no part of it can move ",
                      "from one product to another."),
               i = "Take a sum, such as revenue or units."), "argument")
  for (side in c("old", "new"))
    if (!is.null(q[[side]])) check_names(q$book, q$product, q[[side]])
  both <- intersect(q$old, q$new)
  if (length(both))
    ll_abort(paste0(quoted(both[1]), " is given as old and as new."), "argument")
  ask_two_periods(q)
}

# Losses and gains of every customer by old and by new product.
substitution_moves <- function(q) {
  m <- q$first
  f <- both_periods(q, c(q$each, q$product), stats::setNames(list(m$tree), m$name))
  value <- period_changes(q, f)
  s <- period_totals(q, f)
  product <- f$keys[[2]]
  total <- vapply(split(value$change, factor(product)), exact_total, 0)
  old <- q$old %||% setdiff(names(total)[total < 0], q$new)
  new <- q$new %||% setdiff(names(total)[total > 0], q$old)
  size <- function(names) names[order(-abs(ifelse(is.na(total[names]), 0, total[names])))]
  s$old <- size(old)
  s$new <- size(new)
  known <- !is.na(f$keys[[1]]) & !is.na(product)
  side <- function(names, sign) {
    rows <- which(known & product %in% names & sign * value$change > 0)
    at <- match(product[rows], names)
    data.frame(who = f$keys[[1]][rows], at = pmin(at, most_products + 1),
               amount = abs(value$change[rows]))
  }
  s$losses <- side(s$old, -1)
  s$gains <- side(s$new, 1)
  s$nameless <- exact_total(value$change[!known])
  s$customers <- length(unique(f$keys[[1]][known]))
  s
}

# The sum of the values at each of n places.
sums_at <- function(x, at, n) {
  out <- numeric(n)
  if (length(x)) {
    sums <- rowsum(x, at)
    out[as.integer(rownames(sums))] <- sums
  }
  out
}

# What may have moved, for each pair and each product.
substitution_pairs <- function(s) {
  who <- unique(c(s$losses$who, s$gains$who))
  s$losses$who <- match(s$losses$who, who)
  s$gains$who <- match(s$gains$who, who)
  lost <- sums_at(s$losses$amount, s$losses$who, length(who))
  gained <- sums_at(s$gains$amount, s$gains$who, length(who))
  moved <- pmin(lost, gained)
  s$moved <- sum(moved)
  s$lost <- sum(lost)
  s$gained <- sum(gained)
  s$chance <- matched_by_chance(lost, gained, s$customers)
  labels <- function(names) {
    rest <- length(names) - most_products
    c(utils::head(names, most_products), if (rest > 0) paste0("other ", plural_word(spoken(
      s$q$product)), " (", count_text(rest), ")"))
  }
  old <- labels(s$old)
  new <- labels(s$new)
  # Products gathered are one for their customers.
  together <- function(moves) {
    key <- moves$at * (length(who) + 1) + moves$who
    sums <- rowsum(moves$amount, key)
    id <- as.numeric(rownames(sums))
    data.frame(who = as.integer(id %% (length(who) + 1)),
               at = as.integer(id %/% (length(who) + 1)), amount = as.vector(sums))
  }
  losses <- together(s$losses)
  gains <- together(s$gains)
  by_old <- function(x, at) sums_at(x, at, length(old))
  pairs <- lapply(seq_along(new), function(j) {
    own <- numeric(length(who))
    mine <- gains$at == j
    own[gains$who[mine]] <- gains$amount[mine]
    rows <- own[losses$who] > 0
    l <- losses$amount[rows]
    c_of <- losses$who[rows]
    at <- losses$at[rows]
    data.frame(old = old, new = rep(new[j], length(old)),
               customers = by_old(rep(1, length(l)), at),
               matched = by_old(moved[c_of] * l / lost[c_of] * own[c_of] / gained[c_of], at),
               at_most = by_old(pmin(l, own[c_of]), at))
  })
  pairs <- do.call(rbind, pairs) %||% data.frame(
    old = character(), new = character(), customers = numeric(), matched = numeric(),
    at_most = numeric())
  # The most that all other products together leave for one.
  product <- function(moves, other, names, what, verb) {
    bound <- pmin(moves$amount, other[moves$who])
    sums <- function(x) vapply(split(x, factor(moves$at, seq_along(names))), sum, 0)
    amount <- sums(moves$amount)
    chance <- vapply(split(moves$amount, factor(moves$at, seq_along(names))), function(x) {
      matched_by_chance(x, other, s$customers)
    }, c(mean = 0, deviation = 0))
    out <- data.frame(names, amount, sums(bound), amount - sums(bound), chance["mean", ],
                      chance["deviation", ], row.names = NULL)
    stats::setNames(out, c(what, verb, "at_most", "not_matched", "by_chance", "chance_deviation"))
  }
  s$new_products <- product(gains, lost, new, "new", "gained")
  s$old_products <- product(losses, gained, old, "old", "lost")
  pairs$old_lost <- s$old_products$lost[match(pairs$old, old)]
  pairs$new_gained <- s$new_products$gained[match(pairs$new, new)]
  pairs$gain_share <- ifelse(pairs$new_gained > 0, pairs$at_most / pairs$new_gained, NA)
  s$pairs <- pairs[pairs$customers > 0, ]
  s$pairs <- s$pairs[order(-s$pairs$matched, s$pairs$old, s$pairs$new, method = "radix"), ]
  rownames(s$pairs) <- NULL
  matched <- matrix(pairs$matched, length(old), length(new), dimnames = list(NULL, new))
  s$matrix <- as.data.frame(matched, optional = TRUE)
  s$matrix <- cbind(old = old, s$matrix)
  s
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
