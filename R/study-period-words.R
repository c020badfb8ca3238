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
  covered <- covered_part(before, book)
  if (!is.null(covered)) return(paste("only", short_span(covered)))
  same <- before$from == year_before(now$from) && before$to == year_before(now$to)
  name <- period_name(before)
  if (!is.null(name)) return(paste0(if (!is.null(covered_part(now, book))) "all of ", name))
  if (!same) return(short_span(before))
  paste("the same days", if (in_one_year(before)) paste("of", format(before$from, "%Y")) else
    "a year before")
}

# The part of a period that the lines cover, where they lack some days of it; NULL where they
# cover it, or nothing of it.
covered_part <- function(period, book) {
  if (!length(book$days) || anyNA(c(period$from, period$to))) return(NULL)
  out <- list(from = max(period$from, first_day(book)), to = min(period$to, last_day(book)))
  if (out$to < out$from) return(NULL)
  if (out$from - period$from <= part_days) out$from <- period$from
  if (period$to - out$to <= part_days) out$to <- period$to
  if (out$from > period$from || out$to < period$to) out
}

part_days <- 3   # a period that lacks more days than this at an end of the book is a part period

# What a period is called whatever it was asked by; NULL where only its days tell it.
period_name <- function(period) {
  if (!is.null(period$fiscal) || grepl("^week ", period$words)) return(period$words)
  from <- period$from
  after <- period$to + 1
  if (from != unit_start(from, "month") || after != unit_start(after, "month")) return(NULL)
  months <- 12 * (as.POSIXlt(after)$year - as.POSIXlt(from)$year) + as.POSIXlt(after)$mon -
    as.POSIXlt(from)$mon
  if (months == 1) return(format_month(from))
  if (months == 12 && from == unit_start(from, "year")) return(format(from, "%Y"))
  if (months == 3 && from == unit_start(from, "quarter"))
    paste0("Q", as.POSIXlt(from)$mon %/% 3 + 1, " ", format(from, "%Y"))
}

# "1 March to 8 November 2025"
short_span <- function(period) {
  if (period$from == period$to) return(date_text(period$from))
  paste(if (in_one_year(period)) day_of_year(period$from) else date_text(period$from), "to",
        date_text(period$to))
}

in_one_year <- function(period) format(period$from, "%Y") == format(period$to, "%Y")

# "1 March"
day_of_year <- function(x) sub(" [0-9]+$", "", date_text(x))
