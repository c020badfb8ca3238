# Sets: names by what they did and did not do, their overlaps, and what the names hold.

declared_sets <- declare(
  "sets", "Sets of names: combine, keep common, subtract; who is in which, and what they hold",
  answers = "Who is in one group and not in another, or in both?",
  asked = c("accounts that bought hives but not frames", "new accounts this year"),
  args = list(
    each = arg("words", "whose names: a dimension (default: that of the saved sets)"),
    sets = arg("sets", paste("a set, or NAME=SET, repeatable: 'old=active(\"2025\")',",
                             "'active(\"2025\") - active(\"2026\")'"), required = TRUE),
    listed = arg("text", "the names to list, in terms of the sets: 'old - now' (default: all)"),
    metrics = arg_metrics(),
    with_fields = arg("words", "further fields of the names: contact"),
    top = arg("whole", "list only the first so many names"),
    where = arg_where, when = arg("period", "the period of the metrics (default: all dates)")),
  examples = c(
    paste("--each account --sets 'active(\"2025\") - active(\"2026\")'",
          "--with-fields contact"),
    paste("--each account --sets 'best=top(revenue, 50, when = \"2025\")'",
          "--sets 'now=active(\"2026\")' --listed 'best - now'"),
    "--each account --sets 'registered() - active(\"all\")'"),
  bare = "--each account --sets 'active(\"2025\") - active(\"2026\")' --top 5",
  next_answer = c("all", "gone", "over_time"),
  next_row = c("full", "inside", "lines", "could_buy"))

#' Sets of names
#'
#' Puts names into sets by what they did in a period, joins the sets, and lists who is in the
#' result, with the metrics asked for; the size of every part is proven.
#'
#' @section The language of sets:
#' * `active("2025")`: names with lines in a period, `active("2025", item == "HV-001")` with such
#'   lines; without a period over all dates
#' * `top(revenue, 50, when = "2025")` and `bottom()`: the first or last so many by a metric, all of
#'   those tied at the edge
#' * `having(revenue >= 5000, when = "2025")`: names whose metric compares so with a number or
#'   parameter
#' * `registered()`: all names of the register, `registered(type == "school")` some of them by its
#'   fields
#' * `c("03085", "04893")`: these names
#' * a name: another set of the question, or a saved one
#' * `a | b` either, `a & b` both, `a - b` the first without the second, with brackets. As in R, `-`
#'   binds closest, then `&`, then `|`.
#'
#' `top()`, `bottom()`, `having()` and `active()` take `when` (a period) and `where` (a condition).
#' Sets typed in a question are made of the lines that it asks about (`where`, not `when`).
#'
#' Saved sets (`sets` of [ll_book()] or of a brief, `--saved-set` on the command) serve in the
#' conditions and metrics of every study: `where = ~ account %in% gone`. They are made of all lines.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) the dimension of the names; that of the saved sets named, if not given.
#' @param sets (named text, or one-sided formulas, up to 6) the sets; one that joins others is taken
#'   apart into those.
#' @param listed (text or formula) which names are listed, in terms of the sets; for one set its own
#'   names, for several those in any, if not given.
#' @param metrics (text) as in [ll_standings()].
#' @param with_fields (text) further fields: of the register, or of the lines as on the name's
#'   latest line.
#' @param top (whole number) only the first so many names; the rest is gathered.
#' @param where,when (text) as in [ll_standings()]; `when` is the period of the metrics alone.
#'
#' @return A data frame of class `ll_result_sets`, a row for each name, best first by the first
#'   metric: the dimension, the fields of `with_fields`, `in_sets` (the sets that hold it), the
#'   metrics (0 without lines, for those that add up or count). Parts: `regions` (each combination
#'   of sets: names, and the metrics of those names), `listed` (how many of the names listed come
#'   from each), `foot`.
#' @section Notes given: Empty sets, ties at the edge of a top, incomplete periods, names without
#' lines.
#' @section Errors: As [ll_standings()]; `ll_error_formula` for a set that cannot be read, one that
#' is never defined, a circle of definitions, and `registered()` without a register.
#' @examples
#' book <- ll_demo()
#' ll_sets(book, "account", c(old = "active('2025')", now = "active('2026')"), listed = "old - now",
#'         top = 5)
#' ll_sets(book, "account", "registered() - active()", with_fields = "contact", top = 5)
#' @export
ll_sets <- function(book, each = NULL, sets, listed = NULL, metrics = NULL, with_fields = NULL,
                    top = NULL,
                    where = NULL, when = NULL) {
  answer(declared_sets, book, as.list(environment()))
}
