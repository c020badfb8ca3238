# From tokens to segments: periods, the longest phrases that the book and the language know,
# numbers, parts of names, words mended. A segment is list(from, to, text, low, means, kind),
# `means` a list of meanings (see ask-vocabulary.R). What is left over ends the question.

read_segments <- function(text, book, words) {
  tokens <- ask_tokens(text)
  if (!length(tokens$low)) refuse_question(text, "There is no question here")
  if (length(tokens$low) > 200)
    refuse_question(fit_text(text, 60), paste("A question has 200 words at most; this one has",
                                              count_text(length(tokens$low))))
  mended <- mend_tokens(tokens, words)
  tokens <- mended$tokens
  dates <- if (!is.null(book$date) && length(book$days)) book_dates(book, "when")
  out <- list()
  i <- 1L
  while (i <= length(tokens$low)) {
    one <- order_at(text, tokens, i, book, out, dates) %||%
      segment_at(tokens, i, words, dates) %||%
      number_of_order(text, tokens, i, book, cheap_identifiers(book))
    if (is.null(one)) unknown_word(text, tokens, i, words)
    one$from <- i
    one$to <- i + one$used - 1L
    one$text <- asked_words(text, tokens, one$from, one$to)
    out <- c(out, list(one))
    i <- i + one$used
  }
  list(segments = out, tokens = tokens, mended = mended$told, text = text)
}

# The words of a question between two tokens, as they were typed.
asked_words <- function(text, tokens, from, to) substr(text, tokens$from[from], tokens$to[to])

segment_at <- function(tokens, i, words, dates) {
  kind <- tokens$kind[i]
  if (kind == "comma") return(list(kind = "comma", used = 1L, means = list(), low = ""))
  if (kind == "quoted")
    return(list(kind = "quoted", used = 1L, means = list(), low = tokens$low[i],
                value = gsub("\"\"", "\"", gsub("^.|.$", "", tokens$text[i]))))
  if (i == 1L && tokens$low[1] %in% names(declarations()) &&
        (length(tokens$low) == 1L || tokens$text[2] == ":") &&
        !(length(tokens$low) == 1L && length(meanings_of(words, tokens$low[1]))))
    return(list(kind = "study", low = tokens$low[1], used = 1L, means = list()))
  argument <- argument_at(tokens, i)
  if (!is.null(argument)) return(argument)
  label <- if (any(tokens$low %in% c("tiers", "tier"))) bound_label_at(tokens, i)
  if (!is.null(label)) return(label)
  phrase <- longest_phrase(tokens, i, words)
  period <- period_at(tokens, i, dates)
  # A name of more words than the period is a name.
  named <- !is.null(phrase) && any(vapply(phrase$means, `[[`, "", "type") != "word")
  if (!is.null(period) && !(named && phrase$used >= period$used))
    return(list(kind = "period", period = period$text, doubt = period$doubt,
                season = period$season, used = period$used, means = list(),
                low = paste(tokens$low[seq(i, length.out = period$used)], collapse = " ")))
  number <- number_at(tokens, i)
  if (!is.null(phrase)) return(c(phrase, list(kind = "phrase", number = number$value)))
  if (!is.null(number)) return(number)
  part_of_name(tokens, i, words)
}

# The number of an order (an invoice, a job), after the word for one: "order 10234".
order_at <- function(text, tokens, i, book, before, dates) {
  field <- order_field(before, book)
  if (is.null(field)) return(NULL)
  found <- number_of_order(text, tokens, i, book, field)
  # "order 999999", with nothing after it.
  if (is.null(found) && tokens$kind[i] == "number" && i == length(tokens$low) &&
        identical(before[[length(before)]]$low, "order") && is.null(period_at(tokens, i, dates)))
    refuse_question(text, paste0("There is no order ", quoted(tokens$text[i]), " in ",
                                 spoken(field)))
  period <- if (!is.null(found)) period_at(tokens, i, dates)
  if (!is.null(period))
    refuse_question(text, paste0("Whether ", quoted(found$means[[1]]$value), " is the number of ",
                                 "an order or a period is not clear"), c(
      i = paste0("Say ", spoken(field), " ", in_quotes(found$means[[1]]$value), ", or 'in' before ",
                 "the period.")))
  found
}

# The identifier that the words before speak of, or whose numbers are listed there; else NULL.
order_field <- function(before, book) {
  joins <- function(one) one$kind == "comma" || is_kind(one, "and", "or")
  while (length(before) && joins(before[[length(before)]])) before <- utils::head(before, -1)
  if (!length(before)) return(NULL)
  last <- before[[length(before)]]
  own <- Filter(function(m) identical(m$role, "identifier"), last$means)
  if (length(own)) return(own[[1]]$name)
  named <- Filter(function(m) m$type == "name" && m$field %in% identifiers_of(book), last$means)
  if (length(named)) return(named[[1]]$field)
  if (is_kind(last, "order")) book$order
}

# One that is found on the lines as it stands, of these identifiers, of as many words as there are.
# Of anything else the number must have a digit.
number_of_order <- function(text, tokens, i, book, fields) {
  spans <- rev(seq_len(min(4L, length(tokens$low) - i + 1L)))
  whole <- vapply(spans, function(n) {
    all(tokens$kind[seq(i, length.out = n)] %in% c("word", "number", "date"))
  }, NA)
  typed <- vapply(spans, function(n) asked_words(text, tokens, i, i + n - 1L), "")
  asked <- which(whole & grepl("[0-9]", typed))
  if (!length(asked)) return(NULL)
  for (field in fields) {
    known <- intersect(c(typed, toupper(typed), tolower(typed)), names_of(book, field))
    for (k in asked) {
      hit <- intersect(c(typed[k], toupper(typed[k]), tolower(typed[k])), known)
      if (length(hit))
        return(list(kind = "phrase", low = plain_words(typed[k]), used = spans[k], means = list(
          list(type = "name", field = field, value = hit[1], from = "lines"))))
    }
  }
}

# Those whose numbers are at hand: of a database all would be fetched for a word that is not known.
cheap_identifiers <- function(book) {
  if (inherits(book$source, "frame_source")) identifiers_of(book)
}

identifiers_of <- function(book) {
  own <- book$fields
  unique(c(book$order, own$name[own$role == "identifier" & own$from == "lines"]))
}

# "with last ties" before a text in quotes: an argument of some study.
argument_at <- function(tokens, i) {
  if (low_at(tokens, i) != "with") return(NULL)
  quote <- which(tokens$kind == "quoted" & seq_along(tokens$kind) > i)[1]
  if (is.na(quote) || quote - i < 2L || quote - i > 4L) return(NULL)
  name <- paste(tokens$low[seq(i + 1L, quote - 1L)], collapse = "_")
  known <- unlist(lapply(declarations(), function(d) names(d$args)))
  if (name %in% known) list(kind = "argument", name = name, used = quote - i, means = list())
}

# "Copper from 0": a label of the person's own before a bound.
bound_label_at <- function(tokens, i) {
  if (low_at(tokens, i + 1L) != "from" || !isTRUE(tokens$kind[i + 2L] == "number")) return(NULL)
  list(kind = "bound_label", used = 1L, means = list(), low = tokens$low[i])
}

number_at <- function(tokens, i) {
  low <- tokens$low[i]
  if (tokens$kind[i] == "percent")
    return(list(kind = "percent", value = token_number(low), used = 1L, means = list(), low = low))
  value <- if (tokens$kind[i] == "number") token_number(low) else
    if (low %in% names(number_words)) number_words[[low]]
  if (is.null(value)) return(NULL)
  percent <- low_at(tokens, i + 1L) %in% c("percent", "per cent")
  list(kind = if (percent) "percent" else "number", value = value, used = if (percent) 2L else 1L,
       means = list(), low = low)
}

words_before_one <- c("per", "each", "every", "a", "an", "average", "single")

longest_phrase <- function(tokens, i, words) {
  listed <- listed_phrase(tokens, i, words)
  if (!is.null(listed)) return(listed)
  most <- min(max(words$longest, 8L), length(tokens$low) - i + 1L)
  # "revenue per order by rep" and "largest order by rep" ask for no order by.
  if (tokens$low[i] == "order" && i > 1L) {
    before <- tokens$low[i - 1L]
    sized <- is_kind(list(means = meanings_of(words, before)), ask_sizes)
    if (sized || before %in% words_before_one) most <- 1L
  }
  # A phrase goes over no comma, date or quote.
  stop <- which(!tokens$kind[seq(i, length.out = most)] %in% c("word", "number"))
  if (length(stop)) most <- stop[1] - 1L
  for (n in rev(seq_len(max(most, 0)))) {
    phrase <- paste(tokens$low[seq(i, length.out = n)], collapse = " ")
    means <- meanings_of(words, phrase)
    # Longer indexes are looked up, which short words seldom are in.
    if (n > 1 || nchar(phrase) > 2)
      means <- unique(c(means, names_called(words, phrase)))
    if (length(means)) return(list(low = phrase, means = plain_meanings(means, phrase), used = n))
  }
  NULL
}

# A phrase of the language that is a list: "price, volume and mix".
listed_phrase <- function(tokens, i, words) {
  if (!identical(tokens$kind[i + 1L], "comma")) return(NULL)
  at <- i + which(tokens$kind[-seq_len(i)] == "word")
  at <- utils::head(at[at <= i + 7L], 5)
  for (n in rev(seq_along(at)[-1])) {
    phrase <- paste(tokens$low[c(i, at[seq_len(n)])], collapse = " ")
    means <- Filter(function(m) m$type == "word", meanings_of(words, phrase))
    if (length(means)) return(list(low = phrase, means = means, used = at[n] - i + 1L))
  }
  NULL
}

# A word of the language is no plural or singular of a name.
plain_meanings <- function(means, phrase) {
  type <- vapply(means, `[[`, "", "type")
  if (!any(type == "word")) return(means)
  bent <- type == "name" & vapply(means, function(m) {
    m$type == "name" && plain_words(m$value) != phrase && !isTRUE(m$label)
  }, NA)
  means[!bent]
}

# Words that are part of a name alone, as many of them as there are.
part_of_name <- function(tokens, i, words) {
  most <- min(6L, length(tokens$low) - i + 1L)
  for (n in rev(seq_len(most))) {
    if (any(tokens$kind[seq(i, length.out = n)] != "word")) next
    phrase <- paste(tokens$low[seq(i, length.out = n)], collapse = " ")
    if (nchar(phrase) < 3) next
    found <- names_with(words, phrase)
    if (length(found)) return(list(kind = "phrase", low = phrase, means = found, used = n,
                                   part = TRUE))
  }
  NULL
}

# Words that are in no phrase and no name, mended where one word alone is near enough.
mend_tokens <- function(tokens, words) {
  told <- character()
  known <- c(words$tokens, words$name_tokens, names(number_words), names(ask_ordinals), ask_months,
             names(ask_seasons), period_tokens)
  arguments <- unlist(strsplit(unlist(lapply(declarations(), function(d) names(d$args))), "_"))
  quotes <- any(tokens$kind == "quoted")
  for (i in which(tokens$kind == "word" & !tokens$low %in% known)) {
    if (quotes && tokens$low[i] %in% arguments) next
    if (length(names_called(words, tokens$low[i])) || length(names_with(words, tokens$low[i], 1)))
      next
    # A short word is mended to no part of a name.
    near <- slip_of(tokens$low[i], if (nchar(tokens$low[i]) < 5) setdiff(known, words$name_tokens)
                    else known)
    if (is.null(near)) next
    told <- c(told, paste0("\"", tokens$text[i], "\" is taken for \"", near, "\""))
    tokens$low[i] <- near
  }
  list(tokens = tokens, told = told)
}

period_tokens <- c(
  "since", "until", "till", "before", "between", "last", "past", "previous", "this", "current",
  "fiscal", "year", "years", "quarter", "quarters", "month", "months", "week", "weeks", "day",
  "days", "half", "ytd", "date", "far", "ever", "all", "percent", "recent", "beginning", "start",
  "end", "starting", "time", "with")

# The end of a question that was not understood: what, where, the nearest words, how to teach it.
unknown_word <- function(text, tokens, i, words) {
  word <- tokens$text[i]
  if (tokens$low[i] %in% c(words$tokens, period_tokens, names(number_words), names(ask_ordinals),
                           ask_months))
    refuse_question(text, paste0("The word ", quoted(word), " cannot be read where it stands"), c(
      i = "Say it in other words, or leave it out."))
  near <- nearest(tokens$low[i], c(words$tokens, words$name_tokens))
  refuse_question(text, paste0("The word ", quoted(word), " is none that this book knows"),
                  c(if (length(near)) c(i = paste0("Nearest: ", and_list(quoted(near), last = "or"),
                                                   ".")),
                    i = paste0("Teach it: --means '", tokens$low[i], "=FIELD', or also: [",
                               tokens$low[i], "] at the field in the brief.")), word)
}

# `why` ends the question; `word` is where.
refuse_question <- function(text, why, hints = NULL, word = NULL) {
  at <- if (!is.null(word)) paste0(" (in ", quoted(fit_text(text, 200)), ")")
  # A word of thousands of signs is told by its beginning.
  told <- c(paste0(why, at, "."), hints)
  ll_abort(stats::setNames(gsub("([^ ]{80})[^ ]{40,}", "\\1...", told), names(told)), "question")
}

# A choice as it is asked, without the quotes that it is told in.
bare_choice <- function(choice) gsub("^\"(.*)\"$", "\\1", choice)

# A question with a choice in place of the word in doubt.
with_choice <- function(doubt, number) {
  sub(doubt$word, bare_choice(doubt$choices[number]), doubt$question, fixed = TRUE)
}

# A question back: choices, each with what to type for it.
ask_back <- function(text, what, choices, word = NULL) {
  shown <- utils::head(choices, 9)
  lines <- paste0(seq_along(shown), ". ", names(shown), ifelse(
    nzchar(shown), paste0(": ask with ", shown), ""))
  more <- length(choices) - length(shown)
  ll_abort(c(paste0(what, " (in ", quoted(fit_text(text, 200)), ")."),
             stats::setNames(lines, rep("*", length(lines))),
             if (more > 0) c(i = paste(count_text(more), "more."))), "question",
           choices = unname(shown), word = word)
}
