# Words taught to a brief: other names of fields and metrics, put into the file as text, which is
# otherwise left as it is.

#' Teach a brief words
#'
#' Adds other names of fields and metrics to a brief's file (`also:`), so that questions in plain
#' words know them from then on. Comments and the order of the file stay.
#'
#' @param brief (text) the path of the brief.
#' @param words (named character) what each new word means: `c(clients = "account", turnover =
#'   "revenue")`.
#' @return The path of the brief, invisibly.
#' @section Errors: `ll_error_word` for a field or metric that the brief's book does not know;
#' `ll_error_brief` where the entry stands in a form that cannot be added to; `ll_error_file` and
#' `ll_error_target` for the file itself.
#' @examples
#' folder <- tempfile()
#' dir.create(folder)
#' file.copy(list.files(system.file("extdata", package = "longladder"), full.names = TRUE), folder)
#' brief <- file.path(folder, "longladder.yml")
#' ll_teach(brief, c(patches = "territory"))
#' grep("patches", readLines(brief), value = TRUE)
#' @export
ll_teach <- function(brief, words) {
  brief <- check_words(brief, "brief", one = TRUE)
  targets <- check_words(words, "words")
  if (is.null(names(words)) || any(!nzchar(trimmed(names(words)))))
    ll_abort(c("Words must be named: c(clients = \"account\").",
               x = paste0("They are ", shown(words), ".")), "argument")
  lines <- readLines(brief, warn = FALSE)
  keys <- read_brief(brief)$keys
  for (i in seq_along(targets)) {
    metric <- targets[i] %in% names(keys$metrics)
    lines <- with_entry(lines, if (metric) "metrics" else "fields", targets[i],
                        paste0("also: [", yaml_scalar(trimmed(names(words)[i])), "]"),
                        if (metric) "is" else "role")
  }
  write_changed_brief(brief, lines, function(book) {
    unknown <- setdiff(targets, c(book$fields$name, unguarded(names(book$metrics))))
    if (length(unknown)) ll_abort(paste0("The book knows no ", quoted(unknown[1]), "."), "word")
  })
  invisible(brief)
}
