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
             "this year to date" = "2026-01-01 2026-09-16", "last 90 days" = "2026-06-19 2026-09-16",
             "last 12 months" = "2025-09-01 2026-08-31", "last 1 month" = "2026-08-01 2026-08-31")
  for (text in names(cases)) expect_equal(span(read_period(text, dates)), cases[[text]], info = text)
})

test_that("a quarter that the book fills to its last day is the last whole one", {
  full <- list(first = dates$first, last = as.Date("2026-06-30"))
  expect_equal(span(read_period("last quarter", full)), "2026-04-01 2026-06-30")
  expect_equal(span(read_period("last month", list(first = dates$first, last = as.Date("2024-02-29")))),
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
  expect_equal(span(read_against("2025", read_period("2026", dates), dates)), "2025-01-01 2025-12-31")
})

test_that("what is no period is refused with the forms", {
  for (text in c("soon", "2026-13", "2026-Q5", "2026-02-30", "last", "last 0 days", "20266", "",
                 "2026-06-30/2026-04-01", "2026/2027/2028", "system('ls')"))
    expect_error(read_period(text, dates), class = "ll_error_word", info = text)
})
