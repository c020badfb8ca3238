# Numbers and dates as ledgers and exports write them.

read_numbers <- internal("read_numbers")
read_dates <- internal("read_dates")

test_that("ledger forms, each by hand", {
  cases <- c("(45.00)" = -45, "45.00-" = -45, "-12" = -12, "\u221212" = -12, "1,234.56" = 1234.56,
             "1 234 567.8" = 1234567.8, "1'234.5" = 1234.5, "1\u00a0234.5" = 1234.5, "$5" = 5,
             "-$5.50" = -5.5, "$ -7" = -7, "($5.00)" = -5, "12 EUR" = 12, "EUR 12.5" = 12.5,
             "\u20ac3" = 3, "12.5 %" = .125, "45.00 CR" = -45, "45.00 DR" = 45, "+7" = 7, ".5" = .5,
             "1e5" = 1e5, "0" = 0, "-0.1" = -.1)
  # Marks of several currencies are another test's matter.
  got <- read_numbers(names(cases))
  expect_equal(got$value, unname(cases))
  expect_true(all(is.na(read_numbers(c("abc", "1,23,4", "12a", "1..2", "--5x", "4 5",
                                       "1.2.3,4,5"))$value)))
  expect_true(all(read_numbers(c("-", "n/a", "", NA, "NULL"))$none))
  expect_equal(lengths(read_numbers(NA_character_)[c("value", "none")]), c(value = 1, none = 1))
  expect_length(read_numbers(character())$value, 0)
})

test_that("the decimal mark is found from the column, and doubt is told", {
  comma <- read_numbers(c("1.234,56", "2.500", "999", "12,5", "(3,20)", "7,00-"))
  expect_equal(comma$value, c(1234.56, 2500, 999, 12.5, -3.2, -7))
  expect_identical(comma$decimal, ",")
  open <- read_numbers(c("1,234", "5"))
  expect_equal(open$value, c(1234, 5))
  expect_identical(open$doubt, "1,234")
  expect_equal(read_numbers(c("1,234", "5"), fallback = ",")$value, c(1.234, 5))
  expect_true(read_numbers(c("1,5", "1.5"))$conflict)
})

test_that("numbers written in every form come back", {
  withr::local_seed(3)
  for (i in 1:40) {
    x <- round(stats::runif(30, -1e6, 1e6), 2)
    mark <- sample(c(".", ","), 1)
    group <- sample(c("", if (mark == ".") "," else ".", " ", "'"), 1)
    text <- formatC(abs(x), format = "f", digits = 2, big.mark = group, decimal.mark = mark)
    text <- switch(sample(4, 1), paste0(ifelse(x < 0, "-", ""), text),
                   ifelse(x < 0, paste0("(", text, ")"), text),
                   ifelse(x < 0, paste0(text, "-"), text),
                   paste0("\u20ac ", ifelse(x < 0, "-", ""), text))
    expect_equal(read_numbers(text)$value, x, info = text[1])
  }
})

test_that("dates in the usual forms, each by hand", {
  day <- function(text, ...) as.Date(read_dates(text, ...)$days, origin = "1970-01-01")
  want <- as.Date("2026-03-31")
  for (text in c("2026-03-31", "2026/3/31", "2026.03.31", "31/03/2026", "31.3.26", "31-03-2026",
                 "31 Mar 2026", "31-Mar-26", "31 March 2026", "March 31, 2026", "Mar 31 2026",
                 "31st March 2026", "2026-03-31 09:30", "2026-03-31T09:30:00Z",
                 "31/03/2026 2:05 PM"))
    expect_identical(day(text), want, info = text)
  expect_identical(day("20260331", compact = TRUE), want)
  expect_identical(day("03/31/2026"), want)
  expect_identical(day("03/04/2026", form = "month first"), as.Date("2026-03-04"))
  expect_true(all(is.na(day(c("2026-02-30", "31/04/2026", "soon", "2026", "12:30", "99/99/9999",
                              "")))))
})

test_that("day and month: decided by the rest, doubted, or refused when they clash", {
  expect_identical(read_dates(c("03/04/2026", "13/04/2026"))$form, "day first")
  expect_identical(read_dates(c("03/04/2026", "04/13/2026"))$form, "month first")
  expect_false(read_dates(c("03/04/2026", "13/04/2026"))$doubt)
  expect_true(read_dates("03/04/2026")$doubt)
  expect_false(read_dates("05/05/2026")$doubt)
  expect_identical(read_dates(c("13/04/2026", "04/13/2026"))$clash, c("13/04/2026", "04/13/2026"))
})

test_that("a time zone moves times with an offset to the day of the place", {
  got <- read_dates(c("2026-03-31T23:30:00Z", "2026-01-31T23:30:00Z", "2026-03-31 23:30",
                      "2026-01-01T01:00:00+03:00"),
                    time_zone = "Europe/Lisbon")
  # Lisbon is an hour ahead of UTC from the end of March, not in January.
  expect_identical(as.Date(got$days, origin = "1970-01-01"),
                   as.Date(c("2026-04-01", "2026-01-31", "2026-03-31", "2025-12-31")))
  expect_equal(got$seconds, c(1800, 84600, 84600, 79200))
})

test_that("counted values give base R's distinct values, quantiles and moments", {
  count_values <- internal("count_values")
  scale_column <- internal("scale_column")
  for (seed in 1:30) withr::with_seed(seed, {
    x <- switch(seed %% 5 + 1, round(rnorm(200, 10, 30), 2), rnorm(50), sample(3, 9, TRUE),
                c(1e15, -1e-3, 0, NA, NA), numeric())
    got <- count_values(scale_column(x))
    expect_equal(rep(got$value, got$times), sort(x))
    if (!length(got$value)) next
    p <- c(0, .1, .25, .5, .999, 1)
    expect_equal(internal("counted_quantile")(got$value, got$times, p),
                 unname(quantile(x, p, na.rm = TRUE)))
    expect_equal(internal("counted_mean")(got$value, got$times), mean(x, na.rm = TRUE))
    expect_equal(internal("counted_moment")(got$value, got$times, 2),
                 mean((x - mean(x, na.rm = TRUE))^2, na.rm = TRUE))
  })
})

test_that("lines that are alike in every column are found, whatever stands beside them", {
  kernel_alike <- internal("kernel_alike")
  for (seed in 1:20) withr::with_seed(seed, {
    n <- sample(c(1, 2, 50, 3000), 1)
    a <- sample(1:40, n, TRUE)
    b <- sample(c(NA, 0, -0, 1.5, 2:30), n, TRUE)
    keep <- if (seed %% 2) NULL else sample(c(TRUE, FALSE), n, TRUE)
    key <- paste(a, ifelse(is.na(b), "none", b))
    rows <- if (is.null(keep)) seq_len(n) else which(keep)
    expect_equal(kernel_alike(list(a, b), keep), rows[key[rows] %in%
                                                      key[rows][duplicated(key[rows])]])
  })
})

test_that("words of a date that are nothing else leave their neighbours' months alone", {
  plain <- internal("plain_months")
  withr::local_options(warn = 2)
  texts <- c("1 de mayo de 2026", "del", "3 de junio de 2026", "de", "del ", "12 okt 2026", "del del",
             "de la casa")
  expect_identical(plain(texts), c("1 May 2026", "del", "3 Jun 2026", "de", "del ", "12 Oct 2026",
                                   "del del", "de la casa"))
  # Each text is read as it would be alone.
  expect_identical(plain(texts), vapply(texts, plain, "", USE.NAMES = FALSE))
})
