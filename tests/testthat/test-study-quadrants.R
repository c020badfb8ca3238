# Quadrants: by hand, against SQL and base R, lines under filters, crossings, and what is drawn.

quad_book <- function(net, cost, ...) {
  ll_book(data.frame(k = sprintf("n%02d", seq_along(net)), day = as.Date("2026-01-01"), net = net,
                     cost = cost),
          fields = c(k = "dimension", net = "measure", cost = "measure"),
          metrics = list(revenue = "sum(net)", cost_sum = "sum(cost)",
                         cost_rate = list(is = "cost_sum / revenue", better = "low")), ...)
}

test_that("by hand: mean, median, total and given lines; on a line is above", {
  book <- quad_book(c(10, 20, 30, 100), c(5, 5, 15, 40))
  ask <- function(...) ll_quadrants(book, "k", c("revenue", "cost_rate"), ...)
  got <- ask()
  set <- ll_settings(got)
  expect_equal(c(set$x_divide, set$y_divide), c(40, 65 / 160))
  expect_identical(got$k, c("n04", "n03", "n02", "n01"))
  # Rates .4, .5, .25, .5 against 65 / 160.
  expect_identical(got$quadrant, c("high revenue, low cost rate", "low revenue, high cost rate",
                                   "low revenue, low cost rate", "low revenue, high cost rate"))
  drawn <- ll_settings(ask(x_divide = "median", y_divide = "mean"))
  expect_equal(drawn$x_divide, 25)
  expect_equal(drawn$y_divide, mean(c(.4, .5, .25, .5)))
  on <- ask(x_divide = 30, y_divide = "50%")
  expect_identical(on$quadrant[2], "high revenue, high cost rate")
  expect_match(paste(ll_notes(on)$text, collapse = " "),
               "exactly on a dividing value and count as high")
  # Best first: much revenue, little cost.
  held <- ll_part(got, "quadrants")
  expect_identical(held$quadrant[1], "high revenue, low cost rate")
  expect_equal(held$value, c(100, 0, 20, 40))
  expect_equal(sum(held$names_share), 1)
  # The fractions of the computer do not put three tenths below themselves.
  tenths <- ll_book(data.frame(k = c("a", "a", "a", "b"), net = c(.1, .1, .1, .3)),
                    fields = c(k = "dimension"), metrics = list(revenue = "sum(net)",
                                                                n = "count()"))
  expect_true(all(grepl("high revenue", ll_quadrants(tenths, "k", c("revenue", "n"))$quadrant)))
})

test_that("quadrants are those of SQL, for names and pairs, under a filter", {
  con <- local_sqlite()
  for (seed in some_of(1:6, 3)) {
    lines <- random_lines(seed, 400)
    DBI::dbWriteTable(con, "lines", transform(lines, day = format(day)), overwrite = TRUE)
    book <- ll_book(lines, fields = c(order_no = "identifier"),
                    metrics = list(revenue = "sum(net)", units = "sum(qty)",
                                   price = "revenue / units"))
    for (keys in list("order_no", c("rep", "area"))) {
      key <- paste(keys, collapse = ", ")
      want <- DBI::dbGetQuery(con, sprintf("
        WITH n AS (SELECT %1$s, SUM(net) AS v, SUM(net) / NULLIF(SUM(sold), 0) AS r, SUM(sold) AS u
                   FROM (SELECT *, CASE WHEN net IS NOT NULL THEN qty END AS sold FROM lines)
                    WHERE qty > 0 AND %2$s GROUP BY %1$s),
             k AS (SELECT * FROM n WHERE v IS NOT NULL AND r IS NOT NULL)
        SELECT %1$s,
               CASE WHEN v >= (SELECT AVG(v) FROM k) THEN 'high' ELSE 'low' END || ' revenue, ' ||
               CASE WHEN r >= (SELECT SUM(v) / SUM(u) FROM k) THEN 'high' ELSE 'low' END
                 || ' price' AS quadrant
        FROM k ORDER BY ROUND(v, 2) DESC, %1$s", key,
                                           paste(keys, "IS NOT NULL", collapse = " AND ")))
      got <- ll_quadrants(book, keys, c("revenue", "price"), where = "qty > 0")
      expect_identical(got$quadrant, want$quadrant)
      expect_identical(as.list(as.data.frame(got))[keys], as.list(want)[keys])
      expect_true(all(ll_proof(got)$holds))
    }
  }
})

test_that("lines follow the filter, and leave out who is left out", {
  book <- demo_book()
  got <- ll_quadrants(book, "account", c("revenue", "margin_rate"), where = "territory == \"Moor\"")
  lines <- demo_lines()
  lines <- lines[!is.na(lines$territory) & lines$territory == "Moor", ]
  by <- rowsum(cbind(lines$net, lines$net - lines$cost), lines$account, na.rm = TRUE)
  expect_equal(ll_settings(got)$x_divide, mean(by[, 1]))
  few <- ll_quadrants(book, "account", c("revenue", "margin_rate"), min_orders = 10)
  orders <- ll_standings(book, "account", "orders")
  kept <- orders$account[orders$orders >= 10 & !is.na(orders$rank)]
  expect_setequal(few$account, kept)
  rate <- ll_standings(book, "account_name", "margin_rate")
  shown <- as.data.frame(few)
  expect_equal(ll_settings(few)$y_divide, stats::weighted.mean(shown$margin_rate, shown$revenue),
               tolerance = 1e-9)
  expect_match(paste(ll_notes(few)$text, collapse = " "), "with fewer than 10 orders left out")
})

test_that("a third metric bands names, over what is shown or the whole book", {
  book <- demo_book()
  ask <- function(...) ll_quadrants(book, "account", c("revenue", "margin_rate", "orders"),
                                    when = "2026-Q2", ...)
  thirds <- ll_part(ask(), "bands")
  expect_lte(max(thirds$names) - min(thirds$names), nrow(ask()) / 4)
  given <- ask(bands = "some=0,many=4")
  expect_identical(given$orders_band, ifelse(given$orders >= 4, "many", "some"))
  whole <- ask(bands = "some=0,many=4", over = "book")
  all <- ll_standings(book, "account", "orders")
  expect_equal(whole$orders, all$orders[match(whole$account, all$account)])
  expect_match(ll_reading(whole), "over the whole book")
})

test_that("growth and change, and who crossed", {
  lines <- data.frame(k = rep(c("a", "b", "c", "d"), 2),
                      day = rep(as.Date(c("2025-03-01", "2026-03-01")), each = 4),
                      net = c(10, 20, 30, 40, 50, 20, 30, 40), qty = c(1, 1, 2, 2, 5, 1, 2, 2))
  book <- ll_book(lines, fields = c(k = "dimension"), metrics = list(revenue = "sum(net)",
                                                                     units = "sum(qty)"))
  got <- ll_quadrants(book, "k", c("revenue", "units"), when = "2026", against = "2025")
  # Then the lines were 25 and 1.5, now 35 and 2.5: c did not move, the lines did.
  expect_identical(got$quadrant[match(c("a", "c"), got$k)],
                   c("high revenue, high units", "low revenue, low units"))
  expect_identical(got$quadrant_before[match(c("a", "c"), got$k)],
                   c("low revenue, low units", "high revenue, high units"))
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "Of 3 that crossed, 2 would be there by the earlier values too")
  expect_equal(sum(ll_part(got, "moves")$names), 4)
  rise <- ll_quadrants(book, "k", c("revenue", rise = "growth(revenue)"), y_divide = 0,
                       when = "2026", against = "2025")
  expect_true(all(grepl("high rise", rise$quadrant)))
  expect_null(rise$quadrant_before)
  expect_equal(ll_settings(ll_quadrants(book, "k", c("revenue", rise = "growth(revenue)"),
                                        when = "2026", against = "2025"))$y_divide, .4)
})

test_that("odd books, the order of lines, refusals, and what is drawn", {
  lines <- random_lines(3)
  metrics <- list(revenue = "sum(net)", price = "revenue / sum(qty)")
  a <- ll_quadrants(ll_book(lines, metrics = metrics), "rep", c("revenue", "price"))
  b <- ll_quadrants(ll_book(lines[withr::with_seed(1, sample(200)), ], metrics = metrics), "rep",
                    c("revenue", "price"))
  expect_equal(as.data.frame(a), as.data.frame(b))
  book <- demo_book()
  many <- withr::with_seed(2, quad_book(round(rlnorm(6000, 5, 2), 2), round(rlnorm(6000, 4, 1), 2)))
  shapes <- list(a, ll_quadrants(book, "account", c("revenue", "margin_rate"),
                                 highlight = c("high", "low")),
                 ll_quadrants(book, "item", c("revenue", "units", "margin_rate"), axes = "log"),
                 ll_quadrants(quad_book(5, 1), "k", c("revenue", "cost_rate")),
                 ll_quadrants(many, "k", c("revenue", "cost_sum")),
                 ll_quadrants(quad_book(c(2, 2, 2, 2), c(1, 1, 1, 1)), "k",
                              c("revenue", "cost_rate", "cost_sum")),
                 ll_quadrants(quad_book(c(-2, 0, 2), c(1, 1, 1)), "k", c("revenue", "cost_rate"),
                              axes = "log", y_divide = "mean"),
                 ll_quadrants(quad_book(c(NA, 4), c(1, 1)), "k", c("revenue", "cost_rate"),
                              where = "k == \"n01\""), ll_quadrants(small_book(), "rep",
                                                                    c("average", "orders"),
                                                                    when = "2030"))
  expect_sound(shapes)
  refused <- function(text, ...) expect_error(ll_quadrants(book, "account", ...), text,
                                              class = "ll_error_argument")
  refused("takes two metrics", "revenue")
  refused("no dividing value for single names", c("revenue", "margin_rate"), x_divide = "total")
  refused("mean', 'median' or 'total', or a number", c("revenue", "margin_rate"), x_divide = "meen")
  refused("must be two of high and low", c("revenue", "margin_rate"), highlight = "high")
  refused("third metric", c("revenue", "margin_rate"), bands = "a=0")
  refused("must be given", NULL)
  expect_error(ll_quadrants(quad_book(c(-2, 0, 2), c(1, 1, 1)), "k", c("revenue", "cost_rate")),
               "a division by zero", class = "ll_error_data")
})
