# Tables of segments: by the kernel and by folds in a database, against a brute force.

# Lines of orders of accounts, which fix a region; items fix a family; some amounts below nothing.
segment_data <- function(seed, n = 600) {
  withr::with_seed(seed, {
    order <- sample(n %/% 3, n, TRUE)
    account <- sample(25, n %/% 3, TRUE)[order]
    item <- sample(12, n, TRUE)
    data.frame(order = order, account = account, region = account %% 4, item = item,
               family = item %% 3, channel = sample(3, n %/% 3, TRUE)[order],
               desk = order %% 6, hall = order %% 6 %% 2,
               now = sample(c(FALSE, TRUE), n, TRUE), net = round(rnorm(n, 20, 15)),
               weight = round(runif(n), 3))
  })
}
segment_dims <- c("account", "region", "item", "family", "channel", "desk", "hall")
levels_of <- function(d) vapply(d[segment_dims], function(x) length(unique(x)), 0L)
codes_of <- function(d) lapply(d[segment_dims], function(x) match(x, sort(unique(x))))

laid <- function(d, weighed = FALSE) {
  codes <- codes_of(d)
  lines <- internal("segment_lines")(
    internal("kernel_segments")(codes, d$now + 1L, d$net, if (weighed) d$weight, d$order,
                                1L, FALSE), levels_of(d))
  lines$fixes()
  lines
}

# A table of the lines `keep` by base R.
table_by_hand <- function(d, dims, keep, weighed = FALSE) {
  codes <- as.data.frame(codes_of(d))
  d$w <- if (weighed) d$weight else d$net
  name <- if (length(dims)) do.call(paste, codes[dims]) else rep("", nrow(d))
  rows <- split(which(keep), name[keep])
  one <- function(i) {
    x <- d[i, ]
    sides <- list(x[!x$now, ], x[x$now, ])
    of <- function(f) vapply(sides, f, 0)
    squares <- of(function(s) sum(vapply(split(s$net, s$order), sum, 0)^2))
    group <- vapply(split(x, x$account), function(g) sum(g$w[!g$now]) * sum(g$w[g$now]), 0)
    c(of(function(s) sum(s$net)), of(function(s) sum(s$w)), squares, sum(group),
      of(function(s) length(unique(s$order))), length(group))
  }
  out <- t(vapply(rows, one, numeric(10)))
  first <- vapply(rows, `[`, 0L, 1)
  at <- do.call(order, c(unname(codes[first, dims, drop = FALSE]), list(seq_along(first))))
  unname(cbind(as.matrix(codes[first, dims, drop = FALSE]), out)[at, , drop = FALSE])
}

test_that("tables of names and pairs are those of a brute force, whatever is left out", {
  of <- c(list(character()), as.list(segment_dims),
          list(c("region", "family"), c("account", "item"), c("channel", "account"),
               c("region", "channel"), c("item", "channel"), c("hall", "region"),
               c("desk", "family"), c("hall", "family")))
  ask <- internal("segment_ask")
  for (seed in 1:4) {
    d <- segment_data(seed)
    weighed <- seed %% 2 == 0
    lines <- laid(d, weighed)
    codes <- codes_of(d)
    aside <- list(dims = c("region", "family"), codes = list(region = 2L, family = 1L))
    mine <- codes$region == 2 & codes$family == 1
    rows <- lines$lacking(NULL, aside)
    inside <- list(dims = c("channel", "item"), codes = list(channel = c(1L, 3L), item = 5L))
    fits <- codes$channel != 2 & codes$item == 5 & !mine
    entry <- paste(d$order, d$now)
    cases <- list(list(ask(of), rep(TRUE, nrow(d))), list(ask(of, NULL, rows), !mine),
                  list(ask(of, inside, rows), fits),
                  list(ask(of, inside, rows, "whole"), entry %in% entry[fits] & !mine),
                  list(ask(of, inside, rows, "less"), entry %in% entry[fits] & !mine & !fits))
    for (case in cases) {
      made <- lines$tables(case[1])[[1]]
      for (k in seq_along(of))
        expect_equal(unname(made[[k]]), table_by_hand(d, of[[k]], case[[2]], weighed))
    }
  }
})

test_that("a floor and a number of orders leave out names that cannot reach them", {
  d <- segment_data(5)
  of <- list("item", c("account", "item"), c("region", "item"))
  made <- laid(d)$tables(list(internal("segment_ask")(of)), 150, 6)[[1]]
  for (k in 1:3) {
    want <- table_by_hand(d, of[[k]], rep(TRUE, nrow(d)))
    n <- length(of[[k]])
    held <- abs(want[, n + 1]) + abs(want[, n + 2])
    want <- want[held >= 150 & want[, n + 8] + want[, n + 9] >= 6, , drop = FALSE]
    expect_equal(unname(made[[k]]), want)
  }
})

test_that("lines in their own order have the same wholes, and dimensions fix each other", {
  d <- segment_data(6)
  codes <- codes_of(d)
  beside <- internal("segment_lines")(
    internal("kernel_segments")(codes, d$now + 1L, d$net, NULL, d$order, 0L, TRUE),
    levels_of(d), as.raw(!d$now))
  ask <- internal("segment_ask")
  segment <- list(dims = "family", codes = list(family = c(1L, 2L)))
  made <- beside$tables(list(ask(list(character())), ask(list(character()), segment)))
  expect_equal(made[[1]][[1]][, c("a", "qa", "na")],
               table_by_hand(d, character(), !d$now)[c(1, 5, 8)], ignore_attr = TRUE)
  expect_equal(made[[2]][[1]][, c("a", "qa", "na")],
               table_by_hand(d, character(), !d$now & codes$family < 3)[c(1, 5, 8)],
               ignore_attr = TRUE)
  by_channel <- beside$tables(list(ask(list("channel"), segment)))[[1]][[1]]
  expect_equal(by_channel[, c("first", "a", "qa", "na")],
               table_by_hand(d, "channel", !d$now & codes$family < 3)[, c(1, 2, 6, 9)],
               ignore_attr = TRUE)
  fixes <- laid(d)$fixes()
  dimnames(fixes) <- list(segment_dims, segment_dims)
  expect_identical(which(fixes, arr.ind = TRUE, useNames = FALSE),
                   rbind(c(1L, 2L), c(3L, 4L), c(6L, 7L)))
  expect_identical(laid(d)$links("item", "family")[-1], tapply(codes$family, codes$item, `[`, 1) |>
                     as.integer())
  split <- internal("kernel_orders_split")(codes, d$order, max(d$order))
  several <- function(x) length(unique(x)) > 1
  by_hand <- vapply(codes, function(x) sum(tapply(x, d$order, several)), 0)
  expect_identical(split, c(unname(by_hand), length(unique(d$order)) + 0))
})

test_that("the tables of what is left are had from those of what was taken", {
  search_of <- function(d) {
    measure <- internal("measure_amount")(1)
    by_order <- stats::setNames(!segment_dims %in% c("item", "family"), segment_dims)
    internal("new_search")(laid(d), levels_of(d), by_order, measure, "account")
  }
  for (seed in 7:9) {
    search <- search_of(segment_data(seed))
    all <- internal("where_tables")(search)
    segment <- list(dims = c("family", "channel"), codes = list(family = 2L, channel = 1L))
    rows <- search$lines$lacking(NULL, segment)
    want <- internal("where_tables")(search, rows)
    got <- internal("tables_without")(search, all, segment, NULL)
    expect_equal(got$whole[1:6], want$whole[1:6])
    for (k in seq_along(want$of)) {
      keys <- seq_along(want$of[[k]])
      at <- match(do.call(paste, as.data.frame(want$made[[k]][, keys, drop = FALSE])),
                  do.call(paste, as.data.frame(got$made[[k]][, keys, drop = FALSE])))
      told <- c("a", "b", "qa", "qb", "na", "nb")
      expect_equal(got$made[[k]][at, told], want$made[[k]][, told])
    }
  }
})

test_that("a parent stands for a child that holds little of its excess, at nearly its score", {
  one <- function(codes, score, excess) {
    list(dims = names(codes), codes = as.list(codes), score = score, excess = excess)
  }
  widened <- internal("where_widened")
  child <- one(c(region = 1L, family = 2L), 20, -70)
  expect_identical(widened(list(child, one(c(region = 1L), 19.8, -100)), child)$dims, "region")
  # Not where it holds most, the score is lower, the sign another, or the name is.
  for (parent in list(one(c(region = 1L), 19.8, -80), one(c(region = 1L), 18, -100),
                      one(c(region = 1L), 19.8, 100), one(c(region = 2L), 19.8, -100)))
    expect_identical(widened(list(child, parent), child), child)
})
