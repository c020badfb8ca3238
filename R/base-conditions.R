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
  text <- seen_text(unguarded(paste0(ifelse(marks == "", "", paste0(marks, " ")), as_utf8(message),
                                     collapse = "\n")))
  # A word of thousands of signs is told by its beginning.
  if (nchar(text, "bytes") < 1000) text else
    gsub("([^[:space:]]{300})[^[:space:]]{200,}", "\\1...", text, perl = TRUE)
}

`%||%` <- function(a, b) if (is.null(a)) b else a

# Several problems in one message: each thunk is tried, what fails is gathered.
together <- function(...) {
  found <- list()
  values <- lapply(list(...), function(thunk) {
    if (length(found) > most_problems) return(NULL)
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
    texts <- utils::head(vapply(found, conditionMessage, ""), most_problems)
    ll_abort(c(paste0(if (length(found) > most_problems) "more than ",
                      min(length(found), most_problems), " problems:"), paste0("- ", gsub("\n", "\n  ", texts))),
             sub("ll_error_", "", class(found[[1]])[1]), problems = found)
  }
  values
}

# Told of one thing at once; who has more mends these first.
most_problems <- 50

needs_package <- function(package, what) {
  if (!requireNamespace(package, quietly = TRUE))
    ll_abort(c(paste0(what, " needs the package ", package, "."),
               i = paste0("install.packages(\"", package, "\")")), "package")
}
