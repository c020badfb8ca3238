# Substitution: which products' losses may be other products' gains among the same customers.

declared_substitution <- declare(
  "substitution", "Which products' losses may be other products' gains among the same customers",
  answers = "Did customers buy the new product in place of the old one?",
  asked = c("what replaced HV-001", "what did HV-018 replace"),
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
  bare = "--each account --product item --when 2026-Q2 --top 5",
  next_answer = c("why", "over_time", "gone"))

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
#' @inheritParams ll_standings
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
#' @section Notes given: That these are bounds; customers without a name; incomplete periods.
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
  answer(declared_substitution, book, as.list(environment()))
}
