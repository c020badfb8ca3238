# Periods as people say them, found at a place of a question: list(text, used), the period in the
# language of periods and how many tokens say it; or list(doubt, used), the choices where a month
# has no year. NULL where none stands there.
#
# What has no year is the latest that the book has seen; "since" reaches to its last day.

ask_months <- c(tolower(month.name), tolower(month.abb), "sept")
ask_month_numbers <- c(1:12, 1:12, 9L)
ask_seasons <- c(spring = 3L, summer = 6L, autumn = 9L, fall = 9L, winter = 12L)
ask_ordinals <- c(first = 1L, second = 2L, third = 3L, fourth = 4L, `1st` = 1L, `2nd` = 2L,
                  `3rd` = 3L, `4th` = 4L)

# `dates` is list(first, last, calendar), as periods are read with.
period_at <- function(tokens, i, dates) {
  if (is.null(dates)) return(NULL)
  since_at(tokens, i, dates) %||% between_at(tokens, i, dates) %||% relative_at(tokens, i) %||%
    plain_period_at(tokens, i, dates)
}

low_at <- function(tokens, i) if (i >= 1 && i <= length(tokens$low)) tokens$low[i] else ""

# The place after words that only join: "of", "the", "in".
past_words <- function(tokens, i, words) {
  while (low_at(tokens, i) %in% words) i <- i + 1L
  i
}

since_at <- function(tokens, i, dates) {
  word <- low_at(tokens, i)
  if (word %in% c("since", "starting")) {
    from <- past_words(tokens, i + 1L, c("the", "start", "beginning", "of", "from", "in"))
    day <- plain_period_at(tokens, from, dates, latest = TRUE) %||% relative_at(tokens, from)
    if (is.null(day)) return(NULL)
    start <- read_period(day$text, dates)$from
    if (start > dates$last) return(NULL)
    return(list(text = paste0(start, "/", dates$last), used = from - i + day$used))
  }
  if (word %in% c("until", "till", "before")) {
    from <- past_words(tokens, i + 1L, c("the", "end", "of"))
    day <- plain_period_at(tokens, from, dates, latest = TRUE)
    if (is.null(day)) return(NULL)
    p <- read_period(day$text, dates)
    end <- if (word == "before") p$from - 1 else p$to
    if (end < dates$first) return(NULL)
    return(list(text = paste0(dates$first, "/", end), used = from - i + day$used))
  }
  NULL
}

# "between March and May 2025", "from 1 April 2026 to 30 June 2026", "January to March 2026"; the
# first part takes the year of the second.
between_at <- function(tokens, i, dates) {
  word <- low_at(tokens, i)
  opened <- word %in% c("between", "from")
  join <- if (word == "between") c("and", "to") else c("to", "until", "till", "through")
  start <- i + opened
  for (middle in start + seq_len(5L)) {
    if (!low_at(tokens, middle) %in% join) next
    second <- plain_period_at(tokens, middle + 1L, dates, latest = TRUE)
    if (is.null(second)) next
    to <- read_period(second$text, dates)
    first <- plain_period_at(tokens, start, dates, latest = TRUE, year = format(to$to, "%Y"))
    if (is.null(first) || start + first$used != middle) next
    from <- read_period(first$text, dates)
    if (from$from > to$to) return(NULL)
    return(list(text = paste0(from$from, "/", to$to), used = middle - i + 1L + second$used))
  }
  NULL
}

# "last 90 days", "last quarter", "so far this year"
relative_at <- function(tokens, i) {
  start <- i
  far <- low_at(tokens, i) == "so" && low_at(tokens, i + 1L) == "far"
  if (far) i <- i + 2L
  i <- past_words(tokens, i, "the")
  word <- low_at(tokens, i)
  units <- c("day", "week", "month", "quarter", "year")
  singular <- function(x) sub("s$", "", x)
  if (word %in% c("last", "past", "previous", "recent") && !far) {
    n <- low_at(tokens, i + 1L)
    unit <- singular(low_at(tokens, i + 2L))
    count <- if (n %in% names(number_words)) number_words[[n]] else
      if (grepl("^[0-9]{1,4}$", n)) as.numeric(n) else NA
    if (!is.na(count) && unit %in% units)
      return(list(text = paste0("last ", count, " ", unit, "s"), used = i + 3L - start))
    if (n == "fiscal" && unit %in% units[3:5])
      return(list(text = paste("last fiscal", unit), used = i + 3L - start))
    if (n %in% units[2:5] && n != "week")
      return(list(text = paste("last", n), used = i + 2L - start))
    if (n == "week") return(list(text = "last 1 weeks", used = i + 2L - start))
  }
  if (word %in% c("this", "current")) {
    fiscal <- low_at(tokens, i + 1L) == "fiscal"
    unit <- low_at(tokens, i + 1L + fiscal)
    if (unit %in% units[3:5]) {
      used <- i + 2L + fiscal - start
      after <- i + 2L + fiscal
      if (low_at(tokens, after) == "to" && low_at(tokens, after + 1L) == "date") used <- used + 2L
      if (low_at(tokens, after) == "so" && low_at(tokens, after + 1L) == "far") used <- used + 2L
      return(list(text = paste0("this ", if (fiscal) "fiscal ", unit, " to date"), used = used))
    }
  }
  if (word == "ytd" || word == "year" && low_at(tokens, i + 1L) == "to" &&
        low_at(tokens, i + 2L) == "date")
    return(list(text = "this year to date", used = (if (word == "ytd") 1L else 3L) + i - start))
  if (word %in% c("fytd", "fiscal")) {
    used <- if (word == "fytd") 1L else if (identical(tokens$low[i + 0:3], c("fiscal", "year", "to",
                                                                             "date"))) 4L
    if (!is.null(used))
      return(list(text = "this fiscal year to date", used = used + i - start))
  }
  if (word == "all" && low_at(tokens, i + 1L) %in% c("time", "years", "dates"))
    return(list(text = "all", used = i + 2L - start))
  if (word == "ever") return(list(text = "all", used = i + 1L - start))
  NULL
}

# A year, quarter, month, season, half-year or day. With `latest` a month without a year is the
# latest one; `year` is taken where none is said.
plain_period_at <- function(tokens, i, dates, latest = FALSE, year = NULL) {
  word <- low_at(tokens, i)
  if (!nzchar(word)) return(NULL)
  if (tokens$kind[i] == "date") return(typed_period(tokens, i, dates))
  said_year <- function(at) {
    at <- past_words(tokens, at, c("of", "in", "the"))
    if (is_year(tokens, at)) list(year = low_at(tokens, at), used = at + 1L)
  }
  if (is_year(tokens, i)) return(list(text = word, used = 1L + so_far_at(tokens, i + 1L)))
  fiscal_year <- word == "fiscal" && low_at(tokens, i + 1L) == "year" && is_year(tokens, i + 2L)
  if (fiscal_year) return(list(text = paste0("FY", low_at(tokens, i + 2L)), used = 3L))
  quarter_at(tokens, i, dates, said_year, year) %||% half_at(tokens, i, dates, said_year) %||%
    week_at(tokens, i, dates, said_year) %||%
    day_at(tokens, i, dates, said_year) %||%
    month_at(tokens, i, dates, said_year, latest, year) %||% season_at(tokens, i, dates, said_year)
}

# How many words say that a period is meant as far as the lines go.
so_far_at <- function(tokens, i) {
  words <- paste(low_at(tokens, i), low_at(tokens, i + 1L))
  if (words %in% c("so far", "to date")) 2L else 0L
}

is_year <- function(tokens, i) {
  i >= 1 && i <= length(tokens$low) && grepl("^(19|20)[0-9]{2}$", tokens$low[i])
}

typed_period <- function(tokens, i, dates) {
  text <- toupper(gsub(" ", "", tokens$text[i]))
  if (grepl("^FY[0-9]{2}(-|$)", text)) text <- sub("^FY", "FY20", text)
  text <- sub("^(FY[0-9]{4})-P([0-9])$", "\\1-P0\\2", text)
  known <- tryCatch(read_period(text, dates), ll_error = function(e) NULL)
  if (!is.null(known)) list(text = text, used = 1L)
}

# The latest year in which a stretch beginning in this month has begun.
latest_year <- function(month, dates) {
  last <- as.POSIXlt(dates$last)
  as.character(last$year + 1900L - (last$mon + 1L < month))
}

quarter_at <- function(tokens, i, dates, said_year, year) {
  word <- low_at(tokens, i)
  q <- if (grepl("^q[1-4]$", word)) as.integer(substr(word, 2, 2)) else
    if (word %in% names(ask_ordinals) && low_at(tokens, i + 1L) == "quarter") ask_ordinals[[word]]
  if (is.null(q)) return(NULL)
  after <- i + if (startsWith(word, "q")) 1L else 2L
  said <- said_year(after)
  own <- latest_year(3L * q - 2L, dates)
  list(text = paste0(if (is.null(said)) year %||% own else said$year, "-Q", q),
       used = (if (is.null(said)) after else said$used) - i)
}

half_at <- function(tokens, i, dates, said_year) {
  word <- low_at(tokens, i)
  h <- if (word %in% c("h1", "h2")) as.integer(substr(word, 2, 2)) else
    if (word %in% c("first", "second") && low_at(tokens, i + 1L) == "half")
      ask_ordinals[[word]]
  if (is.null(h)) return(NULL)
  after <- i + if (startsWith(word, "h")) 1L else 2L
  said <- said_year(after)
  list(text = paste0(if (is.null(said)) latest_year(6L * h - 5L, dates) else said$year, "-H", h),
       used = (if (is.null(said)) after else said$used) - i)
}

# "week 37", "week 37 of 2026", "w37": the latest one that has begun where no year is said.
week_at <- function(tokens, i, dates, said_year) {
  word <- low_at(tokens, i)
  short <- grepl("^(w|kw|wk)[0-9]{1,2}$", word)
  number <- if (short) sub("^[a-z]+", "", word) else
    if (word %in% c("week", "wk")) sub("^(no|number)$", "", low_at(tokens, i + 1L)) else ""
  if (!grepl("^[0-9]{1,2}$", number)) return(NULL)
  after <- i + if (short) 1L else 2L
  said <- said_year(after)
  this <- as.integer(substr(iso_week(as.integer(dates$last)), 1, 4))
  years <- if (is.null(said)) c(this, this - 1L) else as.integer(said$year)
  for (year in years) {
    text <- sprintf("%04d-W%02d", year, as.integer(number))
    week <- week_period(tolower(text))
    if (!is.null(week) && (!is.null(said) || week$from <= dates$last))
      return(list(text = text, used = (if (is.null(said)) after else said$used) - i))
  }
  NULL
}

month_of_word <- function(word) ask_month_numbers[match(word, ask_months)]

day_at <- function(tokens, i, dates, said_year) {
  number <- function(at) {
    word <- sub("(st|nd|rd|th)$", "", low_at(tokens, at))
    if (grepl("^[0-9]{1,2}$", word)) as.integer(word) else NA_integer_
  }
  first <- number(i)
  if (!is.na(first)) {
    at <- past_words(tokens, i + 1L, "of")
    month <- month_of_word(low_at(tokens, at))
    day <- first
  } else {
    month <- month_of_word(low_at(tokens, i))
    day <- number(i + 1L)
    at <- i + 1L
  }
  if (is.na(month) || is.na(day) || day < 1 || day > 31) return(NULL)
  said <- said_year(at + 1L)
  if (is.null(said) && is.na(first)) return(NULL)
  text <- sprintf("%s-%02d-%02d", if (is.null(said)) latest_year(month, dates) else said$year,
                  month, day)
  if (is.na(as_iso_date(text))) return(NULL)
  list(text = text, used = (if (is.null(said)) at + 1L else said$used) - i)
}

month_at <- function(tokens, i, dates, said_year, latest, year) {
  month <- month_of_word(low_at(tokens, i))
  if (is.na(month)) return(NULL)
  said <- said_year(i + 1L)
  text <- function(year) sprintf("%s-%02d", year, month)
  if (!is.null(said)) return(list(text = text(said$year), used = said$used - i))
  if (!is.null(year)) return(list(text = text(year), used = 1L))
  if (latest) return(list(text = text(latest_year(month, dates)), used = 1L))
  # "may" and "march" are words of their own where nothing says that a month is meant.
  if (low_at(tokens, i) %in% c("may", "march", "mar", "dec", "sat", "sun") &&
        !low_at(tokens, i - 1L) %in% c("in", "of", "for", "during", "since", "last", "until", "on"))
    return(NULL)
  newest <- as.integer(latest_year(month, dates))
  years <- newest:as.integer(format(dates$first, "%Y"))
  list(doubt = utils::head(text(years), 4), used = 1L)
}

season_at <- function(tokens, i, dates, said_year) {
  word <- low_at(tokens, i)
  if (!word %in% names(ask_seasons) || word == "fall") return(NULL)
  start <- ask_seasons[[word]]
  said <- said_year(i + 1L)
  year <- as.integer(if (is.null(said)) latest_year(start, dates) else said$year)
  from <- as.Date(sprintf("%d-%02d-01", year, start))
  list(text = paste0(from, "/", months_after(from, 3) - 1), season = word,
       used = if (is.null(said)) 1L else said$used - i)
}
