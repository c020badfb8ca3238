# Distribution: how many lines, orders or names lie in each band of a value.

declared_distribution <- declare(
  "distribution", "How many lines, orders or names lie in each band of a value, and what they hold",
  answers = "How many lines, orders or customers lie in each band of a value?",
  asked = c("distribution of revenue of accounts", "how large are our orders"),
  args = list(
    each = arg("words", "what is counted: a dimension or identifier (default: lines)"),
    metrics = arg("metrics", "the metric whose spread is shown; for lines the sum of one field"),
    width = arg("number", "the width of a band (default: a round one from the values)"),
    by = arg("words", "apart for each name of this dimension"),
    where = arg_where, when = arg_when),
  examples = c(
    "--metrics revenue --each account",
    "--metrics revenue --each order_no --width 250",
    "--metrics units"),
  next_answer = c("share", "split", "over_time"),
  next_row = c("lines", "inside", "without"))

#' Distribution: how values spread
#'
#' Counts lines, orders or the names of any dimension in bands of a metric, with what each band
#' holds. Bands are half open, the lower bound included, and zero is always a bound, so that losses
#' stand apart.
#'
#' The width proposed is that of Freedman and Diaconis, 2 IQR / n^(1/3), rounded to 1, 2, 2.5 or 5
#' times a power of ten, and at least 1 for whole numbers. Where the quartiles coincide it is the
#' range divided by 20. There are at most 60 bands: where the range is long, the first and last are
#' open and hold everything beyond them.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) what is counted: a dimension or an identifier such as the order; lines if not
#'   given.
#' @param metrics (text) one metric, as in [ll_standings()]; for lines a sum of one formula.
#' @param width (number above 0) the width of a band.
#' @param by (text) a dimension; the distribution is given apart for each of its first 6 names by
#'   count.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_distribution`, a row for each band (and name of `by`):
#'   `from` and `to` (missing where open), `count`, `count_share`, `count_running_share`, the
#'   metric's total in the band and its `_share` of the positive total. Parts: `summary` (count,
#'   mean, median, quantiles, deviation, skewness, how many lie beyond 1.5 IQR of the quartiles).
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a width that is not above zero, for
#' several metrics, or for a metric over lines that is no sum of a formula.
#' @references Freedman, D. and Diaconis, P. (1981) On the histogram as a density estimator.
#' *Zeitschrift fuer Wahrscheinlichkeitstheorie* 57, 453-476. \doi{10.1007/BF01025868}
#' @examples
#' ll_distribution(ll_demo(), each = "account", metrics = "revenue")
#' @export
ll_distribution <- function(book, each = NULL, metrics = NULL, width = NULL, by = NULL,
                            where = NULL, when = NULL) {
  answer(declared_distribution, book, as.list(environment()))
}
