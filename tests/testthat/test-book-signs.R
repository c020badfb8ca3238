# Credit notes without their minus, and several currencies: told, and added up only as the person says.

export_with <- function(n = 40, types = c("INV", "INV", "INV", "CN")) {
  data.frame(doc = 5000L + seq_len(n), doc_type = rep_len(types, n), rep = rep_len(c("a", "b"), n),
             day = as.Date("2025-01-01") + seq_len(n), qty = rep_len(1:5, n),
             net = round(10.25 * seq_len(n), 2), price = 3.5)
}

test_that("positive credit notes are proposed with what they change, and counted as said", {
  for (word in c("CN", "Gutschrift", "credit note", "Avoir", "return", "Retoure", "Storno")) {
    lines <- export_with(types = c("INV", "INV", word))
    book <- ll_book(lines, metrics = c(revenue = "sum(net)", units = "sum(qty)"))
    signed <- ifelse(lines$doc_type == word, -1, 1)
    noted <- ll_notes(ll_total(book))
    expect_identical(noted$kind[1], "undecided", info = word)
    expect_match(noted$text[1], paste0(format(sum(signed * lines$net), big.mark = ","), " instead of ",
                                       format(sum(lines$net), big.mark = ",")),
                 fixed = TRUE)
    for (sign in list(list(doc_type = word), list(doc_type = stats::setNames(-1, word)))) {
      got <- ll_total(ll_book(lines, metrics = c(
        revenue = "sum(net)", units = "sum(qty)", each_price = "mean(price)"), sign = sign),
        c("revenue", "units", "each_price"))
      expect_equal(got$value, c(sum(signed * lines$net), sum(signed * lines$qty), 3.5))
      expect_true(all(ll_proof(got)$holds))
      expect_false("undecided" %in% ll_notes(got)$kind)
    }
  }
  # Where the minus is there, nothing is left to say, nor is it turned twice.
  minus <- transform(export_with(), net = ifelse(doc_type == "CN", -net, net))
  expect_false("undecided" %in% ll_notes(ll_total(ll_book(minus, metrics = c(r = "sum(net)"))))$kind)
  expect_equal(ll_total(ll_book(minus, metrics = c(r = "sum(net)"), sign = list(doc_type = "CN")))$value,
               sum(minus$net))
  expect_error(ll_book(minus, sign = list(doc_typ = "CN")), "Nearest: 'doc_type'",
               class = "ll_error_word")
  expect_error(ll_book(minus, sign = list(doc_type = "XX")), "No line has 'XX'",
               class = "ll_error_word")
  expect_error(ll_book(minus, sign = list(doc_type = c(CN = 2))), "1 or -1",
               class = "ll_error_argument")
})

test_that("no sum is made over several currencies until it is said how", {
  lines <- transform(export_with(), currency = rep(c("EUR", "EUR", "USD", "GBP"), 10))
  metrics <- c(revenue = "sum(net)", units = "sum(qty)", n = "count()")
  book <- ll_book(lines, metrics = metrics)
  for (ask in list(function() ll_total(book), function() ll_standings(book, "rep"),
                   function() ll_trend(book), function() ll_pareto(book, "rep")))
    expect_error(ask(), "would add up 3 currencies: EUR on 20 lines", class = "ll_error_data")
  expect_equal(ll_total(book, c("units", "n"))$value, c(sum(lines$qty), 40))
  expect_equal(ll_total(book, where = "currency == 'USD'")$value,
               sum(lines$net[lines$currency == "USD"]))
  one <- ll_total(ll_book(lines, metrics = metrics, currency = "EUR"), c("revenue", "n"))
  expect_equal(one$value, c(sum(lines$net[lines$currency == "EUR"]), 20))
  expect_true(all(ll_proof(one)$holds))
  expect_equal(ll_total(ll_book(lines, metrics = metrics, currency = "any"))$value, sum(lines$net))
  expect_error(ll_book(lines, currency = "EUO"), "Nearest: 'EUR'", class = "ll_error_word")
  expect_s3_class(ll_check(book), "ll_result_check")
})

test_that("amounts are converted by the last rate known, to the cent", {
  lines <- transform(export_with(), currency = rep(c("EUR", "USD"), 20))
  rates <- data.frame(date = as.Date(c("2024-12-15", "2025-01-20")), currency = "USD",
                      rate = c(.9, .955))
  got <- ll_total(ll_book(lines, metrics = c(revenue = "sum(net)"),
                          currency = list(to = "EUR", rates = rates)))
  rate <- ifelse(lines$currency == "EUR", 1, ifelse(lines$day < as.Date("2025-01-20"), .9, .955))
  expect_equal(got$value, sum(round(lines$net * rate, 2)))
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "oldest rate used is 35 days old")
  late <- transform(rates, date = date + 30)
  expect_error(ll_book(lines, currency = list(to = "EUR", rates = late)), "no rate of USD",
               class = "ll_error_data")
  expect_error(ll_book(lines, currency = list(to = "EUR", rates = rates[2:3])), "column of dates")
  expect_error(ll_book(lines, currency = list(rates = rates)), "needs the currency")
})
