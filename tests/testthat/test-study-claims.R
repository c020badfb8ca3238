# What single sentences claim: shares that were counted, steps called by what is in them, rates over
# like lines, returns, nouns; and how many notes are shown.

claim_book <- function(lines, metrics = c(revenue = "sum(net)"), ...) {
  ll_book(lines, date = "day", metrics = metrics, ...)
}

test_that("a leader's share of draws is counted, and who leads by every metric is first under any", {
  table <- data.frame(k = c("a", "b", "c"), x = c(9, 8, 1), y = c(1, 6, 2))
  book <- ll_book(table, fields = c(x = "measure", y = "measure"),
                  metrics = c(x_sum = "sum(x)", y_sum = "sum(y)"))
  got <- ll_score(book, "k", c("x_sum", "y_sum"), draws = 500)
  kernel <- internal("kernel_weight_draws")
  drawn <- kernel(unname(as.matrix(ll_part(got, "scaled")[-1])), rep(10, 2), 500, 1, 1, .05, .95)
  first <- 100 * drawn$first[1]
  expect_match(ll_finding(got), sprintf("stays first in %s%% of draws", if (first > 99.5 && first < 100)
    "more than 99 " else sprintf("%.0f ", first)))
  best <- ll_score(ll_book(transform(table, y = c(9, 6, 2)), fields = c(x = "measure", y = "measure"),
                           metrics = c(x_sum = "sum(x)", y_sum = "sum(y)")), "k",
                   c("x_sum", "y_sum"))
  expect_match(ll_finding(best), "first by every metric, and so under any weights")
  # A metric that is the same for all makes nobody hard to beat.
  flat <- ll_score(ll_book(transform(table, y = 5), fields = c(x = "measure", y = "measure"),
                           metrics = c(x_sum = "sum(x)", y_sum = "sum(y)")), "k",
                   c("x_sum", "y_sum"))
  expect_identical(flat$not_dominated, c("yes", "no", "no"))
})

test_that("a metric that is the same for all divides nobody, and who lies on the divide is told", {
  lines <- data.frame(k = letters[1:8], day = as.Date("2026-01-01") + 0:7, net = c(1:7, 20), days = 3)
  book <- claim_book(lines, c(revenue = "sum(net)", wait = "mean(days)"),
                     fields = c(days = "measure"))
  expect_match(ll_finding(ll_quadrants(book, "k", c("revenue", "wait"))),
               "^All 8 values of k have the same wait, 3, which divides nobody; by revenue, 3 are high")
  lines$days <- c(3, 3, 3, 3, 3, 3, 3, 9)
  book <- claim_book(lines, c(revenue = "sum(net)", wait = "mean(days)"),
                     fields = c(days = "measure"))
  expect_match(ll_finding(ll_quadrants(book, "k", c("wait", "revenue"), x_divide = "median")),
               "of them exactly on a dividing value")
})

test_that("the step of prices is called by what is in it, with the split", {
  lines <- withr::with_seed(2, {
    n <- 600
    item <- sample(paste0("i", 1:6), n, TRUE)
    data.frame(order_no = seq_len(n), day = as.Date("2024-01-01") + sample(730, n, TRUE), item = item,
               family = ifelse(item %in% c("i1", "i2", "i3"), "f", "g"), qty = sample(1:9, n, TRUE),
               list_price = c(i1 = 3, i2 = 50, i3 = 9, i4 = 20, i5 = 4, i6 = 11)[item])
  })
  lines$net <- round(lines$qty * lines$list_price * ifelse(lines$day > as.Date("2024-12-31"), .9, 1), 2)
  book <- claim_book(lines, fields = c(order_no = "identifier", list_price = "measure"))
  ask <- function(by, ...) ll_bridge(book, "revenue", by, "price", quantity = "qty", when = "2025",
                                     against = "2024", ...)
  item <- ask("item")
  expect_identical(item$step[1], "what a unit brought")
  expect_match(paste(ll_notes(item)$text, collapse = " "), "The list price of .* stayed the same")
  family <- ask("family")
  expect_identical(family$step[1], "price and mix within families")
  inside <- ll_notes(family)$text[ll_notes(family)$kind == "inside"]
  told <- as.numeric(gsub(",", "", regmatches(inside, gregexpr("[+-][0-9,]+([.][0-9]+)?", inside))[[1]]))
  expect_equal(told[1], family$revenue_change[1], tolerance = 1e-3)
  expect_equal(told[2], item$revenue_change[1], tolerance = 1e-3)
  expect_equal(told[2] + told[3], told[1], tolerance = 1e-3)
  dearer <- transform(lines, list_price = ifelse(day > as.Date("2024-12-31"), 2, 1) * list_price)
  book <- claim_book(dearer, fields = c(order_no = "identifier", list_price = "measure"))
  expect_identical(ask("item")$step[1], "price")
})

test_that("a rate is of the lines that have both sides, in memory and in SQL", {
  lines <- withr::with_seed(4, data.frame(
    day = as.Date("2026-01-01") + 0:199, k = sample(c("a", "b"), 200, TRUE),
    net = ifelse(runif(200) < .2, NA, round(runif(200, 5, 50), 2)),
    cost = ifelse(runif(200) < .1, NA, round(runif(200, 2, 20), 2)), qty = sample(1:4, 200, TRUE)))
  metrics <- c(rate = "(sum(net) - sum(cost)) / sum(net)", each = "sum(net) / count()",
               unit = "sum(net) / sum(qty)", known = "count(net) / count()",
               order = "sum(net) / distinct(day)", choice = "sum(ifelse(is.na(net), 0, net)) / count()")
  want <- function(d) {
    both <- d[!is.na(d$net) & !is.na(d$cost), ]
    net <- d[!is.na(d$net), ]
    c(rate = 1 - sum(both$cost) / sum(both$net), each = mean(net$net),
      unit = sum(net$net) / sum(net$qty), known = nrow(net) / nrow(d),
      order = sum(net$net) / length(unique(d$day)), choice = sum(net$net) / nrow(d))
  }
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con))
  DBI::dbWriteTable(con, "lines", transform(lines, day = format(day)))
  for (book in list(ll_book(lines, metrics = metrics),
                    ll_book(con, table = "lines", metrics = metrics, fields = c(day = "date")))) {
    got <- ll_standings(book, "k", names(metrics))
    for (k in c("a", "b")) expect_equal(unlist(got[got$k == k, names(metrics)]), want(lines[lines$k == k, ]))
    expect_true(all(ll_proof(got)$holds))
  }
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               paste(sum(xor(is.na(lines$net), is.na(lines$cost))), "lines have no net or cost; rate is"))
})

test_that("returns are trade: known by signs, by months, by kinds of documents; a slip is none", {
  lines <- withr::with_seed(9, {
    n <- 900
    back <- runif(n) < .04
    data.frame(day = as.Date("2026-01-01") + sample(300, n, TRUE), k = sample(letters, n, TRUE),
               kind = ifelse(back, "credit note", "invoice"), net = ifelse(back, -1, 1) *
                 round(runif(n, 5, 60), 2), shipped = ifelse(back, NA, "yes"))
  })
  fixes <- function(d) {
    found <- as.data.frame(ll_check(claim_book(d)))
    found[grepl("net < 0|shipped|kind", found$fix), ]
  }
  expect_identical(nrow(fixes(lines)), 0L)
  expect_identical(nrow(fixes(transform(lines, kind = NULL))), 0L)
  got <- ll_check(claim_book(lines))
  expect_match(paste(ll_notes(got)$text, collapse = " "), paste(
    sum(lines$net < 0), "lines are below zero in net.*no fix is offered that takes them away"))
  slip <- transform(lines, net = abs(net), kind = "invoice", shipped = "yes")
  slip$net[5] <- -12
  expect_identical(nrow(fixes(slip)), 1L)
  notes <- paste(ll_notes(ll_check(claim_book(slip)))$text, collapse = " ")
  expect_match(notes, "if these are errors, in the brief: exclude: net < 0; it leaves out 1 line and -12.00")
  clean <- ll_check(claim_book(data.frame(day = as.Date("2026-01-01") + 0:29, k = c("a", "b"), net = 1:30)))
  if (!nrow(clean)) expect_match(ll_finding(clean), "nothing to list")
})

test_that("names are called by their nouns", {
  lines <- data.frame(household_id = c("a", "b"), Kunde = c("x", "y"), k = c("p", "q"), net = 1:2)
  book <- ll_book(lines, metrics = c(revenue = "sum(net)"), fields = list(
    household_id = "dimension", k = list(role = "dimension", also = "shopper")))
  noun <- function(field) internal("plural_word")(internal("field_noun")(book, field))
  expect_identical(noun("household_id"), "households")
  expect_identical(noun("Kunde"), "Kunden")
  expect_identical(noun("k"), "shoppers")
  expect_identical(internal("plural_words")(c("order line", "company", "Vertreter", "klant")),
                   c("order lines", "companies", "Vertreter", "klanten"))
  expect_identical(internal("text_literal")("a\u00a0b\u200b \"c\""), "\"a\\u00a0b\\u200b \\\"c\\\"\"")
  expect_identical(internal("of_hundred")(c(41.7, 5, 12.25)), c(.417, .05, .1225))
})

test_that("three notes are shown, the weightiest; the others are counted and kept", {
  got <- ll_drill(demo_book(), "revenue", when = "2026-Q2")
  notes <- ll_notes(got)
  expect_gt(nrow(notes), 6)
  expect_false(is.unsorted(internal("note_weight")(notes$kind)))
  shown <- format(got, width = 2000)
  expect_identical(sum(startsWith(shown, "- ")), 4L)
  expect_match(shown, paste0("^- and ", nrow(notes) - 3, " more: --notes all"), all = FALSE)
  expect_identical(sum(startsWith(format(got, width = 2000, notes = "all"), "- ")), nrow(notes))
  expect_false("notes" %in% format(got, notes = "no"))
  withr::with_options(list(longladder.notes = 1), expect_identical(
    sum(startsWith(format(got, width = 2000), "- ")), 2L))
  expect_error(format(got, notes = "some"), "whole number, all or no", class = "ll_error_argument")
  words <- c("drill", "--brief", demo_path("longladder.yml"), "--when", "2026-Q2", "--width", "300")
  all <- command(c(words, "--notes", "all"))
  expect_identical(sum(startsWith(strsplit(paste(all$out, collapse = "\n"), "\n")[[1]], "- ")), nrow(notes))
  expect_identical(command(c(words, "--notes", "some"))$status, 2L)
  json <- jsonlite::fromJSON(paste(command(c(words, "--format", "json"))$out, collapse = "\n"))
  expect_identical(nrow(json$notes), nrow(notes))
  html <- as.character(htmltools::tagList(internal("notes_html")(notes)))
  expect_match(paste(html, collapse = ""), paste0("<summary>and ", nrow(notes) - 3, " more</summary>"))
})

test_that("no sentence of any study lacks a number or says one in code", {
  book <- demo_book()
  said <- unlist(lapply(list(
    ll_check(book), ll_total(book, c("returned", "average_order"), where = "is.na(net)"),
    ll_standings(book, "rep", where = "is.na(net)"), ll_bridge(book, "margin_rate", "family"),
    ll_sets(book, "account", sets = list("having(revenue > 15828)", "active('2026')")),
    ll_sets(book, "account", c(a = "active('2025')", b = "active('2026')"), listed = "b - a"),
    ll_crosstab(book, "family", "type", "margin_rate"),
    ll_quadrants(book, "account", c("revenue", "margin_rate"), y_divide = .417)),
    function(x) c(ll_finding(x), ll_notes(x)$text)))
  expect_identical(grep("(and|of|with) - (of|[a-z])|having_|\\bin [a-z] - [a-z]\\b|0000000|values of [a-z]+ id",
                        said, value = TRUE), character())
  expect_identical(grep("^The most [a-z ]*rate", said, value = TRUE), character())
})
