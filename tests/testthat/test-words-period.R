# Periods, by hand.

read_period <- internal("read_period")
read_against <- internal("read_against")
dates <- list(first = as.Date("2024-01-02"), last = as.Date("2026-09-16"))

span <- function(p) paste(p$from, p$to)

test_that("each form gives its first and last day", {
  cases <- c("2026" = "2026-01-01 2026-12-31", "2026-04" = "2026-04-01 2026-04-30",
             "2024-02" = "2024-02-01 2024-02-29", "2026-Q2" = "2026-04-01 2026-06-30",
             "2026-q4" = "2026-10-01 2026-12-31", "2026-04-01" = "2026-04-01 2026-04-01",
             "2026-04-01/2026-06-30" = "2026-04-01 2026-06-30", "all" = "2024-01-02 2026-09-16",
             "last month" = "2026-08-01 2026-08-31", "last quarter" = "2026-04-01 2026-06-30",
             "last year" = "2025-01-01 2025-12-31", "this month to date" = "2026-09-01 2026-09-16",
             "This  Quarter to date" = "2026-07-01 2026-09-16",
             "this year to date" = "2026-01-01 2026-09-16",
             "last 90 days" = "2026-06-19 2026-09-16", "last 12 months" = "2025-09-01 2026-08-31",
             "last 1 month" = "2026-08-01 2026-08-31")
  for (text in names(cases)) expect_equal(span(read_period(text, dates)), cases[[text]],
                                          info = text)
})

test_that("a quarter that the book fills to its last day is the last whole one", {
  full <- list(first = dates$first, last = as.Date("2026-06-30"))
  expect_equal(span(read_period("last quarter", full)), "2026-04-01 2026-06-30")
  expect_equal(span(read_period("last month", list(first = dates$first,
                                                   last = as.Date("2024-02-29")))),
               "2024-02-01 2024-02-29")
})

test_that("against: the stretch before, and the year before", {
  previous <- function(text) span(read_against("previous", read_period(text, dates), dates))
  before <- function(text) span(read_against("year before", read_period(text, dates), dates))
  expect_equal(previous("2026-Q2"), "2026-01-01 2026-03-31")
  expect_equal(previous("2026-01"), "2025-12-01 2025-12-31")
  expect_equal(previous("2026-03-10/2026-03-19"), "2026-02-28 2026-03-09")
  expect_equal(before("2026-Q2"), "2025-04-01 2025-06-30")
  expect_equal(before("2024-02"), "2023-02-01 2023-02-28")
  expect_equal(before("2024-02-29"), "2023-02-28 2023-02-28")
  expect_equal(before("2025-02"), "2024-02-01 2024-02-29")
  expect_equal(span(read_against("2025", read_period("2026", dates), dates)),
               "2025-01-01 2025-12-31")
})

test_that("what is no period is refused with the forms", {
  for (text in c("soon", "2026-13", "2026-Q5", "2026-02-30", "last", "last 0 days", "20266", "",
                 "2026-06-30/2026-04-01", "2026/2027/2028", "system('ls')"))
    expect_error(read_period(text, dates), class = "ll_error_word", info = text)
})

# Whole units walked day by day: the last whole one is the latest whose every day has passed.
test_that("last months, quarters and years agree with a walk over the days, from every day", {
  read_period <- internal("read_period")
  all_days <- as.Date("2021-01-01") + 0:2200
  unit <- list(month = format(all_days, "%Y-%m"), quarter = paste(format(all_days, "%Y"),
                                                                  quarters(all_days)),
               year = format(all_days, "%Y"), week = format(all_days, "%G-%V"))
  ends_of <- lapply(unit, function(u) tapply(all_days, u, max))
  starts_of <- lapply(unit, function(u) tapply(all_days, u, min))
  withr::local_seed(6)
  for (last in some_of(sample(as.character(as.Date("2024-01-01") + 0:800), 150), 4)) {
    last <- as.Date(last)
    book <- list(first = all_days[1], last = last, calendar = internal("plain_calendar"))
    for (name in c("month", "quarter", "year")) {
      ends <- ends_of[[name]]
      starts <- starts_of[[name]]
      whole <- which(ends <= last)
      whole <- whole[order(ends[whole])]
      one <- read_period(paste("last", name), book)
      expect_equal(as.numeric(c(one$from, one$to)), c(starts[[tail(whole, 1)]],
                                                      ends[[tail(whole, 1)]]))
      n <- if (name == "year") 2 else 5
      many <- read_period(paste("last", n, paste0(name, "s")), book)
      expect_equal(as.numeric(c(many$from, many$to)), c(starts[[tail(whole, n)[1]]],
                                                        ends[[tail(whole, 1)]]))
      this <- read_period(paste("this", name, "to date"), book)
      start <- min(all_days[unit[[name]] == unit[[name]][all_days == last]])
      expect_equal(c(this$from, this$to), c(start, last))
    }
    end <- max(ends_of$week[ends_of$week <= last])
    got <- read_period("last 3 weeks", book)
    expect_equal(as.numeric(c(got$from, got$to)), c(end - 20, end))
  }
})

test_that("a period printed as its text reads back as itself", {
  read_period <- internal("read_period")
  book <- list(first = as.Date("2020-01-01"), last = as.Date("2026-09-16"),
               calendar = internal("plain_calendar"))
  for (text in c("2026", "2026-Q3", "2026-02", "2026-W09", "2026-02-28", "2026-02-01/2026-03-15",
                 "FY2026", "FY2026-Q2",
                 "FY2026-P11", "last month", "last fiscal year", "this quarter to date",
                 "last 90 days", "all")) {
    one <- read_period(text, book)
    expect_identical(read_period(one$text, book)[c("from", "to")], one[c("from", "to")],
                     info = text)
  }
  for (text in c("2026-Q5", "2026-13", "2026-W54", "2025-W53", "2026-02-30", "FY26", "FY2026-P13",
                 "last 0 days", "tomorrow", "2026-03-01/2026-01-01"))
    expect_error(read_period(text, book), class = "ll_error_word", info = text)
})
