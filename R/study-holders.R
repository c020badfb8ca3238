# Holders: who holds the highest or lowest value, in each group.

declared_holders <- declare(
  "holders", "Who holds the highest or lowest value, line or order, in each group",
  answers = "Who holds the highest or the lowest value, of all or in each group?",
  asked = c("which account has the largest order", "the largest order in each territory"),
  args = list(
    each = arg("words", "whose value: a dimension, or the order's field (default: single lines)"),
    metrics = arg_metrics("the metric (default: the book's first); for lines the sum of a formula"),
    which = arg("choice", "the highest or the lowest", "highest", choices = c("highest", "lowest")),
    within = arg("words", "one holder for each name of this dimension, or of each pair"),
    part = arg("choice", paste("with within: the value inside the group, or of the whole name",
                               "(a whole order, say)"), "inside", choices = c("inside", "whole")),
    with_fields = arg("words", "further fields of what they hold: rep,order_date"),
    min_orders = arg("whole", "fewest orders a name must have"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each order_no --with-fields rep,account,order_date",
    "--each account --within territory --metrics margin_rate --min-orders 10",
    "--within family --with-fields order_no,rep --when 2025",
    "--each order_no --within family --part whole --which lowest"),
  next_answer = c("all", "over_time", "split"),
  next_row = c("lines", "full", "inside", "why"))

#' Holders: who holds the extreme
#'
#' Finds who holds the highest or lowest value of a metric, or the largest or smallest order or
#' single line; for each group where `within` is given. Everyone who holds it is named when tied,
#' with the runner-up and the lead.
#'
#' Inside a group the value is that of the name's lines in the group. With `part = "whole"` it is
#' the name's whole value in the question, and the group only says who is considered: the largest
#' whole order among those with a line of the family. Equal means equal to the cent, for quotients
#' within a relative 1e-9. Lines without a name of `each` hold nothing; those without a name of
#' `within` make the group `(none)`.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose value: a dimension, several for pairs, or the order's field; single
#'   lines if not given.
#' @param metrics (text) one metric, as in [ll_standings()]; for lines the sum of one formula.
#' @param which (text) `"highest"` or `"lowest"`.
#' @param within (text) a dimension, or several for their pairs.
#' @param part (text) `"inside"` the group, or of the `"whole"` name.
#' @param with_fields (text) further fields of what they hold; where the lines of a name differ in
#'   it, the values are listed. For lines and orders the order, date and rep, if not given.
#' @param min_orders (whole number) names with fewer orders are not considered.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_holders`, a row for each holder, groups with the most
#'   extreme value first: the dimensions of `within` and `each` (for lines `line`, its number in the
#'   file), the metric, the fields of `with_fields`, `runner_up` (one name of those next, for lines
#'   the order), `<metric>_runner_up` and `lead` (the distance; 0 where several hold it).
#' @section Notes given: Values held by several, groups with one name only, few orders behind a
#' rate, names left out; incomplete periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a metric over lines that is no sum
#' of a formula.
#' @examples
#' ll_holders(ll_demo(), each = "order_no", with_fields = c("rep", "order_date"))
#' ll_holders(ll_demo(), each = "rep", within = "territory", metrics = "margin_rate")
#' @export
ll_holders <- function(book, each = NULL, metrics = NULL, which = "highest", within = NULL,
                       part = "inside", with_fields = NULL, min_orders = NULL, where = NULL,
                       when = NULL) {
  answer(declared_holders, book, as.list(environment()))
}
