# The book: roles guessed, registers, metrics, what is refused on opening.

role_of <- function(book, field) book$fields$role[match(field, book$fields$name)]

test_that("roles are guessed from names, types and distinct values", {
  withr::local_seed(5)
  n <- 400
  lines <- data.frame(
    invoice_no = 5000 + sample(200, n, TRUE), line_id = seq_len(n),
    customer_id = sample(900:930, n, TRUE),
    ref = sprintf("R%04d", sample(5000, n)), month = sample(12, n, TRUE),
    city = sample(letters[1:5], n, TRUE),
    day = as.Date("2026-01-01") + sample(90, n, TRUE),
    shipped = format(as.Date("2026-02-01") + sample(9, n, TRUE)),
    qty = sample(9, n, TRUE), net = round(runif(n, 1, 99), 2),
    paid = sample(c(TRUE, FALSE), n, TRUE), empty = NA)
  book <- ll_book(lines)
  want <- c(invoice_no = "identifier", line_id = "identifier", customer_id = "dimension",
            ref = "identifier", month = "dimension", city = "dimension", day = "date",
            shipped = "date", qty = "measure", net = "measure", paid = "dimension",
            empty = "dimension")
  for (field in names(want)) expect_equal(role_of(book, field), want[[field]], info = field)
  expect_equal(book$order, "invoice_no")
  again <- ll_book(lines, fields = c(qty = "dimension", invoice_no = "measure"))
  expect_equal(c(role_of(again, "qty"), role_of(again, "invoice_no")), c("dimension", "measure"))
})

test_that("the demo book prints its lines, fields with reasons, registers and metrics", {
  local_reproducible_output(width = 100)
  expect_snapshot(demo_book())
})

test_that("numbers of identifiers keep their digits, and are counted, never added", {
  lines <- data.frame(order_no = c(100000, 1e5, 123456789), net = c(1.5, 2, 3))
  book <- ll_book(lines, metrics = c(n = "distinct(order_no)"))
  expect_equal(ll_standings(book, "order_no", "n")$order_no, c("100000", "123456789"))
  expect_error(ll_book(lines, metrics = c(a = "mean(order_no)")), "identifier",
               class = "ll_error_formula")
  expect_error(ll_book(lines, metrics = c(a = "sum(order_no * net)")), "identifier")
})

test_that("a data frame is never changed, and its later changes do not reach the book", {
  table <- data.table::as.data.table(small_lines())
  copy <- data.table::copy(table)
  book <- ll_book(table, metrics = c(revenue = "sum(net)"))
  first <- ll_standings(book, "rep")
  expect_identical(table, copy)
  data.table::set(table, j = "net", value = 0)
  data.table::set(table, 1L, "rep", "Zed")
  fresh <- ll_standings(book, "rep")
  expect_identical(as.data.frame(fresh), as.data.frame(first))
})

test_that("registers: fields serve as if on the lines, misses are counted", {
  staff <- data.frame(who = c("Ida", "Tom", "Tom", NA, "Zed"), team = c("p", "q", "r", "s", "t"),
                      area = "home", quota = c(10, 20, 30, 40, 50))
  book <- small_book(registers = list(rep = list(table = staff, key = "who")))
  got <- ll_standings(book, "team", "revenue")
  # Uma is in no register: her lines have no team.
  expect_equal(got$team, c("q", "p", "(none)"))
  expect_equal(got$revenue, c(35.3, 30.4, 42.7))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "1 rep on the lines not in the register: Uma")
  expect_match(paste(ll_notes(got)$text, collapse = " "), "1 row of the register of rep repeat")
  expect_true(all(ll_proof(got)$holds))
  expect_equal(ll_standings(book, "rep.area", "revenue")$rep.area, c("home", "(none)"))
  expect_equal(ll_standings(book, "rep", where = "quota >= 20")$rep, "Tom")
  expect_error(ll_book(small_lines(), registers = list(rep = list(table = staff, key = "who")),
                       metrics = c(a = "sum(quota)")), "once for each name",
               class = "ll_error_formula")
})

test_that("several registers, one keyed by another's field, serve and are counted in the proof", {
  staff <- data.frame(rep = c("Ida", "Tom", "Tom", "", "Zed"), team = c("p", "q", "r", "s", "t"),
                      since = c("2025-06-01", "2026-02-01", "2020-01-01", "2020-01-01",
                                "2020-01-01"))
  teams <- data.frame(team = c("p", "q"), chief = c("Ada", "Bea"))
  book <- small_book(registers = list(rep = staff, team = teams))
  got <- ll_standings(book, "chief", "revenue")
  # Ida is in p, Tom in q; Uma and the line without a rep have no chief.
  expect_equal(got$revenue[match(c("Bea", "Ada", "(none)"), got$chief)], c(35.3, 30.4, 42.7))
  proof <- ll_proof(got)
  expect_true(all(proof$holds))
  rows <- proof[grepl("rows of the register of rep", proof$check), ]
  expect_equal(c(rows$expected, rows$found), c(5, 5))
  expect_match(rows$check, "repeated \\+ blank")
  expect_match(proof$check[grepl("names of rep on the lines", proof$check)], "1 not in it")
  early <- ll_standings(book, "rep", c(m = "sum(net[day - since < 10])"))
  # Tom began on 1 February: only his order of 3 February is within ten days, and one from before.
  expect_equal(early$m[early$rep == "Tom"], 35.3)
  expect_equal(ll_standings(book, "rep", where = "since < '2026-01-01'")$rep, "Ida")
  expect_equal(ll_standings(book, "year(since)", "revenue")$revenue,
               c(42.7, 35.3, 30.4)[c(2, 3, 1)])
  expect_error(small_book(registers = list(rep = list(tabel = staff))), "unknown key 'tabel'",
               class = "ll_error_word")
})

test_that("control figures of the ledger are held against the lines", {
  wrong <- ll_proof(ll_standings(small_book(control = c(revenue = 108.41)), "rep"))
  expect_equal(sum(!wrong$holds), 1)
  expect_equal(wrong$found[!wrong$holds], 108.4)
})

test_that("metrics know their unit and whether they add up", {
  metrics <- demo_book()$metrics
  expect_equal(vapply(metrics, `[[`, "", "unit"),
               c(revenue = "money", margin = "money", margin_rate = "percent", orders = "count",
                 average_order = "money", units = "number", returned = "money",
                 big_orders = "count", days_to_ship = "number"))
  expect_equal(unname(vapply(metrics, `[[`, TRUE, "adds_up")),
               c(TRUE, TRUE, FALSE, FALSE, FALSE, TRUE, TRUE, FALSE, FALSE))
})

test_that("units of made-up metrics follow from how they are made", {
  unit <- function(text) ll_book(small_lines(), metrics = c(m = text))$metrics$m$unit
  cases <- c("max(net)" = "money", "median(net)" = "money", "quantile(net, .9)" = "money",
             "sd(net)" = "money", "var(net)" = "number", "max(day)" = "date",
             "as_of() - min(day)" = "number", "max(day) + 30" = "date", "count()" = "count",
             "max(per(order_no, sum(net)))" = "money", "mean(per(order_no, count()))" = "number",
             "count(per(order_no, sum(net))[it > 5])" = "count", "sum(net) / count()" = "money",
             "sum(net) / sum(net[qty > 1])" = "percent", "growth(sum(net))" = "percent",
             "change(sum(net))" = "money", "mean(net / pmax(net, 1))" = "percent",
             "sum(ifelse(qty > 1, net, 0))" = "money", "count() / distinct(rep)" = "number")
  expect_identical(vapply(names(cases), unit, ""), cases)
})

test_that("parameters serve in metrics and conditions", {
  book <- small_book(parameters = list(big = 10))
  expect_equal(ll_standings(book, "rep", where = "net > big")$rep, c("Uma", "Ida", "Tom"))
  more <- ll_standings(book, "rep", c(large = "sum(net[net > big])", half = "large / 2"))
  expect_equal(more$half, more$large / 2)
})

test_that("a rate is the ratio of two totals at every level, the total row included", {
  got <- ll_standings(demo_book(), "channel", c("revenue", "margin_rate"), top = 2)
  lines <- demo_lines()
  foot <- ll_part(got, "foot")
  # Of the lines that have both: what net is not known for was not given away.
  lines <- lines[!is.na(lines$net), ]
  rate <- (sum(lines$net) - sum(lines$cost)) / sum(lines$net)
  expect_equal(foot$margin_rate[foot$channel == "total"], rate)
  rest <- !lines$channel %in% got$channel
  expect_equal(foot$margin_rate[1], 1 - sum(lines$cost[rest]) / sum(lines$net[rest], na.rm = TRUE))
})

test_that("last counts back from the whole book, and one stray far date is refused", {
  lines <- rbind(small_lines(), transform(small_lines()[1, ], day = as.Date("2062-01-05")))
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"))
  expect_error(ll_standings(book, "rep", when = "last month"), "looks mistyped",
               class = "ll_error_data")
  safe <- ll_book(lines, metrics = c(revenue = "sum(net)"), as_of = "2026-03-20")
  expect_equal(ll_settings(ll_standings(safe, "rep", when = "last month"))$when,
               list(from = "2026-02-01", to = "2026-02-28"))
  narrowed <- ll_where(small_book(), rep = "Tom")
  expect_equal(ll_settings(ll_standings(narrowed, "rep", when = "last month"))$when$from,
               "2026-02-01")
})

test_that("what cannot serve is refused on opening", {
  lines <- small_lines()
  expect_snapshot(error = TRUE, {
    ll_book(list(1))
    ll_book(lines[0, ])
    ll_book(cbind(lines, net = 1))
    ll_book(transform(lines, score = 1))
    ll_book(lines, fields = c(nett = "measure"))
    ll_book(lines, fields = c(net = "amount"))
    ll_book(lines, fields = c(rep = "measure"))
    ll_book(transform(lines, net = NA), fields = c(net = "measure"))
    ll_book(transform(lines, net = NA), metrics = c(a = "sum(net)"))
    ll_book(transform(lines, day = c(format(day)[-8], "31/31/2026")))
    ll_book(lines, date = "rep")
    ll_book(lines, metrics = c(net = "sum(net)"))
    ll_book(lines, metrics = c(revenue = "sum(net)", revenue_share = "sum(qty)"))
    ll_book(lines, metrics = "sum(net)")
    ll_book(lines, metrics = list(a = list(is = "sum(net)", shown = "money")))
    ll_book(lines, registers = list(client = lines))
    ll_book(lines, as_of = "yesterday")
    ll_where(small_book(), rep = "Idda")
    ll_where(small_book(), reb = "Ida")
    ll_standings(ll_book(lines[c("rep", "net")], metrics = c(a = "sum(net)")), "rep", when = "2026")
  })
  renamed <- ll_book(transform(lines, score = 1), fields = list(own_score = list(column = "score")))
  expect_true("own_score" %in% renamed$fields$name)
})
