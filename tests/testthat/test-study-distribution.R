# Distribution: by hand, against cut() and base R, bounds, and what is drawn.

test_that("a small book by hand, bounds included", {
  got <- ll_distribution(small_book(), "rep", "revenue", width = 5)
  # Ida 30.40, Uma 35.20, Tom 35.30; the line without a rep lies in no band.
  expect_equal(got$from, c(30, 35))
  expect_equal(got$count, c(1, 2))
  expect_equal(got$revenue, c(30.4, 70.5))
  expect_equal(got$revenue_share, c(30.4, 70.5) / 100.9)
  expect_true(all(ll_proof(got)$holds))
  edge <- ll_book(data.frame(k = letters[1:4], day = as.Date("2026-01-01"),
                             net = c(0, 10, 9.99, 20)),
                  fields = c(k = "dimension"), metrics = c(revenue = "sum(net)"))
  expect_equal(ll_distribution(edge, "k", width = 10)$count, c(2, 1, 1))
})

test_that("bands agree with cut() on random values, lines and names, and lose nothing", {
  for (seed in some_of(1:12, 3)) {
    lines <- random_lines(seed, 150)
    book <- ll_book(lines, fields = c(order_no = "identifier", net = "measure"),
                    metrics = c(revenue = "sum(net)"))
    for (each in list(NULL, "order_no")) {
      got <- ll_distribution(book, each)
      value <- if (is.null(each)) lines$net[!is.na(lines$net)] else {
        v <- tapply(lines$net, lines$order_no, function(x) if (all(is.na(x))) NA else
                    sum(x, na.rm = TRUE))
        as.vector(v[!is.na(v)])
      }
      expect_equal(sum(got$count), length(value))
      inner <- got[!is.na(got$from) & !is.na(got$to), ]
      want <- table(cut(round(value, 6), c(inner$from, max(inner$to)), right = FALSE))
      expect_equal(inner$count, as.vector(want), info = paste(seed, each))
      expect_equal(sum(got$revenue), sum(value))
      expect_true(0 %in% c(got$from, got$to) || all(value > 0) || all(value < 0))
      expect_lte(nrow(got), 62)
      expect_true(all(ll_proof(got)$holds))
    }
  }
})

test_that("the proposed width is Freedman and Diaconis' made round; fallbacks are stated", {
  value_bounds <- function(x) internal("value_bounds")(sort(x))
  withr::local_seed(1)
  for (x in list(rnorm(500, 50, 9), runif(80), rexp(2000) * 1e6, rnorm(30) * 1e-4)) {
    width <- value_bounds(x)$width
    ideal <- 2 * IQR(x) / length(x)^(1 / 3)
    digits <- signif(width / 10^floor(log10(width) + 1e-9), 6)
    expect_true(digits %in% c(1, 2, 2.5, 5))
    expect_gte(width / ideal, .6)
  }
  # Quartiles coincide: the range by twenty, round. All equal: one band. Long range: open ends.
  expect_equal(value_bounds(c(rep(5, 90), 1, 105.5))$width, 5)
  expect_equal(length(value_bounds(rep(7.5, 10))$at), 2)
  long <- value_bounds(c(rnorm(1000), 1e6, -1e6))
  expect_true(long$low && long$high)
  expect_lte(length(long$at), 61)
  expect_equal(value_bounds(c(1:50, 3, 3))$width %% 1, 0)
})

test_that("the summary is base R's", {
  x <- ll_part(ll_distribution(demo_book(), "account", "revenue"), "summary")
  lines <- demo_lines()
  v <- as.vector(tapply(lines$net, lines$account, sum, na.rm = TRUE))
  q <- quantile(v, c(.25, .75))
  expect_equal(c(x$mean, x$median, x$deviation, x$p10), c(mean(v), median(v), sd(v),
                                                          quantile(v, .1, names = FALSE)))
  expect_equal(x$beyond_fences, sum(v < q[1] - 1.5 * diff(q) | v > q[2] + 1.5 * diff(q)))
  expect_equal(x$skewness, mean((v - mean(v))^3) / mean((v - mean(v))^2)^1.5)
})

test_that("groups stand apart, losses too; refusals; every shape draws", {
  got <- ll_distribution(demo_book(), "order_no", "revenue", by = "channel", when = "2026")
  expect_equal(sum(got$count), sum(ll_part(got, "summary")$count))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "orders lie below zero")
  expect_true(all(ll_proof(got)$holds))
  book <- small_book()
  expect_error(ll_distribution(book, width = 0), "above zero", class = "ll_error_argument")
  expect_error(ll_distribution(book, metrics = c("revenue", "orders")), "one metric",
               class = "ll_error_argument")
  expect_error(ll_distribution(book, metrics = "average"), "Say what to count",
               class = "ll_error_argument")
  expect_error(ll_distribution(book, "reps"), "Nearest: 'rep'", class = "ll_error_word")
  expect_equal(nrow(ll_distribution(book, "rep", when = "2030")), 0)
  expect_equal(ll_distribution(book, "rep", width = 1e6)$count, 3)
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (x in list(got, ll_distribution(demo_book()), ll_distribution(book, "rep", when = "2030"),
                 ll_distribution(demo_book(), "account", "margin_rate"),
                 ll_distribution(book, "rep", "orders"))) expect_silent(plot(x))
})
