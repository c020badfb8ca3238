# A question of the command: the page or the call that it comes to, and what may be asked at first.

# What any study can be told, for those beside a question; options that the command has are its own.
studies_options <- function() {
  specs <- unlist(lapply(unname(declarations()), `[[`, "args"), recursive = FALSE)
  own <- names(c(command_ask$args, common_options()))
  specs[!duplicated(names(specs)) & !names(specs) %in% own]
}

# Options of the study that a question came to; one that it has not ends the question.
with_options <- function(call, options) {
  declared <- declaration_of(call$study)
  given <- intersect(names(studies_options()), names(options))
  if (!length(given)) return(call)
  unknown <- setdiff(given, names(declared$args))
  if (length(unknown))
    ll_abort(c(paste0("The question is one of ", call$study, ", which has no option '--",
                      dashed(unknown[1]), "'."),
               offer(unknown[1], dashed(names(declared$args)), "It has")), "word")
  # As the command of the study would take them; conditions are added to those of the question.
  declared$args <- declared$args[given]
  checked <- unclass(study_args(declared, options))[given]
  if (!is.null(checked$where)) checked$where <- all_hold(c(call$args$where, checked$where))
  # A page has all arguments, most of them as they are by default.
  told <- names(telling_args(declaration_of(call$study), call$args))
  twice <- setdiff(intersect(given, told), "where")
  if (length(twice))
    ll_abort(c(paste0("The question tells ", quoted(spoken(twice[1])), " already."),
               i = paste0("Leave '--", dashed(twice[1]), "' away, or the words for it.")),
             "argument")
  call$args[given] <- checked
  call
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
      paste0("    longladder ", one$study, words_of_call(talk$read, rest), rest))
  })
  enc2utf8(c(if (length(pages)) c("the brief's pages", unlist(pages), ""),
             if (length(asking)) c("worth asking now", unlist(asking))))
}
