# The same lines in every kind of source that is at hand: SQLite always, servers where
# `make test-servers` started them and says so in the environment.

server_port <- function(name) as.integer(Sys.getenv(paste0("LONGLADDER_TEST_", name), NA))

server_kinds <- function() {
  c(if (!is.na(server_port("POSTGRES_PORT"))) "postgres",
    if (nzchar(Sys.getenv("LONGLADDER_TEST_DUCKDB")) ||
        requireNamespace("duckdb", quietly = TRUE)) "duckdb",
    if (!is.na(server_port("CLICKHOUSE_PORT"))) "clickhouse")
}

database_kinds <- function() c("sqlite", server_kinds())

# Files are read into memory as frames are; databases answer for themselves.
source_kinds <- function() c("csv", "kept",
                             if (requireNamespace("nanoparquet", quietly = TRUE)) "parquet",
                             database_kinds())

connect_kind <- function(kind, second = FALSE) {
  switch(kind,
         sqlite = DBI::dbConnect(RSQLite::SQLite(), ":memory:", extended_types = TRUE),
         postgres = DBI::dbConnect(
           RPostgres::Postgres(), host = "127.0.0.1", port = server_port("POSTGRES_PORT"),
           user = "ladder",
           dbname = "postgres", password = Sys.getenv("LONGLADDER_TEST_SECRET"),
           bigint = "numeric"),
         duckdb = connect_duckdb(),
         clickhouse = DBI::dbConnect(
           RClickhouse::clickhouse(), host = "127.0.0.1",
           port = server_port(if (second) "CLICKHOUSE_SECOND" else "CLICKHOUSE_PORT"),
           user = "ladder",
           password = Sys.getenv("LONGLADDER_TEST_SECRET")))
}

# The duckdb package, or the library alone through its own driver interface.
connect_duckdb <- function() {
  library <- Sys.getenv("LONGLADDER_TEST_DUCKDB")
  if (!nzchar(library)) return(DBI::dbConnect(duckdb::duckdb()))
  DBI::dbConnect(adbi::adbi(adbcdrivermanager::adbc_driver(library, "duckdb_adbc_init")),
                 path = ":memory:")
}

# Lines as a table of a database of that kind: what ll_book() takes as lines.
lines_in <- function(kind, data, env = parent.frame(), table = "order_lines") {
  if (kind %in% c("csv", "parquet")) return(lines_in_file(kind, data, env))
  if (kind == "kept") {
    local_cache(env, longladder.cache = TRUE)
    return(lines_in_file("csv", data, env))
  }
  con <- connect_kind(kind)
  if (kind == "clickhouse") write_shards(con, data, table) else {
    if (kind == "postgres") for (sql in c("SET client_min_messages = error",
                                          paste("DROP TABLE IF EXISTS", table)))
      DBI::dbExecute(con, sql)
    DBI::dbWriteTable(con, table, data)
  }
  withr::defer(DBI::dbDisconnect(con), env)
  list(connect = con, table = table)
}

# A folder of kept books of the test's own.
local_cache <- function(env = parent.frame(), ...) {
  folder <- withr::local_tempdir(.local_envir = env)
  withr::local_envvar(LONGLADDER_CACHE = folder, .local_envir = env)
  withr::local_options(..., .local_envir = env)
  folder
}

lines_in_file <- function(kind, data, env) {
  file <- withr::local_tempfile(fileext = paste0(".", kind), .local_envir = env)
  if (kind == "parquet") {
    nanoparquet::write_parquet(data, file)
  } else {
    # Every digit that a double holds.
    number <- vapply(data, is.double, NA) & !vapply(data, inherits, NA, c("Date", "POSIXct"))
    data[number] <- lapply(data[number], function(x) ifelse(is.na(x), NA, sprintf("%.17g", x)))
    time <- vapply(data, inherits, NA, "POSIXct")
    data[time] <- lapply(data[time], format, "%Y-%m-%d %H:%M:%S")
    data.table::fwrite(data, file, na = "")
  }
  file
}

# Half of the lines on each of two servers, and a table over both.
write_shards <- function(con, data, table) {
  type <- function(x) {
    if (inherits(x, "Date")) "Nullable(Date)" else
      if (inherits(x, "POSIXct")) "Nullable(DateTime)" else
        if (is.integer(x)) "Nullable(Int32)" else
          if (is.numeric(x)) "Nullable(Float64)" else "Nullable(String)"
  }
  own <- paste0(table, "_own")
  second <- connect_kind("clickhouse", second = TRUE)
  on.exit(DBI::dbDisconnect(second))
  of <- rep_len(1:2, nrow(data))
  for (i in 1:2) {
    server <- list(con, second)[[i]]
    DBI::dbExecute(server, paste("DROP TABLE IF EXISTS", own))
    DBI::dbExecute(server, paste0("CREATE TABLE ", own, " (",
                                  paste0("`", names(data), "` ", vapply(data, type, ""),
                                         collapse = ", "),
                                  ") ENGINE = MergeTree() ORDER BY tuple()"))
    DBI::dbWriteTable(server, own, data[of == i, , drop = FALSE], append = TRUE, row.names = FALSE)
  }
  DBI::dbExecute(con, paste("DROP TABLE IF EXISTS", table))
  DBI::dbExecute(con, paste0("CREATE TABLE ", table, " AS ", own,
                             " ENGINE = Distributed(two_shards, default, ", own, ", rand())"))
}

# The demo's lines as a plain data frame.
demo_frame <- function() {
  lines <- demo_lines()
  for (name in c("order_date", "ship_date")) lines[[name]] <- as.Date(lines[[name]])
  lines$order_no <- as.character(lines$order_no)
  lines
}

# Two results of the same question: names and places exactly, figures within a relative 1e-9, and
# every proof holds. Lines have no numbers in a database, so those are left out.
# The reading without the word on the kept book that it is of.
bare_reading <- function(x) sub(" From the book kept on .*$", "", ll_reading(x))

expect_same_result <- function(got, want, info) {
  table <- function(x) {
    x <- as.data.frame(x)
    x[setdiff(names(x), "line")]
  }
  expect_equal(table(got), table(want), tolerance = 1e-9, ignore_attr = TRUE, info = info)
  expect_identical(ll_finding(got), ll_finding(want), info = info)
  expect_identical(bare_reading(got), bare_reading(want), info = info)
  expect_identical(ll_notes(got)$text, ll_notes(want)$text, info = info)
  proof <- ll_proof(got)
  expect_true(all(proof$holds), info = paste(info, paste(proof$check[!proof$holds],
                                                         collapse = "; ")))
  # A file is also held against its own count of lines.
  proof <- proof[!grepl("^lines in the file|^cells of .* dates read$", proof$check), ]
  expect_equal(proof$expected, ll_proof(want)$expected, tolerance = 1e-9, info = info)
}

# Two results of the same question to the last bit.
expect_identical_result <- function(got, want, info) {
  for (of in list(as.data.frame, ll_finding, bare_reading, ll_notes, ll_proof))
    expect_identical(of(got), of(want), info = info)
}

# The same lines in whatever order.
expect_same_lines <- function(got, want, info) {
  sorted <- function(x) {
    x <- as.data.frame(x)
    x <- x[setdiff(names(x), "line")]
    unname(as.list(x[do.call(order, c(unname(as.list(x)), list(method = "radix"))), ]))
  }
  expect_equal(sorted(got), sorted(want), info = info)
  expect_true(all(ll_proof(got)$holds), info = info)
}

odd_names <- c("O'Brien \"Ltd\"", "back\\slash", "semi;colon -- x", "new\nline", "tab\tx",
               "caf\u00e9", "\U0001F600 bees", "\u05e9\u05dc\u05d5\u05dd", "50%_x", "$1 {x}",
               "  lead", "lead", "LEAD", "A", "a", "NULL", "NA ", "0", "-1", "' OR 1=1 --")

# Lines with odd names, gaps, ties, large and tiny numbers, dates at the ends.
odd_lines <- function(seed, n = 300) {
  withr::with_seed(seed, {
    end <- as.Date(c("1970-01-12", "2024-02-29", "2026-12-31", "2025-12-31"))
    out <- data.frame(
      order_no = c(paste0("N", sample(n %/% 2, n - 5, TRUE)), rep(NA, 5)),
      day = sample(c(as.Date("2025-01-01") + sample(400, n - 4, TRUE), end)),
      account = sample(c(odd_names, NA, "", "  "), n, TRUE),
      area = sample(c("x", "y", NA), n, TRUE),
      code = sample(c(101L, 7L, 55L, NA), n, TRUE), qty = sample(c(-2:6, NA), n, TRUE),
      net = sample(c(round(rnorm(n, 50, 80), 2), rep(10, 20), NA, 0), n, TRUE),
      cost = round(runif(n, 0, 9), 5), huge = sample(c(1e15 + .5, 123456789012, NA, -7.25), n,
                                                     TRUE),
      tiny = rnorm(n) * 1e-3)
    out$day[match(c("x", "y"), out$area)] <- NA
    out$ship <- out$day + sample(c(-1:9, NA), n, TRUE)
    out$at <- as.POSIXct("2025-03-01", tz = "UTC") + sample(86400 * 60, n, TRUE)
    out$net[out$area %in% "y" & out$code %in% 7L] <- NA
    out
  })
}

odd_register <- function() {
  data.frame(account = c(odd_names[1:12], "never bought"),
             kind = c("shop", "farm", NA, "shop", "club", "farm", "shop", "", "club", "shop",
                      "farm", "shop", "club"),
             since = as.Date("2020-01-01") + seq(0, 1200, 100), quota = c(1:12 * 1.5, NA))
}

# Every aggregate, inside and outside per(), with and without conditions and arithmetic.
odd_metrics <- c(
  revenue = "sum(net)", n = "count()", held = "count(net)", customers = "distinct(account)",
  lowest = "min(net)", highest = "max(net)", avg = "mean(net)", med = "median(net)",
  ninth = "quantile(net, 0.9)", dev = "sd(net)", vari = "var(cost)", big = "sum(net[qty > 2])",
  ratio = "revenue / held", best_order = "max(per(order_no, sum(net)))",
  big_orders = "count(per(order_no, sum(net))[it > 50])",
  mean_order = "mean(per(order_no, sum(net)))",
  by_order = "sum(per(order_no, sum(net[qty > 1])))",
  orders_each = "mean(per(account, distinct(order_no)))",
  last_day = "max(day)", mixed = "sum(net * qty)", quotients = "sum(net / qty)",
  smaller = "sum(pmin(net, qty))",
  size_of = "sum(abs(net))", chosen = "sum(ifelse(area == \"x\", net, 0))",
  days_seen = "distinct(day)",
  amounts = "distinct(net)", waited = "sum(ship - day)", huge_sum = "sum(huge)",
  tiny_sum = "sum(tiny)",
  five_places = "sum(cost)", of_none = "count(net[is.na(area)])", most_quota = "max(quota)",
  kinds = "distinct(kind)", quick = "count(qty[net / qty > 3])", steady = "sd(tiny + 1000)",
  first_ship = "min(ship)")

# What not every engine can say in one statement.
odd_inner_metrics <- c(n = "count()", med_order = "median(per(order_no, sum(net)))",
                       dev_order = "sd(per(order_no, sum(net)))",
                       med_inside = "max(per(order_no, median(net)))")

odd_conditions <- c(
  "area == \"x\"", "area != \"x\"", "!(area == \"x\")", "area %in% c(\"x\", \"y\")",
  "!(area %in% c(\"x\"))", "is.na(area)",
  "!is.na(net) & (qty > 2 | area == \"y\")", "contains(account, \"'\")", "contains(account, \"%\")",
  "startsWith(account, \"back\\\\\")", "!startsWith(account, \"l\")", "qty > 2", "net <= 10.5",
  "net == 10", "net != 10",
  "net / qty > 3", "!(net / qty > 3)", "between(day, \"2025-03-01\", \"2025-06-30\")",
  "month(day) == \"2025-03\"",
  "!(month(day) %in% c(\"2025-03\", \"2025-04\"))", "weekday(day) == \"Monday\"",
  "quarter(day) >= \"2025-Q3\"",
  "year(day) == \"2025\"", "hour(at) < \"09\"", "part_of_day(at) == \"morning\"", "fiscal_year(day) == \"FY2026\"",
  "kind == \"shop\"", "kind != \"shop\"",
  "is.na(kind)", "!(kind == \"shop\")", "kind %in% c(\"shop\", \"farm\")", "contains(kind, \"a\")",
  "size == \"20 to 60\"",
  "!(size == \"20 to 60\")", "class_of == \"0 to 500\"", "class_of != \"0 to 500\"",
  "code == \"7\"", "code != \"7\"",
  "code %in% c(\"7\", \"101\")", "ship > day", "ship - day > 3", "since < \"2021-01-01\"",
  "quota > 5", "quota > qty",
  "spread == \"many\"", "mon == \"2025-05\"", "pmax(net, qty) > 20", "abs(net) < 5",
  "qty %in% c(1, 2)", "net %in% c(10, 0)",
  "is.na(qty)", "tiny > 0", "huge > 1000000", "area == account", "kind == area", "late >= 2",
  "cost * qty < 3.2",
  "account == \"new\nline\"", "account %in% c(\"O'Brien \\\"Ltd\\\"\", \"' OR 1=1 --\")",
  "ifelse(area == \"x\", qty, net) > 4")

odd_book <- function(lines, metrics = odd_metrics, ...) {
  ll_book(lines,
          fields = list(code = "dimension",
                        spread = list(is = "ifelse(qty > 2, \"many\", \"few\")"),
                               late = list(is = "ship - day"), mon = list(is = "month(day)"),
                               early = list(is = "ifelse(qty > 2, hour(at), weekday(day))")),
          registers = list(account = odd_register()), metrics = metrics, date = "day",
          order = "order_no", bands = list(size = list(of = "net", from = c(0, 20, 60)),
                       class_of = list(of = "sum(net)", each = "account", from = c(0, 500, 900)),
                       shown_of = list(of = "count()", each = "area", from = c(0, 50, 100),
                                       over = "shown")),
          calendar = list(fiscal_start = 4), as_of = "2026-12-31", ...)
}

# A call of every study, for books of odd_lines().
odd_questions <- list(
  standings = function(b) ll_standings(b, "account", c("revenue", "ratio"), when = "2025-Q3",
                                       against = "previous"),
  check = function(b) ll_check(b),
  crosstab = function(b) ll_crosstab(b, "account", "kind",
                                     c("revenue", "customers", "med")),
  trend = function(b) ll_trend(b, c("revenue", "med"), by = "area"),
  distribution = function(b) ll_distribution(b, metrics = "revenue", by = "area"),
  distribution_each = function(b) ll_distribution(b, metrics = "revenue", each = "account"),
  portrait = function(b) ll_portrait(b, "account", odd_names[1], c("revenue", "ratio", "med")),
  versus = function(b) ll_versus(b, "area", c("x", "y"), by = "kind",
                                 metrics = c("revenue", "ratio")),
  associations = function(b) ll_associations(b, metrics = "revenue",
                                             by = c("area", "kind", "code")),
  associations_each = function(b) ll_associations(b, metrics = "revenue", each = "account",
                                                  by = c("kind", "area")),
  holders = function(b) ll_holders(b, each = "account", within = "area", metrics = "revenue",
                                   with_fields = "kind"),
  holders_lines = function(b) ll_holders(b, within = "area", metrics = "revenue",
                                         with_fields = c("order_no", "day")),
  benchmark = function(b) ll_benchmark(b, "account", "ratio"),
  score = function(b) ll_score(b, "account", c("revenue", "ratio", "orders_each")),
  pareto = function(b) ll_pareto(b, "account", "revenue"),
  quadrants = function(b) ll_quadrants(b, "account", c("revenue", "ratio")),
  total = function(b) ll_total(b, c("revenue", "ratio"), when = "2025-Q4", against = "previous"),
  tiers = function(b) ll_tiers(b, "account", metrics = "revenue", tiers = c(low = 0, high = 300)),
  payout = function(b) ll_payout(b, "account", metrics = "revenue",
                                 rates = c("0" = "1%", "300" = "2%"), pay = "graduated"),
  cohorts = function(b) ll_cohorts(b, "account", "revenue", every = "quarter"),
  lapsed = function(b) ll_lapsed(b, "account", "revenue", active = "2025-Q1", inactive = "2025-Q4",
                                 with_fields = "kind"),
  sets = function(b) ll_sets(b, "account", c(a = "active('2025-Q1')", b = "top(revenue, 5)"),
                             metrics = c("revenue", "customers")),
  whitespace = function(b) ll_whitespace(b, "account", "code", "revenue", buyers = 2,
                                         with_fields = "kind"),
  bridge = function(b) ll_bridge(b, "revenue", by = "account", when = "2025-Q3",
                                 against = "2025-Q2"),
  bridge_rate = function(b) ll_bridge(b, "ratio", by = "area", when = "2025-Q3",
                                      against = "2025-Q2"),
  drill = function(b) ll_drill(b, "revenue", when = "2025-Q3", against = "2025-Q2",
                               by = c("account", "area", "kind", "code")),
  substitution = function(b) ll_substitution(b, "account", "code", "revenue", when = "2025-Q3",
                                             against = "2025-Q2"),
  detail = function(b) ll_detail(b, with_fields = c("order_no", "account", "kind", "net", "late",
                                                    "size"),
                                 where = "qty > 2"))
