# Coding and scaling: columns to small integers and exact decimals.

code_column <- internal("code_column")
scale_column <- internal("scale_column")
scaled_value <- internal("scaled_value")
scaled_arithmetic <- internal("scaled_arithmetic")

test_that("codes give the text back, in the byte order of the names", {
  withr::local_seed(8)
  cases <- list(c("b", "a", NA, "b"), character(), NA_character_, c("", " ", "x"),
                c("\u00e9", "z", "A"), sample(sprintf("n%05d", 1:5000), 2e4, TRUE))
  for (x in cases) {
    out <- code_column(x)
    want <- as.character(ifelse(is.na(x) | !nzchar(trimws(x)), NA, x))
    expect_identical(c(NA_character_, out$levels)[out$codes + 1L], want)
    expect_identical(out$levels, sort(unique(want), method = "radix"))
  }
})

test_that("the same name in two encodings is one name", {
  utf <- "caf\u00e9"
  latin <- iconv(utf, "UTF-8", "latin1")
  expect_length(code_column(c(utf, latin))$levels, 1)
})

test_that("factors and numbers code like their text", {
  expect_identical(code_column(factor(c("b", "a", NA), levels = c("b", "a", "unused")))$levels,
                   c("a", "b"))
  expect_identical(code_column(c(10, 2, NA, 1e5, 123456789012))$levels,
                   c("10", "100000", "123456789012", "2"))
})

test_that("whole numbers code like their text, close together, far apart or dates", {
  withr::local_seed(6)
  for (x in list(sample(c(-5:40, NA), 500, TRUE), sample(.Machine$integer.max, 300),
                 c(-2147483647L, 2147483647L, 0L, NA),
                 rep(NA_integer_, 3), integer(), structure(c(19000L, NA, 18000L),
                                                           class = "Date"))) {
    out <- code_column(x)
    text <- if (inherits(x, "Date")) format(x) else as.character(x)
    expect_identical(c(NA_character_, out$levels)[out$codes + 1L], text)
    expect_identical(out$levels, sort(unique(text), method = "radix"))
  }
})

test_that("decimals up to six places are held as whole numbers and come back to the bit", {
  for (places in 0:6) {
    x <- c(round(c(-12.3456789, 0.5, 1234.000001, 7), places), NA)
    out <- scale_column(x)
    expect_false(is.na(out$decimals))
    expect_identical(scaled_value(out), x)
  }
})

test_that("what is no decimal, or too large, stays as it is", {
  for (x in list(pi, 0.1 + 0.2, 1 / 3, c(1e15, 0.001), Inf, 1e300)) {
    out <- scale_column(x)
    expect_true(is.na(out$decimals))
    expect_identical(out$v, as.double(x))
  }
})

test_that("exact arithmetic leaves no dust where doubles do", {
  expect_false(0.3 - 0.1 == 0.2)
  dime <- scale_column(c(0.3, 0.7))
  cent <- scale_column(c(0.1, 0.65))
  expect_identical(scaled_value(scaled_arithmetic("-", dime, cent)), c(0.2, 0.05))
  expect_identical(scaled_value(scaled_arithmetic("+", dime, cent)), c(0.4, 1.35))
  expect_equal(scaled_value(scaled_arithmetic("*", dime, cent)), c(0.03, 0.455))
  expect_identical(scaled_value(scaled_arithmetic("/", dime, scale_column(c(0, 2)))), c(NA, 0.35))
})

test_that("long, nested and many names are sorted by their bytes, whatever the number of threads", {
  skip_unless_all()
  withr::local_seed(3)
  start <- c("", "customer ", "customer 0000000000000000")
  names <- c(outer(start, c("", "a", "ab", "abcdefgh", "abcdefghi", "abcdefghabcdefgh", "B", "~",
                            "0"), paste0))
  some <- sample(c(names, NA, " \t", "  "), 5000, TRUE)
  many <- sample(sprintf("region north, account %06d", sample(3e5, many_lines() / 3)), many_lines(),
                 TRUE)
  many[sample(length(many), 1000)] <- NA
  mixed <- ifelse(seq_along(many) %% 50 == 0, paste0(many, "\u00e9"), many)
  withr::defer(internal("kernel_threads")(1L))
  for (x in list(some, many, mixed)) {
    want <- sort(unique(x[!is.na(x) & nzchar(trimws(x))]), method = "radix")
    for (threads in 1:3) {
      internal("kernel_threads")(threads)
      out <- code_column(x)
      expect_identical(out$levels, want)
      expect_identical(out$codes, match(x, want, nomatch = 0L))
    }
  }
  # More than half a million different names are sorted on two threads.
  numbers <- sample(many_lines())
  internal("kernel_threads")(2L)
  expect_identical(internal("name_ranks")(sprintf("account number %07d", numbers)), numbers)
  ranks <- internal("name_ranks")(c("b", "", NA, "a", "b"))
  expect_identical(ranks, c(2L, 0L, 0L, 1L, 2L))
})

test_that("names are found alike among texts of R and of a kept file", {
  withr::local_seed(12)
  path <- withr::local_tempfile()
  names <- sort(unique(c(sprintf("n%03d", sample(999, 300)), "caf\u00e9", "Zo\u00eb & Co", "x")),
                method = "radix")
  expect_identical(internal("kernel_write_vector")(path, names), "")
  mapped <- internal("kernel_mapped")(path, "text", file.size(path), list(), "", integer())
  for (values in list(c("n001", "n500", "x", NA, "", "caf\u00e9", "n001"), character(), names,
                      iconv("caf\u00e9", "UTF-8", "latin1"))) {
    expect_identical(internal("name_places")(mapped, values), match(values, names, nomatch = 0L))
    expect_identical(internal("name_places")(names, values), match(values, names, nomatch = 0L))
    expect_identical(internal("is_named")(mapped, values), names %in% values)
    known <- enc2utf8(values[!is.na(values)])
    expect_identical(internal("kernel_second_named")(mapped, known), names %in% known)
    expect_identical(internal("not_among")(values, mapped), setdiff(values, names))
  }
})

test_that("whole numbers are counted alike with and without a copy", {
  withr::local_seed(13)
  count_values <- internal("count_values")
  for (v in list(sample(c(-50:50, NA), 3000, TRUE), NA_integer_, integer(), c(-2e9, 2e9, 5),
                 sample(.Machine$integer.max, 50))) {
    x <- list(v = as.integer(v), decimals = 2)
    for (keep in list(NULL, seq_along(v) %% 3 == 1)) {
      kept <- x
      if (!is.null(keep)) kept$v <- x$v[keep]
      expect_equal(internal("count_whole")(x, keep),
                 c(list(missing = as.double(sum(is.na(kept$v)))), count_values(kept)))
    }
  }
})

test_that("conditions on whole numbers are those of base R, at the ends of what there is too", {
  withr::local_seed(15)
  meet <- internal("kernel_meet")
  far <- .Machine$integer.max
  edges <- c(NA, 0L, 1L, -1L, far, -far, far - 1L, 1L - far)
  v <- c(edges, sample(-100:100, 200, TRUE))
  w <- rev(v)
  truth <- function(x, op, limit) {
    if (op == "missing") return(is.na(x))
    out <- do.call(op, list(as.double(x), limit))
    out & !is.na(out)
  }
  limits <- c(0, 1, -1, .5, -.5, far, -far, far + 1, -far - 1, far + 2, 1e12, -1e12, Inf, -Inf, 42)
  one <- function(x) {
    op <- sample(c("<", "<=", ">", ">=", "==", "!=", "missing"), 1)
    list(values = x, op = op, limit = if (op == "missing") 0 else sample(limits, 1))
  }
  holds <- function(step) truth(step$values, step$op, step$limit)
  for (i in 1:400) {
    a <- one(v)
    b <- one(if (i %% 3) v else w)
    op <- sample(c("&", "|"), 1)
    both <- do.call(op, list(holds(a), holds(b)))
    expect_identical(meet(length(v), list(a)), holds(a))
    expect_identical(meet(length(v), list(a, b, list(op = op))), both)
    expect_identical(meet(length(v), list(a, list(op = "!"), b, list(op = "&"))),
                     !holds(a) & holds(b))
    expect_identical(meet(length(v), list(a, b, list(op = op), b, list(op = "&"))),
                     both & holds(b))
  }
})

test_that("the ends of whole numbers are base R's", {
  for (v in list(c(NA, 5L, -3L, 7L), NA_integer_, integer(), .Machine$integer.max,
                 rep(c(2L, NA), 4e5)))
    expect_identical(internal("kernel_second_ends")(as.integer(v)), suppressWarnings(
      as.double(c(min(v, na.rm = TRUE), max(v, na.rm = TRUE)))))
})
