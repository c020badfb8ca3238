# Credit notes without their minus: told, and added up only as the person says.

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
    expect_match(noted$text[1], paste0(
      format(sum(signed * lines$net), big.mark = ",", nsmall = 2), " instead of ",
      format(sum(lines$net), big.mark = ",")), fixed = TRUE)
    for (sign in list(list(doc_type = word), list(doc_type = stats::setNames(-1, word)))) {
      got <- ll_total(ll_book(lines, metrics = c(
        revenue = "sum(net)", units = "sum(qty)", each_price = "mean(price)"), sign = sign),
        c("revenue", "units", "each_price"))
      expect_equal(got$value, c(sum(signed * lines$net), sum(signed * lines$qty), 3.5))
      expect_true(all(ll_proof(got)$holds))
      expect_false("undecided" %in% ll_notes(got)$kind)
    }
  }
  # A file of nothing else is told as well.
  alone <- ll_notes(ll_total(ll_book(export_with(types = "CN"), metrics = c(r = "sum(net)"))))
  expect_match(alone$text[1], "40 lines with doc_type 'CN' have positive amounts")
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
