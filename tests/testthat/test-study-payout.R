# Payouts: a table worked by hand, brute force slice by slice, edges, rounding, refusals, pictures.

pay_book <- function(net, ...) {
  ll_book(data.frame(k = sprintf("n%02d", seq_along(net)), day = as.Date("2026-01-01"), net = net),
          fields = c(k = "dimension", net = "measure"),
          metrics = list(revenue = "sum(net)", average = "sum(net) / count()"), ...)
}

test_that("every way to pay, by hand", {
  book <- pay_book(c(30000, 10000, 25000.5, 5000, 0, -400))
  steps <- "0=2%,10000=3%,25000=5%"
  ask <- function(...) ll_payout(book, "k", ...)
  whole <- ask(steps)
  expect_identical(whole$k, c("n01", "n03", "n02", "n04", "n05", "n06"))
  expect_equal(whole$payout, c(1500, 1250.03, 300, 100, 0, 0))
  expect_identical(whole$step, c("from 25,000", "from 25,000", "from 10,000", "from 0", "from 0",
                                 NA))
  # 10,000 at 2 %, 15,000 at 3 %, the rest at 5 %.
  sliced <- ask(steps, pay = "graduated")
  expect_equal(sliced$payout, c(200 + 450 + 250, 200 + 450 + .03, 200, 100, 0, 0))
  expect_equal(sliced$to_next, c(NA, NA, 15000, 5000, 10000, 400))
  expect_equal(sliced$next_adds, c(NA, NA, 450, 100, 200, 0))
  flat <- ask("10000=500,25000=900", pay = "sum")
  expect_equal(flat$payout, c(900, 900, 500, 0, 0, 0))
  expect_equal(ask("10000=500,25000=900", pay = "sum", at_bound = "below")$payout,
               c(900, 900, 0, 0, 0, 0))
  offer <- ask(c("10000" = "a suit"), pay = "offer")
  expect_identical(offer$offer, c("a suit", "a suit", "a suit", "no", "no", "no"))
  expect_match(ll_finding(offer), "3 of 6 values of k get an offer: a suit to 3")
  limited <- ask(steps, cap = 1000, floor = 50)
  expect_equal(limited$payout, c(1000, 1000, 300, 100, 50, 0))
  said <- paste(ll_notes(limited)$text, collapse = " ")
  expect_match(said, "2 payouts capped at 1,000")
  expect_match(said, "1 payout raised to 50")
  expect_match(said, "1 value of k below zero (-400.00 in all) is paid nothing: n06", fixed = TRUE)
  for (x in list(whole, sliced, flat, offer, limited)) expect_true(all(ll_proof(x)$holds))
})

test_that("graduated and whole payouts are those of brute force and of SQL", {
  con <- local_sqlite()
  for (seed in some_of(1:8, 3)) {
    net <- withr::with_seed(seed, round(rnorm(60, 300, 250), 2))
    book <- pay_book(net)
    got <- ll_payout(book, "k", data.frame(from = c(0, 150, 400.5),
                                           pays = c("1.5%", "2%", "7.25%")), pay = "graduated")
    slow <- vapply(got$revenue, function(v) {
      cents <- round(v * 100)
      owed <- 0
      # Cent by cent within each slice, in ten-thousandths of a percent of a cent.
      if (cents > 0) owed <- min(cents, 15000) * 150 + max(min(cents, 40050) - 15000, 0) * 200 +
        max(cents - 40050, 0) * 725
      (2 * owed + 10000) %/% 20000 / 100
    }, 0)
    expect_equal(got$payout, slow, tolerance = 1e-12)
    DBI::dbWriteTable(con, "lines", data.frame(k = sprintf("n%02d", seq_along(net)),
                                               c = as.integer(round(net * 100))), overwrite = TRUE)
    want <- DBI::dbGetQuery(con,
                            paste0("SELECT k, (2 * c * CASE WHEN c < 0 THEN 0 WHEN c >= 40050 ",
                                   "THEN 725 WHEN c >= 15000 THEN 200 ELSE 150 END + 10000) / ",
                                   "20000 AS coins FROM lines ORDER BY c DESC, k"))
    expect_equal(round(ll_payout(book, "k", "0=1.5%,150=2%,400.5=7.25%")$payout * 100),
                 as.numeric(want$coins))
  }
})

test_that("half a cent is rounded up, and totals are those of the rounded", {
  book <- pay_book(c(12.5, 12.5, 12.5, 100.3))
  got <- ll_payout(book, "k", "0=1%")
  # 0.125 to 0.13; 1.003 to 1.00.
  expect_equal(got$payout, c(1, .13, .13, .13))
  foot <- ll_part(got, "foot")
  expect_equal(foot$payout[foot$k == "total"], 1.39)
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "0.01 more than rounding the whole at once")
  cent <- internal("to_the_cent")
  expect_equal(cent(c(1.005, 2.675, 1.0049999, .285, 1e7 + .005, 0)),
               c(1.01, 2.68, 1, .29, 1e7 + .01, 0))
})

test_that("other tables side by side, and a step that pays less", {
  book <- pay_book(c(100, 200, 300))
  got <- ll_payout(book, "k", "0=10%", compare_rates = "0=20%;150=10%")
  costs <- ll_part(got, "costs")
  expect_equal(costs$payout, c(60, 120, 50))
  expect_equal(costs$difference, c(0, 60, -10))
  expect_equal(got$payout_compared_2, c(30, 20, 0))
  expect_match(ll_finding(got),
               "20.0 % from 0 would cost 60.00 more, 10.0 % from 150 would cost 10.00 less")
  listed <- ll_payout(book, "k", "0=10%", compare_rates = list(c("0" = .2), c("150" = "10%")))
  expect_identical(listed$payout_compared_2, got$payout_compared_2)
  expect_match(paste(ll_notes(ll_payout(book, "k", "0=10%,150=2%"))$text, collapse = " "),
               "Reaching 150.00 pays less than staying just below it")
})

test_that("the demo ties out; odd books; refusals say what; what is drawn", {
  book <- demo_book()
  got <- ll_payout(book, "rep", "0=1%,100000=2%,250000=3%", pay = "graduated", when = "2025")
  expect_equal(got$revenue, ll_standings(book, "rep", when = "2025")$revenue[seq_len(nrow(got))])
  shapes <- list(got, ll_payout(book, c("rep", "territory"), "0=1%", compare_rates = "0=2%"),
                 ll_payout(pay_book(5), "k", "1=1%"), ll_payout(book, "account",
                                                                "20000=free delivery",
                                                                pay = "offer"),
                 ll_payout(book, "rep", c("40%" = 100), pay = "sum", metrics = "margin_rate"),
                 ll_payout(pay_book(c(-1, -2)), "k", "0=1%"),
                 ll_payout(pay_book(c(2, 2, 2)), "k", "9=1", pay = "sum"),
                 ll_payout(pay_book(c(NA, 4)), "k", "0=1%", where = "k == \"n01\""),
                 ll_payout(small_book(), "rep", "0=1%", when = "2030"))
  expect_sound(shapes)
  refused <- function(text, ...) expect_error(ll_payout(book, "rep", ...), text,
                                              class = "ll_error_argument")
  refused("1000 comes after 5000", "5000=1%,1000=2%")
  refused("may begin below zero", "-5=1%")
  refused("no rate from 0 to 100 %", "0=500")
  refused("no rate from 0 to 100 %", "0=-1%")
  refused("no amount of money", "0=many", pay = "sum")
  refused("bounds of 'rates' must be numbers", "x=2%")
  refused("lower bounds with what is paid", "2%")
  refused("above 'cap'", "0=1%", cap = 5, floor = 6)
  refused("does not add up", "0=1%", metrics = "margin_rate")
  refused("an offer is none", "0=yes", pay = "offer", cap = 4)
  refused("must be given", NULL)
})
