# Numbers as companies write them, the mark of the whole file, units in cells; numbers that are none.

test_that("a column whose cells leave the decimal mark open has that of the file", {
  cases <- list(
    list(other = c("12,50", "3,20"), want = c(85252, 1e3), mark = ";"),
    list(other = c("12.5", "3.25"), want = c(85.252, 1), mark = ";"),
    list(other = c("1.234,56-", "12,00"), want = c(85252, 1e3), mark = ";"))
  for (one in cases) {
    file <- write_text("rep;net;cost", paste(c("a", "b"), c("85.252", "1.000"), one$other, sep = ";"))
    book <- ll_book(file, metrics = c(m = "sum(net)"))
    expect_equal(ll_standings(book, "rep")$m, one$want, info = one$other[1])
    expect_true(all(ll_proof(ll_total(book))$holds))
  }
  # Whole thousands are no decimals.
  file <- write_text("rep;units;net", "a;3.000;12,5", "b;4.000;7,25")
  expect_equal(ll_total(ll_book(file, metrics = c(m = "sum(units)")))$value, 7000)
  expect_error(ll_book(write_text("rep;units", "a;3.000", "b;4.000")), "two ways")
  both <- write_text("rep;x;y;z", "a;3.000;1,5;1.5", "b;4.000;2,5;2.5")
  expect_error(ll_book(both), "two ways", class = "ll_error_data")
})

test_that("units in cells are taken off where all bear the same and the header is of quantities", {
  book <- function(header, ...) ll_book(write_text(paste0("rep,", header), paste0(
    c("a,", "b,", "c,"), c(...))))
  role <- function(b) b$fields$role[2]
  for (cells in list(c("12 pcs", "1 pc", "7 pcs"), c("12 St\u00fcck", "1 St\u00fcck", "3 St\u00fcck"),
                     c("1.5kg", "2 kg", "12 kg"), c("\"1,5 kg\"", "\"2,5 kg\"", "\"3,25 kg\"")))
    expect_identical(role(book("Qty", cells)), "measure", info = cells[1])
  expect_identical(role(book("Qty", c("12 kg", "1 pc", "7 kg"))), "dimension")
  expect_identical(role(book("Size", c("500 g", "250 g", "100 g"))), "dimension")
})

test_that("positions, numbers of documents and of places are not added up", {
  lines <- data.frame(
    Beleg = rep(40001:40030, each = 4), Pos = rep(c(10, 20, 30, 40), 30), x = rep(1:4, 30),
    PLZ = rep(c(80331, 10115, 20095), 40), Kto = 700000 + (1:120 * 7919) %% 9973,
    Menge = rep(c(1, 2, 3), 40), Umsatz = rep(c(1200, 1300, 1405), 40))
  for (file in c(FALSE, TRUE)) {
    if (file) data.table::fwrite(lines, path <- tempfile(fileext = ".csv"))
    book <- ll_book(if (file) path else lines, metrics = c(revenue = "sum(Umsatz)"))
    role <- stats::setNames(book$fields$role, book$fields$name)
    expect_identical(unname(role[names(lines)]), c("identifier", "dimension", "dimension",
                                                   "dimension", "identifier", "measure", "measure"))
  }
})

test_that("a rate of each line is never added up without a word", {
  lines <- data.frame(rep = c("a", "b"), Rabatt = c(.05, .1), Discount_rate = c(0, .2), net = 1:2)
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"))
  said <- function(formula) paste(ll_notes(ll_total(book, c(d = formula)))$text, collapse = " ")
  expect_match(said("sum(Rabatt)"), "adds up Rabatt, which is a rate")
  expect_match(said("mean(Discount_rate)"), "unweighted")
  expect_no_match(said("sum(net)"), "rate of each line")
})

test_that("amounts of a currency without decimals are read in threes", {
  for (mark in c("\u00a5%s", "%s JPY", "%s\u5186", "\u20a9%s")) {
    file <- write_text(c("day;net", paste0("2025-01-0", 1:3, ";", sprintf(mark, c("121,315", "1,250", "980")))))
    expect_equal(ll_total(ll_book(file, metrics = c(r = "sum(net)")))$value, 123545)
  }
})
