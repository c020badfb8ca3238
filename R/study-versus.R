# Versus: two to five names side by side across a dimension, on one scale.

declared_versus <- declare(
  "versus", "Set two to five names side by side across a dimension, on one scale",
  answers = "How do two names or more compare, side by side?",
  asked = "compare Moor and Fen by family",
  args = list(
    each = arg("words", "the dimension the names are of", required = TRUE),
    names = arg("words", "two to five of its names", required = TRUE),
    by = arg("words", "the dimension across which they are compared", required = TRUE),
    metrics = arg_metrics("metrics; the first is compared across 'by' (default: the book's first)"),
    top = arg("whole", "only the first so many names of 'by', the rest gathered"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each territory --names Moor,Fen --by family",
    "--each rep --names 'Maren Holt,Lotte Fane' --by territory --metrics revenue,orders",
    "--each channel --names web,field --by type --metrics margin_rate"),
  bare = "--each channel --names web,field --by territory --top 5",
  next_answer = c("over_time", "why", "split"),
  next_row = c("inside", "why", "lines", "without"))

#' Versus: names side by side
#'
#' Compares two to five names of a dimension across another one. Names without lines in a cell count
#' 0 for metrics that add up or count; every total is recalculated.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) the dimension the names are of.
#' @param names (text) two to five of its names; the first is compared with the others.
#' @param by (text) the dimension across which they are compared; parts of dates serve.
#' @param metrics (text) as in [ll_standings()]; the first is compared across `by`, all of them in
#'   the part `overall`.
#' @param top (whole number) only the first so many names of `by` by the sum of the names compared;
#'   the rest is gathered.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_versus`, a row for each name of `by`: `by`'s own name, a
#'   column for each name compared, `difference` and `ratio` of the first against the second, and
#'   `leader`. Parts: `foot` (each name as a whole), `overall` (each metric of each name), `whole`
#'   (the same, a row for each metric and a column for each name; printed where there are several).
#' @section Notes given:
#' A name that leads as a whole but not in most parts, with the weights that explain it.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for fewer than two names, more than
#' five, or the same name twice.
#' @examples
#' ll_versus(ll_demo(), each = "territory", names = c("Moor", "Fen"), by = "family")
#' @export
ll_versus <- function(book, each, names, by, metrics = NULL, top = NULL, where = NULL,
                      when = NULL) {
  answer(declared_versus, book, as.list(environment()))
}
