# Orders in two tables: date and people at the order, amounts on its lines.

test_that("the date of a register of orders is that of the lines; what stands at the order counts once", {
  lines <- data.frame(order_no = rep(1001:1006, c(3, 1, 2, 4, 2, 1)), item = rep_len(c("x", "y"), 13),
                      net = round((1:13) * 1.25, 2))
  orders <- data.frame(order_no = c(1001:1005, 1010), order_date = as.Date("2025-01-20") + 10 * 0:5,
                       rep = c("a", "b", "a", "b", "a", "b"), freight = c(5, 6, 7, 8, 9, 10))
  folder <- withr::local_tempdir()
  files <- file.path(folder, c("lines.csv", "orders.csv"))
  data.table::fwrite(lines, files[1])
  data.table::fwrite(orders, files[2])
  metrics <- c(revenue = "sum(net)", orders = "distinct(order_no)",
               freight_once = "sum(per(order_no, max(freight)))")
  for (given in list(list(lines, orders), as.list(files))) {
    book <- ll_book(given[[1]], registers = list(order_no = given[[2]]), metrics = metrics)
    expect_identical(c(book$date, book$order), c("order_date", "order_no"))
    at <- match(lines$order_no, orders$order_no)
    february <- which(format(orders$order_date[at], "%Y-%m") == "2025-02")
    got <- ll_total(book, names(metrics), when = "2025-02")
    held <- unique(lines$order_no[february])
    expect_equal(got$value, c(sum(lines$net[february]), length(held),
                              sum(orders$freight[orders$order_no %in% held])))
    expect_true(all(ll_proof(got)$holds))
    expect_equal(ll_standings(book, "rep", where = "!is.na(rep)")$revenue,
                 as.vector(sort(tapply(lines$net, orders$rep[at], sum), decreasing = TRUE)))
    expect_match(paste(ll_notes(got)$text, collapse = " "),
                 "12 lines with an order there, 1 without, 1 order without lines")
  }
  # An order's own date wins where the lines have one.
  dated <- transform(lines, day = as.Date("2024-01-01"))
  expect_identical(ll_book(dated, registers = list(order_no = orders))$date, "day")
  expect_identical(ll_book(dated, registers = list(order_no = orders), date = "order_date")$date,
                   "order_date")
  brief <- ll_draft(rev(files), folder)
  expect_match(brief, "^lines: 'lines.csv'", all = FALSE)
  expect_match(brief, "order_no: \\{file: 'orders.csv', key: order_no\\}", all = FALSE)
})
