# Portrait: by hand, against base R, the planted reps and items, and what is drawn.

test_that("a small book by hand: metrics, ranks, months, what it divides into", {
  got <- ll_portrait(small_book(), "rep", "Ida")
  # Ida 30.40 of 108.40; Tom 35.30, Uma 35.20, nobody 7.50.
  metrics <- ll_part(got, "metrics")
  expect_equal(metrics$value, c(30.4, 2, 15.2))
  expect_equal(metrics$overall, c(108.4, 7, 108.4 / 7))
  expect_equal(metrics$rank, c(3, 1, 3))
  expect_equal(metrics$of, c(3, 3, 3))
  expect_equal(metrics$tied[2], 2)
  months <- ll_part(got, "months")
  expect_equal(months$revenue, c(30.3, 0, .1))
  expect_equal(months$overall, c(60.6, 30.05, 17.75))
  area <- as.data.frame(got)[got$dimension == "area", ]
  expect_equal(area$name, c("Moor", "Fen"))
  expect_equal(area$share, c(30.3, .1) / 30.4)
  expect_equal(area$book_share, c(62.85, 45.55) / 108.4)
  expect_equal(area$index, 100 * c(30.3, .1) / 30.4 / (c(62.85, 45.55) / 108.4))
  expect_true(all(ll_proof(got)$holds))
  expect_match(ll_finding(got),
               paste0("^Ida holds rank 3 of 3 reps by revenue with 30.40, 28.0 % of the total; ",
                      "best month 2026-01"))
  notes <- paste(ll_notes(got)$text, collapse = " ")
  expect_match(notes, "Its rank by orders is shared with 2 others")
  expect_match(notes, "All of this rests on 2 orders")
  expect_match(notes, "No revenue in 1 of 3 months")
})

test_that("values and shares agree with base R on random lines, conditions and periods included", {
  for (seed in some_of(1:6, 2)) {
    lines <- random_lines(seed, 300)
    book <- ll_book(lines, fields = c(order_no = "identifier"),
                    metrics = list(revenue = "sum(net)", rate = "sum(net) / sum(qty)",
                                   orders = "distinct(order_no)"))
    for (metric in c("revenue", "rate", "orders")) {
      got <- ll_portrait(book, "rep", "Bo", metric, by = c("area", "month(day)"), top = 50,
                         where = "qty != 2", when = "2025")
      expect_true(all(ll_proof(got)$holds), info = metric)
      kept <- lines[!is.na(lines$qty) & lines$qty != 2 & format(lines$day, "%Y") == "2025", ]
      value <- function(x) {
        switch(metric, revenue = sum(x$net, na.rm = TRUE), orders = length(unique(x$order_no)),
               rate = with(x[!is.na(x$net) & !is.na(x$qty), ],
                           if (sum(qty) == 0) NA_real_ else sum(net) / sum(qty)))
      }
      mine <- kept[kept$rep %in% "Bo", ]
      month <- format(kept$day, "%Y-%m")
      for (i in seq_len(nrow(got))) {
        cell <- function(x) if (got$dimension[i] == "area") x[is.na(x$area) &
                                                              got$name[i] == "(none)" |
                                                              x$area %in% got$name[i], ] else
          x[format(x$day, "%Y-%m") == got$name[i], ]
        expect_equal(got[[metric]][i], value(cell(mine)))
        if (metric != "revenue") expect_equal(got$overall[i], value(cell(kept)))
      }
      expect_equal(ll_part(got, "metrics")$overall, value(kept))
    }
  }
})

test_that("shares add up to one, the order of lines does not matter", {
  got <- ll_portrait(demo_book(), "rep", "Maren Holt", "units", top = 3)
  for (dimension in unique(got$dimension)) {
    mine <- got[got$dimension == dimension, ]
    if (all(mine$units >= 0)) expect_equal(c(sum(mine$share), sum(mine$book_share)), c(1, 1))
  }
  lines <- random_lines(9)
  ask <- function(lines) {
    as.data.frame(ll_portrait(ll_book(lines, fields = c(order_no = "identifier"),
                                      metrics = list(revenue = "sum(net)")), "rep", "Cy"))
  }
  expect_identical(ask(lines), ask(lines[withr::with_seed(1, sample(nrow(lines))), ]))
})

test_that("what the demo's leader is, and how an account differs from the book", {
  got <- ll_portrait(demo_book(), "account", story("tie", "leader"))
  lines <- demo_lines()
  mine <- lines[lines$account == story("tie", "leader"), ]
  expect_equal(ll_part(got, "metrics")$value[1], story("tie", "leader_revenue"))
  expect_equal(ll_part(got, "metrics")$rank[1], 1)
  expect_match(ll_finding(got), "rep Bram Colley weighs 65 % here")
  facts <- ll_part(got, "facts")
  expect_equal(facts$value[facts$field == "territory"], unique(mine$territory))
  # Items are told by their labels, and no register field that only repeats the key is a dimension.
  expect_true("Acorn cedar hive" %in% got$name_label)
  expect_false(any(c("item_name", "account_name") %in% got$dimension))
})

test_that("one line, a name without lines, a rate, no date, all equal", {
  one <- ll_book(data.frame(rep = "Ida", net = 5), metrics = list(revenue = "sum(net)"))
  got <- ll_portrait(one, "rep", "Ida")
  expect_match(ll_finding(got), "Ida holds rank 1 of 1 rep by revenue with 5")
  expect_true(all(ll_proof(got)$holds))
  silent <- ll_portrait(demo_book(), "account", setdiff(
    utils::read.csv(demo_path("accounts.csv"), colClasses = "character")$account,
    demo_lines()$account)[1])
  expect_match(ll_finding(silent), "has no lines in this question")
  expect_equal(nrow(silent), 0)
  expect_true(all(ll_proof(silent)$holds))
  level <- ll_book(data.frame(rep = c("a", "b"), area = c("x", "x"), net = 0),
                   metrics = list(revenue = "sum(net)"))
  expect_true(all(ll_proof(ll_portrait(level, "rep", "a"))$holds))
  # A rate is told for the names with most lines, whatever its value.
  rate <- ll_portrait(demo_book(), "item", "HV-001", "margin_rate", by = "account", top = 5)
  mine <- demo_lines()[demo_lines()$item == "HV-001", ]
  expect_setequal(rate$name, names(sort(table(mine$account), decreasing = TRUE))[1:5])
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (x in list(got, silent, rate, ll_portrait(level, "rep", "a"),
                 ll_portrait(demo_book(), "rep", "Maren Holt")))
    expect_silent(plot(x))
})

test_that("refusals say what to do", {
  book <- small_book()
  expect_error(ll_portrait(book, "rep", "Idda"), "Nearest: 'Ida'", class = "ll_error_word")
  expect_error(ll_portrait(book, "rep"), "'name' must be given", class = "ll_error_argument")
  expect_error(ll_portrait(book, c("rep", "area"), "Ida"), "one dimension",
               class = "ll_error_argument")
  expect_error(ll_portrait(book, "rep", "Ida", by = "rep"), "other dimensions",
               class = "ll_error_argument")
})
