# Bridge: from the value then to the value now in steps that add up.

declared_bridge <- declare(
  "bridge", "Why a metric changed: from then to now in steps that add up",
  answers = "What made a metric change between two periods: which names, price, volume or mix?",
  asked = c("bridge of revenue by territory in Q2 2026",
            "bridge of revenue by item, price volume and mix"),
  args = list(
    metrics = arg_metrics("the metric to explain (default: the book's first)"),
    by = arg("words", "the dimension whose names are the steps: territory, account, item"),
    into = arg("choice", paste("what the steps are: segments of 'by'; its names as new, returned,",
                               "grown, shrunk, gone; price, volume and mix; or factors"),
               "segments", choices = c("segments", "names", "price", "factors")),
    quantity = arg("text", "price: the measure or metric that is the quantity (default: guessed)"),
    alike = arg("text", paste("price: a dimension within whose names products share a unit, or",
                              "all; then volume and mix are told apart")),
    factors = arg("metrics", "factors: metrics whose product is the metric"),
    in_order = arg("flag", "factors: move them one after the other, in the order given", FALSE),
    per_day = arg("choice", "put both periods per day: calendar days, or Monday to Friday",
                  choices = c("calendar", "working")),
    top = arg("whole", "steps shown; the others are gathered, gains and losses apart", 10),
    where = arg_where,
    when = arg("period", "the period now", "this year to date"),
    against = arg("period", "the period then: year before, previous, 2025", "year before")),
  examples = c(
    "--metrics revenue --by territory --when 2026-Q2",
    "--metrics margin_rate --by family --when 2026-Q2",
    "--by account --into names",
    "--by item --into price --quantity quantity --alike family",
    paste("--into factors --define 'customers=distinct(account)' --define",
          "'orders_each=orders / customers' --factors customers,orders_each,average_order")),
  next_answer = c("why", "names", "over_time", "gone"),
  next_row = c("why", "inside", "lines", "only", "without"))

#' Bridge: from the value then to the value now
#'
#' Splits the change of a metric between two periods into steps that add up to it exactly. All
#' splits are symmetric: with the periods swapped every step has the other sign.
#'
#' * **segments** of a metric that adds up: each name's change, its part of the net change and of
#'   the gross movement (gains plus losses). Parts of the net change are withheld where it is less
#'   than a tenth of the gross movement: gains and losses then nearly cancel, and such parts tell
#'   nothing.
#' * **segments** of a rate, a metric of the form `a / b` or `mean(x)`: an effect of each name's own
#'   rate and one of mix, the change of its weight in `b`. Both at midpoints; mix is measured from
#'   the whole's rate.
#' * **names**: those of `by` that are new (no lines before the period now), new since (the
#'   first between the periods), returned (lines before the period then, none in it), grown, shrunk
#'   and gone, by the lines of the whole book. Under conditions those whose lines of the other
#'   period
#'   these leave out are from elsewhere, or elsewhere. Part `like_for_like` has the names of both
#'   periods alone.
#' * **price**: price and quantity of every product that has a quantity in both periods, in Bennet's
#'   midpoint form; with `alike` quantity is told apart further into volume and mix. New products,
#'   products gone, products whose quantity is not above zero, and amounts without a quantity
#'   (credits, charges) have steps of their own.
#' * **factors**: how much each of the factors of a product contributes, by Shapley's value: the
#'   mean effect over every order in which they may be moved.
#'
#' @param book (`ll_book`) the book; it needs a date.
#' @param metrics (text) one metric, as in [ll_standings()].
#' @param by (text) one dimension; needed except for factors.
#' @param into (text) `"segments"`, `"names"`, `"price"` or `"factors"`.
#' @param quantity (text) a measure of the lines, or a metric that is one sum, such as `"units"`.
#' @param alike (text) a dimension, or `"all"`: products share a volume within each of its names.
#'   Without it no two products share one, since pieces and kilograms do not add up.
#' @param factors (text) two to eight metrics, or named formulas, whose product is the metric.
#' @param in_order (`TRUE` or `FALSE`) whether factors are moved one after the other as given,
#'   instead of by Shapley's value. Each step then depends on its turn.
#' @param per_day (text) `"calendar"` or `"working"` days (Monday to Friday): both periods are
#'   divided by their days that the book covers. For metrics that add up.
#' @param top (whole number) how many names of `by` have a step of their own.
#' @inheritParams ll_standings
#' @param when,against (text) the period now and the one it is compared with.
#'
#' @return A data frame of class `ll_result_bridge`, a row for each step, in its order. Segments:
#'   the dimension, `presence` (`"stayed"`, `"new"`, `"gone"`), `<metric>_before`, the metric,
#'   `<metric>_change`, `<metric>_growth`, `net_share` and `gross_share`; of a rate `mix_before`,
#'   `mix_now` (shares of the denominator), `<metric>_before`, the metric, `<metric>_rate_effect`,
#'   `<metric>_mix_effect` and `<metric>_effect`. Names: `step`, `name_count` and the same columns.
#'   Price: `step`, `<metric>_change`, `net_share`, `gross_share`. Factors: `step`, `before`, `now`,
#'   `growth`, `<metric>_effect`. Parts: `steps` (`step`, `change`, `from`, `to`), `names` or
#'   `products` (every one with its values), `like_for_like`.
#' @section Notes given: Gains and losses that nearly cancel, incomplete periods and periods of
#' unequal
#'   length, products without a price, a quantity that was guessed, names that may be older than
#'   the book.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for metrics that do not add up over
#'   the steps, and for factors whose product is not the metric; `ll_error_data` where the book has
#'   no lines in one of the periods.
#' @section Sources: Bennet (1920), The theory of measurement of changes in cost of living, Journal
#'   of the Royal Statistical Society 83. Diewert (2005), Index number theory using differences
#'   rather than ratios, American Journal of Economics and Sociology 64. Shapley (1953), A value for
#'   n-person games.
#' @examples
#' book <- ll_demo()
#' ll_bridge(book, "revenue", "territory", when = "2026-Q2")
#' ll_bridge(book, "margin_rate", "family", when = "2026-Q2")
#' ll_part(ll_bridge(book, by = "account", into = "names"), "like_for_like")
#' ll_bridge(book, by = "item", into = "price", quantity = "quantity", alike = "all")
#' @export
ll_bridge <- function(book, metrics = NULL, by = NULL, into = "segments", quantity = NULL,
                      alike = NULL, factors = NULL, in_order = FALSE, per_day = NULL, top = 10,
                      where = NULL, when = "this year to date", against = "year before") {
  answer(declared_bridge, book, as.list(environment()))
}
