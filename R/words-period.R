# Periods: a small language of its own. A period is list(from, to, text, words); dates inclusive,
# NA for an open end. `book` gives list(first, last): the dates that the lines span and the day
# that "last" counts back from.

read_period <- function(text, book, label = "when") {
  word <- gsub("\\s+", " ", tolower(trimws(text)))
  if (word == "all") return(period(book$first, book$last, "all", "all dates"))
  fixed <- fixed_period(word)
  if (!is.null(fixed)) return(fixed)
  relative <- relative_period(word, book)
  if (!is.null(relative)) return(relative)
  ll_abort(c(paste0("The period ", quoted(fit_text(one_line(text), 60)), " in ", quoted(label),
                    " cannot be read."), near_only(word, period_words),
             i = paste0("A period is a year (2026), month (2026-04), quarter (2026-Q2), day ",
                        "(2026-04-01), two days (2026-04-01/2026-06-30), all, last month, ",
                        "last quarter, last year, this month, quarter or year to date, ",
                        "last 90 days, or last 12 months.")), "word")
}

period_words <- c("all", "last month", "last quarter", "last year", "this month to date",
                  "this quarter to date", "this year to date", "last 90 days", "last 12 months")

period <- function(from, to, text, words) {
  list(from = as.Date(from), to = as.Date(to), text = text, words = words)
}

fixed_period <- function(word) {
  if (grepl("^[0-9]{4}$", word)) {
    return(valid_period(paste0(word, "-01-01"), paste0(word, "-12-31"), word, word))
  }
  if (grepl("^[0-9]{4}-q[1-4]$", word)) {
    from <- as.Date(sprintf("%s-%02d-01", substr(word, 1, 4),
                            3 * as.integer(substr(word, 7, 7)) - 2))
    return(period(from, months_after(from, 3) - 1, toupper(word),
                  paste0("quarter ", substr(word, 7, 7), " of ", substr(word, 1, 4))))
  }
  if (grepl("^[0-9]{4}-[0-9]{2}$", word)) {
    from <- as_iso_date(paste0(word, "-01"))
    if (is.na(from)) return(NULL)
    return(period(from, months_after(from, 1) - 1, word, format_month(from)))
  }
  ends <- strsplit(word, "/", fixed = TRUE)[[1]]
  if (length(ends) %in% 1:2 && all(grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}$", ends)))
    return(valid_period(ends[1], ends[length(ends)], word, NULL))
  NULL
}

valid_period <- function(from, to, text, words) {
  days <- as_iso_date(c(from, to))
  if (anyNA(days)) return(NULL)
  if (days[1] > days[2])
    ll_abort(c(paste0("The period ", quoted(text), " ends before it begins.")), "word")
  period(days[1], days[2], text, if (is.null(words)) span_text(days[1], days[2]) else words)
}

relative_period <- function(word, book) {
  last <- book$last
  unit <- regmatches(word, regexec("^(last|this) (month|quarter|year)( to date)?$", word))[[1]]
  if (length(unit)) return(unit_period(word, unit[2], unit[3], unit[4], last))
  count <- regmatches(word, regexec("^last ([0-9]{1,4}) (day|month)s?$", word))[[1]]
  if (!length(count) || as.integer(count[2]) < 1) return(NULL)
  n <- as.integer(count[2])
  if (count[3] == "day") return(period(last - n + 1, last, word, word))
  end <- last_whole(last, "month")
  period(months_after(end + 1, -n), end, word, paste(word, "(whole months)"))
}

unit_period <- function(word, which, unit, to_date, last) {
  start <- unit_start(last, unit)
  if (which == "this") return(period(start, last, word, paste("this", unit, "to date")))
  if (nzchar(to_date)) return(NULL)
  end <- last_whole(last, unit)
  period(unit_start(end, unit), end, word, word)
}

# The last day of the last whole month, quarter or year on or before `last`.
last_whole <- function(last, unit) {
  start <- unit_start(last, unit)
  length <- switch(unit, month = 1, quarter = 3, year = 12)
  end <- months_after(start, length) - 1
  if (last >= end) end else start - 1
}

unit_start <- function(day, unit) {
  parts <- as.POSIXlt(day)
  month <- switch(unit, month = parts$mon, quarter = parts$mon %/% 3 * 3, year = 0)
  as.Date(sprintf("%04d-%02d-01", parts$year + 1900, month + 1))
}

# First days of months only.
months_after <- function(day, n) {
  parts <- as.POSIXlt(day)
  month <- (parts$year + 1900) * 12 + parts$mon + n
  as.Date(sprintf("%04d-%02d-01", month %/% 12, month %% 12 + 1))
}

# What a period is compared with: the one of the same length before it, the same a year before, or
# any period.
read_against <- function(text, now, book) {
  word <- gsub("\\s+", " ", tolower(trimws(text)))
  if (word == "previous") return(previous_period(now))
  if (word == "year before") {
    from <- year_before(now$from)
    to <- year_before(now$to)
    return(period(from, to, word, paste("the year before,", span_text(from, to))))
  }
  read_period(text, book, "against")
}

# Whole months go back by as many months; other stretches by as many days.
previous_period <- function(now) {
  whole <- now$from == unit_start(now$from, "month") &&
    now$to + 1 == unit_start(now$to + 1, "month")
  if (whole) {
    a <- as.POSIXlt(now$from)
    b <- as.POSIXlt(now$to + 1)
    n <- (b$year - a$year) * 12 + b$mon - a$mon
    from <- months_after(now$from, -n)
  } else {
    from <- now$from - as.integer(now$to - now$from + 1)
  }
  period(from, now$from - 1, "previous",
         paste("the period before,", span_text(from, now$from - 1)))
}

# 29 February against 28; the end of February stays the end of February.
year_before <- function(day) {
  parts <- as.POSIXlt(day)
  year <- parts$year + 1899
  end <- parts$mon == 1 && day + 1 == months_after(day, 1)
  if (end) return(as.Date(sprintf("%d-03-01", year)) - 1)
  as.Date(sprintf("%04d-%02d-%02d", year, parts$mon + 1, parts$mday))
}

period_days <- function(p) as.integer(p$to - p$from) + 1L

format_month <- function(day) {
  paste(month.name[as.integer(format(day, "%m"))], format(day, "%Y"))
}

span_text <- function(from, to) {
  if (from == to) date_text(from) else paste(date_text(from), "to", date_text(to))
}
