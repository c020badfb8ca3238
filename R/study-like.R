# Like with like: where a typed period is compared that the lines do not cover as they do the other,
# the same days of both are told too. What a period is compared with is decided by like_compared().

# The metrics over the same days of both periods: list(now, before), each a list by metric; NULL
# where the periods asked for are alike.
like_totals <- function(question) {
  like <- question$asked$like
  if (is.null(like)) return(NULL)
  metrics <- Filter(function(m) !m$against && m$unit != "date", question$metrics)
  if (!length(metrics)) return(NULL)
  lapply(like, function(period) {
    where <- and_also(question$asked$where_ever, in_period(question$book, period))
    as.list(fold_metrics(question$book, character(), metrics, where)$values[1, names(metrics),
                                                                            drop = FALSE])
  })
}

# The question on the days that are alike; NULL where the periods asked for are.
on_like_days <- function(question) {
  like <- question$asked$like
  if (is.null(like)) return(NULL)
  inside <- lapply(like, in_period, book = question$book)
  with_asked(question, now = like$now, before = like$before, period_now = inside$now,
             period_before = inside$before,
             where_now = and_also(question$asked$where_ever, inside$now),
             where_before = and_also(question$asked$where_ever, inside$before), like = NULL)
}

# "10.4 % above the same days of 2025, 2,584,862"; NULL where there is nothing to compare.
like_words <- function(question, totals, metric) {
  now <- totals$now[[metric$name]]
  before <- totals$before[[metric$name]]
  if (is.null(now)) return(NULL)
  words <- change_words(now, before, metric)
  if (is.null(words)) return(NULL)
  paste0(words, " ", before_phrase(question$asked$now, question$asked$like$before, question$book),
         ", ", said(before, metric))
}

# Whether the period of now is whole among the days that are alike.
like_is_now <- function(question) {
  now <- question$asked$now
  same_span(question$asked$like$now, covered_part(now, question$book) %||% now)
}

# What is said after a finding that compares unlike periods.
like_sentence <- function(question, totals) {
  metric <- first_metric(question)
  words <- like_words(question, totals, metric)
  if (is.null(words)) return(NULL)
  if (like_is_now(question)) return(paste0(capital(spoken(metric$name)), " is ", words, "."))
  paste0("On the days of both periods, ", short_span(question$asked$like$now), ", ",
         spoken(metric$name), after_name(metric$name, " was "),
         said(totals$now[[metric$name]], metric), ", ", words, ".")
}

# What the study finds on the same days of both periods: `find` answers the arguments of a call by
# its finding.
like_note <- function(question, args, finding, find) {
  like <- question$asked$like
  if (is.null(like) || isTRUE(finding$alike)) return(NULL)
  days <- function(p) paste0(p$from, "/", p$to)
  text <- tryCatch(find(altered(args, when = days(like$now), against = days(like$before))),
                   ll_error = function(e) NULL)
  # Without lines there is nothing to say twice.
  if (identical(text, if (is.character(finding)) finding else finding$text)) return(NULL)
  note("same_days", if (!is.null(text)) paste0(
    "On the same days, ", short_span(like$now), " against ", short_span(like$before), ": ",
    small_start(question, text)))
}
