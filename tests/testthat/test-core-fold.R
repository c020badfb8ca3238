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
    expect_equal(out$parts$count$v, unname(vapply(want, function(v) sum(!is.na(v)), 0)),
                 info = name)
    expect_equal(out$parts$lines$v, unname(lengths(want) + 0), info = name)
    expect_equal(out$parts$distinct$v,
                 unname(vapply(others, function(v) length(unique(v[!is.na(v)])) + 0, 0)),
                 info = name)
  }
})

test_that("several keys make the groups that occur, in the order of their names", {
  withr::local_seed(43)
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
  withr::local_seed(60)
  n <- 30000
  a <- sprintf("a%06d", sample(1e6, n, TRUE))
  b <- sprintf("b%06d", sample(1e6, n, TRUE))
  out <- fold_columns(list(a = code_column(a), b = code_column(b)), list(list(fn = "lines")), NULL,
                      n)
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

test_that("sums that would overflow 64 bits are added wider", {
  x <- rep(9e15, 3000)
  out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, length(x))
  expect_equal(scaled_value(out$parts[[1]]), 2.7e19)
})

test_that("what large values would swallow is kept", {
  x <- c(1e16, rep(pi, 1000), -1e16)
  out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, length(x))
  expect_equal(scaled_value(out$parts[[1]]), 1000 * pi, tolerance = 1e-12)
})

test_that("infinite values outweigh all in their own group, and only there", {
  x <- c(Inf, 1, -Inf, 2, NA, 3.5, 1, 1, NA)
  group <- c("a", "a", "b", "b", "b", "c", "d", "d", "e")
  out <- fold_columns(list(key = code_column(group)), list(list(fn = "sum",
                                                                column = scale_column(x))), NULL,
                      length(x))
  expect_equal(out$parts[[1]]$v, c(Inf, -Inf, 3.5, 2, NA))
})

test_that("a kernel never writes to what it was given", {
  x <- c(1.5, NA, 3)
  keep <- c(TRUE, FALSE, TRUE)
  copies <- list(x + 0, keep & TRUE)
  fold_columns(list(), list(list(fn = "sum", column = scale_column(x), keep = keep)), keep, 3)
  expect_identical(list(x, keep), copies)
})

# Every summary of a group, by base R.
summaries <- list(
  min = function(v) if (length(v)) min(v) else NA, max = function(v) if (length(v)) max(v) else NA,
  var = function(v) if (length(v) > 1) stats::var(v) else NA, quantile = function(v) {
    if (length(v)) stats::quantile(v, .3, names = FALSE) else NA
  })

test_that("smallest, largest, variance and quantile agree with base R over every shape", {
  for (name in names(shapes)) {
    x <- as.double(shapes[[name]])
    n <- length(x)
    key <- rep_len(c("a", "b", NA, "c", "a", "b", "b"), n)
    keep <- rep_len(c(TRUE, TRUE, FALSE, TRUE, TRUE), n)
    part <- function(fn) list(fn = fn, column = scale_column(x), prob = .3)
    out <- fold_columns(list(key = code_column(key)), list(min = part("min"), max = part("max"),
                                                           var = part("moments"),
                                                           quantile = part("quantile")), keep, n)
    want <- lapply(naive(list(key), x, keep)[c("NA", "a", "b", "c")[out$keys$key + 1]],
                   function(v) v[!is.na(v)])
    out$parts$var <- internal("moment_value")(out$parts$var, "var")
    for (fn in names(summaries))
      expect_equal(scaled_value(out$parts[[fn]]),
                   unname(vapply(want, function(v) as.numeric(summaries[[fn]](v)), 0)),
                   tolerance = 1e-12, info = paste(name, fn))
  }
})

test_that("variance keeps its digits where sums of squares lose them all", {
  x <- 1e9 + c(4, 7, 13, 16) / 1000
  out <- fold_columns(list(), list(list(fn = "moments", column = scale_column(x / 3))), NULL, 4)
  expect_equal(internal("moment_value")(out$parts[[1]], "var")$v, stats::var(x / 3),
               tolerance = 1e-8)
})

test_that("totals are those of a fold over fewer keys, whatever the part", {
  withr::local_seed(11)
  n <- 900
  keys <- list(a = code_column(sample(c("x", "y", NA), n, TRUE)),
               b = code_column(sample(letters[1:6], n, TRUE)),
               c = code_column(sample(c("p", "q"), n, TRUE)))
  v <- scale_column(sample(c(round(rnorm(50), 2), NA), n, TRUE))
  w <- scale_column(rnorm(n))
  some <- sample(c(TRUE, FALSE), n, TRUE)
  part <- function(fn, column, ...) list(fn = fn, column = column, ...)
  parts <- list(sum = part("sum", v, keep = some), dust = part("sum", w), n = part("count", v),
                lines = part("lines", NULL), min = part("min", v), max = part("max", w),
                var = part("moments", w), d = part("distinct", keys$b),
                q = part("quantile", v, prob = .5))
  keep <- sample(c(TRUE, TRUE, FALSE), n, TRUE)
  subsets <- list(c("a", "c"), "b", character())
  out <- fold_columns(keys, parts, keep, n, totals = subsets)
  for (i in seq_along(subsets)) {
    want <- fold_columns(keys[subsets[[i]]], parts, keep, n)
    got <- out$totals[[i]]
    expect_identical(unname(got$keys), unname(want$keys))
    expect_equal(got$lines, want$lines)
    for (name in setdiff(names(parts), "var"))
      expect_equal(scaled_value(got$parts[[name]]), scaled_value(want$parts[[name]]),
                   tolerance = 1e-12, info = name)
    expect_identical(got$parts$sum$v, want$parts$sum$v)
    expect_equal(got$parts$var[c("n", "mean", "m2")], want$parts$var[c("n", "mean", "m2")],
                 tolerance = 1e-12)
  }
  expect_error(internal("roll_up")(out$parts$d, rep(0L, length(out$lines)), 1L), "holistic")
})

test_that("who holds the extreme: every line of a tie, per group", {
  withr::local_seed(5)
  for (x in list(sample(c(1.25, 7.5, 7.5, NA, -3), 200, TRUE), rnorm(200), rep(0, 200),
                 rep(NA_real_, 200))) {
    key <- sample(c("a", "b", NA), 200, TRUE)
    keep <- sample(c(TRUE, TRUE, FALSE), 200, TRUE)
    for (highest in c(TRUE, FALSE)) {
      out <- internal("fold_holders")(list(k = code_column(key)), scale_column(x), keep, 200,
                                      highest)
      groups <- split(which(keep), ifelse(is.na(key), "", key)[keep])
      want <- sort(unlist(lapply(groups, function(rows) {
        v <- x[rows]
        if (all(is.na(v))) integer() else rows[which(v == (if (highest) max else
                                                           min)(v, na.rm = TRUE))]
      }), use.names = FALSE))
      expect_equal(sort(out$lines), as.double(want))
      expect_equal(scaled_value(out$value), x[out$lines])
    }
  }
})

test_that("sums of whole numbers near 2^53, 2^63 and beyond are exact before they are rounded once",
          {
  withr::local_seed(8)
  for (n in c(3, 2000)) for (size in c(2^52, 9e15)) {
    x <- round(runif(n, -size, size))
    x <- c(x, -x, 7)[sample(2 * n + 1)]
    out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, length(x))
    expect_identical(scaled_value(out$parts[[1]]), 7)
  }
  # 1001 times (2^53 - 1): the double nearest to the exact total.
  x <- rep(2^53 - 1, 1001)
  out <- fold_columns(list(), list(list(fn = "sum", column = scale_column(x))), NULL, 1001)
  expect_identical(scaled_value(out$parts[[1]]), 1001 * 2^53 - 1001)
})

test_that("threads change nothing, to the bit, on more lines than one block", {
  skip_unless_all()
  n <- many_lines()
  withr::local_seed(2)
  # Few groups: every thread adds up for itself. Many: each thread has some of the groups.
  keys <- list(few = code_column(factor(sample(letters[1:7], n, TRUE))),
               many = code_column(sample(c(NA, seq_len(n / 3)), n, TRUE)))
  amounts <- round(rnorm(n) * 100, 2)
  gaps <- replace(amounts, sample(n, n / 9), NA)
  parts <- list(list(fn = "sum", column = scale_column(amounts)),
                list(fn = "sum", column = scale_column(gaps)),
                list(fn = "sum", column = scale_column(rnorm(n) * 10^sample(-8:8, n, TRUE))),
                list(fn = "lines"))
  keep <- sample(c(TRUE, FALSE, NA), n, TRUE)
  withr::defer(internal("kernel_threads")(1L))
  for (key in keys) for (mask in list(NULL, keep)) {
    ask <- function(threads) {
      internal("kernel_threads")(threads)
      fold_columns(list(k = key), parts, mask, n)
    }
    first <- ask(1L)
    for (threads in 2:5) expect_identical(ask(threads), first)
    rows <- if (is.null(mask)) rep(TRUE, n) else mask %in% TRUE
    # Base R's sums, in the order of the codes that have lines.
    by <- function(v) as.vector(rowsum(v[rows], key$codes[rows]))
    expect_equal(first$lines, by(rep(1, n)))
    expect_equal(scaled_value(first$parts[[1]]), by(amounts))
    none <- by(as.numeric(!is.na(gaps))) == 0
    expect_equal(scaled_value(first$parts[[2]]), ifelse(none, NA, by(ifelse(is.na(gaps), 0, gaps))))
  }
})

test_that("however groups are numbered and counted, the answer is that of base R", {
  skip_unless_all()
  withr::defer(internal("kernel_threads")(1L))
  withr::local_seed(4)
  shapes <- list(few = c(2e3, 900, 700), crossed = c(2e3, 20, 30), large = c(many_lines(), 4, 9),
                 many = c(many_lines(), many_lines() / 15, 11))
  for (name in names(shapes)) {
    shape <- shapes[[name]]
    n <- shape[1]
    a <- sample(c(NA, sprintf("a%05d", seq_len(shape[2]))), n, TRUE)
    b <- sample(sprintf("b%05d", seq_len(shape[3])), n, TRUE)
    order <- sample(n %/% 3, n, TRUE)
    v <- round(rnorm(n) * 100, 2)
    keep <- sample(c(TRUE, FALSE, TRUE), n, TRUE)
    keys <- list(a = code_column(a), b = code_column(b))
    parts <- list(sum = list(fn = "sum", column = scale_column(v)), lines = list(fn = "lines"),
                  distinct = list(fn = "distinct", column = code_column(sprintf("%d", order))),
                  median = list(fn = "quantile", column = scale_column(v), prob = .5))
    for (threads in 1:2) {
      internal("kernel_threads")(threads)
      pair <- fold_columns(keys, parts[1:2], keep, n)
      at <- paste(keys$a$codes[keep], keys$b$codes[keep])
      expect_setequal(paste(pair$keys$a, pair$keys$b), at)
      expect_identical(order(pair$keys$a, pair$keys$b), seq_along(pair$lines))
      want <- rowsum(cbind(v[keep], 1), at)[paste(pair$keys$a, pair$keys$b), ]
      expect_equal(cbind(scaled_value(pair$parts$sum), pair$lines), unname(want))
      for (key in names(keys)) {
        out <- fold_columns(keys[key], parts[3:4], NULL, n)
        by <- factor(keys[[key]]$codes, out$keys[[1]])
        first <- !duplicated(cbind(by, order))
        expect_equal(scaled_value(out$parts$distinct),
                     as.vector(rowsum(rep(1, sum(first)), by[first])), info = name)
        if (n < 1e4 || key == "b") expect_equal(scaled_value(out$parts$median),
                                                as.vector(tapply(v, by, stats::median)),
                                                info = name)
      }
    }
  }
})

test_that("names are counted for the proof, then looked up, and blank ones never count", {
  kinds <- list(text = c("a", " ", "b", NA, "a", "", "c", "b"),
                factor = factor(c("a", " ", "b", NA, "a", "", "c", "b")),
                whole = c(100000, 2, 3, NA, 100000, 3, 2, 7))
  for (kind in names(kinds)) {
    lines <- data.frame(rep = rep(c("x", "y"), 4), order_no = kinds[[kind]], net = 1:8)
    book <- ll_book(lines, fields = c(rep = "dimension", order_no = "identifier", net = "measure"),
                    metrics = c(orders = "distinct(order_no)"))
    count <- function(keep) length(unique(lines$order_no[keep & !is.na(lines$order_no) &
                                                         !trimws(lines$order_no) %in% ""]))
    for (i in 1:5) for (where in list(NULL, "rep == \"x\"", "net > 3")) {
      result <- ll_standings(book, "rep", "orders", where = where)
      expect_true(all(ll_proof(result)$holds), info = kind)
      keep <- if (is.null(where)) TRUE else if (where == "net > 3") lines$net > 3 else
        lines$rep == "x"
      expect_true(any(grepl("total of orders", ll_proof(result)$check) &
                      ll_proof(result)$expected == count(keep)), info = paste(kind, where))
    }
  }
})

test_that("a fold asked again is the same, kept or not, and no other fold is taken for it", {
  book <- ll_demo()
  ask <- function(...) as.data.frame(ll_standings(book, "rep", c("revenue", "orders"), ...))
  first <- list(ask(), ask(when = "2025"), ask(where = "channel == \"web\""),
                ask(within = "territory"))
  expect_identical(list(ask(), ask(when = "2025"), ask(where = "channel == \"web\""),
                        ask(within = "territory")), first)
  withr::local_options(longladder.kept_folds = 0)
  book <- ll_demo()
  expect_identical(list(ask(), ask(when = "2025"), ask(where = "channel == \"web\""),
                        ask(within = "territory")), first)
  expect_length(book$source$folds, 0)
  # What a question made for itself is not kept alive.
  withr::local_options(longladder.kept_folds = NULL)
  ll_cohorts(book, "account")
  expect_gt(length(book$source$folds), 0)
  for (kept in book$source$folds)
    expect_true(internal("told_by_text")(c(kept$asked$keys, kept$asked$parts,
                                           list(kept$asked$where))))
  book <- ll_demo()
  # Room for few: the last ones go.
  withr::local_options(longladder.kept_folds = 20000)
  for (i in 1:2) expect_identical(list(ask(), ask(when = "2025")), first[1:2])
  expect_lte(sum(vapply(book$source$folds, `[[`, 0, "size")), 20000)
})

test_that("conditions worked out in blocks agree with R, however they are put together", {
  withr::defer(internal("kernel_threads")(1L))
  withr::local_seed(8)
  for (n in c(0, 1, 4096, 4097, many_lines())) {
    x <- sample(c(NA, -3:3), n, TRUE)
    y <- sample(c(NA, NaN, Inf, -Inf, -1, 0, .5, 2^40), n, TRUE)
    codes <- sample(0:3, n, TRUE)
    ready <- sample(c(TRUE, FALSE), n, TRUE)
    known <- function(test) !is.na(test) & test
    random <- function(depth) {
      if (depth == 0 || runif(1) < .2) return(switch(
        sample(5, 1),
        { op <- sample(c("==", "!=", "<", "<=", ">", ">="),
                       1); list(steps = list(list(values = x, op = op, limit = 1)),
                                want = known(do.call(op, list(x, 1)))) },
        { op <- sample(c("==", "!=", "<", "<=", ">", ">="),
                       1); list(steps = list(list(values = y, op = op, limit = .5)),
                                want = known(do.call(op, list(y, .5)))) },
        list(steps = list(list(values = if (runif(1) < .5) x else y, op = "missing", limit = 0))),
        { passes <- sample(c(TRUE, FALSE), 4,
                           TRUE); list(steps = list(list(codes = codes, passes = passes)),
                                       want = passes[codes + 1]) },
        list(steps = list(list(ready = ready)), want = ready)))
      a <- random(depth - 1)
      if (runif(1) < .2) return(list(steps = c(a$steps, list(list(op = "!"))), want = !want_of(a)))
      b <- random(depth - 1)
      op <- sample(c("&", "|"), 1)
      list(steps = c(a$steps, b$steps, list(list(op = op))),
           want = do.call(op, list(want_of(a), want_of(b))))
    }
    want_of <- function(one) one$want %||% is.na(one$steps[[1]]$values)
    for (threads in 1:3) {
      internal("kernel_threads")(threads)
      for (i in 1:8) {
        one <- random(4)
        expect_identical(internal("kernel_meet")(n, one$steps), want_of(one),
                         info = paste(n, threads, i))
      }
    }
  }
  expect_error(internal("kernel_meet")(3, list(list(ready = TRUE))), "lengths")
})

test_that("several sums in one pass are those of each by itself, and of base R", {
  withr::defer(internal("kernel_threads")(1L))
  withr::local_seed(9)
  n <- many_lines()
  key <- code_column(sample(c(NA, letters), n, TRUE))
  coins <- round(runif(n, -50, 50), 2)
  far <- round(runif(n, 1e9, 9e10))
  gaps <- replace(coins, sample(n, 50), NA)
  parts <- lapply(list(coins = coins, far = far, gaps = gaps),
                  function(v) list(fn = "sum", column = scale_column(v)))
  keep <- runif(n) < .3
  for (threads in 1:2) for (mask in list(NULL, keep)) for (keys in list(list(key = key), list())) {
    internal("kernel_threads")(threads)
    together <- fold_columns(keys, parts, mask, n)
    for (name in names(parts)) {
      alone <- fold_columns(keys, parts[name], mask, n)
      expect_identical(together$parts[[name]], alone$parts[[1]])
      kept <- mask %||% rep(TRUE, n)
      v <- list(coins = coins, far = far, gaps = gaps)[[name]][kept]
      by <- if (length(keys)) key$codes[kept] else rep(1L, sum(kept))
      expect_equal(scaled_value(alone$parts[[1]]), as.vector(tapply(v, by, sum, na.rm = TRUE)))
      expect_equal(together$lines, as.vector(table(by)))
    }
  }
})
