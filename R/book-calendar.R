# The book's calendar: the date that periods go by, fiscal years, the time zone.

calendar_keys <- c("fiscal_start", "weeks", "week_starts", "begins", "time_zone")

check_calendar <- function(given) {
  out <- plain_calendar
  if (is.null(given)) return(out)
  if (!is.list(given) && !is.null(names(given))) given <- as.list(given)
  unknown <- setdiff(names(given) %||% "", calendar_keys)
  if (!is.list(given) || length(unknown))
    ll_abort(c(paste0("The calendar has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], calendar_keys, "Keys")), "word")
  if (!is.null(given$fiscal_start)) out$fiscal_start <- check_month(given$fiscal_start)
  if (!is.null(given$weeks)) out$weeks <- check_weeks(given$weeks)
  if (!is.null(given$week_starts)) out$week_starts <- check_weekday(given$week_starts)
  if (!is.null(given$begins))
    out$begins <- check_choice(given$begins, "begins of the calendar",
                               list(choices = c("nearest", "on or before")))
  if (!is.null(given$time_zone)) out$time_zone <- check_time_zone(given$time_zone)
  if (is.null(out$weeks) && (!is.null(given$week_starts) || !is.null(given$begins)))
    ll_abort(c("'week_starts' and 'begins' belong to a fiscal year of whole weeks.",
               i = "Add weeks = \"4-4-5\" to the calendar."), "argument")
  out
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

set_calendar <- function(book, date, as_of) {
  dates <- book$fields$name[book$fields$role == "date" & book$fields$from == "lines"]
  if (!is.null(date) && !date %in% dates)
    ll_abort(c(paste0("There is no date field called ", quoted(date), "."),
               offer(date, dates, "Date fields")), "word")
  if (is.null(date) && length(dates)) date <- dates[1]
  book$date <- date
  book$days <- if (is.null(date)) as.Date(character()) else source_days(book$source, date)
  if (!is.null(as_of)) {
    day <- as_iso_date(as.character(as_of))
    if (length(day) != 1 || is.na(day))
      ll_abort(paste0("'as_of' must be one date such as 2026-03-31; it is ", shown(as_of), "."),
               "argument")
    book$as_of <- day
  }
  book
}

# The day that as_of() and "last" count back from.
book_day <- function(book) {
  if (!is.null(book$as_of)) return(book$as_of)
  if (length(book$days)) max(book$days)
}
