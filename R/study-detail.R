# Detail: the lines behind a number, with the registers' fields.

declared_detail <- declare(
  "detail", "The lines behind a number, with the registers' fields, as a sheet to act on",
  answers = "Which lines are behind a number, and whom to call?",
  asked = c("show the latest 20 order lines in the last quarter", "order 240001"),
  of_results = TRUE,
  args = list(
    with_fields = arg("words",
                      "fields to show (default: all of the lines; register fields by name)"),
    sort_by = arg("text", "the field to sort by (default: the date)"),
    first = arg("choice", "which end comes first", "highest", choices = c("highest", "lowest")),
    top = arg("whole", "only the first so many lines"),
    metrics = arg("metrics", "metrics whose total over these lines is shown (default: the first)"),
    where = arg_where, when = arg_when,
    row = arg("whole", "in R: the row of a result that is given in place of the book"),
    column = arg("text", "in R: with 'row', the column of a table of rows and columns")),
  examples = c(
    "--only account=00251 --when 'last quarter' --top 20",
    "--only 'rep=Maren Holt' --where 'net < 0' --with-fields order_no,account,contact,net"),
  next_answer = c("split", "over_time", "health"))

#' Detail: the lines behind a number
#'
#' Lists the lines of a question, or of one row of a result, with any fields of the registers,
#' sorted and cut as asked.
#'
#' @param book (`ll_book` or `ll_result`) the book; or the result of a study whose `row` is meant:
#'   `ll_detail(result, row = 3)`, as long as its book is still open. Rows of a check are findings,
#'   those of a distribution bands.
#' @param with_fields (text) fields to show: those of the lines, of registers, and computed ones.
#'   All of the lines' own if not given.
#' @param sort_by (text) the field to sort by; the book's date if not given. Ties keep the order of
#'   the file.
#' @param first (text) `"highest"` (or latest) first, or `"lowest"`.
#' @param top (whole number) only the first so many lines.
#' @param metrics (text) metrics whose total over all the lines found is shown.
#' @param where,when (text) as in [ll_standings()]; with a result they narrow its row further.
#' @param row (whole number) with a result: the row whose lines are meant.
#' @param column (text) with a result: the column of a crosstab or versus whose lines are meant; the
#'   whole row if not given.
#'
#' @return A data frame of class `ll_result_detail`: `line` (the number of the line in the book,
#'   missing where the lines are in a database) and the fields. Part `totals`: each metric over all
#'   the lines found, shown or not.
#' @section Errors: As [ll_standings()], and `ll_error_argument` for a row that the result has not.
#' @examples
#' book <- ll_demo()
#' ll_detail(book, with_fields = c("order_no", "account", "contact", "net"), sort_by = "net",
#'           top = 5)
#' top <- ll_standings(book, each = "account", top = 5, when = "2026-Q2")
#' ll_detail(top, row = 2, top = 3)
#' cells <- ll_crosstab(book, rows = "family", columns = "territory")
#' ll_detail(cells, row = 1, column = "Moor", top = 3)
#' @export
ll_detail <- function(book, with_fields = NULL, sort_by = NULL, first = "highest", top = NULL,
                      metrics = NULL, where = NULL, when = NULL, row = NULL, column = NULL) {
  answer(declared_detail, book, as.list(environment()))
}
