# Draft: runs as written on the demo's files and on files it has not seen.

# Writes the draft beside the files, opens it and runs every page.
run_drafted <- function(files, folder) {
  text <- ll_draft(file.path(folder, files), folder)
  writeLines(text, file.path(folder, "longladder.yml"))
  brief <- ll_brief(file.path(folder, "longladder.yml"))
  for (page in brief$pages) {
    study <- getFromNamespace(paste0("ll_", page$study), "longladder")
    got <- do.call(study, c(list(brief$book), page[setdiff(names(page), "study")]))
    expect_true(all(ll_proof(got)$holds))
  }
  list(text = text, brief = brief)
}

test_that("the demo's files: lines, registers, keys, metrics; in whatever order they are named", {
  folder <- withr::local_tempdir()
  files <- c("order_lines.csv", "accounts.csv", "items.csv", "reps.csv", "stories.csv")
  for (file in files) file.copy(demo_path(file), folder)
  got <- run_drafted(rev(files), folder)
  book <- got$brief$book
  expect_setequal(names(book$registers), c("account", "item", "rep"))
  expect_identical(c(book$order, book$date, book$people), c("order_no", "order_date", "rep"))
  expect_setequal(names(book$metrics), c("revenue", "margin", "margin_rate", "orders",
                                         "average_order", "units", "discount_rate"))
  expect_equal(ll_standings(book, "territory", "revenue")$revenue[1],
               story("heads", "leader_revenue"))
  expect_match(paste(got$text, collapse = "\n"), "# not used: .*stories.csv")
  expect_match(paste(got$text, collapse = "\n"), "rep: dimension .*similar spellings")
})

test_that("files it has not seen: other names, odd names, no dates, no orders, ledger forms", {
  folder <- withr::local_tempdir()
  put <- function(name, ...) writeLines(c(...), file.path(folder, name))
  put("sales.csv", "Invoice No;Day;Client's code;yes;Amount (EUR)", "A-1;01.02.2026;007;x;1.200,50",
      "A-1;01.02.2026;007;y;(3,00)", "A-2;15.03.2026;008;x;7,25", "Total;;;;1.204,75")
  put("clients.csv", "code;town", "007;Fenby", "008;Moorby", "009;Vale")
  got <- run_drafted(c("sales.csv", "clients.csv"), folder)
  expect_identical(names(got$brief$book$registers), "Client's code")
  town <- ll_standings(got$brief$book, "town", "revenue")
  expect_equal(town$revenue, c(1197.5, 7.25))
  put("plain.csv", "kind,revenue", "a,1.5", "b,2.5", "a,3.5")
  got <- run_drafted("plain.csv", folder)
  expect_identical(names(got$brief$book$metrics), "total_revenue")
  expect_equal(ll_standings(got$brief$book, "kind")$total_revenue, c(5, 2.5))
})

test_that("the command writes the brief whole, or says what is wrong", {
  file <- withr::local_tempfile(fileext = ".yml")
  got <- command("draft", demo_path("order_lines.csv"), demo_path("items.csv"), "--out", file)
  expect_equal(got$status, 0)
  expect_match(got$err, "wrote")
  expect_equal(command("standings", "--brief", file, "--each", "family", "--top", "2")$status, 0)
  expect_match(command("draft", demo_path("items.csv"), demo_path("order_lines.csv"))$out[3],
               "^title: 'order_lines'")
  for (bad in list(character(), "nowhere.csv", demo_path("accounts.csv"),
                   c(demo_path("order_lines.csv"), "--out", "nowhere/x.yml"))) {
    got <- command("draft", bad)
    expect_equal(got$status, 2)
    expect_match(got$err, "^longladder: ")
  }
})

test_that("a discount of each line is rolled up as a ratio of totals where the amounts bear it out", {
  lines <- data.frame(order_no = rep(4001:4010, each = 2), day = as.Date("2026-01-01") + 0:19,
                      item = c("hive", "jar"), quantity = 1:20, list_price = c(120, 8.5),
                      discount = c(0, .05, .1, .25))
  lines$net <- round(lines$list_price * lines$quantity * (1 - lines$discount), 2)
  drafted <- function(lines) {
    file <- tempfile(fileext = ".csv")
    utils::write.csv(lines, file, row.names = FALSE)
    internal("with_drafted")(ll_book(file))
  }
  book <- drafted(lines)
  expect_equal(ll_total(book, "discount_rate")$value,
               1 - sum(lines$net) / sum(lines$list_price * lines$quantity))
  whole <- transform(lines, list_price = list_price * quantity)
  names(whole)[names(whole) == "list_price"] <- "list amount"
  expect_equal(ll_total(drafted(whole), "discount_rate")$value,
               1 - sum(lines$net) / sum(lines$list_price * lines$quantity))
  # Amounts that do not fit the rate tell nothing of it.
  lines$net <- lines$net * 1.7
  expect_null(drafted(lines)$metrics$discount_rate)
})

test_that("months in columns, orders with their lines and pages that cannot run are drafted so", {
  folder <- withr::local_tempdir()
  writeLines(c("rep,2025-01,2025-02,2025-03", "Ann,1,2,3", "Bo,4,5,6"), file.path(folder, "wide.csv"))
  run_draft <- function(files) {
    brief <- file.path(folder, "drafted.yml")
    writeLines(ll_draft(file.path(folder, files), folder), brief)
    ll_brief(brief)
  }
  wide <- run_draft("wide.csv")
  expect_equal(ll_total(wide$book, when = "2025-02")$value, 7)
  orders <- data.frame(order_no = 7001:7006, order_date = as.Date("2026-02-01") + 1:6,
                       customer = c("Hale", "Mora"), sales_rep = c("Ann", "Bo", "Cy"), freight = 12.5)
  lines <- data.frame(order_no = rep(7001:7006, 1:6), item = c("hive", "jar", "suit"), amount = 1:21 / 4)
  utils::write.csv(orders, file.path(folder, "orders.csv"), row.names = FALSE)
  utils::write.csv(lines, file.path(folder, "lines.csv"), row.names = FALSE)
  joined <- run_draft(c("orders.csv", "lines.csv"))
  expect_identical(joined$book$date, "order_date")
  expect_identical(joined$book$people, "sales_rep")
  expect_equal(ll_total(joined$book, "order_freight")$value, 6 * 12.5)
  got <- as.data.frame(ll_standings(joined$book, "sales_rep", "revenue"))
  want <- tapply(lines$amount, orders$sales_rep[match(lines$order_no, orders$order_no)], sum)
  expect_equal(got$revenue[match(names(want), got[[2]])], as.vector(want))
  expect_true("top_customer" %in% names(joined$pages))
  for (page in internal("run_pages")(joined)) expect_null(page$error)
})

test_that("headers of orders are found under another header and with other zeros", {
  folder <- withr::local_tempdir()
  heads <- file.path(folder, "kopf.csv")
  lines <- file.path(folder, "pos.csv")
  n <- 40
  utils::write.table(data.frame(Belegnummer = sprintf("%08d", 1:n), Belegdatum = format(
    as.Date("2025-01-01") + 1:n * 7, "%d.%m.%Y"), Verkaeufer = c("Ann", "Bo"), Versandkosten = "4,90"),
    heads, sep = ";", row.names = FALSE, quote = FALSE)
  own <- data.frame(Beleg = rep(1:n, each = 3), Artikel = c("Beute", "Glas", "Rahmen"),
                    Betrag = round(seq(5, 900, length.out = 3 * n), 2))
  utils::write.csv2(own, lines, row.names = FALSE, quote = FALSE)
  for (files in list(c(heads, lines), c(lines, heads))) {
    brief <- file.path(folder, "b.yml")
    text <- ll_draft(files, folder)
    expect_false(any(grepl("left out|not used", text)))
    writeLines(text, brief)
    book <- ll_brief(brief)$book
    got <- ll_total(book, c("revenue", "orders", "order_versandkosten"), when = "2025")
    expect_equal(got$value, c(sum(own$Betrag), n, n * 4.9))
    expect_true(all(ll_proof(got)$holds))
    rep <- ll_standings(book, "Verkaeufer")
    expect_equal(rep$revenue[match(c("Ann", "Bo"), rep$Verkaeufer)],
                 c(tapply(own$Betrag, rep(c("Ann", "Bo"), each = 3, length.out = 3 * n), sum)),
                 ignore_attr = TRUE)
  }
  # Side by side they are no table.
  expect_error(ll_book(c(heads, lines)), "no column is in both.*longladder draft", class = "ll_error_file")
})

test_that("what costs, counts or is a rate is never drafted as revenue", {
  for (header in c("Versandkosten", "Freight", "Menge", "Quantity", "Stawka", "MwSt", "Cost")) {
    cell <- if (header == "Stawka") "23%" else "4"
    file <- write_text(c(paste0("Doc,Day,", header), paste0(101:130, ",2025-01-", sprintf("%02d", 1:30),
                                                            ",", cell)))
    metrics <- internal("drafted_metrics")(ll_book(file))
    expect_false("revenue" %in% names(metrics), info = header)
    if (header == "Stawka") expect_no_match(paste(unlist(metrics), collapse = " "), "Stawka")
  }
})

test_that("an amount without tax is the revenue, and neither the tax nor the amount with it", {
  heads <- list(c("Amount excl. VAT", "VAT", "Amount incl. VAT"), c("Betrag ohne MwSt", "MwSt", "Betrag inkl. MwSt"),
                c("Importe sin IVA", "IVA", "Importe con IVA"), c("Montant hors TVA", "TVA", "Montant avec TVA"),
                c("\u0421\u0443\u043c\u043c\u0430 \u0431\u0435\u0437 \u041d\u0414\u0421",
                  "\u041d\u0414\u0421", "\u0421\u0443\u043c\u043c\u0430 \u0441 \u041d\u0414\u0421"),
                c("Bedrag zonder btw", "btw", "Bedrag met btw"), c("Net of tax", "Tax", "Total incl. tax"))
  for (head in heads) for (turn in list(1:3, 3:1)) {
    lines <- stats::setNames(data.frame(10.5 * 1:9, 2.1 * 1:9, 12.6 * 1:9), head)[turn]
    expect_match(internal("drafted_metrics")(ll_book(lines))$revenue$is, head[1], fixed = TRUE)
  }
})
