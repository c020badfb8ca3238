# A question in plain words: read, answered by a study, and what each word was taken for.

#' Ask in plain words
#'
#' A question in everyday English becomes a call of a study. Nothing is guessed by a model and
#' nothing leaves the machine: a grammar reads the question in the book's own words (fields, their
#' other names, metrics, names, sets) and those of the trade. Every word is taken for something or
#' is on a short list of words without a meaning of their own; a word that is neither ends the
#' question with the nearest that the book knows, and one that may mean several things is asked
#' back with the choices.
#'
#' With a result in place of the book the question goes on from it: `"and by product?"`, `"only
#' Moor"`, `"without the web"`, `"why?"`, `"who is inside"`, `"the lines"`, `"the year before"`. A
#' whole question (`"top 10 accounts"`) has its own study, of the lines and days that were spoken
#' of.
#'
#' @param book (`ll_book` or `ll_result`) the book; or the result that the question goes on from.
#' @param question (text) the question.
#' @param means (named character) words that mean something else for once: `c(clients =
#'   "account")`.
#' @param answered (flag) `FALSE` gives the call without answering it: a list of `study`, `args`,
#'   `words` and `taken` (what was assumed).
#' @return The result of the study. Its reading begins with what the words were taken for, its proof
#'   counts them, and its part `words` is a table of `words`, `taken_for` and `value`.
#' @section Errors: `ll_error_question` for a question that is not understood or may mean several
#' things (then with `choices`), and those of the study.
#' @examples
#' book <- ll_demo()
#' top <- ll_ask(book, "top 5 garden centres by margin in 2026")
#' ll_finding(top)
#' ll_part(top, "words")
#' ll_ask(top, "only Moor")
#' ll_ask(book, "why did revenue change in Q2 2026?", answered = FALSE)[c("study", "args")]
#' @export
ll_ask <- function(book, question, means = NULL, answered = TRUE) {
  if (inherits(book, "ll_result")) {
    result <- book
    book <- book_of(result)
    read <- follow_read(book, result, question, means)
  } else {
    read <- ask_read(book, question, means)
  }
  if (!answered) return(read)
  answer_read(book, read)
}

# The answer of a question that was read, with what its words were taken for.
answer_read <- function(book, read) {
  declared <- declaration_of(read$study)
  result <- answer(declared, book, check_args(declared, read$args))
  told_with(result, asked_reading(read), proof_line(
    paste0("words: ", read$used, " of ", read$tokens, " used"), read$tokens, read$used),
    list(words = read$words))
}

longest_echo <- 200   # signs

# "Asked: top 10 ("top 10"), account ("customers"), 1 March 2026 to ... ("since spring")."
asked_reading <- function(read) {
  said <- read$words[nzchar(read$words$value), ]
  parts <- paste0(ifelse(tolower(said$value) == tolower(said$words), "", paste0(said$value, " ")),
                  ifelse(tolower(said$value) == tolower(said$words), paste0("\"", said$words, "\""),
                         paste0("(\"", said$words, "\")")))
  text <- c(if (nrow(said)) parts, read$taken)
  # A question of hundreds of words is told by its beginning.
  shown <- max(sum(cumsum(nchar(text) + 2) <= longest_echo), 1)
  more <- length(text) - shown
  told <- fit_text(utils::head(text, shown), longest_echo)
  paste0("Asked: ", if (length(text)) paste(c(told, if (more > 0) paste("and", count_text(more), "more")),
                                            collapse = ", ") else "as it stands", ".")
}
