# Times of day in a column beside the date: joined to it, so that its hour can be asked.

named_like_time <- function(name) {
  grepl(paste0("(^|_)(time|uhrzeit|zeit|heure|hora|ora|orario|tijd|tid|godzina|",
               "\u0432\u0440\u0435\u043c\u044f|\u65f6\u95f4|\u6642\u523b)(_|$)|[a-z](zeit|tijd)$"),
        column_word(name))
}

# Seconds of the day of texts such as 14:05, 14:05:30, 2:05 pm; NA where one is none.
clock_seconds <- function(text) {
  form <- "^([01]?[0-9]|2[0-3])[:.h]([0-5][0-9])(?:[:.]([0-5][0-9])(?:[.,][0-9]+)?)? ?([ap]\\.?m\\.?)?$"
  parts <- regmatches(text, regexec(form, text, ignore.case = TRUE, perl = TRUE))
  vapply(parts, function(p) {
    if (length(p) < 5) return(NA_real_)
    hour <- as.numeric(p[2])
    late <- tolower(substr(p[5], 1, 1))
    if (late == "p" && hour < 12) hour <- hour + 12
    if (late == "a" && hour == 12) hour <- 0
    hour * 3600 + as.numeric(p[3]) * 60 + if (nzchar(p[4])) as.numeric(p[4]) else 0
  }, 0)
}

# list(data, fixes): days with the times of the one column that holds times of day, where there is
# one date without them.
join_times <- function(data, specs) {
  date <- names(data)[vapply(data, inherits, NA, "Date")]
  times <- Filter(function(name) {
    is.null(specs[[name]]$role) && named_like_time(name) &&
      (is.character(data[[name]]) || is.factor(data[[name]]))
  }, names(data))
  if (!length(date) || length(times) != 1) return(list(data = data))
  text <- as.character(data[[times]])
  each <- unique(text[!is_blank(text)])
  seconds <- clock_seconds(each)
  if (!length(each) || anyNA(seconds)) return(list(data = data))
  at <- seconds[match(text, each)]
  # The date that stands nearest before it, else the first.
  place <- match(date, names(data)) - match(times, names(data))
  date <- c(date[place == max(c(place[place < 0], -Inf))], date)[1]
  none <- is.na(at) & !is.na(data[[date]])
  at[is.na(at)] <- 0
  data[[date]] <- as.POSIXct(as.numeric(data[[date]]) * 86400 + at, origin = "1970-01-01", tz = "UTC")
  list(data = data, fixes = fix("dates", date, length(at), paste0(
    "the times of ", times, " joined to ", date, ", whose hour can be asked",
    if (any(none)) paste0(" (", plural(sum(none), "line"), " without one count at midnight)"))))
}
