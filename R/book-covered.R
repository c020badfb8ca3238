# To which day the lines cover a period, and what a period is therefore compared with: like days
# with like.

part_days <- 3   # a book that begins no later than this after a period's first day covers it

# The last day that the lines cover of a period ending on `to`: that end itself where no more days
# lack lines than usually do before such a day, or where the brief says so.
covered_to <- function(book, to) {
  last <- last_covered(book)
  if (to <= last) return(to)
  key <- paste("covered", book$date, last, to)
  once(book$source, key, covered_by_gap(book, last, to))
}

covered_by_gap <- function(book, last, to) {
  days <- as.integer(book$days[!book$days %in% stray_days(book)])
  if (lacks_no_more(days, as.integer(last), as.integer(to))) to else last
}

# The last day that lines or the brief vouch for; a mistyped date far ahead does not.
last_covered <- function(book) {
  last <- once(book$source, paste("last", book$date, book$unit), {
    days <- book$days
    last_day(book, max(days[!days %in% stray_days(book)]))
  })
  max(last, book$calendar$covered_to)
}

# Whether no more trading days lack lines between the last line and `to` than usually do before such
# a
# day: on the same weekday, at the ends of months, on the same day of every earlier year. A book too
# short to tell is given a few days.
lacks_no_more <- function(days, last, to) {
  days <- sort(days[days <= last])
  if (length(days) < 2) return(to - last <= part_days)
  traded <- trading_weekdays(days)
  gap <- function(at) trading_gap(at, days[pmax(findInterval(at, days), 1)], traded)
  known <- function(at) at[at >= days[1] & at < last]
  parts <- as.POSIXlt(as_day(to))
  weeks <- known(to - 7L * seq_len(104))
  ends <- if (to + 1L == as.integer(months_after(as_day(to), 1)))
    known(first_of_month(parts$year + 1900, parts$mon + 1 - 0:23) - 1L)
  years <- known(first_of_month(parts$year + 1900 - 1:10, parts$mon + 1) + parts$mday - 1L)
  usual <- c(if (length(weeks) >= few_weeks)
               stats::quantile(gap(weeks), gap_share, type = 1, names = FALSE),
             if (length(ends) >= few_months) stats::median(gap(ends)),
             if (length(years)) min(gap(years)))
  if (is.null(usual)) return(to - last <= part_days)
  trading_gap(to, days[length(days)], traded) <= max(usual)
}

# The weekdays on which the book has lines a quarter as often as on its busiest one.
trading_weekdays <- function(days) {
  often <- tabulate(weekday_of(days[days > max(days) - 728]), 7)
  which(often >= .25 * max(often))
}

# How many trading days lie after `from` up to `at`.
trading_gap <- function(at, from, traded) {
  mapply(function(a, b) if (a > b) sum(weekday_of((b + 1):a) %in% traded) else 0, at, from)
}

gap_share <- .9   # of like weekdays so many have no longer gap before them than the usual one
few_weeks <- 12   # fewer weeks, or months, tell nothing of what is usual
few_months <- 3

# The part of a period that the lines cover, where they lack some days of it; NULL where they
# cover it, or nothing of it.
covered_part <- function(period, book) {
  if (!length(book$days) || anyNA(c(period$from, period$to))) return(NULL)
  out <- list(from = max(period$from, first_day(book)), to = covered_to(book, period$to))
  if (out$to < out$from) return(NULL)
  if (out$from - period$from <= part_days) out$from <- period$from
  if (out$from > period$from || out$to < period$to) out
}

# What a period is compared with: list(before, like). A word such as "year before" stands for the
# same days of the other period where the lines do not cover this one to its end; a period that was
# typed stays whole, and `like` holds the days of both that are alike, list(now, before).
like_compared <- function(book, text, now, dates) {
  whole <- now$of %||% now
  other <- read_against(text, whole, dates)
  plain <- list(before = check_whole_periods(book, other), like = NULL)
  if (!length(book$days) || !alike_long(whole, other)) return(plain)
  of_now <- covered_part(now, book) %||% now
  alike <- same_days(whole, of_now, other, covered_part(other, book) %||% other, book$calendar)
  if (is.null(alike) || same_span(alike$before, other)) return(plain)
  if (!is_relative(text) && is.null(event_named(text, book$calendar)))
    return(c(plain["before"], list(like = alike)))
  cut <- part_of_period(other, other$from, max(same_day(of_now$to, whole, other, book$calendar),
                                               other$from))
  list(before = cut, like = if (!same_span(alike$before, cut)) alike)
}

same_span <- function(a, b) a$from == b$from && a$to == b$to
