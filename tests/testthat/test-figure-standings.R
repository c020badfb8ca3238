# What is drawn: the data of the bars first, then that every kind of figure draws.

standings_bars <- internal("standings_bars")

test_that("bars carry rank, ties, value, share and the remainder", {
  x <- ll_standings(demo_book(), "account", c("revenue", "margin_rate"), top = 10)
  bars <- standings_bars(x)
  revenue <- bars[bars$panel == "revenue", ]
  expect_equal(nrow(revenue), 12)
  expect_equal(revenue$value[1:11], x$revenue)
  expect_match(revenue$name[10], "^ *10=  Foxhill End Beekeepers")
  expect_match(revenue$label[1], "^221,475$")
  alone <- standings_bars(ll_standings(demo_book(), "account", "revenue", top = 10))
  expect_match(alone$label[1], "221,475 +2.41 %")
  expect_equal(revenue$kind[c(1, 2, 12)], c("lead", "name", "rest"))
  # Everyone else is far longer than any bar: its bar is left out, and that is said.
  expect_equal(revenue$length[12], 0)
  expect_match(revenue$label[12], "bar left out")
  rate <- bars[bars$panel == "margin rate", ]
  expect_match(rate$label[1], "\\([0-9]+=?\\)$")
  expect_equal(levels(bars$panel), c("revenue", "margin rate"))
})

test_that("at most forty names are drawn, and that is said", {
  x <- ll_standings(demo_book(), "account", "revenue", top = 60)
  bars <- standings_bars(x)
  expect_equal(sum(bars$kind != "rest"), 40)
  expect_match(ggplot2::autoplot(x)$labels$caption, "the first 40 of 60 rows")
})

test_that("titles are the finding and the reading, and there is text for those who cannot see", {
  x <- ll_standings(demo_book(), "rep", top = 5)
  plot <- ggplot2::autoplot(x)
  flat <- function(text) gsub("[\n\u00a0]", " ", text)
  expect_equal(flat(plot$labels$title), ll_finding(x))
  expect_equal(flat(plot$labels$subtitle), ll_reading(x))
  expect_match(plot$labels$alt, "Maren Holt")
  expect_true(all(nchar(strsplit(plot$labels$title, "\n")[[1]]) <= 68))
})

test_that("every shape of standings draws without a warning", {
  odd <- ll_book(data.frame(k = c(strrep("very long name ", 9), "a\nb", "c"), g = c("x", "y", "y"),
                            net = c(-5.5, 3.5, NA)),
                 fields = list(k = "dimension"), metrics = c(revenue = "sum(net)"))
  shapes <- list(
    ll_standings(odd, "k"), ll_standings(odd, "k", within = "g"),
    ll_standings(small_book(), "rep", when = "2030"),
    ll_standings(small_book(), c("rep", "area"), c("revenue", "orders", "average")),
    ll_standings(small_book(), "rep", when = "2026-02", against = "previous"),
    ll_standings(demo_book(), "item", "revenue", top = 40))
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  for (x in shapes) expect_silent(plot(x))
})
