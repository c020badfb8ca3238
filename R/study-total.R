# Total: how much it is, in one figure, and against a year before.

declared_total <- declare(
  "total", "How much it is, in one figure: metrics over a period, against another",
  answers = "How much is it, and how much was it before?",
  asked = c("how much did schools spend in 2025", "how many accounts bought hives this year"),
  args = list(
    metrics = arg_metrics(),
    where = arg_where, when = arg_when,
    against = arg("period", paste("the period then: year before, previous, 2025 (default: the",
                                  "year before, where the book covers it)"))),
  examples = c("--metrics revenue,orders,average_order --when 2025",
               "--only territory=Moor --when 'last quarter' --against previous"),
  bare = "--when 2025",
  next_answer = c("why", "split", "over_time", "lines"))

#' Total: how much it is, in one figure
#'
#' Metrics over all lines of a question, recalculated from them, beside what they were before.
#'
#' @param book (`ll_book`) the book.
#' @param metrics (text) as in [ll_standings()]; the first one makes the finding.
#' @param where,when (text) as in [ll_standings()].
#' @param against (text) the period compared with, as in [ll_standings()]. Where it is not given
#'   but a period is, the year before, if the book covers it.
#'
#' @return A data frame of class `ll_result_total`, a row for each metric: `metric`, `value`, its
#'   `unit`, and where there is something to compare with `before`, `change` with its `change_unit`
#'   (points for rates) and `growth` (missing for rates, and unless the value before was above
#'   zero). Dates are days since 1970.
#' @section Notes given: Incomplete periods, periods of different length, lines without a value.
#' @section Errors: As [ll_standings()].
#' @seealso [ll_trend()] for the periods one after the other, [ll_bridge()] for what made a change.
#' @examples
#' book <- ll_demo()
#' ll_total(book, c("revenue", "orders"), when = "2025")
#' ll_finding(ll_total(book, when = "last quarter", against = "previous"))
#' @export
ll_total <- function(book, metrics = NULL, where = NULL, when = NULL, against = NULL) {
  answer(declared_total, book, as.list(environment()))
}
