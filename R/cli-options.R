# Words of the command line to options: unknown names get an offer, repeatable options keep every
# value, a value may begin with a minus.

# Options that tell of the lines: keys of `lines` under their own names.
lines_options <- function() {
  help <- lapply(lines_spec()$keys, `[[`, "help")
  help$through <- "duckdb: files larger than memory, read in pieces by that engine"
  help$connect <- paste("lines in a database: 'driver=postgres,host=db,dbname=sales',",
                        "'driver=sqlite,file=shop.db'; drivers:",
                        and_list(names(connection_drivers), 9))
  help$query <- "a query in place of the table"
  own <- c("source_field", "sheet", "range", "header_row", "encoding", "through", "connect", "table",
           "query")
  options <- Map(function(help, name) arg(if (name == "header_row") "whole" else "text", help),
                 help[own], own)
  options$connect <- reads(options$connect)
  options
}

# The options of a book, by its declaration, each as an argument of the command.
book_options <- function() {
  options <- unlist(unname(lapply(book_declaration(), `[[`, "options")), recursive = FALSE)
  lapply(options, function(option) c(arg("text", option$help), path = option$path))
}

common_options <- function() {
  c(list(brief = reads(arg("text",
                           "the brief (default, when no LINES are given: longladder.yml here)")),
         set = arg("text", paste("a value of the brief, as KEY=VALUE: big_order=2000, PAGE.top=5",
                                 "(repeatable)")),
         only = arg("text", "only these names, as FIELD=NAME,NAME (repeatable)")),
    book_options(), lines_options(), list(
    trust_connection = arg("flag", paste("the brief may connect to other machines and send the password",
                                          "that it names; remembered for it")),
    format = arg("choice", paste("what standard output gets: table, csv, json, or line, the",
                                 "finding alone (default: table)")),
    out = writes(arg("text",
                     "also write a file: .csv .json .xlsx .parquet .png .svg .pdf (repeatable)")),
    foot = arg("flag", paste("CSV and Parquet with the rows below the table too: rest, (none) and",
                             "total")),
    width = arg("whole", "columns of the printed table (default: the terminal's)"),
    hints = arg("choice", "next questions below a table, as commands: yes, no (default: yes)"),
    notes = arg("text", "notes below a table: all, no, or how many (default: 3, the weightiest)"),
    verbose = arg("flag", "tell more while it runs (-v)"),
    quiet = arg("flag", "tell nothing but errors"),
    log = writes(arg("text", "append everything that is told to this file, with its time")),
    help = arg("flag", "show this help")))
}

replace_option <- arg("flag", paste("write over files that are there, if no earlier run wrote them",
                                   "or they were changed since; never over what was read"))

repeatable <- c("define", "parameter", "only", "field", "compute", "label", "plural", "fill", "fix",
                "register", "saved_set", "sets", "match", "sign", "set", "out", "means")

# list(options, lines): the options by name, repeatable ones with every value, and the files.
read_words <- function(declaration, words, common = common_options(), most = 1) {
  specs <- c(declaration$args, common)
  options <- list()
  files <- character()
  i <- 1
  while (i <= length(words)) {
    word <- c("-h" = "--help", "-v" = "--verbose")[words[i]]
    if (is.na(word)) word <- words[i]
    i <- i + 1
    # Files from here on, whatever their names.
    if (word == "--") {
      rest <- words[seq_along(words) >= i]
      files <- c(files, ifelse(startsWith(rest, "-"), paste0("./", rest), rest))
      break
    }
    if (!startsWith(word, "-") || word == "-") {
      files <- c(files, word)
      next
    }
    name <- if (startsWith(word, "--")) gsub("-", "_", sub("=.*", "", substring(word, 3)))
    if (is.null(name) || is.null(specs[[name]]))
      unknown_option(sub("=.*", "", word), specs, names(declaration$args))
    if (name %in% names(options) && !name %in% repeatable)
      ll_abort(paste0("The option '--", dashed(name), "' is given twice."), "argument")
    read <- option_value(name, word, words[i], specs[[name]])
    i <- i + read$words
    options[[name]] <- c(options[[name]], read$value)
  }
  if (length(files) > most)
    ll_abort(c(if (most) "Give one file of lines." else "This takes no files.",
               x = paste0("There are ", length(files), ": ", and_list(quoted(files)), ".")),
             "argument")
  refuse_paths(options, files, specs)
  list(options = options, lines = files)
}

# list(value, words): the option's value, after its sign = or as the next word, of which it then
# takes one. A value may begin with one minus.
option_value <- function(name, word, following, spec) {
  has_value <- grepl("=", word, fixed = TRUE)
  if (spec$type == "flag") {
    if (has_value) ll_abort(paste0("The option '--", dashed(name), "' takes no value."), "argument")
    return(list(value = TRUE, words = 0))
  }
  takes_next <- !has_value && !is.na(following) && !startsWith(following, "--")
  value <- if (takes_next) following else if (has_value) sub("^[^=]*=", "", word) else ""
  if (!grepl("[^= \t\r\n]", value))
    ll_abort(paste0("The option '--", dashed(name), "' needs a value: ", spec$help, "."),
             "argument")
  list(value = value, words = as.integer(takes_next))
}

# The nearest options, or those of the study alone: all are some fifty.
unknown_option <- function(word, specs, own) {
  known <- paste0("--", dashed(names(specs)))
  own <- paste0("--", dashed(own), collapse = " ")
  near <- nearest(dashed(sub("^-+", "", gsub("_", "-", word))), sub("^--", "", known))
  ll_abort(c(paste0("There is no option ", quoted(word), "."),
             i = if (length(near)) paste0("Nearest: ",
                                          and_list(quoted(paste0("--", near)), last = "or"), ".")
             else paste0("Options: ", own, "; those of every study: --help.")), "word")
}

# -v, --quiet and --log.
begin_log <- function(options) {
  if (isTRUE(options$quiet) && isTRUE(options$verbose))
    ll_abort("'--quiet' and '--verbose' exclude each other.", "argument")
  if (!is.null(options[["log"]])) check_log_file(options[["log"]])
  level <- if (isTRUE(options$quiet)) "quiet" else if (isTRUE(options$verbose)) "debug" else "info"
  start_log(level, options[["log"]])
}

# A log goes on where it is, and nothing that is no log is written to.
check_log_file <- function(file) {
  check_target(file)
  if (utils::file_test("-f", file) && file.size(file) > 0 && !is_log(file))
    target_error(file, "it is there, and is no log of this command",
                 i = "'--log' takes a new file, or one that it wrote before.")
}

# What options are for, a line or more each; `examples` are values in the place of VALUE.
option_help <- function(specs, examples = rep("VALUE", length(specs))) {
  flag <- vapply(specs, function(spec) spec$type == "flag", NA)
  labels <- paste0("  --", dashed(names(specs)), ifelse(flag, "", paste0(" ", examples)))
  width <- max(nchar(labels)[nchar(labels) <= 34], 20)
  unlist(Map(function(label, spec) {
    extra <- c(if (!is.null(spec$choices)) paste0("(", paste(spec$choices, collapse = ", "), ")"),
               if (!is.null(spec$default) && !is.logical(spec$default))
                 paste0("(default: ", plain_number(spec$default), ")"))
    text <- strwrap(paste(c(spec$help, extra), collapse = " "), 98 - width)
    # A long one has a line of its own.
    own <- nchar(label) > width
    c(if (own) label, paste0(c(if (!own) pad(label, width), rep(strrep(" ", width), length(text))),
                             "  ", text)[seq_along(text)])
  }, labels, specs), use.names = FALSE)
}
