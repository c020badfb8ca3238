# The book's calendar: the date that periods go by, fiscal years, the time zone.


check_calendar <- function(given) {
  out <- plain_calendar
  if (is.null(given)) return(out)
  if (!is.list(given) && !is.null(names(given))) given <- as.list(given)
  known <- book_keys("calendar")
  unknown <- setdiff(names(given) %||% "", known)
  if (!is.list(given) || length(unknown))
    ll_abort(c(paste0("The calendar has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  if (!is.null(given$fiscal_start)) out$fiscal_start <- check_month(given$fiscal_start)
  if (!is.null(given$weeks)) out$weeks <- check_weeks(given$weeks)
  if (!is.null(given$week_starts)) out$week_starts <- check_weekday(given$week_starts)
  if (!is.null(given$begins))
    out$begins <- check_choice(given$begins, "begins of the calendar",
                               list(choices = c("nearest", "on or before")))
  if (!is.null(given$time_zone)) out$time_zone <- check_time_zone(given$time_zone)
  if (!is.null(given$covered_to)) out$covered_to <- check_day(given$covered_to, "covered_to")
  if (!is.null(given$events)) out$events <- check_events(given$events)
  if (is.null(out$weeks) && (!is.null(given$week_starts) || !is.null(given$begins)))
    ll_abort(c("'week_starts' and 'begins' belong to a fiscal year of whole weeks.",
               i = "Add weeks = \"4-4-5\" to the calendar."), "argument")
  out
}

# One day, as text or a date.
check_day <- function(x, what) {
  day <- if (is.character(x) || inherits(x, "Date")) as_iso_date(as.character(x))
  if (length(day) != 1 || is.na(day))
    ll_abort(paste0(quoted(what), " must be one date such as 2026-03-31; it is ", shown(x), "."),
             "argument")
  day
}

# Named events with the days on which they began.
check_events <- function(given) {
  if (!is.list(given) && !is.null(names(given))) given <- split(given, names(given))
  names <- names(given) %||% ""
  if (!is.list(given) || any(!nzchar(names)))
    ll_abort(c("'events' of the calendar are named, each with its days.",
               i = "For example {spring fair: [2025-04-20, 2026-04-05]}."), "argument")
  lapply(stats::setNames(given, names), function(days) {
    days <- unlist(lapply(days, as.character))
    day <- as_iso_date(days)
    if (!length(day) || anyNA(day))
      ll_abort(c("The days of an event must be dates such as 2026-04-05.",
                 x = paste0("One is ", shown(c(days[is.na(day)], "missing")[1]), ".")),
               "argument")
    sort(day)
  })
}

check_month <- function(x) {
  names <- c(tolower(month.name), tolower(month.abb))
  if (is.character(x) && length(x) == 1 && tolower(x) %in% names)
    return((match(tolower(x), names) - 1L) %% 12L + 1L)
  month <- as_single_number(x)
  if (is.na(month) || !month %in% 1:12)
    ll_abort(c("'fiscal_start' must be a month, 1 to 12 or its name.",
               x = paste0("It is ", shown(x), ".")), "argument")
  as.integer(month)
}

check_weeks <- function(x) {
  known <- list("4-4-5" = c(4L, 4L, 5L), "4-5-4" = c(4L, 5L, 4L), "5-4-4" = c(5L, 4L, 4L))
  if (is.numeric(x)) x <- paste(x, collapse = "-")
  known[[check_choice(x, "weeks of the calendar", list(choices = names(known)))]]
}

check_weekday <- function(x) {
  match(check_choice(if (is.character(x)) capital(tolower(x)) else x, "week_starts",
                     list(choices = weekday_levels)), weekday_levels)
}

check_time_zone <- function(x) {
  known <- OlsonNames()
  if (!is.character(x) || length(x) != 1 || !x %in% known)
    ll_abort(c(paste0("There is no time zone called ", shown(x), "."),
               if (is.character(x) && length(x) == 1) near_only(x, known),
               i = "Time zones are named as in Europe/Lisbon."), "word")
  x
}

# `units` tells by field how long the periods are that it names by their first days.
set_calendar <- function(book, date, as_of, units = list()) {
  dates <- book$fields$name[book$fields$role == "date" & book$fields$from == "lines"]
  date <- guarded(date)
  if (!is.null(date) && !date %in% dates) date <- same_word(date, dates) %||% date
  if (!is.null(date) && !date %in% dates)
    ll_abort(c(paste0("There is no date field called ", quoted(date), "."),
               offer(date, dates, "Date fields")), "word")
  if (is.null(date) && length(dates)) date <- dates[1]
  book$date <- date
  book$unit <- if (!is.null(date)) units[[unguarded(date)]] %||% "day"
  book$days <- if (is.null(date)) as.Date(character()) else source_days(book$source, date)
  if (!is.null(as_of)) book$as_of <- check_day(as_of, "as_of")
  book
}

# The day that as_of() and "last" count back from.
book_day <- function(book) {
  if (!is.null(book$as_of)) return(book$as_of)
  if (length(book$days)) last_day(book)
}

first_day <- function(book) {
  first <- min(book$days)
  if (identical(book$unit, "week")) period_start(first, "week") else first
}

# The last day that the lines cover: periods named by their first days reach to their ends.
last_day <- function(book, days = book$days) period_end(max(days), book$unit)

period_end <- function(day, unit) {
  # Weeks are told by their Thursdays.
  if (identical(unit, "week")) return(day + 3)
  months <- c(month = 1, quarter = 3, year = 12)[unit %||% "day"]
  if (is.na(months)) day else months_after(day, months) - 1
}

# Lines by month are asked by whole months.
check_whole_periods <- function(book, p) {
  unit <- book$unit
  if (is.null(p) || identical(unit %||% "day", "day")) return(invisible(p))
  # Longer periods have the weeks whose Thursdays they have.
  if (unit == "week" && p$to - p$from > 26) return(invisible(p))
  starts <- function(day) identical(format(as.Date(day)), format(period_start(day, unit)))
  if (starts(p$from) && starts(p$to + 1) || p$text == "all") return(invisible(p))
  ll_abort(c(paste0("The lines are by ", unit, ", so a period must be whole ", unit, "s."),
             x = paste0(quoted(p$text), " is ", span_text(p$from, p$to), "."),
             i = paste0("For example ", switch(unit, month = "2026-03 or last 3 months",
                                               week = "2026-03-02/2026-03-15",
                                               quarter = "2026-Q1", "2026"), ".")), "word")
}

period_start <- function(day, unit) {
  if (unit == "week") return(as.Date(day) - (as.integer(as.Date(day)) + 3L) %% 7L)
  parts <- day_parts(as.integer(as.Date(day)))
  first <- switch(unit, month = parts$month, quarter = 3 * ((parts$month - 1) %/% 3) + 1, 1)
  as_day(first_of_month(parts$year, first))
}

# No finer than the lines are.
check_every <- function(book, every) {
  order <- c("day", "week", "month", "quarter", "year")
  unit <- book$unit %||% "day"
  if (match(sub("fiscal_", "", every), order) >= match(unit, order)) return(invisible())
  ll_abort(c(paste0("The lines are by ", unit, ", so nothing is known by ", every, "."),
             i = paste0("Give every = \"", unit, "\" or longer.")), "argument")
}

# First and last day of the lines, and the day that "last" counts back from.
book_dates <- function(book, what) {
  if (is.null(book$date))
    ll_abort(c(paste0(quoted(what), " needs a date, and the book has no date field."),
               i = "Name it on opening: date = \"day\" in R, --date day on the command."),
             "data")
  if (!length(book$days))
    ll_abort(paste0("The date field ", quoted(book$date), " holds no date at all."), "data")
  list(first = first_day(book), last = book_day(book), calendar = book$calendar)
}

# One mistyped date far ahead would move every "last": then the person must say what day it is.
refuse_stray_date <- function(book, text) {
  relative <- grepl("^\\s*(last|this)", tolower(text))
  if (!relative || !is.null(book$as_of)) return(invisible())
  stray <- stray_days(book)
  last <- max(book$days)
  if (!last %in% stray) return(invisible())
  sure <- max(book$days[!book$days %in% stray])
  ll_abort(c(paste0(quoted(text), " counts back from the last date, and that looks mistyped."),
             x = paste0("The last date is ", last, ", ", last - sure,
                        " days after the one before (", sure, ")."),
             i = paste0("Say what day to count from: as_of = \"", sure, "\" in R, --as-of ", sure,
                        " on the command.")), "data")
}

# Days at the ends of the book that lie further from the others than a quarter and three times the
# usual step, at most one in a hundred of all.
stray_days <- function(book) {
  days <- sort(book$days)
  n <- length(days)
  if (n < 3) return(days[0])
  step <- as.numeric(diff(days))
  far <- which(step > max(92 + c(day = 0, week = 7, month = 31, quarter = 92, year = 366)[[book$unit %||%
                                                                                   "day"]],
                          3 * stats::median(step)))
  few <- max(1, n %/% 100)
  after <- far[n - far <= few]
  before <- far[far <= few]
  at <- c(if (length(before)) seq_len(max(before)), if (length(after)) (min(after) + 1):n)
  days[at]
}
