# Dates and periods as exports write them: read in every form, with the length that they tell, and
# nothing finer is answered.

days <- as.Date("2025-01-06") + cumsum(rep(c(1, 3, 9, 14), 12))
amounts <- seq_along(days) * 10 + .5
month_names <- list(
  de = c("Januar", "Februar", "M\u00e4rz", "April", "Mai", "Juni", "Juli", "August", "September",
         "Oktober", "November", "Dezember"),
  fr = c("janvier", "f\u00e9vrier", "mars", "avril", "mai", "juin", "juillet", "ao\u00fbt",
         "septembre", "octobre", "novembre", "d\u00e9cembre"),
  es = c("enero", "febrero", "marzo", "abril", "mayo", "junio", "julio", "agosto", "septiembre",
         "octubre", "noviembre", "diciembre"),
  it = c("gennaio", "febbraio", "marzo", "aprile", "maggio", "giugno", "luglio", "agosto",
         "settembre", "ottobre", "novembre", "dicembre"),
  nl = c("januari", "februari", "maart", "april", "mei", "juni", "juli", "augustus", "september",
         "oktober", "november", "december"))
number <- function(d) as.integer(format(d, "%m"))
year <- function(d) format(d, "%Y")

month_forms <- c(list(
  iso = function(d) format(d, "%Y-%m"), slash = function(d) format(d, "%m/%Y"),
  compact = function(d) format(d, "%Y%m"), dot = function(d) paste0(number(d), ".", year(d)),
  short = function(d) paste(month.abb[number(d)], year(d)),
  dash = function(d) paste0(month.abb[number(d)], "-", format(d, "%y")),
  fiscal = function(d) sprintf("FY%s P%02d", format(d, "%y"), number(d)),
  period = function(d) sprintf("P%02d/%s", number(d), year(d)),
  cjk = function(d) paste0(year(d), "\u5e74", number(d), "\u6708")),
  lapply(month_names, function(names) function(d) paste(names[number(d)], year(d))),
  list(capital = function(d) paste(toupper(month_names$de)[number(d)], year(d))))

day_forms <- c(list(
  iso = function(d) format(d), german = function(d) format(d, "%d.%m.%Y"),
  serial = function(d) as.numeric(d) + 25569,
  cjk = function(d) paste0(year(d), "\u5e74", number(d), "\u6708", as.integer(format(d, "%d")),
                           "\u65e5")),
  lapply(month_names, function(names) {
    function(d) paste0(as.integer(format(d, "%d")), ". ", names[number(d)], " ", year(d))
  }))

period_book <- function(text, header = "Period", ...) {
  file <- tempfile(fileext = ".csv")
  lines <- data.frame(x = text, item = c("hive", "jar"), net = amounts)
  names(lines)[1] <- header
  utils::write.csv(lines, file, row.names = FALSE, fileEncoding = "UTF-8")
  ll_book(file, metrics = c(revenue = "sum(net)"), ...)
}

sums_by <- function(key) as.vector(tapply(amounts, key, sum))

test_that("months in every form are months, and nothing finer is answered", {
  for (name in names(month_forms)) {
    book <- period_book(month_forms[[name]](days))
    got <- ll_trend(book, "revenue")
    expect_equal(got$revenue[!is.na(got$revenue) & got$revenue != 0],
                 sums_by(format(days, "%Y-%m")), info = name)
    expect_true(all(ll_proof(got)$holds), info = name)
    expect_match(paste(ll_notes(got)$text, collapse = " "), "read as months", info = name)
    expect_error(ll_trend(book, "revenue", every = "day"), "by month, so nothing is known by day")
    expect_error(ll_standings(book, "weekday(Period)"), "by month, so nothing is known by weekday")
    expect_error(ll_total(book, when = "2025-02-03"), "whole months")
  }
})

test_that("days in other languages and as a spreadsheet counts them are days", {
  for (name in names(day_forms)) {
    book <- period_book(day_forms[[name]](days), "Datum")
    expect_identical(as.integer(range(book$days)), as.integer(range(days)), info = name)
    expect_equal(ll_total(book, when = "2025-02")$value,
                 sum(amounts[format(days, "%Y-%m") == "2025-02"]), info = name)
  }
})

test_that("quarters and weeks; a week counts where its Thursday lies", {
  quarter <- (number(days) + 2) %/% 3
  for (form in c("%2$s Q%1$d", "Q%1$d %2$s", "%2$s-Q%1$d", "%1$d. Quartal %2$s", "T%1$d %2$s",
                 "FY%2$s Q%1$d")) {
    got <- ll_trend(period_book(sprintf(form, quarter, year(days))), "revenue", every = "quarter")
    expect_equal(got$revenue, sums_by(paste(year(days), quarter)), info = form)
    expect_true(all(ll_proof(got)$holds))
  }
  thursday <- days - (as.integer(days) + 3) %% 7 + 3
  for (form in c("KW %s/%s", "W%s %s", "Week %s %s")) {
    book <- period_book(sprintf(form, format(days, "%V"), format(days, "%G")))
    got <- ll_trend(book, "revenue", every = "month")
    expect_equal(got$revenue[got$revenue != 0], sums_by(format(thursday, "%Y-%m")), info = form)
    expect_error(ll_trend(book, "revenue", every = "day"), "by week")
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("fiscal periods count from the calendar's first month", {
  book <- period_book(sprintf("FY26 P%02d", seq_along(days) %% 12 + 1),
                      calendar = list(fiscal_start = "July"))
  expect_identical(format(range(book$days)), c("2025-07-01", "2026-06-01"))
})

test_that("what only looks like a period stays what it is", {
  for (text in list(c("2025 Model", "2026 Model"), c("Mar", "Apr"), c("P1", "P2"), c("W1", "W2"),
                    c("A-2025", "B-2025"), c("12/25", "13/25"), c("1.5", "2.5"))) {
    book <- period_book(rep(text, length.out = length(days)), "Kind")
    expect_false("date" %in% book$fields$role, info = text[1])
  }
  # Beside a column of days months are names.
  lines <- data.frame(day = days, month = format(days, "%Y-%m"), net = amounts)
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"))
  expect_identical(book$date, "day")
  expect_equal(ll_standings(book, "month", top = 1)$revenue, max(sums_by(lines$month)))
})

test_that("columns of periods in any form become lines with that date", {
  for (name in setdiff(names(month_forms), "compact")) {
    heads <- unique(month_forms[[name]](days))
    wide <- as.data.frame(c(list(k = c("a", "b")), rep(list(c(1, 2)), length(heads))))
    names(wide) <- c("k", heads)
    book <- ll_book(wide, unpivot = list(columns = heads), metrics = c(revenue = "sum(amount)"))
    expect_identical(book$unit, "month", info = name)
    expect_equal(ll_total(book)$value, 3 * length(heads))
  }
})
