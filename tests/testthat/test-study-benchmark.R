# Benchmark: by hand and against base R, pooled rates, plans with periods, lines under a filter, odd
# books.

bench_book <- function(net, cost = rep(1, length(net)), ...) {
  ll_book(data.frame(k = sprintf("n%02d", seq_along(net)), day = as.Date("2026-01-10"), net = net,
                     cost = cost, area = c("x", "y")),
          fields = c(k = "dimension", net = "measure", cost = "measure"),
          metrics = list(revenue = "sum(net)", rate = "sum(cost) / revenue",
                         slow = list(is = "sum(cost)", better = "low")), ...)
}

test_that("every line by hand", {
  book <- bench_book(c(100, 80, 80, 40, 10, -5))
  ask <- function(...) ll_benchmark(book, "k", ...)
  line <- function(x) ll_settings(x)$benchmark
  # A tie at rank 2: three names are the best two.
  got <- ask(best = 2)
  expect_equal(line(got), 260 / 3)
  expect_equal(got$of_benchmark, c(100, 80, 80, 40, 10, -5) / (260 / 3))
  expect_identical(got$band, c("100 % and above", "80 to 100 %", "80 to 100 %", "below 50 %",
                               "below 50 %", "below 50 %"))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "A tie at rank 2: the target is made of 3 names")
  expect_equal(line(ask(best = 2, level = "median")), 80)
  expect_equal(line(ask(best = 2, level = "lowest")), 80)
  expect_equal(line(ask(fixed = 50)), 50)
  expect_equal(ask(fixed = "50")$to_benchmark, 50 - c(100, 80, 80, 40, 10, -5))
  expect_equal(line(ask(percentile = 75)), unname(quantile(c(100, 80, 80, 40, 10, -5), .75)))
  expect_identical(ask(fixed = 80, bands = "100%,120%")$band,
                   c("120 % and above", rep("100 to 120 %", 2), rep("below 100 %", 3)))
  expect_equal(ll_part(got, "bands")$names, c(1, 2, 0, 3))
  # On the target to the cent, or a hair beside it in the computer's fractions, is reached.
  tenths <- ll_book(data.frame(k = c("a", "a", "a", "b"), net = c(.1, .1, .1, .3)),
                    fields = c(k = "dimension"), metrics = list(revenue = "sum(net)"))
  expect_true(all(ll_benchmark(tenths, "k", best = 1)$band == "100 % and above"))
})

test_that("where less is better the target is the lowest and the share is turned", {
  book <- bench_book(rep(1, 4), c(2, 4, 8, 0))
  got <- ll_benchmark(book, "k", "slow", best = 2)
  expect_identical(got$k, c("n04", "n01", "n02", "n03"))
  expect_equal(ll_settings(got)$benchmark, 1)
  expect_equal(got$of_benchmark, c(NA, .5, .25, .125))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "there is no percentage: 1 value of k")
})

test_that("for a rate the best are pooled, and the target follows the filter", {
  for (seed in some_of(1:5, 3)) {
    lines <- random_lines(seed, 300)
    book <- ll_book(lines, fields = c(order_no = "identifier"),
                    metrics = list(revenue = "sum(net)", price = "revenue / sum(qty)"))
    got <- ll_benchmark(book, "order_no", "price", best = 4, where = "area == \"x\"")
    # A quotient is of the lines that have both.
    mine <- lines[lines$area %in% "x" & !is.na(lines$net) & !is.na(lines$qty), ]
    parts <- lapply(split(mine, mine$order_no), function(d) c(if (all(is.na(d$net))) NA else
                                                              sum(d$net, na.rm = TRUE),
                                                              if (all(is.na(d$qty))) NA else
                                                              sum(d$qty, na.rm = TRUE)))
    rate <- vapply(parts, function(p) if (is.na(p[2]) || p[2] == 0) NA else p[1] / p[2], 0)
    top <- names(rate)[!is.na(rate) & rate >= sort(rate, decreasing = TRUE)[4]]
    want <- sum(mine$net[mine$order_no %in% top], na.rm = TRUE) /
      sum(mine$qty[mine$order_no %in% top], na.rm = TRUE)
    expect_equal(ll_settings(got)$benchmark, want)
    expect_setequal(ll_part(got, "best")$order_no, top)
    expect_true(all(ll_proof(got)$holds))
  }
  pairs <- ll_benchmark(demo_book(), c("rep", "territory"), "margin_rate", best = 3,
                        min_orders = 20)
  lines <- demo_lines()
  best <- ll_part(pairs, "best")
  inside <- paste(lines$rep, lines$territory) %in% paste(best$rep, best$territory)
  expect_equal(ll_settings(pairs)$benchmark, 1 - sum(lines$cost[inside]) /
               sum(lines$net[inside], na.rm = TRUE), tolerance = 1e-3)
})

test_that("plans from the register, from tables with periods, and who has none", {
  book <- demo_book()
  got <- ll_benchmark(book, "rep", plan = "quota", when = "2025")
  reps <- utils::read.csv(demo_path("reps.csv"))
  expect_equal(got$benchmark, as.numeric(reps$quota[match(got$rep, reps$rep)]))
  expect_equal(got$of_benchmark, got$revenue / got$benchmark)
  expect_true(all(reps$rep %in% got$rep))
  said <- paste(ll_notes(got)$text, collapse = " ")
  expect_match(said, "1 rep without a plan: tamsin  ?orrell")
  expect_match(said, "2 reps with a plan and without lines")
  small <- small_book(fields = c(rep = "dimension"))
  plan <- data.frame(rep = c("Ida", "Ida", "Tom", "Zoe", "Ida"),
                     period = c("2026-01", "2026-02", "2026-Q1", "2026-01", "2025-01"),
                     amount = c(20, 30, 90, 5, 7))
  by <- ll_benchmark(small, "rep", plan = plan, when = "2026-01-01/2026-02-28")
  # A quarter of 90 days, 59 of them inside.
  expect_equal(by$benchmark[match(c("Ida", "Tom", "Zoe", "Uma"), by$rep)], c(50, 59, 5, NA))
  expect_equal(by$revenue[by$rep == "Zoe"], 0)
  said <- paste(ll_notes(by)$text, collapse = " ")
  expect_match(said, "1 row of the plan lies outside the period")
  expect_match(said, "count by their days")
  file <- write_text("rep,amount", "Ida,\"1,000.00\"", "Tom,50")
  expect_equal(ll_benchmark(small, "rep", plan = file)$benchmark,
               c(50, 1000, NA)[match(ll_benchmark(small, "rep", plan = file)$rep,
                                     c("Tom", "Ida", "Uma"))])
  for (x in list(got, by)) expect_true(all(ll_proof(x)$holds))
})

test_that("odd books, refusals, and what is drawn", {
  book <- demo_book()
  shapes <- list(ll_benchmark(book, "rep", when = "2026"),
                 ll_benchmark(book, "rep", plan = "quota"),
                 ll_benchmark(book, "account", percentile = 90),
                 ll_benchmark(bench_book(c(5, 5)), "k"), ll_benchmark(bench_book(c(-5, -6)), "k"),
                 ll_benchmark(bench_book(c(NA, 4)), "k", where = "k == \"n01\""),
                 ll_benchmark(bench_book(c(2, 2, 2, 2)), "k", "rate"),
                 ll_benchmark(bench_book(c(2, 2)), "k", fixed = 0),
                 ll_benchmark(small_book(), "rep", when = "2030"))
  expect_sound(shapes)
  refused <- function(text, ...,
                      class = "ll_error_argument") expect_error(ll_benchmark(book, "rep", ...),
                                                                text, class = class)
  refused("One target at a time: 'best' and 'fixed'", best = 2, fixed = 4)
  refused("has no field called 'qouta'.*", plan = "qouta", class = "ll_error_word")
  refused("holds no numbers", plan = "team")
  refused("needs a column 'amount'", plan = data.frame(rep = "a", value = 1))
  refused("Row 2 of the plan has no number", plan = data.frame(rep = c("a", "b"),
                                                               amount = c("1", "x")))
  by_period <- withr::local_tempfile(fileext = ".csv", lines = c("rep,period,amount",
                                                                 "Ida,2026-01,1"))
  refused("'margin_rate' does not", metrics = "margin_rate", plan = by_period)
  refused("must be shares above 0", bands = "0%")
  refused("whole number from 1", best = 0)
  refused("from 0 to 100", percentile = 101)
})
