# Dates as people write them, read as days.
#
# Forms: year first (2026-03-31, 2026/03/31, 20260331), day first (31/03/2026, 31.3.26), month first
# (03/31/2026), with the month's name (31 Mar 2026, March 31, 2026, 31. M\u00e4rz 2026); each with or
# without a time of day, which may end in Z or an offset from UTC. Years of two digits are 1969 to 2068, as in
# POSIX.

time_pattern <- paste0("[T ]+[0-9]{1,2}:[0-9]{2}(:[0-9]{2}([.,][0-9]+)?)? ?([AaPp][Mm])?",
                       " ?(Z|[-+][0-9]{2}:?[0-9]{2})?$")

# Reads distinct texts. `form` is "day first", "month first" or NULL to find it; `time_zone` the
# zone whose days count, for times with an offset. Gives list(days, seconds, form, doubt, clash):
# seconds of the day (NA without a time), doubt when day and month could change places and nothing
# decided, clash two texts that contradict each other.
read_dates <- function(text, form = NULL, time_zone = NULL, compact = FALSE) {
  bare <- trimmed(text)
  time <- regmatches_or_na(time_pattern, bare)
  day <- plain_months(trimmed(ifelse(is.na(time), bare, sub(time_pattern, "", bare))))
  out <- list(days = rep(NA_integer_, length(text)), doubt = FALSE, clash = NULL, form = form)
  iso <- grepl("^[0-9]{4}[-/.][0-9]{1,2}[-/.][0-9]{1,2}$", day)
  out$days[iso] <- days_from(split_numbers(day[iso], 1:3))
  if (compact) {
    tight <- grepl("^(19|20)[0-9]{6}$", day)
    out$days[tight] <- days_from(cbind(substr(day[tight], 1, 4), substr(day[tight], 5, 6),
                                       substr(day[tight], 7, 8)))
  }
  out <- named_months(out, day)
  out <- numbered_days(out, day, text)
  seconds <- seconds_of(time)
  zoned <- !is.na(out$days) & !is.na(time) & grepl("(Z|[-+][0-9]{2}:?[0-9]{2})$", time)
  if (any(zoned) && !is.null(time_zone)) {
    moved <- move_zone(out$days[zoned], seconds[zoned], offset_of(time[zoned]), time_zone)
    out$days[zoned] <- moved$days
    seconds[zoned] <- moved$seconds
  }
  out$zoned <- any(zoned)
  out$seconds <- ifelse(is.na(out$days), NA, seconds)
  out
}

regmatches_or_na <- function(pattern, x) {
  at <- regexpr(pattern, x)
  ifelse(!is.na(at) & at > 0, substring(x, at), NA_character_)
}

split_numbers <- function(x, order) {
  if (!length(x)) return(matrix(character(), 0, 3))
  parts <- do.call(rbind, strsplit(x, "[-/. ]+"))
  parts[, order, drop = FALSE]
}

# Columns year, month, day as text; missing where there is no such day.
days_from <- function(parts) {
  year <- as.integer(parts[, 1])
  short <- nchar(parts[, 1]) <= 2
  year[short] <- year[short] + ifelse(year[short] < 69, 2000L, 1900L)
  as.integer(as.Date(sprintf("%04d-%02d-%02d", year, as.integer(parts[, 2]),
                             as.integer(parts[, 3])), format = "%Y-%m-%d"))
}

named_months <- function(out, day) {
  months <- paste0("(", paste(month.abb, collapse = "|"), ")[a-z]*")
  first <- grepl(paste0("^[0-9]{1,2}(st|nd|rd|th)?[-/. ]*", months, "[-/., ]*([0-9]{4}|[0-9]{2})$"),
                 day, ignore.case = TRUE, perl = TRUE)
  later <- grepl(paste0("^", months, "[-. ]*[0-9]{1,2}(st|nd|rd|th)?[-/., ]+[0-9]{4}$"), day,
                 ignore.case = TRUE, perl = TRUE)
  read <- function(x) {
    plain <- sub("([0-9])(st|nd|rd|th)", "\\1", x, ignore.case = TRUE, perl = TRUE)
    month <- match(tolower(regmatches(plain, regexpr("[A-Za-z]{3}", plain))), tolower(month.abb))
    numbers <- do.call(rbind, regmatches(x, gregexpr("[0-9]+", x)))
    days_from(cbind(numbers[, 2], month, numbers[, 1]))
  }
  for (hit in list(first, later)) if (any(hit)) out$days[hit] <- read(day[hit])
  out
}

# 03/04/2026: which of the two is the day is found from those that leave no choice.
numbered_days <- function(out, day, text) {
  hit <- grepl("^[0-9]{1,2}[-/.][0-9]{1,2}[-/.]([0-9]{4}|[0-9]{2})$", day)
  if (!any(hit)) return(out)
  numbers <- split_numbers(day[hit], 1:3)
  a <- as.integer(numbers[, 1])
  b <- as.integer(numbers[, 2])
  must_day <- a > 12 & b <= 12
  must_month <- b > 12 & a <= 12
  if (is.null(out$form)) {
    if (any(must_day) && any(must_month))
      out$clash <- c(text[hit][must_day][1], text[hit][must_month][1])
    # Points are written where the day comes first.
    out$doubt <- !any(must_day) && !any(must_month) && any(a != b) && !all(grepl(".", day[hit],
                                                                                 fixed = TRUE))
    out$form <- if (any(must_month)) "month first" else "day first"
  }
  out$days[hit] <- days_from(numbers[, if (out$form == "month first") c(3, 1, 2) else c(3, 2, 1),
                                     drop = FALSE])
  out
}

seconds_of <- function(time) {
  out <- rep(NA_real_, length(time))
  known <- which(!is.na(time))
  if (!length(known)) return(out)
  clock <- regmatches(time[known], regexpr("[0-9]{1,2}:[0-9]{2}(:[0-9]{2})?", time[known]))
  parts <- lapply(strsplit(clock, ":", fixed = TRUE), as.numeric)
  hour <- vapply(parts, `[`, 0, 1)
  late <- grepl("p ?m", time[known], ignore.case = TRUE, perl = TRUE)
  early <- grepl("a ?m", time[known], ignore.case = TRUE, perl = TRUE)
  hour <- ifelse(late & hour < 12, hour + 12, ifelse(early & hour == 12, 0, hour))
  second <- vapply(parts, function(p) if (length(p) > 2) p[3] else 0, 0)
  out[known] <- hour * 3600 + vapply(parts, `[`, 0, 2) * 60 + second
  out
}

# Seconds that a time's offset is ahead of UTC.
offset_of <- function(time) {
  mark <- regmatches_or_na("[-+][0-9]{2}:?[0-9]{2}$", time)
  digits <- gsub("[^0-9]", "", mark)
  ifelse(is.na(mark), 0, ifelse(startsWith(mark, "-"), -1, 1) *
           (as.numeric(substr(digits, 1, 2)) * 3600 + as.numeric(substr(digits, 3, 4)) * 60))
}

move_zone <- function(days, seconds, offset, time_zone) {
  moment <- as.POSIXct(days * 86400 + seconds - offset, origin = "1970-01-01", tz = "UTC")
  local <- as.POSIXlt(moment, tz = time_zone)
  list(days = as.integer(as.Date(local)), seconds = local$hour * 3600 + local$min * 60 + local$sec)
}
