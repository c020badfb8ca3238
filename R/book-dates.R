# Columns that hold dates, and how they were read.

# list(value, fix): the column as dates (POSIXct in UTC where there are times of day), or as it
# was. Most of its values must read as dates; then the first that does not is an error.
read_date_column <- function(x, name, where, must = FALSE, form = NULL, time_zone = NULL,
                             switches = all_fixes, periods = must, fiscal_start = 1L) {
  # A part of a day moves no day out of its period.
  if (inherits(x, "Date")) return(list(value = as_day(floor(as.numeric(x)))))
  if (inherits(x, "POSIXct")) return(list(value = wall_time(x)))
  text <- x
  if (is.numeric(x)) {
    text <- numeric_dates(x, name, must)
    if (is_serial(x) && (must || !is.null(text))) return(serial_dates(x, name))
    if (is.null(text) && must) refuse_dates(x, name, where)
  }
  if (!is.character(text) && !is.factor(text)) return(list(value = x))
  if (!isTRUE(form %in% c("day first", "month first"))) form <- NULL
  held <- first_held(text)
  days <- mostly_dates(held, form, must || named_like_date(name))
  read <- if (periods && !days && switches[["dates"]])
    read_period_text(as.character(text), held, name, where, fiscal_start)
  # What must be a date and is none is told what a date would be.
  if (is.null(read) && (days || must))
    read <- read_date_text(as.character(text), name, where, must, form, time_zone, switches)
  read %||% list(value = x)
}

# Texts as periods, by their first days: list(value, fix, unit); NULL where they are none, as `some`
# of them tell.
read_period_text <- function(text, some, name, where, fiscal_start) {
  read_all <- function(held) {
    years <- grepl("(^|_)(fiscal_?)?(year|jahr|ann\u00e9e|anno|a\u00f1o)$", column_word(name))
    read <- read_periods(held, named_like_period(name) || named_like_date(name), years, fiscal_start)
    if (!is.null(read) && mean(is.na(read$days)) <= .2) read
  }
  if (is.null(read_all(some))) return(NULL)
  held <- unique(text)
  held <- held[!is_blank(held)]
  read <- read_all(held)
  if (is.null(read)) return(NULL)
  check_dates(c(read, list(clash = NULL)), held, text, name, where)
  at <- match(text, held)
  list(value = as_day(read$days[at]), unit = read$unit,
       fix = fix("dates", name, sum(!is.na(at)), period_fix_text(read, name, held, sum(!is.na(at))),
                 sum(!is.na(at)), sum(!is.na(read$days[at]))))
}

period_fix_text <- function(read, name, held, n) {
  day <- as_day(read$days[1])
  as <- switch(read$unit, month = month_and_year(day), quarter = paste0(
    "Q", (as.integer(format(day, "%m")) + 2) %/% 3, " ", format(day, "%Y")),
    week = paste("the week of", date_text(day - 3)), format(day, "%Y"))
  paste0(plural(n, "cell"), " of ", name, " read as ", plural_word(read$unit), ": ",
         shown(held[1]), " as ", as,
         if (read$fiscal) paste0("; fiscal years count from the month that calendar: ",
                                 "{fiscal_start: ...} names, else from January"),
         if (read$unit == "week") "; a week counts where its Thursday lies")
}

month_and_year <- function(day) paste(month.name[as.integer(format(day, "%m"))], format(day, "%Y"))

# Texts that are mostly dates, or must be, as such; NULL where they may not be fixed.
read_date_text <- function(text, name, where, must, form, time_zone, switches) {
  compact <- must || named_like_date(name)
  held <- unique(text)
  held <- held[!is_blank(held)]
  if (!length(held))
    ll_abort(paste0("The date field ", quoted(name), " in ", where, " holds no date at all."),
             "data")
  dated <- read_dates(held, form, time_zone, compact)
  check_dates(dated, held, text, name, where)
  odd <- !grepl("^[0-9]{4}-[0-9]{2}-[0-9]{2}", held)
  if (any(odd) && !switches[["dates"]]) return(NULL)
  at <- match(text, held)
  list(value = as_date_column(dated, at),
       fix = date_fix(name, dated, held, odd, at, is.null(time_zone)),
       offer = if (dated$doubt) offer_month_first(name, held))
}

# Where no date decides which of two numbers is the month, the person does.
offer_month_first <- function(name, held) {
  option <- paste("--field", shell_quoted(paste0(name, "=month first")))
  an_offer(Inf, paste0(
    "day and month could change places in ", name, " (", shown(held[1]), ") and no date decides; the ",
    "day was taken first. ", option, " (in a brief: fields: {", name,
    ": {form: month first}}) changes that"), option)
}

mostly_dates <- function(held, form, compact) {
  if (!length(held)) return(FALSE)
  read <- read_dates(held, form, NULL, compact)
  !is.null(read$clash) || mean(!is.na(read$days)) >= .8
}

refuse_dates <- function(x, name, where) {
  ll_abort(c(paste0("The field ", quoted(name), " in ", where, " is no date."),
             x = paste0("Its first value is ", shown(x[!is.na(x)][1]), ".")), "data")
}

as_date_column <- function(dated, at) {
  days <- as_day(dated$days[at])
  if (all(is.na(dated$seconds))) return(days)
  seconds <- ifelse(is.na(dated$seconds), 0, dated$seconds)[at]
  as.POSIXct(as.numeric(days) * 86400 + seconds, origin = "1970-01-01", tz = "UTC")
}

# The clock on the wall where the time was taken, as UTC.
wall_time <- function(x) {
  zone <- attr(x, "tzone")[1] %||% ""
  if (zone %in% c("UTC", "GMT")) return(x)
  as.POSIXct(format(x, "%Y-%m-%d %H:%M:%S"), tz = "UTC")
}

# Words for a date, and for a period, in the languages of headers.
named_like_date <- function(name) {
  grepl(paste0("(^|_)(date|day|dated|on|datum|tag|fecha|data|dato|jour|dag|dia|giorno|",
               "\u0434\u0430\u0442\u0430|\u65e5\u671f|\u65e5\u4ed8)$|[a-z](datum|dato)$|^(date|",
               "datum|fecha|data)_"),
        column_word(name))
}

named_like_period <- function(name) {
  grepl(paste0("(^|_)(period|periode|periodo|p\u00e9riode|month|monat|mois|mes|mese|maand|",
               "m\u00e5ned|",
               "miesi\u0105c|week|woche|semaine|quarter|quartal|trimestre|yearmonth|yyyymm|",
               "calmonth|",
               "\u043c\u0435\u0441\u044f\u0446|\u6708\u4efd|\u671f\u95f4|\u6708)(_|$)|",
               "[a-z](monat|periode|woche)$"),
        column_word(name))
}

# Numbers that are dates: 20260331, 202603 where the header says so, and a spreadsheet's count of
# days. As texts; NULL where they are none.
numeric_dates <- function(x, name, must) {
  if (!must && !named_like_date(name) && !named_like_period(name)) return(NULL)
  known <- x[!is.na(x)]
  if (!length(known)) return(NULL)
  if (any(known != floor(known))) return(months_as_decimals(x, known))
  within <- function(from, to) all(known >= from & known <= to)
  if (within(19000101, 21001231)) return(ifelse(is.na(x), NA, sprintf("%.0f", x)))
  if (within(190001, 210012) && all(known %% 100 >= 1 & known %% 100 <= 12))
    return(ifelse(is.na(x), NA, sprintf("%.0f", x)))
  # Days of 1990 to 2059.
  if (within(32874, 58439) && length(unique(known)) > 1)
    ifelse(is.na(x), NA, format(as_day(x - 25569)))
}

# 3.2025 is March 2025.
months_as_decimals <- function(x, known) {
  year <- round((known - floor(known)) * 10000)
  if (any(abs(known * 10000 - round(known * 10000)) > 1e-6) || any(year < 1990 | year > 2060) ||
        any(known < 1 | known >= 13)) return(NULL)
  ifelse(is.na(x), NA, sprintf("%.0f.%.0f", floor(x), (x - floor(x)) * 10000))
}

# A spreadsheet's count of days, with the time of day as a fraction. They count from 30 December
# 1899 (1900 taken for a leap year).
is_serial <- function(x) {
  fits <- function(known) length(known) > 0 && all(known > 20000 & known < 80000)
  # Most that are none show it soon.
  fits(first_known(x, 100)) && fits(x[!is.na(x)])
}

serial_dates <- function(x, name) {
  origin <- as.numeric(as.Date("1899-12-30"))
  # To the second, so that noon is noon.
  seconds <- round((x + origin) * 86400)
  value <- as.POSIXct(seconds, origin = "1970-01-01", tz = "UTC")
  first <- which(!is.na(x))[1]
  list(value = if (all(x == floor(x), na.rm = TRUE)) as.Date(value, tz = "UTC") else value,
       fix = fix("dates", name, sum(!is.na(x)), paste0(
         plural(sum(!is.na(x)), "date"), " of ", name, " read from a spreadsheet's count of days: ",
         format_plain(x[first]), " as ", date_text(as.Date(value[first], tz = "UTC"))),
                 sum(!is.na(x)), sum(!is.na(value))))
}

check_dates <- function(dated, held, text, name, where) {
  if (!is.null(dated$clash))
    ll_abort(c(paste0("The dates of ", quoted(name), " contradict each other (", where, ")."),
               x = paste0(shown(dated$clash[1]), " has the day first, ", shown(dated$clash[2]),
                          " the month."),
               i = "Write them one way, or give the field the role dimension."), "data")
  bad <- held[is.na(dated$days)]
  if (!length(bad)) return(invisible())
  first <- match(TRUE, text %in% bad)
  ll_abort(c(paste0("A date in ", quoted(name), " cannot be read (", where, ")."),
             x = paste0(line_word(first, where), " says ", shown(text[first]), "; ",
                        plural(sum(text %in% bad), "such line"), "."),
             i = paste0("Dates are read as 2026-03-31, 31/03/2026, 31.03.2026 or 31 Mar 2026. Fix ",
                        "the lines, or give ", quoted(name), " the role dimension to keep it as ",
                        "text.")),
           "data")
}

# NULL where every date stood as 2026-03-31 and nothing is in doubt.
date_fix <- function(name, dated, held, odd, at, no_zone) {
  if (!any(odd) && !dated$doubt) {
    if (!dated$zoned || !no_zone) return(NULL)
    return(fix("dates", name, 1, paste0(
      "times of ", name, " carry an offset from UTC and were taken as their clock shows; ",
      "calendar: {time_zone: ...} counts the days of a place")))
  }
  n <- sum(odd[at], na.rm = TRUE)
  day <- as_day(dated$days[odd][1])
  fix("dates", name, n, paste0(plural(n, "date"), " of ", name, " read from other forms: ",
                               shown(held[odd][1]), " as ", date_text(day)),
      sum(!is.na(at)), sum(!is.na(dated$days[at])))
}
