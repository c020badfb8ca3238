# The desk served on this machine: its address with a token, what the browser may load, the files it
# needs.

#' Open the desk
#'
#' A page in the browser on which questions are asked in plain words or by pointing, each answer
#' below the one before, under conditions that hold for all of them. It opens with an agenda: the
#' brief's pages with their findings, and what is worth asking now. Pointing at a bar, tile, dot,
#' step or rung, or at a row of a table, offers the questions that make sense there. The address
#' holds the state, so that it can be kept, and sent to a colleague with the same book.
#'
#' It is served on this machine alone, under an address that only who started it knows. Nothing
#' from the browser is run as code or opened as a path, and nothing is loaded from elsewhere.
#'
#' @param book (`ll_book` or `ll_brief`) the book, or a brief with its pages.
#' @param port (whole number) where it is served; a free one if not given.
#' @param open (flag) whether the browser is opened.
#' @param upload (flag) whether people may bring a file of lines of their own, up to 50 MB: it is
#'   opened as a book that only their page sees, and is gone when they leave.
#' @param token (text) what the address must bring as `key`; `NULL` where whoever serves the
#'   application lets in only those who may see it.
#' @return `ll_desk()`: nothing; it runs until it is stopped. `ll_desk_app()`: a shiny application,
#'   for a server that serves it to several people (see the article on the desk).
#' @section Errors: `ll_error_package` where shiny or bslib are missing, `ll_error_argument` for
#' what is no book.
#' @examples
#' if (interactive()) ll_desk(ll_demo())
#' @export
ll_desk <- function(book, port = NULL, open = interactive(), upload = FALSE) {
  shown <- desk_parts(book)
  port <- check_port(port)
  open <- check_flag(open, "open")
  serve_desk(shown$book, shown$brief, shown$reopen, port, open, check_flag(upload, "upload"))
}

check_port <- function(port) {
  if (!is.null(port)) check_whole(port, "port", list(from = 1024, to = 65535))
}

#' @rdname ll_desk
#' @export
ll_desk_app <- function(book, token = NULL, upload = FALSE) {
  shown <- desk_parts(book)
  upload <- check_flag(upload, "upload")
  if (!is.null(token)) token <- check_words(token, "token", one = TRUE)
  need_desk()
  serve_files()
  shared <- new_shared(shown$book, shown$brief, shown$reopen,
                       start_helper(shown$book, shown$brief, shown$reopen), upload)
  with_safe_headers(desk_app(shared, token))
}

# list(book, brief, reopen) of a book, or of a brief, which can be opened anew.
desk_parts <- function(book) {
  brief <- if (inherits(book, "ll_brief")) book
  if (!is.null(brief)) book <- brief$book
  list(book = with_drafted(check_book(book)), brief = brief,
       reopen = if (!is.null(brief)) function() ll_brief(brief$file, brief$lines, brief$set))
}

# The desk of a book, and of the brief that it is of, which `reopen` opens anew.
serve_desk <- function(book, brief, reopen, port, open, upload) {
  need_desk()
  token <- random_word(16)
  if (!is.null(port) && !is_free(port))
    ll_abort(c(paste0("The port ", port, " is in use."),
               i = "Give another one, or none: a free one is taken."), "argument")
  port <- port %||% free_port()
  serve_files()
  old <- options(shiny.autoreload = FALSE, shiny.sanitize.errors = TRUE)
  on.exit(options(old))
  # Who sees the page does not sit at this terminal.
  person$there <- FALSE
  on.exit(person$there <- TRUE, add = TRUE)
  address <- paste0("http://127.0.0.1:", port, "/?key=", token)
  tell(paste0("the desk: ", address, "\n(stop it with Ctrl-C)"))
  # A session makes a great many functions; compiling those that run once would hold up the page.
  level <- compiler::enableJIT(0)
  on.exit(compiler::enableJIT(level), add = TRUE)
  # What was read first of the book is made before anybody waits for it.
  ask_vocabulary(book)
  shared <- new_shared(book, brief, reopen, start_helper(book, brief, reopen), upload)
  shared$first <- function() compiler::enableJIT(level)
  on.exit(stop_helper(shared), add = TRUE)
  app <- with_safe_headers(desk_app(shared, token))
  browse <- if (open) function(url) utils::browseURL(address) else FALSE
  suppressPackageStartupMessages(shiny::runApp(app, port = port, host = "127.0.0.1",
                                               launch.browser = browse, quiet = TRUE))
  invisible()
}

need_desk <- function() {
  missing <- Filter(function(one) !requireNamespace(one, quietly = TRUE),
                    c("shiny", "bslib", "htmltools"))
  if (length(missing))
    ll_abort(c(paste0("The desk needs ", and_list(missing), "."),
               i = paste0("install.packages(c(", paste0("\"", missing, "\"", collapse = ", "),
                          "))")), "package")
}

free_port <- function() {
  # R's own random numbers are left as they are.
  from <- floor(as.numeric(Sys.time()) * 1000) %% 25000 + Sys.getpid()
  for (try in 20000 + (from + 97 * 1:40) %% 25000) if (is_free(try)) return(try)
  ll_abort("No port is free for the desk; give one with 'port'.", "argument")
}

is_free <- function(port) {
  tryCatch({
    close(suppressWarnings(serverSocket(port)))
    TRUE
  }, error = function(e) FALSE)
}

# The desk's own files and the report's style, which it shares, under one address.
serve_files <- function() {
  folder <- tempfile("desk-")
  dir.create(folder)
  own <- system.file("desk", package = "longladder", mustWork = TRUE)
  file.copy(c(list.files(own, full.names = TRUE), template_file("report.css"),
              template_file("tables.js")), folder)
  shiny::addResourcePath("desk", folder)
}

# An application whose page loads nothing from, sends nothing to and is shown in no other site.
# (What the option shiny.http.response.filter adds does not reach the browser in some versions of
# shiny.)
with_safe_headers <- function(app) {
  answer <- app$httpHandler
  app$httpHandler <- function(req) {
    response <- answer(req)
    if (inherits(response, "httpResponse")) safe_headers(response) else response
  }
  app
}

safe_headers <- function(response) {
  response$headers <- c(as.list(response$headers), list(
    "Content-Security-Policy" = paste(
      "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline';",
      # What shiny tries when it is loaded would be an error on the console otherwise.
      "script-src 'self' 'unsafe-eval'; connect-src 'self'; font-src 'self' data:;",
      "object-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"),
    "X-Content-Type-Options" = "nosniff", "Referrer-Policy" = "no-referrer",
    "X-Frame-Options" = "DENY", "Cross-Origin-Opener-Policy" = "same-origin",
    "Cache-Control" = "no-store"))
  response
}
