# A brief: a YAML file that tells the book and the pages. Scalars are read as text and typed by
# their declaration, so that 00123, No and 1e5 stay what was typed.

#' Open a brief
#'
#' A brief is a YAML file that tells where the lines are, what the fields mean, the registers, the
#' metrics, and the pages: the studies to run. Paths in it count from the brief's own folder.
#'
#' Keys: `title`, `lines`, `date`, `order`, `people`, `as_of`, `fields`, `registers`, `metrics`,
#' `parameters`, `bands`, `calendar`, `exclude`, `grain`, `unpivot`, `fixes`, `control`, `sets`
#' (as the arguments of [ll_book()]) and `pages`, each page a `study`, its arguments and, if wanted,
#' a `title` and `asks`, further wordings that lead to it when the command is asked in words. A
#' brief is checked as a whole before anything is read. [ll_schema()] writes the keys for editors.
#'
#' @param file (text) the path of the brief.
#' @param lines (data frame, text, connection or list) other lines than the brief names, as in
#'   [ll_book()].
#' @param set (named character or list) values in the place of the brief's, by their key: a
#'   parameter (`c(big_order = 2000)`), a page's argument (`c(reps.top = 5)`) or any other key
#'   (`c(calendar.fiscal_start = "july")`).
#' @param trust_connection (flag) whether the brief may connect to other machines than this one, and
#'   with the password that its `password_from` names. Without it the person is asked where somebody
#'   sits at R, and the brief refused where not. What was said is remembered on this account, by the
#'   brief's path and what its `connect` says, in the folder that [tools::R_user_dir()] gives for
#'   configuration or that the environment variable `LONGLADDER_CONFIG` names.
#' @return An object of class `ll_brief`: a list of `book` (`ll_book`), `pages` (a named list of
#'   checked arguments), `file`, the `lines` and `set` given, `keys`, the brief as it was read, and
#'   its `text`.
#' @section Errors: `ll_error_brief` with every unknown key and wrong value, with their lines;
#' `ll_error_file` where the brief cannot be read; `ll_error_trust` for a connection of a brief that
#' nobody agreed to; `ll_error_word` for a setting of what does not
#' exist; and those of [ll_book()], with the line where one is known.
#' @examples
#' brief <- ll_brief(system.file("extdata", "longladder.yml", package = "longladder"))
#' brief
#' @export
ll_brief <- function(file, lines = NULL, set = NULL, trust_connection = FALSE) {
  brief <- read_brief(file, set)
  brief$trust <- check_flag(trust_connection, "trust_connection")
  book <- open_brief_book(brief, lines)
  structure(list(book = book, pages = brief$pages, file = file, lines = lines, set = set,
                 keys = brief$keys, text = brief$text), class = "ll_brief")
}

# A brief whose file was changed since it was opened: by `reopen`, but where nothing else than pages
# and further metrics came, the open book is the brief's still and its lines are not read once more.
renew_brief <- function(brief, reopen) {
  now <- read_brief(brief$file, brief$set)
  before <- brief$keys
  others <- function(keys) unclass(keys)[setdiff(names(keys), c("pages", "metrics"))]
  further <- setdiff(names(now$keys$metrics), names(before$metrics))
  same <- identical(others(now$keys), others(before)) &&
    identical(now$keys$metrics[names(before$metrics)], before$metrics[names(before$metrics)])
  if (!same) return(reopen())
  if (length(further)) brief$book <- add_metrics(brief$book, now$keys$metrics[further])
  brief$pages <- now$pages
  brief[c("keys", "text")] <- now[c("keys", "text")]
  brief
}

# A brief, read and checked: list(file, keys, lines, pages, text), `lines` where its keys stand.
read_brief <- function(file, set = NULL) read_brief_lines(read_brief_text(file), file, set)

read_brief_lines <- function(text, file, set = NULL) {
  force(text)
  keys <- with_settings(parse_brief(text, file), set)
  lines <- brief_lines(text)
  pages <- check_brief(keys, file, lines, attr(keys, "set"))
  list(file = file, keys = keys, lines = lines, pages = pages, text = text)
}

#' The demo book
#'
#' Wrenfield Beekeeping Supply, a made-up wholesaler: about 40,000 order lines from January 2024 to
#' mid September 2026, with registers of accounts, items and reps.
#'
#' @return An `ll_book`.
#' @section Errors: `ll_error_file` where the package's own files are missing.
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
  brief <- parse_yaml(text, function(why) {
    # Of a key given twice YAML does not tell where.
    twice <- sub("^.*[Dd]uplicate map key: '(.*)'.*$", "\\1", why)
    safe <- gsub("([][{}()+*^$|\\\\?.])", "\\\\\\1", twice)
    at <- if (twice != why) grep(paste0("(^|[ {,\"'])", safe, "[\"']?\\s*:"), text)
    brief_error(file, "is no readable YAML",
                paste0(why, if (length(at) > 1) paste0(" (line ", at[2], ")")))
  })
  if (!is_map(brief))
    brief_error(file, "must hold keys and values",
                paste0("Keys: ", and_list(names(brief_spec()), 40), "."))
  brief
}

# YAML with every scalar as it was typed; nothing in it is run.
parse_yaml <- function(text, refuse) {
  as_typed <- function(x) x
  types <- c("bool#yes", "bool#no", "int", "int#hex", "int#oct", "float", "float#fix", "float#exp",
             "int#base60", "float#base60", "float#inf", "float#neginf", "float#nan",
             "timestamp#iso8601",
             "timestamp#spaced", "timestamp#ymd", "bool#na", "int#na", "float#na", "str#na")
  handlers <- stats::setNames(rep(list(as_typed), length(types)), types)
  # A key with nothing behind it is absent; the word null is a word.
  handlers$null <- function(x) if (x %in% c("", "~")) NULL else x
  tryCatch(
    withCallingHandlers(
      yaml::yaml.load(paste(text, collapse = "\n"), handlers = handlers, eval.expr = FALSE),
      warning = function(w) invokeRestart("muffleWarning")),
    error = function(e) refuse(one_line(conditionMessage(e))))
}

brief_error <- function(file, problem, found, ...) {
  ll_abort(c(paste0("The brief ", quoted(file), " ", problem, "."), x = found, ...), "brief")
}

# Values given beside a brief: c(big_order = 2000, pages.reps.top = 5). A parameter or a page may be
# named without saying so. What was set is kept with the result, as paths.
with_settings <- function(brief, set) {
  done <- character()
  for (name in names(set)) {
    path <- setting_path(name, brief)
    value <- set[[name]]
    if (is.character(value) && grepl("^\\s*[[{]", value)) value <- parse_yaml(value, function(why) {
      ll_abort(c(paste0("The value of ", quoted(name), " cannot be read."), x = why), "argument")
    })
    brief <- set_at(brief, path, if (is.list(value)) value else as.character(value))
    done <- c(done, paste(path, collapse = "."))
  }
  structure(brief, set = done)
}

setting_path <- function(name, brief) {
  words <- strsplit(name, ".", fixed = TRUE)[[1]]
  if (!length(words) || any(!nzchar(words)))
    ll_abort(paste0("A setting must be a key of the brief, not ", shown(name), "."), "argument")
  known <- names(brief_spec())
  if (words[1] %in% known) return(words)
  if (words[1] %in% names(brief$parameters)) return(c("parameters", words))
  if (words[1] %in% names(brief$pages)) return(c("pages", words))
  ll_abort(c(paste0("There is nothing called ", quoted(words[1]), " to set."),
             offer(words[1], c(names(brief$parameters), names(brief$pages), known),
                   "Parameters, pages and keys")), "word")
}

# A single value in the place of a map goes under its chief key.
set_at <- function(x, path, value) {
  if (!length(path)) {
    chief <- intersect(c("is", "role", "file"), names(x))
    if (!is_map(x) || is.list(value) || !length(chief)) return(value)
    x[[chief[1]]] <- value
    return(x)
  }
  if (!is.list(x)) x <- if (length(x)) list(is = x) else list()
  x[[path[1]]] <- set_at(x[[path[1]]], path[-1], value)
  x
}

# The book of a brief that was read; what is wrong in it is told with its line.
open_brief_book <- function(brief, lines = NULL) {
  trust_connections(brief, lines)
  book <- tryCatch(open_keys(brief$keys, dirname(brief$file), lines), ll_error = function(e) {
    do.call(together, lapply(e$problems %||% list(e), function(p) {
      function() {
        at <- line_of_word(conditionMessage(p), brief)
        ll_abort(c(conditionMessage(p), i = if (at) paste0("In the brief, line ", at, ".")),
                 sub("ll_error_", "", class(p)[1]))
      }
    }))
  })
  book$files <- c(book$files, normalizePath(brief$file))
  book
}

# The line of the first name in quotes that the brief defines; 0 where there is none.
line_of_word <- function(message, brief) {
  words <- regmatches(message, gregexpr("'[^']+'", message))[[1]]
  words <- substr(words, 2, nchar(words) - 1)
  maps <- c("metrics", "fields", "bands", "sets", "parameters", "registers", "control")
  for (word in words) for (map in maps) {
    # What was typed on the command stands on no line.
    if (word %in% names(brief$typed[[map]])) return(0L)
    if (word %in% names(brief$keys[[map]])) return(line_of(c(map, word), brief$lines))
  }
  if (length(words) && words[1] %in% names(brief$keys)) return(line_of(words[1], brief$lines))
  0L
}

open_keys <- function(brief, folder, lines = NULL) {
  near <- function(path) if (grepl("^(/|~|[A-Za-z]:)", path)) path else file.path(folder, path)
  if (is.null(lines)) {
    if (is.null(brief$lines))
      ll_abort(c("The brief names no lines.", i = "Add `lines: FILE.csv`, or give the file."),
               "brief")
    lines <- near_files(brief$lines, near)
  }
  near_file <- function(spec) near_files(spec, near)
  registers <- lapply(brief$registers, near_file)
  sets <- lapply(brief$sets, near_file)
  args <- brief[intersect(names(book_declaration()), names(brief))]
  args$registers <- if (length(registers)) registers
  args$sets <- sets
  if (is.list(args$currency) && !is.null(args$currency$rates))
    args$currency$rates <- near(args$currency$rates)
  if (one_scalar(args$fixes)) args$fixes <- check_flag(args$fixes, "fixes")
  book <- do.call(ll_book, c(list(lines), args))
  # What it was read from, for the record of a run.
  book$read <- c(list(lines = read_words_of(lines)), lapply(registers, read_words_of),
                 lapply(Filter(function(s) !is.null(s$file), sets), read_words_of))
  book
}

# Paths of a brief count from its folder, those of database files too.
near_files <- function(spec, near) {
  each <- function(paths) vapply(unlist(paths), near, "", USE.NAMES = FALSE)
  if (!is.list(spec) || is.null(names(spec))) return(each(spec))
  if (!is.null(spec$file)) spec$file <- each(spec$file)
  if (is.list(spec$connect) && !is.null(spec$connect$file))
    spec$connect$file <- near(spec$connect$file)
  spec
}

# The files that something was read from, or where it is in a database; no secrets.
read_words_of <- function(spec) {
  if (is.data.frame(spec)) return(character())
  if (is.character(spec)) return(expand_files(spec))
  if (is.null(spec$connect)) return(expand_files(unlist(spec$file)))
  where <- if (identical(spec$connect, "lines")) "the database of the lines" else
    connection_name(spec$connect)
  paste0(where, ", ", if (is.null(spec$query)) paste("table", spec$table) else "a query")
}
