# The command `ask`: a question in plain words, many of a file, or one after the other.

run_ask <- function(words) {
  read <- read_words(command_ask, words, c(studies_options(), common_options()), most = Inf)
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(ask_help())
    return(0L)
  }
  begin_log(options)
  if (!is.null(options$unanswered)) return(count_unanswered(options$unanswered))
  check_output(options)
  if (!is.null(options$log_questions)) check_question_log(options$log_questions)
  if (!is.null(options$from) && length(options$out))
    ll_abort(c("'--out' does not go with '--from'.",
               i = "Answers to many questions come to standard output, one JSON a line: > answers.jsonl"),
             "argument")
  # The question is the first word that is no file.
  asked <- utils::head(which(!file.exists(read$lines) | grepl("[ ?]", read$lines)), 1)
  if (!length(asked) && is.null(options$from) && can_prompt()) return(ask_at_prompt(words))
  question <- if (length(asked) && is.null(options$from)) read$lines[asked]
  read$lines <- if (length(question)) read$lines[-asked] else read$lines
  book <- command_book(read)
  drafted <- draft_for_words(book)
  read$drafted <- drafted$define
  talk <- list(options = options, read = read, means = asked_means(options$means),
               brief = asked_brief(read), book = drafted$book)
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
  call <- with_options(logged_question(talk, question), talk$options)
  if (isTRUE(talk$options$read_only)) {
    writeLines(reading_lines(talk$book, call), useBytes = TRUE)
    return(0L)
  }
  write_proven(each_currency(talk$book, function(book) answer_read(book, call)), talk$read)
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
      call <- with_options(logged_question(talk, question), talk$options)
      if (isTRUE(talk$options$read_only)) {
        list(question = question, study = call$study,
             said = say_call(talk$book, call$study, call$args),
             command = call_command(call$study, checked_args(call)))
      } else {
        for (result in each_currency(talk$book, function(book) answer_read(book, call))) {
          if (length(broken_proof(ll_proof(result)))) failed <- failed + 1L
          writeLines(paste0("{\"question\":", jsonlite::toJSON(question, auto_unbox = TRUE), ",",
                            substring(as_json(result), 2)), useBytes = TRUE)
        }
        NULL
      }
    }, ll_error = function(e) {
      failed <<- failed + 1L
      list(question = question, error = conditionMessage(e))
    })
    if (!is.null(one)) writeLines(jsonlite::toJSON(one, auto_unbox = TRUE), useBytes = TRUE)
    # A reader who has seen enough ends it.
    flush(stdout())
    if (kernel_stdout() == "closed") return(0L)
  }
  if (failed) 2L else 0L
}

# Questions are kept in a new file, or in one of such questions.
check_question_log <- function(file) {
  check_target(file)
  begun <- if (utils::file_test("-f", file)) readLines(file, 1, warn = FALSE)
  if (length(begun) && !startsWith(begun, "{\"time\":"))
    target_error(file, "it is there, and holds no questions kept before",
                 i = "'--log-questions' takes a new file, or one that it wrote before.")
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

ask_help <- function() {
  c("usage: longladder ask [\"QUESTION\"] [LINES] [options]", "",
    paste0(command_ask$title, "."), "",
    "Without a question, an agenda: the brief's pages with their findings and what is worth asking",
    "now; at a terminal a prompt in which each question goes on from the last answer.", "",
    "options", option_help(command_ask$args), "", groups_help("ask"), "", "examples",
    paste0("  longladder ask ", command_ask$examples))
}
