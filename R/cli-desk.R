# The command `desk`: the book or brief of its words on a page in the browser.

run_desk <- function(words) {
  read <- read_words(command_desk, words, most = Inf)
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(c("usage: longladder desk [BRIEF | LINES] [options]", "",
                 paste0(command_desk$title, "."), "", "options", option_help(command_desk$args), "",
                 groups_help("desk"), "", "examples",
                 paste0("  longladder desk ", command_desk$examples)))
    return(0L)
  }
  begin_log(options)
  # A brief may stand where lines do.
  if (length(read$lines) == 1 && grepl("[.]ya?ml$", read$lines) && is.null(options$brief)) {
    read$options$brief <- read$lines
    read$lines <- character()
  }
  port <- check_port(options$port)
  open <- check_choice(options$open %||% "yes", "open", list(choices = c("yes", "no"))) == "yes"
  desk <- asked_desk(read)
  serve_desk(desk$book, desk$brief, desk$reopen, port,
             open && (interactive() || isatty(stdout())), isTRUE(options$upload))
  0L
}

# list(book, brief, reopen) of the words of a command.
asked_desk <- function(read) {
  opened <- function() {
    brief <- asked_brief(read)
    book <- command_book(read)
    if (is.null(brief)) return(list(book = book))
    opened_brief(brief, book, if (length(read$lines)) command_lines(read), read$options)
  }
  desk <- opened()
  # What was agreed to is this brief as it is now.
  read$options$trust_connection <- NULL
  out <- list(book = draft_for_words(desk$book)$book)
  if (inherits(desk, "ll_brief")) return(c(out, list(brief = desk, reopen = opened)))
  # What the options say of the book no drafted brief would say.
  told <- setdiff(intersect(names(read$options), c(names(book_options()), names(lines_options()),
                                                  "only")), "cache")
  if (length(read$lines) != 1 || !file.exists(read$lines) || length(told)) return(out)
  drafted_desk(out$book, normalizePath(read$lines))
}
