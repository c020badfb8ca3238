# Score: one number of several metrics, and how much of a rank is owed to the weights.

declared_score <- declare(
  "score", "One score of several metrics, and how far ranks depend on the weights",
  answers = "Who is best on several metrics together, and how far does that hang on the weights?",
  asked = "score reps on revenue, margin rate and orders",
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs", required = TRUE),
    metrics = arg("metrics", "the metrics of the score", required = TRUE),
    weights = arg("values",
                  "weights in the order of the metrics, or named: revenue=3,margin_rate=1"),
    low = arg("words", "metrics of which less is better, beside those the book knows as such"),
    scaling = arg("choice", paste("how metrics are made comparable: by rank, within their range,",
                                  "in standard deviations, to the best, or to a goal"), "rank",
                  choices = c("rank", "range", "z", "best", "goal")),
    goals = arg("values", "with scaling goal: revenue=500000,margin_rate=40%"),
    cap = arg("number", "with scaling goal: no more than so many times the goal counts", 1,
              from = 0),
    combine = arg("choice", "how the parts make the score", "sum", choices = c("sum", "product")),
    clip = arg("percents", "put values beyond these percentiles on them: 5%,95%"),
    missing = arg("choice",
                  "a name without one of the values: drop it, take the worst, or reweight",
                  "drop", choices = c("drop", "worst", "reweight")),
    draws = arg("whole", "random weightings tried (default: 2000; 0 for none)", from = 0,
                to = draws_most),
    concentration = arg("number", "how close random weights stay to those given", 20, from = 1e-6),
    resamples = arg_resamples, seed = arg_seed,
    in_top = arg("whole", "also how often a name is among the first so many", 10),
    min_orders = arg("whole", "fewest orders a name must have to be ranked"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each rep --metrics revenue,margin_rate,orders --weights 3,2,1",
    "--each account --metrics revenue,margin_rate,average_order --scaling range --clip 5%,95%",
    paste("--each rep --metrics revenue,margin_rate --scaling goal --goals",
          "revenue=150000,margin_rate=42% --when 2025")),
  next_answer = c("over_time", "split"),
  next_row = c("full", "beside", "inside", "why"))

#' Score: one number of several metrics
#'
#' Puts metrics of different size on one scale, weighs and adds them, and then shows how far the
#' ranks depend on the weights.
#'
#' Scalings, higher always better (turned for metrics of which less is better):
#' * `"rank"`: (n - rank + 1/2) / n, tied names sharing the mean rank; all equal gives 1/2
#' * `"range"`: 0 for the worst, 1 for the best; all equal gives 1/2
#' * `"z"`: sample standard deviations from the mean; all equal gives 0
#' * `"best"`: the value over the highest, or the lowest over the value; needs values above zero to
#'   compare with; negative values count as negative
#' * `"goal"`: the value over the goal, or the goal over the value, at most `cap`
#'
#' Weights are made to add up to 1. The score is 100 times the weighted sum (for `z` the sum
#' itself), and each metric's points add up to it. `combine = "product"` takes 100 times the
#' weighted geometric mean, for which every scaled value must be above zero.
#'
#' Random weights are drawn from a Dirichlet distribution around those given: the standard deviation
#' of a weight w is sqrt(w (1 - w) / (concentration + 1)), so 0.11 for w = 0.5 at the usual 20.
#' Weights of 0 stay 0. Ranges of ranks are the 5th and 95th percentile over the draws, exact up to
#' rank 200, to 1 % beyond. Draws are made for up to 100,000 names unless `draws` is given.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs.
#' @param metrics (text) two metrics or more, as in [ll_standings()].
#' @param weights (numbers, not negative, not all 0; or a text such as `"revenue=3,orders=1"`) equal
#'   if not given.
#' @param low (text) metrics of which less is better, beside those with `better: low`.
#' @param scaling (text) `"rank"`, `"range"`, `"z"`, `"best"` or `"goal"`.
#' @param goals (named numbers, or text such as `"revenue=500000,margin_rate=40%"`) a goal above
#'   zero for each metric.
#' @param cap (number) how many times its goal a metric may count.
#' @param combine (text) `"sum"` or `"product"`.
#' @param clip (two shares, such as `c(.05, .95)`) percentiles (type 7) on which values beyond them
#'   are put before scaling.
#' @param missing (text) `"drop"` leaves names without one of the values out, `"worst"` gives them
#'   the lowest scaled value of the others, `"reweight"` raises their other weights.
#' @param draws (whole number, 0 to 65,000) random weightings; 2000 if not given.
#' @param concentration (number above 0) of the Dirichlet distribution.
#' @param resamples (whole number) as in [ll_standings()]: ranks when orders are resampled, all
#'   metrics scaled and scored again in each resample.
#' @param seed (whole number) the same seed gives the same draws on every machine.
#' @param in_top (whole number) the ranks of the column `in_top`.
#' @param min_orders (whole number) names with fewer orders are not ranked.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_score`, a row for each name ranked, best first: `rank`,
#'   the dimensions, `score`, `rank_p5` and `rank_p95` (ranks in 5 and 95 percent of the draws),
#'   `in_top` (share of draws among the first), the metrics, `<metric>_points`, and `not_dominated`
#'   (`"yes"` where no other name is better on every metric at once; for up to 100,000 names); with
#'   `resamples` its columns of [ll_standings()].
#'   Parts: `weights` (metric, weight as used, direction, values clipped), `without` (each name's
#'   rank without each metric), `correlations` (rank correlation of each pair), `scaled`.
#' @section Notes given: Metrics so alike that they count twice, metrics without variation, names
#' left out or given a value, clipped values, leads that other weights turn round, ties.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for fewer than two metrics, weights
#' that are negative, all 0 or of other metrics, goals not above zero; `ll_error_data` for `best`
#' without a value above zero, and for a product of values not above zero.
#' @references Devroye, L. (1986) *Non-Uniform Random Variate Generation*, ch. XI (Dirichlet).
#' Hyndman, R. J. and Fan, Y. (1996) Sample quantiles in statistical packages. *The American
#' Statistician* 50, 361-365. Spearman, C. (1904) *American Journal of Psychology* 15, 72-101.
#' @examples
#' ll_score(ll_demo(), each = "rep", metrics = c("revenue", "margin_rate"), weights = c(2, 1))
#' @export
ll_score <- function(book, each, metrics, weights = NULL, low = NULL, scaling = "rank",
                     goals = NULL, cap = 1, combine = "sum", clip = NULL, missing = "drop",
                     draws = NULL, concentration = 20, resamples = NULL, seed = 1, in_top = 10,
                     min_orders = NULL, where = NULL, when = NULL) {
  answer(declared_score, book, as.list(environment()))
}
