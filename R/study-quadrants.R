# Quadrants: two metrics of each name, divided by a line each.

declared_quadrants <- declare(
  "quadrants", "Two metrics of each name with dividing values: who is high, who is low",
  answers = "Who is high and who is low on two metrics, such as revenue and margin?",
  asked = "accounts above average on revenue and margin rate",
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs", required = TRUE),
    metrics = arg("metrics", "two metrics, the first across and the second up; a third bands names",
                  required = TRUE),
    x_divide = arg("level", paste("the first metric's dividing value: mean, median, total (that",
                                  "of all together) or a number (default: total for rates, else",
                                  "mean)"),
                   choices = c("mean", "median", "total")),
    y_divide = arg("level", "the second metric's dividing value, likewise",
                   choices = c("mean", "median", "total")),
    bands = arg("bounds", "bands of the third metric: 'thin=0,fair=0.25' (default: thirds)"),
    over = arg("choice", "the third metric's bands: over the lines shown, or over the whole book",
               "shown", choices = c("shown", "book")),
    min_orders = arg("whole", "fewest orders a name must have to be ranked"),
    highlight = arg("words", "bring one quadrant to the front: high,low for the first high only"),
    axes = arg("choice", "axes of the figure: plain, log, or log where values are skewed",
               "fitting", choices = c("fitting", "plain", "log")),
    where = arg_where, when = arg_when,
    against = arg("period", "also the quadrants in this period: previous, year before, 2025")),
  examples = c(
    "--each account --metrics revenue,margin_rate --highlight high,low",
    paste("--each item --metrics revenue,rise --define 'rise=growth(revenue)' --y-divide 0",
          "--when 2025 --against 2024"),
    "--each rep --metrics orders,average_order,margin_rate --x-divide median --y-divide 400"),
  next_answer = c("year_before", "over_time", "share"),
  next_row = c("full", "inside", "lines", "could_buy", "without"))

#' Quadrants: two metrics of each name
#'
#' Divides names by two metrics, each with a dividing value, and tells who is in which quadrant,
#' what each holds, and who is too near to one to be sure of.
#'
#' Lines are worked out over exactly the names that are shown, after every condition: the mean or
#' median of their values, or the metric of all of them together (`total`), which for a rate is the
#' ratio of the totals. A name on a dividing value counts as above it: equal to the cent, or for
#' quotients within a relative 1e-9. A name is near one when it is closer than 5 percent of the
#' interquartile range of the names shown.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs.
#' @param metrics (text) two metrics, as in [ll_standings()]; `change()` and `growth()` too when
#'   `against` is given. The first also gives the ranks. A third one bands the names.
#' @param x_divide,y_divide (`"mean"`, `"median"`, `"total"` or a number in the metric's own unit,
#'   such as 5000, 0.3 or `"30%"`) the dividing values. Not given, it is `total` for rates and other
#'   averages, `mean` for the rest.
#' @param bands (as `tiers` in [ll_tiers()]) lower bounds for the third metric; not given, three
#'   groups of equal numbers of names.
#' @param over (text) whether the third metric and its bands are those of the lines `"shown"` or of
#'   the whole `"book"`, whatever the conditions.
#' @param min_orders (whole number) names with fewer orders are left out, and counted.
#' @param highlight (two of `"high"` and `"low"`) the quadrant that finding and figure put first.
#' @param axes (text) axes of the figure: `"plain"`, `"log"` (symmetric about zero, so that losses
#'   have a place), or `"fitting"`: log for a metric whose largest value is more than 12 times its
#'   upper quartile.
#' @inheritParams ll_standings
#' @param against (text) a period to compare with. Where a metric is a change or growth it gives
#'   their base; else the quadrants of that period, by its own dividing values, stand beside these.
#'
#' @return A data frame of class `ll_result_quadrants`, a row for each name, in order of rank: the
#'   dimensions, `rank` (by the first metric), the metrics, `<third>_band`, `quadrant` (such as
#'   `"high revenue, low margin rate"`), `near_divide` (the metric whose dividing value is near, or
#'   `"both"`). With `against`, `quadrant_before`. Where neither metric adds up, the book's first
#'   that does stands beside them. Parts: `quadrants` (names and their share, value of the metric
#'   that adds up and its share, for each), `foot`, `bands` (lower bound and names), with `against`
#'   also `moves`. Settings: `x_divide` and `y_divide` as numbers.
#' @section Notes given: Names near or on a dividing value, names left out (no value, too few
#' orders, no name), crossings, and those owed to the dividing value rather than to the name; part
#' periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for fewer than two metrics, and for
#' `total` as the dividing value of a metric of which only sums of all names would come out.
#' @examples
#' ll_quadrants(ll_demo(), each = "account", metrics = c("revenue", "margin_rate"))
#' @export
ll_quadrants <- function(book, each, metrics, x_divide = NULL, y_divide = NULL, bands = NULL,
                         over = "shown", min_orders = NULL, highlight = NULL, axes = "fitting",
                         where = NULL, when = NULL, against = NULL) {
  answer(declared_quadrants, book, as.list(environment()))
}
