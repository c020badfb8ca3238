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
  if (is.null(call) && length(frame$measures) == 1) which_figure(x, frame$measures)
  if (is.null(call) && isTRUE(frame$who) && is.null(who_field(x))) whom_back(x)
  if (is.null(call)) unclear_question(x)
  call <- with_given(x, call)
  left <- setdiff(x$left(), silent_cues)
  if (length(left)) left_over(x, left, call)
  call <- with_quotients(x, call)
  call$args <- lapply(Filter(Negate(is.null), call$args), function(value) {
    if (is.character(value)) stats::setNames(unguarded(value), names(value)) else value
  })
  call$taken <- x$env$taken
  call
}

# Metrics of this question alone with their formulas in place of their names.
with_quotients <- function(x, call) {
  quotients <- c(x$raw$quotients, x$env$quotients)
  for (name in names(quotients)) {
    formula <- quotients[[name]]
    metrics <- call$args$metrics
    plain <- metrics == name & !nzchar(names(metrics) %||% rep("", length(metrics)))
    elsewhere <- unlist(c(call$args[names(call$args) != "metrics"], metrics[!plain]))
    if (any(grepl(name, elsewhere, fixed = TRUE)))
      refuse_question(x$text, paste0("The book has no ", spoken(name)), c(
        i = paste0("Define it: --define ", shell_quoted(paste0(name, "=", formula)), ".")))
    if (is.null(names(metrics))) names(metrics) <- rep("", length(metrics))
    names(metrics)[plain] <- name
    metrics[plain] <- formula
    call$args$metrics <- metrics
  }
  call
}
