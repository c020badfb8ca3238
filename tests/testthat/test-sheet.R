# Spreadsheets as people keep them: tables that do not begin in A1, heads over two rows, merged
# cells, hidden rows, numbers and dates as text, formulas that were never reckoned.

sheet_of_cells <- function(put) {
  file <- tempfile(fileext = ".xlsx")
  book <- openxlsx::createWorkbook()
  openxlsx::addWorksheet(book, "Data")
  put(book, function(x, row, column) {
    openxlsx::writeData(book, "Data", x, startRow = row, startCol = column, colNames = FALSE)
  })
  openxlsx::saveWorkbook(book, file, overwrite = TRUE)
  file
}

lines_of_sheet <- data.frame(rep = rep(c("Ann", "Bo", "Cy"), each = 4), item = c("hive", "jar"),
                             day = as.Date("2026-03-01") + 0:11, net = 10 * 1:12 + .5)

test_that("a table that does not begin in A1 is found, below titles and beside blank columns", {
  file <- sheet_of_cells(function(book, put) {
    put("Sales by rep", 2, 3)
    put("Prepared by Pat", 3, 3)
    put(t(names(lines_of_sheet)), 6, 3)
    put(lines_of_sheet, 7, 3)
  })
  book <- ll_book(file, metrics = c(revenue = "sum(net)"))
  expect_equal(book$lines, 12)
  expect_equal(ll_total(book)$value, sum(lines_of_sheet$net))
  expect_identical(book$fields$role[book$fields$name == "day"], "date")
  expect_match(paste(book$fixes$text, collapse = " "), "5 rows above the header skipped")
})

test_that("a head over two rows gives each column both of its names", {
  file <- sheet_of_cells(function(book, put) {
    put("Sales by month", 1, 1)
    put(t(c("Rep", "2025", "", "2026", "")), 3, 1)
    put(t(c("", "Nov", "Dec", "Jan", "Feb")), 4, 1)
    openxlsx::mergeCells(book, "Data", cols = 1, rows = 3:4)
    openxlsx::mergeCells(book, "Data", cols = 2:3, rows = 3)
    openxlsx::mergeCells(book, "Data", cols = 4:5, rows = 3)
    put(data.frame(c("Ann", "Bo"), c(1, 2), c(3, 4), c(5, 6), c(7, 8)), 5, 1)
  })
  book <- ll_book(file)
  expect_setequal(book$fields$name, c("Rep", "2025 Nov", "2025 Dec", "2026 Jan", "2026 Feb"))
  turned <- ll_book(file, unpivot = "20*", metrics = c(revenue = "sum(amount)"))
  expect_equal(ll_total(turned, when = "2025-12")$value, 7)
  expect_equal(ll_total(turned, when = "2026")$value, 26)
})

test_that("what stands in a merged cell belongs to all of its rows", {
  file <- sheet_of_cells(function(book, put) {
    put(t(names(lines_of_sheet)), 1, 1)
    shown <- lines_of_sheet
    shown$rep[duplicated(shown$rep)] <- NA
    put(shown, 2, 1)
    for (k in 0:2) openxlsx::mergeCells(book, "Data", cols = 1, rows = 2:5 + 4 * k)
  })
  book <- ll_book(file, metrics = c(revenue = "sum(net)"))
  got <- as.data.frame(ll_standings(book, "rep"))
  expect_equal(got$revenue[match(c("Ann", "Bo", "Cy"), got$rep)],
               as.vector(tapply(lines_of_sheet$net, lines_of_sheet$rep, sum)))
  expect_match(paste(book$fixes$text, collapse = " "), "merged cells")
})

test_that("hidden rows are read and told; a formula without its value is refused", {
  file <- sheet_of_cells(function(book, put) {
    put(t(names(lines_of_sheet)), 1, 1)
    put(lines_of_sheet, 2, 1)
  })
  hidden <- ll_book(hide_rows(file, 3:5), metrics = c(revenue = "sum(net)"))
  expect_equal(hidden$lines, 12)
  expect_match(paste(hidden$fixes$text, collapse = " "), "3 rows hidden in the sheet")
  formula <- sheet_of_cells(function(book, put) {
    put(t(c(names(lines_of_sheet), "tax")), 1, 1)
    put(lines_of_sheet, 2, 1)
    for (row in 2:13) openxlsx::writeFormula(book, "Data", paste0("D", row, "*0.2"), startCol = 5,
                                             startRow = row)
  })
  expect_error(ll_book(formula), "12 formulas without their values.*cell E2", class = "ll_error_file")
  kept <- ll_book(list(file = formula, columns = names(lines_of_sheet)))
  expect_equal(kept$lines, 12)
})

test_that("numbers and dates as text among others are read as the sheet shows them", {
  file <- sheet_of_cells(function(book, put) {
    put(t(names(lines_of_sheet)), 1, 1)
    put(lines_of_sheet, 2, 1)
    for (row in c(4, 9)) put(format(lines_of_sheet$day[row - 1], "%d.%m.%Y"), row, 3)
    put("1.234,50", 4, 4)
    put("2.000,00", 9, 4)
  })
  book <- ll_book(file, metrics = c(revenue = "sum(net)"))
  expect_equal(ll_total(book)$value, sum(lines_of_sheet$net[-c(3, 8)]) + 3234.5)
  expect_identical(book$fields$role[book$fields$name == "day"], "date")
  expect_equal(ll_total(book, when = "2026-03-03")$value, 1234.5)
})

test_that("texts within the sheet's own part move no place", {
  file <- sheet_of_cells(function(book, put) {
    put(t(names(lines_of_sheet)), 1, 1)
    put(lines_of_sheet, 2, 1)
    for (k in 0:2) openxlsx::mergeCells(book, "Data", cols = 1, rows = 2:5 + 4 * k)
  })
  parts <- internal("sheet_parts")(changed_sheet(file, function(xml) {
    sub("<sheetData>", "<!-- \u00fc\u00e9\u4e2d\u6587 --><sheetData>", xml, fixed = TRUE)
  }), 1)
  expect_identical(parts$merged$top, c(2L, 6L, 10L))
  expect_identical(parts$merged$bottom, c(5L, 9L, 13L))
})
