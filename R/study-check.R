# Check: the book's health on one page.

declared_check <- declare(
  "check", "The book's health: every field, what looks wrong, and the line of brief that fixes it",
  answers = "Can these data be trusted: what is missing, double, odd, or ends too early?",
  asked = "what is wrong with the data",
  args = list(metrics = arg_metrics("the metric that weighs findings (default: the first)")),
  examples = "--metrics revenue",
  next_answer = c("over_time", "split"),
  next_row = c("lines", "without"))

#' Check: the book's health
#'
#' Looks at every field and for what usually goes wrong, and tells how many lines and how much of a
#' metric each finding touches, with examples and the line of a brief that would fix it.
#'
#' Looked for: missing values; names that differ only in case, blanks or accents; duplicate
#' lines; orders whose lines disagree on the customer or date; negative and zero measures;
#' outliers; dates far from the others; dates before the order's; names missing from a register and
#' the reverse; incomplete months at both ends and months without lines; names without recent lines;
#' fields with one name only.
#'
#' A value is an *outlier* where it lies 20 widths of the middle half beyond it and its logarithm 3
#' (where the middle half has one value, a wider middle serves; Tukey 1977). A name has *no recent
#' lines* that has no line in the last 92 days of the book, nor for longer than it ever paused
#' before, after lines in at least six months; fields of up to 200 names are
#' asked (of others, [ll_lapsed()] tells). A date is *far from the
#' others* that lies more than 92 days, and three times the usual step, from the rest with few
#' beside it; months and what has no recent lines go by the others. Leaving lines out is only
#' offered where it takes at most a tenth of the lines and of the metric.
#'
#' @param book (`ll_book`) the book.
#' @param metrics (text) one metric that adds up, to weigh findings by.
#'
#' @return A data frame of class `ll_result_check`, a row for each finding, heaviest first:
#'   `weight` (`"high"`, `"middle"`, `"low"`), `finding`, `field`, `lines`, the metric over those
#'   lines (missing where it says nothing), `examples` and `fix`, the line of brief. Part `fields`:
#'   a row for each field with `field`, `role`, `type`, `why`, `missing`, the metric over the lines
#'   where it is missing, `distinct`, `lowest`, `highest` and `examples`.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a metric that does not add up.
#' @references Tukey, J. W. (1977) *Exploratory Data Analysis*. Addison-Wesley, chapter 2.
#' @examples
#' ll_check(ll_demo())
#' @export
ll_check <- function(book, metrics = NULL) {
  answer(declared_check, book, as.list(environment()))
}
