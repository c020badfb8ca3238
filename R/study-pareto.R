# Pareto: who holds the first so many percent of the total.

declared_pareto <- declare(
  "pareto", "Who brings the first 80 % of the total, in classes, and how concentrated it is",
  answers = "Who makes up the first 80 % of a metric?",
  asked = "which accounts make up 80% of revenue",
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs", required = TRUE),
    metrics = arg_metrics("the metric, one that adds up (default: the book's first)"),
    cut = arg("shares", "where to cut, in percent; several give classes A, B, C (80%,95%)", .8),
    of = arg("choice", "what the cut is a share of", "total", choices = c("total", "names")),
    crossing = arg("choice", "the name that crosses the cut: in, out, or as is nearer", "in",
                   choices = c("in", "out", "nearest")),
    where = arg_where, when = arg_when,
    against = arg("period", "also the classes in this period: previous, year before, 2025")),
  examples = c(
    "--each account --metrics revenue",
    "--each account --cut 80%,95% --when 2026-Q2 --against 'year before'",
    "--each item --metrics margin --cut 20% --of names"),
  next_answer = c("year_before", "gone", "split", "over_time"),
  next_row = c("full", "inside", "why", "could_buy", "lines", "without"))

#' Pareto: who brings the first 80 percent
#'
#' Names in order of a metric with their running total and share, cut where the running share
#' reaches a given part of the total, or after a given part of the names.
#'
#' Running totals go down the order of ranks, whatever the order of the file. Shares are of the
#' total of the positive values: where there are negatives the plain total would let the running
#' share pass 100 % and come back. Names below zero are never inside a cut of the total. Tied names
#' fall on the same side of a cut.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs.
#' @param metrics (text) one metric that adds up, as in [ll_standings()].
#' @param cut (shares above 0 up to 1; numbers above 1 and text with `%` are percent) where to cut;
#'   several give classes A, B, C and so on.
#' @param of (text) what the cut is a share of: the `"total"`, or the `"names"`.
#' @param crossing (text) the name with which the running share crosses the cut: `"in"`, `"out"`, or
#'   `"nearest"`, on the side that leaves the share nearer to the cut.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_pareto`, a row for each name, largest first: the
#'   dimensions, `rank`, the metric, `<metric>_share`, `<metric>_running_total`,
#'   `<metric>_running_share` (0 to 1), and `inside` (`"yes"` or `"no"`) for one cut, `class` for
#'   several (`"below zero"` for negative values in a cut of the total). With `against`,
#'   `<metric>_before` and `inside_before` or `class_before` (`"no lines"` where there were none).
#'   Parts: `foot`, `classes` (names, value and share of each class), `concentration` (Gini
#'   coefficient, Herfindahl index, effective number of names, names that bring half; missing where
#'   values are negative, since they are defined for parts of a whole), with `against` also `moves`
#'   (names by class then and now).
#'
#' Ranking costs one pass over the lines and one sort of the names.
#' @section Notes given: Ties at the cut, a first name larger than the cut, names below zero, lines
#' without a name, names that moved class, incomplete periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a cut of 0 or above 100 %, for a
#' metric that does not add up.
#' @references Gini, C. (1912) *Variabilita e mutabilita*. Hirschman, A. O. (1964) The paternity of
#' an index. *American Economic Review* 54, 761.
#' @examples
#' ll_pareto(ll_demo(), each = "item", cut = c(.8, .95))
#' @export
ll_pareto <- function(book, each, metrics = NULL, cut = .8, of = "total", crossing = "in",
                      where = NULL, when = NULL, against = NULL) {
  answer(declared_pareto, book, as.list(environment()))
}
