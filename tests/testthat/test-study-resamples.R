# Ranks under resampled orders: the resampling itself, ranges against brute force, coverage,
# refusals.

certain_lines <- function(seed, orders = 40, names = 8) {
  withr::with_seed(seed, {
    k <- rep(sprintf("n%d", seq_len(names)), each = orders)
    data.frame(order_no = sprintf("o%04d", seq_along(k)), k = k,
               net = round(rlnorm(length(k), 3 + .1 * match(k, unique(k)), .8), 2),
               qty = sample(5, length(k), TRUE))
  })
}
certain_book <- function(lines, ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension"), order = "order_no",
          metrics = list(revenue = "sum(net)", price = "revenue / sum(qty)",
                         average = "revenue / distinct(order_no)", orders = "distinct(order_no)",
                         middle = "median(net)"), ...)
}

test_that("each unit counts a Poisson number of times of mean one, the same for all its cells", {
  kernel <- internal("kernel_resample")
  counts <- matrix(kernel(matrix(1, 200), 0:199, 0:199, 200, 200, 0, 400, 1)[, 1], 200)
  expect_equal(mean(counts), 1, tolerance = .02)
  expect_equal(var(as.vector(counts)), 1, tolerance = .03)
  expect_equal(as.vector(table(pmin(counts, 4))) / length(counts),
               c(dpois(0:3, 1), ppois(3, 1, lower.tail = FALSE)), tolerance = .03)
  # Two names share a unit: they rise and fall together.
  shared <- kernel(matrix(c(1, 5)), 0:1, c(0L, 0L), 2, 1, 0, 50, 2)[, 1]
  expect_equal(shared[c(FALSE, TRUE)], 5 * shared[c(TRUE, FALSE)])
  # Blocks of resamples are those of one long run.
  whole <- kernel(matrix(1, 20), 0:19, 0:19, 20, 20, 0, 30, 7)
  expect_identical(whole[201:600, ], kernel(matrix(1, 20), 0:19, 0:19, 20, 20, 10, 20, 7))
})

test_that("ranges of ranks are those of a resampling by hand, for sums, rates and averages", {
  lines <- certain_lines(1)
  book <- certain_book(lines)
  for (metric in c("revenue", "price", "average")) {
    got <- ll_standings(book, "k", metric, resamples = 4000, seed = 5)
    ranks <- withr::with_seed(8, replicate(2000, {
      w <- rpois(nrow(lines), 1)
      top <- rowsum(w * lines$net, lines$k)[, 1]
      value <- switch(metric, revenue = top, price = top / rowsum(w * lines$qty, lines$k)[, 1],
                      average = top / rowsum(w, lines$k)[, 1])
      rank(-value[got$k], ties.method = "min")
    }))
    want <- apply(ranks, 1, quantile, c(.05, .95), type = 1)
    expect_lte(max(abs(got$resampled_from - want[1, ])), 1)
    expect_lte(max(abs(got$resampled_to - want[2, ])), 1)
    ahead <- vapply(1:7, function(i) mean(ranks[i, ] < ranks[i + 1, ]), 0)
    expect_lt(max(abs(got$ahead_of_next[1:7] - ahead)), .05)
    expect_true(is.na(got$ahead_of_next[8]))
    expect_identical(as.data.frame(got)[names(ll_standings(book, "k", metric))],
                     as.data.frame(ll_standings(book, "k", metric)))
    expect_identical(ll_standings(book, "k", metric, resamples = 4000, seed = 5)$resampled_to,
                     got$resampled_to)
  }
})

test_that("the range holds the true rank about as often as the reference says", {
  held <- vapply(1:40, function(seed) {
    level <- withr::with_seed(seed, exp(rnorm(20, 0, .5)))
    lines <- withr::with_seed(seed + 500, {
      k <- rep(sprintf("n%02d", 1:20), pmax(rpois(20, 30), 12))
      data.frame(order_no = sprintf("o%d", seq_along(k)), k = k,
                 net = round(100 * level[match(k, sprintf("n%02d", 1:20))] *
                             rlnorm(length(k), -.245, .7), 2), qty = 1)
    })
    got <- ll_standings(certain_book(lines), "k", "average", resamples = 200)
    true <- rank(-level)[match(got$k, sprintf("n%02d", 1:20))]
    mean(true >= got$resampled_from & true <= got$resampled_to)
  }, 0)
  expect_gt(mean(held), .88)
  expect_lt(mean(held), .98)
})

test_that("customers are resampled for reps; few orders get no range", {
  book <- demo_book()
  rep <- ll_standings(book, "rep", when = "2026", resamples = 100)
  expect_match(ll_reading(rep), "100 resamples of accounts")
  expect_match(ll_reading(ll_standings(book, "territory", resamples = 60)),
               "60 resamples of orders")
  top <- ll_standings(book, "account", top = 5, when = "2026-05", resamples = 60)
  orders <- ll_standings(book, "account", "orders", when = "2026-05")
  expect_identical(is.na(top$resampled_from), orders$orders[match(top$account, orders$account)] <
                   10)
  expect_match(paste(ll_notes(top)$text, collapse = " "),
               "accounts with fewer than 10 orders get no range")
  line <- ll_benchmark(book, "rep", when = "2026", resamples = 100)
  named <- rep$rep != "(none)"
  expect_identical(line$resampled_to, rep$resampled_to[named])
  scored <- ll_score(book, "rep", c("revenue", "margin_rate"), when = "2026", resamples = 100,
                     draws = 0)
  known <- !is.na(scored$resampled_from)
  expect_true(sum(known) > 10 && all(scored$resampled_from[known] <= scored$resampled_to[known]))
  for (x in list(rep, top, line, scored)) expect_true(all(ll_proof(x)$holds))
  # A field of customers whatever its case; resamples without a small name's orders are no error.
  lines <- transform(certain_lines(3, 12), Account = k, rep = rep(c("Ida", "Tom"), length.out = 96))
  people <- ll_book(lines, fields = c(Account = "dimension", rep = "dimension", k = "dimension"),
                    metrics = list(r = "sum(net)"))
  expect_match(ll_reading(ll_standings(people, "rep", resamples = 60)), "60 resamples of Accounts",
               ignore.case = TRUE)
  few <- certain_book(rbind(certain_lines(4, 12, 4), data.frame(order_no = "x1", k = "tiny",
                                                                net = 5, qty = 1)))
  product <- ll_score(few, "k", c("revenue", "orders"), combine = "product", scaling = "best",
                      resamples = 60, draws = 0)
  expect_sound(list(product))
  expect_identical(product$k[is.na(product$resampled_from)], "tiny")
})

test_that("what cannot be resampled is refused", {
  book <- certain_book(certain_lines(2))
  refused <- function(text, ...,
                      class = "ll_error_argument") expect_error(ll_standings(book, ...), text,
                                                                class = class)
  refused("'middle' is none", "k", "middle", resamples = 100)
  refused("orders have none", "order_no", resamples = 100)
  refused("from 50 to 65000", "k", resamples = 10)
  refused("without 'within'", "order_no", within = "k", resamples = 100)
  expect_error(ll_standings(ll_book(data.frame(k = "a", net = 1), fields = c(k = "dimension"),
                                    metrics = list(r = "sum(net)")), "k", resamples = 100),
               "does not know which lines are one order", class = "ll_error_data")
})

test_that("resamples of nobody are none", {
  book <- small_book()
  for (got in list(ll_standings(book, "rep", resamples = 50, min_orders = 1000),
                   ll_score(book, "rep", c("revenue", "orders"), resamples = 50, min_orders = 1000),
                   ll_benchmark(book, "rep", resamples = 50, min_orders = 1000))) {
    expect_true(all(ll_proof(got)$holds))
    expect_equal(sum(!is.na(as.data.frame(got)$rank)), 0)
  }
})
