# Total against base R, and what it says.

test_that("totals and what they were before are those of base R", {
  book <- demo_book()
  lines <- read.csv(demo_path("order_lines.csv"))
  day <- as.Date(lines$order_date)
  of <- function(from, to, moor = FALSE) {
    x <- lines[day >= as.Date(from) & day <= as.Date(to) & (!moor | lines$territory %in% "Moor"), ]
    c(revenue = sum(x$net, na.rm = TRUE), orders = length(unique(x$order_no)))
  }
  x <- ll_total(book, c("revenue", "orders"), when = "2025")
  now <- of("2025-01-01", "2025-12-31")
  before <- of("2024-01-01", "2024-12-31")
  expect_equal(stats::setNames(x$value, x$metric), now)
  expect_equal(x$before, unname(before))
  expect_equal(x$growth, unname(now / before - 1))
  expect_equal(x$change, unname(now - before))
  expect_true(all(ll_proof(x)$holds))
  expect_identical(ll_finding(x), paste0(
    "In 2025, against 2024: revenue was 3,204,518, 2.6 % above the 3,122,998 before; orders ",
    "5,783, 6.6 % above the 5,427 before."))
  moor <- ll_total(book, when = "2026-Q2", where = "territory == \"Moor\"", against = "previous")
  expect_equal(c(moor$value, moor$before),
               unname(c(of("2026-04-01", "2026-06-30", TRUE)[1],
                        of("2026-01-01", "2026-03-31", TRUE)[1])))
})

test_that("without a period, or a year before, there is nothing beside it", {
  book <- demo_book()
  expect_named(as.data.frame(ll_total(book)), c("metric", "value", "unit"))
  expect_named(as.data.frame(ll_total(book, when = "2024")), c("metric", "value", "unit"))
  rate <- ll_total(book, "margin_rate", when = "2025")
  expect_identical(rate$change_unit, "points")
  expect_identical(rate$growth, NA_real_)
  expect_match(format(rate), "^margin_rate +41.3 % +41.1 % +0.1 points +-$", all = FALSE)
  expect_identical(ll_finding(ll_total(book, where = "quantity > 1e6")),
                   "Where quantity above 1000000: no line meets these conditions.")
  rise <- ll_total(book, c(rise = "growth(revenue)"), when = "2025")
  expect_equal(rise$value, ll_total(book, when = "2025")$growth)
  # The lines behind the one row are all that were asked for.
  expect_match(ll_finding(ll_detail(ll_total(book, when = "2025"), row = 1)), "14,[0-9]+ lines")
})

test_that("undated lines and empty periods are told", {
  lines <- small_lines()
  lines$day <- NULL
  expect_identical(nrow(ll_total(ll_book(lines, metrics = c(sold = "sum(net)")))), 1L)
  expect_identical(ll_finding(ll_total(demo_book(), when = "2031")),
                   "In 2031: no line meets these conditions.")
})
