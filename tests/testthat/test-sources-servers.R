# What only a server can show: types of its own, time zones, rights, a connection that is lost, a
# query that is stopped. Run by make test-servers; without servers there is nothing to ask.

here <- function(kind) kind %in% server_kinds()

test_that("decimal types, wide numbers, flags and moments mean what they should", {
  ask_types <- function(kind) {
    con <- connect_kind(kind)
    withr::defer(DBI::dbDisconnect(con))
    types <- switch(kind, postgres = c("NUMERIC(12, 2)", "BIGINT", "BOOLEAN", "TIMESTAMPTZ",
                                       "TEXT"),
                    duckdb = c("DECIMAL(12, 2)", "BIGINT", "BOOLEAN", "TIMESTAMPTZ", "VARCHAR"),
                    clickhouse = c("Decimal64(2)", "Int64", "UInt8", "DateTime('UTC')", "String"))
    try(DBI::dbExecute(con, "DROP TABLE IF EXISTS typed"), silent = TRUE)
    DBI::dbExecute(con, paste0("CREATE TABLE typed (net ", types[1], ", wide ", types[2], ", flag ",
                               types[3], ", moment ", types[4], ", rep ", types[5], ")",
                               if (kind == "clickhouse") " ENGINE = Memory"))
    # Inserted as a SELECT: a ClickHouse server takes no values from a driver's statement.
    far <- kind == "clickhouse"
    row <- function(net, wide, flag, moment, rep) {
      paste0("SELECT ", if (far) paste0("toDecimal64('", net, "', 2)") else net, ", ",
             if (far) paste0("toInt64(", wide, ")") else wide, ", ",
             if (far) as.integer(flag) else flag, ", ",
             if (far) paste0("toDateTime('", moment, "', 'UTC')") else
             paste0("CAST('", moment, "+00' AS TIMESTAMPTZ)"), ", '", rep, "'")
    }
    DBI::dbExecute(con, paste("INSERT INTO typed", paste(
      row("0.10", "9007199254740993", TRUE, "2026-03-31 23:30:00", "Ida"), "UNION ALL",
      row("0.20", "1", FALSE, "2026-04-01 00:30:00", "Ida"), "UNION ALL",
      row("-0.30", "2", TRUE, "2026-06-30 23:30:00", "Tom"))))
    ask <- function(zone = NULL, ...) {
      ll_book(con, table = "typed", metrics = c(revenue = "sum(net)", n = "count()"),
              calendar = if (!is.null(zone)) list(time_zone = zone), ...)
    }
    book <- ask()
    expect_equal(book$fields$type[match(c("net", "moment"), book$fields$name)], c("number", "date"),
                 info = kind)
    # Exact: 0.1 + 0.2 - 0.3 is nothing at all.
    expect_identical(ll_standings(book, "month(moment)")$revenue, c(.2, .1, -.3), info = kind)
    expect_identical(sum(ll_part(ll_standings(book, "rep"), "foot")$revenue == 0), 1L, info = kind)
    expect_setequal(ll_standings(book, "month(moment)")$moment_month,
                    c("2026-03", "2026-04", "2026-06"))
    # In Lisbon it is an hour later in summer.
    expect_setequal(ll_standings(ask("Europe/Lisbon"), "month(moment)")$moment_month,
                    c("2026-04", "2026-07"))
    expect_setequal(ll_standings(ask("Europe/Lisbon"), "hour(moment)")$moment_hour, c("00", "01"))
  }
  for (kind in server_kinds()) ask_types(kind)
  succeed()
})

test_that("rights that are missing and servers that are not there are said, with host and port", {
  if (!here("postgres")) return(succeed("no server"))
  con <- connect_kind("postgres")
  withr::defer(DBI::dbDisconnect(con))
  run <- function(...) for (sql in c(...)) DBI::dbExecute(con, sql)
  run("SET client_min_messages = error", "DROP TABLE IF EXISTS hidden",
      "CREATE TABLE hidden (rep TEXT, net NUMERIC)", "INSERT INTO hidden VALUES ('Ida', 1)",
      "DROP ROLE IF EXISTS guest", paste0("CREATE ROLE guest LOGIN PASSWORD '",
                                          Sys.getenv("LONGLADDER_TEST_SECRET"), "'"))
  connect <- list(driver = "postgres", host = "127.0.0.1",
                  port = as.character(server_port("POSTGRES_PORT")), dbname = "postgres",
                  user = "guest", password_from = "LONGLADDER_TEST_SECRET")
  expect_error(ll_book(list(connect = connect, table = "hidden")), "permission denied",
               class = "ll_error_database")
  # What is opened here reads only.
  own <- internal("connect_to")(utils::modifyList(connect, list(user = "ladder")))
  withr::defer(DBI::dbDisconnect(own))
  expect_error(DBI::dbExecute(own, "DELETE FROM hidden"), "read-only")
  wrong <- withr::with_envvar(c(LONGLADDER_TEST_SECRET = "wr0ng-word"), expect_error(
    ll_book(list(connect = connect, table = "hidden")), "user guest", class = "ll_error_database"))
  expect_false(grepl("wr0ng-word", conditionMessage(wrong), fixed = TRUE))
  if (!here("clickhouse")) return(invisible())
  expect_error(ll_book(list(connect = list(driver = "clickhouse", host = "127.0.0.1", port = "9"),
                            table = "t")),
               "clickhouse at 127.0.0.1:9", class = "ll_error_database")
  own <- internal("connect_to")(list(driver = "clickhouse", host = "127.0.0.1",
                                     port = as.character(server_port("CLICKHOUSE_PORT")),
                                     user = "ladder", password_from = "LONGLADDER_TEST_SECRET"))
  expect_error(DBI::dbExecute(own, "DROP TABLE order_lines"), "readonly")
})

test_that("a connection lost midway ends the question with status 1 and leaves no file", {
  if (!here("postgres")) return(succeed("no server"))
  lines_in("postgres", odd_lines(1))
  connect <- paste0("driver=postgres,host=127.0.0.1,port=", server_port("POSTGRES_PORT"),
                    ",dbname=postgres,user=ladder,password_from=LONGLADDER_TEST_SECRET")
  out <- withr::local_tempfile(fileext = ".csv")
  # The third line read ends the session that reads it.
  query <- paste(paste0("SELECT area, net, CASE WHEN row_number() OVER () = 3 THEN ",
                        "pg_terminate_backend(pg_backend_pid()) END AS gone"),
                 "FROM order_lines")
  got <- command("standings", "--connect", connect, "--query", query, "--define",
                 "revenue=sum(net)", "--each", "area", "--out", out)
  expect_equal(got$status, 1)
  expect_match(got$err, "connection to PostgreSQL was lost")
  expect_false(file.exists(out))
  expect_false(grepl(Sys.getenv("LONGLADDER_TEST_SECRET"), got$err, fixed = TRUE))
  # A book whose session is ended says so too.
  con <- connect_kind("postgres")
  book <- ll_book(con, table = "order_lines", metrics = c(revenue = "sum(net)"))
  other <- connect_kind("postgres")
  withr::defer(DBI::dbDisconnect(other))
  DBI::dbGetQuery(other, paste0("SELECT pg_terminate_backend(",
                                DBI::dbGetQuery(con, "SELECT pg_backend_pid() AS p")$p, ")"))
  expect_error(ll_standings(book, "area"), class = "ll_error_lost")
  suppressWarnings(try(DBI::dbDisconnect(con), silent = TRUE))
})

test_that("a person who stops a long question stops the server's work", {
  if (!here("postgres")) return(succeed("no server"))
  connect <- paste0("driver=postgres,host=127.0.0.1,port=", server_port("POSTGRES_PORT"),
                    ",dbname=postgres,user=ladder,password_from=LONGLADDER_TEST_SECRET")
  script <- system.file("exec", "longladder", package = "longladder")
  query <- "SELECT 'a' AS rep, 1 AS net, pg_sleep(30)::text AS nap"
  words <- c("--no-init-file", script, "standings", "--connect", connect, "--query", query,
             "--define", "revenue=sum(net)", "--each", "rep")
  err <- withr::local_tempfile()
  pid_file <- withr::local_tempfile()
  # A background job of a shell would not hear the interrupt.
  hears <- "perl -e '$SIG{INT} = \"DEFAULT\"; exec @ARGV' "
  shell <- paste0("R_LIBS=", shQuote(paste(.libPaths(), collapse = ":")), " ", hears,
                  file.path(R.home("bin"), "Rscript"), " ", paste(shQuote(words), collapse = " "),
                  " >", shQuote(err), " 2>&1 & echo $! >", shQuote(pid_file),
                  "; wait $!; echo status $? >>", shQuote(err))
  script_file <- write_text(shell, ending = ".sh")
  system(paste("sh", script_file), wait = FALSE)
  con <- connect_kind("postgres")
  withr::defer(DBI::dbDisconnect(con))
  napping <- function() {
    DBI::dbGetQuery(con,
                    paste0("SELECT count(*) AS n FROM pg_stat_activity WHERE query LIKE ",
                           "'%pg_sleep(30)%' AND state = 'active' AND pid <> pg_backend_pid()"))$n
  }
  waited <- function(test) {
    for (i in 1:100) {
      if (test()) return(TRUE)
      Sys.sleep(.2)
    }
    FALSE
  }
  expect_true(waited(function() napping() == 1))
  tools::pskill(as.integer(readLines(pid_file)), tools::SIGINT)
  expect_true(waited(function() napping() == 0))
  expect_true(waited(function() any(grepl("^status", readLines(err)))))
  expect_match(readLines(err), "stopped", all = FALSE)
  expect_match(readLines(err), "status 1", all = FALSE)
})

test_that("files are read where they lie through DuckDB", {
  if (!here("duckdb")) return(succeed("no engine"))
  withr::local_options(longladder.duckdb = function() connect_kind("duckdb"))
  lines <- demo_frame()
  folder <- withr::local_tempdir()
  year <- format(lines$order_date, "%Y")
  for (y in unique(year)) {
    nanoparquet::write_parquet(lines[year == y, ], file.path(folder, paste0(y, ".parquet")))
    utils::write.csv(lines[year == y, ], file.path(folder, paste0(y, ".csv")), row.names = FALSE,
                     na = "")
  }
  frame <- ll_book(lines, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"),
                   order = "order_no")
  for (ending in c("parquet", "csv")) {
    far <- ll_book(list(file = file.path(folder, paste0("*.", ending)), through = "duckdb"),
                   metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"),
                   order = "order_no")
    expect_same_result(ll_standings(far, "territory", c("revenue", "orders")),
                       ll_standings(frame, "territory", c("revenue", "orders")), ending)
  }
  few <- ll_book(list(file = file.path(folder, "*.parquet"), through = "duckdb",
                      columns = c("territory", "net")),
                 metrics = c(revenue = "sum(net)"))
  expect_setequal(few$fields$name, c("territory", "net"))
})

test_that("a shard's lines and those of the whole table are told apart", {
  if (!here("clickhouse")) return(succeed("no server"))
  lines <- odd_lines(6)
  both <- lines_in("clickhouse", lines)
  ask <- function(spec) ll_standings(ll_book(spec, metrics = c(revenue = "sum(net)")), "area")
  whole <- ask(both)
  expect_same_result(whole, ask(lines), "both shards")
  one <- ask(list(connect = both$connect, table = "order_lines_own"))
  expect_equal(as.data.frame(one)$revenue, as.data.frame(ask(lines[seq_len(nrow(lines)) %% 2 == 1,
                                                                   ]))$revenue)
})
