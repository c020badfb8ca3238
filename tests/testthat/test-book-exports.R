# Exports as they come: each fix is made, told once, proven, and can be switched off.

revenue <- c(revenue = "sum(net)")
notes_of <- function(x) paste(ll_notes(x)$text, collapse = " ")

# The same three lines under many disguises.
plain <- c("order_no,day,rep,net", "001,2026-03-01,Ida,1234.50", "002,2026-03-15,Tom,-45.00",
           "003,2026-04-02,Ida,2500.00")
disguises <- list(
  plain = list(text = plain),
  semicolons = list(text = c("order_no;day;rep;net", "001;01.03.2026;Ida;1.234,50",
                             "002;15.03.2026;Tom;(45,00)", "003;02.04.2026;Ida;2.500,00"),
                    told = "decimal commas"),
  tabs = list(text = gsub(",", "\t", plain)),
  titles = list(text = c("Sales report,,,", "\"made by Pat, head office\",,,", "", plain),
                told = "2 rows above the header"),
  total = list(text = c(plain, "Grand total,,,3689.50"), told = "1 grand-total row"),
  nameless = list(text = c(plain, ",,,3689.50"), told = "1 grand-total row"),
  foot = list(text = c(plain, "", "Printed on Monday"), told = "1 row below the lines"),
  short_total = list(text = c(plain, "Total,3689.50"), told = "1 row below the lines"),
  ledger = list(text = sub("-45.00", "45.00-", plain), told = "negatives in ledger form"),
  grouped = list(text = sub("1234.50", "\"1,234.50\"", plain), told = "grouping marks"),
  currency = list(text = sub("([-0-9.]+)$", "EUR \\1", plain), told = "currency marks"),
  named_months = list(text = sub("2026-03-01", "1 Mar 2026", plain),
                      told = "read from other forms"),
  bom = list(text = c(paste0("\ufeff", plain[1]), plain[-1])))

test_that("the same lines under every disguise give the same answer, told and proven", {
  want <- as.data.frame(ll_standings(ll_book(write_text(plain), metrics = revenue), "rep"))
  for (name in names(disguises)) {
    one <- disguises[[name]]
    book <- ll_book(write_text(one$text), metrics = revenue)
    got <- ll_standings(book, "rep", when = "2026")
    expect_equal(as.data.frame(got), want, info = name)
    expect_true(all(ll_proof(got)$holds), info = name)
    if (is.null(one$told)) expect_no_match(notes_of(got), "On opening", info = name)
    else expect_match(notes_of(got), one$told, info = name)
    expect_identical(ll_standings(book, "order_no")$order_no[3], "002", info = name)
  }
  file <- tempfile(fileext = ".csv.gz")
  con <- gzfile(file, "w")
  writeLines(plain, con)
  close(con)
  expect_equal(as.data.frame(ll_standings(ll_book(file, metrics = revenue), "rep")), want)
  wide <- tempfile(fileext = ".csv")
  writeBin(iconv(paste0(plain, "\n", collapse = ""), "UTF-8", "UTF-16", toRaw = TRUE)[[1]], wide)
  expect_equal(as.data.frame(ll_standings(ll_book(wide, metrics = revenue), "rep")), want)
})

test_that("a grand total that is not the lines' own shows in the proof", {
  book <- ll_book(write_text(c(plain, "Grand total,,,9999.00")), metrics = revenue)
  proof <- ll_proof(ll_standings(book, "rep"))
  expect_equal(proof$found[proof$check == "the grand-total row's net = the lines'"], 3689.5)
  expect_equal(sum(!proof$holds), 1)
})

test_that("a name that sounds like a total stays a name", {
  lines <- c(plain, "004,2026-04-03,Total Garden Ltd,10.00")
  got <- ll_standings(ll_book(write_text(lines), metrics = revenue), "rep")
  expect_equal(got$revenue[got$rep == "Total Garden Ltd"], 10)
})

test_that("each fix can be switched off", {
  off <- function(name, text) ll_book(write_text(text), metrics = revenue,
                                      fixes = stats::setNames(list(FALSE), name))
  expect_error(off("title_rows", disguises$titles$text), "switched off", class = "ll_error_file")
  expect_equal(ll_standings(off("total_rows", disguises$total$text), "rep", top = 1)$revenue,
               3734.5)
  expect_error(off("foot_rows", disguises$foot$text), "seems to be cut off", class = "ll_error_file")
  expect_error(off("numbers", disguises$ledger$text), "holds text", class = "ll_error_formula")
  expect_error(ll_standings(off("dates", disguises$named_months$text), "rep", when = "2026"),
               "no date field")
  latin <- tempfile()
  writeBin(c(charToRaw("rep,net\nJos"), as.raw(0xe9), charToRaw(",1\nAnn,2\n")), latin)
  expect_match(notes_of(ll_standings(ll_book(latin, metrics = revenue), "rep")), "Latin-1")
  expect_error(ll_book(latin, fixes = list(encoding = FALSE)), "not in UTF-8",
               class = "ll_error_file")
})

test_that("of several currencies in one column one counts, or all as they stand", {
  file <- write_text("rep,net", "Ida,EUR 5", "Tom,USD 7", "Ida,EUR 1.50")
  expect_error(ll_standings(ll_book(file, metrics = revenue), "rep"), "would add up 2 currencies",
               class = "ll_error_data")
  one <- ll_book(file, metrics = revenue, fields = list(net = list(currency = "EUR")))
  expect_equal(ll_standings(one, "rep")$revenue, c(6.5, NA))
  any <- ll_book(file, metrics = revenue, fields = list(net = list(currency = "any")))
  expect_equal(ll_standings(any, "rep")$revenue, c(7, 6.5))
})

test_that("dates in doubt are read one way, told, and can be turned", {
  file <- write_text("rep,day,net", "Ida,03/04/2026,1", "Tom,05/06/2026,2")
  book <- ll_book(file, metrics = revenue)
  got <- ll_standings(book, "rep", when = "2026-04")
  expect_identical(got$rep, "Ida")
  expect_match(notes_of(got), "could change places")
  turned <- ll_book(file, metrics = revenue, fields = list(day = list(form = "month first")))
  expect_identical(ll_standings(turned, "rep", when = "2026-05")$rep, "Tom")
  clash <- write_text("rep,day,net", "Ida,13/04/2026,1", "Tom,04/13/2026,2")
  expect_error(ll_book(clash), "contradict", class = "ll_error_data")
})

test_that("a column per month becomes lines", {
  file <- write_text("cust,area,2026-01,Feb 2026,2026-03", "x,n,1,2,", "y,s,,5,3.5")
  book <- ll_book(file, unpivot = list(columns = c("2026-*", "Feb 2026"), names = "month",
                                       values = "net"), metrics = revenue)
  got <- ll_standings(book, "cust", when = "2026-Q1")
  expect_equal(got$revenue, c(8.5, 3))
  expect_equal(ll_standings(book, "area", when = "2026-02")$revenue, c(5, 2))
  expect_true(all(ll_proof(got)$holds))
  expect_match(notes_of(got), "3 columns .* of 2 rows unpivoted into 4 lines, 2 blank cells")
  plan <- ll_book(write_text("cust,plan,actual", "x,5,4", "y,6,7"),
                  unpivot = list(columns = c("plan", "actual"), names = "kind", values = "net"),
                  metrics = revenue)
  expect_equal(ll_standings(plan, "kind")$revenue, c(11, 11))
  expect_error(ll_book(file, unpivot = "2027-*"), "matches no column", class = "ll_error_word")
  expect_error(ll_book(file, unpivot = list(columns = "2026-*", names = "area")), "second column",
               class = "ll_error_argument")
  expect_error(ll_book(file, unpivot = list(column = "2026-*")), "Nearest: 'columns'",
               class = "ll_error_word")
})

test_that("times keep their hour, and their day is that of the place", {
  file <- write_text("rep,at,net", "Ida,2026-03-31T23:30:00Z,1", "Tom,2026-03-31T08:05:00Z,2",
                     "Tom,2026-03-31T08:55:00Z,4")
  place <- ll_book(file, metrics = revenue, calendar = list(time_zone = "Europe/Lisbon"))
  expect_equal(ll_standings(place, "rep", when = "2026-04-01")$rep, "Ida")
  hours <- ll_standings(place, "hour(at)")
  expect_identical(hours$at_hour, c("09", "00"))
  expect_true(all(ll_proof(hours)$holds))
  frame <- data.frame(k = c("a", "b"), at = as.POSIXct(c("2026-03-31 09:30", "2026-03-31 22:00"),
                                                       tz = "America/New_York"), net = 1:2)
  book <- ll_book(frame, metrics = revenue)
  expect_identical(ll_standings(book, "hour(at)")$at_hour, c("22", "09"))
  expect_equal(nrow(ll_standings(book, "k", when = "2026-03-31")), 2)
})

test_that("the part of a day holds its six hours, in tables, conditions and questions", {
  at <- as.POSIXct("2026-03-31", tz = "UTC") + c(0, 21599, 21600, 43199, 43200, 64800, 86399)
  book <- ll_book(data.frame(k = "a", at = at, net = 10^(0:6)), metrics = revenue)
  want <- c("00-06 night" = 11, "06-12 morning" = 1100, "12-18 afternoon" = 1e4,
            "18-24 evening" = 1.1e6)
  got <- ll_standings(book, "part_of_day(at)")
  expect_equal(got$revenue[match(names(want), got$at_part_of_day)], unname(want))
  expect_true(all(ll_proof(got)$holds))
  expect_equal(ll_total(book, where = "part_of_day(at) == 'evening'")$value, 1.1e6)
  expect_equal(ll_ask(book, "revenue by part of the day")$revenue, got$revenue)
  expect_equal(ll_ask(book, "which hour has most revenue")$at_hour[1], "23")
  expect_error(ll_total(book, where = "part_of_day(at) == 'noon'"), "morning",
               class = "ll_error_formula")
})

test_that("wide, narrow, cut and broken files", {
  wide <- as.data.frame(c(list(rep = c("a", "b")), stats::setNames(as.list(1:200),
                                                                   paste0("c", 1:200))))
  file <- tempfile(fileext = ".csv")
  utils::write.csv(wide, file, row.names = FALSE)
  expect_equal(ll_standings(ll_book(file, metrics = c(m = "sum(c7) + sum(c200)")), "rep")$m,
               c(207, 207))
  expect_error(ll_book(write_text("net", "1", "2")), "one column", class = "ll_error_file")
  cut <- tempfile()
  writeBin(charToRaw("rep,note,net\nIda,fine,1\nTom,\"cut in the mid"), cut)
  expect_error(ll_book(cut), "ends inside a quoted cell.*line 3", class = "ll_error_file")
  broken <- tempfile(fileext = ".gz")
  writeBin(as.raw(c(0x1f, 0x8b, 8, 0, 1:30)), broken)
  expect_error(ll_book(broken), "gzip", class = "ll_error_file")
})

test_that("what the lines of the file are is counted apart from the reader", {
  withr::local_seed(4)
  for (i in 1:12) {
    n <- sample(c(1, 3, 40), 1)
    lines <- data.frame(k = replicate(n, paste(sample(c("a", "\n", "\"", ",", " ", "\u00e9", ";"),
                                                      5, TRUE), collapse = "")),
                        net = round(rnorm(n), 2), z = "end")
    file <- tempfile(fileext = ".csv")
    utils::write.csv(lines, file, row.names = FALSE, fileEncoding = "UTF-8")
    book <- ll_book(file, fields = c(k = "dimension", net = "measure"), metrics = revenue)
    proof <- ll_proof(ll_standings(book, "z", "revenue"))
    expect_equal(proof$expected[grepl("lines in the file", proof$check)], n)
    expect_true(all(proof$holds))
  }
})

test_that("pages that repeat a head of one row or two, with titles above it, are lines alone", {
  for (rows in 1:2) {
    head <- c("Sales register,,,,page %d", if (rows == 2) ",,,Sales,Sales",
              "Date,Order,Customer,Amount,Quantity")
    set.seed(rows)
    lines <- data.frame(day = as.Date("2025-01-01") + 0:59, order = paste0("SO", 9000 + 1:60),
                        customer = sample(c("Hale", "Fen"), 60, TRUE),
                        amount = round(stats::runif(60, 3, 800), 2), quantity = sample(9, 60, TRUE))
    page <- function(i) {
      own <- lines[(i - 1) * 20 + 1:20, ]
      c(sub("%d", i, head), do.call(paste, c(own, sep = ",")),
        sprintf("Page total,,,%.2f,%d", sum(own$amount), sum(own$quantity)))
    }
    file <- write_text(c(unlist(lapply(1:3, page)), sprintf("Grand total,,,%.2f,%d", sum(lines$amount),
                                                            sum(lines$quantity))))
    book <- ll_book(file)
    expect_identical(as.numeric(book$lines), 60)
    money <- grep("Amount", book$fields$name, value = TRUE)
    got <- ll_total(ll_book(file, metrics = c(revenue = paste0("sum(`", internal("unguarded")(money), "`)"))))
    expect_equal(got$value, sum(lines$amount))
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("a row of units, Indian grouping, two-year fiscal periods and totals on top are read", {
  one <- function(...) ll_book(write_text(...), metrics = c(revenue = "sum(Net)"))
  units <- one("Day,Customer,Quantity,Net", "(d.m.y),,(pcs),(EUR)", "11.01.2025,A,2,10.50",
               "14.02.2025,B,3,20.25")
  expect_equal(ll_total(units, when = "2025-01")$value, 10.5)
  expect_match(units$fixes$text, "row of units .*'\\(pcs\\)' and '\\(EUR\\)'", all = FALSE)
  # A first line without figures of a table of texts stays.
  expect_equal(one("Customer,Note,Net", "A,none,", "B,x1,2", "C,y2,3")$lines, 3)
  lakh <- one("Bill,Net", "B1,\"1,23,456.78\"", "B2,\"12,34,567\"", "B3,999.22")
  expect_equal(ll_total(lakh)$value, 123456.78 + 1234567 + 999.22)
  fiscal <- one("Period,Net", "FY2025/26 P01,1", "FY2025/26 P02,2", "FY2026/27 P01,4")
  expect_equal(ll_total(fiscal, when = "2026")$value, 3)
  expect_null(one("Period,Net", "FY2025-03,1", "FY2025-04,2")$date)
  for (first in c("Total", "All customers", "")) {
    wide <- ll_book(write_text("Customer,Jan 2025,Feb 2025", paste0(first, ",60,627"), "A,10,104",
                               "B,20,211", "C,30,312"), unpivot = "* 2025",
                    metrics = c(revenue = "sum(amount)"))
    expect_equal(ll_total(wide)$value, 687, info = first)
  }
})

test_that("names that a report prints once are proposed, and carried down as said", {
  text <- c("Customer,Order,Net", "Firm A,1,10", ",2,20", ",3,30", "Firm B,4,1", ",5,2", ",6,3")
  book <- ll_book(write_text(text), metrics = c(revenue = "sum(Net)"))
  expect_match(book$offers$text, "4 lines \\(55 of Net\\) without Customer.*--fill Customer=above")
  got <- command("standings", write_text(text), "--each", "Customer", "--fill", "Customer=above",
                 "--define", "revenue=sum(Net)")
  expect_equal(got$status, 0)
  expect_match(got$out, "Firm A leads by revenue with 60", all = FALSE)
  # Names that come again, or begin later, are no such report.
  for (other in list(replace(text, 5, "Firm A,4,1"), text[c(1, 3, 2, 4:7)]))
    expect_null(ll_book(write_text(other), metrics = c(revenue = "sum(Net)"))$offers)
})
