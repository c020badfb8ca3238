# Lapsed: names that bought in one period and are silent in another, and what is at stake.

declared_lapsed <- declare(
  "lapsed", "Names that bought before and not now, by what is at stake; and who has no lines",
  args = list(
    each = arg("words", "whose names: a dimension", required = TRUE),
    active = arg("period", "when they were active (default: ever before the silent period)"),
    silent = arg("period", "when they were not (default: the last 365 days)"),
    metrics = arg_metrics("metrics; the first is what is at stake (default: the book's first)"),
    show = arg("words", "further fields of the names: account_name,contact,rep"),
    patience = arg("number", "how many usual gaps a silence may last before a name is late",
                   2, from = .1),
    never = arg("choice", "the register's names without lines: list them last, or leave them",
                "list", choices = c("list", "leave")),
    at_least = arg("whole", "fewest orders a name must have to be listed"),
    top = arg("whole", "list only the first so many names"),
    where = arg_where),
  examples = c(
    "--each account --show account_name,contact,rep --top 20",
    "--each account --active 2025 --silent 2026 --never leave",
    "--each item --silent 'last quarter' --never leave"))

#' Lapsed: who bought before and not now
#'
#' Lists names that are active in one period and silent in another, by what is at stake, with the
#' proof that they did buy before, and how long the silence is by their own rhythm. Names of the
#' register that have no lines come last.
#'
#' Active means a line on a day of the period, whatever its amount; names without more than zero
#' are pointed out. A name's usual gap is the median of days between its days with lines, from
#' three such days up; for others it is the median of those medians. A silence of more than
#' `patience` usual gaps is `"gone"` when the name was never away so long before, else `"late"`; a
#' shorter one is `"waiting"`. A buyer of once a year is not called gone after two months.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose names: one dimension.
#' @param active (text) a period; ever before the silent one if not given.
#' @param silent (text) a period that does not touch `active`; the last 365 days if not given.
#' @param metrics (text) as in [ll_standings()]; the first is what is at stake.
#' @param show (text) further fields: of the register, or of the lines as on the name's latest line.
#' @param patience (number) in usual gaps.
#' @param never (text) `"list"` the register's names that have no lines, or `"leave"` them.
#' @param at_least (whole number) names with fewer orders are left out.
#' @param top (whole number) only the first so many names.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_lapsed`, a row for each name, most at stake first: the
#'   dimension, the fields of `show`, `rhythm` (`"gone"`, `"late"`, `"waiting"`, `"back"` for those
#'   with lines after the silent period, `"never"`), `at_stake` (the first metric over the 365 days
#'   up to the last line), `last_order` (date), `days_since`, `usual_gap` (days), `gap_of` (`"own"`
#'   or `"all"`), `longest_gap`, `order_days` (days with orders; `last_line` and
#'   `line_days` where no order is known), the metrics over all dates, and
#'   `<metric>_before` and `<metric>_silent` of the first, in the two periods. Part `rhythms`: names
#'   and what is at stake of each.
#' @section Notes given: Names without more than zero in the silent period, names that came back,
#' part periods, names of the register not judged.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for periods that overlap;
#' `ll_error_data` without dates, or where nothing lies before the silent period.
#' @examples
#' book <- ll_demo()
#' ll_lapsed(book, "account", show = c("account_name", "contact"), top = 5)
#' ll_lapsed(book, "account", active = "2025", silent = "2026-Q3", never = "leave", top = 5)
#' @export
ll_lapsed <- function(book, each, active = NULL, silent = NULL, metrics = NULL, show = NULL,
                      patience = 2, never = "list", at_least = NULL, top = NULL, where = NULL) {
  answer(declared_lapsed, book, as.list(environment()))
}
