# Named events of the calendar: feasts and fairs that lie on other days every year. `events` of a
# calendar is a named list of the days on which each began, in their order.

# "spring fair 2026" is its day in that year, "spring fair" the latest one that has begun.
event_period <- function(word, calendar, last = NULL) {
  name <- event_named(sub(" [0-9]{4}$", "", word), calendar)
  if (is.null(name)) return(NULL)
  days <- calendar$events[[name]]
  year <- if (grepl(" [0-9]{4}$", word)) sub("^.* ", "", word)
  at <- if (!is.null(year)) which(format(days, "%Y") == year) else
    which(if (is.null(last)) TRUE else days <= last)
  if (!length(at))
    ll_abort(c(paste0("The calendar has no ", quoted(name), if (is.null(year)) " by then" else
      paste(" of", year), "."),
      i = paste0("Its days are ", and_list(date_text(days), 6), ".")), "word")
  event_of(name, max(at), calendar)
}

# The name that the calendar has for an event, whatever its case.
event_named <- function(word, calendar) {
  known <- names(calendar$events)
  at <- match(tolower(word), tolower(known))
  if (!is.na(at)) known[at]
}

event_of <- function(name, i, calendar) {
  day <- calendar$events[[name]][i]
  out <- period(day, day, name, paste0(name, ", ", date_text(day)))
  out$event <- list(name = name, number = i)
  out
}

# An event is compared with the one before it.
event_before <- function(now, word, calendar) {
  if (now$event$number > 1)
    return(counted_days(event_of(now$event$name, now$event$number - 1, calendar), now$event$name,
                        word))
  ll_abort(c(paste0("The calendar has no ", quoted(now$event$name), " before ",
                    date_text(now$from), "."),
             i = "Add its earlier days to 'events' of the calendar."), "word")
}

# The days that lie as far from the event before as those of `now` do from its own, which is the
# nearest to them.
event_shift <- function(word, now, calendar) {
  name <- event_named(word, calendar)
  if (is.null(name)) return(NULL)
  days <- calendar$events[[name]]
  middle <- as.numeric(now$from) + (period_days(now) - 1) / 2
  own <- which.min(abs(as.numeric(days) - middle))
  if (own == 1)
    ll_abort(c(paste0("The calendar has no ", quoted(name), " before ", date_text(days[1]),
                      ", so its days have nothing to be compared with."),
               i = "Add its earlier days to 'events' of the calendar."), "word")
  back <- as.integer(days[own] - days[own - 1])
  counted_days(period(now$from - back, now$to - back, word, ""), name, word)
}

# A period whose days are counted from an event.
counted_days <- function(p, name, text) {
  out <- period(p$from, p$to, text, paste0("the same days from ", name, ", ",
                                           span_text(p$from, p$to)))
  out$counted <- TRUE
  out
}

# Events that lie in one of two periods and not in the other.
events_apart <- function(now, other, calendar) {
  inside <- function(days, p) any(days >= p$from & days <= p$to)
  Filter(function(name) {
    days <- calendar$events[[name]]
    inside(days, now) != inside(days, other)
  }, names(calendar$events))
}
