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
  results <- ask_study(declaration, read, function(opened, drafted) {
    book <<- opened
    read$drafted <<- drafted
  })
  write_proven(results, read)
}

# The results, one or one for each currency, where they are wanted; the exit status tells whether
# their proofs hold.
write_proven <- function(results, read) {
  broken <- unlist(lapply(results, function(result) broken_proof(ll_proof(result))))
  if (length(broken)) tell(paste0("longladder: ", broken), "error")
  write_results(results, read)
  if (length(broken)) 2L else 0L
}

# The study's results on the book that the words tell of, which `keep` is given, with the formulas of
# a first brief that serve where no metric was given: one, or one for each currency, named by them.
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
  each_currency(drafted$book, function(book) answer(declaration, book, args))
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

write_results <- function(results, read) {
  options <- read$options
  first <- results[[1]]
  targets <- lapply(options$out, files_apart, names(results))
  for (file in unlist(targets)) refuse_read(file, facts(first)$book$files)
  # Files first: when one fails, nothing looks done.
  for (files in targets) for (i in seq_along(results)) {
    ll_save(results[[i]], files[i], foot = isTRUE(options$foot))
    tell(paste("wrote", files[i]))
  }
  lines <- switch(options$format %||% "table",
                  json = json_apart(results, read),
                  line = vapply(results, ll_finding, ""),
                  csv = csv_lines(rows_apart(results, isTRUE(options$foot))),
                  NULL)
  if (is.null(lines)) {
    for (i in seq_along(results)) {
      if (i > 1) writeLines("")
      print(results[[i]], width = output_width(options), notes = options$notes %||% notes_most)
    }
    lines <- hint_lines(next_commands(first, read))
  }
  writeLines(enc2utf8(lines), useBytes = TRUE)
}

# One file, or one for each currency: "reps.csv" is "reps-EUR.csv".
files_apart <- function(file, codes) {
  if (is.null(codes)) return(file)
  word <- ifelse(nzchar(codes), gsub("[^A-Za-z0-9]+", "", codes), "none")
  word <- ifelse(nzchar(word) & !duplicated(word), word, as.character(seq_along(word)))
  paste0(sub("[.][^.]*$", "", file), "-", word, sub("^.*[.]", ".", file))
}

json_apart <- function(results, read) {
  texts <- vapply(results, function(result) {
    as_json(result, list("next" = next_commands(result, read)))
  }, "")
  if (is.null(names(results))) texts else paste0("[", paste(texts, collapse = ",\n"), "]")
}

# The rows of all, with the currency of each where there are several.
rows_apart <- function(results, foot) {
  tables <- lapply(results, rows_of, foot)
  if (is.null(names(results))) return(tables[[1]])
  own <- unique(unlist(lapply(tables, names)))
  as.data.frame(data.table::rbindlist(tables, use.names = TRUE, fill = TRUE,
                                      idcol = utils::head(setdiff(c("currency", "of_currency"), own), 1)))
}

command_most <- 600   # letters of a command that is told

# The best next questions as whole commands; NULL where they are not wanted.
next_commands <- function(result, read) {
  if (identical(read$options$hints, "no")) return(NULL)
  found <- first_next(result)
  # Nobody types hundreds of names.
  found <- found[nchar(found$command) <= command_most, ]
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
