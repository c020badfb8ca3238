# One funnel for every error that the person can fix. Text given by people goes in as values and
# is never used as a template.

ll_abort <- function(message, class, ..., call = NULL) {
  stop(structure(class = c(paste0("ll_error_", class), "ll_error", "error", "condition"),
                 list(message = format_message(message), call = call, ...)))
}

# First what must hold, then lines named "x" (what was found) and "i" (what helps).
format_message <- function(message) {
  marks <- names(message)
  if (is.null(marks)) marks <- rep("", length(message))
  seen_text(unguarded(paste0(ifelse(marks == "", "", paste0(marks, " ")), as_utf8(message),
                             collapse = "\n")))
}

`%||%` <- function(a, b) if (is.null(a)) b else a

# Several problems in one message: each thunk is tried, what fails is gathered.
together <- function(...) {
  found <- list()
  values <- lapply(list(...), function(thunk) {
    tryCatch(thunk(), ll_error = function(e) {
      # Several problems found inside one thunk stay side by side with the others.
      found <<- c(found, e$problems %||% list(e))
      NULL
    })
  })
  # What several thunks stumble over is one problem.
  found <- found[!duplicated(vapply(found, conditionMessage, ""))]
  if (length(found) == 1) stop(found[[1]])
  if (length(found) > 1) {
    texts <- vapply(found, conditionMessage, "")
    ll_abort(c(paste(length(found), "problems:"), paste0("- ", gsub("\n", "\n  ", texts))),
             sub("ll_error_", "", class(found[[1]])[1]), problems = found)
  }
  values
}

needs_package <- function(package, what) {
  if (!requireNamespace(package, quietly = TRUE))
    ll_abort(c(paste0(what, " needs the package ", package, "."),
               i = paste0("install.packages(\"", package, "\")")), "package")
}
