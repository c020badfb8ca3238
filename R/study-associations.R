# Associations: how strongly each field goes with a measure.

declared_associations <- declare(
  "associations", "How strongly each field goes with a measure, checked against chance",
  answers = "Which fields go with a metric: what explains most of its variation?",
  asked = "what goes with revenue",
  args = list(
    each = arg("words", "what is compared: lines, or a dimension or identifier (default: lines)"),
    metrics = arg("metrics", "the metric whose variation is looked at; for lines a sum"),
    by = arg("words", "the fields (default: all that tell something)"),
    shuffles = arg("whole", "how often chance is tried", 199, from = 19, to = 9999),
    seed = arg("whole", "where the random numbers start", 1),
    sample = arg("whole", "with more lines than this, so many are taken evenly", 200000,
                 from = 1000),
    where = arg_where, when = arg_when),
  examples = c(
    "--metrics revenue",
    "--each account --metrics revenue",
    "--each order_no --metrics revenue --by rep,territory,channel,type"),
  next_answer = c("split", "over_time"))

#' Associations: what goes with what
#'
#' For a measure of lines, orders or names, how much of its variation goes with each field. Fields
#' are ranked by the share explained, adjusted for how many names they have and checked by shuffling
#' whole orders, so that a field of thousands of names does not win by chance.
#'
#' For a field of names the share explained is eta squared, the sum of squares between its names
#' over the whole; numbers are cut into at most 20 stretches of equal counts (five values or more),
#' and have Spearman's rank correlation besides. `adjusted` is (eta squared - expected) / (1 -
#' expected), where expected is what chance gives on average: exactly (k - 1) / (n - 1) for k names
#' and n values, which makes it epsilon squared (Kelley 1935); over lines of orders the mean of the
#' shuffles, since lines of one order are alike. `chance` is the value that 5 % of the shuffles
#' exceed. Orders are shuffled among those of as many lines. Strength, chance and `names` are among
#' the lines, orders or names where the field is known (`known` of them); whether it is known is
#' looked at apart, and told in a note where it goes with the measure. On 400 made-up books where
#' nothing goes with anything (150 orders of unequal size), fields of 60 and of 2 names passed
#' chance in 4 and 6 % of them. The words for `strength` follow Cohen (1988): from 1 % weak, from 6
#' % moderate, from 14 % strong.
#'
#' A field *runs through* another when, once the other is taken into account, less than half of its
#' strength is left (the adjusted partial R squared of an additive model; over lines of orders what
#' chance gives is measured by shuffling whole orders of what the other leaves). It is shown for the
#' weaker of the two, or where the other is the coarser form of the same thing.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) what is compared: lines if not given, an identifier such as the order, or a
#'   dimension. A field that differs within more than 1 % of the names is left out; where it differs
#'   within fewer, what most of a name's lines say decides (of several as common the first by name).
#' @param metrics (text) one metric, as in [ll_standings()]; for lines a sum of one formula.
#' @param by (text) fields: dimensions, parts of dates, measures (over lines) or metrics (over
#'   orders and names). If not given, all that tell something and are not made from the same fields
#'   as the metric.
#' @param shuffles (whole number, 19 to 9999) how often the values are shuffled.
#' @param seed (whole number) where the random numbers start; the same seed gives the same result.
#' @param sample (whole number, 1000 up) with more lines than this, whole orders are taken evenly
#'   until there are so many; the reading says so.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_associations`, a row for each field, strongest first:
#'   `field`, `kind` (`"names"` or `"numbers"`), `names` (how many), `explained`, `adjusted`,
#'   `chance` (shares, 0 to 1), `rank_correlation` (numbers only, -1 to 1), `strength`, `through`
#'   (the field it runs through, or empty), `left` (the share left beyond that field) and `known`
#'   (how many lines, orders or names have a value of the field). Parts:
#'   `pairs` (each of the strongest fields given each other), `left_out` (fields left out, and why).
#' @section Notes given: That association is no cause; fields left out; a few values that hold most
#' of the variation; fields of which it tells something whether they are known; sampled lines.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for several metrics, or for a metric
#' over lines that is no sum of a formula.
#' @references Cohen, J. (1988) *Statistical Power Analysis for the Behavioral Sciences*, 2nd
#' edition, section 8.2. Kelley, T. L. (1935) An unbiased correlation ratio measure. *PNAS* 21,
#' 554-559. \doi{10.1073/pnas.21.9.554}
#' @examples
#' ll_associations(ll_demo(), each = "account", metrics = "revenue", shuffles = 99)
#' @export
ll_associations <- function(book, each = NULL, metrics = NULL, by = NULL, shuffles = 199,
                            seed = 1, sample = 200000, where = NULL, when = NULL) {
  answer(declared_associations, book, as.list(environment()))
}
