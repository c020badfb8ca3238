# Every call can be said in words, and those words asked again are the same call.

random_call <- function(book) {
  declared <- internal("declarations")()[[sample(length(internal("declarations")()), 1)]]
  dims <- c("account", "item", "rep", "territory", "channel", "type", "family", "team")
  metrics <- names(book$metrics)
  names_of <- function(field) internal("known_names")(book, field)
  some <- function(x, n = 1) x[sample(length(x), min(n, length(x)))]
  period <- function() some(c("2025", "2026-Q2", "2026-04", "2026-04-01/2026-06-30", "last quarter",
                              "this year to date", "last 90 days", "FY2026", "FY2026-Q1", "all",
                              "last 12 months", "2026-W14", "2026-04-01", "FY2025-P03"))
  condition <- function() {
    field <- some(setdiff(dims, c("account", "item")))
    some(c(paste0(field, " == ", encodeString(some(names_of(field)), quote = "\"")), "net > 100",
           "!(quantity < 0)", paste0("channel != \"web\" & ", field, " %in% c(",
                                     paste(encodeString(some(names_of(field), 2), quote = "\""),
                                           collapse = ", "), ")"),
           "contains(item, \"HV\")"))
  }
  each <- some(dims)
  value <- function(name, spec) {
    switch(name, each = return(if (sample(8, 1) == 1) some(dims, 2) else each),
           name = , names = return(some(names_of(each), if (declared$name == "versus") 3 else 1)),
           rows = , columns = , by = , within = , product = , not_by = , path = , like =
             return(some(dims, if (sample(5, 1) == 1) 2 else 1)),
           old = , new = return(some(names_of("item"), 2)), low = , tie_break =
             return(some(metrics)),
           sets = return(some(c("active(\"2025\") - active(\"2026\")",
                                "old=having(revenue > 5000, when = \"2025\")"), 1)),
           listed = return("old"), sort_by = , column = return("net"),
           with_fields = return(some(c("contact", "rep", "type"), 2)), plan = return("quota"),
           against = return(some(c("year before", "previous", "2024"))))
    switch(spec$type, words = some(dims, 2), period = period(), condition = condition(),
           metrics = if (sample(6, 1) == 1) c(rise = "growth(revenue)") else some(metrics,
                                                                                  sample(3, 1)),
           whole = max(spec$from %||% 1, sample(60, 1)), number = round(stats::runif(
             1, max(spec$from %||% 0, 0), min(spec$to %||% 50, 50)), 3),
           choice = some(spec$choices), flag = TRUE, text = "net", level = some(c("mean", "400")),
           shares = some(c("80%", "20%,95%")), percents = "50%,100%", bounds =
             "Copper=0,Brass=5000", steps = "0=1%,1000=2%", values = "3,2,1", plan = "quota",
           sets = "active(\"2025\")")
  }
  args <- list()
  for (name in names(declared$args)) {
    spec <- declared$args[[name]]
    if (spec$required || sample(3, 1) == 1) args[[name]] <- value(name, spec)
  }
  checked <- tryCatch(internal("check_args")(declared, args), ll_error = function(e) NULL)
  if (is.null(checked)) random_call(book) else
    list(study = declared$name, args = internal("telling_args")(declared, checked))
}

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
