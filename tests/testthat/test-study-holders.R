# Holders: by hand, against SQL window functions, ties, runner-up, whole orders, odd books,
# pictures.

holder_lines <- function() {
  data.frame(order_no = c("A", "A", "B", "B", "C", "D"), day = as.Date("2026-01-01") + 0:5,
             rep = c("Ida", "Ida", "Tom", "Uma", "Ida", NA),
             family = c("hives", "jars", "hives", "jars", "jars", NA),
             net = c(10, 90, 40, 30, 100, 5))
}
holder_book <- function(lines = holder_lines()) {
  ll_book(lines, fields = c(order_no = "identifier", rep = "dimension"), order = "order_no",
          people = "rep", metrics = list(revenue = "sum(net)", average = "sum(net) / count()"))
}

test_that("orders, lines and names by hand; ties; inside the group or whole", {
  book <- holder_book()
  got <- ll_holders(book, "order_no")
  expect_identical(got$order_no, c("A", "C"))
  expect_equal(got$lead, c(0, 0))
  expect_identical(got$runner_up, c(NA_character_, NA))
  expect_match(ll_finding(got), "The largest order by revenue: A and C with 100.00 each")
  inside <- ll_holders(book, "order_no", within = "family")
  expect_identical(as.list(inside[c("family", "order_no")]),
                   list(family = c("jars", "hives", "(none)"), order_no = c("C", "B", "D")))
  expect_equal(inside$lead, c(10, 30, NA))
  expect_identical(inside$runner_up, c("A", "A", NA))
  whole <- ll_holders(book, "order_no", within = "family", part = "whole", which = "lowest")
  expect_identical(whole$order_no[whole$family == "hives"], "B")
  expect_equal(whole$revenue[whole$family == "hives"], 70)
  line <- ll_holders(book, within = "family", with_fields = c("rep", "day"))
  expect_equal(line$line, c(5, 3, 6))
  expect_identical(line$rep, c("Ida", "Tom", NA))
  expect_identical(line$runner_up, c("A", "A", NA))
  expect_equal(line$day, as.Date("2026-01-01") + c(4, 2, 5))
  all <- ll_holders(book)
  expect_identical(list(all$line, all$runner_up, all$lead), list(5, "A", 10))
  # Fields in which the lines of a name differ are listed.
  expect_identical(ll_holders(book, "order_no", with_fields = "rep",
                              where = "order_no == \"B\"")$rep,
                   "Tom and Uma")
  rate <- ll_holders(book, "rep", "average")
  expect_match(ll_finding(rate), "The highest average: Ida with 66.67, 26.67 ahead of Tom")
  expect_match(paste(ll_notes(rate)$text, collapse = " "), "1 value rests on fewer than 5 orders")
  for (x in list(got, inside, whole, line, rate)) expect_true(all(ll_proof(x)$holds))
  # The lines behind: of the name in its group, and the very line.
  expect_equal(sum(ll_detail(inside, row = 2)$net), 40)
  expect_equal(ll_detail(line, row = 2)$net, 40)
})

test_that("holders are those of SQL, with the runner-up", {
  con <- local_sqlite()
  for (seed in some_of(1:6, 3)) {
    lines <- random_lines(seed, 150)
    lines$cents <- round(lines$net * 100)
    lines$no <- seq_len(nrow(lines))
    DBI::dbWriteTable(con, "lines", transform(lines, day = format(day)), overwrite = TRUE)
    book <- ll_book(lines[1:6], fields = c(order_no = "identifier"), order = "order_no",
                    metrics = list(revenue = "sum(net)"))
    want <- DBI::dbGetQuery(con, "
      WITH n AS (SELECT coalesce(area, '(none)') AS area, order_no, SUM(cents) AS v FROM lines
                 GROUP BY 1, 2 HAVING v IS NOT NULL),
           r AS (SELECT *, RANK() OVER (PARTITION BY area ORDER BY v DESC) AS p,
                        DENSE_RANK() OVER (PARTITION BY area ORDER BY v DESC) AS d FROM n)
      SELECT a.area, a.order_no, a.v / 100.0 AS v,
             (SELECT MAX(b.v) / 100.0 FROM r b WHERE b.area = a.area AND b.d = 2) AS second,
             (SELECT COUNT(*) FROM r b WHERE b.area = a.area AND b.p = 1) AS tied
      FROM r a WHERE p = 1 ORDER BY a.v DESC, a.area, a.order_no")
    got <- ll_holders(book, "order_no", within = "area")
    got <- as.data.frame(got)[order(-got$revenue, got$area, got$order_no), ]
    expect_identical(got$order_no, want$order_no)
    expect_equal(got$revenue, want$v)
    expect_equal(got$revenue_runner_up, ifelse(want$tied > 1, NA, want$second))
    line <- DBI::dbGetQuery(con, "
      SELECT coalesce(area, '(none)') AS area, no
      FROM (SELECT *, RANK() OVER (PARTITION BY area ORDER BY cents) AS p FROM lines
            WHERE cents IS NOT NULL)
      WHERE p = 1 ORDER BY area, no")
    low <- as.data.frame(ll_holders(book, which = "lowest", within = "area"))
    low <- low[order(low$area, low$line), ]
    expect_equal(low$line, line$no)
  }
})

test_that("the demo's largest order, odd books, refusals, and what is drawn", {
  book <- demo_book()
  got <- ll_holders(book, "order_no", with_fields = c("rep", "account_name", "order_date"))
  lines <- demo_lines()
  sums <- sort(rowsum(lines$net, lines$order_no, na.rm = TRUE)[, 1], decreasing = TRUE)
  expect_identical(got$order_no, names(sums)[1])
  expect_equal(got$lead, unname(sums[1] - sums[2]))
  lone <- ll_book(data.frame(k = c("a", "b"), net = c(NA, 1)),
                  fields = c(k = "dimension", net = "measure"),
                  metrics = list(revenue = "sum(net)"))
  same <- ll_book(data.frame(k = letters, net = 2), fields = c(k = "dimension"),
                  metrics = list(revenue = "sum(net)"))
  shapes <- list(got, ll_holders(book, "account", "margin_rate", within = "territory",
                                 min_orders = 10), ll_holders(book, within = "family"),
                 ll_holders(book, c("rep", "territory")), ll_holders(lone, where = "k == \"a\""),
                 ll_holders(lone, "k"), ll_holders(same), ll_holders(same, "k", which = "lowest"),
                 ll_holders(book, "account", c(last = "max(order_date)")),
                 ll_holders(small_book(), "rep", when = "2030"))
  expect_sound(shapes)
  expect_error(ll_holders(book, metrics = "margin_rate"), "must be the sum of a formula",
               class = "ll_error_argument")
  expect_error(ll_holders(book, "rep", within = "rep"), "another dimension",
               class = "ll_error_argument")
  expect_error(ll_holders(book, "rep", with_fields = "teritory"), "territory",
               class = "ll_error_word")
  expect_error(ll_holders(book, min_orders = 3), "for names", class = "ll_error_argument")
})
