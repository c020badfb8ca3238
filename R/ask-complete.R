# What a question that is being typed may go on with, from the book's words and the language's: at
# the prompt by Tab, and on the desk.

#' How a question may go on
#'
#' The words and phrases with which a question that is being typed may go on: the book's metrics,
#' dimensions, sets and names, and the words of questions.
#'
#' @param book (`ll_book`) the book.
#' @param text (text) what was typed so far.
#' @param most (whole number) how many at most.
#' @return A data frame, likeliest first: `text`, the whole question with the phrase in place of
#'   what was begun; `phrase`; and `what` it is: metric, dimension, set, parameter, the field of a
#'   name, or word.
#' @section Errors: `ll_error_argument` for what is no book or no text.
#' @examples
#' book <- ll_demo()
#' ll_complete(book, "top 10 gar")
#' ll_complete(book, "revenue by terr")$text
#' @export
ll_complete <- function(book, text, most = 12) {
  check_book(book)
  if (!is.character(text) || length(text) != 1 || is.na(text))
    ll_abort(c("'text' must be one text.", x = paste0("It is ", shown(text), ".")), "argument")
  text <- one_line(text)
  most <- check_whole(most, "most", list(from = 1))
  words <- ask_vocabulary(book)
  listed <- listed_phrases(book, words)
  out <- data.frame(text = character(), phrase = character(), what = character())
  # What was begun: the last three words, two, one.
  for (from in utils::tail(word_starts(text), 3)) {
    begun <- plain_words(substring(text, from))
    if (!nzchar(begun)) next
    hit <- listed[startsWith(listed$plain, begun) & listed$plain != begun, ]
    hit <- rbind(hit[c("phrase", "what")], names_begun(book, words, begun, most))
    if (!nrow(hit)) next
    out <- data.frame(text = paste0(substr(text, 1, from - 1L), hit$phrase), phrase = hit$phrase,
                      what = hit$what)
    break
  }
  out <- utils::head(out[!duplicated(tolower(out$text)), ], most)
  rownames(out) <- NULL
  out
}

# Where words begin; none is begun after a blank.
word_starts <- function(text) {
  if (grepl("(^|[ ,])$", text)) return(integer())
  at <- gregexpr("[^ ,]+", text)[[1]]
  at[at > 0]
}

# Phrases to go on with, in the order in which people mean them: plain, phrase, what. Made once for
# a vocabulary.
listed_phrases <- function(book, words) {
  if (!is.null(words$listed)) return(words$listed)
  row <- function(phrase, what) {
    if (length(phrase)) data.frame(plain = plain_words(phrase), phrase = phrase, what = what)
  }
  dimensions <- dimensions_of(book)
  plural <- vapply(dimensions, function(field) {
    noun <- field_noun(book, field)
    if (is_countable(noun)) plural_word(noun) else spoken(field)
  }, "", USE.NAMES = FALSE)
  short <- Filter(function(field) length(words$index[[field]]$plain) <= few_names,
                  names(words$index))
  names <- do.call(rbind, lapply(short, function(field) {
    own <- unique(words$index[[field]]$value)
    labels <- labels_of(book, field, own)
    row(one_line(ifelse(is.na(labels), own, labels)), spoken(field))
  }))
  out <- rbind(row(spoken(names(book$metrics)), "metric"), row(plural, "dimension"),
               row(spoken(dimensions), "dimension"), row(spoken(names(book$sets)), "set"),
               row(spoken(names(book$parameters)), "parameter"), names,
               row(ask_openings, "word"))
  out <- out[nzchar(out$plain) & !duplicated(out$plain), ]
  words$listed <- out
  out
}

# Names of dimensions with many that begin so.
names_begun <- function(book, words, begun, most) {
  none <- data.frame(phrase = character(), what = character())
  if (nchar(begun) < 2) return(none)
  many <- Filter(function(field) length(words$index[[field]]$plain) > few_names, names(words$index))
  found <- lapply(many, function(field) {
    index <- words$index[[field]]
    at <- kernel_find_text(index$plain, begun, TRUE)
    if (at[1] > at[2]) return(NULL)
    value <- unique(index$value[seq(at[1], min(at[2], at[1] + most))])
    label <- labels_of(book, field, value)
    named <- !is.na(label) & startsWith(plain_words(label), begun)
    data.frame(phrase = one_line(ifelse(named, label, value)), what = spoken(field))
  })
  do.call(rbind, c(list(none), found))
}

# Words and phrases of the language that people begin or join with.
ask_openings <- c(
  "top 10", "bottom 10", "how much", "how many", "who stopped buying", "which", "why did",
  "compare", "trend of", "share of", "against last year", "against the year before", "by month",
  "by quarter", "by year", "this year", "last year", "last quarter", "last month", "since",
  "without", "only", "within each", "over", "at least", "fastest growing", "biggest decliners",
  "everything on", "what is wrong with the data", "what else could", "what replaced",
  "what goes with", "the lines of", "distribution of", "make up 80% of", "above average on",
  "new", "never bought", "stopped buying", "with at least")
