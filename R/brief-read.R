# A brief: a YAML file that tells the book and the pages. Scalars are read as text and typed by
# their declaration, so that 00123, No and 1e5 stay what was typed.

brief_keys <- c("title", "lines", "date", "order", "people", "as_of", "fields", "registers",
                "metrics", "parameters", "bands", "calendar", "set_aside", "grain", "unfold",
                "repairs", "control", "sets", "pages")

#' Open a brief
#'
#' A brief is a YAML file that tells where the lines are, what the fields mean, the registers, the
#' metrics, and the pages: the studies to run. Paths in it count from the brief's own folder.
#'
#' Keys: `title`, `lines`, `date`, `order`, `people`, `as_of`, `fields`, `registers`, `metrics`,
#' `parameters`, `bands`, `calendar`, `set_aside`, `grain`, `unfold`, `repairs`, `control`, `sets`
#' (as the arguments of [ll_book()]) and `pages`, each page a `study` and its arguments.
#'
#' @param file (text) the path of the brief.
#' @param lines (data frame or path) other lines than the brief names.
#' @return An object of class `ll_brief`: a list of `book` (`ll_book`), `pages` (a named list of
#'   checked arguments) and `file`.
#' @section Errors: `ll_error_brief` for unknown keys and values, with their line; `ll_error_file`
#' where the brief cannot be read; and those of [ll_book()].
#' @examples
#' brief <- ll_brief(system.file("extdata", "longladder.yml", package = "longladder"))
#' brief
#' @export
ll_brief <- function(file, lines = NULL) {
  text <- read_brief_text(file)
  brief <- parse_brief(text, file)
  check_brief_keys(brief, text, file)
  pages <- check_pages(brief$pages, text, file)
  book <- open_brief_book(brief, dirname(file), lines)
  structure(list(book = book, pages = pages, file = file), class = "ll_brief")
}

#' The demo book
#'
#' Wrenfield Beekeeping Supply, a made-up wholesaler: about 40,000 order lines from January 2024 to
#' mid September 2026, with registers of accounts, items and reps.
#'
#' @return An `ll_book`.
#' @examples
#' ll_demo()
#' @export
ll_demo <- function() ll_brief(demo_file("longladder.yml"))$book

demo_file <- function(name) system.file("extdata", name, package = "longladder", mustWork = TRUE)

#' @export
format.ll_brief <- function(x, ...) {
  pages <- vapply(names(x$pages), function(n) paste0("page ", n, ": ", x$pages[[n]]$study), "")
  c(format(x$book, ...), "", pages)
}

#' @export
print.ll_brief <- function(x, ...) {
  writeLines(format(x, ...))
  invisible(x)
}

read_brief_text <- function(file) {
  if (!is.character(file) || length(file) != 1 || is.na(file))
    ll_abort("'file' must be the path of a brief.", "argument")
  check_readable(file, "keys")
  as_utf8(readLines(file, warn = FALSE))
}

parse_brief <- function(text, file) {
  as_typed <- function(x) x
  types <- c("bool#yes", "bool#no", "int", "int#hex", "int#oct", "float", "float#fix", "float#exp",
             "int#base60", "float#base60", "float#inf", "float#neginf", "float#nan",
             "timestamp#iso8601",
             "timestamp#spaced", "timestamp#ymd", "bool#na", "int#na", "float#na", "str#na", "null")
  handlers <- stats::setNames(rep(list(as_typed), length(types)), types)
  brief <- tryCatch(
    withCallingHandlers(
      yaml::yaml.load(paste(text, collapse = "\n"), handlers = handlers, eval.expr = FALSE),
      warning = function(w) invokeRestart("muffleWarning")),
    error = function(e) brief_error(file, "is no readable YAML", one_line(conditionMessage(e))))
  if (!is.list(brief) || is.null(names(brief)))
    brief_error(file, "must hold keys and values", paste0("Keys: ", and_list(brief_keys, 20), "."))
  brief
}

brief_error <- function(file, problem, found, ...) {
  ll_abort(c(paste0("The brief ", quoted(file), " ", problem, "."), x = found, ...), "brief")
}

# The line on which a key stands, for messages; yaml keeps no lines.
key_line <- function(key, text) {
  safe <- gsub("([][{}()+*^$|\\\\?.])", "\\\\\\1", key)
  at <- grep(paste0("(^|[ {,-])[\"']?", safe, "[\"']?\\s*:"), text)
  if (length(at)) paste0("line ", at[1]) else "somewhere"
}

check_brief_keys <- function(brief, text, file) {
  unknown <- setdiff(names(brief), brief_keys)
  if (length(unknown))
    brief_error(file, paste0("has an unknown key ", quoted(unknown[1]), " (",
                             key_line(unknown[1], text), ")"),
                paste0("Keys: ", and_list(brief_keys, 20), "."), near_only(unknown[1], brief_keys))
  maps <- intersect(names(brief), c("fields", "registers", "metrics", "parameters", "bands",
                                    "calendar", "control", "sets", "pages"))
  is_map <- function(x) is.null(x) || is.list(x) && !is.null(names(x))
  for (key in maps) if (!is_map(brief[[key]]))
    brief_error(file, paste0("needs names and values under ", quoted(key), " (",
                             key_line(key, text), ")"), "For example `revenue: sum(net)`.")
}

# Each page's arguments are those of its study's declaration.
check_pages <- function(pages, text, file) {
  thunks <- lapply(names(pages), function(name) {
    function() check_page(name, pages[[name]], text, file)
  })
  stats::setNames(do.call(together, thunks), names(pages))
}

check_page <- function(name, page, text, file) {
  where <- paste0("page ", quoted(name), " (", key_line(name, text), ")")
  if (!is.list(page) || is.null(page$study))
    brief_error(file, paste0("has a ", where, " without a study"),
                paste0("Studies: ", and_list(names(declarations()), 30), "."))
  declaration <- tryCatch(declaration_of(page$study), ll_error = function(e) {
    brief_error(file, paste0("asks for an unknown study on ", where), conditionMessage(e))
  })
  args <- page[setdiff(names(page), c("study", "title"))]
  unknown <- setdiff(names(args), names(declaration$args))
  if (length(unknown))
    brief_error(file, paste0("has an unknown key ", quoted(unknown[1]), " on ", where),
                paste0("Keys of ", page$study, ": ", and_list(names(declaration$args), 30), "."),
                near_only(unknown[1], names(declaration$args)))
  args <- lapply(args, function(value) if (is.list(value)) unlist(value) else value)
  checked <- tryCatch(check_args(declaration, args), ll_error = function(e) {
    brief_error(file, paste0("has a wrong value on ", where), conditionMessage(e))
  })
  c(list(study = page$study), checked)
}

open_brief_book <- function(brief, folder, lines = NULL) {
  near <- function(path) if (grepl("^(/|~|[A-Za-z]:)", path)) path else file.path(folder, path)
  if (is.null(lines)) {
    if (is.null(brief$lines))
      ll_abort(c("The brief names no lines.", i = "Add `lines: FILE.csv`, or give the file."),
               "brief")
    lines <- near(brief$lines)
  }
  near_file <- function(spec) {
    if (is.list(spec) && !is.null(spec$file)) spec$file <- near(spec$file)
    spec
  }
  registers <- lapply(brief$registers, function(register) {
    if (is.list(register)) near_file(register) else near(register)
  })
  ll_book(lines, fields = brief$fields, metrics = brief$metrics,
          registers = if (length(registers)) registers, parameters = brief$parameters,
          date = brief$date, order = brief$order, people = brief$people, as_of = brief$as_of,
          control = brief$control, title = brief$title, bands = brief$bands,
          calendar = brief$calendar, set_aside = brief$set_aside,
          grain = brief$grain %||% "lines", unfold = brief$unfold,
          repairs = brief$repairs %||% TRUE, sets = lapply(brief$sets, near_file))
}
