# Questions that go on from an answer: what narrows, widens or turns it, and the next questions that
# the study declares.

# The call that a question comes to after an answer: as ask_read() gives it.
follow_read <- function(book, result, question, means = NULL) {
  text <- asked_line(question)
  told <- facts(inner_result(result))
  last <- list(study = told$study, args = told$asked)
  plain <- plain_words(gsub("[?!.]+$", "", text))
  proposed <- proposed_call(result, plain)
  if (!is.null(proposed)) return(said_whole(text, proposed))
  rest <- sub("^(and|but|now|ok|okay|then|what about|how about) ", "", plain)
  asked <- asked_frame(book, text, means)
  alone <- function() ask_call(asked$frame, book, text)
  call <- if (turns(asked$frame, rest)) tryCatch(
    turned_call(book, last, asked$frame, text),
    # What the last answer cannot be turned to may stand by itself: "revenue by month".
    ll_error_question = function(e) tryCatch(alone(), ll_error_question = function(other) stop(e)))
  # So may what its study refuses: one metric, after quadrants of two.
  if (!is.null(call) && !fits_book(book, call))
    call <- tryCatch(alone(), ll_error_question = function(e) call)
  if (!is.null(call) && identical(rest, plain) && is_whole(asked$frame))
    call <- tryCatch(own_study(book, alone(), call, last), ll_error_question = function(e) call)
  call_with_words(call %||% alone(), asked)
}

# A proposed question by its words, after the whole answer or its first row.
ask_next_words <- list(
  why = c("why", "and why", "why is that", "why so", "what drove it", "how come", "explain"),
  inside = c("who is inside", "what is inside", "who", "who is it", "who is behind it", "inside"),
  lines = c("the lines", "lines", "show the lines", "line by line", "which lines"),
  year_before = c("the year before", "and the year before", "against last year", "last year",
                  "compared with last year"),
  over_time = c("over time", "and over time", "the trend", "trend"),
  full = c("in full", "everything", "everything on the first", "tell me more"),
  beside = c("side by side", "compare them"), all = c("all", "all of them", "show all"),
  without = c("without this", "without it", "without the first"),
  only = c("only this", "only it"), split = c("split", "split it"),
  replaced = c("what replaced it"), gone = c("who stopped", "who has stopped"),
  could_buy = c("what else could they buy", "what else"), names = c("which names", "who made it"),
  share = c("80", "the few", "who makes most of it"), health = c("what is wrong"))

proposed_call <- function(result, plain) {
  hit <- names(ask_next_words)[vapply(ask_next_words, function(words) plain %in% words, NA)]
  if (!length(hit)) return(NULL)
  words <- next_makers[[hit[1]]]$words
  for (row in list(NULL, if (nrow(result)) 1)) {
    found <- ll_next(result, row)
    at <- match(words, found$words)
    if (!is.na(at)) return(list(study = found$study[at], args = found$args[[at]],
                                question = found$question[at]))
  }
  NULL
}

said_whole <- function(text, call) {
  n <- length(ask_tokens(text)$low)
  c(call[c("study", "args")], list(
    words = data.frame(words = text, taken_for = "next question", value = call$question),
    tokens = n, used = n, taken = NULL))
}

# Whether a question only turns the last one: it names no kind of question of its own.
turns <- function(frame, rest) {
  own <- setdiff(names(frame$cues), c("how_much", "target"))
  fragment <- grepl("^(by|per|only|without|not|except|excluding|in|for|against|with|top|bottom)\\b",
                    rest)
  !length(own) && !isTRUE(frame$who) && !isTRUE(frame$counting) && is.null(frame$study) &&
    (fragment || is_modifier(frame))
}

# Conditions, periods, sizes or one metric alone: nothing that stands by itself.
is_modifier <- function(frame) {
  fields <- vapply(frame$fields, `[[`, "", "role")
  !any(fields == "subject") || !length(frame$metrics)
}

# Whether a question could have been asked first: of a metric or the first names, and by what.
is_whole <- function(frame) {
  fields <- vapply(frame$fields, `[[`, "", "role")
  length(frame$metrics) && any(fields %in% c("subject", "by")) ||
    length(frame$size) && any(fields == "subject")
}

# "revenue by territory" after a trend is no trend by territory: a whole question has the study that
# it has by itself, of the lines, days and metric that were spoken of.
own_study <- function(book, alone, turned, last) {
  if (identical(alone$study, last$study)) return(turned)
  # Where the last call could not be turned, what it says is put together here.
  spoken <- if (identical(turned$study, last$study)) turned$args else
    replace(last$args, "where", list(spoken_of(last, alone$args$where)))
  known <- names(declaration_of(alone$study)$args)
  whole <- alone
  for (name in intersect(c("when", "against", "metrics"), known))
    if (is.null(whole$args[[name]])) whole$args[[name]] <- spoken[[name]]
  whole$args$where <- spoken$where
  if (fits_book(book, whole)) whole else alone
}

# The lines of the last call and of what is asked now: schools, in Heath; but not in Moor and Heath.
spoken_of <- function(last, where) {
  before <- condition_text(last$args$where)
  all_hold(c(if (length(where)) still_hold(before, where) else before, where))
}

# The last call with what the frame says put in: conditions are added, the rest is replaced.
turned_call <- function(book, last, frame, text) {
  x <- frame_of(frame, book, text)
  declared <- declaration_of(last$study)
  known <- names(declared$args)
  args <- last$args
  put <- function(name, value) {
    if (is.null(value)) return(invisible())
    if (!name %in% known)
      refuse_question(text, paste0("The last answer, ", last$study, ", takes no ", spoken(name)))
    args[[name]] <<- value
  }
  where <- asked_where(x)
  if (!is.null(where)) {
    if (!"where" %in% known) return(NULL)
    args$where <- spoken_of(last, where)
  }
  put("when", asked_when(x))
  put("against", x$take("against"))
  if (!is.null(args$against) && is.null(args$when) && "when" %in% known)
    args$when <- declared$args$when$default %||% "this year to date"
  metrics <- asked_metrics(x)
  put("metrics", metrics)
  size <- asked_size(x)
  if (length(size)) {
    args[c("top", "bottom")] <- NULL
    put(names(size), size[[1]])
  }
  put("every", x$take("every"))
  put("min_orders", asked_min_orders(x))
  call <- list(study = last$study, args = args)
  fields <- fields_with(x, c("subject", "by"))
  if (length(fields)) call <- turned_fields(book, call, fields)
  if (is.null(call)) return(NULL)
  left <- setdiff(x$left(), silent_cues)
  if (length(left)) left_over(x, left, call)
  c(call, list(taken = x$env$taken))
}

# "and by rep?": another dimension in the same study, or the split that it has none for.
turned_fields <- function(book, call, fields) {
  known <- names(declaration_of(call$study)$args)
  if (length(fields) == 2) {
    args <- call$args[intersect(names(call$args), c("metrics", "where", "when"))]
    return(list(study = "crosstab", args = c(list(rows = fields[1], columns = fields[2]), args)))
  }
  if (length(fields) > 2) return(NULL)
  if (call$study %in% c("total", "detail", "check", "drill") ||
        !any(c("each", "by", "rows") %in% known)) {
    args <- call$args[intersect(names(call$args), c("metrics", "where", "when", "against"))]
    if (call$study == "drill") return(list(study = "bridge", args = c(list(by = fields), args)))
    return(list(study = "standings", args = c(list(each = fields), args)))
  }
  into <- if (call$study %in% c("trend", "bridge", "versus", "portrait")) "by" else
    if ("rows" %in% known) "rows" else "each"
  call$args[[into]] <- fields
  if (into == "each" && identical(call$args$within, fields)) call$args$within <- NULL
  call
}
