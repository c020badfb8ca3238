# Cohorts: what comes from new names and what from those who were there before, and how many stay.

declared_cohorts <- declare(
  "cohorts", "New against existing: a metric by the period of each name's first order; who stays",
  answers = "How much comes from new customers and how much from existing ones, and who stays?",
  asked = c("retention of accounts by quarter",
            "how much revenue came from new and existing accounts"),
  args = list(
    each = arg("words", "whose first order counts: a dimension", required = TRUE),
    metrics = arg_metrics(),
    every = arg("choice", "how long one period is", "year",
                choices = c("month", "quarter", "year", "fiscal_month", "fiscal_quarter",
                            "fiscal_year")),
    since = arg("text", paste("the register's date that tells who was there before the book",
                              "begins, or none (default: one named so)")),
    over = arg("choice", "the first order of all, or of the lines shown", "book",
               choices = c("book", "shown")),
    share_of = arg("choice", "what the triangle shows: names that stay, or their money", "names",
                   choices = c("names", "money")),
    where = arg_where, when = arg_when),
  examples = c(
    "--each account --metrics revenue",
    "--each account --every quarter --since none --when 2025-01-01/2026-09-16",
    "--each account --metrics revenue,margin_rate --share-of money --where 'family == \"hives\"'"),
  next_answer = c("gone", "over_time", "share"),
  next_row = c("lines", "inside"))

#' Cohorts: new against existing
#'
#' Splits metrics of each period by the period of the name's first order: new in it, or there
#' before; and follows the names of each first period through the later ones.
#'
#' In the book's first period everyone looks new, since what lies before is not in the lines. Names
#' whose `since` date in the register lies before that period count as there before, wherever their
#' first line is; names of the first period without such a date are neither new nor existing:
#' `unknown`.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose first order counts: one dimension.
#' @param metrics (text) as in [ll_standings()]; shares are of the first.
#' @param every (text) `"month"`, `"quarter"`, `"year"`, `"fiscal_month"`, `"fiscal_quarter"` or
#'   `"fiscal_year"`.
#' @param since (text) a date field of the register of `each`; one called `since`, `first_order`,
#'   `opened` or `joined` if not given; `"none"` for none.
#' @param over (text) whether the first order is that of the whole `"book"`, or of the lines
#'   `"shown"` by the conditions, as for buyers new to a family.
#' @param share_of (text) whether the printed and drawn triangle shows shares of `"names"` or of
#'   `"money"`, the first metric.
#' @param where,when (text) as in [ll_standings()]; first orders are looked for over all dates.
#'
#' @return A data frame of class `ll_result_cohorts`, a row for each period: `period`, each metric,
#'   `<metric>_new`, `<metric>_existing`, and where needed `<metric>_unknown`, `new_share` (of the
#'   first metric, where it adds up), `names`, `names_new`, `orders`, `orders_new` (`lines`,
#'   `lines_new` where no order is known). Parts:
#'   `triangle` (cohort, `size`, period, `age` in periods, `names`, `names_share` of the size, the
#'   metrics, `metric_share` of the first metric in the cohort's first period, `orders`) and
#'   `retention` (the same as a table of cohorts by periods).
#' @section Notes given: What cannot be known of the first period, incomplete periods, `since` dates
#' later than a first order, lines without a name.
#' @section Errors: As [ll_standings()], `ll_error_data` without dates, `ll_error_word` for a
#' `since` that the register does not have.
#' @examples
#' book <- ll_demo()
#' ll_cohorts(book, "account")
#' ll_part(ll_cohorts(book, "account", every = "quarter", since = "none"), "retention")
#' @export
ll_cohorts <- function(book, each, metrics = NULL, every = "year", since = NULL, over = "book",
                       share_of = "names", where = NULL, when = NULL) {
  answer(declared_cohorts, book, as.list(environment()))
}
