# One study asked on the command, and where its result goes.

run_study <- function(declaration, words) {
  read <- read_words(declaration, words, most = Inf)
  if (isTRUE(read$options$help)) {
    writeLines(study_help(declaration, "all" %in% read$lines))
    return(0L)
  }
  begin_log(read$options)
  check_output(read$options)
  result <- ask_study(declaration, read)
  broken <- broken_proof(ll_proof(result))
  if (length(broken)) tell(paste0("longladder: ", broken), "error")
  write_result(result, read$options)
  if (length(broken)) 2L else 0L
}

# The study's result on the book that the words tell of.
ask_study <- function(declaration, read) {
  # What is wrong with them is told before anything is opened.
  args <- study_args(declaration, read$options)
  started <- proc.time()[["elapsed"]]
  book <- command_book(read)
  tell(paste0("opened ", plural(book$lines, "line"), " in ", seconds_since(started)), "debug")
  answer(declaration, book, args)
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
  check_choice(options$format %||% "table", "format",
               list(choices = c("table", "csv", "json", "line")))
  for (file in options$out) {
    check_ending(file)
    check_target(file)
  }
}

write_result <- function(result, options) {
  for (file in options$out) refuse_read(file, facts(result)$book$files)
  # Files first: when one fails, nothing looks done.
  for (file in options$out) {
    ll_save(result, file, foot = isTRUE(options$foot))
    tell(paste("wrote", file))
  }
  lines <- switch(options$format %||% "table", json = as_json(result), line = ll_finding(result),
                  csv = csv_lines(rows_of(result, isTRUE(options$foot))), NULL)
  if (is.null(lines)) return(print(result, width = output_width(options)))
  writeLines(enc2utf8(lines), useBytes = TRUE)
}

output_width <- function(options) {
  if (!is.null(options$width)) return(check_whole(options$width, "width", list(from = 40)))
  if (isatty(stdout())) max(cli::console_width(), 40) else 120
}
