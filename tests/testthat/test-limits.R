# What is too far, too long or too large gets an answer or a word, and leaves the session as it was.

far_lines <- function(day = "9999-12-31") {
  data.frame(k = c("a", "b", "a", "c"), net = 1:4, day = as.Date(c("2025-01-02", "2025-02-03",
                                                                   "2025-03-03", day)))
}

test_that("one stray date makes no thousands of years", {
  for (day in c("9999-12-31", "0001-01-01")) {
    book <- ll_book(far_lines(day), date = "day", metrics = c(r = "sum(net)"))
    expect_equal(ll_standings(book, "k")$r, c(4, 4, 2))
    for (every in c("day", "week", "month")) expect_error(ll_trend(book, every = every),
                                                          paste0("there are [0-9,]+ ", every,
                                                                 "s, more than 20,000"),
                                                          class = "ll_error_data")
    expect_error(ll_trend(book),
                 "far from the others is (31 December 9999|1 January 1|1 January 0001)",
                 class = "ll_error_data")
    expect_error(ll_cohorts(book, "k"), "more than 1,500", class = "ll_error_data")
    expect_identical(nrow(ll_part(ll_portrait(book, "k", "a"), "months")), 4L)
    expect_equal(nrow(ll_trend(book, when = "2025-01")), 1)
  }
})

test_that("names of megabytes are kept whole, and cut in sentences", {
  skip_unless_all()
  long <- strrep("x", 4e6)
  lines <- data.frame(k = c(paste0(long, "a"), paste0(long, "b"), paste0(long, "a"), long),
                      net = 1:4)
  got <- ll_standings(ll_book(lines, metrics = c(r = "sum(net)"), fields = c(k = "dimension")), "k")
  expect_identical(sort(got$k), sort(unique(lines$k)))
  expect_lte(max(nchar(c(ll_finding(got), ll_notes(got)$text))), 2000)
  expect_lt(sum(nchar(format(got))), 20000)
  files <- withr::local_tempfile(fileext = c(".csv", ".xlsx", ".png"))
  for (file in files) expect_no_warning(ll_save(got, file))
  expect_setequal(data.table::fread(files[1])$k, lines$k)
})

test_that("a variance beyond what a number holds is refused, and no proof holds by infinity", {
  book <- ll_book(data.frame(k = c("a", "a"), net = c(1e160, 3e160)),
                  metrics = c(v = "var(net)", m = "median(net)"))
  expect_error(ll_standings(book, "k", "v"), "no variance", class = "ll_error_data")
  expect_equal(ll_standings(book, "k", "m")$m, 2e160)
  expect_false(longladder:::proof_line("a", Inf, 0)$holds)
})

test_that("bytes that only look like UTF-8 are not taken for it", {
  file <- withr::local_tempfile(fileext = ".csv")
  for (odd in list(as.raw(c(0xc0, 0xaf)), as.raw(c(0xe0, 0x80, 0xaf)), as.raw(c(0xed, 0xa0, 0x80)),
                   as.raw(c(0xf5, 0x80, 0x80, 0x80)))) {
    writeBin(c(charToRaw("k,net\n"), odd, charToRaw("x,1\nb,2\n")), file)
    got <- ll_standings(ll_book(file, metrics = c(r = "sum(net)")), "k")
    expect_match(paste(ll_notes(got)$text, collapse = " "), "no UTF-8 were read as Latin-1")
    expect_true(all(validUTF8(got$k)))
  }
})

test_that("the caller's random numbers stay as they were", {
  book <- demo_book()
  calls <- function() {
    ll_score(book, "rep", c("revenue", "margin"))
    ll_standings(book, "rep", resamples = 50)
    ll_associations(book, "account")
    for (ending in c(".png", ".xlsx", ".json")) ll_save(ll_standings(book, "rep"),
                                                        withr::local_tempfile(fileext = ending))
  }
  old <- globalenv()$.Random.seed
  withr::defer(if (!is.null(old)) assign(".Random.seed", old, globalenv()))
  set.seed(5)
  before <- globalenv()$.Random.seed
  calls()
  expect_identical(globalenv()$.Random.seed, before)
  rm(".Random.seed", envir = globalenv())
  calls()
  expect_false(exists(".Random.seed", globalenv(), inherits = FALSE))
})

test_that("a year that was mistyped is told, and thousands of years are refused at once", {
  lines <- data.frame(day = as.Date("2024-01-01") + 0:99, net = 1)
  open <- function(last) ll_book(rbind(lines, data.frame(day = as.Date(last), net = 5)),
                                 metrics = c(revenue = "sum(net)"))
  notes <- ll_notes(ll_trend(open("2051-02-01"), every = "year"))
  expect_identical(notes$kind[1], "stray")
  expect_match(notes$text[1], "^1 February 2051 lies years away .*1 January 2024 to 9 April 2024")
  expect_false("stray" %in% ll_notes(ll_total(open("2051-02-01"), when = "2024"))$kind)
  expect_false("stray" %in% ll_notes(ll_total(open("2024-09-01")))$kind)
  for (every in c("day", "month", "year"))
    expect_error(ll_trend(open("9999-12-31"), every = every), "9999", class = "ll_error_data")
})

test_that("days are of the year and month that R has for them", {
  days <- c(-719528:-719000, -1000:1000, seq(-7e5, 29e5, by = 97))
  parts <- as.POSIXlt(as.Date(days, origin = "1970-01-01"))
  got <- internal("day_parts")(days)
  expect_identical(got$year, as.integer(parts$year + 1900L))
  expect_identical(got$month, as.integer(parts$mon + 1L))
  expect_identical(internal("day_parts")(NA_real_)$year, NA_integer_)
})
