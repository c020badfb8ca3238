# Trend: by hand, against SQL, part and missing periods, and what is drawn.

test_that("a small book by hand: months, growth, the part month at the end", {
  book <- small_book(as_of = "2026-03-20")
  got <- ll_trend(book, c("revenue", "average"))
  # January 60.60, February 30.05, March 17.75 up to the 20th.
  expect_identical(got$period, c("2026-01", "2026-02", "2026-03"))
  expect_equal(got$revenue, c(60.6, 30.05, 17.75))
  expect_equal(got$revenue_growth, rep(NA_real_, 3))
  expect_identical(got$part, c("part", "", "part"))
  expect_equal(got$days, c(27, 28, 20))
  expect_equal(got$average, c(60.6 / 2, 30.05 / 2, 17.75 / 3))
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "2026-03 is incomplete, 1 March to 20 March 2026")
})

day_lines <- function() {
  days <- c(seq(as.Date("2024-01-01"), as.Date("2026-08-31"), by = "day"))
  data.frame(day = days, k = rep_len(c("a", "b", "b"), length(days)),
             net = rep_len(1:7, length(days)), cost = 1)
}

test_that("months, years before and growth agree with SQL window functions", {
  lines <- day_lines()
  lines <- lines[format(lines$day, "%Y-%m") != "2025-05", ]
  db <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(db))
  DBI::dbWriteTable(db, "l", transform(lines, month = format(day, "%Y-%m"), day = format(day)))
  sql <- DBI::dbGetQuery(db, "
    SELECT month, SUM(net) AS revenue,
           SUM(net) * 1.0 / LAG(SUM(net)) OVER (ORDER BY month) - 1 AS growth,
           SUM(cost) * 1.0 / SUM(net) AS rate FROM l GROUP BY month")
  book <- ll_book(lines, metrics = list(revenue = list(is = "sum(net)", unit = "money"),
                                        rate = list(is = "sum(cost) / sum(net)", unit = "percent")))
  got <- ll_trend(book, c("revenue", "rate"))
  expect_equal(nrow(got), 32)
  at <- match(sql$month, got$period)
  expect_equal(got$revenue[at], as.numeric(sql$revenue))
  expect_equal(got$rate[at], sql$rate)
  # The missing month is there: zero for a sum, missing for a rate, and no growth from nothing.
  gap <- got[got$period == "2025-05", ]
  expect_identical(c(gap$revenue, gap$rate), c(0, NA))
  expect_equal(got$revenue_growth[got$period == "2025-06"], NA_real_)
  plain <- setdiff(at, which(got$period %in% c("2024-01", "2025-05", "2025-06")))
  expect_equal(got$revenue_growth[plain], sql$growth[match(got$period[plain], sql$month)])
  year <- match(paste0(as.integer(substr(got$period, 1, 4)) - 1, substr(got$period, 5, 7)),
                got$period)
  expect_equal(got$revenue_year_before, got$revenue[year])
  expect_equal(got$rate_year_change, got$rate - got$rate[year])
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "1 month without lines: 2025-05")
})

test_that("every length of period adds up to the whole, and a line for each name does too", {
  book <- ll_book(day_lines(), metrics = c(revenue = "sum(net)"), fields = c(net = "measure"))
  whole <- sum(day_lines()$net)
  for (every in c("day", "week", "month", "quarter", "year", "fiscal_month", "fiscal_quarter",
                  "fiscal_year")) {
    got <- ll_trend(book, every = every)
    expect_equal(sum(got$revenue), whole, info = every)
    expect_true(all(ll_proof(got)$holds), info = every)
    expect_false(is.unsorted(got$period), info = every)
  }
  # The rest is gathered; a single one that is left is itself.
  three <- day_lines()
  three$k[seq(1, nrow(three), by = 5)] <- "cc"
  three <- ll_book(three, metrics = c(revenue = "sum(net)"), fields = c(net = "measure"))
  best <- ll_standings(three, "k")$k
  for (top in 1:3) {
    lines <- ll_trend(three, by = "k", top = top, every = "year")
    expect_identical(unique(lines$k), if (top == 1) c(best[1], "everyone else (2)") else best)
    expect_equal(sum(lines$revenue), whole)
    expect_true(all(ll_proof(lines)$holds))
  }
})

test_that("rolling means use whole periods, per day divides by the days covered", {
  book <- ll_book(day_lines(), metrics = c(revenue = "sum(net)"), fields = c(net = "measure"))
  got <- ll_trend(book, every = "month", rolling = 3, per_day = "calendar",
                  when = "2025-01-01/2025-06-15")
  # Months before those shown count too.
  lines <- day_lines()
  months <- tapply(lines$net, format(lines$day, "%Y-%m"), sum)
  before <- unname(c(months[c("2024-11", "2024-12")], got$revenue[1:5]))
  rolled <- function(f) c(vapply(3:7, function(i) f(before[(i - 2):i]), 0), NA)
  expect_equal(got$revenue_rolling, rolled(mean))
  expect_equal(got$revenue_rolling_sum, rolled(sum))
  expect_equal(got$revenue_per_day, got$revenue / c(31, 28, 31, 30, 31, 15))
  expect_identical(got$part, c("", "", "", "", "", "part"))
  working <- ll_trend(book, every = "month", per_day = "working", when = "2025-02")
  expect_equal(working$revenue_per_day, working$revenue / 20)
  expect_equal(working$revenue_year_before, sum(day_lines()$net[format(day_lines()$day, "%Y-%m") ==
                                                                "2024-02"]))
})

test_that("the demo's story: one growth figure, the year to date, part periods left out", {
  got <- ll_trend(demo_book(), "revenue", every = "quarter")
  expect_equal(got$revenue[got$period == "2026-Q2"], story("hive", "revenue_2026Q2"))
  expect_match(ll_finding(got), "^Revenue in 2026-Q2 was 1,329,696, 11.2 % above a year before")
  expect_identical(got$part[nrow(got)], "part")
  done <- ll_part(got, "to_date")
  lines <- demo_lines()
  expect_equal(done$value, sum(lines$net[lines$order_date >= "2026-01-01"], na.rm = TRUE))
  expect_equal(done$value_before, sum(lines$net[lines$order_date >= "2025-01-01" &
                                                lines$order_date <= "2025-09-16"], na.rm = TRUE))
})

test_that("refusals, one line, and every shape draws", {
  book <- small_book()
  expect_error(ll_trend(book, every = "mont"), "Nearest: 'month'", class = "ll_error_argument")
  expect_error(ll_trend(book, rolling = 1), "from 2 up", class = "ll_error_argument")
  expect_error(ll_trend(book, c(m = "change(revenue)")), "compares two periods",
               class = "ll_error_argument")
  expect_error(ll_trend(book, when = "2030"), "no dates in", class = "ll_error_data")
  expect_error(ll_trend(ll_book(small_lines()[c("rep", "net")], metrics = c(a = "sum(net)"))),
               "no date field", class = "ll_error_data")
  one <- ll_trend(ll_book(small_lines()[1, ], metrics = c(revenue = "sum(net)")))
  expect_equal(one$revenue, 10.1)
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  shapes <- list(one, ll_trend(demo_book(), c("revenue", "margin_rate", "orders", "days_to_ship")),
                 ll_trend(demo_book(), by = "territory"),
                 ll_trend(demo_book(), c("revenue", "orders"), indexed = TRUE),
                 ll_trend(demo_book(), by = "channel", indexed = TRUE, every = "week"),
                 ll_trend(demo_book(), c(last = "max(order_date)", n = "count()")))
  for (x in shapes) expect_silent(plot(x))
})

test_that("where no period is whole, the finding is against the same days a year before", {
  lines <- demo_lines()
  day <- as.Date(lines$order_date)
  asked <- list(c("2026-01-01", "2026-09-16", "this year to date", "year"),
                c("2026-08-01", "2026-08-31", "2026-08", "quarter"),
                c("2026-09-01", "2026-09-16", "2026-09", "month"),
                c("2025-02-03", "2025-02-20", "2025-02-03/2025-02-20", "month"),
                c("2024-02-03", "2024-02-20", "2024-02-03/2024-02-20", "month"))
  for (one in asked) {
    got <- ll_trend(demo_book(), "revenue", every = one[4], when = one[3])
    sum_over <- function(from, to) sum(lines$net[day >= from & day <= to], na.rm = TRUE)
    back <- function(d) as.Date(sub("^[0-9]{4}", as.integer(substr(d, 1, 4)) - 1, d))
    now <- sum_over(one[1], one[2])
    before <- sum_over(back(one[1]), back(one[2]))
    text <- function(x) format(round(x), big.mark = ",", trim = TRUE)
    expect_match(ll_finding(got), paste0(" was ", text(now)), fixed = TRUE, info = one[3])
    if (before > 0) {
      expect_match(ll_finding(got), sprintf("%.1f %% %s the same days a year before (%s).",
                                            100 * abs(now / before - 1),
                                            if (now > before) "above" else "below", text(before)),
                   fixed = TRUE)
    } else expect_match(ll_finding(got), "no whole month is covered")
    expect_false(any(grepl(text(now), ll_notes(got)$text[ll_notes(got)$kind == "to_date"],
                           fixed = TRUE)))
  }
})
