# Several currencies: never added up until it is said how, shown apart, and converted with proof.

amounts_with <- function(n = 40) {
  data.frame(doc = 5000L + seq_len(n), rep = rep_len(c("a", "b"), n),
             day = as.Date("2025-01-01") + seq_len(n), qty = rep_len(1:5, n),
             net = round(10.25 * seq_len(n), 2), price = 3.5)
}

test_that("no sum is made over several currencies until it is said how", {
  lines <- transform(amounts_with(), currency = rep(c("EUR", "EUR", "USD", "GBP"), 10))
  metrics <- c(revenue = "sum(net)", units = "sum(qty)", n = "count()")
  book <- ll_book(lines, metrics = metrics)
  for (ask in list(function() ll_total(book), function() ll_standings(book, "rep"),
                   function() ll_trend(book), function() ll_pareto(book, "rep")))
    expect_error(ask(), "would add up 3 currencies: EUR on 20 lines", class = "ll_error_data")
  expect_equal(ll_total(book, c("units", "n"))$value, c(sum(lines$qty), 40))
  expect_equal(ll_total(book, where = "currency == 'USD'")$value,
               sum(lines$net[lines$currency == "USD"]))
  one <- ll_total(ll_book(lines, metrics = metrics, currency = "EUR"), c("revenue", "n"))
  expect_equal(one$value, c(sum(lines$net[lines$currency == "EUR"]), 20))
  expect_true(all(ll_proof(one)$holds))
  expect_equal(ll_total(ll_book(lines, metrics = metrics, currency = "any"))$value, sum(lines$net))
  expect_error(ll_book(lines, currency = "EUO"), "Nearest: 'EUR'", class = "ll_error_word")
  expect_s3_class(ll_check(book), "ll_result_check")
})

test_that("amounts are converted by the last rate known, to the cent", {
  lines <- transform(amounts_with(), currency = rep(c("EUR", "USD"), 20))
  rates <- data.frame(date = as.Date(c("2024-12-15", "2025-01-20")), currency = "USD",
                      rate = c(.9, .955))
  got <- ll_total(ll_book(lines, metrics = c(revenue = "sum(net)"),
                          currency = list(to = "EUR", rates = rates)))
  rate <- ifelse(lines$currency == "EUR", 1, ifelse(lines$day < as.Date("2025-01-20"), .9, .955))
  expect_equal(got$value, sum(round(lines$net * rate, 2)))
  expect_true(all(ll_proof(got)$holds))
  expect_match(paste(ll_notes(got)$text, collapse = " "), "oldest rate used is 35 days old")
  late <- transform(rates, date = date + 30)
  expect_error(ll_book(lines, currency = list(to = "EUR", rates = late)), "no rate of USD",
               class = "ll_error_data")
  expect_error(ll_book(lines, currency = list(to = "EUR", rates = rates[2:3])), "column of dates")
  expect_error(ll_book(lines, currency = list(rates = rates)), "needs the currency")
})

# Lines in two to four currencies, some without one: told by a column, or by the cells of amounts.
mixed_lines <- function(in_cells, bare = .1) {
  n <- sample(20:60, 1)
  codes <- sample(c("EUR", "USD", "GBP", "CHF"), sample(2:4, 1))
  code <- sample(codes, n, TRUE)
  code[stats::runif(n) < bare] <- NA
  code[seq_along(codes)] <- codes
  net <- round(stats::runif(n, 1, 900), 2)
  lines <- data.frame(doc = 100 + seq_len(n), day = as.Date("2025-01-01") + sample(0:300, n, TRUE),
                      client = sample(c("Oak", "Fen", "Dale"), n, TRUE), ccy = code, net = net)
  table <- if (in_cells) transform(lines, ccy = NULL, net = trimws(paste(
    ifelse(is.na(code), "", code), format(net, nsmall = 2, trim = TRUE)))) else lines
  file <- tempfile("lines-", fileext = ".csv")
  utils::write.csv(table, file, row.names = FALSE, na = "")
  list(file = file, lines = lines, told = if (in_cells) "currency" else "ccy",
       sums = tapply(net, ifelse(is.na(code), "none", code), sum))
}

command_text <- function(...) {
  lines <- utils::capture.output(suppressMessages(status <- ll_main(c(...))))
  list(status = status, text = paste(lines, collapse = "\n"))
}

test_that("each currency is shown apart on the command, whether a column or the cells tell it", {
  withr::local_seed(11)
  for (i in 1:6) {
    made <- mixed_lines(in_cells = i %% 2 == 0, bare = if (i > 3) .15 else 0)
    word <- c("total", made$file, "--define", "revenue=sum(net)")
    csv <- command_text(word, "--format", "csv")
    expect_identical(csv$status, 0L)
    table <- utils::read.csv(text = csv$text, na.strings = NULL)
    table$currency[table$currency == ""] <- "none"
    expect_equal(stats::setNames(table$value, table$currency)[names(made$sums)], c(made$sums),
                 ignore_attr = TRUE)
    json <- jsonlite::fromJSON(command_text(word, "--format", "json")$text, simplifyVector = FALSE)
    expect_equal(sort(vapply(json, function(one) one$rows[[1]]$value, 0)), sort(c(made$sums)),
                 ignore_attr = TRUE)
    expect_true(all(vapply(json, function(one) all(vapply(one$proof, `[[`, NA, "holds")), NA)))
    # Each sentence tells of which currency it is.
    told <- vapply(json, `[[`, "", "finding")
    named <- setdiff(names(made$sums), "none")
    for (code in named) expect_length(grep(paste0("Where ", made$told, " is ", code), told), 1)
    # A first look tells the same, and what is to decide first.
    look <- command_text(made$file)
    for (code in named) expect_match(look$text, paste("first figures in", code))
    expect_match(look$text, "are\\s+shown\\s+apart")
    best <- names(sort(-table(factor(made$lines$ccy, unique(made$lines$ccy)))))[1]
    one <- command_text(word, "--currency", best, "--format", "csv")
    bare <- if ("none" %in% names(made$sums)) made$sums[["none"]] else 0
    expect_equal(utils::read.csv(text = one$text)$value, made$sums[[best]] + bare)
    unlink(made$file)
  }
})

test_that("files, pages, questions in words and drafts keep currencies apart", {
  withr::local_seed(12)
  made <- mixed_lines(FALSE, bare = 0)
  folder <- withr::local_tempdir()
  codes <- names(made$sums)
  out <- file.path(folder, "clients.csv")
  expect_identical(command_text("standings", made$file, "--define", "revenue=sum(net)", "--each",
                                "client", "--out", out)$status, 0L)
  for (code in codes) {
    got <- utils::read.csv(file.path(folder, paste0("clients-", code, ".csv")))
    own <- made$lines[made$lines$ccy %in% code, ]
    expect_equal(stats::setNames(got$revenue, got$client)[sort(unique(own$client))],
                 c(tapply(own$net, own$client, sum)), ignore_attr = TRUE)
  }
  asked <- command_text("ask", "total revenue", made$file)
  for (code in codes) expect_match(asked$text, paste("Where ccy is", code))
  brief <- file.path(folder, "longladder.yml")
  expect_identical(command_text("draft", made$file, "--out", brief)$status, 0L)
  text <- readLines(brief)
  expect_match(text, "# to decide: amounts are in several currencies", all = FALSE)
  expect_false(any(grepl("left out|top_ccy", text)))
  runs <- file.path(folder, "runs")
  expect_identical(command_text("run", brief, "top_client", "--out", runs)$status, 0L)
  expect_setequal(setdiff(list.files(runs), "record.json"), tolower(codes))
  for (code in codes) {
    got <- utils::read.csv(file.path(runs, tolower(code), "top-client.csv"))
    expect_equal(sum(got$revenue), made$sums[[code]])
  }
})

test_that("several files tell one currency each, or two columns contradict each other", {
  file <- function(...) write_text(c("order,day,client,net", ...))
  files <- c(file("1,2025-01-03,Oak,12.50 EUR", "2,2025-01-04,Fen,1 EUR"),
             file("3,2025-01-05,Oak,$2.25", "4,2025-01-06,Fen,$3"),
             file("5,2025-01-07,Oak,9", "6,2025-01-08,Fen,9"))
  csv <- function(files) utils::read.csv(text = command_text(
    "total", files, "--define", "revenue=sum(net)", "--format", "csv")$text, na.strings = NULL)
  expect_equal(csv(files[1:2])[c("currency", "value")],
               data.frame(currency = c("EUR", "USD"), value = c(13.5, 5.25)))
  expect_equal(csv(files)$value, c(13.5, 5.25, 18))
  expect_equal(csv(files[1])$value, 13.5)
  two <- write_text(c("day,net,vat", "2025-01-03,12.50 EUR,$1", "2025-01-04,3.50 EUR,2 EUR"))
  expect_error(ll_book(two), "net and vat tell different currencies of one line.*12.50 EUR",
               class = "ll_error_data")
})

test_that("what rounding comes to stands in the proof, by another route", {
  withr::local_seed(13)
  for (i in 1:4) {
    made <- mixed_lines(FALSE, bare = .1)
    days <- as.Date("2024-12-31") + seq(0, 330, 30)
    codes <- setdiff(names(made$sums), c("EUR", "none"))
    rates <- do.call(rbind, lapply(codes, function(code) data.frame(
      date = days, currency = code, rate = round(stats::runif(length(days), .5, 2), 4))))
    book <- ll_book(made$lines, metrics = c(revenue = "sum(net)"), date = "day",
                    currency = list(to = "EUR", rates = rates))
    rate <- vapply(seq_len(nrow(made$lines)), function(k) {
      line <- made$lines[k, ]
      if (is.na(line$ccy) || line$ccy == "EUR") return(1)
      own <- rates[rates$currency == line$ccy & rates$date <= line$day, ]
      own$rate[nrow(own)]
    }, 0)
    got <- ll_total(book)
    expect_equal(got$value, sum(round(made$lines$net * rate, 2)))
    proof <- ll_proof(got)
    expect_true(all(proof$holds))
    on <- made$lines$ccy %in% codes
    at <- grep("of rounding", proof$check)
    expect_equal(proof$expected[at], sum((made$lines$net * rate)[on]))
    told <- as.numeric(sub(".* less (-?[0-9.]+) of rounding", "\\1", proof$check[at]))
    expect_lt(abs(told - (got$value - sum(made$lines$net * rate))), 1e-4)
    if (anyNA(made$lines$ccy))
      expect_match(paste(ll_notes(got)$text, collapse = " "), "without a currency counted as EUR")
  }
})
