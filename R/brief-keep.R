# An answer kept as a page of a brief: the page is added at the end of the file, which is otherwise
# left as it is.

#' Keep an answer as a page of a brief
#'
#' Adds a page that asks the same again to a brief's file, written as text at the end of its pages,
#' so that comments and the order of the file stay.
#'
#' @param brief (text) the path of the brief.
#' @param result (`ll_result`) the answer to keep.
#' @param name (text) the page's name; letters, digits and underscores, others become underscores.
#' @param title (text) the page's title; the name if not given.
#' @param comment (text) what one has to say to it: shown beside the finding in report and workbook.
#' @return The path of the brief, invisibly.
#' @section Errors: `ll_error_file` for a brief that cannot be read, `ll_error_argument` for a page
#' that is there already, `ll_error_target` where the file cannot be written.
#' @examples
#' file <- tempfile(fileext = ".yml")
#' file.copy(system.file("extdata", "longladder.yml", package = "longladder"), file)
#' top <- ll_standings(ll_demo(), each = "rep", top = 5, when = "2026-Q2")
#' ll_keep(file, top, "best reps")
#' tail(readLines(file), 6)
#' @export
ll_keep <- function(brief, result, name, title = NULL, comment = NULL) {
  brief <- check_words(brief, "brief", one = TRUE)
  told <- facts(inner_result(result))
  keep_call(brief, told$study, told$asked, name, title, comment)
}

# A call as a page of a brief; the path of the brief, invisibly.
keep_call <- function(brief, study, args, name, title = NULL, comment = NULL) {
  title <- title %||% name
  key <- gsub("^_+|_+$", "", gsub("[^a-z0-9]+", "_", tolower(spelling_key(check_words(
    name, "name", one = TRUE)))))
  if (!grepl("^[a-z]", key))
    ll_abort("A page's name begins with a letter.", "argument")
  lines <- readLines(brief, warn = FALSE)
  pages <- names(read_brief(brief)$pages)
  if (key %in% pages)
    ll_abort(c(paste0("The brief has a page called ", quoted(key), " already."),
               i = "Keep it under another name."), "argument")
  title <- one_line(title)
  page <- c(paste0("  ", key, ":"), if (title != key) paste0("    title: ", yaml_scalar(title)),
            if (length(comment)) paste0("    comment: ", yaml_scalar(one_line(check_words(
              comment, "comment", one = TRUE)))),
            paste0("    study: ", study), page_lines(study, args))
  write_whole(brief, function(path) put_lines(pages_with(lines, page), path))
  invisible(brief)
}

# The lines of the file with a page more, at the end of its pages.
pages_with <- function(lines, page) {
  at <- grep("^pages:", lines)
  if (!length(at)) return(c(lines, "", "pages:", page))
  if (grepl("^pages: *[{]", lines[at[1]]))
    ll_abort("The brief's pages stand on one line; write them one under the other first.",
             "brief")
  after <- grep("^[^ #]", lines)
  end <- c(after[after > at[1]] - 1L, length(lines))[1]
  while (end > at[1] && !nzchar(trimmed(lines[end]))) end <- end - 1L
  c(lines[seq_len(end)], page, lines[-seq_len(end)])
}

# The arguments of a page, one a line, as text that is read back as it is.
page_lines <- function(study, args) {
  declared <- declaration_of(study)
  args <- telling_args(declared, args)
  unlist(Map(function(value, name) {
    spec <- declared$args[[name]]
    if (spec$type == "metrics" && !is.null(names(value)) && any(nzchar(names(value)))) {
      own <- nzchar(names(value))
      entries <- paste0("{", vapply(names(value)[own], yaml_scalar, ""), ": ",
                        vapply(metric_texts(unname(value[own]), FALSE), yaml_scalar, ""), "}")
      texts <- c(entries, vapply(as.character(value[!own]), yaml_scalar, ""))
      return(paste0("    ", name, ": ", if (length(texts) == 1 && all(own)) texts else
        paste0("[", paste(texts, collapse = ", "), "]")))
    }
    texts <- vapply(arg_texts(value, spec), yaml_scalar, "", USE.NAMES = FALSE)
    paste0("    ", name, ": ", if (length(texts) == 1) texts else
      paste0("[", paste(texts, collapse = ", "), "]"))
  }, args, names(args)), use.names = FALSE)
}

# A text that YAML gives back as it is.
yaml_scalar <- function(x) {
  if (grepl("^[A-Za-z][A-Za-z0-9_]*$", x) && !tolower(x) %in% c("y", "n", "yes", "no", "on", "off",
                                                               "true", "false", "null")) return(x)
  paste0("'", gsub("'", "''", x), "'")
}
