# The fold against rivals on the same lines, with the coding of names and without. Writes bench/fold.md
# and bench/fold.png (PAGE=name for another page).

source("bench/common.R")
lines <- order_lines()
table <- data.table::as.data.table(lines)
book <- ll_book(lines, metrics = metrics)
source_of <- book$source
day_month <- function() data.table::year(lines$day) * 12L + data.table::month(lines$day)
lines$month <- table$month <- day_month()
north <- internal("condition_of")(book, "region != 'north'", "condition")
grouped <- if (has("collapse")) list(account = collapse::GRP(lines$account, sort = FALSE),
                                     pair = collapse::GRP(lines[c("account", "region")],
                                                          sort = FALSE),
                                     month = collapse::GRP(lines[c("account", "month")],
                                                           sort = FALSE),
                                     region = collapse::GRP(lines$region))
codes <- if (has("collapse")) as.integer(collapse::qF(lines$account, sort = FALSE))
two <- c("net", "cost")
sums <- list(a = part("sum", "net"), b = part("sum", "cost"))
duck <- connect_duckdb()
if (!is.null(duck)) {
  file <- tempfile(fileext = ".csv")
  data.table::fwrite(lines, file)
  invisible(DBI::dbExecute(duck, paste0("CREATE TABLE lines AS SELECT * FROM read_csv('", file,
                                        "')")))
  unlink(file)
  duckdb_version <- sub("^v", "", DBI::dbGetQuery(duck, "SELECT version() AS v")$v)
}
query <- function(...) DBI::dbGetQuery(duck, paste0(...))
code <- function(name) internal("code_column")(lines[[name]])
subjects <- list(
  "sum by a text key" = list(
    ours = function() fold(source_of, "account", sums[1]),
    "ours, coding too" = function() {
      source_of$coded$account <- NULL
      fold(source_of, "account", sums[1])
    },
    data.table = function() table[, .(sum(net)), by = account],
    collapse = function() collapse::fsum(lines$net, collapse::GRP(lines$account, sort = FALSE)),
    "collapse, integer key" = function() collapse::fsum(lines$net,
                                                        collapse::GRP(codes, sort = FALSE)),
    "collapse, grouped before" = function() collapse::fsum(lines$net, grouped$account),
    DuckDB = function() query("SELECT account, SUM(net) FROM lines GROUP BY 1"),
    "base R" = function() rowsum(lines$net, lines$account, reorder = FALSE)),
  "two sums by a text key" = list(
    ours = function() fold(source_of, "account", sums),
    data.table = function() table[, .(sum(net), sum(cost)), by = account],
    collapse = function() collapse::fsum(lines[two], collapse::GRP(lines$account, sort = FALSE)),
    "collapse, grouped before" = function() collapse::fsum(lines[two], grouped$account),
    DuckDB = function() query("SELECT account, SUM(net), SUM(cost) FROM lines GROUP BY 1")),
  "sum by two text keys" = list(
    ours = function() fold(source_of, c("account", "region"), sums[1]),
    "ours, coding too" = function() {
      source_of$coded[c("account", "region")] <- NULL
      fold(source_of, c("account", "region"), sums[1])
    },
    data.table = function() table[, .(sum(net)), by = .(account, region)],
    collapse = function() collapse::fsum(lines$net, collapse::GRP(lines[c("account", "region")],
                                                                  sort = FALSE)),
    "collapse, grouped before" = function() collapse::fsum(lines$net, grouped$pair),
    DuckDB = function() query("SELECT account, region, SUM(net) FROM lines GROUP BY 1, 2")),
  "sum by text key and month" = list(
    ours = function() fold(source_of, list(a = field("account"), m = month_of("day")), sums[1]),
    "ours, coding too" = function() {
      source_of$coded$account <- NULL
      source_of$made <- list()
      fold(source_of, list(a = field("account"), m = month_of("day")), sums[1])
    },
    data.table = function() table[, .(sum(net)), by = .(account,
                                                        month = data.table::year(day) * 12L +
                                                        data.table::month(day))],
    collapse = function() {
      lines$month <- day_month()
      collapse::fsum(lines$net, collapse::GRP(lines[c("account", "month")], sort = FALSE))
    },
    "collapse, grouped before" = function() collapse::fsum(lines$net, grouped$month),
    DuckDB = function() query("SELECT account, date_trunc('month', day), SUM(net) FROM lines GROUP BY 1, 2")),
  "sum by text key, with a condition" = list(
    ours = function() fold(source_of, "account", sums[1], north),
    data.table = function() table[region != "north", .(sum(net)), by = account],
    collapse = function() {
      rows <- which(lines$region != "north")
      collapse::fsum(lines$net[rows], collapse::GRP(lines$account[rows], sort = FALSE))
    },
    DuckDB = function() query("SELECT account, SUM(net) FROM lines WHERE region <> 'north' GROUP BY 1")),
  "distinct orders by region" = list(
    ours = function() fold(source_of, "region", list(a = part("distinct", "order_no"))),
    data.table = function() table[, data.table::uniqueN(order_no), by = region],
    collapse = function() collapse::fndistinct(lines$order_no, collapse::GRP(lines$region)),
    DuckDB = function() query("SELECT region, COUNT(DISTINCT order_no) FROM lines GROUP BY 1")),
  "distinct orders by text key" = list(
    ours = function() fold(source_of, "account", list(a = part("distinct", "order_no"))),
    data.table = function() unique(table, by = c("account", "order_no"))[, .N, by = account],
    collapse = function() collapse::fndistinct(lines$order_no,
                                               collapse::GRP(lines$account, sort = FALSE)),
    DuckDB = function() query("SELECT account, COUNT(DISTINCT order_no) FROM lines GROUP BY 1")),
  "median by text key" = list(
    ours = function() fold(source_of, "account", list(a = part("quantile", "net",
                                                               prob = list(value = .5)))),
    data.table = function() table[, .(median(net)), by = account],
    collapse = function() collapse::fmedian(lines$net, collapse::GRP(lines$account, sort = FALSE)),
    DuckDB = function() query("SELECT account, quantile_cont(net, 0.5) FROM lines GROUP BY 1")),
  "coding a text column*" = list(
    ours = function() code("account"),
    data.table = function() table[, .(sum(net)), by = account],
    collapse = function() collapse::GRP(lines$account, sort = FALSE),
    "collapse, sorted factor" = function() collapse::qF(lines$account, sort = TRUE),
    DuckDB = function() query("SELECT account, SUM(net) FROM lines GROUP BY 1"),
    "base R" = function() match(lines$account, unique(lines$account))),
  "coding a third as many names*" = list(
    ours = function() code("order_no"),
    collapse = function() collapse::GRP(lines$order_no, sort = FALSE),
    "collapse, sorted factor" = function() collapse::qF(lines$order_no, sort = TRUE),
    data.table = function() table[, .N, by = order_no]))
# What takes many seconds at ten million lines is measured at fewer.
if (n_lines > 3e6) {
  subjects <- lapply(subjects, function(s) s[names(s) != "base R"])
  subjects[["distinct orders by text key"]][["data.table"]] <- NULL
  subjects[["coding a third as many names*"]][c("collapse, sorted factor", "data.table")] <- NULL
}
absent <- c(if (!has("collapse")) "collapse", if (is.null(duck)) "DuckDB")
for (who in absent) subjects <- lapply(subjects, function(s) s[!startsWith(names(s), who)])
rows <- measure(subjects)
# Bytes that ours reads and writes for each line, at the least: codes and whole numbers of 4, groups
# and masks of 4 and lines laid out by group, which are written and read again, pointers of 8.
bytes <- list("sum by a text key" = c(8, 0), "two sums by a text key" = c(12, 0),
              "sum by two text keys" = c(16, 4), "sum by text key and month" = c(16, 4),
              "sum by text key, with a condition" = c(16, 4), "distinct orders by region" = c(8, 0),
              "distinct orders by text key" = c(16, 4), "median by text key" = c(16, 4),
              "coding a text column*" = c(8, 4))
speed <- memory_speed()
rows <- do.call(rbind, lapply(split(rows, factor(rows$subject, unique(rows$subject))), function(r) {
  if (!r$subject[1] %in% names(bytes)) return(r)
  least <- sum(n_lines * bytes[[r$subject[1]]] / speed)
  rbind(r, data.frame(subject = r$subject[1], who = "memory alone", seconds = least,
                      ratio = least / r$seconds[1], least = least))
}))
page <- Sys.getenv("PAGE", "fold")
write_page(page, "The fold", paste0(
  count(nrow(lines)), " lines, ", count(length(unique(lines$account))), " accounts, ",
  count(length(unique(lines$order_no))),
  " orders; medians of ", rounds,
  " interleaved rounds. \"Ours\" is asked of an open book, whose names are coded; rivals group ",
  "the raw columns, but where they are said to be grouped before. data.table and DuckDB use both cores. `times ours`: time over ours. ",
  "\"Memory alone\": the bytes that ours reads and writes at the least, over what this machine's memory gave in this run (reading ", round(speed[["read"]] / 1e9, 1), " GB a second, writing ",
  round(speed[["write"]] / 1e9, 1), "). ",
  "* Rivals group by the column; the last has a third as many names as lines."), "",
  table_of(rows), "", sprintf("![fold](%s.png)", page))
draw_rows(page, rows, paste("Folding", count(nrow(lines)), "lines"))
if (!is.null(duck)) DBI::dbDisconnect(duck)
