# Crosstab: by hand, against SQL, as properties, and what is drawn.

test_that("a small book by hand", {
  got <- ll_crosstab(small_book(), "rep", "area", "revenue")
  # Ida: Moor 30.30, Fen 0.10; Tom: Fen 35.30; Uma: Moor 25.05, Fen 10.15; no rep: Moor 7.50.
  expect_equal(got$rep, c("Tom", "Uma", "Ida", "(none)"))
  expect_equal(got$Moor, c(NA, 25.05, 30.3, 7.5))
  expect_equal(got$Fen, c(35.3, 10.15, .1, NA))
  expect_identical(got$total, c(35.3, 35.2, 30.4, 7.5))
  foot <- ll_part(got, "foot")
  expect_identical(c(foot$total, foot$Moor, foot$Fen), c(108.4, 62.85, 45.55))
  expect_true(all(ll_proof(got)$holds))
  expect_match(ll_finding(got),
               "^The most revenue: rep Tom and area Fen, 35.30, 32.6 % of the total")
  expect_match(paste(ll_notes(got)$text, collapse = " "), "1 of 6 cells has no lines")
})

test_that("cells, row, column and outer totals of every metric agree with SQL", {
  db <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(db))
  for (seed in some_of(1:6, 3)) {
    lines <- random_lines(seed, 150)
    DBI::dbWriteTable(db, "l", transform(lines, day = format(day), cents = round(net * 100),
                                         month = format(day, "%Y-%m"),
                                         rep = ifelse(is.na(rep), "(none)", rep),
                                         area = ifelse(is.na(area), "(none)", area)),
                      overwrite = TRUE)
    book <- ll_book(lines, fields = c(order_no = "identifier"), metrics = list(
      revenue = "sum(net)", orders = "distinct(order_no)", average = "revenue / orders"))
    got <- ll_crosstab(book, c("area", "rep"), "month(day)", c("revenue", "orders", "average"),
                       where = "qty > 0")
    expect_true(all(ll_proof(got)$holds))
    for (i in seq_len(nrow(got))) for (month in c("total", "2025-03")) {
      where <- c("qty > 0", paste0("area = '", got$area[i], "'"),
                 if (got$rep[i] != "(all)") paste0("rep = '", got$rep[i], "'"),
                 if (month != "total") paste0("month = '", month, "'"))
      sql <- DBI::dbGetQuery(db,
                             paste(paste0("select sum(cents) / 100.0 revenue, count(distinct ",
                                          "order_no) orders, count(*) n from l where"),
                                   paste(where, collapse = " and ")))
      cell <- got[[paste0(month, ": orders")]][i]
      if (sql$n == 0) expect_identical(cell, NA_real_) else {
        expect_equal(cell, as.numeric(sql$orders))
        expect_equal(got[[paste0(month, ": revenue")]][i], as.numeric(sql$revenue))
        expect_equal(got[[paste0(month, ": average")]][i], as.numeric(sql$revenue / sql$orders))
      }
    }
  }
})

test_that("shares add up in their direction, unrounded, and the values stay at hand", {
  for (of in c("row", "column", "all")) {
    got <- ll_crosstab(demo_book(), "territory", "channel", share_of = of, when = "2025")
    proof <- ll_proof(got)
    expect_true(all(proof$holds), info = of)
    expect_true(any(grepl("unrounded shares", proof$check)))
    expect_match(ll_reading(got), paste0("share of (its ", of, "'s|the whole) total"))
    values <- ll_part(got, "values")
    leaves <- setdiff(names(values), c("territory", "total"))
    whole <- switch(of, row = values$total, column = rep(colSums(values[leaves]),
                                                         each = nrow(values)),
                    all = sum(values$total))
    expect_equal(as.matrix(as.data.frame(got)[leaves]), as.matrix(values[leaves]) / whole,
                 ignore_attr = TRUE)
  }
})

test_that("the rest is gathered and recalculated; nothing is lost; months keep their order", {
  got <- ll_crosstab(demo_book(), "account", "quarter(order_date)", c("revenue", "orders"), top = 3,
                     when = "2025")
  expect_equal(nrow(got), 4)
  expect_match(got$account[4], "^everyone else \\(")
  expect_true(all(ll_proof(got)$holds))
  lines <- demo_lines()
  rest <- lines[!lines$account %in% got$account[1:3] & substr(lines$order_date, 1, 7) %in%
                c("2025-04", "2025-05", "2025-06"), ]
  expect_equal(got[["2025-Q2: orders"]][4], length(unique(rest$order_no)))
  expect_equal(got[["2025-Q2: revenue"]][4], sum(rest$net, na.rm = TRUE))
  quarters <- grep("revenue", names(got), value = TRUE)
  expect_identical(quarters, paste0(c("total", paste0("2025-Q", 1:4)), ": revenue"))
  days <- ll_crosstab(demo_book(), "weekday(order_date)", metrics = "orders")
  expect_identical(days[[1]][1:3], c("Monday", "Tuesday", "Wednesday"))
  bands <- ll_crosstab(demo_book(), "account_size", metrics = c("revenue", "orders"))
  expect_identical(bands$account_size, c("small", "middle", "large", "key"))
})

test_that("the planted reversal is pointed out", {
  got <- ll_crosstab(demo_book(), "rep", "territory", "revenue")
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "Maren Holt leads overall by revenue but is first in only 1 of 6")
})

test_that("one line, one name, all missing, odd names; and what is refused", {
  one <- ll_book(data.frame(a = "x\ny", b = "total", net = 5), metrics = c(revenue = "sum(net)"))
  got <- ll_crosstab(one, "a", "b")
  expect_equal(unlist(got[1, 2:3], use.names = FALSE), c(5, 5))
  expect_equal(length(unique(names(got))), 3)
  none <- ll_crosstab(small_book(), "rep", "area", when = "2030")
  expect_equal(nrow(none), 0)
  expect_output(print(none), "nothing to list")
  book <- small_book()
  cases <- list(
    "at once" = list("rep", "rep"), "one dimension or two" = list(c("rep", "area", "order_no")),
    "adds up" = list("rep", "area", "average", "row"), "Nearest: 'rep'" = list("reps"),
    "measure" = list("qty"))
  for (pattern in names(cases)) {
    args <- stats::setNames(cases[[pattern]], c("rows", "columns", "metrics",
                                                "share_of")[seq_along(cases[[pattern]])])
    expect_error(do.call(ll_crosstab, c(list(book), args)), pattern, class = "ll_error")
  }
})

test_that("tiles: one for each cell, rest uncoloured, every shape draws", {
  tiles <- internal("crosstab_tiles")(ll_crosstab(demo_book(), "item", "territory", "revenue",
                                                  top = 4))
  expect_equal(nrow(tiles), 30)
  expect_true(all(is.na(tiles$depth[grepl("everyone", tiles$row)])))
  expect_equal(max(tiles$depth, na.rm = TRUE), 1)
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  shapes <- list(
    ll_crosstab(demo_book(), "territory", metrics = c("orders", "margin_rate", "returned")),
    ll_crosstab(demo_book(), c("family", "channel"), c("year(order_date)", "type"), when = "2025"),
    ll_crosstab(demo_book(), "account", "month(order_date)", share_of = "column"),
    ll_crosstab(small_book(), "rep", "area", c("revenue", "average")),
    ll_crosstab(small_book(), "rep", when = "2030"))
  for (x in shapes) expect_silent(plot(x))
})
