# Drill: planted causes are found, the identity is exact, tables agree with a brute force, odd
# books, pictures.

segments <- function(x) setdiff(x$segment, "everything else")
names_of <- function(x) lapply(strsplit(segments(x), ", "), sort)
exact <- function(x, m = "revenue") {
  set <- ll_settings(x)
  expect_equal(set$uniform + sum(x$beyond_growth), set$now - set$then)
  expect_true(all(ll_proof(x)$holds))
}

# What the note on how segments were judged says.
judged <- function(x) {
  notes <- ll_notes(x)
  paste(notes$text[notes$kind == "judged"], collapse = " ")
}

test_that("a planted loss, gain, new and gone segment are named, alone and together", {
  loses <- function(d) d[!(d$now & d$territory == "T2" & d$family == "F3" &
                           seq_len(nrow(d)) %% 10 < 9), ]
  got <- drill(drill_book(drill_lines(1, loses)))
  expect_identical(names_of(got)[[1]], c("family F3", "territory T2"))
  exact(got)
  gains <- function(d) {
    more <- d[d$now & d$type == "club" & d$family == "F1", ]
    more <- more[rep(seq_len(nrow(more)), 3), ]
    more$order_no <- paste0(more$order_no, "x", seq_len(nrow(more)))
    rbind(d, more)
  }
  both <- drill(drill_book(drill_lines(1, function(d) gains(loses(d)))))
  expect_true(list(c("family F1", "type club")) %in% names_of(both) &&
              list(c("family F3", "territory T2")) %in% names_of(both))
  expect_setequal(sign(both$beyond_growth[1:2]), c(-1, 1))
  exact(both)
  gone <- drill(drill_book(drill_lines(2, function(d) d[!(d$now & d$item == "I07"), ])))
  expect_identical(segments(gone), "item I07")
  expect_identical(gone$presence[1], "gone")
  new <- drill(drill_book(drill_lines(2, function(d) d[d$now | d$account != "A10" &
                                                       d$type != "farm", ])))
  expect_identical(segments(new)[1], "type farm")
  expect_identical(new$presence[1], "new")
  family <- drill(drill_book(drill_lines(3, function(d) d[!(d$now & d$family == "F2" &
                                                            seq_len(nrow(d)) %% 2), ])))
  expect_true("family F2" %in% family$segment[family$unusual != "ordinary"])
})

test_that("amounts, growth and excess are those of base R; conditions give the same lines", {
  d <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  book <- drill_book(d)
  got <- drill(book)
  mine <- d$territory == "T2" & d$family == "F3"
  sums <- function(keep) c(sum(d$net[keep & !d$now]), sum(d$net[keep & d$now]))
  expect_equal(c(got$revenue_before[1], got$revenue[1]), sums(mine))
  growth <- sums(!mine)[2] / sums(!mine)[1]
  expect_equal(got$beyond_growth[1], sums(mine)[2] - growth * sums(mine)[1])
  expect_equal(ll_settings(got)$rest_growth, growth - 1)
  expect_equal(nrow(ll_detail(book, where = got$condition[1])), sum(mine))
  expect_equal(sum(got$revenue), sums(TRUE)[2])
  path <- ll_part(got, "path")
  expect_equal(path$change[path$level == 2], diff(sums(mine)))
  again <- drill(drill_book(d[withr::with_seed(9, sample(nrow(d))), ]))
  expect_equal(as.data.frame(again), as.data.frame(got))
  expect_match(ll_notes(got)$text[1], "gone|fell")
  expect_equal(nrow(ll_detail(got, row = nrow(got))), sum(d$now & !mine))
})

test_that("where nothing is beyond the ordinary it says so, and how large it had to be", {
  named <- vapply(1:12, function(seed) {
    got <- drill(drill_book(drill_lines(seed, n = 3000)))
    exact(got)
    sum(utils::head(got$unusual, -1) != "ordinary")
  }, 0L)
  expect_lte(sum(named > 0), 2)
  quiet <- drill(drill_book(drill_lines(4)))
  expect_match(ll_finding(quiet), "; changes of this size are usual in this book\\.$")
  told <- ll_notes(quiet)
  expect_match(told$text[told$kind == "power"], "had to move by some [0-9,]+ beyond the general")
  exact(quiet)
  expect_s3_class(ggplot2::autoplot(quiet), "ggplot")
})

test_that("chances are those of base R from the lines, everything else as the measure", {
  d <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  got <- drill(drill_book(d))
  mine <- d$territory == "T2" & d$family == "F3"
  others <- !mine
  for (text in got$condition[-c(1, nrow(got))])
    others <- others & !(seq_len(nrow(d)) %in% ll_detail(drill_book(d), where = text)$line)
  money <- function(keep) sum(d$net[keep])
  squares <- function(keep) sum(tapply(d$net[keep], d$order_no[keep], sum)^2)
  now <- d$now
  growth <- money(others & now) / money(others & !now)
  phi <- (growth^2 * squares(others & !now) + squares(others & now)) /
    (growth * money(others & !now) + money(others & now))
  a <- growth * money(mine & !now)
  size <- (squares(mine & !now) + 5 * phi^2) / (money(mine & !now) + 5 * phi)
  v <- size * a + (money(mine & !now) / money(others & !now))^2 * phi *
    (money(others) + money(mine)) + phi^2 / 4
  p <- 2 * pnorm(-a / sqrt(v))
  expect_equal(got$beyond_growth[1], -a)
  # One of N names of two conditions does as much: N is what is left to tell.
  names <- log1p(-got$chance[1]) / log1p(-p)
  expect_equal(names, round(names), tolerance = 1e-3)
  expect_gt(names, 20)
  expect_identical(got$unusual[1], "beyond doubt")
})

test_that("a rate goes through rate and mix, and the parts add up", {
  dear <- function(d) {
    hit <- d$now & d$family == "F4" & d$type == "shop"
    d$cost[hit] <- round(d$net[hit] * .9, 2)
    d
  }
  d <- drill_lines(5, dear)
  got <- drill(drill_book(d), "rate")
  expect_identical(names_of(got)[[1]], c("family F4", "type shop"))
  rate <- function(keep) sum((d$net - d$cost)[keep]) / sum(d$net[keep])
  expect_equal(sum(got$rate_change), rate(d$now) - rate(!d$now))
  expect_equal(got$rate[1], rate(d$now & d$family == "F4" & d$type == "shop"))
  exact(got, "rate")
  # The effect of a segment is that which bridge gives its names.
  flag <- ll_bridge(drill_book(transform(d, hit = ifelse(family == "F4" & type == "shop", "in",
                                                         "out"))), "rate", "hit", when = "2025",
                    against = "2024")
  expect_equal(got$rate_change[1], flag$rate_effect[flag$hit == "in"])
})

test_that("what an order brings goes by dimensions that stay the same within orders", {
  d <- drill_lines(8, function(d) {
    hit <- d$now & d$territory == "T3" & d$type == "shop"
    d$net[hit] <- round(d$net[hit] * 4, 2)
    d
  })
  book <- drill_book(d)
  got <- drill(book, "average")
  expect_identical(names_of(got)[[1]], c("territory T3", "type shop"))
  rate <- function(keep) sum(d$net[keep]) / length(unique(d$order_no[keep]))
  expect_equal(sum(got$average_change), rate(d$now) - rate(!d$now))
  expect_equal(got$average[1], rate(d$now & d$territory == "T3" & d$type == "shop"))
  expect_lt(got$chance[1], .05)
  exact(got, "average")
  expect_match(ll_notes(got)$text[ll_notes(got)$kind == "split"], "Item and family could not")
  expect_no_match(ll_reading(got), "item")
  expect_error(drill(book, "average", by = "item"), "several names of item",
               class = "ll_error_argument")
})

test_that("earlier pairs of like periods tell how much a segment moves by itself", {
  # Two years and a half of quarters in which the shops of one territory go up and down.
  waver <- function(seed, strength) {
    d <- drill_lines(seed, n = 24000)
    d$day <- as.Date("2023-01-01") + (as.numeric(d$day) * 37) %% 1277
    quarter <- (as.POSIXlt(d$day)$year * 4 + as.POSIXlt(d$day)$mon %/% 3) %% 2
    hit <- d$territory == "T4" & d$type == "shop"
    d$net[hit] <- round(d$net[hit] * ifelse(quarter[hit] == 1, 1 + strength, 1), 2)
    d$now <- NULL
    d
  }
  ask <- function(d) ll_drill(drill_book(d), when = "2025-Q2", against = "previous",
                              by = c("territory", "type", "family"))
  chance <- function(x) min(x$chance[grepl("T4", x$segment)], 1, na.rm = TRUE)
  d <- waver(3, 1.5)
  got <- ask(d)
  expect_match(judged(got), "and by 8 earlier pairs of such periods")
  # The same move in the last pair alone.
  still <- waver(3, 0)
  last <- d$day >= as.Date("2025-01-01")
  still$net[last] <- d$net[last]
  expect_lt(chance(ask(still)), chance(got))
  # First days by hand.
  months <- internal("moved_back")(list(now = list(from = as.Date("2025-04-01"),
                                                   to = as.Date("2025-06-30")),
                                        then = list(from = as.Date("2025-01-01"),
                                                    to = as.Date("2025-03-31"))), 2)
  expect_equal(as.Date(months$now, "1970-01-01"), as.Date(c("2025-04-01", "2025-01-01",
                                                            "2024-10-01")))
  expect_equal(as.Date(months$then, "1970-01-01"), as.Date(c("2025-01-01", "2024-10-01",
                                                             "2024-07-01")))
  span <- function(from, to) list(from = as.Date(from), to = as.Date(to))
  days <- internal("moved_back")(list(span("2025-04-02", "2025-04-11"),
                                      span("2024-04-02", "2024-04-11")), 1)
  expect_equal(days[[2]][2], as.numeric(as.Date("2024-03-23")))
})

test_that("with an earlier pair of periods chances are those of base R from the lines", {
  d <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  # 2023 comes before both, as the lines of two thirds of the orders of 2024 and 2025.
  older <- d[(as.numeric(substr(d$order_no, 2, 6)) %% 3) > 0, ]
  older$order_no <- sub("N", "M", older$order_no)
  older$day <- as.Date("2023-01-01") + as.numeric(older$day) %% 365
  d <- rbind(d, older)
  d <- d[d$day <= as.Date("2025-12-31"), ]
  year <- substr(d$day, 1, 4)
  got <- drill(drill_book(d))
  expect_match(judged(got), "and by 1 earlier pair of such periods")
  at <- grep("territory T2", got$segment)[1]
  expect_setequal(strsplit(got$segment[at], ", ")[[1]], c("family F3", "territory T2"))
  lines_of <- function(text) seq_len(nrow(d)) %in% ll_detail(drill_book(d), where = text)$line
  mine <- lines_of(got$condition[at])
  rest <- lines_of(got$condition[nrow(got)])
  money <- function(keep) sum(d$net[keep])
  squares <- function(keep) sum(tapply(d$net[keep], d$order_no[keep], sum)^2)
  side <- function(keep, of) money(keep & year == of)
  growth <- function(now, then) side(rest, now) / side(rest, then)
  g <- growth("2025", "2024")
  phi <- (g^2 * squares(rest & year == "2024") + squares(rest & year == "2025")) /
    (g * side(rest, "2024") + side(rest, "2025"))
  past <- mine & year != "2025"
  size <- (squares(past) + 5 * phi^2) / (money(past) + 5 * phi)
  noise <- function(now, then) {
    a <- side(mine, then)
    ga <- growth(now, then) * a
    v <- size * (ga + side(mine, now)) + (a / side(rest, then))^2 * phi *
      (side(rest | mine, then) + side(rest | mine, now)) + phi^2 / 4
    list(v = v, e = side(mine, now) - ga)
  }
  now <- noise("2025", "2024")
  was <- noise("2024", "2023")
  # The segment is gone, so that neither customers nor items drift.
  factor <- (12 + min(was$e^2 / was$v, 9)) / 13
  p <- 2 * pnorm(-abs(now$e) / sqrt(now$v * factor))
  names <- log1p(-got$chance[at]) / log1p(-p)
  expect_equal(names, round(names), tolerance = 1e-3)
  expect_gt(names, 20)
})

test_that("the person steers: dimensions, barred ones, a path, depth, how sure", {
  d <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  book <- drill_book(d)
  along <- drill(book, path = c("territory", "family"))
  expect_identical(segments(along), "territory T2, family F3")
  expect_false(any(grepl("territory", segments(drill(book, not_by = "territory")))))
  expect_true(all(lengths(names_of(drill(book, depth = 1, confidence = .5))) <= 1))
  expect_false(any(grepl("item", segments(drill(book, by = c("type", "item"), not_by = "item")))))
  expect_identical(segments(drill(book, min_impact = .5)), character())
  expect_lte(nrow(drill(book, max_segments = 1)), 2)
  several <- drill(book, "both")
  exact(several)
  exact(drill(book, "lines"))
})

test_that("neighbours that went the same way are one segment", {
  d <- drill_lines(7, function(d) d[!(d$now & d$family %in% c("F2", "F5") &
                                      seq_len(nrow(d)) %% 10 < 8), ])
  got <- drill(drill_book(d))
  expect_identical(segments(got)[1], "family F2 or F5")
  expect_equal(got$revenue[1], sum(d$net[d$now & d$family %in% c("F2", "F5")]))
  exact(got)
})

test_that("the demo's causes are found", {
  got <- ll_drill(demo_book(), "revenue", when = "2026-Q2")
  hive <- "item Wrenfield double-wall hive (HV-018)"
  expect_true(hive %in% got$segment)
  expect_equal(got$revenue[got$segment == hive], story("hive", "new_hive_2026Q2"))
  suits <- which(vapply(names_of(got), identical, NA, c("family suits", "territory Vale",
                                                        "type school")))
  expect_equal(got$revenue_before[suits], story("hive", "vale_school_suits_2025Q2"), tolerance = .1)
  exact(got)
  run <- command("drill", "--brief", demo_path("longladder.yml"), "--when", "2026-Q2", "--format",
                 "line")
  expect_equal(run$status, 0)
  expect_match(run$out, "HV-018")
})

test_that("numbers of orders are no causes unless they are asked for", {
  d <- drill_lines(2)
  d$now <- NULL
  book <- ll_book(d, fields = c(order_no = "dimension", account = "dimension"), date = "day",
                  order = "order_no", metrics = c(revenue = "sum(net)"))
  expect_no_match(ll_reading(drill(book)), "order no")
  expect_match(ll_reading(drill(book, by = c("order_no", "family"))), "in 2 dimensions")
})

test_that("what cannot be drilled is refused with what to do; odd books", {
  book <- drill_book()
  expect_error(drill(book, "orders"), "neither adds up", class = "ll_error_argument")
  expect_error(drill(book, "middle"), "bridge", class = "ll_error_argument")
  expect_error(drill(book, c("revenue", "lines")), "one metric", class = "ll_error_argument")
  expect_error(drill(book, by = "teritory"), "territory", class = "ll_error_word")
  expect_error(drill(book, by = "item", not_by = "item"), "No dimension",
               class = "ll_error_argument")
  expect_error(ll_drill(book, when = "2025", against = "2024-06-01/2025-03-01"), "overlap",
               class = "ll_error_argument")
  expect_error(ll_drill(book, when = "2030", against = "2029"), "no lines in",
               class = "ll_error_data")
  expect_error(drill(book, depth = 4), "whole number", class = "ll_error_argument")
  lost <- drill_lines(1)
  lost$net <- -lost$net
  expect_error(drill(drill_book(lost)), "above zero", class = "ll_error_data")
  odd <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  odd$territory[odd$territory == "T2"] <- "it's \"T2\"\n"
  odd$family[odd$family == "F1"] <- NA
  odd$order_no[1:50] <- NA
  odd$net[1:40] <- NA
  got <- drill(drill_book(odd))
  exact(got)
  expect_true(any(grepl("T2", segments(got)) & !grepl("\n", segments(got))))
  one <- drill(drill_book(drill_lines(1)[c(1, 3),
                                         ] |> transform(day = as.Date(c("2024-05-01",
                                                                        "2025-05-01")))))
  expect_identical(segments(one), character())
  plain <- ll_book(drill_lines(1)[c("day", "territory", "family", "net")], date = "day",
                   metrics = c(revenue = "sum(net)"))
  expect_true(all(ll_proof(drill(plain))$holds))
})

test_that("what SQL cannot say is looked for among lines that are brought", {
  lines <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  lines$now <- NULL
  # Names that are numbers with decimals.
  lines$size <- round(lines$net %% 3) + .5
  by <- c("territory", "family", "kind")
  open <- function(lines) {
    ll_book(lines, fields = list(order_no = "identifier", account = "dimension",
                                 size = "dimension",
                                 kind = list(is = 'ifelse(net > 20, "large", size)')),
            date = "day", order = "order_no", metrics = c(revenue = "sum(net)"))
  }
  ask <- function(book) ll_drill(book, by = by, when = "2025-Q1", against = "2024-Q1")
  near <- ask(open(lines))
  asked <- internal("statements_of")(function() far <<- ask(open(lines_in("sqlite", lines))))
  expect_true(any(vapply(asked, function(s) s$why == "lines brought", NA)))
  expect_equal(as.data.frame(far), as.data.frame(near), tolerance = 1e-9)
  withr::local_options(longladder.most_lines = 3000)
  expect_error(ask(open(lines_in("sqlite", lines, table = "again"))), "would be brought",
               class = "ll_error_data")
  only <- ll_drill(open(lines[substr(lines$day, 1, 4) != "2026", ]), when = "2025",
                   against = "2024")
  expect_match(judged(only), "Judged by the segments' orders then")
  expect_match(judged(near), "Judged by the segments' orders in all other periods")
})

test_that("rungs are drawn and described", {
  loses <- function(d) d[!(d$now & d$territory == "T2" & d$family == "F3" &
                           seq_len(nrow(d)) %% 10 < 9), ]
  d <- drill_lines(1, loses)
  for (metric in c("revenue", "rate", "lines")) {
    plot <- ggplot2::autoplot(drill(drill_book(d), metric))
    expect_no_warning(ggplot2::ggplot_build(plot))
    expect_match(plot$labels$alt, "Rungs: ")
  }
})

test_that("lines laid out for one question serve the next, and none that asks for others", {
  book <- ll_demo()
  ask <- function(metric, when) {
    book$source$laid <- NULL
    ll_drill(book, metric, when = when)
  }
  anew <- list(ask("revenue", "2026-Q2"), ask("margin", "2026-Q2"), ask("revenue", "2026-Q1"))
  again <- function(metric, when) ll_drill(book, metric, when = when)
  expect_equal(data.frame(again("revenue", "2026-Q1")), data.frame(anew[[3]]))
  laid <- book$source$laid$out
  expect_equal(data.frame(again("revenue", "2026-Q1")), data.frame(anew[[3]]))
  expect_identical(book$source$laid$out, laid)
  expect_equal(data.frame(again("margin", "2026-Q2")), data.frame(anew[[2]]))
  expect_equal(data.frame(again("revenue", "2026-Q2")), data.frame(anew[[1]]))
  # A book that was saved has its lines, but not what was laid out.
  path <- withr::local_tempfile(fileext = ".rds")
  saveRDS(book, path)
  saved <- readRDS(path)
  expect_equal(data.frame(ll_drill(saved, "revenue", when = "2026-Q2")),
               data.frame(anew[[1]]))
  withr::local_options(longladder.kept_lines = 0)
  book$source$laid <- NULL
  again("revenue", "2026-Q2")
  expect_null(book$source$laid)
})
