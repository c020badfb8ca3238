# Crosstab: metrics by rows and columns, every total recalculated from the lines.

declared_crosstab <- declare(
  "crosstab", "Cross dimensions: metrics by rows and columns, with totals recalculated",
  answers = "How does a metric split over rows and columns, with totals and shares?",
  asked = c("revenue by territory and channel",
            "share of revenue by territory and channel along rows"),
  pictures = c("tiles", "stacked", "shares"),
  args = list(
    rows = arg("words", "what the rows are: one dimension, or two, the second inside the first",
               required = TRUE),
    columns = arg("words", "what the columns are: one dimension, or two (default: the metrics)"),
    metrics = arg_metrics(),
    share_of = arg("choice", "show shares of each row's, each column's or the whole total",
                   choices = c("row", "column", "all")),
    top = arg("whole", "only the first so many rows by the first metric, the rest gathered"),
    where = arg_where, when = arg_when),
  examples = c(
    "--rows territory --columns channel --metrics revenue",
    "--rows type --columns 'year(order_date)' --metrics revenue --share-of row",
    "--rows territory --metrics orders,revenue,average_order",
    "--rows family,item --columns 'quarter(order_date)' --when 2026 --top 3"),
  next_answer = c("over_time", "why", "steps"),
  next_row = c("inside", "why", "full", "lines", "beside", "without"))

#' Cross tables: metrics by rows and columns
#'
#' Counts, sums and rates by one or two dimensions down and one or two across. Every total, of rows,
#' of columns, of outer dimensions and of all, is recalculated from the lines, so that rates and
#' distinct counts are right in the totals too.
#'
#' @param book (`ll_book`) the book.
#' @param rows,columns (text) one dimension each, or two, the second inside the first; parts of
#'   dates serve: `"month(order_date)"`. Without `columns` the metrics stand side by side.
#' @param metrics (text) as in [ll_standings()]; the first orders the rows.
#' @param share_of (text) show the first metric as shares: of each `"row"`, each `"column"`, or
#'   `"all"`; for metrics that add up.
#' @param top (whole number) only the first so many names of the first row dimension; the others are
#'   gathered in one row.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_crosstab`: the row dimensions (`(all)` marks the total
#'   of an outer name), `total`, and a column for each name of `columns`, missing where there are no
#'   lines; with several metrics and columns, `<name>: <metric>`. Parts: `foot` (the total row),
#'   `cells` (one row for each cell, with its lines), and with `share_of` also `values`.
#' @section Errors: As [ll_standings()], and `ll_error_argument` for more than two dimensions a side
#' or shares of a metric that does not add up.
#' @examples
#' book <- ll_demo()
#' ll_crosstab(book, rows = "territory", columns = "channel")
#' ll_crosstab(book, rows = "type", columns = "year(order_date)", share_of = "row")
#' @export
ll_crosstab <- function(book, rows, columns = NULL, metrics = NULL, share_of = NULL, top = NULL,
                        where = NULL, when = NULL) {
  answer(declared_crosstab, book, as.list(environment()))
}
