# Benchmark: everyone as a percentage of a line, from the best, given, a percentile, or each one's
# own plan.

declared_benchmark <- declare(
  "benchmark", "Everyone as a percentage of the best few, of a given target, or of their own plan",
  answers = "How far is everyone from the best few, from a target, or from their plan?",
  asked = "benchmark of reps from the best 3 in 2026",
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs", required = TRUE),
    metrics = arg_metrics("the metric (default: the book's first)"),
    best = arg("whole", "the target is the level of the best so many (default: 3)"),
    level = arg("choice",
                "of the best: their mean (for a rate, all of them together), median, lowest",
                "mean", choices = c("mean", "median", "lowest")),
    fixed = arg("level", "instead: the target is this value, such as 50000 or 30%"),
    percentile = arg("number", "instead: the target is this percentile of the names", from = 0,
                     to = 100),
    plan = arg("plan", paste("instead: each one's own target, a field of the register, or a file",
                             "with the names, amount and, if wanted, period")),
    bands = arg("percents", "bounds of the bands, in percent of the target (default: 50,80,100)"),
    min_orders = arg("whole", "fewest orders a name must have"),
    resamples = arg_resamples, seed = arg_seed, where = arg_where, when = arg_when),
  examples = c(
    "--each rep --best 3 --when 2026",
    "--each rep --metrics margin_rate --best 5 --min-orders 20",
    "--each rep --plan quota --when 2025",
    "--each account --percentile 90 --level median"),
  next_answer = c("over_time", "why", "split"),
  next_row = c("full", "beside", "why", "inside", "lines"))

#' Benchmark: everyone against a target
#'
#' Sets a target and gives every name's value as a percentage of it, in bands. The target is the
#' level of the best few, a given value, a percentile, or each one's own plan; it follows every
#' condition.
#'
#' The best are the names on the first `best` ranks, ties at the last of them included. Their level
#' is the mean, the median or the lowest of their values; for rates and other averages the mean is
#' the metric of all of them together, the ratio of their totals. Where less of the metric is better
#' the best have the lowest values and the percentage is the target over the value, so that 100 %
#' still means the target is reached. Percentiles are those of type 7 (Hyndman and Fan 1996).
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs.
#' @param metrics (text) one metric, as in [ll_standings()].
#' @param best (whole number) the target is the level of so many; 3 if no other target is asked for.
#' @param level (text) `"mean"`, `"median"` or `"lowest"` of the best (the least good of them).
#' @param fixed (number, or text such as `"30%"`) the target itself, in the metric's unit.
#' @param percentile (number, 0 to 100) the target is this percentile of the names' values.
#' @param plan (text or data frame) each one's own target: a field of the register of `each`, or a
#'   file or table with a column named like `each`, `amount`, and if wanted `period` (any period of
#'   the calendar, such as `2026-Q2`). Amounts of periods inside `when` are added up, those partly
#'   inside by their days.
#' @param bands (shares; numbers above 1 and text with `%` are percent) bounds of the bands; 50, 80
#'   and 100 % if not given.
#' @param min_orders (whole number) names with fewer orders are left out, of the best too.
#' @param resamples,seed (whole numbers) as in [ll_standings()]: ranges of ranks under resampled
#'   orders.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_benchmark`, a row for each name, best first: the
#'   dimensions, `rank`, the metric, `benchmark` (the target), `of_benchmark` (0.8 for 80 %; missing
#'   where the target is not above zero), `to_benchmark` (what is missing to the target; negative
#'   beyond it), `band`; with `resamples` its columns of [ll_standings()]. With a plan, names that
#'   have one and no lines are rows too. Parts: `bands` (lower bound, names, value of each), `best`
#'   (the names the target is made of), `foot`.
#' @section Notes given: Ties among the best, best names with few orders, names without a plan,
#' plans of periods not in the question, targets not above zero, lines without a name, incomplete
#' periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for two kinds of target at once, and
#' for a plan without the names or amounts.
#' @references Hyndman, R. J. and Fan, Y. (1996) Sample quantiles in statistical packages. *The
#' American Statistician* 50, 361-365.
#' @examples
#' ll_benchmark(ll_demo(), each = "rep", best = 3, when = "2026")
#' ll_benchmark(ll_demo(), each = "rep", plan = "quota", when = "2025")
#' @export
ll_benchmark <- function(book, each, metrics = NULL, best = NULL, level = "mean", fixed = NULL,
                         percentile = NULL, plan = NULL, bands = NULL, min_orders = NULL,
                         resamples = NULL, seed = 1, where = NULL, when = NULL) {
  answer(declared_benchmark, book, as.list(environment()))
}
