# Periods: a small language of its own. A period is list(from, to, text, words); dates inclusive,
# NA for an open end. `book` gives list(first, last, calendar): the dates that the lines span, the
# day that "last" counts back from, and the calendar of fiscal years (see core-calendar.R). A period
# of the fiscal calendar also has `fiscal`, list(year, unit, number).

read_period <- function(text, book, label = "when") {
  within_years(named_period(text, book, label), text, label)
}

# Four digits of years are what dates in files and databases have.
within_years <- function(p, text, label) {
  ends <- as.integer(c(p$from, p$to))
  if (any(ends < first_of_month(1, 1) | ends >= first_of_month(10000, 1), na.rm = TRUE))
    ll_abort(paste0("The period ", quoted(fit_text(one_line(text), 60)), " in ", quoted(label),
                    " reaches beyond the years 1 to 9999."), "word")
  p
}

named_period <- function(text, book, label) {
  word <- gsub("\\s+", " ", tolower(trimmed(text)), perl = TRUE)
  if (word == "all") return(period(book$first, book$last, "all", "all dates"))
  fixed <- fixed_period(word) %||% latest_period(word, book$last) %||% week_period(word) %||%
    fiscal_period(word, book$calendar) %||% event_period(word, book$calendar, book$last)
  if (!is.null(fixed)) return(fixed)
  relative <- relative_period(word, book)
  if (!is.null(relative)) return(relative)
  ll_abort(c(paste0("The period ", quoted(fit_text(one_line(text), 60)), " in ", quoted(label),
                    " cannot be read."), near_only(word, period_words),
             i = paste0("A period is a year (2026), half (2026-H1), quarter (2026-Q2), month ",
                        "(2026-04), week (2026-W14), day (2026-04-01), two days (2026-04-01/2026-06-30), a ",
                        "fiscal year (FY2026, FY2026-Q1, FY2026-P03), all, last month, ",
                        "last quarter, last year, last fiscal year, this month, quarter, year or ",
                        "fiscal year to date, last 90 days, or last 12 months.")), "word")
}

period_words <- c("all", "last month", "last quarter", "last year", "this month to date",
                  "this quarter to date", "this year to date", "last 90 days", "last 12 months",
                  "last fiscal month", "last fiscal quarter", "last fiscal year",
                  "this fiscal quarter to date", "this fiscal year to date")

fixed_period <- function(word) {
  if (grepl("^[0-9]{4}$", word)) {
    return(valid_period(paste0(word, "-01-01"), paste0(word, "-12-31"), word, word))
  }
  if (grepl("^[0-9]{4}-(q[1-4]|h[12])$", word)) {
    months <- if (substr(word, 6, 6) == "q") 3 else 6
    from <- as_day(first_of_month(as.integer(substr(word, 1, 4)),
                                  months * (as.integer(substr(word, 7, 7)) - 1) + 1))
    return(period(from, months_after(from, months) - 1, toupper(word),
                  paste(toupper(substr(word, 6, 7)), substr(word, 1, 4))))
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

# A quarter or half without its year is the latest that has begun.
latest_period <- function(word, last) {
  if (!grepl("^(q[1-4]|h[12])$", word)) return(NULL)
  year <- as.POSIXlt(last)$year + 1900
  this <- fixed_period(paste0(year, "-", word))
  if (this$from > last) fixed_period(paste0(year - 1, "-", word)) else this
}

valid_period <- function(from, to, text, words) {
  days <- as_iso_date(c(from, to))
  if (anyNA(days)) return(NULL)
  if (days[1] > days[2])
    ll_abort(c(paste0("The period ", quoted(text), " ends before it begins.")), "word")
  period(days[1], days[2], text, if (is.null(words)) span_text(days[1], days[2]) else words)
}

# ISO weeks, Monday to Sunday.
week_period <- function(word) {
  if (!grepl("^[0-9]{4}-w[0-9]{2}$", word)) return(NULL)
  # The 4th of January is always in the first week.
  fourth <- first_of_month(as.integer(substr(word, 1, 4)), 1) + 3L
  start <- fourth - weekday_of(fourth) + 1L + 7L * (as.integer(substr(word, 7, 8)) - 1L)
  if (iso_week(start) != toupper(word)) return(NULL)
  of_weeks(period(as_day(start), as_day(start + 6L), toupper(word),
                  paste("week", as.integer(substr(word, 7, 8)), "of", substr(word, 1, 4))))
}

# A period of whole weeks, Monday to Sunday, is compared with such.
of_weeks <- function(p) {
  p$weeks <- TRUE
  p
}

fiscal_period <- function(word, calendar) {
  parts <- regmatches(word, regexec("^fy([0-9]{4})(-(q)([1-4])|-(p)([0-9]{2}))?$", word))[[1]]
  if (!length(parts)) return(NULL)
  unit <- if (nzchar(parts[4])) "quarter" else if (nzchar(parts[6])) "month" else "year"
  number <- as.integer(switch(unit, quarter = parts[5], month = parts[7], year = "1"))
  if (unit == "month" && !number %in% 1:12) return(NULL)
  fiscal_of(as.integer(parts[2]), unit, number, calendar)
}

fiscal_of <- function(year, unit, number, calendar) {
  span <- fiscal_span(year, calendar, quarter = if (unit == "quarter") number,
                      month = if (unit == "month") number)
  name <- paste0("FY", year, switch(unit, quarter = paste0("-Q", number),
                                    month = sprintf("-P%02d", number), year = ""))
  words <- paste0(switch(unit, quarter = paste0("Q", number, " of "),
                         month = paste("month", number, "of "), year = ""), "fiscal year ", year)
  out <- period(as_day(span[1]), as_day(span[2]), name, words)
  out$fiscal <- list(year = year, unit = unit, number = number)
  out
}

# The fiscal year, quarter or month a day lies in, or one some steps away.
fiscal_at <- function(day, unit, calendar, step = 0) {
  parts <- fiscal_parts(as.integer(day), calendar)
  number <- switch(unit, year = 1L, quarter = (parts$month - 1L) %/% 3L + 1L, month = parts$month)
  fiscal_step(list(year = parts$year, unit = unit, number = number), step, calendar)
}

fiscal_step <- function(fiscal, step, calendar) {
  many <- switch(fiscal$unit, year = 1, quarter = 4, month = 12)
  at <- fiscal$year * many + fiscal$number - 1 + step
  fiscal_of(as.integer(at %/% many), fiscal$unit, as.integer(at %% many + 1), calendar)
}

relative_period <- function(word, book) {
  last <- book$last
  unit <- regmatches(word, regexec(
    "^(last|this) (fiscal )?(month|quarter|year)( to date)?$", word))[[1]]
  if (length(unit) && nzchar(unit[3]))
    return(fiscal_unit_period(word, unit[2], unit[4], unit[5], book))
  if (length(unit)) return(unit_period(word, unit[2], unit[4], unit[5], last))
  count <- regmatches(word, regexec("^last ([0-9]{1,4}) (day|week|month|quarter|year)s?$",
                                    word))[[1]]
  if (!length(count) || as.integer(count[2]) < 1) return(NULL)
  n <- as.integer(count[2])
  if (count[3] == "day") return(period(last - n + 1, last, word, word))
  if (count[3] == "week") {
    end <- last - weekday_of(as.integer(last)) %% 7
    return(of_weeks(period(end - 7 * n + 1, end, word, paste(word, "(whole weeks)"))))
  }
  end <- last_whole(last, count[3])
  months <- n * switch(count[3], month = 1, quarter = 3, year = 12)
  period(months_after(end + 1, -months), end, word, paste0(word, " (whole ", count[3], "s)"))
}

unit_period <- function(word, which, unit, to_date, last) {
  start <- unit_start(last, unit)
  if (which == "this") {
    end <- months_after(start, c(month = 1, quarter = 3, year = 12)[[unit]]) - 1
    return(to_date_period(period(start, end, word, word), last, paste("this", unit, "to date")))
  }
  if (nzchar(to_date)) return(NULL)
  end <- last_whole(last, unit)
  period(unit_start(end, unit), end, word, word)
}

# A unit up to a day; it remembers the whole of it.
to_date_period <- function(whole, last, words, text = whole$text) {
  out <- period(whole$from, last, text, words)
  out$of <- whole
  out
}

fiscal_unit_period <- function(word, which, unit, to_date, book) {
  now <- fiscal_at(book$last, unit, book$calendar)
  if (which == "this")
    return(to_date_period(now, book$last, paste("this fiscal", unit, "to date"), word))
  if (nzchar(to_date)) return(NULL)
  whole <- if (book$last >= now$to) now else fiscal_at(book$last, unit, book$calendar, -1)
  whole$words <- paste0(word, " (", whole$text, ")")
  whole$text <- word
  whole
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
  as_day(first_of_month(parts$year + 1900, month + 1))
}

# First days of months only.
months_after <- function(day, n) {
  parts <- as.POSIXlt(day)
  as_day(first_of_month(parts$year + 1900, parts$mon + 1 + n))
}

# What a period is compared with: the one of the same length before it, the same a year before, or
# any period. Periods of the fiscal calendar go by its years.
read_against <- function(text, now, book) {
  within_years(other_period(text, now, book), text, "against")
}

other_period <- function(text, now, book) {
  word <- gsub("\\s+", " ", tolower(trimmed(text)), perl = TRUE)
  if (!word %in% c("previous", "year before"))
    return(event_shift(word, now, book$calendar) %||% read_period(text, book, "against"))
  if (!is.null(now$event)) return(event_before(now, word, book$calendar))
  if (isTRUE(now$weeks)) return(other_weeks(now, word))
  if (!is.null(now$fiscal)) {
    back <- if (word == "previous") 1 else switch(now$fiscal$unit, year = 1, quarter = 4,
                                                  month = 12)
    out <- fiscal_step(now$fiscal, -back, book$calendar)
    out$words <- paste0("the ", if (word == "previous") paste("fiscal", now$fiscal$unit, "before")
                        else "fiscal year before", ", ", span_text(out$from, out$to))
    out$text <- word
    return(out)
  }
  if (word == "previous") return(previous_period(now))
  from <- year_before(now$from)
  to <- year_before(now$to)
  period(from, to, word, paste("the year before,", span_text(from, to)))
}

# As many weeks before, or those from the week of the same number in the year before; from the last
# one there, where that has no 53rd.
other_weeks <- function(now, word) {
  weeks <- period_days(now) / 7
  from <- if (word == "previous") now$from - 7 * weeks else {
    own <- iso_week(as.integer(now$from))
    year <- as.integer(substr(own, 1, 4)) - 1L
    # The 28th of December is always in the last week.
    last <- substr(iso_week(first_of_month(year, 12) + 27L), 6, 8)
    week_period(tolower(sprintf("%04d-%s", year, min(substr(own, 6, 8), last))))$from
  }
  words <- if (weeks == 1) week_period(tolower(iso_week(as.integer(from))))$words else
    paste(if (word == "previous") "the weeks before," else "the same weeks of the year before,",
          span_text(from, from + 7 * weeks - 1))
  of_weeks(period(from, from + 7 * weeks - 1, word, words))
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
  if (end) return(as_day(first_of_month(year, 3) - 1L))
  as_day(first_of_month(year, parts$mon + 1) + parts$mday - 1L)
}

format_month <- function(day) {
  paste(month.name[as.integer(format(day, "%m"))], format(day, "%Y"))
}

# Whether the name of a period of the common calendar says its days: "2026", "Q2 2026", "April
# 2026".
is_calendar_name <- function(period) {
  is.null(period$fiscal) && is.null(period$event) && !isTRUE(period$weeks) &&
    !isTRUE(period$counted) && !is.null(period_name(period))
}

# What a period is called whatever it was asked by; NULL where only its days tell it.
period_name <- function(period) {
  if (!is.null(period$fiscal) || grepl("^week ", period$words)) return(period$words)
  if (!is.null(period$event)) return(paste0("the ", period$event$name, " of ",
                                            format(period$from, "%Y")))
  if (isTRUE(period$counted)) return(NULL)
  from <- period$from
  after <- period$to + 1
  if (from != unit_start(from, "month") || after != unit_start(after, "month")) return(NULL)
  months <- 12 * (as.POSIXlt(after)$year - as.POSIXlt(from)$year) + as.POSIXlt(after)$mon -
    as.POSIXlt(from)$mon
  if (months == 1) return(format_month(from))
  if (months == 12 && from == unit_start(from, "year")) return(format(from, "%Y"))
  if (months == 3 && from == unit_start(from, "quarter"))
    return(paste0("Q", as.POSIXlt(from)$mon %/% 3 + 1, " ", format(from, "%Y")))
  if (months == 6 && as.POSIXlt(from)$mon %% 6 == 0)
    paste0("H", as.POSIXlt(from)$mon %/% 6 + 1, " ", format(from, "%Y"))
}
