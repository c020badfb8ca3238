# The helpers that findings and notes are made of: values, shares, comparisons, what is next. Counts
# and lists of words stand in base-text.R, periods in study-period-words.R, conditions in
# words-print.R, what readings begin with in study-words.R.

# Value of a metric in a sentence.
said <- function(x, metric) format_number(x, metric$unit)

# What shares of names' values are of: " of revenue"; " of the positive revenue"; where other lines
# have some of the total, " of the revenue of these accounts".
share_of_words <- function(question, metric, value, total) {
  value <- value[!is.na(value)]
  positive <- if (any(value < 0)) "positive "
  all <- isTRUE(abs(exact_total(value) - total) <= 1e-9 * max(1, abs(total)))
  paste0(" of ", if (!all || !is.null(positive)) "the ", positive, spoken(metric$name),
         if (!all) paste(" of these", level_words(question)))
}

# "134,042", "+134,042", "-0.3 points": a change of the metric, a rate's in points.
said_change <- function(x, metric, sign = TRUE) {
  text <- format_number(abs(x), change_unit(metric$unit))
  paste0(if (sign) ifelse(x < 0, "-", "+"), text)
}

# A gap too small for the digits it is told with is less than half of their last.
least_words <- function(gap, metric) {
  text <- said_change(gap, metric, FALSE)
  if (gap == 0 || grepl("[1-9]", text)) return(text)
  digits <- nchar(sub("^[0-9]*[.]?([0-9]*).*", "\\1", text))
  paste0("less than ", sub("^[0-9.]+", format(.5 * 10^-digits, scientific = FALSE), text))
}

# "Revenue rose by 134,042 (11.2 %) to 1,329,696"
change_sentence <- function(question, found) {
  metric <- first_metric(question)
  change <- exact_change(found$now, found$then)
  growth <- if (metric$unit != "percent") growth_of(found$now, found$then) else NA
  per_day <- arg_or_null(question, "per_day")
  what <- paste0(capital(spoken(metric$name)), if (!is.null(per_day))
    paste(" per", if (per_day == "working") "working day" else "day"))
  if (change == 0) return(paste0(what, " stayed at ", said(found$now, metric)))
  paste0(what, if (change > 0) " rose by " else " fell by ", said_change(change, metric, FALSE),
         if (!is.na(growth)) paste0(" (", format_number(abs(growth), "percent"), ")"), " to ",
         said(found$now, metric))
}

# "12.5 % above", "1.2 points below"; NULL where there is nothing to compare.
change_words <- function(now, before, metric) {
  points <- metric$unit == "percent"
  change <- if (points) now - before else growth_of(now, before)
  if (is.na(change) || metric$unit == "date") return(NULL)
  if (abs(change) < 5e-5) return("level with")
  paste(format_number(abs(change), if (points) "points" else "percent", 1),
        if (change > 0) "above" else "below")
}

# "Hale Farm is next", "Hale Farm and Moor Farm are next", "12 accounts are next"
next_words <- function(names, many) {
  if (length(names) > 3) return(paste(count_text(length(names)), many, "are next"))
  paste(and_list(names), verb(length(names), "is next"))
}

# A sentence as it goes on after a colon: with a small letter, unless it begins with a name.
small_start <- function(question, text) {
  first <- sub("[^[:alpha:]].*$", "", text)
  own <- spoken(c(names(question$metrics), question$book$fields$name))
  own <- sub("[^[:alpha:]].*$", "", c(own, plural_words(own)))
  small <- c(start_words, own)
  at <- match(first, capital(small))
  if (is.na(at)) return(text)
  paste0(small[at], substring(text, nchar(first) + 1))
}

# What findings begin with other than names.
start_words <- c("of", "no", "in", "on", "the", "a", "an", "all", "both", "nobody", "with",
                 "without", "only", "each", "every", "most", "lines", "orders", "by", "from",
                 "nothing", "none", "who", "that", "there", "last", "half", "within", "payouts",
                 "what", "at", "since", "these", "this")
