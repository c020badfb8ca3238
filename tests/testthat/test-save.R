# Files: read back, they hold what the result holds.

result <- function() ll_standings(demo_book(), "rep", c("revenue", "margin_rate"), top = 5,
                                  when = "2026-Q2", against = "previous")

test_that("CSV comes back as the bare table", {
  file <- withr::local_tempfile(fileext = ".csv")
  x <- result()
  ll_save(x, file)
  expect_equal(data.table::fread(file, data.table = FALSE), as.data.frame(x), tolerance = 1e-12)
  expect_false(any(grepl("e[+-]", readLines(file))))
})

test_that("a text that a spreadsheet would run stays text, in CSV and in a workbook", {
  odd <- c("=1+1", "+cmd|x", "@sum", "-a", "-12.5", "plain", "\u00e9\"q\"")
  book <- ll_book(data.frame(k = odd, net = 7:1 + 0.5), fields = list(k = "dimension"),
                  metrics = c(revenue = "sum(net)"))
  x <- ll_standings(book, "k")
  csv <- withr::local_tempfile(fileext = ".csv")
  ll_save(x, csv)
  got <- gsub("\"\"", "\"", data.table::fread(csv, encoding = "UTF-8")$k)
  expect_identical(got, c("'=1+1", "'+cmd|x", "'@sum", "'-a", "-12.5", "plain", "\u00e9\"q\""))
  xlsx <- withr::local_tempfile(fileext = ".xlsx")
  ll_save(x, xlsx)
  expect_identical(openxlsx::read.xlsx(xlsx, rows = 1:8)$k, odd)
  folder <- withr::local_tempdir()
  utils::unzip(xlsx, exdir = folder)
  expect_false(any(grepl("<f>", readLines(file.path(folder, "xl/worksheets/sheet1.xml"),
                                          warn = FALSE))))
})

test_that("only what a spreadsheet would run is guarded, in headers too", {
  runs <- c("=1+1", "+1+cmd", "-2+3+cmd|x!A0", "@sum(1)", "+44-20-7946", "-a", "- none -",
            "+(1+1)", "+A1 B2")
  safe <- c("+44 20 7946 0000", "+49 (0)30 1234-5", "+44 (20) 7946", "-12.5", "-1,234.50", "-",
            "--", "+", "a=1", "1-2", "4 @ 5", "(none)", "")
  guard <- internal("safe_text")
  expect_identical(guard(runs), paste0("'", runs))
  expect_identical(guard(safe), safe)
  # Whatever sign parts cells where the file is opened.
  parted <- c("a;=cmd|x", "a\t+f(1)", "b|@SUM(1)", "c\n=1+1", "d;;=x", ";=1", "\t=1")
  expect_identical(guard(parted), c("a;'=cmd|x", "a\t'+f(1)", "b|'@SUM(1)", "c\n'=1+1", "d;;'=x",
                                    ";'=1", "'\t'=1"))
  for (text in c("a;-5", "a; b", "a|b", "x\ny")) expect_identical(guard(text), text)
  expect_identical(guard("\uff1dcmd"), "'\uff1dcmd")
  lines <- data.frame(k = rep(c("a", "b"), each = 11), tel = c(runs, "+44 20 7946 0000", "x"),
                      net = 1:22)
  book <- ll_book(lines, fields = list(tel = "dimension"), metrics = c(revenue = "sum(net)"))
  csv <- withr::local_tempfile(fileext = ".csv")
  ll_save(ll_crosstab(book, "k", "tel"), csv)
  heads <- names(data.table::fread(csv, encoding = "UTF-8", header = TRUE))
  expect_true("+44 20 7946 0000" %in% heads)
  expect_true(all(c("'=1+1", "'+1+cmd", "'@sum(1)") %in% heads))
  expect_false(any(grepl("^[=@]|^[+-].*[[:alpha:]]", strsplit(readLines(csv, 1), ",")[[1]])))
})

test_that("CSV and Parquet have the rows below the table when asked for", {
  x <- ll_standings(demo_book(), "rep", top = 4)
  foot <- ll_part(x, "foot")
  for (kind in c("csv", "parquet")) {
    file <- withr::local_tempfile(fileext = paste0(".", kind))
    ll_save(x, file, foot = TRUE)
    got <- if (kind == "csv") data.table::fread(file, data.table = FALSE) else
      as.data.frame(nanoparquet::read_parquet(file))
    expect_equal(got$row, rep(c("table", "foot"), c(nrow(x), nrow(foot))))
    expect_equal(got$rep, c(x$rep, foot$rep))
    expect_equal(got$revenue[nrow(got)], sum(demo_lines()$net, na.rm = TRUE))
    expect_equal(sum(got$revenue[-nrow(got)]), got$revenue[nrow(got)])
  }
  run <- command("standings", "--brief", demo_path("longladder.yml"), "--each", "rep", "--top", "4",
                 "--format", "csv", "--foot")
  expect_equal(run$status, 0)
  expect_match(run$out, "[(]none[)],.*,foot", all = FALSE)
  expect_error(ll_save(x, file, foot = "every"), "'foot' must be", class = "ll_error_argument")
  # A study without such rows has none.
  file <- withr::local_tempfile(fileext = ".csv")
  ll_save(ll_trend(demo_book(), every = "year"), file, foot = TRUE)
  expect_true(all(data.table::fread(file)$row == "table"))
})

test_that("JSON holds everything, numbers to the last bit, missing as null", {
  x <- result()
  file <- withr::local_tempfile(fileext = ".json")
  ll_save(x, file)
  got <- jsonlite::fromJSON(file)
  expect_named(got, c("study", "finding", "reading", "settings", "columns", "rows", "notes",
                      "proof", "parts"))
  expect_identical(got$finding, ll_finding(x))
  expect_identical(got$rows$revenue_share, x$revenue_share)
  expect_identical(got$rows$margin_rate, x$margin_rate)
  expect_identical(got$notes$text, ll_notes(x)$text)
  expect_equal(got$proof$holds, ll_proof(x)$holds)
  expect_equal(got$parts$foot$revenue, ll_part(x, "foot")$revenue)
  expect_identical(got$settings$when$from, "2026-04-01")
  expect_match(paste(readLines(file), collapse = ""), "\"revenue_running_share\":null")
  empty <- ll_standings(small_book(), "rep", when = "2030")
  ll_save(empty, file)
  expect_length(jsonlite::fromJSON(file)$rows, 0)
})

test_that("the workbook has the table, formats, a frozen header, and a sheet about it", {
  x <- result()
  file <- withr::local_tempfile(fileext = ".xlsx")
  ll_save(x, file)
  expect_identical(openxlsx::getSheetNames(file), c("standings", "about"))
  got <- openxlsx::read.xlsx(file, "standings", rows = 1:6)
  expect_equal(got$revenue, x$revenue)
  expect_identical(got$rep, x$rep)
  about <- unlist(openxlsx::read.xlsx(file, "about", colNames = FALSE))
  expect_true(all(c(ll_finding(x), ll_reading(x), ll_proof(x)$check) %in% about))
  folder <- withr::local_tempdir()
  utils::unzip(file, exdir = folder)
  sheet <- paste(readLines(file.path(folder, "xl/worksheets/sheet1.xml"), warn = FALSE),
                 collapse = "")
  expect_match(sheet, "state=\"frozen\"")
  expect_match(paste(readLines(file.path(folder, "xl/styles.xml"), warn = FALSE), collapse = ""),
               "#,##0.00", fixed = TRUE)
})

test_that("pictures are written in each kind", {
  x <- result()
  starts <- list(png = as.raw(c(0x89, 0x50)), pdf = charToRaw("%PDF"), svg = charToRaw("<?xml"))
  for (kind in names(starts)) {
    file <- withr::local_tempfile(fileext = paste0(".", kind))
    ll_save(x, file)
    expect_identical(readBin(file, "raw", length(starts[[kind]])), starts[[kind]])
  }
})

test_that("a target that cannot be written is refused, and an older file stays whole", {
  x <- result()
  folder <- withr::local_tempdir()
  for (bad in list(file.path(folder, "no", "such.csv"), folder, file.path(folder, "a.docx"),
                   file.path(folder, "noending"), ""))
    expect_error(ll_save(x, bad), class = "ll_error")
  old <- file.path(folder, "old.csv")
  writeLines("old", old)
  write_whole <- internal("write_whole")
  expect_error(write_whole(old, function(path) { writeLines("half", path); stop("disk full") }),
               "disk full", class = "ll_error_target")
  expect_identical(readLines(old), "old")
  expect_identical(list.files(folder, all.files = TRUE, no.. = TRUE), "old.csv")
})

test_that("in JSON several stay arrays, numbers are decimals, and nothing of R shows", {
  book <- odd_book(odd_lines(1))
  read <- function(x) jsonlite::fromJSON(paste(internal("as_json")(x), collapse = "\n"),
                                         simplifyVector = FALSE)
  for (study in setdiff(names(odd_questions), "detail")) {
    text <- paste(internal("as_json")(odd_questions[[study]](book)), collapse = "\n")
    expect_no_match(text, "\"_row\"", info = study)
    # Money with a tail of nines or noughts is a decimal that lost its last bits.
    expect_no_match(text, "[0-9]\\.[0-9]{1,4}(0{8,}|9{8,})[0-9]{0,3}[,}\\]]", info = study)
  }
  one <- read(ll_standings(book, "account", "revenue"))$settings
  two <- read(ll_standings(book, c("account", "area"), c("revenue", "n")))$settings
  expect_identical(list(one$each, one$metrics), list(list("account"), list("revenue")))
  expect_identical(list(two$each, two$metrics), list(list("account", "area"), list("revenue", "n")))
  expect_identical(read(ll_pareto(book, "account", "revenue"))$settings$cut, list(.8))
  low <- read(ll_score(book, "account", c("revenue", "n"), low = "n"))$settings$better
  expect_identical(low, list(revenue = "high", n = "low"))
  expect_no_match(command("associations", "--help")$out, "[0-9]e[+]", all = TRUE)
  for (study in names(internal("declarations")())) expect_no_match(command(study, "--help")$out,
                                                                   "[0-9]e[+]")
})

test_that("a workbook prints: sheets as wide as paper, heads on each, titles whole", {
  demo <- demo_book()
  long <- "Accounts of which the title is longer than any sheet's name may be, with \"quotes\""
  file <- withr::local_tempfile(fileext = ".xlsx")
  ll_workbook(stats::setNames(list(ll_standings(demo, "account", top = 5, when = "2026-Q2",
                                                against = "year before"),
                                   ll_tiers(demo, "rep", groups = 3), ll_trend(demo)),
                              c(long, "Tiers", "Months")), file)
  folder <- withr::local_tempdir()
  utils::unzip(file, exdir = folder)
  sheets <- lapply(sort(list.files(file.path(folder, "xl", "worksheets"), "[.]xml$",
                                   full.names = TRUE)), xml2::read_xml)
  find <- function(sheet, path) xml2::xml_find_all(xml2::xml_ns_strip(sheet), path)
  for (sheet in sheets) {
    expect_identical(xml2::xml_attr(find(sheet, "//pageSetUpPr"), "fitToPage"), "1")
    expect_identical(xml2::xml_attr(find(sheet, "//pageSetup"), "fitToHeight"), "0")
  }
  names <- find(xml2::read_xml(file.path(folder, "xl", "workbook.xml")),
                "//definedName[@name='_xlnm.Print_Titles']")
  expect_length(names, 5)
  # Merged sentences stand apart and have the height of their lines.
  page <- sheets[[2]]
  expect_match(xml2::xml_attr(find(page, "//mergeCell"), "ref")[1:2], "^A[12]:[A-Z]+[12]$")
  heights <- as.numeric(xml2::xml_attr(find(page, "//row"), "ht"))
  expect_gte(max(heights[1:2]), 30)
  formula <- xml2::xml_text(find(sheets[[1]], "//f"))[1]
  expect_match(formula, gsub("\"", "\"\"", long), fixed = TRUE)
})
