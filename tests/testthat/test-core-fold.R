# The fold's kernels against base R, over shapes that go wrong.

fold_columns <- internal("fold_columns")
code_column <- internal("code_column")
scale_column <- internal("scale_column")
scaled_value <- internal("scaled_value")

# A naive fold: split the rows by their keys and use base R on each.
naive <- function(keys, values, keep = rep(TRUE, length(values))) {
  text <- do.call(paste, c(unname(keys), sep = "|"))[keep]
  split(values[keep], text)
}

shapes <- list(
  one = 5, none = numeric(), ties = c(2, 2, 2, 2), missing = c(NA_real_, NA), zeros = numeric(50),
  coins = round(runif(500, -50, 50), 2), wide = c(1e15, 1e-3, -1e15, 5), sorted = 1:100 + 0.5,
  huge = c(9e15, 9e15, 9e15), dust = rep(0.1, 1000) * 3, large = round(rnorm(70000) * 1e4, 2))

test_that("sum, count and distinct per group agree with base R", {
  for (name in names(shapes)) {
    x <- as.double(shapes[[name]])
    n <- length(x)
    key <- rep_len(c("a", "b", NA, "c", "a"), n)
    keep <- rep_len(c(TRUE, TRUE, FALSE, TRUE), n)
    other <- rep_len(c("p", "q", "p", NA), n)
    out <- fold_columns(list(key = code_column(key)),
                        list(sum = list(fn = "sum", column = scale_column(x)),
                             count = list(fn = "count", column = scale_column(x)),
                             distinct = list(fn = "distinct", column = code_column(other)),
                             lines = list(fn = "lines")), keep, n)
    groups <- c("NA", "a", "b", "c")[out$keys$key + 1]
    want <- naive(list(key), x, keep)[groups]
    others <- naive(list(key), other, keep)[groups]
    expect_equal(scaled_value(out$parts$sum), unname(vapply(want, function(v)
      if (all(is.na(v))) NA_real_ else sum(v, na.rm = TRUE), 0)), tolerance = 1e-12, info = name)
    expect_equal(out$parts$count$v, unname(vapply(want, function(v) sum(!is.na(v)), 0)), info = name)
    expect_equal(out$parts$lines$v, unname(lengths(want) + 0), info = name)
    expect_equal(out$parts$distinct$v,
                 unname(vapply(others, function(v) length(unique(v[!is.na(v)])) + 0, 0)), info = name)
  }
})

test_that("several keys make the groups that occur, in the order of their names", {
  for (n in c(1, 50, 3000)) {
    a <- sample(c("x", "y", NA), n, TRUE)
    b <- sprintf("n%03d", sample(400, n, TRUE))
    d <- sample(letters, n, TRUE)
    v <- round(rnorm(n), 2)
    out <- fold_columns(list(a = code_column(a), b = code_column(b), d = code_column(d)),
                        list(list(fn = "sum", column = scale_column(v))), NULL, n)
    pick <- function(x, codes) c(NA, code_column(x)$levels)[codes + 1]
    got <- paste(pick(a, out$keys$a), pick(b, out$keys$b), pick(d, out$keys$d), sep = "|")
    want <- naive(list(a, b, d), v)
    expect_setequal(got, names(want))
    expect_equal(scaled_value(out$parts[[1]]), unname(vapply(want[got], sum, 0)))
    expect_false(is.unsorted(order(out$keys$a, out$keys$b, out$keys$d)))
  }
})

test_that("many pairs of many names go by hashing and still come out right", {
  n <- 30000
  a <- sprintf("a%06d", sample(1e6, n, TRUE))
  b <- sprintf("b%06d", sample(1e6, n, TRUE))
  out <- fold_columns(list(a = code_column(a), b = code_column(b)), list(list(fn = "lines")), NULL, n)
  expect_equal(length(out$lines), nrow(unique(data.frame(a, b))))
  expect_equal(sum(out$lines), n)
  expect_equal(out$keys$a, sort(out$keys$a))
})

test_that("the order of the lines does not change a sum of decimals, to the bit", {
  x <- round(rnorm(5000, 0, 1e5), 2)
  key <- sample(letters[1:5], 5000, TRUE)
  fold <- function(at) scaled_value(fold_columns(
    list(k = code_column(key[at])), list(list(fn = "sum", column = scale_column(x[at]))), NULL,
    length(at))$parts[[1]])
  first <- fold(seq_along(x))
  for (seed in 1:5) expect_identical(fold(withr::with_seed(seed, sample(5000))), first)
})

test_that("sums that would overflow 64 bits are added as doubles", {
  x <- rep(9e15, 3000)
  out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, length(x))
  expect_equal(scaled_value(out$parts[[1]]), 2.7e19)
})

test_that("compensated sums keep what plain ones lose", {
  x <- c(1e16, rep(pi, 1000), -1e16)
  out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, length(x))
  expect_equal(scaled_value(out$parts[[1]]), 1000 * pi, tolerance = 1e-12)
})

test_that("a kernel never writes to what it was given", {
  x <- c(1.5, NA, 3)
  keep <- c(TRUE, FALSE, TRUE)
  copies <- list(x + 0, keep & TRUE)
  fold_columns(list(), list(list(fn = "sum", column = scale_column(x), keep = keep)), keep, 3)
  expect_identical(list(x, keep), copies)
})
