# How often drill finds what moved a rate in altered copies of the demo, and whether its chances are
# true. Writes bench/power-rate.md and its picture.
#
#   Rscript bench/power-rate.R             120 books with a cause, 120 without, for each of two rates
#   BOOKS=40 Rscript bench/power-rate.R    fewer
#
# Books as in bench/power-demo.R. Planted is one segment of one to three dimensions: for the margin
# rate the costs of its lines in one period times .8 to 1.2 (a hundredth more or less at least), for
# the average order what its lines bring times .4 to 2.5 (of dimensions that stay the same within
# orders). The size of a cause is told beside the noise of the rate's parts: squares of order totals
# of the segment in both periods.

library(longladder)
books <- as.integer(Sys.getenv("BOOKS", "120"))
source("bench/demo-books.R")
rates <- list(margin_rate = list(is = "(sum(net) - sum(cost)) / sum(net)", by = dims),
              average_order = list(is = "sum(net) / distinct(order_no)",
                                   by = setdiff(dims, c("item", "family"))))

parts_of <- function(d, name) {
  n <- if (name == "margin_rate") d$net - d$cost else d$net
  w <- if (name == "margin_rate") d$net else 1 / ave(d$net, d$order_no, d$when, FUN = length)
  list(n = n, w = w)
}

# Each line's part of the change of the rate.
brought <- function(d, name) {
  part <- parts_of(d, name)
  side <- function(x, when) sum(x[d$when == when])
  of <- c(then = side(part$w, "then"), now = side(part$w, "now"))
  middle <- (side(part$n, "then") / of[["then"]] + side(part$n, "now") / of[["now"]]) / 2
  ifelse(d$when == "other", 0, (part$n - middle * part$w) / of[pmax(match(d$when, names(of)), 1,
                                                                    na.rm = TRUE)])
}

drilled <- function(made, name) {
  d <- made$d
  book <- ll_book(data.frame(d[dims], order_no = d$order_no, day = d$day, net = round(d$net, 2),
                             cost = round(d$cost, 2)),
                  fields = c(list(order_no = "identifier"), stats::setNames(
                    rep(list("dimension"), length(dims)), dims)),
                  date = "day", order = "order_no", metrics = c(the_rate = rates[[name]]$is))
  x <- ll_drill(book, "the_rate", rates[[name]]$by, when = made$when)
  found <- utils::head(as.data.frame(x), -1)
  found$lines <- lapply(found$condition, function(text) {
    seq_len(nrow(d)) %in% as.data.frame(ll_detail(book, where = text))$line
  })
  found
}

planted <- function(seed, name) {
  set.seed(seed)
  made <- altered_book(sample(quarters, 1), seed %% 2 == 1)
  start <- made$d
  repeat {
    segment <- choose_segment(start, rep(FALSE, nrow(start)))
    if (is.null(segment)) return(NULL)
    if (all(names(segment) %in% rates[[name]]$by)) break
  }
  side <- sample(c("then", "now"), 1)
  m <- inside(start, segment)
  hit <- m & start$when == side
  if (name == "margin_rate") {
    factor <- 1 + sample(c(-1, 1), 1) * exp(stats::runif(1, log(.01), log(.2)))
    made$d$cost[hit] <- start$cost[hit] * factor
  } else {
    factor <- exp(sample(c(-1, 1), 1) * stats::runif(1, log(1.25), log(2.5)))
    made$d$net[hit] <- start$net[hit] * factor
  }
  up <- (factor > 1) == (side == "now")
  if (name == "margin_rate") up <- !up
  was <- brought(start, name)
  is <- brought(made$d, name)
  sign <- ifelse(start$when == "now", 1, -1)
  money <- sum((sign * (is - was))[m])
  noise <- sqrt(sum(tapply(was[m], paste(start$order_no, start$when)[m], sum)^2))
  found <- drilled(made, name)
  both <- start$when != "other"
  hit <- hits(lapply(found$lines, `&`, both), m & both, abs(start$net))
  data.frame(name = name, up = up, conditions = length(segment), over = abs(money) / noise,
             first = isTRUE(hit[1]), among = any(hit), unusual = any(hit & found$chance <= .05),
             other = any(!hit & found$chance <= .05))
}

causeless <- function(seed, name) {
  set.seed(1e5 + seed)
  found <- drilled(altered_book(sample(quarters[-6], 1), TRUE), name)
  data.frame(name = name, chance = min(1, found$chance))
}

both <- function(work) do.call(rbind, lapply(names(rates), function(name) {
  run(function(seed) work(seed, name))
}))
with <- both(planted)
without <- both(causeless)
bands <- list(c(0, 4), c(4, 6), c(6, 9), c(9, Inf))
by_over <- function(what, keep) {
  vapply(bands, function(b) rate(with[[what]][keep & with$over > b[1] & with$over <= b[2]]), "")
}
text <- c("# How often drill finds what moved a rate in the demo", "",
          "Made by bench/power-rate.R, where the books are described. Shares of planted segments (and",
          "their number), by what was planted over the noise of the segment's parts.", "",
          "| | up to 4 | 4 to 6 | 6 to 9 | above 9 |", "|---|---|---|---|---|",
          unlist(lapply(names(rates), function(name) {
            mine <- with$name == name
            said <- sub("_", " ", name)
            c(row(paste0(said, ": named first"), by_over("first", mine)),
              row(paste0(said, ": among those named"), by_over("among", mine)),
              row(paste0(said, ": called unusual, falls"), by_over("unusual", mine & !with$up)),
              row(paste0(said, ": called unusual, rises"), by_over("unusual", mine & with$up)),
              row(paste0(said, ": another called unusual"), by_over("other", mine)))
          })), "",
          "Books without a cause: the stated chance of the most unusual segment was at most", "",
          "| stated | .5 | .25 | .1 | .05 | .025 | .01 |", "|---|---|---|---|---|---|---|",
          vapply(names(rates), function(name) {
            mine <- without$chance[without$name == name]
            row(sprintf("%s (%d)", sub("_", " ", name), length(mine)),
                vapply(c(.5, .25, .1, .05, .025, .01), function(p) {
                  sprintf("%.3f", mean(mine <= p))
                }, ""))
          }, ""))
text <- c(text, "", "![what was stated and what happened](power-rate.png)")
writeLines(text, "bench/power-rate.md")
draw_calibration(split(without$chance, sub("_", " ", without$name)), "bench/power-rate.png")
writeLines(text)
