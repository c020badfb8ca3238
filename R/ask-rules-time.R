# Rules for periods, what they are compared with, and parts of dates.

rule_period <- function(p) {
  one <- seg(p)
  if (one$kind != "period") return(0L)
  add_period(p, one)
  noted(p, 1L, "period", period_said(p$book, one$period))
}

# A period by its days, or by its name where that says them.
period_said <- function(book, text) {
  found <- tryCatch(read_period(text, book_dates(book, "when")), ll_error = function(e) NULL)
  if (is.null(found) || anyNA(c(found$from, found$to))) return(text)
  if (grepl("/", text, fixed = TRUE)) span_text(found$from, found$to) else found$words
}

add_period <- function(p, one) {
  if (!is.null(one$doubt)) {
    choices <- vapply(one$doubt, function(text) fixed_period(text)$words, "")
    ask_back(p$text, paste0(quoted(one$text), " is of no year"),
             stats::setNames(paste0("\"", choices, "\""), choices), word = one$text)
  }
  p$frame$whens <- c(p$frame$whens, list(list(text = one$period, season = one$season,
                                              words = one$text)))
}

# against last year, versus 2024, compared with the previous quarter; against their quota; names.
rule_against <- function(p) {
  if (!is_kind(seg(p), "against") || is_of_book(seg(p))) return(0L)
  at <- ahead(p, 1L, "of")
  one <- seg(p, at)
  before <- against_words_at(p, at)
  if (!is.null(before)) {
    p$frame$against <- before$text
    return(noted(p, at + before$n, "compared with", before$text))
  }
  if (!is.null(one) && is_kind(one, "target")) return(add_cue(p, at + 1L, "target"))
  if (!is.null(one) && is_kind(one, "existing")) return(add_cue(p, at + 1L, "existing"))
  if (!is.null(one) && length(means_of(one, "name"))) return(add_cue(p, at, "versus"))
  0L
}

against_words_at <- function(p, at) {
  one <- seg(p, at)
  if (is.null(one)) return(NULL)
  if (one$kind == "period" && is.null(one$doubt)) {
    text <- one$period
    text <- switch(text, "last year" = "year before", "last quarter" = , "last month" = "previous",
                   text)
    return(list(text = text, n = 1L))
  }
  # "this year against last"
  this <- if (one$low %in% c("last", "the last", "previous") && length(p$frame$whens))
    p$frame$whens[[length(p$frame$whens)]]$text
  if (any(startsWith(as.character(this), "this "))) return(list(
    text = if (grepl("year", this)) "year before" else "previous", n = 1L))
  number <- one$number %||% if (identical(one$kind, "number")) one$value
  after <- seg(p, at + 1L)
  # "the last 12 months against the 12 before"
  if (!is.null(number) && is_kind(after, "previous")) return(list(text = "previous", n = 2L))
  if (is_kind(one, "year_before")) return(list(text = "year before", n = 1L))
  if (is_kind(one, "previous")) list(text = "previous", n = 1L)
}

rule_year_on_year <- function(p) {
  if (!is_kind(seg(p), "year_on_year", "year_before")) return(0L)
  p$frame$against <- "year before"
  noted(p, 1L, "compared with", "year before")
}

ask_every <- c(by_day = "day", by_week = "week", by_month = "month", by_quarter = "quarter",
               by_year = "year")

rule_every <- function(p) {
  one <- seg(p)
  kind <- Filter(function(k) is_kind(one, k), names(ask_every))
  if (length(kind)) {
    p$frame$every <- ask_every[[kind[1]]]
    return(noted(p, 1L, "every", p$frame$every))
  }
  part <- Filter(function(part) is_kind(one, paste0("by_", part)), c("weekday", time_parts))
  if (length(part)) {
    return(noted(with_date_part(p, part[1]), 1L, "by", spoken(part[1])))
  }
  # by year and territory: the unit alone after "by".
  unit <- sub("s$", "", one$low %||% "")
  by <- is_kind(seg(p, -1L), "by", "and") && isTRUE(p$frame$after_by == p$i)
  if (by && unit %in% ask_every && !is_of_book(one)) {
    p$frame$every <- unit
    p$frame$after_by <- p$i + 1L
    return(noted(p, 1L, "every", unit))
  }
  0L
}

with_date_part <- function(p, part) {
  p$frame$parts <- c(p$frame$parts, paste0(part, "(", name_text(p$book$date), ")"))
  p
}

# "which month", "best weekday": parts of the date are ranked.
rule_part_of_date <- function(p) {
  one <- seg(p)
  asked <- isTRUE(p$frame$subject_next) || is_kind(seg(p, -1L), "which")
  if (!is_kind(one, "part_of_date") || is_of_book(one) || is.null(p$book$date) || !asked)
    return(0L)
  part <- if (grepl("week", one$low) && grepl("day", one$low)) "weekday" else
    if (grepl("^(part|time)", one$low)) "part_of_day" else sub("s$", "", one$low)
  p <- with_date_part(p, part)
  p$frame$subject_next <- FALSE
  noted(p, 1L, "whom", plural_word(spoken(part)))
}
