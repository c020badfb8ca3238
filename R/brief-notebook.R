# The pages of a brief as an R Markdown file of plain calls, to be edited and rendered.

#' A notebook of a brief
#'
#' Writes the pages of a brief as an R Markdown file: the book is opened from the brief, then each
#' page is a call of its study, with its figure. It renders as it is and is meant to be edited.
#'
#' @param brief (`ll_brief`) the brief.
#' @param file (text) where to write it, ending in `.Rmd`; `NULL` to only give it back.
#' @param pages (text) names of pages; all if not given.
#' @param from (text) the path of the brief as the notebook should open it; by default its path as
#'   seen from anywhere.
#' @param only (named list) names of dimensions that the book is narrowed to, as in [ll_where()].
#' @return The lines of the notebook, a character vector; invisibly when written.
#' @section Errors: `ll_error_word` for an unknown page, `ll_error_target` where the file cannot be
#' written.
#' @examples
#' brief <- ll_brief(system.file("extdata", "longladder.yml", package = "longladder"))
#' cat(head(ll_notebook(brief, pages = "reps"), 30), sep = "\n")
#' @export
ll_notebook <- function(brief, file = NULL, pages = NULL, from = NULL, only = NULL) {
  check_brief_object(brief)
  wanted <- brief$pages[pages_in_order(brief, pages)]
  text <- c(notebook_head(brief, from %||% normalizePath(brief$file), only),
            unlist(Map(notebook_page, names(wanted), wanted, file_words(names(wanted)),
                       MoreArgs = list(book = brief$book))))
  if (is.null(file)) return(unname(text))
  write_whole(file, function(path) put_lines(text, path), brief$book$files)
  invisible(unname(text))
}

check_brief_object <- function(brief) {
  if (!inherits(brief, "ll_brief"))
    ll_abort(c("'brief' must be a brief.", i = "Open one with ll_brief(\"longladder.yml\")."),
             "argument")
}

notebook_head <- function(brief, from, only) {
  set <- brief$set
  extra <- c(lines_argument(brief$lines),
             if (length(set)) paste0(", set = ", r_text(unlist(set))))
  c("---", paste0("title: ", yaml_text(brief$book$title)),
    "# Render it by: longladder render notebook.Rmd, or longladder::ll_render(\"notebook.Rmd\").",
    "# Rendered by hand it obeys _output.yml, _site.yml and the like of this folder, which can run",
    "# code: look at them before, if anybody else may write here.",
    # Named whole, so that what _output.yml says of them counts for nothing. The formulas of a page
    # would be drawn by a script from the network.
    "output:", "  html_document:",
    paste0("    ", c("mathjax: null", "template: default", "theme: default", "self_contained: true",
                     "includes: null", "css: null", "extra_dependencies: null",
                     "md_extensions: null", "pandoc_args: null")), "---", "",
    "```{r setup, include=FALSE}",
    "knitr::opts_chunk$set(fig.width = 8.9, fig.height = 5.6, comment = \"\")",
    "options(width = 110)", "library(ggplot2)", "library(longladder)", "```", "",
    "```{r book}",
    paste0("brief <- ll_brief(", r_text(from), paste(extra, collapse = ""), ")"),
    paste0("book <- ", if (length(only)) {
      named <- vapply(names(only), function(n) deparse(as.name(n), backtick = TRUE), "")
      values <- vapply(only, function(x) r_text(unlist(x)), "")
      paste0("ll_where(brief$book, ", paste(named, "=", values, collapse = ", "), ")")
    } else {
      "brief$book"
    }), "book", "```")
}

# Lines given beside the brief, as an argument; a data frame or an open connection cannot be written
# down.
lines_argument <- function(lines) {
  if (is.null(lines)) return(NULL)
  object <- is.data.frame(lines) || is_connection(lines) ||
    is.list(lines) && is_connection(lines$connect)
  if (object)
    return(", lines = stop(\"the lines were an R object: name them here\")")
  whole <- function(paths) normalizePath(expand_files(unlist(paths)), "/")
  if (is.character(lines)) lines <- whole(lines) else if (!is.null(lines$file))
    lines$file <- whole(lines$file)
  paste0(", lines = ", r_text(lines))
}

notebook_page <- function(name, page, chunk, book) {
  given <- attr(page, "given")
  declared <- declaration_of(page$study)$args
  args <- vapply(names(given), function(arg) {
    typed <- declared[[arg]]$type %in% c("whole", "number", "flag")
    paste0(arg, " = ", r_text(if (typed) page[[arg]] else given[[arg]]))
  }, "")
  call <- paste0("ll_", page$study, "(", paste(c("book", args), collapse = ", "), ")")
  said <- tryCatch(say_call(book, page$study, page_args(page)), error = function(e) "")
  plain <- nzchar(said) && !startsWith(said, paste0(page$study, ":"))
  c("", paste("##", markdown_text(attr(page, "title") %||% capital(spoken(name)))), "",
    if (length(attr(page, "said"))) c(markdown_text(attr(page, "said")), ""),
    if (plain) c(paste0("Asked in words: ", markdown_text(said), "."), ""),
    paste0("```{r ", chunk, "}"),
    paste("result <-", call), "result", "autoplot(result)", "```")
}

# A value as R code.
r_text <- function(x) paste(deparse(x, width.cutoff = 500L), collapse = " ")

# A title is Markdown, in quotes of YAML. Everything between backticks would be run by knitr, which
# looks for them before anybody reads YAML.
yaml_text <- function(x) {
  text <- gsub("([\\\\\"])", "\\\\\\1", markdown_text(x))
  paste0("\"", text, "\"")
}

# Signs that would mean something in Markdown stand for themselves; those that begin code for knitr
# or formulas of TeX even behind a backslash as their numbers.
markdown_text <- function(x) {
  text <- gsub("&", "&amp;", one_line(x), fixed = TRUE)
  text <- gsub("([\\\\*_{}#<>!$|~^@:-])", "\\\\\\1", text)
  for (sign in c("`", "[", "]", "(", ")"))
    text <- gsub(sign, paste0("&#", utf8ToInt(sign), ";"), text, fixed = TRUE)
  text
}
