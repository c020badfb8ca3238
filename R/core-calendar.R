# The calendar: parts of days as names, fiscal years by months or by weeks.
#
# A calendar is list(fiscal_start, weeks, week_starts, begins): the month (1 to 12) in which the
# fiscal year starts; for a year of 52 or 53 weeks the weeks of the three months of a quarter, such
# as c(4, 4, 5), the weekday (1 Monday to 7 Sunday) on which it starts, and whether that is the one
# "nearest" to the first of that month or the last "on or before" it. Rules of 52-53-week years:
# Internal Revenue Service, Publication 538, "Accounting Periods and Methods". A fiscal year is
# named after the calendar year in which it ends by its months.

plain_calendar <- list(fiscal_start = 1L, weeks = NULL, week_starts = 1L, begins = "nearest")

# Days since 1970 as year and month: H. Hinnant, "chrono-Compatible Low-Level Date Algorithms",
# civil_from_days.
day_parts <- function(days) {
  since <- floor(as.numeric(days)) + 719468
  cycle <- since %/% 146097
  day <- since - cycle * 146097
  year <- (day - day %/% 1460 + day %/% 36524 - day %/% 146096) %/% 365
  month <- (5 * (day - (365 * year + year %/% 4 - year %/% 100)) + 2) %/% 153
  list(year = as.integer(year + 400 * cycle + (month > 9)),
       month = as.integer(month + ifelse(month < 10, 3, -9)))
}

# Days since 1970 of the first of a month, which may lie beyond 1 to 12 and its year beyond four
# digits: H. Hinnant, "chrono-Compatible Low-Level Date Algorithms", days_from_civil. The year is
# taken to begin in March, so that leap days come last.
first_of_month <- function(year, month) {
  at <- year * 12 + month - 3
  year <- at %/% 12
  of_cycle <- year %% 400
  as.integer(year %/% 400 * 146097 + of_cycle * 365 + of_cycle %/% 4 - of_cycle %/% 100 +
               (153 * (at %% 12) + 2) %/% 5 - 719468)
}

# 1 Monday to 7 Sunday; 1 January 1970 was a Thursday.
weekday_of <- function(days) as.integer((days + 3) %% 7 + 1)

# How many days lie between two, both ends in: all ("calendar") or Monday to Friday ("working").
count_days <- function(from, to, kind) {
  if (kind == "calendar") to - from + 1 else sum(weekday_of(from:to) <= 5)
}

# The first day of the fiscal year named `year`.
fiscal_year_start <- function(year, calendar) {
  first <- first_of_month(year - (calendar$fiscal_start > 1), calendar$fiscal_start)
  if (is.null(calendar$weeks)) return(first)
  past <- (weekday_of(first) - calendar$week_starts) %% 7
  nearest <- calendar$begins == "nearest" & past > 3
  as.integer(first - past + ifelse(nearest, 7, 0))
}

# Fiscal year, and month 1 to 12 in it, of days.
fiscal_parts <- function(days, calendar) {
  plain <- day_parts(days)
  if (is.null(calendar$weeks)) {
    past <- plain$month >= calendar$fiscal_start & calendar$fiscal_start > 1
    month <- (plain$month - calendar$fiscal_start) %% 12 + 1
    return(list(year = plain$year + past, month = as.integer(month)))
  }
  year <- plain$year + 1L
  for (step in 1:3) {
    early <- !is.na(days) & days < fiscal_year_start(year, calendar)
    year <- year - early
  }
  week <- (days - fiscal_year_start(year, calendar)) %/% 7
  ends <- cumsum(rep(calendar$weeks, 4))
  # A 53rd week belongs to the last month.
  list(year = year, month = pmin(findInterval(week, ends) + 1L, 12L))
}

# First and last day of a fiscal year, quarter or month.
fiscal_span <- function(year, calendar, quarter = NULL, month = NULL) {
  start <- fiscal_year_start(year, calendar)
  end <- fiscal_year_start(year + 1, calendar) - 1L
  months <- if (!is.null(month)) c(month, month) else if (!is.null(quarter))
    c(3 * quarter - 2, 3 * quarter) else c(1, 12)
  if (is.null(calendar$weeks)) {
    first <- day_parts(start)
    return(c(first_of_month(first$year, first$month + months[1] - 1),
             first_of_month(first$year, first$month + months[2]) - 1L))
  }
  ends <- c(0, cumsum(rep(calendar$weeks, 4)))
  last <- if (months[2] == 12) end else start + 7L * ends[months[2] + 1] - 1L
  c(start + 7L * ends[months[1]], last)
}

# ISO 8601 week: that of its Thursday.
iso_week <- function(days) {
  thursday <- days - weekday_of(days) + 4
  year <- day_parts(thursday)$year
  sprintf("%04d-W%02d", year, (thursday - first_of_month(year, 1)) %/% 7 + 1)
}

# The name of a part of days.
bucket_labels <- function(days, part, calendar) {
  if (!length(days)) return(character())
  plain <- day_parts(days)
  fiscal <- if (startsWith(part, "fiscal")) fiscal_parts(days, calendar)
  switch(part,
         day = format(as_day(days)), week = iso_week(days),
         month = sprintf("%04d-%02d", plain$year, plain$month),
         quarter = sprintf("%04d-Q%d", plain$year, (plain$month - 1L) %/% 3L + 1L),
         year = sprintf("%04d", plain$year),
         fiscal_month = sprintf("FY%04d-P%02d", fiscal$year, fiscal$month),
         fiscal_quarter = sprintf("FY%04d-Q%d", fiscal$year, (fiscal$month - 1L) %/% 3L + 1L),
         fiscal_year = sprintf("FY%04d", fiscal$year),
         weekday = weekday_levels[weekday_of(days)])
}

weekday_levels <- c("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

# Days as a coded column of the names of a part. Days repeat: each is named once.
code_bucket <- function(days, part, calendar) {
  found <- distinct_whole(if (is.integer(days)) days else as.integer(floor(days)))
  labels <- bucket_labels(found$values, part, calendar)
  levels <- if (part == "weekday") weekday_levels[weekday_levels %in% labels] else
    sort(unique(labels), method = "radix")
  list(codes = recode_whole(found, match(labels, levels)), levels = levels)
}

# What a time of day is part of: the hour, 00 to 23, and the part of the day, by six hours each. The
# names sort in time.
day_parts_named <- c("00-06 night", "06-12 morning", "12-18 afternoon", "18-24 evening")
time_labels <- list(hour = sprintf("%02d", 0:23), part_of_day = rep(day_parts_named, each = 6))
time_parts <- names(time_labels)

# Times in seconds as a coded column of the names of a part.
code_time <- function(seconds, part) {
  labels <- time_labels[[part]]
  at <- match(labels, unique(labels))[as.integer((seconds %% 86400) %/% 3600) + 1L]
  present <- sort(unique(at[!is.na(at)]))
  list(codes = match(at, present, nomatch = 0L), levels = unique(labels)[present])
}

# The first days of spans of one length, list(from, to), moved back 0 to `times` times by it: by
# months where all are of whole months, else by days.
moved_back <- function(spans, times) {
  from <- vapply(spans, function(span) as.numeric(span$from), 0)
  after <- vapply(spans, function(span) as.numeric(span$to) + 1, 0)
  starts <- day_parts(from)
  ends <- day_parts(after)
  whole <- all(first_of_month(starts$year, starts$month) == from &
                 first_of_month(ends$year, ends$month) == after)
  months <- (ends$year - starts$year) * 12 + ends$month - starts$month
  lapply(stats::setNames(seq_along(spans), names(spans)), function(k) {
    if (whole) first_of_month(starts$year[k], starts$month[k] - months[1] * 0:times) else
      from[k] - (after[1] - from[1]) * 0:times
  })
}
