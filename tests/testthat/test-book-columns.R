# Every type of column that R can hold is read right, or refused with its name.

as_integer64 <- function(x) {
  # The bits of 64-bit whole numbers, lower half first, in the place of doubles.
  halves <- rbind(x %% 2^32, (x %/% 2^32) %% 2^32)
  signed <- as.integer(ifelse(halves >= 2^31, halves - 2^32, halves))
  structure(readBin(writeBin(signed, raw()), "double", length(x)), class = "integer64")
}

test_that("64-bit whole numbers are added up as they are, and are names to the last digit", {
  withr::local_seed(3)
  for (i in some_of(1:100, 4)) {
    x <- round(runif(8, -1, 1) * 10^sample(1:15, 8, TRUE))
    lines <- data.frame(rep = rep(c("a", "b"), 4))
    lines$n <- as_integer64(x)
    got <- ll_standings(ll_book(lines, fields = c(n = "measure")), "rep", c(total = "sum(n)"))
    expect_identical(got$total[order(got$rep)], as.vector(tapply(x, lines$rep, sum)), info = i)
  }
  none <- readBin(writeBin(c(0L, NA_integer_), raw()), "double", 1)
  large <- data.frame(net = c(1, 2, 4))
  large$id <- structure(c(unclass(as_integer64(c(2^62 + 2^12, 5))), none), class = "integer64")
  got <- ll_standings(ll_book(large), "id", c(total = "sum(net)"))
  expect_identical(got$total[got$id == "5"], 2)
  expect_identical(sort(got$id), c("(none)", "4611686018427392000", "5"))
})

test_that("columns of other types are refused with their names and types", {
  lines <- data.frame(rep = c("a", "b", "a"), net = 1:3)
  odd <- list(complex(3), as.raw(1:3), list(1, 2, 3), I(list(1, 2, 3)), matrix(1:6, 3),
              data.frame(a = 1:3), as.difftime(1:3, units = "days"),
              numeric_version(c("1.1", "1.10", "2")), as.roman(1:3),
              structure(1:3, class = "yearmon"))
  for (x in odd) {
    lines$odd <- x
    expect_error(ll_book(lines), "'odd' (holds|is) ", class = "ll_error_data", info = class(x)[1])
  }
  fine <- list(c(TRUE, FALSE, NA), factor(c("x", "y", NA)),
               as.POSIXlt("2026-01-01", tz = "UTC") + 1:3, I(1:3), noquote(letters[1:3]),
               ordered(c("x", "y", "x")), array(1:3), structure(c(34200, 0, NA),
                                                                class = c("hms", "difftime"),
                                                                units = "secs"))
  for (x in fine) {
    lines$odd <- x
    expect_s3_class(ll_book(lines), "ll_book")
  }
})

test_that("whole numbers are names in full, however long", {
  withr::local_seed(4)
  ids <- unique(floor(2^runif(2000, 1, 53)))
  got <- ll_standings(ll_book(data.frame(id = ids, net = 1), fields = c(id = "identifier")), "id",
                      c(n = "count()"))
  expect_setequal(got$id, sprintf("%.0f", ids))
  told <- ll_book(data.frame(id = c(2^53, 7), net = 1), fields = c(id = "identifier"))
  expect_match(format(told), "more digits than R's numbers tell apart", all = FALSE)
})

test_that("a part of a day moves no date out of its period", {
  withr::local_seed(5)
  for (i in some_of(1:40, 4)) {
    day <- sample(20000:20100, 30, TRUE)
    part <- sample(c(0, .25, .999, .5), 30, TRUE)
    own <- list(structure(day + part, class = "Date"), as.POSIXct((day + part) * 86400,
                                                                  origin = "1970-01-01",
                                                                  tz = "UTC"))
    for (x in own) {
      book <- ll_book(data.frame(day = x, net = 1, rep = "a"), metrics = c(n = "count()"))
      ends <- range(sample(day, 2))
      got <- ll_standings(book, "rep", "n", when = paste(as.Date(ends, origin = "1970-01-01"),
                                                         collapse = "/"))
      expect_identical(got$n, as.double(sum(day >= ends[1] & day <= ends[2])), info = i)
    }
    serial <- ll_book(data.frame(day = day + 25569 + part, net = 1, rep = "a"),
                      fields = c(day = "date"), metrics = c(n = "count()"))
    expect_identical(ll_standings(serial, "rep", "n",
                                  when = paste(as.Date(ends, origin = "1970-01-01"),
                                               collapse = "/"))$n, got$n)
  }
})

test_that("what no double can hold is refused, and says where it stands", {
  lines <- data.frame(rep = c("a", "b", "a"), net = c(1, Inf, 2))
  expect_error(ll_book(lines), "Row 2 says Inf", class = "ll_error_data")
  expect_error(ll_book(write_text("rep,net", "a,1", "b,Inf")), "Line 3 says Inf",
               class = "ll_error_data")
  lines$net <- 1e308
  expect_error(ll_standings(ll_book(lines), "rep", c(x = "sum(net)")), "largest number",
               class = "ll_error_data")
})

test_that("bands are made of amounts however far apart", {
  withr::local_seed(6)
  for (reach in 10^(3:13)) {
    net <- c(round(rnorm(200, 50, 20), 2), reach * 1.1, -reach)
    got <- ll_distribution(ll_book(data.frame(net = net, rep = "a"), metrics = c(x = "sum(net)")))
    expect_true(all(ll_proof(got)$holds), info = reach)
    expect_identical(sum(got$count), 202)
  }
})
