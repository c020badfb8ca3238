# The words that a book can be asked in: those of the language (inst/ask/en.yml), its fields,
# metrics, names, sets and parameters. Made once for a book and kept with its source.
#
# A meaning is list(type, ...): word (of a kind), field, metric, name (field, value), set,
# parameter.

# The kinds of words of the language: list(kind = phrases), in their plain form.
ask_words <- function() {
  if (is.null(ask_kept$words)) {
    file <- system.file("ask", "en.yml", package = "longladder")
    read <- yaml::read_yaml(file, handlers = list("bool#yes" = identity, "bool#no" = identity))
    ask_kept$words <- lapply(read, function(x) unique(plain_words(as.character(unlist(x)))))
  }
  ask_kept$words
}

ask_kept <- new.env(parent = emptyenv())

# list(phrases, tokens, longest): the meanings of each phrase, an environment; every single word
# there is; and how many words the longest phrase has. `means` are words of the person's own, as
# c(clients = "account").
ask_vocabulary <- function(book, means = NULL) {
  made <- book$source$asked_words
  # Other metrics may be asked of the same lines.
  of <- list(lines = list(book$fields, book$also, book$plurals, book$made, book$labels),
             asked = list(lapply(book$metrics, `[[`, "also"), names(book$sets),
                          names(book$parameters)))
  if (!identical(made$of, of)) {
    made <- new_vocabulary(book, if (identical(made$of$lines, of$lines)) made$large)
    made$of <- of
    book$source$asked_words <- made
  }
  if (length(means)) made <- own_words(made, book, means)
  made
}

# `large` are the indexes of many names that were made before.
new_vocabulary <- function(book, large) {
  made <- new.env(parent = emptyenv())
  made$phrases <- new.env(parent = emptyenv())
  made$large <- large
  kinds <- ask_words()
  for (kind in names(kinds)) add_phrases(made, kinds[[kind]], list(type = "word", kind = kind))
  note_fields(made, book)
  note_metrics(made, book)
  add_name_index(made, book)
  for (set in names(book$sets)) add_phrases(made, plain_words(spoken(set)), list(
    type = "set", name = set, field = book$sets[[set]]$each))
  for (name in names(book$parameters))
    add_phrases(made, plain_words(spoken(name)), list(type = "parameter", name = name))
  made$tokens <- unique(unlist(strsplit(unlist(made$said), " ", fixed = TRUE)))
  made$said <- NULL
  made
}

add_phrases <- function(made, phrases, meaning) {
  phrases <- unique(phrases[nzchar(phrases)])
  for (phrase in phrases) {
    before <- made$phrases[[phrase]]
    if (!any(vapply(before, identical, NA, meaning)))
      assign(phrase, c(before, list(meaning)), envir = made$phrases)
  }
  # Their single words are looked up in once all are there.
  made$said[[length(made$said) + 1L]] <- phrases
  made$longest <- max(made$longest, lengths(gregexpr(" ", phrases, fixed = TRUE)) + 1L, 1L)
}

# What a word of fields or metrics is in the singular and the plural.
both_numbers <- function(phrase, plural = NULL) {
  out <- c(phrase, plural, if (is_countable(phrase)) plural_word(phrase), singular_word(phrase))
  plain_words(unique(out))
}

singular_word <- function(word) {
  if (grepl("[^s]ies$", word)) return(sub("ies$", "y", word))
  if (grepl("(x|z|ch|sh|ss)es$", word)) return(sub("es$", "", word))
  if (grepl("[^siu]s$", word)) sub("s$", "", word)
}

note_fields <- function(made, book) {
  fields <- named_once(book$fields)
  fields <- fields[!fields$name %in% book$made, ]
  for (i in seq_len(nrow(fields))) {
    name <- fields$name[i]
    also <- names(book$also)[book$also == name]
    for (phrase in c(spoken(name), without_currency(spoken(name)), spoken(also)))
      add_phrases(made, both_numbers(phrase, book$plurals[[name]]),
                  list(type = "field", name = name, role = fields$role[i], from = fields$from[i]))
  }
}

# "Umsatz EUR", "Sales (USD)" are asked for without their currency.
without_currency <- function(phrase) {
  currency <- "eur|euro|usd|gbp|chf|sek|nok|dkk|pln|czk|jpy|cad|aud|\u20ac|\u00a3|[$]"
  short <- sub(paste0("[ (]+(in )?(", currency, ")[)]?$"), "", phrase, ignore.case = TRUE, perl = TRUE)
  if (short != phrase && nzchar(short)) short
}

note_metrics <- function(made, book) {
  for (name in names(book$metrics)) {
    also <- book$metrics[[name]]$also
    for (phrase in unique(c(spoken(name), also)))
      add_phrases(made, both_numbers(phrase), list(type = "metric", name = name))
  }
}

# Names of dimensions: those of fields with few names as phrases of their own, also in the plural;
# of all an index.
few_names <- 400

add_name_index <- function(made, book) {
  made$index <- list()
  labels <- unlist(lapply(names(book$registers), label_fields, book = book))
  # What only tells names once more is looked up as their label.
  for (field in setdiff(dimensions_of(book), labels))
    made$index[[field]] <- made$large[[field]] %||% kept_index(book, field) %||%
      new_index(made, book, field)
  small <- Filter(function(index) length(index$plain) <= 5000, made$index)
  made$name_tokens <- unique(unlist(lapply(small, function(index) {
    strsplit(index$plain, " ", fixed = TRUE)
  })))
}

new_index <- function(made, book, field) {
  row <- book$fields[match(field, book$fields$name), ]
  names <- known_names(book, field)
  names <- names[!is.na(names) & nzchar(names)]
  labels <- labels_of(book, field, names)
  index <- index_names(names, labels, row$from)
  if (length(names) > few_names) {
    made$large[[field]] <- keep_index(book, field, index)
    return(made$large[[field]])
  }
  for (i in seq_along(names)) {
    meaning <- list(type = "name", field = field, value = names[i], from = row$from)
    add_phrases(made, plain_words(names[i]), meaning)
    if (!is.na(labels[i])) add_phrases(made, plain_words(labels[i]), c(meaning, label = TRUE))
    if (length(names) <= 60 && grepl("^[[:lower:] ]+$", names[i]))
      add_phrases(made, both_numbers(plain_words(names[i])), meaning)
  }
  index
}

# Words that mean a field, metric, name or set of the book for once.
own_words <- function(made, book, means) {
  own <- new.env(parent = emptyenv())
  own$phrases <- new.env(parent = made$phrases)
  for (part in c("tokens", "longest", "index", "name_tokens")) own[[part]] <- made[[part]]
  for (word in names(means)) {
    target <- plain_words(means[[word]])
    found <- get0(target, envir = made$phrases) %||% names_called(made, target)
    if (!length(found)) found <- get0(plain_words(spoken(means[[word]])), envir = made$phrases)
    if (!length(found))
      ll_abort(c(paste0("The word ", quoted(word), " is to mean ", quoted(means[[word]]),
                        ", which this book does not know."),
                 offer(means[[word]], c(dimensions_of(book), names(book$metrics)), "There are")),
               "word")
    phrase <- plain_words(word)
    assign(phrase, found, envir = own$phrases)
    words <- strsplit(phrase, " ", fixed = TRUE)[[1]]
    own$tokens <- unique(c(own$tokens, words))
    own$longest <- max(own$longest, length(words))
  }
  own
}

# The meanings of a phrase in the book's and the language's words.
meanings_of <- function(made, phrase) {
  found <- get0(phrase, envir = made$phrases, inherits = TRUE)
  if (is.list(found)) found
}
