# Months, weeks, quarters and years as exports write them, read as the first day of each; and the
# names of months in the languages of exports.

# The first letters of months, without accents, by their number.
month_letters <- c(
  jan = 1, gen = 1, ene = 1, sty = 1, "\u044f\u043d\u0432" = 1,
  feb = 2, fev = 2, lut = 2, "\u0444\u0435\u0432" = 2,
  mar = 3, mrz = 3, maa = 3, mae = 3, mrt = 3, "\u043c\u0430\u0440" = 3,
  apr = 4, avr = 4, abr = 4, kwi = 4, "\u0430\u043f\u0440" = 4,
  may = 5, mai = 5, mag = 5, mei = 5, maj = 5, "\u043c\u0430\u0439" = 5, "\u043c\u0430\u044f" = 5,
  jun = 6, juin = 6, giu = 6, cze = 6, "\u0438\u044e\u043d" = 6,
  jul = 7, juil = 7, lug = 7, lip = 7, "\u0438\u044e\u043b" = 7,
  aug = 8, aou = 8, ago = 8, sie = 8, "\u0430\u0432\u0433" = 8,
  sep = 9, set = 9, wrz = 9, "\u0441\u0435\u043d" = 9,
  oct = 10, okt = 10, ott = 10, out = 10, paz = 10, "\u043e\u043a\u0442" = 10,
  nov = 11, lis = 11, "\u043d\u043e\u044f" = 11,
  dec = 12, dez = 12, dic = 12, gru = 12, "\u0434\u0435\u043a" = 12)

# Texts of dates with the names of months as English abbreviations, and the signs for year, month
# and day of Chinese, Japanese and Korean as dashes.
plain_months <- function(text) {
  text <- sub("^1er ", "1 ", text)
  text <- gsub("[\u5e74\u6708\ub144\uc6d4] ?", "-", text)
  text <- sub("-$", "", gsub("[\u65e5\uc77c]", "", text))
  letters <- which(grepl("[[:alpha:]]{3}", text))
  plain <- gsub("(\u0433\\.|\\bde\\b|\\bdel\\b)", " ", text[letters], perl = TRUE)
  plain <- gsub(" +", " ", trimmed(plain))
  # A text may have had nothing but such words.
  named <- grepl("[[:alpha:]]{3}", plain)
  letters <- letters[named]
  plain <- plain[named]
  if (!length(letters)) return(text)
  at <- regexpr("[[:alpha:]]{3,}\\.?", plain)
  word <- without_accents(tolower(regmatches(plain, at)))
  month <- month_letters[substr(word, 1, 4)]
  month <- ifelse(is.na(month), month_letters[substr(word, 1, 3)], month)
  month[nchar(word) > 12] <- NA
  made <- plain
  regmatches(made, at) <- ifelse(is.na(month), regmatches(plain, at), month.abb[month])
  text[letters] <- ifelse(is.na(month), text[letters], made)
  text
}

year_form <- "((?:19|20)[0-9]{2}|'?[0-9]{2})"
long_year <- "((?:19|20)[0-9]{2})"
month_form <- "(0?[1-9]|1[0-2])"
period_mark <- "[-/. _]*"

# Forms of periods: the pattern, what its groups are, and the unit. `fiscal` periods count from the
# start of the fiscal year, which is named after the year it ends in.
period_forms <- local({
  one <- function(pattern, groups, unit, fiscal = FALSE) {
    list(pattern = paste0("^", pattern, "$"), groups = groups, unit = unit, fiscal = fiscal)
  }
  named <- paste0("(", paste(month.abb, collapse = "|"), ")[a-z.]*")
  week <- "(?:KW|CW|W|WK|WEEK|SEM|S|SEMAINE|SETTIMANA|SEMANA|UGE|VECKA)\\.?"
  quarter <- "(?:Q|QTR|QUARTER|QUARTAL|TRIM|TRIMESTRE|T|KWARTAAL|K)\\.?"
  # FY2025/26 is named after the year it ends in, as FY26 is.
  fiscal <- paste0("(?:FY|GJ|FISCAL|FISCAL YEAR)", period_mark, "(?:(?:20)?[0-9]{2}[/-])?", year_form)
  number <- paste0("(?:P|PERIOD|PERIODE|M)", period_mark, "(0?[1-9]|1[0-2])")
  list(
    one(paste0(long_year, "[-/. ]?M?", "(?<=[-/. M])", month_form), c("year", "part"), "month"),
    one(paste0(month_form, "[-/. ]", long_year), c("part", "year"), "month"),
    one(paste0("M", month_form, period_mark, long_year), c("part", "year"), "month"),
    one(paste0(named, "[-/. ]*", year_form), c("name", "year"), "month"),
    one(paste0(long_year, "[-/. ]*", named), c("year", "name"), "month"),
    one(paste0(long_year, period_mark, quarter, " ?([1-4])"), c("year", "part"), "quarter"),
    one(paste0(quarter, " ?([1-4])", period_mark, year_form), c("part", "year"), "quarter"),
    one(paste0("([1-4])\\.? ?", quarter, period_mark, year_form), c("part", "year"), "quarter"),
    one(paste0(long_year, period_mark, week, " ?([0-5]?[0-9])"), c("year", "part"), "week"),
    one(paste0(week, " ?([0-5]?[0-9])", period_mark, year_form), c("part", "year"), "week"),
    one(paste0(fiscal, period_mark, number), c("year", "part"), "month", TRUE),
    one(paste0(number, period_mark, fiscal), c("part", "year"), "month", TRUE),
    one(paste0(long_year, period_mark, "P", period_mark, month_form), c("year", "part"), "month",
        TRUE),
    one(paste0("P", period_mark, month_form, period_mark, long_year), c("part", "year"), "month",
        TRUE),
    one(paste0(fiscal, period_mark, quarter, " ?([1-4])"), c("year", "part"), "quarter", TRUE),
    one(paste0(quarter, " ?([1-4])", period_mark, fiscal), c("part", "year"), "quarter", TRUE),
    one(fiscal, "year", "year", TRUE))
})
compact_month <- list(pattern = paste0("^", long_year, "(0[1-9]|1[0-2])$"),
                      groups = c("year", "part"), unit = "month", fiscal = FALSE)
bare_year <- list(pattern = paste0("^", long_year, "$"), groups = "year", unit = "year",
                  fiscal = FALSE)

# Reads distinct texts as periods of one length. `compact` allows 202501, `years` 2025 alone;
# `fiscal_start` is the month in which fiscal years start. Gives list(days, unit, fiscal): days NA
# where a text is none; NULL where there are periods of several lengths, or none.
read_periods <- function(text, compact = FALSE, years = FALSE, fiscal_start = 1L) {
  plain <- plain_months(trimmed(text))
  forms <- c(period_forms, if (compact) list(compact_month), if (years) list(bare_year))
  out <- list(days = rep(NA_integer_, length(text)), unit = NULL, fiscal = FALSE)
  for (form in forms) {
    open <- which(is.na(out$days) & grepl(form$pattern, plain, ignore.case = TRUE, perl = TRUE))
    if (!length(open)) next
    days <- days_of_form(form, plain[open], fiscal_start)
    if (all(is.na(days))) next
    if (!identical(out$unit %||% form$unit, form$unit)) return(NULL)
    out$unit <- form$unit
    out$fiscal <- out$fiscal || form$fiscal
    out$days[open] <- days
  }
  if (!is.null(out$unit)) out
}

days_of_form <- function(form, text, fiscal_start) {
  parts <- regmatches(text, regexec(form$pattern, text, ignore.case = TRUE, perl = TRUE))
  group <- function(name) {
    at <- match(name, form$groups)
    if (!is.na(at)) vapply(parts, `[`, "", at + 1)
  }
  year <- as.integer(sub("'", "", group("year"), fixed = TRUE))
  year <- ifelse(year < 100, ifelse(year < 69, 2000L, 1900L) + year, year)
  if (form$fiscal) year[tells_years_apart(text)] <- NA
  part <- as.integer(group("part") %||% match(tolower(group("name")), tolower(month.abb)))
  if (form$unit == "week") return(week_thursday(year, part))
  month <- switch(form$unit, month = part, quarter = 3L * part - 2L, 1L)
  if (form$fiscal) {
    month <- month + fiscal_start - 1L
    if (fiscal_start > 1) year <- year - 1L
    year <- year + (month - 1L) %/% 12L
    month <- (month - 1L) %% 12L + 1L
  }
  as.integer(first_of_month(year, month))
}

# The two years of a fiscal one follow each other: FY2025-03 is none.
tells_years_apart <- function(text) {
  pair <- regmatches(text, regexec("([0-9]{2})[/-]([0-9]{2})(?![0-9])", text, perl = TRUE))
  vapply(pair, function(years) {
    length(years) == 3 && (as.integer(years[3]) - as.integer(years[2])) %% 100 != 1
  }, NA)
}

# The Thursday of a week of a year, by ISO 8601: a week belongs to the year, and here to the month,
# that has its Thursday.
week_thursday <- function(year, week) {
  fourth <- as.integer(as.Date(sprintf("%04d-01-04", year)))
  monday <- fourth - (fourth + 3L) %% 7L
  day <- monday + 7L * (week - 1L) + 3L
  ifelse(week >= 1 & format(as_day(day), "%Y") == sprintf("%04d", year), day, NA_integer_)
}
