# Amounts in two columns or in thousands, and times of day in a column beside the date.

said <- function(words) {
  text <- utils::capture.output(type = "message", out <- utils::capture.output(ll_main(words)))
  list(told = paste(text, collapse = "\n"), out = paste(out, collapse = "\n"))
}

offered <- function(book) {
  text <- book$offers$text[1]
  at <- regexpr("--[a-z]+ '[^']+'", text)
  option <- regmatches(text, at)
  c(sub(" .*", "", option), gsub("'", "", sub("^[^ ]+ ", "", option)))
}

test_that("debit and credit are proposed as one amount, and neither is taken for it", {
  heads <- list(c("Debit", "Credit"), c("Soll", "Haben"), c("D\u00e9bit", "Cr\u00e9dit"),
                c("Debe", "Haber"), c("Debit EUR", "Credit EUR"))
  for (head in heads) {
    file <- write_text(c(paste(c("Date", "Customer", head), collapse = ";"), "2026-01-05;Hale;;100.50",
                         "2026-01-06;Mora;20.25;", "2026-01-07;Hale;;30"))
    book <- ll_book(file)
    expect_match(book$offers$text, paste(head[1], "and", head[2], "are one amount in two columns"))
    expect_match(said(c("total", file))$told, "no metrics", info = head[1])
    got <- said(c("total", file, offered(book)))$out
    expect_match(got, "110.25", fixed = TRUE, info = head[1])
  }
  # Both on the same line are two amounts.
  both <- ll_book(write_text(c("Date;Customer;Debit;Credit", "2026-01-05;Hale;5;100.50",
                               "2026-01-06;Mora;20.25;7")))
  expect_null(both$offers)
})

test_that("a column in thousands by its name is told, with the words that show it in full", {
  heads <- c("Revenue EUR '000", "Umsatz TEUR", "Umsatz (Tsd.)", "Revenue in thousands", "CA K\u20ac",
             "Net k\u20ac")
  for (head in heads) {
    book <- ll_book(write_text(c(paste0("Month;Customer;", head), "2026-01;Hale;1.5", "2026-02;Mora;2.25")))
    expect_match(book$offers$text, "is in thousands by its name.*shows them in full: 3,750", info = head)
  }
  for (head in c("Net", "Thousand Oaks net", "Value 2000", "Teurer"))
    expect_null(ll_book(write_text(c(paste0("Month;Customer;", head), "2026-01;Hale;1.5",
                                     "2026-02;Mora;2.25")))$offers, info = head)
})

test_that("times of day beside the date serve as its hour", {
  for (times in list(c("08:15", "13:05", "23:59"), c("8:15 am", "1:05 PM", "11:59 pm"),
                     c("08:15:30", "13:05:00", "23:59:59"))) {
    book <- ll_book(write_text(c("Date,Time,Item,Net", paste0("2026-03-0", 1:3, ",", times, ",hive,",
                                                              c(10, 20, 40)))),
                    metrics = c(revenue = "sum(Net)"))
    got <- as.data.frame(ll_standings(book, "hour(Date)"))
    expect_equal(got$revenue[match(c("08", "13", "23"), got[[2]])], c(10, 20, 40), info = times[1])
    expect_equal(ll_total(book, where = "hour(Date) >= 12")$value, 60)
    expect_equal(ll_total(book, when = "2026-03-03")$value, 40)
    expect_match(book$fixes$text, "times of Time joined to Date")
  }
  # No times, or two columns of them: nothing is joined.
  plain <- ll_book(write_text(c("Date,Time,Net", "2026-03-01,soon,1", "2026-03-02,08:00,2")))
  expect_null(plain$fixes)
  gaps <- ll_book(write_text(c("Date,Time,Net", "2026-03-01,,1", "2026-03-02,08:00,2")))
  expect_match(gaps$fixes$text, "1 line without one count at midnight")
})
