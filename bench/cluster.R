# A hundred million lines over two shards of ClickHouse, against ten million, what each question takes
# for each million lines, and from that, on paper, what a cluster would take. Writes
# bench/cluster.md.
#
#   sh tools/test-servers.sh Rscript bench/cluster.R [lines]
suppressMessages({
  library(longladder)
  source("tests/testthat/helper-sources.R")
})

most <- as.numeric(c(commandArgs(TRUE), 1e8)[1])
seconds <- function(code) system.time(code)[["elapsed"]]
count <- function(n) format(n, big.mark = ",", scientific = FALSE, trim = TRUE)

# The server makes the lines itself: a third as many orders, a hundredth as many accounts, names as
# text, as order lines have them.
make_lines <- function(n) {
  table <- paste0("lines_", sprintf("%.0f", n))
  own <- paste0(table, "_own")
  hash <- function(of, salt, many) paste0("cityHash64(", of, ", ", salt, ") % ", sprintf("%.0f", many))
  order <- "toUInt32(number / 3)"
  sql <- paste0(
    "SELECT toUInt32(", order, ") AS order_no, toDate('2025-01-01') + ", hash(order, 1, 700),
    " AS order_date, concat('A', toString(", hash(order, 2, n / 100), ")) AS account, ",
    "arrayElement(['Moor', 'Fen', 'Vale', 'Coast', 'Heath', 'Downs'], 1 + ",
    hash(order, 3, 6), ") AS territory, arrayElement(['web', 'field', 'phone', 'fair'], 1 + ",
    hash(order, 4, 4), ") AS channel, concat('I', toString(", hash("number", 5, 5000),
    ")) AS item, ", hash("number", 6, 50000), " / 100 AS net, ", hash("number", 7, 40000),
    " / 100 AS cost FROM ")
  for (shard in 1:2) {
    con <- connect_kind("clickhouse", second = shard == 2)
    DBI::dbExecute(con, paste("DROP TABLE IF EXISTS", own))
    half <- sprintf("%.0f", n / 2)
    from <- paste0("(SELECT number + ", if (shard == 2) half else "0", " AS number FROM numbers(",
                   half, "))")
    DBI::dbExecute(con, paste0("CREATE TABLE ", own,
                               " ENGINE = MergeTree() ORDER BY order_no AS ", sql, from))
    if (shard == 1) {
      DBI::dbExecute(con, paste("DROP TABLE IF EXISTS", table))
      DBI::dbExecute(con, paste0("CREATE TABLE ", table, " AS ", own,
                                 " ENGINE = Distributed(two_shards, default, ", own, ", rand())"))
    }
    DBI::dbDisconnect(con)
  }
  table
}

questions <- list(
  "standings of 6 territories" = function(b) ll_standings(b, "territory", "revenue", when = "2025"),
  "crosstab of 6 by 4" = function(b) ll_crosstab(b, "territory", columns = "channel",
                                                metrics = "revenue", when = "2025"),
  "trend of 12 months" = function(b) ll_trend(b, "revenue", every = "month", when = "2025"),
  "bridge by territory" = function(b) ll_bridge(b, "revenue", "territory", when = "2026-Q1",
                                               against = "2025-Q1"),
  "pareto of items" = function(b) ll_pareto(b, "item", "revenue", when = "2025"),
  "standings of all accounts" = function(b) ll_standings(b, "account", "revenue", when = "2025",
                                                         top = 20),
  "distinct orders by territory" = function(b) ll_standings(b, "territory", "orders",
                                                            when = "2025"))
measured <- lapply(c(most / 10, most), function(n) {
  made <- seconds(table <- make_lines(n))
  con <- connect_kind("clickhouse")
  on.exit(DBI::dbDisconnect(con))
  opening <- seconds(book <- ll_book(
    list(connect = con, table = table), fields = c(order_no = "identifier"), order = "order_no",
    metrics = c(revenue = "sum(net)", orders = "distinct(order_no)")))
  message(count(n), " lines made in ", round(made), " s, opened in ", round(opening, 1), " s")
  took <- vapply(names(questions), function(name) {
    each <- seconds(result <- questions[[name]](book))
    stopifnot(all(ll_proof(result)$holds))
    message(name, ": ", round(each, 2), " s")
    each
  }, 0)
  c(opening = opening, took)
})
few <- measured[[1]]
many <- measured[[2]]
# A fixed part, and one that grows with the lines.
slope <- pmax(many - few, 0) / (most - most / 10) * 1e6
fixed <- pmax(few - slope * most / 1e7, 0)
cores <- parallel::detectCores()
paper <- function(lines, on) fixed + slope * lines / 1e6 * cores / on
shown <- function(x) sprintf("%.2f", x)
table <- data.frame(names(many), shown(few), shown(many), shown(many / few), sprintf("%.3f", slope),
                    sprintf("%.0f", paper(1e11, 320)), sprintf("%.1f", paper(1e11, 3200)))
lines <- c(
  "# Lines on a cluster", "",
  paste0(
    "Two shards of ClickHouse, both on this machine's ", cores, " cores. Seconds of whole calls ",
    "from R: the table, its notes and its proof by a second route; each asked once after opening. ",
    "The server made the lines itself, a third as many orders and a hundredth as many accounts."),
  "",
  paste0("| question | ", count(most / 10), " lines | ", count(most),
         " lines | times | for each million more | *on paper* 100 billion, 10 machines of 32 cores ",
         "| *on paper* 100 billion, 100 machines |"),
  paste0("|", strrep("---|", 7)),
  paste0("| ", do.call(paste, c(unname(table), sep = " | ")), " |"), "",
  paste(
    "On paper: the part of a question that does not grow with the lines, and what each million",
    "lines takes on one core here, on as many cores, all else the same. That leaves out what",
    "merging partial tables takes on the machine that is asked: of few names nothing that shows,",
    "of accounts and distinct orders as much as each shard sends, which does not shrink with more",
    "shards; names are taken not to grow."), "",
  paste0(R.version.string, ", longladder ", format(utils::packageVersion("longladder")), ". ",
         Sys.Date(), "."))
if (most == 1e8) writeLines(lines, "bench/cluster.md") else cat(lines, sep = "\n")
for (n in c(most / 10, most)) for (second in c(FALSE, TRUE)) {
  con <- connect_kind("clickhouse", second)
  DBI::dbExecute(con, paste0("DROP TABLE IF EXISTS lines_", sprintf("%.0f", n), "_own"))
  DBI::dbDisconnect(con)
}
