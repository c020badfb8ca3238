# Standings, bridge and drill on the same lines in every source at hand, each against hand-written SQL
# that reads as much. Servers are those that tools/test-servers.sh starts; without them the frame,
# SQLite and, where its package is, DuckDB.
#
#   sh tools/test-servers.sh Rscript bench/sources.R [lines]
#
# Writes bench/sources.md: seconds (means of two interleaved repeats at 10 million lines) and ratios to the SQL of the same
# engine.
suppressMessages({
  library(longladder)
  source("tests/testthat/helper-sources.R")
})

n <- as.numeric(c(commandArgs(TRUE), 1e7)[1])
repeats <- if (n > 1e6) 2 else 3

set.seed(1)
accounts <- sprintf("A%06d", seq_len(1e5))
order <- sort(sample(n / 3, n, TRUE))
of <- function(x) x[order]
owner <- sample(1e5, max(order), TRUE)
lines <- data.frame(
  order_no = sprintf("N%08d", order),
  order_date = as.Date("2025-01-01") + of(sample(0:699, max(order), TRUE)),
  account = accounts[of(owner)],
  territory = c("Moor", "Fen", "Vale", "Coast", "Heath", "Downs")[of(owner) %% 6 + 1],
  channel = c("web", "field", "phone", "fair")[of(sample(4, max(order), TRUE))],
  rep = paste("Rep", of(owner) %% 40), item = sprintf("I%03d", sample(140, n, TRUE)),
  quantity = sample(1:20, n, TRUE), net = round(rgamma(n, 2, .02), 2),
  cost = round(rgamma(n, 2, .04), 2))
metrics <- c(revenue = "sum(net)", margin_rate = "(sum(net) - sum(cost)) / sum(net)",
             orders = "distinct(order_no)", largest = "max(net)")

questions <- list(
  standings = function(b) ll_standings(b, "account", names(metrics), when = "2026",
                                       against = "2025-01-01/2025-12-01", top = 20),
  bridge = function(b) ll_bridge(b, "revenue", by = "territory", when = "2026-Q3",
                                 against = "2025-Q3"),
  drill = function(b) ll_drill(b, "revenue", when = "2026-Q3", against = "2025-Q3"))

# What an analyst would write by hand for the figures of the table; drill has no SQL of its own, so
# one GROUP BY of both periods for each of its dimensions is taken.
day <- function(kind, d) {
  switch(kind, sqlite = as.character(as.integer(as.Date(d))),
         clickhouse = paste0("toDate('", d, "')"), paste0("DATE '", d, "'"))
}
by_hand <- function(kind, table) {
  between <- function(from, to) paste("order_date BETWEEN", day(kind, from), "AND", day(kind, to))
  sums <- function(field) paste0(
    "SELECT ", field, ", SUM(CASE WHEN ", between("2026-07-01", "2026-09-30"),
    " THEN net ELSE 0 END) AS a, SUM(CASE WHEN ",
    between("2025-07-01", "2025-09-30"), " THEN net ELSE 0 END) AS b FROM ", table, " GROUP BY ",
    field)
  ranked <- function(from, to) paste0(
    "SELECT account, SUM(net) AS a, SUM(cost) AS b, COUNT(DISTINCT order_no) AS c, MAX(net) AS d FROM ", table, " WHERE ",
    between(from, to), " GROUP BY account")
  list(standings = c(ranked("2026-01-01", "2026-12-31"), ranked("2025-01-01", "2025-12-01")),
       bridge = sums("territory"), drill = vapply(c("account", "territory", "channel", "rep",
                                                    "item"), sums, ""))
}

kinds <- database_kinds()
sources <- list(frame = list(lines = lines))
for (kind in kinds) {
  message("loading ", kind)
  sources[[kind]] <- c(list(kind = kind), lines_in(kind, lines, globalenv()))
}
if ("clickhouse" %in% kinds) {
  con <- connect_kind("clickhouse")
  DBI::dbExecute(con, "DROP TABLE IF EXISTS one_own")
  DBI::dbExecute(con,
                 "CREATE TABLE one_own AS order_lines_own ENGINE = MergeTree() ORDER BY tuple()")
  DBI::dbExecute(con, "INSERT INTO one_own SELECT * FROM order_lines")
  DBI::dbExecute(con, "DROP TABLE IF EXISTS one_shard_lines")
  DBI::dbExecute(con,
                 "CREATE TABLE one_shard_lines AS one_own ENGINE = Distributed(one_shard, default, one_own, rand())")
  sources$clickhouse_1 <- list(kind = "clickhouse", connect = con, table = "one_shard_lines")
}

seconds <- function(code) system.time(code)[["elapsed"]]
rows <- list()
for (name in names(sources)) {
  s <- sources[[name]]
  message("opening ", name)
  opening <- seconds(book <- ll_book(if (name == "frame") s$lines else s[c("connect", "table")],
                                     metrics = metrics, order = "order_no"))
  rows[[length(rows) + 1]] <- data.frame(source = name, what = "opening", ours = opening, sql = NA)
  hand <- if (name != "frame") by_hand(s$kind, s$table)
  for (what in names(questions)) {
    message(name, ": ", what)
    result <- NULL
    times <- vapply(seq_len(if (what == "drill") 1 else repeats), function(i) {
      c(seconds(result <<- questions[[what]](book)),
        if (is.null(hand)) NA else
        seconds(for (sql in hand[[what]]) DBI::dbGetQuery(s$connect, sql)))
    }, c(0, 0))
    stopifnot(all(ll_proof(result)$holds))
    rows[[length(rows) + 1]] <- data.frame(source = name, what = what, ours = mean(times[1, ]),
                                           sql = mean(times[2, ]))
  }
}
table <- do.call(rbind, rows)
table$ratio <- round(table$ours / table$sql, 1)
shown <- function(x) ifelse(is.na(x), "", format(round(x, 2), nsmall = 2, trim = TRUE))
text <- c(
  "# Lines in databases", "",
  paste0(format(n, big.mark = ",", scientific = FALSE),
         " lines, 100,000 accounts; seconds, means of ", repeats,
         " (drill once), and the ratio to hand-written SQL on the same engine. `clickhouse` is a table over two shards, ", "`clickhouse_1` over one; both servers share this machine's ", parallel::detectCores(), " cores. Whole calls: ",
         "the table, its notes and its proof by a second route. ", R.version.string,
         ", longladder ", format(utils::packageVersion("longladder")), "."), "",
  "| source | question | ours | SQL by hand | ratio |", "|---|---|---|---|---|",
  paste0("| ", table$source, " | ", table$what, " | ", shown(table$ours), " | ", shown(table$sql),
         " | ", ifelse(is.na(table$ratio), "", table$ratio), " |"))
writeLines(text, if (n == 1e7) "bench/sources.md" else stdout())
