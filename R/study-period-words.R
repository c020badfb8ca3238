# A period and its part that the lines cover, as findings say them.

# A period as it is said with its preposition, and which part of it the lines cover.
period_phrase <- function(period, book) {
  name <- period_name(period)
  covered <- covered_part(period, book)
  if (is.null(name)) {
    if (!is.null(covered)) period <- covered
    return(if (period$from == period$to) paste("on", date_text(period$from)) else
           paste("from", short_span(period)))
  }
  if (is.null(covered)) return(paste("in", name))
  day <- if (in_one_year(period)) day_of_year else date_text
  paste0("in ", name, if (covered$from > period$from) paste(" from", day(covered$from)),
         if (covered$to < period$to) paste(" to", day(covered$to)))
}

before_phrase <- function(now, before, book) {
  if (!is.null(before$of)) {
    name <- period_name(before$of)
    return(paste("the same days", if (!is.null(name)) paste("of", name) else
      if (in_one_year(before)) paste("of", format(before$from, "%Y")) else "of the period before"))
  }
  if (isTRUE(before$counted)) return(before$words)
  covered <- covered_part(before, book)
  if (!is.null(covered)) return(paste("only", short_span(covered)))
  same <- before$from == year_before(now$from) && before$to == year_before(now$to)
  name <- period_name(before)
  if (!is.null(name)) return(paste0(if (!is.null(covered_part(now, book))) "all of ", name))
  if (!same) return(short_span(before))
  paste("the same days", if (in_one_year(before)) paste("of", format(before$from, "%Y")) else
    "a year before")
}

short_span <- function(period) span_text(period$from, period$to)

in_one_year <- function(period) format(period$from, "%Y") == format(period$to, "%Y")
