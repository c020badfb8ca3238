# The prompt of `ask`: each question goes on from the last answer, with Tab for what may follow.

# A prompt in which each question goes on from the last answer.
ask_in_turn <- function(talk) {
  writeLines(c(agenda_lines(talk), "", paste(
    "Ask in plain words; go on with 'only Moor', 'by rep', 'why'; 'back', 'start again',",
    "'command', 'keep as NAME', 'quit'.")), useBytes = TRUE)
  answers <- list()
  doubt <- NULL
  empty <- 0
  from <- if (interactive()) NULL else file("stdin", "r")
  if (is.null(from)) complete_with(talk$book)
  on.exit(if (is.null(from)) complete_with(NULL) else close(from))
  repeat {
    line <- next_question(from)
    if (is.null(line) || plain_words(line) %in% c("quit", "exit", "bye", "q")) break
    # R tells the end of what is typed (Ctrl-D) as an empty line: the second one ends the talk.
    empty <- if (nzchar(trimmed(line))) 0 else empty + 1
    if (is.null(from) && empty == 2) break
    if (empty) next
    # A number answers the question back.
    line <- chosen_question(doubt, line)
    doubt <- NULL
    answers <- tryCatch(one_turn(talk, answers, line), ll_error = function(e) {
      writeLines(enc2utf8(conditionMessage(e)), useBytes = TRUE)
      if (!is.null(e$word)) doubt <<- list(question = line, word = e$word, choices = e$choices)
      answers
    })
  }
  0L
}

# The question with the choice of this number in place of the word in doubt.
chosen_question <- function(doubt, line) {
  number <- suppressWarnings(as.integer(trimmed(line)))
  if (is.null(doubt) || is.na(number) || !number %in% seq_along(doubt$choices)) return(line)
  with_choice(doubt, number)
}

next_question <- function(from) {
  if (is.null(from)) return(readline("ask> "))
  cat("ask> ")
  line <- readLines(from, 1, warn = FALSE)
  if (length(line)) as_utf8(line)
}

print_answer <- function(talk, result) {
  print(result, width = output_width(talk$options), notes = talk$options$notes %||% notes_most)
}

# The answers so far, the last one last, after one more line of talk.
one_turn <- function(talk, answers, line) {
  plain <- plain_words(line)
  last <- if (length(answers)) answers[[length(answers)]]
  if (plain == "start again") return(list())
  if (plain == "back") {
    answers <- utils::head(answers, -1)
    if (length(answers)) print_answer(talk, answers[[length(answers)]])
    return(answers)
  }
  if (plain %in% c("command", "show as command", "as command")) {
    if (is.null(last)) refuse_question(line, "Nothing was asked yet")
    told <- facts(last)
    call <- paste0(call_command(told$study, told$asked), " ")
    writeLines(paste0("longladder ", sub(" ", paste0(words_of_call(talk$read, call), " "), call,
                                         fixed = TRUE)), useBytes = TRUE)
    return(answers)
  }
  kept <- "^\\s*keep\\s+(?:this\\s+)?as\\s+(.+?)\\s*$"
  keep <- regmatches(line, regexec(kept, line, perl = TRUE))[[1]]
  if (length(keep)) {
    if (is.null(last)) refuse_question(line, "Nothing was asked yet")
    keep_page(talk, last, keep[2])
    return(answers)
  }
  call <- with_options(logged_question(talk, line, last), talk$options)
  results <- each_currency(talk$book, function(book) answer_read(book, call))
  for (result in results) print_answer(talk, result)
  writeLines(hint_lines(next_commands(results[[1]], talk$read)), useBytes = TRUE)
  c(answers, unname(results[1]))
}

keep_page <- function(talk, result, name) {
  file <- talk$brief$file
  if (is.null(file))
    ll_abort("There is no brief to keep a page in: give one with --brief FILE.", "argument")
  ll_keep(file, result, name)
  tell(paste0("kept as a page of ", file))
}

# Whether there is a terminal at which R can edit lines, and is not doing so yet: a script reads
# them as they come.
can_prompt <- function() {
  !interactive() && isatty(stdin()) && isatty(stdout()) && .Platform$OS.type == "unix" &&
    !nzchar(Sys.getenv("LONGLADDER_PROMPT"))
}

# The same command in an R that edits lines; its status.
ask_at_prompt <- function(words) {
  start <- tempfile("ask-", fileext = ".R")
  on.exit(unlink(start))
  # Words are handed over as data, so that none is read as code.
  given <- tempfile("ask-", fileext = ".rds")
  on.exit(unlink(given), add = TRUE)
  saveRDS(words, given)
  put_lines(c(
    ".libPaths(strsplit(Sys.getenv(\"LONGLADDER_PROMPT\"), .Platform$path.sep)[[1]])",
    paste0("quit(save = \"no\", status = longladder::ll_main(c(\"ask\", readRDS(",
           deparse(given), "))))")), start)
  system2(file.path(R.home("bin"), "R"), c("--interactive", "--no-echo", "--no-save",
                                           "--no-restore", "--no-site-file"),
          env = c(paste0("R_PROFILE_USER=", shQuote(start)),
                  paste0("LONGLADDER_PROMPT=", shQuote(paste(.libPaths(),
                                                             collapse = .Platform$path.sep)))))
}

# Tab completes questions to this book, or R's own words again for NULL.
complete_with <- function(book) {
  utils::rc.options(custom.completer = if (!is.null(book)) function(at) {
    line <- substr(at$linebuffer, 1, at$end)
    begun <- substr(line, at$start + 1, at$end)
    found <- ll_complete(book, line)
    # Only what stands after the words before the one that is completed.
    before <- substr(line, 1, at$start)
    same <- startsWith(tolower(found$text), tolower(before)) & nzchar(begun)
    at$comps <- substring(found$text[same], nchar(before) + 1)
    # R asks whether files are meant; not here.
    at$fileName <- FALSE
  })
}
