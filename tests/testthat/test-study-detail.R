# Detail: the right lines, the fields of registers, a result's row, saved as a sheet.

test_that("the lines of a question, sorted, cut, with register and computed fields", {
  staff <- data.frame(rep = c("Ida", "Tom"), phone = c("111", "222"))
  book <- small_book(registers = list(rep = staff), fields = list(double = list(is = "net * 2")))
  got <- ll_detail(book, c("order_no", "phone", "net", "double", "day"), sort_by = "net",
                   where = "area == 'Fen'", top = 3)
  # Fen by net: A2 30.30 Tom, A6 10.15 Uma, A3 5.00 Tom, A5 0.10 Ida.
  expect_identical(got$order_no, c("A2", "A6", "A3"))
  expect_identical(got$phone, c("222", NA, "222"))
  expect_equal(got$double, got$net * 2)
  expect_identical(got$line, c(3L, 7L, 4L))
  expect_equal(ll_part(got, "totals")$value, 45.55)
  expect_match(ll_finding(got), "^Where area is Fen: 4 lines: revenue 45.55")
  expect_true(all(ll_proof(got)$holds))
  low <- ll_detail(book, "net", sort_by = "net", first = "lowest")
  expect_false(is.unsorted(low$net))
  expect_equal(nrow(ll_detail(book)), 8)
  expect_identical(names(ll_detail(book)), c("line", names(small_lines())))
})

test_that("every row of a result leads to the lines that make its value", {
  book <- demo_book()
  results <- list(
    ll_standings(book, "rep", when = "2026-Q2", where = "quantity > 2", bottom = 4),
    ll_standings(book, c("territory", "channel"), top = 3),
    ll_standings(book, "type", within = "territory", top = 1),
    ll_standings(book, "weekday(order_date)", when = "2025"),
    ll_standings(ll_where(book, territory = "Fen"), "account_size"))
  for (x in results) for (row in c(1, nrow(x))) {
    got <- ll_detail(x, with_fields = "net", row = row)
    expect_equal(ll_part(got, "totals")$value, x$revenue[row])
    expect_equal(sum(got$net, na.rm = TRUE), x$revenue[row])
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("rows and cells of every study lead to the lines that make their value", {
  skip_unless_all()
  book <- demo_book()
  agree <- function(x, value, columns = NULL, rows = seq_len(nrow(x))) {
    for (row in rows) for (column in columns %||% list(NULL)) {
      want <- x[[column %||% value]][row]
      got <- ll_detail(x, with_fields = "net", row = row, column = column)
      expect_equal(ll_part(got, "totals")$value, if (is.na(want)) 0 else want,
                   info = paste(row, column))
      expect_true(all(ll_proof(got)$holds))
    }
  }
  `%||%` <- function(a, b) if (is.null(a)) b else a
  agree(ll_crosstab(book, rows = c("territory", "rep"), columns = "channel", top = 2,
                    when = "2026-Q1"), "total", c("total", "web"), c(1, 4, 9:12))
  agree(ll_crosstab(book, rows = "rep", columns = "quarter(order_date)", where = "quantity > 5"),
        "total", c("total", "2026-Q2"), c(1, 20, 23))
  agree(ll_trend(book, "revenue", every = "quarter"), "revenue")
  agree(ll_trend(book, "revenue", every = "year", by = "rep", top = 2), "revenue")
  agree(ll_portrait(book, "account", "03085", "revenue", when = "2025"), "revenue",
        rows = c(1, 6, 8, 20))
  agree(ll_versus(book, "territory", c("Moor", "Fen"), "family", top = 3), "Moor", c("Moor", "Fen"))
  for (x in list(ll_distribution(book, metrics = "revenue", where = "territory == \"Fen\""),
                 ll_distribution(book, "account", "revenue", by = "channel"),
                 ll_distribution(book, "order_no", "revenue", when = "2026")))
    agree(x, "revenue", rows = c(1, 2, nrow(x)))
  check <- ll_check(book)
  behind <- check$lines > 0 & !is.na(check$revenue) & check$finding != "duplicate lines"
  agree(check, "revenue", rows = which(behind))
  expect_error(ll_detail(check, row = which(check$finding == "duplicate lines")),
               "not stand for a set", class = "ll_error_argument")
  expect_error(ll_detail(ll_associations(book, "account", "revenue", shuffles = 19), row = 1),
               "do not stand for lines", class = "ll_error_argument")
  expect_error(ll_detail(ll_crosstab(book, rows = "family", columns = "territory"), row = 1,
                         column = "Moore"), "Nearest: 'Moor'", class = "ll_error_word")
})

test_that("a result neither holds its book open nor saves it", {
  x <- ll_standings(ll_book(small_lines(), metrics = c(revenue = "sum(net)")), "rep")
  gc()
  expect_error(ll_detail(x, row = 1), "no longer open", class = "ll_error_argument")
  file <- withr::local_tempfile()
  saveRDS(ll_standings(demo_book(), "rep", top = 3), file)
  expect_lt(file.size(file), 1e5)
  expect_match(ll_finding(readRDS(file)), "Maren Holt")
  # Nor do saved sets, and what cohorts need for a while.
  lines <- transform(small_lines(), rep = ifelse(is.na(rep), "Zoe", rep))
  kept <- ll_standings(ll_book(lines, metrics = c(revenue = "sum(net)"),
                               sets = list(s = list(each = "rep", is = "active()"))), "rep",
                       where = "rep %in% s")
  gc()
  expect_error(ll_detail(kept, row = 1), "no longer open", class = "ll_error_argument")
  many <- ll_book(data.frame(k = sprintf("n%06d", 1:50000), day = as.Date("2026-01-01"),
                             net = 1:50000), fields = c(k = "dimension", net = "measure"),
                  metrics = c(revenue = "sum(net)"),
                  sets = list(s = list(each = "k", is = "active()")))
  for (x in list(ll_cohorts(many, "k"), ll_standings(many, "k", where = "k %in% s", top = 1))) {
    saveRDS(x, file)
    expect_lt(file.size(file), 1e5)
  }
})

test_that("a sheet to act on, from the command; and what is refused", {
  file <- withr::local_tempfile(fileext = ".xlsx")
  got <- command("detail", "--brief", demo_path("longladder.yml"), "--only", "account=00251",
                 "--when", "last quarter", "--with-fields",
                 "order_no,order_date,account,contact,net",
                 "--out", file, "--format", "csv")
  expect_equal(got$status, 0)
  sheet <- openxlsx::read.xlsx(file, detectDates = TRUE)
  expect_identical(sheet$account[1], "00251")
  expect_equal(nrow(sheet), length(got$out) - 1)
  book <- small_book()
  expect_error(ll_detail(book, "nett"), "Nearest: 'net'", class = "ll_error_word")
  expect_error(ll_detail(book, sort_by = "dayy"), "Nearest: 'day'", class = "ll_error_word")
  expect_error(ll_detail(book, row = 1), "belong to a result", class = "ll_error_argument")
  expect_error(ll_detail(ll_standings(book, "rep"), row = 9), "one of the 4 rows",
               class = "ll_error_argument")
  expect_error(ll_detail(ll_standings(book, "rep")), "one of the 4 rows",
               class = "ll_error_argument")
  expect_error(ggplot2::autoplot(ll_detail(book)), "not drawn", class = "ll_error_argument")
  none <- ll_detail(book, where = "net > 1e6")
  expect_equal(nrow(none), 0)
  expect_match(ll_finding(none), "no line meets")
  expect_output(print(none), "nothing to list")
})
