# How often drill finds a planted cause in altered copies of the demo, and whether its chances are
# true. Writes bench/power-demo.md and its picture.
#
#   Rscript bench/power-demo.R             240 books with causes, 240 without
#   BOOKS=60 Rscript bench/power-demo.R    fewer
#
# A book: the demo's lines, a quarter of 2025-Q1 to 2026-Q2 against the year before. Planted are one
# or two segments (opposite) of one to three dimensions with 1 to 40 % of the money and 15 buyers
# (or one account): their lines in one of both periods times .2 to 4, at most .8 or at least 1.25. In
# every second book which period is now was drawn account by account, so that the demo's own events
# are gone; so it is in the books without a cause (quarters up to 2026-Q1). A segment is found where
# the lines named and the planted ones share more than 80 % of their money. Its size is told beside
# the gross change: the largest sum of |B - gA| over the cells of two small dimensions.

library(longladder)
books <- as.integer(Sys.getenv("BOOKS", "240"))
source("bench/demo-books.R")

gross_change <- function(d) {
  of <- function(side, key) tapply(ifelse(d$when == side, d$net, 0), key, sum)
  cells <- lapply(small, function(v) {
    key <- paste(d[[v[1]]], d[[v[2]]])
    cbind(of("then", key), of("now", key))
  })
  all <- do.call(rbind, cells)
  all <- all[all[, 1] > 0 & all[, 2] > 0, ]
  at <- order(all[, 2] / all[, 1])
  weight <- rowSums(all)[at]
  g <- (all[, 2] / all[, 1])[at][which(cumsum(weight) >= sum(weight) / 2)[1]]
  list(g = g, gross = max(vapply(cells, function(x) sum(abs(x[, 2] - g * x[, 1])), 0)))
}

drilled <- function(made) {
  d <- made$d
  book <- ll_book(data.frame(d[dims], order_no = d$order_no, day = d$day, net = round(d$net, 2)),
                  fields = c(list(order_no = "identifier"), stats::setNames(
                    rep(list("dimension"), length(dims)), dims)),
                  date = "day", order = "order_no", metrics = c(revenue = "sum(net)"))
  x <- ll_drill(book, "revenue", dims, when = made$when)
  found <- utils::head(as.data.frame(x), -1)
  found$lines <- lapply(found$condition, function(text) {
    seq_len(nrow(d)) %in% as.data.frame(ll_detail(book, where = text))$line
  })
  found
}

planted <- function(seed) {
  set.seed(seed)
  made <- altered_book(sample(quarters, 1), seed %/% 2 %% 2 == 1)
  start <- made$d
  causes <- list()
  avoid <- rep(FALSE, nrow(start))
  for (j in seq_len(1 + seed %% 2)) {
    segment <- choose_segment(made$d, avoid)
    if (is.null(segment)) return(NULL)
    repeat {
      factor <- exp(stats::runif(1, log(.2), log(4)))
      if (factor < .8 || factor > 1.25) break
    }
    # The second goes the other way.
    side <- if (j == 1) sample(c("then", "now"), 1) else
      if ((factor > 1) == (causes[[1]]$up < 0)) "now" else "then"
    m <- inside(made$d, segment)
    avoid <- avoid | m
    made$d$net[m & made$d$when == side] <- made$d$net[m & made$d$when == side] * factor
    causes[[j]] <- list(segment = segment, up = if ((factor > 1) == (side == "now")) 1 else -1)
  }
  change <- gross_change(made$d)
  g <- gross_change(start)$g
  found <- drilled(made)
  d <- made$d
  do.call(rbind, lapply(causes, function(one) {
    m <- inside(d, one$segment) & d$when != "other"
    value <- function(d) ifelse(d$when[m] == "now", 1, -g) * d$net[m]
    money <- sum(value(d)) - sum(value(start))
    noise <- sqrt(sum(tapply(abs(value(start)), paste(start$order_no[m], start$when[m]), sum)^2))
    hit <- vapply(found$lines, function(named) {
      named <- named & d$when != "other"
      sum(abs(d$net[named & m])) / sum(abs(d$net[named | m])) > .8
    }, NA)
    data.frame(causes = length(causes), conditions = length(one$segment), up = one$up,
               share = abs(money) / change$gross, over = abs(money) / noise,
               first = isTRUE(hit[1]), among = any(hit), unusual = any(hit & found$chance <= .05),
               other = any(!hit & found$chance <= .05))
  }))
}

causeless <- function(seed) {
  set.seed(1e5 + seed)
  found <- drilled(altered_book(sample(quarters[-6], 1), TRUE))
  data.frame(chance = min(1, found$chance), named = nrow(found))
}

with <- run(planted)
with <- with[is.finite(with$share), ]
without <- run(causeless)

by_share <- function(what, keep) {
  bands <- list(c(0, .1), c(.1, .25), c(.25, .5), c(.5, Inf))
  vapply(bands, function(b) rate(with[[what]][keep & with$share > b[1] & with$share <= b[2]]), "")
}
by_over <- function(keep) {
  bands <- list(c(0, 4), c(4, 6), c(6, 9), c(9, Inf))
  vapply(bands, function(b) rate(with$unusual[keep & with$over > b[1] & with$over <= b[2]]), "")
}
one <- with$causes == 1
text <- c("# How often drill finds a cause planted in the demo", "",
          "Made by bench/power-demo.R, where the books are described. Shares of planted segments (and",
          "their number), by the planted money beside the gross change of the book.", "",
          "| | up to .1 | .1 to .25 | .25 to .5 | above .5 |", "|---|---|---|---|---|",
          row("one planted: named first", by_share("first", one)),
          row("one planted: among those named", by_share("among", one)),
          row("each of two: among those named", by_share("among", !one)),
          row("one condition: among those named", by_share("among", with$conditions == 1)),
          row("two conditions", by_share("among", with$conditions == 2)),
          row("three conditions", by_share("among", with$conditions == 3)), "",
          "Named and called unusual (chance at most .05), by the planted money over the noise of the",
          "segment's orders before planting.", "",
          "| | up to 4 | 4 to 6 | 6 to 9 | above 9 |", "|---|---|---|---|---|",
          row("falls", by_over(with$up < 0)), row("rises", by_over(with$up > 0)), "",
          sprintf("Books without a cause (%d): the stated chance of the most unusual segment was at most",
                  nrow(without)), "",
          "| stated | .5 | .25 | .1 | .05 | .025 | .01 |", "|---|---|---|---|---|---|---|",
          row("happened", vapply(c(.5, .25, .1, .05, .025, .01), function(p) {
            sprintf("%.3f", mean(without$chance <= p))
          }, "")))
text <- c(text, "", "![what was stated and what happened](power-demo.png)")
writeLines(text, "bench/power-demo.md")
draw_calibration(list("most unusual of a book without a cause" = without$chance),
                 "bench/power-demo.png")
writeLines(text)
