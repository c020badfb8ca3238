# Ranks against rank() of base R and window functions of SQLite.

ranks <- internal("ranks")
shapes <- list(c(3, 1, 2), c(5, 5, 1), c(NA, 2, 2, NA, 7), numeric(), 4, c(0, 0, 0),
               c(-1, -1, 3, -5), sample(10, 200, TRUE), c(Inf, 1, -Inf, Inf), rep(NA_real_, 3))

test_that("shared, dense and average ranks are those of rank() and SQL, both directions", {
  db <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(db))
  for (x in shapes) for (higher in c(TRUE, FALSE)) {
    signed <- if (higher) -x else x
    expect_equal(ranks(x, higher, "shared"), rank(signed, na.last = "keep", ties.method = "min"))
    expect_equal(ranks(x, higher, "average"),
                 rank(signed, na.last = "keep", ties.method = "average"))
    if (!length(x) || any(is.infinite(x))) next
    DBI::dbWriteTable(db, "t", data.frame(i = seq_along(x), v = signed), overwrite = TRUE)
    sql <- DBI::dbGetQuery(db, paste(
      "select i, rank() over (order by v) r, dense_rank() over (order by v) d,",
      "row_number() over (order by v, i) n from t where v is not null order by i"))
    known <- which(!is.na(x))
    expect_equal(ranks(x, higher, "shared")[known], as.numeric(sql$r))
    expect_equal(ranks(x, higher, "dense")[known], as.numeric(sql$d))
    expect_equal(ranks(x, higher, "broken")[known], as.numeric(sql$n))
  }
})

test_that("further columns break ties before the order of names does", {
  x <- c(5, 5, 5, 9)
  expect_equal(ranks(x, ties = "broken", further = list(c(3, 1, 2, 0))), c(4, 2, 3, 1))
  expect_equal(ranks(x, ties = "broken"), c(2, 3, 4, 1))
})

test_that("quotients tie within a relative 1e-9, exact values only when equal", {
  third <- c(1 / 3, 0.1 / 0.3, 0.34)
  expect_false(third[1] == third[2])
  expect_equal(ranks(third, exact = FALSE), c(2, 2, 1))
  expect_equal(ranks(c(1, 1 + 1e-12), exact = TRUE), c(2, 1))
})

test_that("ranks do not depend on scale, shift or the order of names", {
  for (seed in some_of(1:20, 3)) withr::with_seed(seed, {
    x <- sample(c(round(rnorm(30), 1), NA), 40, TRUE)
    at <- sample(40)
    for (ties in c("shared", "dense", "average")) {
      expect_equal(ranks(x[at], ties = ties), ranks(x, ties = ties)[at])
      expect_equal(ranks(x * 3 + 7, ties = ties), ranks(x, ties = ties))
    }
    expect_setequal(stats::na.omit(ranks(x, ties = "broken")), seq_len(sum(!is.na(x))))
  })
})

test_that("running totals of decimals have no dust, and their shares end at 1", {
  running <- internal("running")
  out <- running(c(0.7, 0.2, 0.1, -0.4, NA))
  expect_identical(out$total, c(0.7, 0.9, 1, 0.6, NA))
  expect_equal(out$share, c(0.7, 0.9, 1, 1, NA))
  expect_equal(running(c(-1, -2))$share, c(NA_real_, NA))
})

test_that("all rules of ties agree with base R on long vectors with missing values and none tied", {
  withr::local_seed(5)
  for (x in list(sample(1e4), sample(c(NA, round(rnorm(200), 1)), 1e4, TRUE), rep(NA_real_, 5),
                 numeric())) {
    for (ties in c("shared", "average"))
      expect_equal(ranks(x, TRUE, ties), rank(-x, na.last = "keep",
                                              ties.method = if (ties == "shared") "min" else ties))
    expect_equal(ranks(x, FALSE, "dense"), match(x, sort(unique(x))) + 0)
    expect_equal(ranks(x, TRUE, "broken"), rank(-x, na.last = "keep", ties.method = "first") + 0)
  }
})

test_that("quantiles of ranks over draws are those of the ranks themselves, few draws or many", {
  withr::defer(internal("kernel_threads")(1L))
  withr::local_seed(6)
  for (shape in list(c(1, 1), c(30, 10), c(30, 700), c(300, 90), c(300, 900))) {
    score <- matrix(sample(c(NA, seq_len(2 * shape[1])), prod(shape), TRUE) + 0, shape[1])
    rank <- apply(score, 2, function(s) rank(-s, na.last = "keep", ties.method = "min"))
    rank <- matrix(rank, shape[1])
    want <- function(share) apply(rank, 1, function(p) if (all(is.na(p))) NA_real_ else
                                  sort(p)[max(1, ceiling(share * sum(!is.na(p)) - 1e-9))])
    for (threads in 1:2) {
      internal("kernel_threads")(threads)
      out <- internal("kernel_rank_ranges")(score, .05, .95)
      for (side in list(list(out$low, want(.05)), list(out$high, want(.95)))) {
        expect_identical(is.na(side[[1]]), is.na(side[[2]]))
        near <- which(side[[2]] <= 200)
        expect_equal(side[[1]][near], side[[2]][near])
        expect_true(all(abs(side[[1]] / side[[2]] - 1) <= .01, na.rm = TRUE))
      }
      ahead <- rowMeans((sign(score[-shape[1], , drop = FALSE] - score[-1, , drop = FALSE]) + 1) /
                        2, na.rm = TRUE)
      expect_equal(out$ahead, c(ahead, NA))
    }
  }
})
