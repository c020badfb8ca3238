# The same days of another period: what a period that has not ended is compared with.

# The day of `other` that a day of `now` stands for: first and last days stand for each other, days
# of weeks and of fiscal years of whole weeks are counted from the first one, and so are those of
# stretches that begin on another day of the month; else months are, the end of one staying the end.
same_day <- function(day, now, other, calendar = NULL) {
  if (day == now$to) return(other$to)
  if (day == now$from) return(other$from)
  apart <- months_apart(now, other, calendar)
  if (is.na(apart)) other$from + as.integer(day - now$from) else months_on(day, apart)
}

# How many months lie between the first days of two periods; missing where days have to be counted.
months_apart <- function(now, other, calendar) {
  a <- as.POSIXlt(now$from)
  b <- as.POSIXlt(other$from)
  by_weeks <- isTRUE(now$weeks) || isTRUE(other$counted) ||
    !is.null(now$fiscal) && !is.null(calendar$weeks)
  if (by_weeks || a$mday != b$mday) return(NA)
  12 * (b$year - a$year) + b$mon - a$mon
}

# A day some months on: the end of a month stays one, and what a month lacks is its last day.
months_on <- function(day, n) {
  parts <- as.POSIXlt(day)
  first <- as_day(first_of_month(parts$year + 1900, parts$mon + 1 + n))
  last <- months_after(first, 1) - 1
  # Only February's last days differ from year to year.
  end <- day + 1 == months_after(day, 1) && (n %% 12 != 0 || parts$mon == 1)
  if (end) last else min(first + parts$mday - 1L, last)
}

# The part of `now` and the part of `other` that stand for the same days, both within what is known
# of them (`of_now`, `of_other`); NULL where no day is.
same_days <- function(now, of_now, other, of_other, calendar = NULL) {
  from <- max(same_day(of_now$from, now, other, calendar), of_other$from)
  to <- min(same_day(of_now$to, now, other, calendar), of_other$to)
  if (from > to) return(NULL)
  back <- function(day, own, bound) {
    # What was not cut stays as it was: 28 and 29 February stand for each other.
    if (day == same_day(own, now, other, calendar)) own else
      same_day(day, other, now, calendar)
  }
  list(now = part_of_period(now, back(from, of_now$from), back(to, of_now$to)),
       before = part_of_period(other, from, to))
}

# A period cut to some of its days, which it remembers.
part_of_period <- function(whole, from, to) {
  if (from == whole$from && to == whole$to) return(whole)
  name <- period_name(whole)
  out <- period(from, to, whole$text, paste0("the same days", if (!is.null(name)) paste(" of", name),
                                             ", ", span_text(from, to)))
  out$of <- whole
  out
}

# Whether two periods may be held against each other as they are: of about one length.
alike_long <- function(now, other) {
  days <- c(period_days(now), period_days(other))
  abs(diff(days)) <= max(3, .02 * max(days))
}

# Words that compare a period with another by its place, and not by its own name.
is_relative <- function(text) {
  grepl("^\\s*(previous|year before|last)\\b", tolower(text)) &&
    !grepl("[0-9]+ (day|week|month|quarter|year)s?", tolower(text))
}
