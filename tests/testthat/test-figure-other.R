# Other pictures of the same answer: what they draw adds up to the table, and what is no whole is
# refused.

drawn_lengths <- function(plot) {
  data <- ggplot2::ggplot_build(plot)$data[[1]]
  long <- if (max(data$xmax - data$xmin) > max(data$ymax - data$ymin)) "x" else "y"
  list(total = sum(data[[paste0(long, "max")]] - data[[paste0(long, "min")]]),
       whole = tapply(data[[paste0(long, "max")]], round(data[[if (long == "x") "y" else "x"]]),
                      max))
}

test_that("stacks add up to the table, and shares to one", {
  book <- demo_book()
  cells <- ll_crosstab(book, "family", columns = "item", when = "2026-Q2", where = "net > 0")
  stacked <- drawn_lengths(ll_picture(cells, "stacked"))
  expect_equal(stacked$total, sum(ll_part(cells, "cells")$revenue, na.rm = TRUE))
  shares <- drawn_lengths(ll_picture(cells, "shares"))
  expect_equal(unname(c(shares$whole)), rep(1, length(shares$whole)))
  trend <- ll_trend(book, by = "account", every = "year", top = 9)
  lines <- demo_lines()
  expect_equal(drawn_lengths(ll_picture(trend, "stacked"))$total, sum(lines$net, na.rm = TRUE))
  # At most six parts are told apart, the rest is gathered and stays in the sum.
  built <- ggplot2::ggplot_build(ll_picture(trend, "stacked"))
  expect_lte(length(unique(built$data[[1]]$fill)), 6)
})

test_that("a picture that would lie, or that there is not, is refused", {
  book <- demo_book()
  rate <- ll_crosstab(book, "territory", columns = "channel", metrics = "margin_rate")
  orders <- ll_trend(book, "orders", by = "territory")
  below <- ll_crosstab(book, "territory", columns = "channel", where = "net < 0")
  for (one in list(rate, orders, below)) for (picture in c("stacked", "shares"))
    expect_error(ll_picture(one, picture), class = "ll_error_argument")
  expect_error(ll_picture(ll_trend(book), "shares"), class = "ll_error_word")
  expect_error(ll_picture(ll_total(book), "bars"), class = "ll_error_word")
  expect_s3_class(ll_picture(ll_total(book)), "ggplot")
  expect_error(ll_picture(rate, c("a", "b")), class = "ll_error_argument")
  for (x in list(ll_standings(book, "rep", c("revenue", "margin_rate"), top = 8),
                 ll_standings(book, "rep", within = "territory", top = 2)))
    expect_s3_class(ggplot2::ggplot_build(ll_picture(x, "dots")), "ggplot_built")
  empty <- ll_standings(book, "rep", where = "net > 1e9")
  expect_s3_class(ll_picture(empty, "dots"), "ggplot")
})
