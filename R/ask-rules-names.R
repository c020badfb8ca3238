# Rules for names and what lines are narrowed by: these, not those, sets, typed conditions.

# A condition of the language of conditions: where "net > 5".
rule_condition <- function(p) {
  if (!identical(seg(p)$low, "where") || !identical(seg(p, 1L)$kind, "quoted")) return(0L)
  p$frame$conditions <- c(p$frame$conditions, seg(p, 1L)$value)
  noted(p, 2L, "condition", seg(p, 1L)$value)
}

# not Moor, without the web, excluding returns, have not ordered, not in 2025
rule_not <- function(p) {
  if (!is_kind(seg(p), "not")) return(0L)
  at <- ahead(p, 1L, "of")
  one <- seg(p, at)
  if (is.null(one)) return(0L)
  if (is_kind(one, "returns") && length(returns_condition(p$book)) &&
        !length(means_of(one, "name"))) {
    p$frame$conditions <- c(p$frame$conditions, paste0("!(", returns_condition(p$book), ")"))
    return(noted(p, at + 1L, "condition", paste0("!(", returns_condition(p$book), ")")))
  }
  if (one$kind == "period" && is.null(one$doubt)) {
    p$frame$not_when <- one$period
    return(noted(p, at + 1L, "not in the period", one$period))
  }
  if (length(means_of(one, "name"))) {
    n <- take_names(p, at, negative = TRUE)
    return(if (n) noted(p, at + n, "not", names_said(p)) else 0L)
  }
  # "not territory Moor"
  if (length(means_of(one, "field"))) quote_names(p, at + 1L, means_of(one, "field")[[1]]$name)
  if (length(means_of(one, "field")) && length(means_of(seg(p, at + 1L), "name"))) {
    n <- take_names(p, at + 1L, negative = TRUE, field = means_of(one, "field")[[1]]$name)
    return(if (n) noted(p, at + 1L + n, "not", names_said(p)) else 0L)
  }
  if (is_kind(one, "deal", "sell")) {
    p$frame$not_deal <- TRUE
    p$frame$deal_at <- p$i + at
    return(noted(p, at + 1L, "did not buy", ""))
  }
  0L
}

# Texts in quotes after a field are names of it, just as they stand there.
quote_names <- function(p, at, field) {
  while (identical(seg(p, at)$kind, "quoted") && !length(seg(p, at)$means)) {
    value <- seg(p, at)$value
    known <- known_names(p$book, field)
    if (!name_places(known, value)) value <- tryCatch(codes_of(p$book, field, value, known),
                                             ll_error = function(e) value)
    if (!name_places(known, value)) return(invisible())
    p$segments[[p$i + at]]$means <- list(list(
      type = "name", field = field, value = value,
      from = p$book$fields$from[match(field, p$book$fields$name)]))
    at <- at + 1L
    while (identical(seg(p, at)$kind, "comma") || is_kind(seg(p, at), "and", "or")) at <- at + 1L
  }
}

# Names, several joined by commas and words, of one field where that is possible.
rule_names <- function(p) {
  one <- seg(p)
  if (!length(means_of(one, "name")) && one$kind != "quoted") return(0L)
  if (one$kind == "quoted") {
    one$means <- names_called(p$words, plain_words(one$value))
    if (!length(one$means)) return(0L)
    p$segments[[p$i]] <- one
  }
  n <- take_names(p, 0L)
  if (!n) return(0L)
  # "recycled paper": the field said after its name.
  field <- p$frame$names[[length(p$frame$names)]]$field
  own <- vapply(means_of(seg(p, n), "field"), function(m) m$name == field, NA)
  noted(p, if (any(own)) n + 1L else n, "only", names_said(p))
}

# The names taken last: "type garden centre", "not territory Moor or Fen".
names_said <- function(p) {
  last <- p$frame$names[[length(p$frame$names)]]
  mine <- Filter(function(one) one$at == last$at && one$field == last$field, p$frame$names)
  values <- vapply(mine, `[[`, "", "value")
  paste0(if (last$negative) "not ", spoken(last$field), " ",
         and_list(with_labels_of(p$book, last$field, values), 6, "or"))
}

take_names <- function(p, at, negative = FALSE, field = NULL) {
  first <- at
  values <- list()
  repeat {
    one <- seg(p, at)
    found <- means_of(one, "name")
    if (!is.null(field)) {
      own <- Filter(function(m) m$field == field, found)
      if (length(own)) found <- own
    }
    if (!length(found)) break
    values <- c(values, list(list(found = found, segment = one)))
    # on to the next name over a comma, "and", "or"
    next_at <- at + 1L
    both <- is_kind(seg(p, next_at), "and")
    while (!is.null(seg(p, next_at)) && (identical(seg(p, next_at)$kind, "comma") ||
             is_kind(seg(p, next_at), "and", "or"))) next_at <- next_at + 1L
    following <- seg(p, next_at)
    # "Downs Vale": one after the other.
    beside <- next_at == at + 1L && !is.null(one_named_field(one)) &&
      identical(one_named_field(following), one_named_field(one))
    if (next_at == at + 1L && !beside || !length(means_of(following, "name")) ||
          length(means_of(following, "metric"))) {
      at <- at + 1L
      break
    }
    if (both) p$frame$both <- TRUE
    at <- next_at
  }
  if (!length(values)) return(0L)
  chosen <- choose_names(p, values, field)
  before <- seg(p, first - 1L)
  loose <- is.null(before) || !is_kind(before, "of", "not", "only", "by")
  loose <- loose && !length(p$frame$metrics) &&
    !any(vapply(p$frame$fields, function(f) f$role == "subject", NA))
  for (one in chosen) p$frame$names <- c(p$frame$names, list(c(one, list(
    negative = negative, subject = isTRUE(p$frame$subject_next) && !negative,
    loose = loose && !negative, at = p$i + first))))
  p$frame$subject_next <- FALSE
  at - first
}

# The one field that a segment is a name of and nothing else.
one_named_field <- function(one) {
  field <- unique(vapply(means_of(one, "name"), `[[`, "", "field"))
  if (length(field) == 1 && !is_kind(one, names(ask_words()))) field
}

# One meaning for each: of one field for all where there is one, else a question back.
choose_names <- function(p, values, field = NULL) {
  fields <- lapply(values, function(v) unique(vapply(v$found, `[[`, "", "field")))
  common <- Reduce(intersect, fields)
  # Of two fields of a name the one that was asked by is meant.
  asked <- vapply(p$frame$fields, `[[`, "", "name")
  if (length(common) > 1 && any(common %in% asked)) common <- common[common %in% asked]
  lapply(values, function(v) {
    found <- v$found
    if (length(common) == 1) found <- Filter(function(m) m$field == common, found)
    # Just as it was typed, before in the singular or plural.
    exact <- Filter(function(m) plain_words(m$value) == v$segment$low, found)
    if (length(exact)) found <- exact
    distinct <- unique(vapply(found, function(m) paste(m$field, m$value), ""))
    if (length(distinct) > 1) ambiguous_name(p, v$segment, found)
    c(found[[1]][c("field", "value", "from")], list(words = v$segment$text,
                                                    part = isTRUE(v$segment$part)))
  })
}

ambiguous_name <- function(p, segment, found) {
  labels <- vapply(found, function(m) {
    paste(spoken(m$field), with_labels_of(p$book, m$field, m$value))
  }, "")
  typed <- vapply(found, function(m) paste0(spoken(m$field), " \"", one_line(m$value), "\""), "")
  ask_back(p$text, paste0(quoted(segment$text), " may be one of ", length(found)),
           stats::setNames(typed, labels), word = segment$text)
}

rule_set <- function(p) {
  found <- means_of(seg(p), "set")
  if (!length(found)) return(0L)
  p$frame$conditions <- c(p$frame$conditions, paste(name_text(found[[1]]$field), "%in%",
                                                    name_text(found[[1]]$name)))
  noted(p, 1L, "set", found[[1]]$name)
}
