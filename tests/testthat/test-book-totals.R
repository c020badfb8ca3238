# Totals within files: found wherever they stand, excluded, held against the lines; and books without
# any, which lose no line.

# Lines of some groups, sorted by them, with amounts of the given kind.
draw_groups <- function(seed, kind = seed %% 4) {
  withr::with_seed(seed, {
    n <- sample(c(2:9, 30), 1)
    net <- switch(kind + 1, round(stats::rnorm(n, 200, 150), 2), sample(-3:3, n, TRUE),
                  sample(c(-1, 1), n, TRUE) * sample(c(50, 100), n, TRUE),
                  round(stats::rlnorm(n, 5), 2))
    lines <- data.frame(area = sort(sample(c("North", "South"), n, TRUE)),
                        account = sort(sample(c("Hale", "Mora", "Tarn", "Wick"), n, TRUE)),
                        item = sample(c("hive", "jar", "suit"), n, TRUE),
                        day = format(as.Date("2025-03-01") + sample(60, n, TRUE)),
                        qty = sample(1:9, n, TRUE), net = net)
    lines[order(lines$area, lines$account), ]
  })
}

# The same with a total below the lines of each name of `by`, as the words say, and one of all.
with_totals <- function(lines, by, words, all = TRUE, above = FALSE) {
  of <- function(part, cells) {
    row <- lines[1, ]
    row[] <- list("", "", "", "", sum(part$qty), round(sum(part$net), 2))
    row[names(cells)] <- cells
    row
  }
  parts <- split(lines, factor(lines[[by]], unique(lines[[by]])))
  out <- lapply(names(parts), function(name) {
    total <- of(parts[[name]], stats::setNames(list(sub("%s", name, words, fixed = TRUE)), by))
    if (above) rbind(total, parts[[name]]) else rbind(parts[[name]], total)
  })
  whole <- if (all) of(lines, list(area = "Total"))
  do.call(rbind, if (above) c(list(whole), out) else c(out, list(whole)))
}

book_of_rows <- function(rows, ...) {
  file <- tempfile(fileext = ".csv")
  utils::write.csv(rows, file, row.names = FALSE, na = "")
  ll_book(file, fields = list(qty = "measure", net = "measure", day = "date"),
          metrics = c(revenue = "sum(net)", n = "count()"), ...)
}

total_of <- function(book) {
  got <- ll_total(book, c("revenue", "n"))
  list(value = got$value, holds = ll_proof(got)$holds, proof = ll_proof(got)$check,
       notes = paste(ll_notes(got)$text, collapse = " "))
}

test_that("totals of groups and of all are excluded and held against their lines", {
  words <- c("Total %s", "%s Total", "Summe %s", "%s \u0438\u0442\u043e\u0433\u043e", "Subtotal",
             "Sous-total %s", "%s Gesamtergebnis", "\u5c0f\u8ba1")
  for (seed in some_of(1:48, 3)) {
    lines <- draw_groups(seed)
    # The sum of one group alone tells nothing where it holds a single line.
    if (nrow(lines) < 4 || all(table(lines$account) < 2) || sum(lines$net) == 0) next
    info <- paste("seed", seed)
    word <- words[seed %% length(words) + 1]
    got <- total_of(book_of_rows(with_totals(lines, "account", word, above = seed %% 5 == 0)))
    expect_equal(got$value, c(sum(lines$net), nrow(lines)), info = paste(info, word))
    expect_true(all(got$holds), info = info)
    expect_match(got$notes, "total row", info = info)
    kept <- total_of(book_of_rows(with_totals(lines, "account", word),
                                  fixes = list(total_rows = FALSE)))
    expect_gt(kept$value[2], nrow(lines))
  }
})

test_that("books without totals lose no line", {
  for (seed in some_of(1:150, 3)) {
    lines <- draw_groups(seed)
    withr::with_seed(seed, {
      # Names that sound like totals, lines without names, rows that offset each other.
      for (k in c("area", "account", "item")) {
        at <- sample(nrow(lines), sample(0:2, 1))
        lines[[k]][at] <- sample(c("", "", "Total Care", "Sum & Sons"), length(at), TRUE)
      }
      at <- sample(nrow(lines), 1)
      lines$net[at] <- sample(c(0, -lines$net[1], lines$net[nrow(lines)], sum(lines$net[-at])), 1)
      lines$day[sample(nrow(lines), sample(0:1, 1))] <- ""
    })
    if (all(lines$day == "")) next
    got <- total_of(book_of_rows(lines))
    expect_equal(got$value, c(sum(lines$net), nrow(lines)), info = paste("seed", seed))
    expect_true(all(got$holds), info = paste("seed", seed))
  }
})

test_that("a total that is not that of its lines is told by the proof", {
  lines <- draw_groups(3)
  lines <- lines[rep(seq_len(nrow(lines)), 3), ]
  lines <- lines[order(lines$account), ]
  rows <- with_totals(lines, "account", "Total %s")
  at <- grep("^Total ", rows$account)[1]
  rows$net[at] <- rows$net[at] + 7
  got <- total_of(book_of_rows(rows))
  expect_equal(got$value, c(sum(lines$net), nrow(lines)))
  expect_match(got$proof[!got$holds], paste0("subtotal rows = the sums of their lines \\('Total ",
                                             ".*' says .* net, its lines come to"))
})

test_that("totals per page, carried on, with the header again and notes below", {
  lines <- draw_groups(7, 0)
  lines <- lines[rep(seq_len(nrow(lines)), 4), ]
  pages <- split(lines, (seq_len(nrow(lines)) - 1) %/% 5)
  rows <- c("area,account,item,day,qty,net", unlist(lapply(seq_along(pages), function(i) {
    upto <- do.call(rbind, pages[seq_len(i)])
    c(if (i > 1) "area,account,item,day,qty,net", do.call(paste, c(pages[[i]], sep = ",")),
      paste0(",Carried forward,,,", sum(upto$qty), ",", sum(upto$net)))
  })), ",,,,,", "* without VAT,,,,,", "Printed on Monday,,,,,")
  got <- total_of(ll_book(write_text(rows), metrics = c(revenue = "sum(net)", n = "count()")))
  expect_equal(got$value, c(sum(lines$net), nrow(lines)))
  expect_true(all(got$holds))
  expect_match(got$notes, "repeat the header excluded.*Printed on Monday")
})

test_that("a total row and a totals column of months are left out before they become lines", {
  months <- c("Jan 2025", "Feb 2025", "Mar 2025", "Q1 2025", "Apr 2025", "Total")
  cells <- withr::with_seed(1, matrix(round(stats::runif(24, 1, 900), 2), 6))
  wide <- data.frame(customer = letters[1:6], rep = rep(c("Ann", "Bo"), 3), cells[, 1:3],
                     rowSums(cells[, 1:3]), cells[, 4], rowSums(cells))
  names(wide)[-(1:2)] <- months
  sums <- c(list("Total", ""), as.list(colSums(wide[-(1:2)])))
  rows <- rbind(wide, stats::setNames(sums, names(wide)))
  file <- tempfile(fileext = ".csv")
  utils::write.csv(rows, file, row.names = FALSE)
  for (asked in list("* 2025", c("* 2025", "Total"))) {
    book <- ll_book(file, unpivot = list(columns = asked, values = "net"),
                    metrics = c(revenue = "sum(net)"))
    got <- ll_trend(book, "revenue")
    expect_equal(got$revenue, unname(colSums(cells)))
    expect_true(all(ll_proof(got)$holds))
    expect_match(paste(ll_notes(got)$text, collapse = " "), "the totals column Total excluded")
  }
  # Twelve numbers are twelve months: one of them that is the sum of others stays.
  even <- data.frame(customer = c("a", "b"), `2025-01` = c(1, 2), `2025-02` = c(1, 2),
                     `2025-03` = c(2, 4), check.names = FALSE)
  book <- ll_book(even, unpivot = "2025-*", metrics = c(revenue = "sum(amount)"))
  expect_equal(ll_total(book)$value, 12)
})
