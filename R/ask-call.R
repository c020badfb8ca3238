# From a frame to the call of a study: list(study, args, taken), `taken` what was assumed where the
# question said nothing. Whatever the frame holds must find a place in the call: what is left over
# is a question back, never dropped.

ask_call <- function(frame, book, text) {
  x <- frame_of(frame, book, text)
  if (!is.null(frame$study)) {
    call <- with_given(x, list(study = frame$study, args = list()))
    if (length(x$left())) left_over(x, x$left(), call)
    return(c(call, list(taken = NULL)))
  }
  check_content(x)
  for (way in ask_ways) {
    # Each way begins anew: what another one looked at is not used.
    x <- frame_of(frame, book, text)
    call <- way(x)
    if (!is.null(call)) break
  }
  if (is.null(call)) unclear_question(x)
  call <- with_given(x, call)
  left <- setdiff(x$left(), silent_cues)
  if (length(left)) left_over(x, left, call)
  call$args <- lapply(Filter(Negate(is.null), call$args), function(value) {
    if (is.character(value)) stats::setNames(unguarded(value), names(value)) else value
  })
  call$taken <- x$env$taken
  call
}
