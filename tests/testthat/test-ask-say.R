# Every call can be said in words, and those words asked again are the same call.

`%||%` <- function(a, b) if (is.null(a)) b else a

test_that("random calls said in words and asked again are the same calls", {
  book <- demo_book()
  withr::local_seed(31)
  plain <- 0
  n <- many_asked(250)
  for (i in seq_len(n)) {
    call <- random_call(book)
    said <- internal("say_call")(book, call$study, call$args)
    read <- internal("ask_read")(book, said)
    got <- telling(read$study, read$args)
    expect_identical(internal("same_form")(got$args), internal("same_form")(call$args), info = said)
    expect_identical(got$study, call$study, info = said)
    plain <- plain + !grepl("^[a-z]+(:|$)", said)
  }
  expect_gt(plain, n / 25)
})

test_that("what the demo's pages and examples ask is said plainly", {
  book <- demo_book()
  said <- function(study, ...) internal("say_call")(book, study, list(...))
  expect_identical(said("standings", each = "account", metrics = "revenue", top = 10,
                        when = "2026-Q2", against = "year before"),
                   "Top 10 accounts by revenue in Q2 2026 against the year before")
  expect_identical(said("trend", metrics = c("revenue", "margin_rate"), every = "quarter"),
                   "Trend of revenue and margin rate by quarter")
  expect_identical(said("drill", metrics = "revenue", when = "2026-Q2"),
                   "Why did revenue change in Q2 2026")
  expect_identical(said("portrait", each = "rep", name = "Maren Holt"),
                   "Everything on rep \"Maren Holt\"")
  expect_identical(said("lapsed", each = "account", never = "leave"),
                   "Accounts that stopped buying")
  expect_identical(said("payout", each = "rep", rates = "0=2%"),
                   "payout: with each \"rep\", with rates \"0=2%\"")
  x <- ll_standings(book, each = "rep", top = 5)
  expect_identical(ll_question(x), "Top 5 reps")
})
