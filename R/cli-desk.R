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
  opened <- function() {
    brief <- asked_brief(read)
    book <- draft_for_words(command_book(read))$book
    if (is.null(brief)) return(list(book = book))
    opened_brief(brief, book, if (length(read$lines)) command_lines(read), read$options)
  }
  desk <- opened()
  serve_desk(desk$book, if (inherits(desk, "ll_brief")) desk, opened, port,
             open && (interactive() || isatty(stdout())), isTRUE(options$upload))
  0L
}
