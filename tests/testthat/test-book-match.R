# Keys of lines and registers that nearly meet: proposed with what each rule wins, met as said.

match_book <- function(codes, register, ...) {
  lines <- data.frame(account = codes, day = as.Date("2025-01-01") + seq_along(codes),
                      net = seq_along(codes) * 10.5)
  ll_book(lines, fields = c(account = "dimension"), metrics = c(revenue = "sum(net)"),
          registers = list(account = data.frame(account = register,
                                                team = rep_len(c("x", "y"), length(register)))), ...)
}

cases <- list(zeros = list(c("7", "12"), c("0007", "0012")),
              trim = list(c("A1 ", " B2"), c("A1", "B2")),
              case = list(c("b2", "c3"), c("B2", "C3")),
              punctuation = list(c("C-001", "D.002"), c("C001", "D002")),
              `trim, case and zeros` = list(c(" a07", "b1"), c("A7", "B1 ")))

test_that("lines without an entry are counted, and the rule that lets them meet is printed", {
  for (rule in names(cases)) {
    one <- cases[[rule]]
    said <- ll_notes(ll_total(match_book(one[[1]], one[[2]])))
    expect_identical(said$kind[1], "undecided", info = rule)
    expect_match(said$text[1], paste0("^2 lines \\(31[.]50 of net\\) find no entry .*2 of them meet"))
    rules <- strsplit(sub(".*match: \\{account: \\[(.*?)\\].*", "\\1", said$text[1], perl = TRUE), ", ")
    book <- match_book(one[[1]], one[[2]], match = list(account = rules[[1]]))
    got <- ll_standings(book, "team")
    expect_equal(got$revenue, c(21, 10.5), info = rule)
    expect_true(all(ll_proof(got)$holds), info = rule)
    expect_false("undecided" %in% ll_notes(got)$kind)
    expect_setequal(ll_standings(book, "account")$account, one[[2]])
  }
})

test_that("a rule that would join two entries is not proposed and not run", {
  book <- match_book(c("7", "9"), c("07", "007", "9"))
  expect_false("undecided" %in% ll_notes(ll_total(book))$kind)
  expect_error(match_book(c("7", "9"), c("07", "007", "9"), match = list(account = "zeros")),
               "would be one: '07' and '007'", class = "ll_error_data")
  expect_error(match_book("7", "07", match = list(acount = "zeros")), "Nearest: 'account'",
               class = "ll_error_word")
  expect_error(match_book("7", "07", match = list(account = "zeroes")), "zeros")
})
