# Keys of lines and registers that nearly meet: proposed with what each rule wins, met as said.

match_book <- function(codes, register, fields = c(account = "dimension"), ...) {
  lines <- data.frame(account = codes, day = as.Date("2025-01-01") + seq_along(codes),
                      net = seq_along(codes) * 10.5)
  ll_book(lines, fields = fields, metrics = c(revenue = "sum(net)"),
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

test_that("similar spellings become the register's, whatever signs the eye cannot see", {
  odd <- c("ann", "Ann\u00a0", "Cafe\u0301", "Caf\u00e9", "B\u200b", "b", "Z")
  book <- match_book(odd, c("ANN", "Caf\u00c9", "B", "Z"),
                     fields = list(account = list(role = "dimension", same = "similar")))
  expect_setequal(ll_standings(book, "account")$account, c("ANN", "Caf\u00c9", "B", "Z"))
  expect_equal(sum(ll_standings(book, "team")$revenue), sum(seq_along(odd)) * 10.5)
  told <- book$fixes$text[book$fixes$kind == "same"]
  expect_match(told, "^6 lines .*'Ann\u2423' as 'ANN'")
  # Alone, without a register, and never one sign as the same.
  alone <- ll_book(data.frame(name = rev(odd), net = 1),
                   fields = list(name = list(role = "dimension", same = "similar")))
  pairs <- regmatches(alone$fixes$text, gregexpr("'[^']*' as '[^']*'", alone$fixes$text))[[1]]
  expect_length(pairs, 3)
  for (pair in strsplit(pairs, " as ")) expect_false(identical(pair[1], pair[2]))
  # Two of the register that are alike stay apart.
  apart <- match_book(c("b2", "B2", "B 2"), c("b2", "B2"),
                      fields = list(account = list(role = "dimension", same = "similar")))
  expect_setequal(ll_standings(apart, "account")$account, c("b2", "B2", "B 2"))
})

test_that("a name of nothing that can be seen is none", {
  blank <- c("", " ", "\t", "\u00a0", "\u2003 ", "\u200b", "\ufeff", "\u3000")
  lines <- data.frame(k = c("a", blank), net = 1)
  file <- tempfile(fileext = ".csv")
  utils::write.csv(lines, file, row.names = FALSE, fileEncoding = "UTF-8")
  for (given in list(lines, file)) {
    book <- ll_book(given, fields = c(k = "dimension"), metrics = c(n = "sum(net)"))
    got <- ll_standings(book, "k")
    expect_identical(got$k, c("a", "(none)"))
    expect_true(all(ll_proof(got)$holds))
  }
})

test_that("a register's field that shares a name with the lines' is told with the name to type", {
  lines <- data.frame(account = c("x", "y"), rep = c("Ann", "Bo"), net = c(1, 2))
  register <- data.frame(account = c("x", "y"), rep = c("Cy", "Cy"))
  book <- ll_book(lines, registers = list(account = register), metrics = c(revenue = "sum(net)"))
  expect_match(format(book), "rep is that of the lines; the register's is account.rep", all = FALSE)
  expect_equal(ll_standings(book, "account.rep")$revenue, 3)
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
