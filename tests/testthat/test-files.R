# Files of lines of every kind, alone and several as one book.

parts_of_demo <- function(folder, write, ending) {
  lines <- demo_frame()
  year <- format(lines$order_date, "%Y")
  for (y in unique(year)) write(lines[year == y, ], file.path(folder, paste0("lines-", y, ending)))
  folder
}

as_csv <- function(data, file) utils::write.csv(data, file, row.names = FALSE, na = "")

ask_reps <- function(lines, ...) ll_standings(ll_book(lines, metrics = c(revenue = "sum(net)"),
                                                      ...), "rep")

test_that("several files and patterns are one book, with the file of each line on request", {
  skip_unless_all()
  folder <- parts_of_demo(withr::local_tempdir(), as_csv, ".csv")
  want <- ask_reps(demo_frame())
  files <- sort(list.files(folder, full.names = TRUE))
  for (lines in list(files, rev(files), file.path(folder, "lines-*.csv"),
                     list(file = file.path(folder, "lines-*.csv")),
                     c(files[1], file.path(folder, "*.csv")))) {
    got <- ask_reps(lines)
    expect_equal(as.data.frame(got), as.data.frame(want))
    expect_true(all(ll_proof(got)$holds))
    expect_true("lines in the file = lines read" %in% ll_proof(got)$check)
  }
  book <- ll_book(list(file = files, source_field = "came_from"), metrics = c(revenue = "sum(net)"))
  by_file <- ll_standings(book, "came_from")
  expect_setequal(by_file$came_from, basename(files))
  year <- ll_standings(ll_book(demo_frame(), metrics = c(revenue = "sum(net)")), "year(order_date)")
  expect_equal(sort(by_file$revenue), sort(year$revenue))
  expect_error(ll_book(list(file = files, source_field = "rep")), "second column 'rep'",
               class = "ll_error_argument")
})

test_that("columns are matched by name, whatever their order; what differs is reported", {
  folder <- withr::local_tempdir()
  a <- data.frame(day = as.Date("2026-01-05") + 0:2, rep = c("Ida", "Tom", "Ida"),
                  code = c(7, 8, 9), weight = 1:3, net = c(1.25, 2, 3))
  b <- data.frame(net = c(10, 20), rep = c("Uma", "Ida"), day = as.Date("2026-02-01") + 0:1,
                  code = c("7", "x9"), weight = c("2", "heavy"), region = "Fen")
  as_csv(a, file.path(folder, "a.csv"))
  as_csv(b, file.path(folder, "b.csv"))
  book <- ll_book(file.path(folder, c("a.csv", "b.csv")), metrics = c(revenue = "sum(net)"))
  got <- ll_standings(book, c("rep", "region"))
  expect_equal(sum(got$revenue), 36.25)
  expect_equal(book$lines, 5)
  told <- paste(ll_notes(got)$text, collapse = " ")
  expect_match(told, "the column region is not in 'a.csv': missing on 3 lines", fixed = TRUE)
  expect_match(told,
               "the column weight holds numbers and text in different files and is read as text",
               fixed = TRUE)
  expect_setequal(ll_standings(book, "code")$code, c("7", "8", "9", "x9"))
  # Renamed columns may be missing in one file, not in all.
  renamed <- ll_book(file.path(folder, c("a.csv", "b.csv")),
                     fields = list(area = list(column = "region")),
                     metrics = c(revenue = "sum(net)"))
  expect_true("area" %in% renamed$fields$name)
  expect_error(ll_book(file.path(folder, c("a.csv", "b.csv")),
                       fields = list(area = list(column = "regoin"))),
               "no column 'regoin' in any of the 2 files.*'region'", class = "ll_error_word")
})

test_that("decimal marks, total rows and encodings are fixed in each file by itself", {
  folder <- withr::local_tempdir()
  writeLines(c("rep;net", "Ida;1.234,50", "Tom;2,25", "Total;1.236,75"), file.path(folder, "a.csv"))
  writeLines(c("rep,net", "Ida,100.25", "Zo\u00eb,7"), file.path(folder, "b.csv"), useBytes = TRUE)
  writeBin(iconv("rep,net\nZo\u00eb,1\n", "UTF-8", "latin1", toRaw = TRUE)[[1]],
           file.path(folder, "c.csv"))
  got <- ll_standings(ll_book(file.path(folder, "*.csv"), metrics = c(revenue = "sum(net)")), "rep")
  expect_equal(got$revenue[match(c("Ida", "Tom", "Zo\u00eb"), got$rep)], c(1334.75, 2.25, 8))
  expect_true(all(ll_proof(got)$holds))
})

test_that("Parquet gives what the data frame gives, only the columns asked for where so wished", {
  skip_if_not_installed("nanoparquet")
  folder <- parts_of_demo(withr::local_tempdir(), nanoparquet::write_parquet, ".parquet")
  brief <- demo_path("longladder.yml")
  want <- ll_brief(brief, lines = demo_frame())$book
  got <- ll_brief(brief, lines = file.path(folder, "lines-*.parquet"))$book
  expect_identical(got$fields, want$fields)
  for (each in c("rep", "type", "account_size", "month(order_date)"))
    expect_same_result(ll_standings(got, each, names(want$metrics)),
                       ll_standings(want, each, names(want$metrics)), each)
  file <- file.path(folder, "lines-2026.parquet")
  few <- ll_book(list(file = file, columns = c("rep", "net")), metrics = c(revenue = "sum(net)"))
  expect_setequal(few$fields$name, c("rep", "net"))
  odd <- odd_lines(5)
  file <- withr::local_tempfile(fileext = ".parquet")
  nanoparquet::write_parquet(odd, file)
  expect_same_result(ll_standings(odd_book(file), "account", names(odd_metrics)),
                     ll_standings(odd_book(odd), "account", names(odd_metrics)), "odd")
  expect_error(ll_book(list(file = file, columns = "nett")), "no column 'nett'.*'net'",
               class = "ll_error_word")
  writeBin(c(charToRaw("PAR1"), as.raw(1:40)), file)
  expect_error(ll_book(file), "cannot be read as Parquet", class = "ll_error_file")
})

test_that("spreadsheets are read by sheet, range and header row", {
  skip_if_not_installed("readxl")
  lines <- demo_frame()[1:400, ]
  file <- withr::local_tempfile(fileext = ".xlsx")
  book <- openxlsx::createWorkbook()
  for (sheet in c("Notes", "Orders")) openxlsx::addWorksheet(book, sheet)
  openxlsx::writeData(book, "Notes", "see the other sheet")
  openxlsx::writeData(book, "Orders", "Order lines")
  openxlsx::writeData(book, "Orders", lines, startRow = 4)
  openxlsx::saveWorkbook(book, file)
  want <- ask_reps(lines)
  last <- nrow(lines) + 4
  specs <- list(list(sheet = "Orders"), list(sheet = 2), list(sheet = "Orders", header_row = 4),
                list(sheet = "Orders", range = paste0("A4:M", last)))
  for (spec in specs) {
    got <- ask_reps(c(list(file = file), spec))
    expect_equal(as.data.frame(got), as.data.frame(want))
    expect_true(all(ll_proof(got)$holds))
  }
  # Account numbers with leading zeros stay text.
  expect_true(all(nchar(internal("names_of")(ll_book(list(file = file, sheet = 2)), "account")) ==
                  5))
  expect_error(ll_book(list(file = file, sheet = "Order")), "no sheet called 'Order'.*'Orders'",
               class = "ll_error_word")
  # The first sheet with a table, not the first.
  expect_equal(as.data.frame(ask_reps(list(file = file))), as.data.frame(want))
  expect_error(ll_book(list(file = demo_path("order_lines.csv"), sheet = 1)),
               "belongs to spreadsheets", class = "ll_error_argument")
  register <- withr::local_tempfile(fileext = ".xlsx")
  openxlsx::write.xlsx(data.frame(rep = c("Maren Holt", "Nobody"), team = c("north", "south")),
                       register)
  got <- ll_standings(ll_book(lines, registers = list(rep = register),
                              metrics = c(revenue = "sum(net)")), "team")
  expect_equal(got$revenue[got$team %in% "north"], sum(lines$net[lines$rep %in% "Maren Holt"],
                                                       na.rm = TRUE))
})

test_that("what is wrong with files is said, with the file", {
  folder <- withr::local_tempdir()
  expect_error(ll_book(file.path(folder, "lines-*.csv")), "matches no file",
               class = "ll_error_file")
  writeLines("rep,net", file.path(folder, "empty.csv"))
  writeLines(c("rep,net", "Ida,1"), file.path(folder, "full.csv"))
  expect_error(ll_book(file.path(folder, "*.csv")), "empty.csv' holds a header and no lines",
               class = "ll_error_file")
  expect_error(ll_book(c(file.path(folder, "full.csv"), file.path(folder, "ful.csv"))),
               "does not exist.*'full.csv'", class = "ll_error_file")
  expect_error(ll_book(list(flie = "x.csv")), "unknown key 'flie'.*'file'", class = "ll_error_word")
  expect_error(ll_book(list(file = "x.csv", table = "t")), "does not go with files",
               class = "ll_error_argument")
  expect_error(ll_book(1:3), "must be a data frame", class = "ll_error_argument")
})

test_that("the command and the brief take several files, Parquet and spreadsheets", {
  skip_unless_all()
  folder <- parts_of_demo(withr::local_tempdir(), as_csv, ".csv")
  want <- ll_finding(ask_reps(demo_frame()))
  words <- c("--define", "revenue=sum(net)", "--each", "rep", "--format", "line")
  expect_identical(command("standings", list.files(folder, full.names = TRUE), words)$out, want)
  expect_identical(command("standings", file.path(folder, "*.csv"), words)$out, want)
  got <- command("standings", file.path(folder, "*.csv"), "--source-field", "origin", "--define",
                 "revenue=sum(net)", "--each", "origin", "--format", "csv")
  expect_length(got$out, 4)
  brief <- file.path(folder, "longladder.yml")
  writeLines(c("lines:", "  file: [lines-2024.csv, \"lines-202[56].csv\"]",
               "  source_field: origin", "metrics: {revenue: sum(net)}", "pages:",
               "  reps: {study: standings, each: rep}"), brief)
  expect_identical(ll_finding(ll_standings(ll_brief(brief)$book, "rep")), want)
  out <- file.path(folder, "out")
  expect_equal(command("run", brief, "--out", out)$status, 0)
  record <- jsonlite::read_json(file.path(out, "record.json"), simplifyVector = TRUE)
  expect_equal(record$read$what, rep("lines", 3))
  expect_false(anyNA(record$read$md5))
})

test_that("results are saved as Parquet too", {
  skip_if_not_installed("nanoparquet")
  result <- ll_standings(demo_book(), "rep", top = 5, when = "2026-Q2", against = "year before")
  file <- withr::local_tempfile(fileext = ".parquet")
  ll_save(result, file)
  expect_equal(as.data.frame(nanoparquet::read_parquet(file)), as.data.frame(result),
               ignore_attr = TRUE)
})

test_that("a cover sheet is passed over, and totals in a sheet are excluded", {
  skip_if_not_installed("openxlsx")
  skip_if_not_installed("readxl")
  file <- withr::local_tempfile(fileext = ".xlsx")
  lines <- data.frame(Customer = c("a", "a", "Total a", "b", "b", "Total b", "Total"),
                      Item = c("x", "y", NA, "x", "y", NA, NA), Net = c(10.5, 2, 12.5, 3, 4, 7, 19.5))
  pages <- list(Cover = data.frame(x = c("Sales report", "made by Pat", "May")), Lines = lines,
                Notes = data.frame(x = "nothing"))
  openxlsx::write.xlsx(pages, file)
  book <- ll_book(file, metrics = c(revenue = "sum(Net)"))
  got <- ll_total(book)
  expect_equal(got$value, 19.5)
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "the sheet 'Lines' is read")
})
