# The lines behind a number are read, not drawn.

#' @rdname ll_figures
#' @exportS3Method ggplot2::autoplot
autoplot.ll_result_detail <- function(object, ...) {
  object <- inner_result(object)
  ll_abort(c("Lines are not drawn.", i = "Save them as .csv or .xlsx, or draw a study of them."),
           "argument")
}
