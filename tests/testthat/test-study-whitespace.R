# White space: the planted gaps, a brute force over names by products, shares elsewhere by hand, odd
# books, pictures.

space_lines <- function(seed = 1, n = 700) {
  withr::with_seed(seed, data.frame(
    order_no = sprintf("o%03d", seq_len(n)), day = as.Date("2024-01-01") + sample(0:800, n, TRUE),
    k = sample(c(sprintf("k%02d", 1:45), NA), n, TRUE),
    item = sample(c(sprintf("i%02d", 1:12), NA), n, TRUE, c(13:1)),
    net = round(rnorm(n, 40, 40), 2)))
}
space_book <- function(lines = space_lines(), ...) {
  ll_book(lines, fields = c(order_no = "identifier", k = "dimension", item = "dimension"),
          metrics = list(revenue = "sum(net)", rate = "revenue / count()"), date = "day",
          registers = list(k = data.frame(k = sprintf("k%02d", 1:45),
                                          kind = rep(c("a", "b", "c"), 15))), ...)
}

# Every name against every product, in plain base R.
brute_space <- function(lines, names, targets, groups, least) {
  value <- function(k, i) round(sum(lines$net[lines$k %in% k & lines$item %in% i]), 2)
  total <- vapply(unique(c(names, targets)), function(k) round(sum(lines$net[lines$k %in% k]), 2),
                  0)
  years <- max((as.numeric(diff(range(lines$day))) + 1) / 365.25, 1)
  out <- list()
  for (k in targets) for (i in sort(unique(lines$item[!is.na(lines$item)]))) {
    like <- names[groups[names] == groups[[k]]]
    held <- vapply(like, value, 0, i = i)
    if (sum(held > 0) < least || value(k, i) > 0) next
    peers <- length(setdiff(like, k))
    buys <- held[held > 0]
    size <- total[names(buys)]
    limit <- if (any(size <= total[[k]])) max(buys[size <= total[[k]]]) else buys[[which.min(size)]]
    usual <- median(pmin(buys / size, 1))
    out[[length(out) + 1]] <- data.frame(k = k, item = i, buyers = length(buys), peers = peers,
                                         typical = median(buys), typical_share = usual,
                                         worth = min(usual * max(total[[k]], 0), limit) *
                                         length(buys) / peers / years)
  }
  do.call(rbind, out)
}

test_that("gaps are those of a brute force over names and products", {
  withr::local_seed(34)
  for (seed in some_of(1:3, 3)) {
    lines <- space_lines(seed)
    book <- space_book(lines)
    totals <- sort(vapply(sprintf("k%02d", 1:45), function(k) sum(lines$net[lines$k %in% k]), 0),
                   decreasing = TRUE)
    one <- stats::setNames(rep("all", 45), sprintf("k%02d", 1:45))
    kind <- stats::setNames(rep(c("a", "b", "c"), 15), names(one))
    check <- function(got, want, ranks = names(totals)) {
      want <- want[order(-want$worth, match(want$k, ranks), want$item), ]
      same <- merge(as.data.frame(got), want, by = c("k", "item"), suffixes = c("", ".w"))
      expect_identical(nrow(got), nrow(want))
      expect_identical(nrow(same), nrow(want))
      for (f in c("worth", "buyers", "peers", "typical",
                  "typical_share")) expect_equal(same[[f]], same[[paste0(f, ".w")]], info = f)
      expect_false(is.unsorted(-got$worth))
      expect_true(all(ll_proof(got)$holds))
    }
    all <- names(totals)[totals > 0]
    check(ll_whitespace(book, "k", "item", top = "all"), brute_space(lines, all, all, one, 10))
    # Tried a year before: the same by brute force on the year before the cut, and what came after
    # it.
    cut <- max(lines$day) - 365
    then <- lines[lines$day > cut - 365 & lines$day <= cut, ]
    after <- lines[lines$day > cut, ]
    bought <- tapply(then$net, then$k, sum)
    gaps <- brute_space(then, names(bought)[bought > 0], names(bought)[bought > 0], one, 10)
    came <- mapply(function(k, i) sum(after$net[after$k %in% k & after$item %in% i]), gaps$k,
                   gaps$item)
    tried <- ll_part(ll_whitespace(book, "k", "item", top = "all"), "tried")
    expect_equal(unlist(tried[c("cut", "worth", "gaps", "came")], use.names = FALSE),
                 c(as.numeric(cut), sum(gaps$worth), nrow(gaps), sum(came)))
    best <- names(totals)[1:25]
    check(ll_whitespace(book, "k", "item", top = 25, buyers = 8),
          brute_space(lines, best, best, one, 8))
    check(ll_whitespace(book, "k", "item", top = "all", like = "kind", buyers = 5),
          brute_space(lines, all, all, kind, 5))
    low <- names(totals)[40]
    check(ll_whitespace(book, "k", "item", top = 25, name = c(best[3], low)),
          brute_space(lines, best, c(best[3], low), one, 10))
    again <- ll_whitespace(space_book(lines[sample(nrow(lines)), ]), "k", "item", top = "all")
    expect_equal(as.data.frame(again), as.data.frame(ll_whitespace(book, "k", "item", top = "all")))
    expect_identical(ll_whitespace(book, "k", "item", top = "all", max_gaps = 7)$item,
                     again$item[1:7])
  }
})

test_that("the demo's planted gap, one name's list, a period and what was bought before", {
  demo <- demo_book()
  got <- ll_whitespace(demo, "account", "family", with_fields = "account_name")
  expect_setequal(got$account, strsplit(story("gap", "top40_without_extractors_names"), " ")[[1]])
  expect_identical(unique(got$family), "extractors")
  expect_match(ll_finding(got), "8 of the 40 best accounts buy no extractors, which 32 of them do")
  # Drawn beside names without gaps, in the order of their ranks.
  drawn <- unique(ll_part(got, "cells")$account)
  expect_identical(drawn, intersect(ll_standings(demo, "account", top = 40)$account, drawn))
  expect_identical(c(length(drawn), sum(drawn %in% got$account)), c(20L, 8L))
  one <- ll_whitespace(demo, "account", "item", name = "02093", like = "type", top = "all",
                       max_gaps = 5)
  expect_identical(unique(one$account), "02093")
  expect_match(ll_finding(one), "^Millrick Green Apiary \\(02093\\) buys no")
  lines <- demo_lines()
  expect_false(any(one$item %in% lines$item[lines$account == "02093" & lines$net > 0]))
  part <- ll_whitespace(demo, "account", "family", when = "2026-Q2", top = 60)
  before <- vapply(seq_len(nrow(part)), function(i) {
    families <- read.csv(demo_path("items.csv"))
    mine <- lines$account == part$account[i] & families$family[match(lines$item, families$item)] ==
      part$family[i]
    if (any(mine)) max(lines$order_date[mine]) else NA_character_
  }, "")
  expect_identical(format(part$last_bought), ifelse(is.na(before), NA, before))
  for (x in list(got, one, part)) expect_true(all(ll_proof(x)$holds))
  expect_equal(nrow(ll_detail(one, row = 1)), sum(lines$account == "02093"))
})

test_that("what sells elsewhere and hardly here; by hand and against base R", {
  lines <- data.frame(area = rep(c("N", "S", "E"), each = 3), item = rep(c("pot", "pan", "lid"), 3),
                      net = c(50, 40, 10, 60, 35, 5, 5, 90, 5))
  book <- ll_book(lines, metrics = list(revenue = "sum(net)"))
  got <- ll_whitespace(book, "area", "item")
  # E sells 5 of pot, elsewhere 110 of 200, so 55 expected of its 100.
  expect_identical(got$area[1], "E")
  expect_equal(unlist(got[1, c("worth", "revenue", "expected", "share", "share_elsewhere",
                               "sellers", "revenue_all")], use.names = FALSE),
               c(50, 5, 55, .05, .55, 2, 100))
  expect_identical(got$leader[1], "S")
  expect_match(ll_reading(got), "below 50 % of what the share of all others would make it")
  demo <- demo_book()
  got <- ll_whitespace(demo, "territory", "item", when = "2026-Q2", max_gaps = 10)
  l <- demo_lines()
  l <- l[l$order_date >= "2026-04-01" & l$order_date <= "2026-06-30" & !is.na(l$net), ]
  cells <- xtabs(net ~ territory + item, l)
  i <- cbind(match(got$territory, rownames(cells)), match(got$item, colnames(cells)))
  expect_equal(got$revenue, as.vector(cells[i]), tolerance = 1e-9)
  share <- (colSums(cells)[i[, 2]] - cells[i]) / (sum(cells) - rowSums(cells)[i[, 1]])
  expect_equal(got$expected, as.vector(share * rowSums(cells)[i[, 1]]))
  expect_identical(got$leader[1], "Fen")
  expect_true(all(ll_proof(got)$holds))
})

test_that("odd books, refusals, and what is drawn", {
  book <- space_book()
  lone <- ll_book(data.frame(k = "a\"b\n", item = "x", net = 1),
                  fields = c(k = "dimension", item = "dimension"), metrics = list(r = "sum(net)"))
  loss <- ll_book(data.frame(k = c("a", "b"), item = c("x", NA), net = c(-1, -2)),
                  fields = c(k = "dimension", item = "dimension"), metrics = list(r = "sum(net)"))
  same <- ll_book(data.frame(k = rep(sprintf("n%02d", 1:30), 2), item = rep(c("x", "y"), each = 30),
                             net = 2), fields = c(k = "dimension", item = "dimension"),
                  metrics = list(r = "sum(net)"))
  expect_match(ll_finding(ll_whitespace(same, "k", "item", top = "all")),
               "^No gaps among all 30 values of k")
  tied <- ll_whitespace(same, "k", "item", top = 5)
  expect_match(paste(ll_notes(tied)$text, collapse = " "),
               "30 values of k are compared: of those tied at the edge none is left out")
  expect_sound(list(ll_whitespace(book, "k", "item"), ll_whitespace(lone, "k", "item"),
                    ll_whitespace(loss, "k", "item"), ll_whitespace(same, "k", "item",
                                                                    gap = "little"), tied,
                    ll_whitespace(book, "k", "item", where = "k == \"k01\""),
                    ll_whitespace(book, "k", "item", when = "2030"),
                    ll_whitespace(demo_book(), "account", "item", top = "all", with_fields = "rep",
                                  max_gaps = 40)))
  refused <- function(text, ..., class = "ll_error_argument") {
    expect_error(ll_whitespace(book, "k", "item", ...), text, class = class)
  }
  refused("needs a metric that adds up", metrics = "rate")
  refused("No k is called 'k99'", name = "k99", class = "ll_error_word")
  refused("field called 'knd'", like = "knd", class = "ll_error_word")
  refused("'top' must be", top = "best")
  refused("'like' goes with", like = "kind", gap = "little")
  expect_error(ll_whitespace(book, "k", "k"), "another dimension", class = "ll_error_argument")
})

test_that("products of the register that nobody compared bought are told as not judged", {
  lines <- space_lines(4)
  book <- ll_book(lines, fields = c(order_no = "identifier", k = "dimension", item = "dimension"),
                  metrics = list(revenue = "sum(net)"), date = "day",
                  registers = list(item = data.frame(item = c(sprintf("i%02d", 1:12), "i98", "i99"),
                                                     kind = "a")))
  notes <- ll_notes(ll_whitespace(book, "k", "item", top = "all", buyers = 2))
  expect_identical(notes$text[notes$kind == "no_lines"],
                   "2 items of the register have no lines of those compared and are not judged.")
})
