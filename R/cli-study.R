# One study asked on the command, and where its result goes.

run_study <- function(declaration, words) {
  read <- read_words(declaration, words, most = Inf)
  if (isTRUE(read$options$help)) {
    writeLines(study_help(declaration, "all" %in% read$lines))
    return(0L)
  }
  begin_log(read$options)
  check_output(read$options)
  # The book stays open as long as its answer is told.
  book <- NULL
  result <- ask_study(declaration, read, function(opened, drafted) {
    book <<- opened
    read$drafted <<- drafted
  })
  write_proven(result, read)
}

# The result where it is wanted; the exit status tells whether its proof holds.
write_proven <- function(result, read) {
  broken <- broken_proof(ll_proof(result))
  if (length(broken)) tell(paste0("longladder: ", broken), "error")
  write_result(result, read)
  if (length(broken)) 2L else 0L
}

# The study's result on the book that the words tell of, which `keep` is given, with the formulas of
# a first brief that serve where no metric was given.
ask_study <- function(declaration, read, keep = function(book, drafted) NULL) {
  # What is wrong with them is told before anything is opened.
  args <- study_args(declaration, read$options)
  started <- proc.time()[["elapsed"]]
  book <- command_book(read)
  tell(paste0("opened ", plural(book$lines, "line"), " in ", seconds_since(started)), "debug")
  drafted <- list(book = book)
  if (!length(book$metrics) && is.null(args$metrics) && declaration$name != "check")
    drafted <- draft_for_words(book)
  keep(drafted$book, drafted$define)
  answer(declaration, drafted$book, args)
}

# Options of the study as its checked arguments: comma lists become several words.
study_args <- function(declaration, options) {
  given <- intersect(names(declaration$args), names(options))
  check_args(declaration, lapply(stats::setNames(given, given), function(name) {
    type <- declaration$args[[name]]$type
    if (type %in% c("words", "metrics")) split_list(options[[name]], name) else options[[name]]
  }))
}

check_output <- function(options) {
  check_choice(options$hints %||% "yes", "hints", list(choices = c("yes", "no")))
  notes_wanted(options$notes %||% notes_most)
  check_choice(options$format %||% "table", "format",
               list(choices = c("table", "csv", "json", "line")))
  for (file in options$out) {
    check_ending(file)
    check_target(file)
  }
}

write_result <- function(result, read) {
  options <- read$options
  for (file in options$out) refuse_read(file, facts(result)$book$files)
  # Files first: when one fails, nothing looks done.
  for (file in options$out) {
    ll_save(result, file, foot = isTRUE(options$foot))
    tell(paste("wrote", file))
  }
  lines <- switch(options$format %||% "table",
                  json = as_json(result, list("next" = next_commands(result, read))),
                  line = ll_finding(result), csv = csv_lines(rows_of(result, isTRUE(options$foot))),
                  NULL)
  if (is.null(lines)) {
    print(result, width = output_width(options), notes = options$notes %||% notes_most)
    lines <- hint_lines(next_commands(result, read))
  }
  writeLines(enc2utf8(lines), useBytes = TRUE)
}

# The best next questions as whole commands; NULL where they are not wanted.
next_commands <- function(result, read) {
  if (identical(read$options$hints, "no")) return(NULL)
  found <- first_next(result)
  if (!nrow(found)) return(NULL)
  study <- sub(" .*", "", found$command)
  rest <- substring(found$command, nchar(study) + 1)
  data.frame(words = found$words, question = found$question,
             command = paste0("longladder ", study, vapply(rest, words_of_call, "", read = read),
                              rest))
}

hint_lines <- function(found) {
  if (!NROW(found)) return(character())
  c("", "next", paste0("  ", found$question, "\n    ", found$command))
}

# The words that tell of the book, as they were given, and those of drafted metrics that a call
# needs.
words_of_call <- function(read, call) {
  paste(c(words_of_book(read), drafted_words(read$drafted, call)), collapse = " ")
}

# The words that tell of the book, as they were given.
words_of_book <- function(read) {
  own <- c("brief", "set", "only", names(book_options()), names(lines_options()))
  options <- read$options[intersect(own, names(read$options))]
  # A file that begins with a minus would be an option.
  files <- ifelse(startsWith(read$lines, "-"), paste0("./", read$lines), read$lines)
  words <- c(vapply(files, shell_quoted, ""), unlist(Map(function(name, values) {
    if (isTRUE(values)) return(paste0("--", dashed(name)))
    paste0("--", dashed(name), " ", vapply(values, shell_quoted, ""))
  }, names(options), options)))
  if (length(words)) paste0(" ", paste(words, collapse = " ")) else ""
}

output_width <- function(options) {
  if (!is.null(options$width)) return(check_whole(options$width, "width", list(from = 40)))
  if (isatty(stdout())) max(cli::console_width(), 40) else 120
}
