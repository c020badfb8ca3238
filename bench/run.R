# Times the fold and standings against rivals on the same lines in one run: medians of interleaved
# repeats, as ratios to ours. Writes bench/results.md.
#
#   make bench              two million lines
#   LINES=1e7 make bench    as many as you like

library(longladder)
n <- as.integer(as.numeric(Sys.getenv("LINES", "2e6")))
repeats <- 5
set.seed(1)
lines <- data.frame(
  order_no = sprintf("N%07d", sample(max(n %/% 3, 1), n, TRUE)),
  day = as.Date("2024-01-01") + sample(900, n, TRUE),
  account = sprintf("A%06d", sample(max(n %/% 100, 1), n, TRUE)),
  region = sample(c("north", "south", "east", "west"), n, TRUE),
  net = round(runif(n, 1, 500), 2), cost = round(runif(n, 1, 400), 2))
table <- data.table::as.data.table(lines)
has_collapse <- requireNamespace("collapse", quietly = TRUE)

seconds <- function(expression) system.time(expression)[["elapsed"]]
book <- NULL
opening <- seconds(book <- ll_book(lines, metrics = c(revenue = "sum(net)", cost_total = "sum(cost)",
                                                      orders = "distinct(order_no)")))
fold <- getFromNamespace("source_fold", "longladder")
part <- function(fn, field) {
  list(kind = "aggregate", fn = fn, arg = list(kind = "name", name = field), where = NULL)
}
sums <- list(a = part("sum", "net"), b = part("sum", "cost"))
subjects <- list(
  "two sums by a text key" = list(
    ours = function() fold(book$source, "account", sums),
    data.table = function() table[, .(sum(net), sum(cost)), by = account],
    collapse = function() collapse::fsum(lines[c("net", "cost")], collapse::GRP(lines$account)),
    "base R" = function() rowsum(lines[c("net", "cost")], lines$account)),
  "two sums by two keys" = list(
    ours = function() fold(book$source, c("account", "region"), sums),
    data.table = function() table[, .(sum(net), sum(cost)), by = .(account, region)],
    collapse = function() collapse::fsum(lines[c("net", "cost")],
                                         collapse::GRP(lines[c("account", "region")]))),
  "distinct orders by region" = list(
    ours = function() fold(book$source, "region", list(a = part("distinct", "order_no"))),
    data.table = function() table[, data.table::uniqueN(order_no), by = region],
    collapse = function() collapse::fndistinct(lines$order_no, collapse::GRP(lines$region))),
  "standings of accounts, top 10, with proof" = list(
    ours = function() ll_standings(book, "account", "revenue", top = 10),
    data.table = function() {
      sums <- table[, .(revenue = sum(net)), by = account]
      sums[, place := data.table::frank(-revenue, ties.method = "min")][place <= 10]
    }))

rows <- list()
for (subject in names(subjects)) {
  rivals <- subjects[[subject]]
  if (!has_collapse) rivals$collapse <- NULL
  taken <- lapply(rivals, function(f) numeric(repeats))
  for (i in seq_len(repeats)) for (rival in names(rivals)) taken[[rival]][i] <- seconds(rivals[[rival]]())
  middle <- vapply(taken, median, 0)
  rows[[subject]] <- data.frame(subject = subject, who = names(middle), median = middle,
                                ratio = middle / middle[["ours"]], row.names = NULL)
}
out <- do.call(rbind, rows)
text <- c(
  "# Measured", "",
  sprintf("%s lines, %s accounts; medians of %d interleaved repeats; ratio: time of the rival over ours.",
          format(n, big.mark = ","), format(length(unique(lines$account)), big.mark = ","), repeats),
  sprintf("%s, %d cores; data.table %s%s.", R.version.string, parallel::detectCores(),
          packageVersion("data.table"),
          if (has_collapse) paste(", collapse", packageVersion("collapse")) else ""),
  sprintf("Opening the book (types, roles, coding of text, scales) took %.2f s once; \"ours\" is asked of an open book.",
          opening), "",
  "| subject | who | median s | ratio |", "|---|---|---|---|",
  sprintf("| %s | %s | %.3f | %.1f |", out$subject, out$who, out$median, out$ratio))
writeLines(text, "bench/results.md")
writeLines(text)
