# Pareto: by hand, against SQL window functions and brute force, closed forms of concentration, and
# what is drawn.

pareto_book <- function(net, names = NULL, ...) {
  names <- if (is.null(names)) sprintf("n%02d", seq_along(net)) else names
  ll_book(data.frame(k = names, day = as.Date("2026-01-01"), net = net),
          fields = c(k = "dimension", net = "measure"), metrics = list(revenue = "sum(net)"), ...)
}

test_that("the one that crosses the cut is in, out, or on the nearer side", {
  # 50 30 15 5: running 50, 80, 95, 100 %.
  book <- pareto_book(c(15, 50, 5, 30))
  inside <- function(cut, ...) sum(ll_pareto(book, "k", cut = cut, ...)$inside == "yes")
  expect_equal(ll_pareto(book, "k")$k, c("n02", "n04", "n01", "n03"))
  expect_equal(ll_pareto(book, "k")$revenue_running_share, c(.5, .8, .95, 1))
  # Reached exactly: the next one does not come in.
  expect_equal(inside(.8), 2)
  expect_equal(c(inside(.81), inside(.81, crossing = "out"), inside(.81, crossing = "nearest"),
                 inside(.9, crossing = "nearest")), c(3, 2, 2, 3))
  # A first name larger than the cut leaves nobody only where asked.
  expect_equal(c(inside(.4), inside(.4, crossing = "out")), c(1, 0))
  out <- ll_pareto(book, "k", cut = .4, crossing = "out")
  expect_match(ll_finding(out), "^No k is inside the first 40 %: n02 alone brings 50.0 %")
  expect_match(paste(ll_notes(out)$text, collapse = " "), "n02 alone is more than the first cut")
  expect_equal(c(inside("50 %", of = "names"), inside(60, of = "names"),
                 inside(60, of = "names", crossing = "out")), c(2, 3, 2))
  abc <- ll_pareto(book, "k", cut = c(.95, .5))
  expect_identical(abc$class, c("A", "B", "B", "C"))
  expect_equal(ll_part(abc, "classes")$value, c(50, 45, 5))
  expect_true(all(ll_proof(abc)$holds))
})

test_that("running totals and classes are those of SQL window functions", {
  con <- local_sqlite()
  for (seed in some_of(1:8, 3)) {
    lines <- random_lines(seed, 400)
    lines$net <- abs(lines$net)
    lines$k <- withr::with_seed(seed, sample(sprintf("c%02d", 1:40), 400, TRUE))
    DBI::dbWriteTable(con, "lines", data.frame(k = lines$k, net = round(lines$net * 100)),
                      overwrite = TRUE)
    want <- DBI::dbGetQuery(con, "
      WITH t AS (SELECT k, SUM(net) AS v FROM lines GROUP BY k),
           r AS (SELECT k, v, RANK() OVER (ORDER BY v DESC) AS rank,
                        SUM(v) OVER (ORDER BY v DESC RANGE UNBOUNDED PRECEDING) AS upto,
                        SUM(v) OVER (ORDER BY v DESC, k ROWS UNBOUNDED PRECEDING) AS running,
                        SUM(v) OVER () AS whole FROM t)
      SELECT k, rank, v / 100.0 AS v, running / 100.0 AS running,
             CASE WHEN upto - v * COUNT(*) OVER (PARTITION BY v) >= .7 * whole
                  THEN 'no' ELSE 'yes' END AS inside
      FROM r ORDER BY v DESC, k")
    book <- ll_book(lines, fields = c(order_no = "identifier", k = "dimension"),
                    metrics = list(revenue = "sum(net)"))
    got <- as.data.frame(ll_pareto(book, "k", cut = .7))
    expect_identical(got$k, want$k)
    expect_equal(got$rank, want$rank)
    expect_equal(got$revenue_running_total, want$running)
    expect_identical(got$inside, want$inside)
    mixed <- ll_book(lines[withr::with_seed(1, sample(400)), ],
                     fields = c(order_no = "identifier", k = "dimension"),
                     metrics = list(revenue = "sum(net)"))
    expect_identical(as.data.frame(ll_pareto(mixed, "k", cut = .7)), got)
  }
})

test_that("tied names stay together, by brute force over every rule", {
  inside_counts <- internal("inside_counts")
  for (seed in some_of(1:60, 4)) withr::with_seed(seed, {
    value <- sort(sample(c(-3, 0:6), sample(1:9, 1), TRUE), decreasing = TRUE)
    cut <- sample(c(.1, .3, .5, .75, .9, 1), 1)
    positive <- sum(pmax(value, 0))
    for (of in c("total", "names")) for (crossing in c("in", "out", "nearest")) {
      got <- seq_along(value) <= inside_counts(value, cut, of, crossing)
      expect_identical(inside_counts(value, cut, of, crossing, exact = FALSE),
                       inside_counts(value, cut, of, crossing))
      upto <- vapply(value, function(v) if (of == "names") mean(value >= v) else
                     sum(pmax(value[value >= v], 0)) / positive, 0)
      before <- vapply(value, function(v) if (of == "names") mean(value > v) else
                       sum(pmax(value[value > v], 0)) / positive, 0)
      tiny <- 1e-9
      want <- upto <= cut + tiny | before < cut - tiny &
        switch(crossing, `in` = TRUE, out = FALSE, nearest = upto - cut <= cut - before)
      if (of == "total") want <- want & value > 0
      expect_identical(got, ifelse(is.na(want), FALSE, want), info = paste(seed, of, crossing))
    }
  })
  # A tie at the edge in the demo's way: said, and kept together.
  tied <- ll_pareto(pareto_book(c(40, 20, 20, 20)), "k", cut = .6)
  expect_equal(sum(tied$inside == "yes"), 4)
  expect_match(paste(ll_notes(tied)$text, collapse = " "),
               "n02, n03 and n04 tie at 20.00 where the cut at 60 % falls")
})

test_that("concentration has its closed forms, and none with negatives", {
  concentration <- internal("concentration")
  # All alike; one has all; 1 to n: Gini (n - 1) / (3 n), Herfindahl 2 (2 n + 1) / (3 n (n + 1)).
  expect_equal(unname(concentration(rep(4, 10))), c(0, .1, 10, 5))
  expect_equal(unname(concentration(c(0, 0, 0, 7))), c(.75, 1, 1, 1))
  n <- 25
  expect_equal(unname(concentration(as.numeric(1:n)))[1:2],
               c((n - 1) / (3 * n), 2 * (2 * n + 1) / (3 * n * (n + 1))))
  x <- withr::with_seed(3, rexp(80))
  expect_equal(concentration(x)[["gini"]], sum(abs(outer(x, x, "-"))) / (2 * 80^2 * mean(x)))
  loss <- ll_pareto(pareto_book(c(10, -4, 6)), "k", cut = c(.5, .9))
  expect_true(all(is.na(ll_part(loss, "concentration")$value)))
  expect_identical(loss$class, c("A", "B", "below zero"))
  expect_equal(loss$revenue_running_share, c(.625, 1, 1))
  expect_match(paste(ll_notes(loss)$text, collapse = " "),
               "1 value of k is below zero \\(-4.00 in all\\)")
})

test_that("against another period: classes then and now, names that came and left", {
  lines <- data.frame(k = c("a", "b", "c", "a", "b", "d"),
                      day = as.Date(c("2025-03-01", "2025-03-02", "2025-03-03", "2026-03-01",
                                      "2026-03-02", "2026-03-03")), net = c(80, 15, 5, 10, 70, 20))
  book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(revenue = "sum(net)"))
  got <- ll_pareto(book, "k", cut = .75, when = "2026-03", against = "year before")
  expect_identical(got$inside, c("yes", "yes", "no"))
  expect_identical(got$inside_before, c("no", "no lines", "yes"))
  moves <- ll_part(got, "moves")
  expect_equal(sum(moves$names), 4)
  expect_equal(moves$names[moves$class_before == "no" & moves$class == "no lines"], 1)
  expect_match(paste(ll_notes(got)$text, collapse = " "), "Moved: ")
  expect_true(all(ll_proof(got)$holds))
})

test_that("the demo ties out; nothing, one name, all equal, all negative, all missing; refusals", {
  got <- ll_pareto(demo_book(), "account")
  lines <- demo_lines()
  value <- sort(as.vector(tapply(lines$net, lines$account, sum, na.rm = TRUE)), decreasing = TRUE)
  expect_equal(sum(got$inside == "yes"), which(cumsum(value) / sum(value) >= .8)[1])
  expect_true(all(ll_proof(got)$holds))
  shapes <- list(got, ll_pareto(demo_book(), c("rep", "territory"), cut = "80,95"),
                 ll_pareto(pareto_book(5), "k"), ll_pareto(pareto_book(rep(2, 6)), "k"),
                 ll_pareto(pareto_book(c(-1, -2)), "k"),
                 ll_pareto(pareto_book(c(NA, NA, 4)), "k", where = "k != \"n03\""),
                 ll_pareto(small_book(), "rep", when = "2030"))
  expect_sound(shapes)
  expect_match(ll_finding(shapes[[5]]), "no share to cut")
  expect_equal(shapes[[4]]$inside, rep("yes", 6))
  book <- small_book()
  for (bad in list(0, 101, "x", -.5)) expect_error(ll_pareto(book, "rep", cut = bad),
                                                   "above 0 and up to 100 %",
                                                   class = "ll_error_argument")
  expect_error(ll_pareto(book, "rep", metrics = "average"), "adds up", class = "ll_error_argument")
  expect_error(ll_pareto(book, "rep", metrics = c("revenue", "orders")), "one metric",
               class = "ll_error_argument")
})
