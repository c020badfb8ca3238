# Sentences are claims: what they count is worked out again from the lines by base R, over books
# with lines without names, ties and losses.

claim_lines <- function(seed, n = 400) withr::with_seed(seed, data.frame(
  o = sample(150, n, TRUE), k = sample(c(paste0("k", 1:12), NA), n, TRUE),
  g = sample(c(paste0("g", 1:5), NA), n, TRUE),
  net = sample(c(round(rnorm(n, 20, 25)), 10, 10), n),
  day = as.Date("2024-01-01") + sample(730, n, TRUE)))
claim_book <- function(lines) ll_book(lines, date = "day", order = "o",
                                      fields = list(o = "identifier", k = "dimension",
                                                    g = "dimension"),
                                      metrics = c(revenue = "sum(net)",
                                                  rate = "sum(net) / count()"))

numbers_in <- function(text, pattern) as.numeric(gsub(",", "",
                                                      regmatches(text,
                                                                 regexec(pattern, text))[[1]][-1]))

test_that("groups are counted without the lines that have none, and each once", {
  for (seed in some_of(1:8, 3)) {
    d <- claim_lines(seed)
    cells <- tapply(d$net, d[c("k", "g")], sum)
    cells <- cells[, order(colnames(cells))]
    whole <- tapply(d$net, d$k, sum)
    best <- names(whole)[whole == max(whole)]
    first <- apply(cells, 2, function(v) any(names(v)[!is.na(v) & v == max(v, na.rm = TRUE)] %in%
                                             best))
    told <- ll_finding(ll_standings(claim_book(d), "k", within = "g"))
    expect_identical(numbers_in(told, "first in ([0-9]+) of ([0-9]+) values of g"),
                     as.numeric(c(sum(first), ncol(cells))), info = told)
    expect_match(told,
                 if (length(best) > 1) "share the lead overall .* one of them is first in" else
                 paste0("^", best, " leads overall by revenue .* and is first in"))
    held <- ll_finding(ll_holders(claim_book(d), "k", within = "g"))
    most <- max(cells, na.rm = TRUE)
    expect_identical(numbers_in(held, "^Within ([0-9]+) values of g, .* with ([0-9,]+)"),
                     as.numeric(c(ncol(cells), most)), info = held)
    # Names in several groups are combinations; in one each they are names.
    expect_match(ll_finding(ll_distribution(claim_book(d), "k", by = "g")),
                 paste0("^Half of ", sum(!is.na(tapply(d$net[!is.na(d$k)],
                                                       list(d$k[!is.na(d$k)],
                                                            ifelse(is.na(d$g), "-",
                                                                   d$g)[!is.na(d$k)]), sum))),
                        " combinations of k and g"))
  }
})

test_that("moves count names, whoever comes first and next is named with all that share it", {
  for (seed in some_of(1:8, 3)) {
    d <- claim_lines(seed)
    now <- format(d$day, "%Y") == "2025"
    got <- ll_tiers(claim_book(d), "k", tiers = c(C = 0, B = 100, A = 400), when = "2025",
                    against = "2024")
    note <- ll_notes(got)$text[ll_notes(got)$kind == "moves"]
    tier <- function(v) ifelse(is.na(v), "none", as.character(cut(v, c(-Inf, 0, 100, 400, Inf),
                                                                  right = FALSE)))
    sums <- function(i) tapply(d$net[i], factor(d$k[i], unique(d$k[!is.na(d$k)])), sum)
    moved <- sum(tier(sums(now)) != tier(sums(!now)))
    counts <- as.numeric(unlist(regmatches(note, gregexpr("[0-9]+(?= from | more name)", note,
                                                          perl = TRUE))))
    expect_identical(sum(counts), as.numeric(moved), info = note)
    turned <- ll_quadrants(claim_book(d), "k", c("revenue", "rate"), when = "2025",
                           against = "2024")
    before <- ll_part(turned, "moves")
    said <- ll_notes(turned)$text[ll_notes(turned)$kind == "moves"]
    counts <- as.numeric(unlist(regmatches(said, gregexpr("[0-9]+(?= (to|ranked|no longer) )", said,
                                                          perl = TRUE))))
    expect_identical(sum(counts),
                     as.numeric(sum(before$names[before$quadrant != before$quadrant_before])),
                     info = said)
    # Ties at the top and next to it.
    value <- tapply(ifelse(d$net > 0, 1, 0), d$k, sum)
    book <- ll_book(d, date = "day", fields = list(k = "dimension"),
                    metrics = c(wins = "count(net[net > 0])"))
    told <- ll_finding(ll_standings(book, "k"))
    lead <- names(value)[value == max(value)]
    after <- names(value)[value == max(value[value < max(value)])]
    expect_true(all(vapply(lead, grepl, NA, sub(";.*", "", told))), info = told)
    if (length(lead) == 1 &&
        length(after) <= 3) expect_true(all(vapply(paste0(after, "\\b"), grepl, NA,
                                                   sub(".*;", "", told))), info = told)
    if (length(lead) == 1 && length(after) > 3) expect_match(told,
                                                             paste0("; ", length(after),
                                                                    " values of k are next with"),
                                                             info = told)
  }
})

test_that("a percentage is of what it says", {
  for (seed in some_of(1:8, 3)) {
    d <- claim_lines(seed)
    whole <- tapply(d$net, d$k, sum)
    share <- function(text, pattern) numbers_in(text, pattern) / 100
    paid <- ll_finding(ll_payout(claim_book(d), "k", rates = "0=10%"))
    base <- sum(whole[whole > 0])
    expect_match(paid, paste0(" % of the ", if (any(whole < 0)) "positive ",
                              "revenue of these values of k;"))
    expect_equal(share(paid, "([0-9.]+) % of the"), sum(round(pmax(whole, 0) * .1, 2)) / base,
                 tolerance = 1e-3)
    spread <- ll_finding(ll_distribution(claim_book(d), each = "o"))
    orders <- sort(tapply(d$net, d$o, sum), decreasing = TRUE)
    tenth <- sum(pmax(orders[seq_len(ceiling(length(orders) / 10))], 0)) / sum(orders[orders > 0])
    expect_equal(share(spread, "holds ([0-9]+) % of their"), round(tenth, 2), info = spread)
  }
})

test_that("a lead that the resamples do not bear out is told as one", {
  even <- withr::with_seed(3, data.frame(o = 1:400, k = rep(c("a", "b", "c", "d"), 100),
                                         net = round(rlnorm(400, 3, 1), 2),
                                         day = as.Date("2025-01-01") + 0:399))
  clear <- even
  clear$net[clear$k == "b"] <- clear$net[clear$k == "b"] * 9
  says <- function(lines) ll_standings(claim_book(transform(lines, g = "g")), "k", resamples = 200)
  unsure <- says(even)
  expect_lt(unsure$ahead_of_next[1], .8)
  expect_match(ll_finding(unsure), paste0(", yet is ahead of the next in only ",
                                          round(100 * unsure$ahead_of_next[1]),
                                          " % of the resamples; "))
  expect_no_match(ll_finding(says(clear)), "resamples")
})

test_that("sets in words, nobody new, farthest ahead and behind when shared", {
  d <- claim_lines(2)
  d$k[is.na(d$k)] <- "k1"
  book <- claim_book(d)
  expect_match(ll_finding(ll_sets(book, "k", sets = "active(2024) & active(2025)")),
               "are active in 2024 and active in 2025: over all dates revenue")
  expect_match(ll_finding(ll_cohorts(book, "k", when = "2025")),
               "^No new values of k came in 2025")
  goals <- data.frame(k = paste0("k", 1:12), amount = tapply(d$net, d$k, sum)[paste0("k", 1:12)] *
                      rep(c(2, 4, 4, 8, 8, 1), 2))
  told <- ll_finding(ll_benchmark(claim_book(d[d$k %in% goals$k, ]), "k", plan = goals))
  expect_match(told, "k(12 and k6|6 and k12) \\(100.0 % each\\) are farthest ahead")
  expect_match(told, "4 values of k \\(12.5 % each\\) are farthest behind")
})

test_that("a period is said as people say it, whichever way it was asked for", {
  book <- demo_book()
  odd <- "\\bthe this |\\bin this [a-z]+ to date|\\bin the last (month|quarter|year|fiscal)"
  declared <- Filter(function(one) "when" %in% names(one$args), internal("declarations")())
  for (words in some_of(c("this year to date", "last year", "last quarter", "last month",
                          "this quarter to date", "last 90 days"), 2)) {
    for (one in declared) {
      args <- internal("ask_read")(book, one$asked[1])$args
      args$when <- words
      got <- tryCatch(internal("answer")(one, book, args), ll_error = function(e) NULL)
      if (is.null(got)) next
      told <- paste(c(ll_finding(got), ll_reading(got), ll_notes(got)$text), collapse = " ")
      expect_no_match(told, odd, info = paste(one$name, words))
    }
    for (got in list(ll_lapsed(book, "account", inactive = words),
                     ll_lapsed(book, "account", active = "2024", inactive = words)))
      expect_no_match(paste(ll_finding(got), ll_reading(got)), odd, info = words)
  }
})

test_that("what is below zero is told as no part of the total", {
  for (seed in some_of(1:6, 2)) {
    d <- claim_lines(seed)
    # Those with a name lose, the others make it up.
    d$net <- ifelse(is.na(d$k), 1000, -abs(d$net) - 1)
    book <- claim_book(d)
    for (got in list(ll_standings(book, "k"), ll_standings(book, "g"), ll_crosstab(book, "k"),
                     ll_crosstab(book, "g", columns = "k"), ll_portrait(book, "k", name = "k1"),
                     ll_standings(book, "k", c(change = "change(revenue)"), when = "2025",
                                  against = "2024"),
                     ll_sets(book, "k", "having(revenue < 0)"), ll_pareto(book, "k"),
                     ll_benchmark(book, "k")))
      expect_no_match(paste(ll_finding(got), paste(ll_notes(got)$text, collapse = " ")),
                      "-[0-9.,]+ % of the (positive )?total", info = seed)
  }
})
