# Calendars against R's own date formats, walked day by day, and worked examples.

bucket_labels <- internal("bucket_labels")
code_bucket <- internal("code_bucket")
fiscal_parts <- internal("fiscal_parts")
fiscal_span <- internal("fiscal_span")
plain_calendar <- internal("plain_calendar")

calendar <- function(...) utils::modifyList(plain_calendar, list(...))
days <- as.Date("2019-12-20") + 0:2600

test_that("parts of days are those of R's own formats", {
  d <- as.integer(days)
  expect_identical(bucket_labels(d, "week", plain_calendar), format(days, "%G-W%V"))
  expect_identical(bucket_labels(d, "month", plain_calendar), format(days, "%Y-%m"))
  expect_identical(bucket_labels(d, "year", plain_calendar), format(days, "%Y"))
  expect_identical(bucket_labels(d, "quarter", plain_calendar),
                   sub(" ", "-", paste0(format(days, "%Y"), "-", quarters(days))))
  withr::local_locale(c(LC_TIME = "C"))
  expect_identical(bucket_labels(d, "weekday", plain_calendar), weekdays(days))
})

test_that("coded parts carry each day to its name, weekdays in the order of the week", {
  d <- c(as.integer(days[c(9, 3, 3)]), NA, as.integer(days[2600]))
  for (part in c("day", "week", "month", "quarter", "year", "fiscal_year", "fiscal_month",
                 "weekday")) {
    coded <- code_bucket(d, part, calendar(fiscal_start = 4L))
    want <- c(bucket_labels(d[-4], part, calendar(fiscal_start = 4L)))
    expect_identical(c(coded$levels)[coded$codes[-4]], want, info = part)
    expect_identical(coded$codes[4], 0L)
  }
  week <- code_bucket(as.integer(as.Date("2026-03-01") + 0:6), "weekday", plain_calendar)
  expect_identical(week$levels[1], "Monday")
})

test_that("fiscal years by months are named after the year they end in", {
  april <- calendar(fiscal_start = 4L)
  label <- function(day, part) bucket_labels(as.integer(as.Date(day)), part, april)
  expect_identical(label(c("2025-03-31", "2025-04-01", "2026-03-31"), "fiscal_year"),
                   c("FY2025", "FY2026", "FY2026"))
  expect_identical(label("2026-01-15", "fiscal_quarter"), "FY2026-Q4")
  expect_identical(label("2025-04-30", "fiscal_month"), "FY2026-P01")
  expect_identical(as.Date(fiscal_span(2026, april), origin = "1970-01-01"),
                   as.Date(c("2025-04-01", "2026-03-31")))
  expect_identical(label("2025-05-01", "fiscal_year"),
                   bucket_labels(as.integer(as.Date("2025-05-01")), "fiscal_year", april))
  expect_identical(bucket_labels(as.integer(as.Date("2025-12-31")), "fiscal_year", plain_calendar),
                   "FY2025")
})

test_that("years of whole weeks: every day in one month of one year, the pattern kept", {
  for (start in c(1L, 2L, 7L)) for (begins in c("nearest",
                                                "on or before")) for (weekday in c(1L, 7L)) {
    weeks <- calendar(fiscal_start = start, weeks = c(4L, 4L, 5L), week_starts = weekday,
                      begins = begins)
    parts <- fiscal_parts(as.integer(days), weeks)
    for (year in 2021:2026) {
      mine <- parts$year == year
      length <- rle(parts$month[mine])$lengths / 7
      expect_true(sum(length) %in% 52:53)
      expect_equal(length[1:11], c(4, 4, 5, 4, 4, 5, 4, 4, 5, 4, 4))
      expect_true(length[12] %in% 5:6)
      first <- days[mine][1]
      expect_equal(as.integer(format(first, "%u")), weekday)
      off <- as.integer(first - as.Date(sprintf("%d-%02d-01", year - (start > 1), start)))
      expect_true(off %in% (if (begins == "nearest") -3:3 else -6:0))
      span <- as.Date(fiscal_span(year, weeks), origin = "1970-01-01")
      expect_identical(span, range(days[mine]))
      for (month in c(1, 6, 12)) {
        span <- as.Date(fiscal_span(year, weeks, month = month), origin = "1970-01-01")
        expect_identical(span, range(days[mine & parts$month == month]))
      }
    }
  }
})

test_that("a year to the Saturday nearest the end of January: the retail calendar's starts", {
  # The National Retail Federation's 4-5-4 years begin on these Sundays; named here by their end.
  retail <- calendar(fiscal_start = 2L, weeks = c(4L, 5L, 4L), week_starts = 7L)
  starts <- c("2022-01-30", "2023-01-29", "2024-02-04", "2025-02-02", "2026-02-01")
  for (i in seq_along(starts))
    expect_identical(as.Date(fiscal_span(2022 + i, retail)[1], origin = "1970-01-01"),
                     as.Date(starts[i]))
  # 2023 by the retail trade's name has 53 weeks.
  expect_equal(diff(fiscal_span(2024, retail)) + 1, 53 * 7)
})
