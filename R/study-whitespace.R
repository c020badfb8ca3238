# White space: what names like this one buy and this one does not.

declared_whitespace <- declare(
  "whitespace", "What names like this one buy and this one does not, by what it may be worth",
  answers = "What do the best customers buy that this one does not?",
  asked = "what else could account 02093 buy",
  args = list(
    each = arg("words", "who buys: a dimension, such as account or territory", required = TRUE),
    product = arg("words", "what is bought: a dimension, such as family or item", required = TRUE),
    metrics = arg_metrics("the metric, one that adds up (default: the book's first)"),
    name = arg("words", "only the gaps of these names"),
    top = arg("level", "the best so many names, or all; each is held against the others", 40,
              choices = "all"),
    like = arg("words", "held only against names with the same of this: type (repeat with commas)"),
    buyers = arg("whole", "fewest buyers a product must have among them", 10),
    gap = arg("choice", paste("a gap is a product not bought at all (none), or less than half of",
                              "what its share elsewhere would make it (little), as for a few",
                              "territories"), "fitting", choices = c("fitting", "none", "little")),
    max_gaps = arg("whole", "gaps listed at most", 1000),
    with_fields = arg("words", "further fields of the names: contact,rep"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each account --product family --with-fields rep",
    "--each account --product item --name 02093 --like type --top all",
    "--each account --product family --top all --where 'account_size == \"key\"'",
    "--each territory --product item --when 2026-Q2"),
  bare = "--each account --product item --top 5",
  next_answer = c("share", "gone"),
  next_row = c("full", "lines", "inside"))

#' White space: what like names buy and this one does not
#'
#' Finds gaps: products that names like this one buy and this one does not, by what they may be
#' worth, with the count behind each.
#'
#' The names compared are the best `top` (or all that meet the conditions); with `like` only those
#' that share its fields. A product is judged when at least `buyers` of them buy it, which is a
#' value above zero. What a gap may be worth goes by the name's size: the median share that the
#' product has in the buyers' totals, of the name's own total, no more than the largest amount that
#' a buyer up to its size buys (of the smallest buyer, where all are larger), times the share of the
#' other names that buy the product. Where the lines cover a year or more it is worth by the year.
#' It is what is usual, not a forecast; where the book has two years, a note tells how much of what
#' the same reckoning gave a year before came true in the year after.
#'
#' With `gap = "little"`, for few names such as territories, the product's share of a name's total
#' is held against its share in all others together; a gap is less than half of what that share
#' would make it, and worth what is missing to it. Without `gap` this serves for fewer names than
#' twice `buyers`.
#'
#' Only pairs that occur are held, never a table of all names by all products.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) who buys: one dimension.
#' @param product (text) what is bought: one other dimension.
#' @param metrics (text) one metric that adds up, as in [ll_standings()].
#' @param name (text) names whose gaps are wanted; all that are compared if not given.
#' @param top (whole number or `"all"`) the best so many names by the metric, all tied at the edge.
#' @param like (text) fields in which names must agree to be held against each other; of the
#'   register, or of the lines as on each name's latest line.
#' @param buyers (whole number) fewest buyers of a product.
#' @param gap (text) `"none"`, `"little"`, or the fitting one.
#' @param max_gaps (whole number) how many gaps are listed.
#' @param with_fields (text) further fields, as in [ll_sets()].
#' @param where,when (text) as in [ll_standings()]: a tier, a territory, a period.
#'
#' @return A data frame of class `ll_result_whitespace`, a row for each gap, most worth first, then
#'   by the name's rank: the dimension, the fields of `with_fields`, the product, `worth`, `buyers`,
#'   `peers` (names compared, this one left out), `common` (the share of them that buy), `typical`
#'   (the buyers' median), `typical_share` (the median of its share of their totals),
#'   `<metric>_all` (the name's total), and with `when` `last_bought` (the
#'   date of the last purchase outside the question's period, if any). With `"little"` `worth`, the
#'   metric, `expected`, `share` (of the name's total), `share_elsewhere`, `sellers`,
#'   `leader` (the name of whose total it is the largest share) and `<metric>_all`. Parts:
#'   `products` (each product judged: buyers, gaps, what they are worth together), `tried` (the
#'   back-test: day of the cut, gaps, worth, and what came in the year after) and
#'   `cells` (the names and products drawn).
#' @section Notes given: That worth is no forecast, products not judged, gaps that were bought
#' before or came back, gaps beyond those listed, ties at the edge of the top.
#' @section Errors: As [ll_standings()], `ll_error_argument` for a metric that does not add up.
#' @examples
#' book <- ll_demo()
#' ll_whitespace(book, "account", "family")
#' ll_whitespace(book, "account", "item", name = "02093", max_gaps = 5)
#' ll_whitespace(book, "territory", "item", when = "2026-Q2", max_gaps = 5)
#' @export
ll_whitespace <- function(book, each, product, metrics = NULL, name = NULL, top = 40, like = NULL,
                          buyers = 10, gap = "fitting", max_gaps = 1000, with_fields = NULL,
                          where = NULL,
                          when = NULL) {
  answer(declared_whitespace, book, as.list(environment()))
}
