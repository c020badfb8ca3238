# Check: every planted fault of the demo is found with its exact count; each finding against a
# brute-force look; nothing is found where nothing is wrong.

found <- function(x, finding, field = NULL) {
  x <- as.data.frame(x)
  x[x$finding == finding & (is.null(field) | x$field == (field %||% "")), ]
}

test_that("the demo's planted faults are found with their counts and money", {
  x <- ll_check(demo_book())
  lines <- demo_lines()
  told <- function(key) story("untidy", key)
  spelled <- found(x, "spelled alike", "rep")
  expect_equal(c(spelled$lines, spelled$revenue), c(told("second_spelling_lines"), told("second_spelling_revenue")))
  gaps <- found(x, "missing values", "rep")
  expect_equal(c(gaps$lines, gaps$revenue), c(told("no_rep_lines"), told("no_rep_revenue")))
  expect_equal(found(x, "missing values", "net")$lines, told("no_net_lines"))
  expect_equal(found(x, "lines entered twice")$lines, told("duplicate_lines"))
  expect_equal(found(x, "lines entered twice")$revenue, sum(lines$net[duplicated(lines)]))
  expect_equal(found(x, "ship date before order date")$lines, told("ship_before_order_lines"))
  expect_equal(nrow(found(x, "orders under two accounts")), told("orders_under_two_accounts"))
  expect_match(found(x, "stops", "channel")$examples, "^fair after 2025-10")
  expect_match(found(x, "registered, 60 names without lines")$field, "account")
  expect_equal(found(x, "below zero", "quantity")$lines, sum(lines$quantity < 0, na.rm = TRUE))
  expect_equal(nrow(found(x, "the last month is a part")), 1)
  expect_true(all(ll_proof(x)$holds))
  expect_false(is.unsorted(match(x$weight, c("high", "middle", "low"))))
})

test_that("the lines of brief that mend do mend", {
  brief <- readLines(demo_path("longladder.yml"))
  folder <- withr::local_tempdir()
  for (file in c("order_lines.csv", "accounts.csv", "items.csv", "reps.csv")) file.copy(demo_path(file), folder)
  # The ledger's total is of the lines as they were.
  brief <- brief[!grepl("^control:|revenue: [0-9]", brief)]
  at <- grep("^fields:", brief)
  mended <- append(brief, c("  rep: {same: alike, fill: unknown}", "  net: {fill: zero}"), at)
  mended <- c("set_aside: ship_date < order_date", mended)
  writeLines(mended, file.path(folder, "longladder.yml"))
  x <- ll_check(ll_brief(file.path(folder, "longladder.yml"))$book)
  for (gone in c("spelled alike", "ship date before order date")) expect_equal(nrow(found(x, gone)), 0)
  expect_equal(nrow(found(x, "missing values", "rep")), 0)
  expect_true(all(ll_proof(x)$holds))
})

test_that("each field's row is base R's", {
  fields <- ll_part(ll_check(demo_book()), "fields")
  lines <- demo_lines()
  for (name in names(lines)) {
    row <- fields[fields$field == name, ]
    expect_equal(row$missing, sum(is.na(lines[[name]])), info = name)
    expect_equal(row$distinct, length(unique(lines[[name]][!is.na(lines[[name]])])), info = name)
  }
  expect_equal(fields$missing_revenue[fields$field == "rep"], sum(lines$net[is.na(lines$rep)], na.rm = TRUE))
  expect_identical(fields$lowest[fields$field == "order_date"], "2024-01-02")
})

test_that("small books: gaps between months, names that stop, one name only, values far out", {
  n <- 400
  days <- as.Date("2024-01-01") + seq(0, 899, length.out = n)
  withr::local_seed(3)
  lines <- data.frame(day = days, k = ifelse(days < as.Date("2025-03-01") & seq_len(n) %% 2 == 0, "old", "new"), only = "web",
                      order_no = sprintf("N%03d", seq_len(n)), net = round(runif(n, 10, 20), 2))
  lines$net[7] <- 99999
  lines <- lines[format(lines$day, "%Y-%m") != "2025-07", ]
  x <- ll_check(ll_book(lines, metrics = c(revenue = "sum(net)")))
  expect_match(found(x, "stops", "k")$examples, "old after 2025-02")
  expect_identical(found(x, "months without lines")$examples, "2025-07")
  expect_equal(found(x, "one name only", "only")$lines, nrow(lines))
  expect_match(found(x, "far out", "net")$examples, "99999")
  stray <- rbind(lines, transform(lines[1, ], day = as.Date("2062-01-01"), order_no = "Z"))
  expect_match(found(ll_check(ll_book(stray, metrics = c(revenue = "sum(net)"))), "dates far ahead of the others")$mend, "^as_of: 2026")
})

test_that("a clean book, one line, all missing, refusals, and every shape draws", {
  clean <- ll_book(data.frame(k = rep(c("a", "b"), 4), n = 1:8, net = c(5.5, 6, 7, 5, 6.5, 7.5, 8, 5)), fields = c(n = "identifier"),
                   metrics = c(revenue = "sum(net)"))
  x <- ll_check(clean)
  expect_equal(nrow(x), 0)
  expect_match(ll_finding(x), "^Nothing looks wrong in 8 lines")
  one <- ll_check(ll_book(data.frame(k = "a", day = as.Date("2026-01-15"), e = NA, net = 1.5), metrics = c(revenue = "sum(net)")))
  expect_match(paste(one$finding, collapse = " "), "no values at all")
  expect_error(ll_check(small_book(), "average"), "adds up", class = "ll_error_argument")
  expect_error(ll_check(small_book(), "revenu"), "Nearest: 'revenue'", class = "ll_error_word")
  got <- command("check", "--brief", demo_path("longladder.yml"), "--format", "json")
  expect_equal(jsonlite::fromJSON(got$out)$study, "check")
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (shape in list(x, one, ll_check(demo_book()))) expect_silent(plot(shape))
})
