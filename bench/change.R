# Times drill and bridge as multiples of one plain fold of a sum by one key on the same open book.
# Writes bench/change.md.
#
#   Rscript bench/change.R              two million lines
#   LINES=1e7 Rscript bench/change.R    ten million

source("bench/common.R")
n <- n_lines
set.seed(1)
accounts <- 20000
items <- 2000
code <- function(x, name) paste0(name, formatC(x, width = 6, flag = "0", format = "d"))
of_account <- data.frame(territory = sample(12, accounts, TRUE), type = sample(6, accounts, TRUE),
                         band = sample(4, accounts, TRUE))
of_account$rep <- of_account$territory * 10 + sample(8, accounts, TRUE)
of_item <- sample(20, items, TRUE)
orders <- n %/% 5
o <- data.frame(account = sample(accounts, orders, TRUE, rlnorm(accounts)),
                day = as.Date("2024-01-01") + sort(sample(730, orders, TRUE)),
                channel = sample(3, orders, TRUE))
at <- sort(sample(orders, n, TRUE))
item <- sample(items, n, TRUE, rlnorm(items))
lines <- data.frame(
  order_no = code(at, "N"), day = o$day[at], account = code(o$account[at], "A"),
  item = code(item, "I"), channel = letters[o$channel[at]],
  territory = code(of_account$territory[o$account[at]], "T"),
  type = code(of_account$type[o$account[at]], "K"),
  band = code(of_account$band[o$account[at]], "B"),
  rep = code(of_account$rep[o$account[at]], "R"), family = code(of_item[item], "F"),
  net = round(rlnorm(n, 4, 1), 2))
now <- lines$day >= as.Date("2025-01-01")
open_book <- function(lines) {
  ll_book(lines, fields = c(order_no = "identifier", account = "dimension", item = "dimension"),
          metrics = c(revenue = "sum(net)"), order = "order_no", date = "day")
}
quiet <- open_book(lines)
# Two causes of opposite sign: a pair of names loses half, another gains as much again.
down <- now & lines$territory == "T000003" & lines$type == "K000004"
lines$net[down] <- round(lines$net[down] / 2, 2)
up <- now & lines$family == "F000002" & lines$channel == "b"
lines$net[up] <- round(lines$net[up] * 2, 2)
moved <- open_book(lines)
rm(lines, o, at, item, now, up, down)
sum_of_net <- list(a = part("sum", "net"))
dims <- c("account", "item", "channel", "territory", "type", "band", "rep", "family")
# Lines laid out by the question before are let go of, or not.
drill <- function(book, anew = TRUE) {
  if (anew) book$source$laid <- NULL
  ll_drill(book, "revenue", dims, when = "2025", against = "2024")
}
subjects <- list(
  "plain fold by territory" = function() fold(quiet$source, "territory", sum_of_net),
  "plain fold by account" = function() fold(quiet$source, "account", sum_of_net),
  "bridge by territory" = function() ll_bridge(quiet, "revenue", "territory", when = "2025",
                                               against = "2024"),
  "bridge by account" = function() ll_bridge(quiet, "revenue", "account", when = "2025",
                                             against = "2024"),
  "drill, nothing to find" = function() drill(quiet),
  "drill, nothing to find, again" = function() drill(quiet, anew = FALSE),
  "drill, two causes" = function() drill(moved),
  "drill, two causes, again" = function() drill(moved, anew = FALSE))
found <- function(subject) ll_finding(subjects[[subject]]())
rows <- measure(lapply(subjects, function(f) list(ours = f)), times = min(rounds, 3))
write_page("change", "Why it changed", paste0(
  count(n), " lines, 20,000 accounts, 2,000 items, 8 dimensions, both periods whole; medians of ",
  min(rounds, 3),
  " interleaved rounds after a first one, whole calls ",
  "with table, notes and proof. Again: with other questions of the same lines before."), "", table_of_folds(rows, "plain folds by territory"), "",
  paste("Found with two causes:", found("drill, two causes")), "",
           paste("Found with none:", found("drill, nothing to find")), "", "![change](change.png)")
draw_rows("change", rows, paste("Why revenue changed, in", count(n), "lines"))
