# Questions about single lines, asked of a database: drill by folds, holders and associations by few
# lines.

test_that("in a database the same comes by folds, and no lines travel", {
  d <- drill_lines(1, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  d$now <- NULL
  d$territory[d$territory == "T1"] <- "it's \"T1\"\n"
  d$family[d$family == "F1"] <- NA
  d$order_no[1:50] <- NA
  d$net[1:40] <- NA
  near <- drill_book(d)
  expect_equal(as.data.frame(ll_drill(drill_book(lines_in("sqlite", d)), when = "2025-Q1",
                                      against = "2024-Q1")),
               as.data.frame(ll_drill(near, when = "2025-Q1", against = "2024-Q1")))
  # Where fewer may be brought than would be, tables are folded.
  withr::local_options(longladder.most_lines = 100)
  kept <- answers_kept()
  for (kind in database_kinds()) {
    far <- drill_book(lines_in(kind, d))
    for (metric in c("revenue", "rate", "both", "average")) {
      ask <- function(book) ll_drill(book, metric, when = "2025-Q1", against = "2024-Q1")
      want <- kept(metric, function() ask(near))
      asked <- internal("statements_of")(function() got <<- ask(far))
      expect_equal(as.data.frame(got), as.data.frame(want), tolerance = 1e-9, info = kind)
      for (part in c("others", "inside", "path"))
        expect_equal(ll_part(got, part), ll_part(want, part), tolerance = 1e-9, info = kind)
      expect_true(all(ll_proof(got)$holds))
      expect_identical(sub("; Q1.*", "", ll_reading(got)), sub("; Q1.*", "", ll_reading(want)))
      expect_false(any(vapply(asked, function(s) s$why == "lines brought", NA)))
    }
  }
})

test_that("what is left of a database's lines is had from what was taken off, too", {
  d <- drill_lines(11, function(d) d[!(d$now & d$territory == "T2" & d$family == "F3"), ])
  d$now <- NULL
  d$order_no[1:30] <- NA
  withr::local_options(longladder.few_lines = 0)
  ask <- internal("segment_ask")
  segment <- list(dims = c("family", "type"), codes = list(family = 2:3, type = 1L))
  aside <- list(dims = "territory", codes = list(territory = 4L))
  of <- list(character(), "item", "territory", c("family", "territory"), c("account", "family"))
  laid <- function(lines, ...) {
    book <- drill_book(lines, ...)
    keys <- lapply(stats::setNames(nm = c("account", "territory", "type", "item", "family")),
                   internal("key_tree"), book = book)
    spans <- lapply(c(then = "2024", now = "2025"), function(when) {
      internal("narrow")(book, NULL, when, NULL)$where_now
    })
    internal("source_segments")(book$source, keys, list(tree = book$metrics$revenue$tree),
                                "order_no", spans$then, spans$now, NULL)$lines
  }
  near <- laid(d)
  for (kind in database_kinds()) {
    far <- laid(lines_in(kind, d))
    # Names are told apart by what was read of them.
    far$tables(list(ask(list("territory", "family", "type"))))
    for (orders in c("own", "whole", "less")) {
      tables <- function(lines) {
        lines$tables(list(ask(of, segment, lines$lacking(NULL, aside), orders)))[[1]]
      }
      got <- tables(far)
      want <- tables(near)
      # What groups did is told of wholes alone.
      expect_equal(got[[1]], want[[1]], tolerance = 1e-9, info = paste(kind, orders))
      for (k in seq_along(of)[-1]) {
        told <- setdiff(colnames(want[[k]]), c("ab", "ng"))
        expect_equal(got[[k]][, told], want[[k]][, told], tolerance = 1e-9,
                     info = paste(kind, orders))
      }
    }
  }
})

test_that("of a database's lines only those that hold an extreme or come next are brought", {
  d <- withr::with_seed(4, data.frame(
    order_no = sprintf("N%03d", sample(150, 400, TRUE)), day = as.Date("2025-01-01") + 0:399 %% 360,
    region = sample(c("Fen", "it's", NA), 400, TRUE), net = round(runif(400, 1, 40))))
  d$net[1:9] <- NA
  open <- function(lines) {
    ll_book(lines, order = "order_no", date = "day", metrics = c(net_total = "sum(net)"))
  }
  near <- open(d)
  for (kind in database_kinds()) {
    far <- open(lines_in(kind, d))
    for (ask in list(function(book) ll_holders(book, metrics = "net_total"),
                     function(book) ll_holders(book, metrics = "net_total", within = "region",
                                               which = "lowest", where = "net > 3"),
                     function(book) ll_holders(book, metrics = "net_total",
                                               within = c("region", "month(day)"),
                                               when = "2025-Q2"))) {
      want <- as.data.frame(ask(near))
      asked <- internal("statements_of")(function() got <<- ask(far))
      brought <- Filter(function(s) s$why == "lines brought", asked)
      expect_lt(sum(vapply(brought, `[[`, 0L, "rows")), 100)
      got <- as.data.frame(got)
      told <- setdiff(names(want), "line")
      sorted <- function(x) x[do.call(order, unname(lapply(x[told], as.character))), told]
      expect_equal(sorted(got), sorted(want), ignore_attr = TRUE, info = kind)
    }
  }
  d$net[20:21] <- 99
  far <- open(lines_in("sqlite", d, table = "tied"))
  expect_match(ll_finding(ll_holders(far, metrics = "net_total")),
               "a line of order N[0-9]+ and a line of order N[0-9]+ with 99")
})

test_that("of a database's lines a sample is brought, the same as of lines in memory", {
  d <- withr::with_seed(5, {
    order <- sample(900, 2400, TRUE)
    data.frame(order_no = sprintf("N%04d", order), day = as.Date("2025-01-01") + order %% 300,
               shop = c("Fen", "Moor", "Vale")[order %% 3 + 1],
               kind = sample(letters[1:4], 2400, TRUE),
               net = round(rlnorm(2400, 2, .5) * (1 + order %% 3), 2))
  })
  d$net[1:20] <- NA
  open <- function(lines) {
    ll_book(lines, order = "order_no", date = "day", metrics = c(net_total = "sum(net)"))
  }
  ask <- function(book, ...) ll_associations(book, metrics = "net_total", sample = 1000, ...)
  for (kind in database_kinds()) for (when in c("all", "2025-01-01/2025-08-31")) {
    want <- ask(open(d), when = when)
    asked <- internal("statements_of")(function() {
      got <<- ask(open(lines_in(kind, d)), when = when)
    })
    brought <- Filter(function(s) s$why == "lines brought", asked)
    expect_lt(sum(vapply(brought, `[[`, 0L, "rows")), 1010)
    expect_equal(as.data.frame(got), as.data.frame(want), tolerance = 1e-9, info = kind)
    expect_identical(ll_reading(got), ll_reading(want))
    expect_identical(ll_notes(got)$text, ll_notes(want)$text)
  }
})
