# The command `ask`: a question in plain words, many of a file, or one after the other.

run_ask <- function(words) {
  read <- read_words(command_ask, words, most = Inf)
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(ask_help())
    return(0L)
  }
  begin_log(options)
  if (!is.null(options$unanswered)) return(count_unanswered(options$unanswered))
  check_output(options)
  # The question is the first word that is no file.
  asked <- utils::head(which(!file.exists(read$lines) | grepl("[ ?]", read$lines)), 1)
  question <- if (length(asked) && is.null(options$from)) read$lines[asked]
  read$lines <- if (length(question)) read$lines[-asked] else read$lines
  talk <- list(options = options, read = read, means = asked_means(options$means),
               brief = asked_brief(read), book = command_book(read))
  if (!is.null(options$from)) return(ask_many(talk))
  if (length(question)) return(ask_once(talk, question))
  if (interactive() || isatty(stdin())) return(ask_in_turn(talk))
  writeLines(agenda_lines(talk), useBytes = TRUE)
  0L
}

asked_means <- function(given) {
  pairs <- pairs_of(given, "means")
  if (!is.null(pairs)) unlist(pairs)
}

# The brief whose pages are an agenda; NULL where the lines alone are asked.
asked_brief <- function(read) {
  file <- read$options$brief
  if (is.null(file) && !length(read$lines) && is.null(read$options$connect) &&
        file.exists("longladder.yml")) file <- "longladder.yml"
  if (!is.null(file)) command_brief(file, read$options)
}

ask_once <- function(talk, question) {
  call <- logged_question(talk, question)
  if (isTRUE(talk$options$read_only)) {
    writeLines(reading_lines(talk$book, call), useBytes = TRUE)
    return(0L)
  }
  write_proven(answer_read(talk$book, call), talk$read)
}

# How a question is read, and the call that it comes to.
reading_lines <- function(book, call) {
  c(asked_reading(call), say_call(book, call$study, call$args),
    paste("longladder", call_command(call$study, checked_args(call))))
}

checked_args <- function(call) check_args(declaration_of(call$study), call$args)

# The call of a question; it and what became of it are kept where that was asked for.
logged_question <- function(talk, question, result = NULL) {
  keep <- function(became) {
    file <- talk$options$log_questions
    if (is.null(file)) return(invisible())
    line <- jsonlite::toJSON(list(time = format(Sys.time(), "%Y-%m-%dT%H:%M:%S"),
                                  question = question, became = became), auto_unbox = TRUE)
    wrong <- kernel_write(file, charToRaw(enc2utf8(paste0(line, "\n"))), TRUE)
    if (nzchar(wrong)) tell(paste0("note: the question was not kept: ", wrong))
  }
  tryCatch({
    pages <- talk$brief$pages
    page <- page_asked(pages, question)
    call <- if (!is.null(page)) page else if (is.null(result))
      ask_read(talk$book, question, talk$means) else
        follow_read(talk$book, result, question, talk$means)
    keep(call$study)
    call
  }, ll_error = function(e) {
    keep(paste0("not answered: ", strsplit(conditionMessage(e), "\n")[[1]][1]))
    stop(e)
  })
}

# A page of the brief by its name, title or one of its own wordings, without grammar.
page_asked <- function(pages, question) {
  plain <- plain_words(question)
  for (name in names(pages)) {
    page <- as_page(name, pages[[name]])
    own <- plain_words(c(spoken(name), attr(page, "title"), attr(page, "asks")))
    if (!plain %in% own) next
    n <- length(ask_tokens(question)$low)
    return(list(study = page$study, args = page_args(page), tokens = n, used = n, taken = NULL,
                words = data.frame(words = question, taken_for = "page", value = name)))
  }
  NULL
}

# One question a line, one JSON a line: the answer, or why there is none.
ask_many <- function(talk) {
  file <- talk$options$from
  check_readable(file, "questions")
  questions <- trimmed(as_utf8(readLines(file, warn = FALSE)))
  questions <- questions[nzchar(questions) & !startsWith(questions, "#")]
  if (!length(questions)) file_error(file, "holds no question")
  failed <- 0L
  for (question in questions) {
    one <- tryCatch({
      call <- logged_question(talk, question)
      if (isTRUE(talk$options$read_only)) {
        list(question = question, study = call$study,
             said = say_call(talk$book, call$study, call$args),
             command = call_command(call$study, checked_args(call)))
      } else {
        result <- answer_read(talk$book, call)
        if (length(broken_proof(ll_proof(result)))) failed <- failed + 1L
        writeLines(paste0("{\"question\":", jsonlite::toJSON(question, auto_unbox = TRUE), ",",
                          substring(as_json(result), 2)), useBytes = TRUE)
        NULL
      }
    }, ll_error = function(e) {
      failed <<- failed + 1L
      list(question = question, error = conditionMessage(e))
    })
    if (!is.null(one)) writeLines(jsonlite::toJSON(one, auto_unbox = TRUE), useBytes = TRUE)
  }
  if (failed) 2L else 0L
}

# What was asked and not answered, by the words that were not known.
count_unanswered <- function(file) {
  check_readable(file, "questions")
  lines <- readLines(file, warn = FALSE)
  read <- lapply(lines[nzchar(lines)], function(line) {
    tryCatch(jsonlite::fromJSON(line), error = function(e) {
      file_error(file, "is no log of questions")
    })
  })
  not <- Filter(function(one) startsWith(one$became, "not answered: "), read)
  word <- vapply(not, function(one) {
    hit <- regmatches(one$became, regexec("The word '([^']*)'", one$became))[[1]]
    if (length(hit)) hit[2] else NA_character_
  }, "")
  writeLines(paste0(plural(length(read), "question"), ", ", count_text(length(not)),
                    " not answered"))
  counts <- sort(table(word), decreasing = TRUE)
  if (length(counts)) writeLines(c("", "words to teach", paste0("  ", pad(names(counts), 20), "  ",
                                                               counts)), useBytes = TRUE)
  other <- vapply(not[is.na(word)], `[[`, "", "question")
  if (length(other)) writeLines(c("", "not understood", paste0("  ", unique(other))),
                                useBytes = TRUE)
  0L
}

# A prompt in which each question goes on from the last answer.
ask_in_turn <- function(talk) {
  writeLines(c(agenda_lines(talk), "", paste(
    "Ask in plain words; go on with 'only Moor', 'by rep', 'why'; 'back', 'start again',",
    "'command', 'keep as NAME', 'quit'.")), useBytes = TRUE)
  answers <- list()
  doubt <- NULL
  from <- if (interactive()) NULL else file("stdin", "r")
  if (!is.null(from)) on.exit(close(from))
  repeat {
    line <- next_question(from)
    if (is.null(line) || plain_words(line) %in% c("quit", "exit", "bye", "q")) break
    if (!nzchar(trimmed(line))) next
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
  choice <- gsub("^\"(.*)\"$", "\\1", doubt$choices[number])
  sub(doubt$word, choice, doubt$question, fixed = TRUE)
}

next_question <- function(from) {
  if (is.null(from)) return(readline("ask> "))
  cat("ask> ")
  line <- readLines(from, 1, warn = FALSE)
  if (length(line)) as_utf8(line)
}

# The answers so far, the last one last, after one more line of talk.
one_turn <- function(talk, answers, line) {
  plain <- plain_words(line)
  last <- if (length(answers)) answers[[length(answers)]]
  if (plain == "start again") return(list())
  if (plain == "back") {
    answers <- utils::head(answers, -1)
    if (length(answers)) print(answers[[length(answers)]], width = output_width(talk$options))
    return(answers)
  }
  if (plain %in% c("command", "show as command", "as command")) {
    if (is.null(last)) refuse_question(line, "Nothing was asked yet")
    told <- facts(last)
    writeLines(paste0("longladder ", sub(" ", paste0(words_of_book(talk$read), " "),
                                         paste0(call_command(told$study, told$asked), " "),
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
  result <- answer_read(talk$book, logged_question(talk, line, last))
  print(result, width = output_width(talk$options))
  writeLines(hint_lines(next_commands(result, talk$read)), useBytes = TRUE)
  c(answers, list(result))
}

keep_page <- function(talk, result, name) {
  file <- talk$brief$file
  if (is.null(file))
    ll_abort("There is no brief to keep a page in: give one with --brief FILE.", "argument")
  ll_keep(file, result, name)
  tell(paste0("kept as a page of ", file))
}

# The brief's pages with their findings, and what is worth asking now, as lines that run.
agenda_lines <- function(talk) {
  pages <- lapply(names(talk$brief$pages), function(name) {
    one <- run_page(name, talk$brief$pages[[name]], talk$book)
    c(paste0("  ", one$title), paste0("    ", if (page_failed(one)) conditionMessage(one$error) else
      ll_finding(one$result)))
  })
  asking <- lapply(worth_asking(talk$book), function(one) {
    study <- call_command(one$study, one$args)
    rest <- substring(study, nchar(one$study) + 1)
    c(paste0("  ", say_call(talk$book, one$study, one$args), ": ", one$reason),
      paste0("    longladder ", one$study, words_of_book(talk$read), rest))
  })
  enc2utf8(c(if (length(pages)) c("the brief's pages", unlist(pages), ""),
             if (length(asking)) c("worth asking now", unlist(asking))))
}

ask_help <- function() {
  c("usage: longladder ask [\"QUESTION\"] [LINES] [options]", "",
    paste0(command_ask$title, "."), "",
    "Without a question, an agenda: the brief's pages with their findings and what is worth asking",
    "now; at a terminal a prompt in which each question goes on from the last answer.", "",
    "options", option_help(command_ask$args), "", groups_help("ask"), "", "examples",
    paste0("  longladder ask ", command_ask$examples))
}
