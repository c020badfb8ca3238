# Trend: metrics over days, weeks, months, quarters, years, with growth on the year before.

declared_trend <- declare(
  "trend", "Follow metrics over months, quarters or years, with growth on the year before",
  answers = "How did metrics run over months, quarters or years?",
  asked = c("revenue by month", "orders by quarter and territory since 2025"),
  pictures = c("lines", "bars", "stacked", "shares"),
  args = list(
    metrics = arg_metrics(),
    every = arg("choice", "how long one period is", "month",
                choices = c("day", "week", "month", "quarter", "year", "fiscal_month",
                            "fiscal_quarter", "fiscal_year")),
    by = arg("words", "a line for each name of this dimension, the rest gathered"),
    top = arg("whole", paste("with 'by': how many names have a line of their own; a single one",
                             "left has one too"), 5),
    rolling = arg("whole", "also the mean and sum of the last so many whole periods", from = 2),
    per_day = arg("choice", "also per day of the period: calendar days, or Monday to Friday",
                  choices = c("calendar", "working")),
    indexed = arg("flag", "draw every line as a percentage of its first whole period", FALSE),
    where = arg_where, when = arg_when),
  examples = c(
    "--metrics revenue,margin_rate,orders",
    "--metrics revenue --every quarter --by territory --top 3",
    "--metrics revenue --rolling 3 --when 'last 12 months'"),
  next_answer = c("why", "split", "steps"),
  next_row = c("why", "inside", "lines", "split"))

#' Trend: metrics over time
#'
#' Every period of the stretch is there, also those without lines (0 for metrics that add up or
#' count, missing for rates). Periods that the book covers only in part are marked and left out of
#' growth. Growth is on the period before and on the same period a year before.
#'
#' @param book (`ll_book`) the book.
#' @param metrics (text) as in [ll_standings()].
#' @param every (text) `"day"`, `"week"` (ISO), `"month"`, `"quarter"`, `"year"`,
#'   `"fiscal_month"`, `"fiscal_quarter"` or `"fiscal_year"`.
#' @param by (text) a dimension; a line for each of its `top` first names by the first metric, and
#'   one for all the others together.
#' @param top (whole number) with `by`: how many names have a line of their own; a
#'   single one that is left has one too.
#' @param rolling (whole number, 2 up) adds `<metric>_rolling`, the mean of that many whole periods
#'   up to this one, and of metrics that add up `<metric>_rolling_sum`. Periods before those shown
#'   count where the book has them.
#' @param per_day (text) adds `<metric>_per_day`, by `"calendar"` days or `"working"` days (Monday
#'   to Friday) of the period that the book covers.
#' @param indexed (`TRUE` or `FALSE`) whether the figure shows each line as a percentage of its
#'   first whole period.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_trend`, a row for each period (and name of `by`):
#'   `period`, the dimension of `by`, each metric with `<metric>_growth` (on the period before),
#'   `<metric>_year_before` and `<metric>_year_growth`, for rates `<metric>_change` and
#'   `<metric>_year_change` in points instead; `days` covered, and `part` (`"part"` where
#'   the book covers only a part). Growth is missing for incomplete periods and unless the value
#'   before
#'   was above zero. Parts: `to_date` (this year to date against the same stretch a year before),
#'   `steady` (mean, deviation and coefficient of variation of the whole periods of each line).
#' @section Errors: As [ll_standings()]; `ll_error_data` where the book has no date.
#' @examples
#' book <- ll_demo()
#' ll_trend(book, c("revenue", "orders"), every = "quarter")
#' @export
ll_trend <- function(book, metrics = NULL, every = "month", by = NULL, top = 5, rolling = NULL,
                     per_day = NULL, indexed = FALSE, where = NULL, when = NULL) {
  answer(declared_trend, book, as.list(environment()))
}
