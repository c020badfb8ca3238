# Cohorts: against SQL for periods and triangle, since dates by hand, what cannot be known, odd
# books, pictures.

cohort_lines <- function(seed = 1, n = 300) {
  withr::with_seed(seed, {
    k <- sample(c(sprintf("k%02d", 1:50), NA), n, TRUE)
    start <- as.Date("2022-03-01") + sample(0:900, 51, TRUE)
    data.frame(order_no = sprintf("o%03d", sample(n, n, TRUE)),
               day = pmin(start[match(k, c(sprintf("k%02d", 1:50), NA))] + sample(0:700, n, TRUE),
                          as.Date("2025-12-31")), k = k, kind = sample(c("x", "y"), n, TRUE),
               net = round(rnorm(n, 40, 60), 2))
  })
}
cohort_book <- function(lines = cohort_lines(), ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension"),
          metrics = list(revenue = "sum(net)", rate = "revenue / count()"), date = "day",
          order = "order_no", ...)
}

test_that("periods and triangle are those of SQL", {
  withr::local_seed(15)
  con <- local_sqlite()
  for (seed in some_of(1:5, 3)) {
    lines <- cohort_lines(seed)
    lines$year <- format(lines$day, "%Y")
    lines$cents <- round(lines$net * 100)
    DBI::dbWriteTable(con, "lines", transform(lines, day = format(day)), overwrite = TRUE)
    opens <- min(lines$year)
    got <- ll_cohorts(cohort_book(lines), "k", c("revenue", "rate"))
    want <- DBI::dbGetQuery(con, "
      WITH f AS (SELECT k, MIN(year) AS c FROM lines WHERE k IS NOT NULL GROUP BY k)
      SELECT l.year, SUM(cents) / 100.0 AS revenue,
             SUM(CASE WHEN f.c = l.year THEN cents END) / 100.0 AS new,
             SUM(CASE WHEN f.c < l.year THEN cents END) / 100.0 AS old,
             AVG(CASE WHEN f.c < l.year THEN net END) AS old_rate, COUNT(DISTINCT l.k) AS names,
             COUNT(DISTINCT CASE WHEN f.c = l.year THEN l.k END) AS names_new,
             COUNT(DISTINCT order_no) AS orders,
             COUNT(DISTINCT CASE WHEN f.c = l.year THEN order_no END) AS orders_new
      FROM lines l LEFT JOIN f ON l.k = f.k GROUP BY l.year ORDER BY l.year")
    expect_identical(got$period, want$year)
    later <- want$year > opens
    for (pair in list(c("revenue", "revenue"), c("names", "names"),
                      c("orders", "orders"))) expect_equal(got[[pair[1]]], want[[pair[2]]])
    for (pair in list(c("revenue_new", "new"), c("revenue_existing", "old"),
                      c("rate_existing", "old_rate"), c("names_new", "names_new"),
                      c("orders_new", "orders_new")))
      expect_equal(got[[pair[1]]][later], want[[pair[2]]][later], info = pair[1])
    expect_true(all(is.na(got[!later, c("revenue_new", "revenue_existing", "names_new",
                                        "new_share")])))
    expect_equal(got$revenue_unknown[!later], want$new[!later])
    expect_equal(got$new_share[later], want$new[later] / want$revenue[later])
    triangle <- DBI::dbGetQuery(con, "
      WITH f AS (SELECT k, MIN(year) AS c FROM lines WHERE k IS NOT NULL GROUP BY k),
           s AS (SELECT c, COUNT(*) AS size FROM f GROUP BY c)
      SELECT f.c, l.year, size, COUNT(DISTINCT l.k) AS names, SUM(cents) / 100.0 AS revenue,
             COUNT(DISTINCT order_no) AS orders
      FROM lines l JOIN f ON l.k = f.k JOIN s ON s.c = f.c
      GROUP BY f.c, l.year ORDER BY f.c, l.year")
    made <- ll_part(got, "triangle")
    expect_identical(made$cohort, ifelse(triangle$c == opens, paste(opens, "or before"),
                                         triangle$c))
    expect_equal(made$names, triangle$names)
    expect_equal(made$names_share, triangle$names / triangle$size)
    expect_equal(made$revenue, triangle$revenue)
    expect_equal(made$orders, triangle$orders)
    expect_equal(made$age, as.integer(triangle$year) - as.integer(triangle$c))
    expect_true(all(ll_proof(got)$holds))
    again <- ll_cohorts(cohort_book(lines[sample(nrow(lines)), ]), "k", c("revenue", "rate"))
    expect_equal(as.data.frame(again), as.data.frame(got))
  }
})

test_that("the register's date tells who was there; by hand", {
  lines <- data.frame(k = c("old", "old", "new", "late", "back", NA, "what"),
                      day = as.Date(c("2024-02-01", "2025-03-01", "2024-05-01", "2025-01-05",
                                      "2025-06-01", "2025-07-01", "2024-08-01")),
                      net = c(10, 20, 5, 7, 30, 1, 4))
  register <- data.frame(k = c("old", "new", "late", "back"),
                         since = as.Date(c("2019-01-01", "2024-04-01", "2025-02-01", "2018-01-01")))
  book <- cohort_book(transform(lines, order_no = seq_along(k)), registers = list(k = register))
  got <- ll_cohorts(book, "k")
  expect_equal(got$revenue_new, c(5, 7))
  expect_equal(got$revenue_existing, c(10, 50))
  expect_equal(got$revenue_unknown, c(4, 0))
  expect_equal(ll_part(got, "triangle")$cohort, c("before 2024", "before 2024", "2024 or before",
                                                  "2024", "2025"))
  expect_equal(ll_part(got, "retention")[["2025"]], c(1, NA, NA, 1))
  said <- paste(ll_notes(got)$text, collapse = " ")
  expect_match(said, "values of k with lines there and no date in the register may be old or new")
  expect_match(said, "1 value of k had a line before the date of since")
  expect_match(said, "1 line without a name \\(1.00\\) is neither new nor existing")
  expect_match(ll_finding(got),
               paste("In 2025, 1 new value of k brought 7.00 \\(12.1 % of revenue\\);",
                     "0 % of those new in 2024 bought again in 2025"))
  none <- ll_cohorts(book, "k", since = "none")
  expect_equal(none$revenue_new, c(NA, 37))
  expect_match(ll_finding(ll_cohorts(book, "k", since = "none", when = "2024")),
               "who is new there cannot be told")
  # New to some lines only: the first of those counts, and the register cannot tell.
  shown <- ll_cohorts(cohort_book(cohort_lines(),
                                  registers = list(k = data.frame(k = "k01",
                                                                  since = as.Date("2000-01-01")))),
                      "k", over = "shown", where = "kind == \"x\"")
  lines <- cohort_lines()[cohort_lines()$kind == "x", ]
  year <- format(lines$day, "%Y")
  first <- tapply(year, lines$k, min)
  expect_equal(shown$revenue_new[-1], unname(vapply(shown$period[-1],
                                                    function(y) sum(lines$net[year == y &
                                                                              first[lines$k] %in%
                                                                              y]), 0)))
  expect_match(paste(ll_notes(shown)$text, collapse = " "), "is not used")
  expect_equal(nrow(ll_detail(got, row = 2)), 4)
  for (x in list(got, none, shown)) expect_true(all(ll_proof(x)$holds))
})

test_that("the demo, odd books, refusals, and what is drawn", {
  demo <- demo_book()
  got <- ll_cohorts(demo, "account")
  lines <- demo_lines()
  register <- read.csv(demo_path("accounts.csv"), colClasses = c(account = "character"))
  first <- tapply(substr(lines$order_date, 1, 4), lines$account, min)
  since <- substr(register$since[match(names(first), register$account)], 1, 4)
  first[since < "2024"] <- "before"
  expect_equal(got$revenue_new[2], sum(lines$net[substr(lines$order_date, 1, 4) == "2025" &
                                                 first[lines$account] == "2025"], na.rm = TRUE))
  expect_false("revenue_unknown" %in% names(got))
  one <- ll_book(data.frame(k = "a\"\n", day = as.Date("2026-01-01"), net = -1),
                 fields = c(k = "dimension"), metrics = list(r = "sum(net)"))
  gaps <- data.frame(k = c("a", "b", "a"), day = as.Date(c("2024-01-10", "2024-06-01", NA)),
                     net = 1:3)
  gappy <- ll_book(gaps, fields = c(k = "dimension"), metrics = list(r = "sum(net)",
                                                                     m = "median(net)"))
  expect_identical(ll_cohorts(gappy, "k", every = "month")$r, c(1, 0, 0, 0, 0, 2))
  expect_sound(list(got, ll_cohorts(demo, "account", "margin_rate", every = "fiscal_quarter",
                                    since = "none", share_of = "money"), ll_cohorts(one, "k"),
                    ll_cohorts(gappy, "k", every = "month"), ll_cohorts(gappy, "k", "m"),
                    ll_cohorts(demo, "item", every = "month", when = "2026"),
                    ll_cohorts(demo, "rep", where = "territory == \"Fen\"", over = "shown")))
  expect_error(ll_cohorts(demo, "account", since = "snce"), "no date called 'snce'",
               class = "ll_error_word")
  expect_error(ll_cohorts(demo, "account", when = "2030"), "no dates in", class = "ll_error_data")
  expect_error(ll_cohorts(demo, c("account", "item")), "one dimension", class = "ll_error_argument")
  expect_error(ll_cohorts(ll_book(data.frame(k = "a", net = 1), metrics = list(r = "sum(net)")),
                          "k"), "has no date", class = "ll_error_data")
})
