# A guard, not a race: small benchmarks against one rival in the same run, held against the ratios
# kept in bench/guard.csv (the least of several runs on a busy machine). Fails only where ours has
# fallen by more than half.
#
#   make guard                           check
#   UPDATE=1 Rscript bench/guard.R       keep this run's ratios

Sys.setenv(LINES = Sys.getenv("LINES", "1500000"), ROUNDS = Sys.getenv("ROUNDS", "7"))
source("bench/common.R")
lines <- order_lines()
table <- data.table::as.data.table(lines)
book <- ll_book(lines, metrics = metrics)
north <- internal("condition_of")(book, "region != 'north'", "condition")
one <- list(a = part("sum", "net"))
value <- lines$net
subjects <- list(
  "sum by a text key" = list(ours = function() fold(book$source, "account", one),
                             rival = function() table[, .(sum(net)), by = account]),
  "sum by two text keys" = list(ours = function() fold(book$source, c("account", "region"), one),
                                rival = function() table[, .(sum(net)), by = .(account, region)]),
  "sum with a condition" = list(
    ours = function() {
      book$source$masks <- NULL
      fold(book$source, "account", one, north)
    }, rival = function() table[region != "north", .(sum(net)), by = account]),
  "distinct by a text key" = list(ours = function() fold(book$source, "account",
                                                         list(a = part("distinct", "order_no"))),
                                  rival = function() unique(table,
                                                            by = c("account",
                                                                   "order_no"))[, .N,
                                                                                by = account]),
  "median by a text key" = list(ours = function() fold(book$source, "account",
                                                       list(a = part("quantile", "net",
                                                                     prob = list(value = .5)))),
                                rival = function() table[, .(median(net)), by = account]),
  "coding a text column" = list(ours = function() internal("code_column")(lines$account),
                                rival = function() table[, .(sum(net)), by = account]),
  "opening a book" = list(ours = function() ll_book(lines, metrics = metrics),
                          rival = function() table[, .N, by = order_no]),
  "ranking values" = list(ours = function() internal("ranks")(value),
                          rival = function() order(value, method = "radix")),
  "standings, whole call" = list(ours = function() ll_standings(book, "account", "revenue",
                                                                top = 10), rival = function() table[, .(sum(net)), by = account]),
  "bridge, whole call" = list(ours = function() ll_bridge(book, "revenue", "region", when = "2025",
                                                          against = "2024"),
                              rival = function() table[, .(sum(net)),
                                                       by = .(region, data.table::year(day))]))
now <- function(subjects) {
  rows <- measure(subjects)
  # The least time of each is what a busy machine spoils least.
  stats::setNames(rows$least[rows$who == "rival"] / rows$least[rows$who == "ours"], names(subjects))
}
kept <- "bench/guard.csv"
ratio <- now(subjects)
if (nzchar(Sys.getenv("UPDATE"))) {
  write.csv(data.frame(subject = names(ratio), ratio = round(ratio, 3)), kept, row.names = FALSE)
  quit()
}
before <- read.csv(kept)
want <- before$ratio[match(names(ratio), before$subject)]
# A noisy neighbour may spoil a run: what has fallen is timed once more.
low <- names(ratio)[ratio < want / 2]
if (length(low)) ratio[low] <- pmax(ratio[low], now(subjects[low]))
fell <- ratio < want / 2
cat(sprintf("%-26s %6.2f times the rival (kept: %.2f)%s", names(ratio), ratio, want,
            ifelse(fell, "  FELL BY MORE THAN HALF", "")), sep = "\n")
cat("guard:", sum(!fell), "held,", sum(fell), "fell\n")
quit(status = any(fell))
