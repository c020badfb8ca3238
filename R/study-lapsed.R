# Lapsed: names that bought in one period and are inactive in another, and what is at stake.

declared_lapsed <- declare(
  "lapsed", "Names that bought before and not now, by what is at stake; and who has no lines",
  answers = "Who used to buy and has stopped, and what were they worth?",
  asked = c("garden centres that stopped buying feed since spring",
            "accounts that bought in 2025 but not in 2026"),
  args = list(
    each = arg("words", "whose names: a dimension", required = TRUE),
    active = arg("period", "when they were active (default: ever before the inactive period)"),
    inactive = arg("period", "when they were not (default: the last 365 days)"),
    metrics = arg_metrics("metrics; the first is what is at stake (default: the book's first)"),
    with_fields = arg("words", "further fields of the names: contact,rep"),
    overdue_after = arg("number",
                        "after how many usual intervals between orders a name is overdue",
                        2, from = .1),
    never = arg("choice", "the register's names without lines: list them last, or leave them",
                "list", choices = c("list", "leave")),
    min_orders = arg("whole", "fewest orders a name must have to be listed"),
    top = arg("whole", "list only the first so many names"),
    where = arg_where),
  examples = c(
    "--each account --with-fields contact,rep --top 20",
    "--each account --active 2025 --inactive 2026 --never leave",
    "--each item --inactive 'last quarter' --never leave"),
  next_answer = c("new", "why", "all"),
  next_row = c("full", "lines", "could_buy", "replaced"))

#' Lapsed: who bought before and not now
#'
#' Lists names that are active in one period and inactive in another, by what is at stake, with the
#' proof that they did buy before, and how long that is by their own usual interval between orders.
#' Names of the register that have no lines come last.
#'
#' Active means a line on a day of the period, whatever its amount; names without more than zero
#' are pointed out. A name's usual interval is the median of days between its days with lines, from
#' three such days up; for others it is the median of those medians. An absence of more than
#' `overdue_after` usual intervals is `"gone"` when the name was never away so long before, else
#' `"overdue"`; a shorter one is `"waiting"`. A buyer of once a year is not called gone after two
#' months.
#'
#' Under conditions (`where`, or a narrowed book) a name may have lines that these leave out: who
#' has
#' such lines in the inactive period is `"elsewhere"`, with where (the field of the conditions) and
#' since when.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose names: one dimension.
#' @param active (text) a period; ever before the inactive one if not given.
#' @param inactive (text) a period that does not touch `active`; the last 365 days if not given.
#' @param metrics (text) as in [ll_standings()]; the first is what is at stake.
#' @param with_fields (text) further fields: of the register, or of the lines as on the name's
#'   latest line.
#' @param overdue_after (number) in usual intervals.
#' @param never (text) `"list"` the register's names that have no lines, or `"leave"` them.
#' @param min_orders (whole number) names with fewer orders are left out.
#' @param top (whole number) only the first so many names.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_lapsed`, a row for each name, most at stake first: the
#'   dimension, the fields of `with_fields`, `status` (`"gone"`, `"overdue"`, `"waiting"`,
#'   `"elsewhere"`, `"back"` for those with lines after the inactive period, `"never"`),
#'   `elsewhere` (the names of the conditions' field) and `elsewhere_since` (date), `at_stake` (the
#'   first metric over
#'   the 365 days up to the last line), `last_order` (date), `days_since`, `usual_interval` (days),
#'   `gap_of` (`"own"` or `"all"`), `longest_gap`, `order_days` (days with orders; `last_line` and
#'   `line_days` where no order is known), the metrics over all dates, and
#'   `<metric>_before` and `<metric>_inactive` of the first, in the two periods. Part `statuses`:
#'   names and what is at stake of each.
#' @section Notes given: Names without more than zero in the inactive period, names that came back,
#' incomplete periods, names of the register not judged.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for periods that overlap;
#' `ll_error_data` without dates, or where nothing lies before the inactive period.
#' @examples
#' book <- ll_demo()
#' ll_lapsed(book, "account", with_fields = "contact", top = 5)
#' ll_lapsed(book, "account", active = "2025", inactive = "2026-Q3", never = "leave", top = 5)
#' @export
ll_lapsed <- function(book, each, active = NULL, inactive = NULL, metrics = NULL,
                      with_fields = NULL,
                      overdue_after = 2, never = "list", min_orders = NULL, top = NULL,
                      where = NULL) {
  answer(declared_lapsed, book, as.list(environment()))
}
