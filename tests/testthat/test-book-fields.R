# Computed fields, bands, other names, spellings, gaps, lines excluded, the calendar.

test_that("computed fields serve as measures, dates and dimensions", {
  lines <- transform(small_lines(), shipped = day + c(1, 1, 3, 2, NA, 0, 5, 2))
  book <- ll_book(lines, metrics = c(n = "count()", wait = "mean(days)"), fields = list(
    days = list(is = "shipped - day"), due = list(is = ~ day + 30),
    size = list(is = "ifelse(net >= 10, \"large\", \"small\")"),
    when = list(is = "month(day)")))
  # Waits: Ida 1 1 0, Tom 3 2, Uma NA 5, none 2.
  expect_equal(ll_standings(book, "rep", "wait")$wait, c(5, 2.5, 2 / 3, 2))
  expect_equal(sort(ll_standings(book, "size")$n), c(3, 5))
  expect_setequal(ll_standings(book, "when")$when, c("2026-01", "2026-02", "2026-03"))
  expect_equal(ll_standings(book, "rep", where = "due >= '2026-04-01'")$n[1], 1)
  expect_true(all(ll_proof(ll_standings(book, "size", c("n", "wait")))$holds))
})

test_that("parts of dates are ranked without being declared", {
  got <- ll_standings(small_book(), "month(day)", "revenue")
  expect_identical(names(got)[2], "day_month")
  lines <- small_lines()
  want <- tapply(lines$net, format(lines$day, "%Y-%m"), sum)
  expect_equal(got$revenue, unname(as.vector(sort(want, decreasing = TRUE))))
  within <- ll_standings(small_book(), "rep", "revenue", within = "quarter(day)")
  expect_identical(unique(within$day_quarter), "2026-Q1")
  expect_error(ll_standings(small_book(), "month(rep)"), "needs a date", class = "ll_error_formula")
  expect_error(ll_standings(small_book(), "hour(day)"), "time of day", class = "ll_error_formula")
})

test_that("bands of a line's value, bounds included, missing apart", {
  lines <- data.frame(k = letters[1:7], day = as.Date("2026-01-01"),
                      net = c(-1, 0, 9.99, 10, 100, 1e6, NA))
  book <- ll_book(lines, metrics = c(n = "count()"),
                  bands = list(size = list(of = "net", from = c(0, 10, 100),
                                           labels = c("s", "m", "l"), below = "neg")))
  got <- ll_standings(book, "size")
  expect_equal(got$n[match(c("neg", "s", "m", "l", "(none)"), got$size)], c(1, 2, 1, 2, 1))
  expect_equal(ll_standings(book, "k", where = "size == 'l'")$k, c("e", "f"))
  expect_error(ll_standings(book, "k", where = "size == 'xl'"), "have no 'xl'",
               class = "ll_error_formula")
  expect_match(ll_reading(got), "size by net of the line")
})

test_that("bands of each name's metric, over the whole book or over what is shown", {
  bands <- function(over) list(class_of = list(of = "revenue", each = "rep", over = over,
                                               from = c(31, 35.25)))
  lines <- small_lines()
  book <- small_book(bands = bands("book"))
  # Revenue: Ida 30.40, Tom 35.30, Uma 35.20.
  got <- ll_standings(book, "class_of", "revenue")
  expect_equal(got$revenue[match(c("below 31.00", "31.00 to 35.25", "35.25 and above", "(none)"),
                                 got$class_of)],
               c(30.4, 35.2, 35.3, 7.5))
  expect_true(all(ll_proof(got)$holds))
  expect_match(ll_reading(got), "class of by revenue of each rep over the whole book")
  # In Moor alone Ida has 30.30, Uma 25.05, Tom nothing: shown, all are below.
  shown <- ll_standings(small_book(bands = bands("shown")), "class_of", "revenue",
                        where = "area == 'Moor'")
  expect_setequal(shown$class_of, c("below 31.00", "(none)"))
  whole <- ll_standings(book, "class_of", "revenue", where = "area == 'Moor'")
  expect_setequal(whole$class_of, c("below 31.00", "31.00 to 35.25", "(none)"))
  expect_true(all(ll_proof(shown)$holds))
})

test_that("other names serve wherever a field is named", {
  book <- small_book(fields = list(rep = list(also = c("seller", "agent")),
                                   net = list(also = "amount")))
  expect_identical(ll_standings(book, "seller", "revenue")$rep[1], "Tom")
  expect_equal(ll_standings(book, "rep", c(m = "sum(amount[seller == 'Ida'])"))$m, c(30.4, 0, 0, 0))
  expect_equal(nrow(ll_standings(ll_where(book, agent = "Ida"), "rep")), 1)
})

test_that("spellings are merged, gaps filled, lines excluded; each is told and proven", {
  lines <- small_lines()
  lines$rep[c(2, 4)] <- c("ida ", "TOM")
  alike <- ll_book(lines, metrics = c(revenue = "sum(net)", n = "count(qty)", q = "sum(qty)"),
                   fields = list(rep = list(same = "similar"), qty = list(fill = "mean")))
  got <- ll_standings(alike, "rep", c("revenue", "n", "q"))
  expect_equal(got$revenue, c(35.3, 35.2, 30.4, 7.5))
  expect_equal(sum(got$n), 8)
  expect_equal(sum(got$q), sum(lines$qty, na.rm = TRUE) * 8 / 7)
  expect_match(paste(ll_notes(got)$text, collapse = " "),
               "2 lines of rep under another spelling.*1 gap of qty filled with the mean")
  listed <- ll_book(lines, metrics = c(revenue = "sum(net)"),
                    fields = list(rep = list(same = list(Ida = "ida ", Tom = "TOM"),
                                             fill = "house")))
  expect_setequal(ll_standings(listed, "rep")$rep, c("Ida", "Tom", "Uma", "house"))
  aside <- small_book(exclude = "area == 'Fen' & net < 6", control = c(revenue = 103.3))
  got <- ll_standings(aside, "rep", "revenue", where = "qty > 0")
  expect_equal(got$revenue, c(30.3, 30.3, 25.05, 7.5))
  proof <- ll_proof(got)
  expect_true(all(proof$holds))
  expect_match(proof$check[1], "counted \\+ outside the conditions \\+ excluded")
  expect_equal(proof$expected[1], 8)
  # The lines given are as they were.
  expect_identical(lines$qty[7], NA_integer_)
})

test_that("lines added up before refuse to be counted", {
  book <- ll_book(small_lines(), metrics = c(revenue = "sum(net)"), grain = "summed")
  expect_equal(ll_standings(book, "rep")$revenue[1], 35.3)
  for (formula in c("count()", "mean(net)", "median(net)", "distinct(order_no)", "count(qty)"))
    expect_error(ll_standings(book, "rep", c(m = formula)), "added up before",
                 class = "ll_error_formula")
  expect_equal(ll_standings(book, "area", c(m = "distinct(rep)"))$m, c(3, 2))
  expect_error(ll_standings(book, "rep", min_orders = 2), "added up before",
               class = "ll_error_argument")
})

test_that("fiscal periods and words follow the calendar", {
  lines <- data.frame(k = "a", day = seq(as.Date("2024-01-01"), as.Date("2026-09-16"), by = "day"),
                      net = 1)
  book <- ll_book(lines, metrics = c(n = "count()"), calendar = list(fiscal_start = "April"))
  span <- function(when, against = NULL) {
    set <- ll_settings(ll_standings(book, "k", when = when, against = against))
    unlist(c(set$when, set$against), use.names = FALSE)
  }
  expect_equal(span("FY2026"), c("2025-04-01", "2026-03-31"))
  expect_equal(span("FY2026-Q1", "year before"), c("2025-04-01", "2025-06-30", "2024-04-01",
                                                   "2024-06-30"))
  expect_equal(span("FY2027-P02", "previous"), c("2026-05-01", "2026-05-31", "2026-04-01",
                                                 "2026-04-30"))
  expect_equal(span("last fiscal year"), c("2025-04-01", "2026-03-31"))
  expect_equal(span("last fiscal quarter"), c("2026-04-01", "2026-06-30"))
  expect_equal(span("this fiscal year to date"), c("2026-04-01", "2026-09-16"))
  expect_equal(span("2026-W14"), c("2026-03-30", "2026-04-05"))
  expect_equal(span("last 2 weeks"), c("2026-08-31", "2026-09-13"))
  expect_equal(span("last 2 quarters"), c("2026-01-01", "2026-06-30"))
  weeks <- ll_book(lines, metrics = c(n = "count()"), calendar = list(
    fiscal_start = 2, weeks = "4-5-4", week_starts = "Sunday"))
  set <- ll_settings(ll_standings(weeks, "k", when = "FY2026"))
  expect_equal(unlist(set$when, use.names = FALSE), c("2025-02-02", "2026-01-31"))
  expect_equal(sum(ll_standings(weeks, "fiscal_month(day)", "n", when = "FY2026")$n), 52 * 7)
})

test_that("what cannot serve is refused with what would", {
  lines <- small_lines()
  one <- function(...) ll_book(lines, metrics = c(revenue = "sum(net)"), ...)
  expect_snapshot(error = TRUE, {
    one(fields = list(a = list(is = "b + 1"), b = list(is = "a * 2")))
    one(fields = list(a = list(is = "a + net")))
    one(fields = list(a = list(is = "nett * 2")))
    one(fields = list(a = list(is = "rep * 2")))
    one(fields = list(a = list(is = "day + day")))
    one(fields = list(a = list(is = "ifelse(net > 1, net, rep)")))
    one(fields = list(a = list(is = "3 + 4")))
    one(fields = list(a = list(is = "sum(net)")))
    one(fields = list(net = list(is = "qty * 2")))
    one(fields = list(rep = list(also = "net")))
    one(fields = list(rep = list(same = list(Ida = "Idda"))))
    one(fields = list(net = list(fill = "much")))
    one(fields = list(net = list(filll = "zero")))
    one(bands = list(s = list(of = "net", from = c(0, 10, 5))))
    one(bands = list(s = list(of = "net", table = list(list(label = "a", from = 0, to = 10),
                                                       list(label = "b", from = 20)))))
    one(bands = list(s = list(of = "net", table = list(list(label = "a", from = 0, to = 30),
                                                       list(label = "b", from = 20)))))
    one(bands = list(s = list(of = "net", from = 0:1, labels = "x")))
    one(bands = list(s = list(of = "rep", from = 1)))
    one(bands = list(s = list(of = "revenu", each = "rep", from = 1)))
    one(calendar = list(fiscal_start = 13))
    one(calendar = list(weeks = "4-4-4"))
    one(calendar = list(time_zone = "Europe/Lisboa"))
    one(exclude = "net >")
    one(grain = "sums")
    one(fixes = list(total_row = FALSE))
    ll_book(lines, metrics = c(m = "m + 1"))
    ll_book(lines, metrics = c(m = "sum(per(order_no, distinct()))"))
    ll_book(lines, metrics = c(m = "sum(per(order_no, net))"))
    ll_book(lines, metrics = c(m = "sum(per(qty, sum(net)))"))
    ll_book(lines, metrics = c(m = "sum(per(order_no, sum(net))[qty > 1])"))
    ll_book(lines, metrics = c(m = "per(order_no, sum(net))"))
    ll_book(lines, metrics = c(m = "quantile(net, 90)"))
    ll_book(lines, metrics = c(m = "change(growth(sum(net)))"))
    ll_standings(one(), "rep", c(m = "change(revenue)"))
    ll_standings(one(), "rep", where = "month(day) == \"March\"")
    ll_standings(one(), "rep", where = "contains(net, \"5\")")
  })
})

test_that("who holds the extreme line of a group, every holder, with any field of the line", {
  book <- small_book()
  got <- internal("source_holders")(book$source, "area", list(kind = "name", name = "net"))
  expect_equal(got$area, c("Fen", "Moor"))
  expect_equal(got$value, c(30.3, 25.05))
  expect_identical(internal("source_lines")(book$source, got$line, c("rep", "order_no"))$rep,
                   c("Tom", "Uma"))
})

test_that("an average of single lines' ratios is pointed out, a ratio of totals is not", {
  of <- function(text) paste(ll_notes(ll_standings(small_book(), "rep", c(m = text)))$kind,
                             collapse = " ")
  expect_match(of("mean(net / qty)"), "mean_of_ratio")
  expect_no_match(of("sum(net) / sum(qty)"), "mean_of_ratio")
  expect_no_match(of("mean(net / 2)"), "mean_of_ratio")
})

test_that("the change and growth of a metric rank names, those that are gone included", {
  got <- ll_standings(small_book(), "rep", c(shift = "change(revenue)", rate = "growth(revenue)"),
                      when = "2026-03", against = "2026-01")
  # January: Ida 30.30, Tom 30.30; March: Ida 0.10, Uma 10.15, no rep 7.50.
  expect_equal(got$shift[match(c("Uma", "Ida", "Tom", "(none)"), got$rep)],
               c(10.15, -30.2, -30.3, 7.5))
  expect_equal(got$rate[match(c("Uma", "Ida", "Tom"), got$rep)], c(NA, -30.2 / 30.3, -1))
  expect_equal(tail(got$rep[!is.na(got$rank)], 1), "Tom")
  expect_true(all(ll_proof(got)$holds))
  foot <- ll_part(ll_standings(small_book(), "rep", c(shift = "change(revenue)"), when = "2026-03",
                               against = "2026-01", top = 1), "foot")
  expect_equal(foot$shift, c(-60.5, 7.5, -42.85))
})

test_that("a field with a point in its name is offered and looked at like any other", {
  lines <- data.frame(cust.name = rep(LETTERS[1:20], each = 4), shop.type = c("x", "y"), net = 1:80)
  book <- ll_book(lines, metrics = c(r = "sum(net)"),
                  registers = list(cust.name = data.frame(cust.name = LETTERS[1:20],
                                                          region = c("n", "s"), born.in = 1:20),
                                   shop.type = data.frame(shop.type = c("x", "y"),
                                                          region = c("q", "w"))))
  said <- "Dimensions: cust.name, shop.type and region."
  expect_error(ll_standings(book, "net"), said, fixed = TRUE)
  expect_setequal(ll_associations(book, each = "cust.name")$field, c("region", "born.in"))
  # And where there is none, none is promised.
  error <- tryCatch(ll_standings(ll_book(data.frame(net = 1:3), metrics = c(r = "sum(net)")),
                                 "net"), error = identity)
  expect_identical(conditionMessage(error), "'net' is a measure; 'each' needs a dimension.")
})

test_that("what a question makes for itself is not offered as a field of the book", {
  book <- demo_book()
  offered <- function(...) sub(".*(Dimensions|Fields): ", "",
                               tryCatch(..., ll_error = conditionMessage))
  plain <- offered(ll_standings(book, "net"))
  expect_identical(offered(ll_crosstab(book, "month(order_date)", "net")), plain)
  expect_identical(offered(ll_trend(book, by = "net")), plain)
  expect_identical(offered(ll_cohorts(book, "net")), plain)
  expect_identical(offered(ll_trend(book, by = "zzzz")), offered(ll_standings(book, "zzzz")))
  expect_no_match(plain, "account_name[.]|order_date")
})

test_that("headers as people write them tell who buys, what is sold, who sells, what an order is", {
  headers <- list(
    c("Customer Name", "Product", "Sales Rep", "Order ID", "Sales", "Order Date"),
    c("CustomerName", "ProductName", "SalesPerson", "OrderNumber", "Amount", "Date"),
    c("Customer No.", "Item Description", "Salesperson", "Invoice No.", "Net Amount", "Inv. Date"),
    c("Kunde", "Artikel", "Vertreter", "Auftragsnummer", "Umsatz", "Datum"),
    c("Kundenname", "Artikelbezeichnung", "Verk\u00e4ufer", "Rechnungsnr.", "Nettobetrag", "Tag"),
    c("Debitor", "Produkt", "Au\u00dfendienst", "Beleg", "Umsatz EUR", "Belegdatum"),
    c("client_name", "product line", "account manager", "order no", "net sales", "day"),
    c("Sold-to party", "Material", "Sales employee", "Billing document", "Net value", "Billed on"))
  lines <- withr::with_seed(4, data.frame(
    c = sample(paste("Client", letters[1:15]), 600, TRUE), p = sample(c("saw", "axe"), 600, TRUE),
    r = sample(c("Ann Lee", "Bo Ray"), 600, TRUE), o = 1000L + sample(300, 600, TRUE),
    a = round(runif(600, 1, 100), 2), d = as.Date("2024-01-01") + sample(700, 600, TRUE)))
  for (header in headers) {
    # Kinds of customers beside them are no customers, wherever they stand.
    book <- ll_book(cbind(stats::setNames(lines, header), customer_type = "a",
                          "Account region" = "b", Pieces = rep(1:4, 150)))
    expect_identical(internal("customer_field")(book), header[1])
    expect_identical(internal("product_field")(book), header[2])
    expect_identical(c(book$people, book$order, book$date), header[c(3, 4, 6)])
    drafted <- internal("with_drafted")(book)
    expect_identical(ll_total(drafted, "revenue")$value, sum(lines$a), info = header[5])
    expect_identical(ll_total(drafted, "orders")$value, as.double(length(unique(lines$o))))
    expect_identical(ll_ask(drafted, "top 3 customers")[[header[1]]],
                     ll_standings(drafted, header[1], top = 3)[[header[1]]])
    expect_s3_class(ll_ask(drafted, "who stopped buying"), "ll_result_lapsed")
  }
  # A count of orders is no order, and whole numbers that few share are none.
  few <- ll_book(data.frame(order = rep(1:4, 150), orders = 1:600 %% 7L, net = 1:600 / 4))
  expect_identical(few$fields$role, rep("measure", 3))
  euros <- internal("with_drafted")(ll_book(stats::setNames(lines[c("c", "a")],
                                                            c("Kunde", "Umsatz (EUR)"))))
  expect_identical(ll_ask(euros, "Umsatz by Kunde")$revenue,
                   ll_ask(euros, "revenue by Kunde")$revenue)
})

test_that("names that differ by case, blanks and underscores are one where only one column fits", {
  lines <- data.frame(`Net Amount` = c(1.5, 2.5), `Sales Rep` = c("a", "b"), check.names = FALSE,
                      `Order Date` = as.Date("2025-01-01") + 0:1)
  metrics <- c(revenue = "sum(net_amount)", most = "max(`NET AMOUNT`)")
  teams <- data.frame(`sales rep` = c("a", "b"), team = c("x", "y"), check.names = FALSE)
  for (name in c("Net Amount", "net_amount", "NET_AMOUNT", "netAmount")) {
    book <- ll_book(lines, metrics = stats::setNames(sprintf("sum(`%s`)", name), "r"),
                    date = "order date", registers = list(sales_rep = teams))
    expect_equal(ll_standings(book, "sales_rep")$r, c(2.5, 1.5))
    expect_equal(ll_standings(book, "team", where = "`sales rep` == 'a'")$r, 1.5)
  }
  expect_equal(ll_total(ll_book(lines, fields = list(net_amount = "measure"),
                                metrics = c(r = "sum(net_amount)")))$value, 4)
  twins <- cbind(lines, net_amount = 3:4, NET_AMOUNT = 5:6)
  expect_equal(ll_total(ll_book(twins, metrics = c(r = "sum(net_amount)")))$value, 7)
  expect_error(ll_book(twins, metrics = c(r = "sum(`Net amount`)")), "no field called")
  expect_error(ll_book(lines, metrics = c(r = "sum(Net Amount)")), "sum\\(`Net Amount`\\)",
               class = "ll_error_formula")
})
