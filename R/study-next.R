# The next question: which questions make sense after an answer and after each of its rows, as calls
# of studies. A study's declaration names them by key, in `next_answer` and `next_row`; what each
# key comes to stands in study-next-makers.R. What does not fit the book or the row is left out.

#' The next questions
#'
#' After an answer, and after each of its rows, some questions make sense: why did it change, who is
#' inside, the lines, the year before. Each is a call of a study on the same book.
#'
#' @param result (`ll_result`) what a study returned; its book must still be open.
#' @param row (whole number) a row of it; without one, the questions that follow the whole answer.
#' @param column (text) a column whose cells stand for lines of their own (of `crosstab` and
#'   `versus`): the questions that follow the cell.
#' @return A data frame, a row for each question: `words` (what to say for it), `question`, `study`,
#'   `command` (the study and its options, as the command takes them), and `args`, a list of the
#'   arguments of each, for `do.call()` on the study's function.
#' @section Errors: `ll_error_argument` for what is no result, a row that it has not, or a book that
#' is no longer open; `ll_error_word` for a column whose cells stand for no lines.
#' @examples
#' book <- ll_demo()
#' top <- ll_standings(book, each = "rep", top = 5, when = "2026-Q2")
#' ll_next(top)[c("words", "command")]
#' ll_next(top, row = 1)[c("words", "command")]
#' @export
ll_next <- function(result, row = NULL, column = NULL) {
  told <- facts(result)
  if (!is.null(row)) row <- check_whole(row, "row", list(from = 1, to = nrow(result)))
  declared <- declaration_of(told$study)
  keys <- if (is.null(row)) declared$next_answer else declared$next_row
  next_of(next_context(result, row, column), keys)
}

# The best few for the foot of an answer: two after the whole, one after the first row.
first_next <- function(result, most = 3) {
  declared <- declaration_of(facts(result)$study)
  whole <- next_of(next_context(result, NULL), declared$next_answer, most)
  rows <- nrow(result) > 0 && length(declared$next_row)
  first <- if (rows) next_of(next_context(result, 1), declared$next_row, 1)
  kept <- utils::head(whole, most - NROW(first))
  out <- rbind(kept, first[!first$command %in% kept$command, ])
  utils::head(rbind(out, whole[!whole$command %in% out$command, ]), most)
}

next_of <- function(x, keys, most = Inf) {
  out <- list()
  for (key in keys) {
    if (length(out) >= most) break
    made <- next_makers[[key]]$call(x)
    if (is.null(made) || !fits_book(x$book, made)) next
    made$words <- next_makers[[key]]$words
    made$question <- next_makers[[key]]$question(x)
    out <- c(out, list(made))
  }
  next_table(out)
}

next_table <- function(calls) {
  of <- function(part) vapply(calls, `[[`, "", part)
  out <- data.frame(words = of("words"), question = of("question"), study = of("study"),
                    command = vapply(calls, function(one) call_command(one$study, one$args), ""))
  out$args <- lapply(calls, `[[`, "args")
  out[!duplicated(out$command), ]
}
