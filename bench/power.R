# How often drill finds a planted cause first, by its size over the noise, and how often it names a
# cause where there is none. Writes bench/power.md.
#
#   Rscript bench/power.R            120 books of each kind
#   BOOKS=40 Rscript bench/power.R   fewer
#
# A book: 600 accounts (their sizes lognormal) fix territory, type, band and rep; 140 items fix family;
# the channel of an order depends on the type. Poisson orders of 1 + Poisson(1.5) lines, lognormal
# amounts of orders and lines, a common season, a growth of .85 to 1.25 split between prices and
# counts, 1,000 to 40,000 lines a period. In "steady" books nothing else moves; in "drifting" ones
# every account and item also drifts from period to period (accounts with a deviation of .10 to .40).
# A cause: a segment of one, two or three conditions gains or loses 3 to 20 % of the total; in every
# second book another segment does the opposite.

library(longladder)
books <- as.integer(Sys.getenv("BOOKS", "120"))
dims <- c("territory", "type", "channel", "family", "item", "rep", "account", "band")
noises <- list(steady = list(c(.6, 0, 0, 0), c(.9, 0, 0, 0), c(1.2, 0, 0, 0)),
               drifting = list(c(.9, .1, .05, 0), c(.9, .25, .12, .005), c(1.2, .4, .25, .02)))
shares <- function(n, s) { w <- exp(rnorm(n, 0, s)); w / sum(w) }

simulate <- function(lines, noise) {
  a <- data.frame(territory = sample(6, 600, TRUE, shares(6, .4)),
                  type = sample(5, 600, TRUE, shares(5, .5)), w = exp(rnorm(600, 0, 1.1)))
  a$band <- as.integer(cut(rank(a$w) / 600, c(0, .4, .7, .9, 1)))
  home <- c(1:6, sample(6, 16, TRUE))
  a$rep <- vapply(a$territory, function(t) { k <- which(home == t); k[sample.int(length(k), 1)] },
                  0L)
  item <- data.frame(family = c(1:9, sample(9, 131, TRUE, shares(9, .5))),
                     w = exp(rnorm(140, 0, .9)), price = exp(rnorm(140, 0, .7)))
  channel <- t(vapply(1:5, function(i) shares(3, .7), numeric(3)))
  growth <- runif(1, .85, 1.25); in_price <- runif(1)
  drift <- lapply(c(territory = 6, family = 9, channel = 3), function(n) exp(rnorm(n, 0, noise[4])))
  season <- 1 + .5 * sin(2 * pi * (1:52) / 52 + runif(1, 0, 6))
  period <- function(now) {
    week <- season * exp(rnorm(52, 0, .1))
    rate <- a$w / sum(a$w) * lines / 2.5 * (if (now) growth^(1 - in_price) else 1) *
      exp(rnorm(600, -noise[2]^2 / 2, noise[2])) * mean(week) / mean(season)
    account <- rep(1:600, rpois(600, rate))
    n <- 1 + rpois(length(account), 1.5)
    order <- rep(seq_along(account), n)
    of <- account[order]
    u <- runif(length(account)); ch <- 1L + (u > channel[a$type[account], 1]) +
      (u > rowSums(channel[a$type[account], 1:2, drop = FALSE]))
    what <- sample(140, length(of), TRUE, item$w * exp(rnorm(140, 0, noise[3])))
    amount <- item$price[what] * exp(rnorm(length(account), 0, .4))[order] *
      exp(rnorm(length(of), 0, noise[1])) * (if (now) growth^in_price else 1) * a$w[of]^.3
    d <- data.frame(order = order + now * 1e6, now = now, account = of, item = what,
                    channel = ch[order], territory = a$territory[of], type = a$type[of],
                    band = a$band[of], rep = a$rep[of], family = item$family[what],
                    net = 20 * amount)
    if (now) d$net <- d$net * drift$territory[d$territory] * drift$family[d$family] *
      drift$channel[d$channel]
    d
  }
  rbind(period(FALSE), period(TRUE))
}
inside <- function(d, segment) Reduce(`&`, Map(function(v, k) d[[v]] == k, names(segment), segment))
fits <- function(v) !all(c("item", "family") %in% v) && !("account" %in% v &&
                                                          any(c("territory", "type", "rep",
                                                                "band") %in% v)) &&
                                                                  !all(c("rep", "territory") %in% v)
choose <- function(d, k, effect, sign, avoid) {
  total <- sum(d$net[!d$now])
  for (try in 1:2000) {
    v <- sample(dims, k)
    if (!fits(v)) next
    segment <- as.list(d[sample(nrow(d), 1), v, drop = FALSE])
    m <- inside(d, segment)
    share <- sum(d$net[m & !d$now]) / total
    if (any(m & avoid) || share > .5 || (sign < 0 && share < effect / .95) ||
        (sign > 0 && (share < effect / 6 || sum(m) < 10))) next
    return(segment)
  }
}
plant <- function(d, segment, effect, sign) {
  total <- sum(d$net[!d$now]); m <- which(inside(d, segment) & d$now)
  if (sign < 0) {
    p <- m[sample.int(length(m))]
    return(d[-p[cumsum(d$net[p]) <= min(.97, effect * total / sum(d$net[m])) * sum(d$net[m])], ])
  }
  from <- which(inside(d, segment)); n <- max(1, round(effect * total / mean(d$net[from])))
  more <- d[from[sample.int(length(from), n, TRUE)], ]
  more$order <- 2e6 + seq_len(n); more$now <- TRUE
  more$net <- more$net * exp(rnorm(n, 0, .3)); more$net <- more$net * effect * total / sum(more$net)
  rbind(d, more)
}
over_noise <- function(d, segment, effect, noise) {
  total <- sum(d$net[!d$now]); growth <- sum(d$net[d$now]) / total
  m <- inside(d, segment); u <- d$net[m] * ifelse(d$now[m], 1, growth)
  v <- sum(rowsum(u, d$order[m])^2) + 2 * noise[2]^2 * sum((rowsum(u, d$account[m]) / 2)^2)
  if (any(c("item", "family") %in% names(segment))) v <- v + 2 * noise[3]^2 *
    sum((rowsum(u, d$item[m]) / 2)^2)
  effect * total * growth / sqrt(v)
}
drill <- function(d) {
  lines <- data.frame(lapply(d[dims], as.character), order = as.character(d$order),
                      day = as.Date(ifelse(d$now, "2025-06-01", "2024-06-01")),
                      net = round(d$net, 2))
  book <- ll_book(lines, fields = c(list(order = "identifier"),
                                    stats::setNames(rep(list("dimension"), 8), dims)), date = "day",
                  order = "order", metrics = c(revenue = "sum(net)"))
  list(book = book, result = ll_drill(book, "revenue", dims, when = "2025", against = "2024"))
}
overlap <- function(d, found, segment) {
  m <- inside(d, segment); d$net[is.na(d$net)] <- 0
  sum(d$net[found & m]) / sum(d$net[found | m])
}
one_book <- function(seed, kind, null) {
  set.seed(seed)
  noise <- noises[[kind]][[sample(3, 1)]]
  d <- simulate(round(exp(runif(1, log(1000), log(40000)))), noise)
  causes <- list(); snr <- NA; effect <- exp(runif(1, log(.03), log(.2)))
  if (!null) {
    sign <- sample(c(-1, 1), 1)
    causes[[1]] <- choose(d, seed %% 3 + 1, effect, sign, FALSE)
    if (!length(causes)) return(NULL)
    if (seed %% 2) {
      causes[[2]] <- choose(d, sample(3, 1), effect, -sign, inside(d, causes[[1]]))
      if (length(causes) < 2) return(NULL)
    }
    snr <- min(vapply(causes, function(s) over_noise(d, s, effect, noise), 0))
    for (i in seq_along(causes)) d <- plant(d, causes[[i]], effect, if (i == 1) sign else -sign)
  }
  made <- drill(d)
  found <- utils::head(as.data.frame(made$result), -1)
  hits <- vapply(found$condition, function(text) {
    lines <- as.data.frame(ll_detail(made$book, where = text))
    named <- seq_len(nrow(d)) %in% lines$line
    any(vapply(causes, overlap, 0, d = d, found = named) > .8)
  }, NA)
  unusual <- found$chance <= .05
  data.frame(kind, null, snr, named = sum(unusual), first = isTRUE(unname(hits[1])),
             wrong = any(unusual & !hits), all = sum(hits), causes = length(causes))
}
jobs <- expand.grid(seed = seq_len(books), kind = names(noises), null = c(FALSE, TRUE),
                    stringsAsFactors = FALSE)
run <- function(i) one_book(jobs$seed[i] + 1e5 * jobs$null[i] + 1e4 * (jobs$kind[i] == "drifting"),
                            jobs$kind[i], jobs$null[i])
out <- do.call(rbind, parallel::mclapply(seq_len(nrow(jobs)), run, mc.cores = 2,
                                         mc.preschedule = FALSE))
rate <- function(x) if (length(x)) sprintf("%.2f (%d)", mean(x), length(x)) else "-"
bands <- list("below 4" = c(0, 4), "4 to 6" = c(4, 6), "6 to 8" = c(6, 8), "8 to 12" = c(8, 12),
              "12 to 20" = c(12, 20), "20 up" = c(20, Inf))
rows <- c(lapply(bands, function(b) function(x) rate(x$first[!x$null & x$snr >= b[1] &
                                                             x$snr < b[2]])),
          list("all planted books" = function(x) rate(x$first[!x$null]),
               "... another segment called unusual" = function(x) rate(x$wrong[!x$null]),
               "all causes, of those planted" = function(x) sprintf("%.2f",
                                                                    sum(x$all) / sum(x$causes)),
               "books without a cause in which one is called unusual" =
                 function(x) rate(x$named[x$null] > 0)))
text <- c("# How often drill finds the cause", "",
          "Share of simulated books (and their number) in which the segment named first is the planted one, that is shares more than 80 % of its money, by the planted money over the",
          "standard deviation of its segment without it (of the lesser, where two opposite ones are planted). How the books are made stands in bench/power.R. Settings are the defaults; unusual is a chance of at most .05.", "",
          "| planted money over noise | steady | drifting |", "|---|---|---|",
          sprintf("| %s | %s | %s |", names(rows), vapply(rows,
                                                          function(f) f(out[out$kind == "steady",
                                                                            ]), ""), vapply(rows,
                                                                                            function(f) f(out[out$kind == "drifting", ]), "")))
writeLines(text, "bench/power.md")
writeLines(text)
