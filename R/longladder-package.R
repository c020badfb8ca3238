#' Long Ladder: rank, score and explain commercial performance
#'
#' Open a book of order lines with [ll_book()], ask it a question with a study such as
#' [ll_standings()], and read the answer: a table with one sentence of what came out, how the
#' question was read, notes, and the control totals that prove it.
#'
#' @section Numbers:
#' Decimal measures (up to six places) are added as whole numbers in 64 bits, so a total is the
#' exactly the same whatever the order of the lines, and a tie is a tie. Other numbers are added
#' on a fixed grid of 128 bits, to the same end. Quotients count as equal
#' within a relative 1e-9.
#'
#' @section Speed and memory:
#' Text columns are coded once on opening; questions add up whole numbers by these codes, on several
#' threads (option `longladder.threads` or `LONGLADDER_THREADS`; their number never shows in a
#' result). Folded tables of lines in memory are kept with the book and given again when exactly the
#' same is asked; option `longladder.kept_folds` is the room for them in bytes (256 MB, 0 for none).
#' [ll_drill()] keeps the lines that it laid out last, up to `longladder.kept_lines` bytes (1 GB, 0
#' for none; some 40 bytes a line).
#' The proof adds up the raw lines anew each time.
#'
#' A text table larger than some 450 MB is read in pieces (option `longladder.piece`, in bytes).
#' Opening takes about 26 bytes for each cell; what does not fit is refused before it is read. Files
#' can be kept opened, see [ll_cache()].
#'
#' With many millions of lines R spends much of the opening and the first questions on collecting
#' garbage, again and again while its memory grows. Set the environment variable `R_GC_MEM_GROW`
#' to 3 before R starts (see [base::Memory]) and it grows in larger steps; the repository's command
#' does so.
#'
#' @section Errors:
#' Every error that the person can fix has class `ll_error` and one of
#' `ll_error_argument` (a value out of range), `ll_error_word` (an unknown field, metric, name,
#' study or option), `ll_error_formula` (a formula or condition that cannot be read),
#' `ll_error_data` (lines that do not allow the question), `ll_error_file` (a file that cannot be
#' read), `ll_error_target` (a file that cannot be written), `ll_error_brief` (a brief with
#' mistakes) and `ll_error_package` (an optional package that is missing). The command shows the
#' message and ends with status 2.
#'
#' @keywords internal
#' @useDynLib longladder, .registration = TRUE
#' @importFrom Rcpp evalCpp
"_PACKAGE"

# The data pronoun of aes() is no variable of ours.
utils::globalVariables(".data")
