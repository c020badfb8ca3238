# A stretch of days, and how its ends are said: what all kinds of periods are made of.

period <- function(from, to, text, words) {
  list(from = as.Date(from), to = as.Date(to), text = text, words = words)
}

period_days <- function(p) as.integer(p$to - p$from) + 1L

# "1 March to 8 November 2025"
span_text <- function(from, to) {
  if (from == to) return(date_text(from))
  first <- if (format(from, "%Y") == format(to, "%Y")) day_of_year(from) else date_text(from)
  paste(first, "to", date_text(to))
}

# "1 March"
day_of_year <- function(x) sub(" [0-9]+$", "", date_text(x))
