# Portrait: one name in full, held against the book.

declared_portrait <- declare(
  "portrait", "One name in full: its metrics and ranks, best month and weekday, where it differs",
  answers = "What is there to know about one customer, product or rep?",
  asked = "everything on rep Maren Holt",
  args = list(
    each = arg("words", "the dimension the name is of", required = TRUE),
    name = arg("text", "the name", required = TRUE),
    metrics = arg_metrics(paste("metrics; the first is the one broken down (default: the book's",
                                "first five)")),
    by = arg("words", "the dimensions it is broken down by (default: all that tell something)"),
    top = arg("whole", "how many names of each dimension are shown", 5),
    where = arg_where, when = arg_when),
  examples = c(
    "--each rep --name 'Maren Holt'",
    "--each account --name 03085 --when 2026",
    "--each item --name HV-001 --metrics revenue,margin_rate --by territory,type"),
  bare = "--each rep --name 'Maren Holt' --by territory",
  next_answer = c("why", "over_time", "lines"),
  next_row = c("lines", "why", "without"))

#' Portrait: one name in full
#'
#' Tells of one customer, product or rep how its metrics stand among all names, which months and
#' weekdays are its best, and how it divides over every dimension, each held against the book.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) the dimension the name is of.
#' @param name (text) the name.
#' @param metrics (text) as in [ll_standings()]; all are ranked, the first is broken down. The first
#'   five of the book if not given.
#' @param by (text) the dimensions it is broken down by; parts of dates serve. If not given, all
#'   dimensions of the lines and registers, and the weekday; those with one name only, and those
#'   that name the same things twice (such as a code and its label), are left out.
#' @param top (whole number) the first so many names of each dimension, the rest gathered where the
#'   metric adds up.
#' @param where,when (text) as in [ll_standings()]; they hold for the book too.
#'
#' @return A data frame of class `ll_result_portrait`, a row for each name of each dimension:
#'   `dimension`, `name`, the first metric, and where it adds up `share` (of this name's total),
#'   `book_share` (of the book's) and `index`, 100 x `share` / `book_share`: above 100 it weighs
#'   more here than in the book. For other metrics `overall` is the book's value and `index` is
#'   100 x value / overall. Shares are of positive totals. Parts: `metrics` (value, overall, share,
#'   rank, of how many), `months` (the first metric in each month, and the book's), `facts` (what
#'   is the same on all its lines).
#' @section Notes given: Shared ranks, fewer than five orders, incomplete periods, and all that
#' [ll_standings()] notes of the lines.
#' @section Errors: As [ll_standings()]; `ll_error_word` for a name that neither the lines nor the
#' register know.
#' @examples
#' ll_portrait(ll_demo(), each = "rep", name = "Maren Holt")
#' @export
ll_portrait <- function(book, each, name, metrics = NULL, by = NULL, top = 5, where = NULL,
                        when = NULL) {
  answer(declared_portrait, book, as.list(environment()))
}
