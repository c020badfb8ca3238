# Files as people have them: what is read, and what is refused with one clear message.

read_table_file <- function(...) internal("read_table_file")(...)$data

test_that("text, numbers and dates arrive as they were typed", {
  file <- write_text("\ufeffaccount,day,note,net", "00123,2026-01-05,\"say \"\"hi\"\", you\",1.50",
                     "45,2026-01-06,\"two", "lines\",-2", "00007,,,")
  got <- read_table_file(file)
  expect_identical(names(got), c("account", "day", "note", "net"))
  expect_identical(got$account, c("00123", "45", "00007"))
  expect_s3_class(as.Date(got$day), "Date", exact = TRUE)
  expect_identical(as.double(as.Date(got$day)), as.double(as.Date(c("2026-01-05", "2026-01-06",
                                                                    NA))))
  expect_identical(got$note, c("say \"hi\", you", "two\nlines", NA))
  expect_equal(got$net, c(1.5, -2, NA))
})

test_that("order numbers beyond doubles stay text; semicolons and tabs are found", {
  got <- read_table_file(write_text("order;net", "9007199254740993;1", "9007199254740995;2"))
  expect_identical(got$order, c("9007199254740993", "9007199254740995"))
  expect_equal(read_table_file(write_text("a\tb", "x\t1", "y\t2"))$b, 1:2)
})

test_that("Latin-1 bytes become the letters they were", {
  file <- tempfile(fileext = ".csv")
  writeBin(c(charToRaw("rep,net\nJos"), as.raw(0xe9), charToRaw(",1\nAnn,2\n")), file)
  expect_identical(read_table_file(file)$rep, c("Jos\u00e9", "Ann"))
})

test_that("quotes within cells are read alike wherever they stand", {
  scan <- function(file) internal("kernel_scan")(file, ",", 0)[c("high", "inner_quotes")]
  cases <- list(
    list(cells = c("\"a\"", "b", "\"\""), read = c("a", "b", ""), high = FALSE, inner = FALSE),
    list(cells = c("\"a \"\"b\"\"\"", "c", "d"), read = c("a \"b\"", "c", "d"), high = FALSE,
         inner = TRUE),
    list(cells = c("5\"\" pipe", "5\" pipe", "d"), read = c("5\" pipe", "5\" pipe", "d"),
         high = FALSE, inner = TRUE),
    list(cells = c("\"\"a\"", "c", "d"), read = c("\"a", "c", "d"), high = FALSE, inner = TRUE),
    list(cells = c("caf\u00e9", "\"a,b\"", "d"), read = c("caf\u00e9", "a,b", "d"), high = TRUE,
         inner = FALSE))
  for (case in cases) {
    file <- write_text("note,net", paste0(case$cells, ",", 1:3))
    expect_identical(read_table_file(file)$note, case$read)
    expect_identical(unname(scan(file)), list(case$high, case$inner))
  }
})

test_that("names that differ by blanks stay apart", {
  got <- read_table_file(write_text("rep,net", "Ida,1", "Ida ,2", "\"Ida  M\",3"))
  expect_length(unique(got$rep), 3)
})

test_that("each kind of bad file has its own message", {
  good <- file.path(withr::local_tempdir(), "order_lines.csv")
  writeLines(c("a,b", "1,2"), good)
  zip <- tempfile()
  writeBin(as.raw(c(0x50, 0x4b, 3, 4, rep(1, 50))), zip)
  wide <- tempfile()
  writeBin(as.raw(rep(c(0x61, 0), 50)), wide)
  folder <- withr::local_tempdir()
  cases <- list(
    "does not exist.*Nearest in that folder: 'order_lines.csv'" = sub("lines", "line", good),
    "is a folder" = folder, "is empty" = tempfile(),
    "holds only blank lines" = write_text("", "  "),
    "header and no lines" = write_text("order_no,net"),
    "spreadsheet" = zip, "zero bytes" = wide,
    "not a table: it has one column" = write_text("just some", "text of", "a letter"),
    "more than once.*'net'" = write_text("net,rep,net", "1,a,2"),
    "Line 3 has 3 fields where 2 are expected" = write_text("a,b", "1,2", "1,2,3", "4,5"))
  file.create(cases[["is empty"]])
  for (pattern in names(cases)) {
    e <- expect_error(ll_book(cases[[pattern]]), class = "ll_error_file", info = pattern)
    expect_match(gsub("\n", " ", conditionMessage(e)), pattern)
  }
})

test_that("cells of nothing are missing however they are written and wherever they stand", {
  for (blank in c("", "\"\"", "\" \"", "\"\t\"")) {
    book <- ll_book(write_text("rep,note,net", paste0(c("a", "b", "a"), ",", blank, ",",
                                                      c(1, 2, 3))),
                    metrics = c(revenue = "sum(net)", told = "count(note)"))
    expect_equal(ll_standings(book, "rep", c("revenue", "told"))$told, c(0, 0), info = blank)
    expect_identical(book$fields$role[book$fields$name == "note"], "dimension", info = blank)
    late <- ll_book(write_text("rep,net,day", paste0("a,", c(rep(blank, 1200), 5, 7.5), ",",
                                                     c(rep(blank, 1201), "2025-03-04"))),
                    metrics = c(revenue = "sum(net)"))
    expect_equal(ll_standings(late, "rep")$revenue, 12.5, info = blank)
    expect_identical(late$date, "day", info = blank)
  }
})

test_that("columns that the header names by blanks or nothing are called by their place", {
  for (blank in c("", " ", "\t", "\r", "\"\"", "\" \"")) {
    head <- paste0("k,", blank, ",net,", blank, ",seen,what,who")
    file <- withr::local_tempfile(fileext = ".csv")
    writeBin(charToRaw(paste0(head, "\n", paste0(letters[1:4], ",x", 1:4, ",", 5:8, ",", 1:4,
                                                 ",y,z,w", collapse = "\n"), "\n")), file)
    book <- ll_book(file, metrics = c(revenue = "sum(net)"))
    expect_setequal(book$fields$name, c("k", "V2", "net", "V4", "seen", "what", "who"))
    expect_equal(ll_standings(book, "V2")$revenue, 8:5)
    expect_s3_class(ll_check(book), "ll_result_check")
  }
})
