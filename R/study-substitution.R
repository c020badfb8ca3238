# Substitution: which products' losses may be other products' gains among the same customers.

gathered_words <- "^other .* [(][0-9,]+[)]$"
most_products <- 40   # old and new products told apart; the others are gathered

declared_substitution <- declare(
  "substitution", "Which products' losses may be other products' gains among the same customers",
  args = list(
    each = arg("words", "who buys: a dimension, such as account", required = TRUE),
    product = arg("words", "what is bought: a dimension, such as item or family", required = TRUE),
    metrics = arg_metrics("the metric, one that adds up (default: the book's first)"),
    old = arg("words", "products that may have been replaced (default: all that fell)"),
    new = arg("words", "products that may have replaced them (default: all that rose)"),
    top = arg("whole", "list only the first so many pairs", 20),
    where = arg_where,
    when = arg("period", "the period now", "this year to date"),
    against = arg("period", "the period then: year before, previous, 2025", "year before")),
  examples = c("--each account --product item --when 2026-Q2",
               "--each account --product item --new HV-018 --when 2026-Q2",
               "--each account --product family --when 2026-Q2 --top 10"),
  bare = "--each account --product item --when 2026-Q2 --top 5")

#' Substitution: what may have replaced what
#'
#' For every customer, what it bought less of among the old products is held against what it bought
#' more of among the new ones. No more than the smaller of the two can have moved from one to the
#' other; the rest of the gains replaced none of the old products. Nothing here proves that any
#' amount moved: all figures are upper bounds, and unrelated products match in part too. What would
#' match if the gains fell to the customers by lot stands beside them as chance (mean and standard
#' deviation over all orders of the gains among the customers of either period, Hoeffding 1951,
#' <doi:10.1214/aoms/1177729545>).
#'
#' With a customer's losses `L` by old product and gains `G` by new product, `min(sum(L), sum(G))`
#' may have moved at most. `matched` shares that out in proportion to the losses and to the gains,
#' so that pairs add up and nothing is counted twice; `at_most` is the bound of a pair by itself,
#' the sum of `min(L, G)` over customers, and such bounds of several pairs overlap.
#'
#' @param book (`ll_book`) the book; it needs a date.
#' @param each (text) who buys: one dimension.
#' @param product (text) what is bought: one other dimension.
#' @param metrics (text) one metric that adds up, as in [ll_standings()].
#' @param old,new (text) names of products; those whose total fell, and those whose total rose, if
#'   not given.
#' @param top (whole number) how many pairs are listed.
#' @param where as in [ll_standings()].
#' @param when,against (text) the period now and the one it is compared with.
#'
#' @return A data frame of class `ll_result_substitution`, a row for each pair of an old and a new
#'   product, most matched first: `old`, `new`, `customers` (that bought less of the one and more of
#'   the other), `matched`, `at_most`, `old_lost` (what these and all other customers bought less of
#'   the old product), `new_gained`, `gain_share` (`at_most` of that). At most 40 old and 40 new
#'   products are told apart, the others gathered. Parts: `new_products` (`new`, `gained`,
#'   `at_most`, `not_matched`: gains of customers beyond all that they bought less of among the old,
#'   `by_chance` and `chance_deviation`: what chance would match, and its standard deviation),
#'   `old_products` (the same with `old` and `lost`), `matrix` (matched, old products by new).
#' @section Notes given: That these are bounds; customers without a name; part periods.
#' @section Errors: As [ll_bridge()]; `ll_error_argument` for metrics that do not add up and for a
#'   product given as old and as new.
#' @examples
#' book <- ll_demo()
#' ll_substitution(book, "account", "item", when = "2026-Q2", top = 5)
#' ll_part(ll_substitution(book, "account", "item", new = "HV-018", when = "2026-Q2"),
#'         "new_products")
#' @export
ll_substitution <- function(book, each, product, metrics = NULL, old = NULL, new = NULL, top = 20,
                            where = NULL, when = "this year to date", against = "year before") {
  check_book(book)
  given <- list(each = if (missing(each)) NULL else each,
                product = if (missing(product)) NULL else product, metrics = metrics, old = old,
                new = new, top = top, where = where, when = when, against = against)
  q <- substitution_question(book, check_args(declared_substitution, given))
  s <- substitution_pairs(substitution_moves(q))
  table <- substitution_table(s)
  new_answer(q, "substitution", table$table, substitution_settings(s), table$columns,
             substitution_finding(s), substitution_reading(s), substitution_notes(s),
             substitution_proof(s),
             parts = c(s[c("new_products", "old_products", "matrix")], list(foot = table$foot)),
             compared = TRUE)
}

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

substitution_table <- function(s) {
  q <- s$q
  m <- q$first
  shown <- utils::head(s$pairs, q$top)
  units <- c("text", "text", "count", rep(m$unit, 4), "percent")
  foot <- shown[NA_integer_, ][1, ]
  foot[c("old", "new")] <- list("all pairs", "")
  foot$matched <- s$moved
  foot$old_lost <- s$lost
  foot$new_gained <- s$gained
  # Bounds to the coin would feign a precision they have not.
  coins <- if (m$unit == "money" && s$gained >= 1000) 0 else NA
  digits <- c(NA, NA, NA, rep(coins, 4), 1)
  list(table = shown, columns = new_columns(names(shown), units, digits = digits), foot = foot)
}

substitution_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, product = q$product, old = q$old, new = q$new, top = q$top,
                    lost = s$lost, gained = s$gained, moved_at_most = s$moved,
                    not_matched = s$gained - s$moved, by_chance = s$chance[["mean"]])
}

substitution_finding <- function(s) {
  q <- s$q
  m <- q$first
  if (!nrow(s$pairs))
    return(paste0("No ", spoken(q$each), " bought less of one ", spoken(q$product),
                  " and more of another, so nothing was replaced."))
  told <- which(!grepl(gathered_words, s$pairs$old) & !grepl(gathered_words, s$pairs$new))
  first <- s$pairs[told[which.max(s$pairs$at_most[told])], ]
  source <- if (is.null(q$old)) paste("falling", plural_word(spoken(q$product))) else
    and_list(one_line(q$old), 3)
  each <- plural_word(spoken(q$each))
  one <- length(q$new) == 1
  all <- if (one) s$new_products[1, ] else
    list(gained = s$gained, at_most = s$moved, by_chance = s$chance[["mean"]],
         chance_deviation = s$chance[["deviation"]])
  paste0(if (one) paste0("Of the ", said(all$gained, m), " that ", each, " bought more of ",
                         one_line(all$new), ",") else paste("Of gains of", said(all$gained, m)),
         " at most ", said(all$at_most, m), " (",
         format_number(all$at_most / all$gained, "percent"), ") may have replaced ", source,
         if (!one) paste(", within the same", each),
         chance_words(all),
         if (length(told)) paste0("; most from ", one_line(first$old), " to ", one_line(first$new),
                                  " (", said(first$at_most, m), " at most)"), ".")
}

# What chance alone would match, and whether there is more than that.
chance_words <- function(all) {
  share <- format_number(all$by_chance / all$gained, "percent")
  if (all$at_most <= all$by_chance + 2 * all$chance_deviation)
    paste0(", no more than chance alone may give (on average ", share, ")") else
      paste0("; chance alone would give ", share)
}

substitution_reading <- function(s) {
  q <- s$q
  names <- function(given, all, verb) {
    if (is.null(given)) paste0("all ", count_text(length(all)), " that ", verb) else
      and_list(one_line(given), 4)
  }
  paste0(capital(metric_words(q$first)), " that each ", spoken(q$each), " bought less of old ",
         plural_word(spoken(q$product)), " (", names(q$old, s$old, "fell"),
         ") against what it bought more of new ones (", names(q$new, s$new, "rose"),
         "), matched within the ", spoken(q$each), " in proportion; ", reading_tail(q))
}

substitution_notes <- function(s) {
  q <- s$q
  rbind(note("bound", "These are upper bounds: who bought less of one and more of another need ",
             "not have replaced it. Chance is what would match if the gains fell to the ",
             plural_word(spoken(q$each)), " by lot."),
        note("none", if (s$nameless != 0) paste0(
          "Lines without a name changed by ", said_change(s$nameless, q$first),
          " and are not matched.")),
        note("gathered", if (max(length(s$old), length(s$new)) > most_products) paste0(
          "The ", most_products, " old and the ", most_products, " new ",
          plural_word(spoken(q$product)), " that changed most are told apart, the others ",
          "gathered.")),
        question_notes(q))
}

substitution_proof <- function(s) {
  q <- s$q
  m <- q$first
  plain <- raw_lines(q)
  proof <- prove_question(q, s$counted, stats::setNames(list(s$total_now), m$name),
                          stats::setNames(list(s$exact), m$name), plain)
  second <- plain_moves(s, plain)
  rbind(proof,
        proof_line("matched pairs add up to what may have moved", s$moved, sum(s$pairs$matched),
                   FALSE),
        proof_line("gains of all new products add up", s$gained, sum(s$new_products$gained),
                   s$exact),
        proof_line("what may have moved, by a second route on the raw lines", second[["moved"]],
                   s$moved, s$exact),
        proof_line("gains of new products, by a second route on the raw lines", second[["gained"]],
                   s$gained, s$exact))
}

# What may have moved and the gains again, in base R on the raw lines; `plain` are those now.
plain_moves <- function(s, plain) {
  q <- s$q
  sums <- function(lines) {
    plain_sums(q$book$source, key_tree(q$book, q$each), key_tree(q$book, q$product),
               q$first$tree, lines$keep)
  }
  then <- sums(raw_lines(q, q$asked$period_before))
  now <- sums(plain)
  pairs <- unique(rbind(then, now)[c("each", "product")])
  value <- function(x) or_zero(x$value[match_keys(as.list(pairs), as.list(x[1:2]))])
  change <- value(now) - value(then)
  name <- pairs$product
  who <- unique(pairs$each)
  whose <- match(pairs$each, who)
  part <- function(side) {
    out <- numeric(length(who))
    if (any(side)) {
      added <- rowsum(abs(change[side]), whose[side])
      out[as.integer(rownames(added))] <- added
    }
    out
  }
  lost <- part(change < -1e-9 & name %in% s$old)
  gained <- part(change > 1e-9 & name %in% s$new)
  c(moved = sum(pmin(lost, gained)), gained = sum(gained))
}
