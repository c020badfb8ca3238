# A question to a call: read into segments, those into a frame, that into the call of a study.

# list(study, args, words, taken): the call, what each word was taken for, and what was assumed.
ask_read <- function(book, question, means = NULL) {
  check_book(book)
  asked <- asked_frame(book, asked_line(question), means)
  call_with_words(ask_call(asked$frame, book, asked$text), asked)
}

asked_line <- function(question) trimmed(one_line(check_words(question, "question", one = TRUE)))

# list(text, read, frame): the segments of a question, and what they ask for.
asked_frame <- function(book, text, means = NULL) {
  words <- ask_vocabulary(book, means)
  read <- read_segments(text, book, words)
  list(text = text, read = read, frame = read_frame(read, book, words))
}

# A call with what each word of the question was taken for.
call_with_words <- function(call, asked) {
  read <- asked$read
  call$words <- words_table(read, asked$frame)
  call$tokens <- sum(read$tokens$kind != "comma")
  call$used <- tokens_used(read)
  call$taken <- c(read$mended, call$taken)
  call
}

# How many tokens lie in segments, all of which some rule took.
tokens_used <- function(read) {
  own <- Filter(function(one) one$kind != "comma", read$segments)
  sum(vapply(own, function(one) one$to - one$from + 1, 0))
}

# What each part of the question was taken for: words, taken_for, value.
words_table <- function(read, frame) {
  said <- frame$said[order(vapply(frame$said, `[[`, 0, "from"))]
  data.frame(words = vapply(said, function(one) {
    asked_words(read$text, read$tokens, one$from, one$to)
  }, ""), taken_for = vapply(said, `[[`, "", "taken"),
  value = vapply(said, function(one) one_line(as.character(one$value)), ""))
}
