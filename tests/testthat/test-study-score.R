# Score: scalings by hand, contributions, random weights against brute force, bad input, pictures.

score_book <- function(table) {
  names <- setdiff(names(table), "k")
  ll_book(table, fields = c(k = "dimension"),
          metrics = stats::setNames(lapply(names, function(n) paste0("sum(", n, ")")),
                                    paste0(names, "_sum")))
}
abc <- function() data.frame(k = letters[1:4], rev = c(100, 50, 50, 0), late = c(8, 2, 4, 2))

test_that("scalings, directions and weights by hand; points add to the score", {
  book <- score_book(abc())
  ask <- function(...) {
    x <- ll_score(book, "k", c("rev_sum", "late_sum"), low = "late_sum", draws = 0, ...)
    as.data.frame(x)[match(letters[1:4], x$k), ]
  }
  expect_equal(ask(weights = c(3, 1))$score, 100 * (.75 * c(.875, .5, .5, .125) + .25 *
                                                    c(.125, .75, .375, .75)))
  expect_equal(ask(scaling = "range")$score, 50 * (c(1, .5, .5, 0) + c(0, 1, 2 / 3, 1)))
  z <- function(x) (x - mean(x)) / sd(x)
  expect_equal(ask(scaling = "z", weights = "late_sum=1,rev_sum=1")$score,
               (z(abc()$rev) - z(abc()$late)) / 2)
  expect_equal(ask(scaling = "best")$score, 50 * (c(1, .5, .5, 0) + c(.25, 1, .5, 1)))
  expect_equal(ask(scaling = "goal", goals = c(80, 4), cap = 1)$score,
               50 * (c(1, .625, .625, 0) + c(.5, 1, 1, 1)))
  expect_equal(ask(scaling = "goal", goals = "rev_sum=80,late_sum=4", cap = 3)$score,
               50 * (c(1.25, .625, .625, 0) + c(.5, 2, 1, 2)))
  expect_equal(ask(combine = "product", weights = c(3, 1))$score,
               100 * c(.875, .5, .5, .125)^.75 * c(.125, .75, .375, .75)^.25)
  clipped <- ll_score(book, "k", c("rev_sum", "late_sum"), scaling = "range", clip = "25%,75%",
                      draws = 0)
  rev <- pmin(pmax(abc()$rev, quantile(abc()$rev, .25)), quantile(abc()$rev, .75))
  expect_equal(ll_part(clipped, "scaled")$rev_sum[match(letters[1:4], clipped$k)],
               unname((rev - min(rev)) / diff(range(rev))))
  expect_equal(ll_part(clipped, "weights")$clipped, c(2, 1))
  for (scaling in c("rank", "range", "z", "best")) {
    got <- ask(scaling = scaling, weights = c(.3, .7))
    expect_equal(got$rev_sum_points + got$late_sum_points, got$score)
  }
  same <- score_book(data.frame(k = letters[1:3], a = 5, b = 1:3))
  flat <- ll_score(same, "k", c("a_sum", "b_sum"), scaling = "range")
  expect_equal(ll_part(flat, "scaled")$a_sum, rep(.5, 3))
  expect_match(paste(ll_notes(flat)$text, collapse = " "),
               "A sum is the same for all and decides nothing")
})

test_that("a missing value drops, is worst, or its weight goes to the others", {
  lines <- data.frame(k = c("a", "b", "c", "d"), x = c(1, 2, 3, 4), y = c(4, NA, 2, 0))
  book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(x_sum = "sum(x)",
                                                                     y_sum = "sum(y)"))
  ask <- function(missing) {
    got <- ll_score(book, "k", c("x_sum", "y_sum"), scaling = "range", missing = missing,
                    draws = 50)
    expect_true(all(ll_proof(got)$holds))
    got$score[match(letters[1:4], got$k)]
  }
  expect_equal(ask("drop"), c(50, NA, 50 * (2 / 3 + .5), 50))
  expect_equal(ask("worst"), c(50, 50 / 3, 50 * (2 / 3 + .5), 50))
  expect_equal(ask("reweight"), c(50, 100 / 3, 50 * (2 / 3 + .5), 50))
})

test_that("ranks under random weights are those of brute force; seeds and threads do not matter", {
  table <- withr::with_seed(5, data.frame(k = sprintf("n%03d", 1:300), a = round(rlnorm(300, 3), 2),
                                          b = round(rnorm(300, 50, 9), 2),
                                          c = sample(20, 300, TRUE)))
  book <- score_book(table)
  got <- ll_score(book, "k", c("a_sum", "b_sum", "c_sum"), weights = c(2, 1, 1), draws = 4000,
                  in_top = 5, seed = 3)
  scaled <- as.matrix(ll_part(got, "scaled")[-1])
  ranks <- withr::with_seed(9, replicate(4000, {
    w <- rgamma(3, 20 * c(.5, .25, .25))
    rank(-(scaled %*% w), ties.method = "min")
  }))
  want <- apply(ranks, 1, quantile, c(.05, .95), type = 1)
  # Two samples of 4,000 draws: quantiles of ranks within a few ranks of each other.
  expect_lt(mean(abs(got$rank_p5 - want[1, ])), 2)
  expect_lt(mean(abs(got$rank_p95 - want[2, ])), 2)
  expect_lt(max(abs(got$in_top - rowMeans(ranks <= 5))), .04)
  again <- ll_score(book, "k", c("a_sum", "b_sum", "c_sum"), weights = c(2, 1, 1), draws = 4000,
                    in_top = 5, seed = 3)
  expect_identical(again$rank_p95, got$rank_p95)
  one <- withr::with_options(list(longladder.threads = 1),
                             ll_score(book, "k", c("a_sum", "b_sum", "c_sum"), weights = c(2, 1, 1),
                                      draws = 4000, in_top = 5, seed = 3))
  expect_identical(as.data.frame(one), as.data.frame(got))
  expect_false(identical(ll_score(book, "k", c("a_sum", "b_sum", "c_sum"), seed = 4)$in_top,
                         got$in_top))
  # A weight of nothing stays nothing; firm weights leave no range.
  firm <- ll_score(book, "k", c("a_sum", "b_sum"), weights = c(1, 0), draws = 200)
  expect_identical(firm$rank_p5[1:200], firm$rank[1:200])
  expect_identical(firm$rank_p95[1:200], firm$rank[1:200])
  # The spread of the weights themselves: Dirichlet moments, through a score that is the weight.
  kernel <- internal("kernel_weight_draws")
  share <- kernel(diag(2), c(5, 15), 20000, 1, 1, .05, .95)$inside[1]
  expect_equal(share, pbeta(.5, 5, 15, lower.tail = FALSE), tolerance = .35)
})

test_that("names not dominated, ranks without a metric and correlations are those of brute force", {
  for (seed in some_of(1:6, 3)) {
    table <- withr::with_seed(seed, data.frame(k = sprintf("n%02d", 1:40), a = sample(30, 40, TRUE),
                                               b = sample(30, 40, TRUE), c = sample(30, 40, TRUE)))
    book <- score_book(table)
    got <- ll_score(book, "k", c("a_sum", "b_sum", "c_sum"), weights = c(1, 2, 3), draws = 0)
    x <- as.matrix(table[match(got$k, table$k), 2:4])
    dominated <- vapply(1:40, function(i) {
      any(colSums(t(x) >= x[i, ]) == 3 & colSums(t(x) > x[i, ]) > 0)
    }, NA)
    expect_identical(got$not_dominated, ifelse(dominated, "no", "yes"))
    scaled <- as.matrix(ll_part(got, "scaled")[-1])
    without <- ll_part(got, "without")
    expect_equal(without$b_sum, rank(-round(scaled[, c(1, 3)] %*% c(.25, .75), 12),
                                     ties.method = "min"))
    expect_equal(ll_part(got, "correlations")$correlation[1],
                 cor(x[, 1], x[, 2], method = "spearman"))
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("ranks beyond two hundred are kept to a hundredth", {
  kernel <- internal("kernel_rank_ranges")
  n <- 5000
  out <- kernel(matrix(rep(-seq_len(n), 3), n), .05, .95)
  expect_identical(out$low[1:200], as.numeric(1:200))
  expect_lt(max(abs(out$low - seq_len(n)) / seq_len(n)), .0101)
})

test_that("the demo ties out, odd books, refusals, and what is drawn", {
  book <- demo_book()
  got <- ll_score(book, "rep", c("revenue", "margin_rate", "orders"), weights = c(3, 2, 1),
                  when = "2025")
  value <- ll_standings(book, "rep", "revenue", when = "2025")
  expect_equal(got$revenue, value$revenue[match(got$rep, value$rep)])
  shapes <- list(got, ll_score(book, "account", c("revenue", "days_to_ship"), scaling = "z"),
                 ll_score(book, c("rep", "territory"), c("revenue", "margin_rate"),
                          missing = "reweight"), ll_score(score_book(abc()[1, ]), "k",
                                                          c("rev_sum", "late_sum")),
                 ll_score(score_book(transform(abc(), rev = 1, late = 1)), "k",
                          c("rev_sum", "late_sum")), ll_score(book, "rep", c("revenue", "orders"),
                                                              combine = "product"),
                 ll_score(book, "rep", c("revenue", "orders"), min_orders = 1e6),
                 ll_score(small_book(), "rep", c("revenue", "orders"), when = "2030"))
  expect_sound(shapes)
  refused <- function(text, ..., class = "ll_error_argument") {
    expect_error(ll_score(book, "rep", c("revenue", "margin_rate"), ...), text, class = class)
  }
  refused("weights are all 0", weights = c(0, 0))
  refused("may not be negative: margin_rate has -1", weights = c(1, -1))
  refused("must be 2 numbers", weights = 1)
  refused("says nothing of 'margin_rate'", weights = c(revenue = 1))
  refused("not among the metrics", weights = c(revenue = 1, margin = 2), class = "ll_error_word")
  refused("'scaling' must be", scaling = "zscore")
  refused("needs 'goals'", scaling = "goal")
  refused("Goals must be above zero", scaling = "goal", goals = c(0, 1))
  refused("A product needs values above zero, and 'z'", scaling = "z", combine = "product")
  refused("two percentiles", clip = "5%")
  refused("from 0 to 65000", draws = 1e6)
  expect_error(ll_score(book, "rep", "revenue"), "two or more", class = "ll_error_argument")
  negative <- score_book(transform(abc(), rev = -rev - 1))
  expect_error(ll_score(negative, "k", c("rev_sum", "late_sum"), scaling = "best"),
               "a value of 'rev_sum' above zero", class = "ll_error_data")
  expect_error(ll_score(score_book(abc()), "k", c("rev_sum", "late_sum"), scaling = "best",
                        combine = "product"), "'rev_sum' has 1 value that is not",
               class = "ll_error_data")
})
