# Opening lines in databases: what is refused and how, secrets, limits, statements, and that nothing
# is written.

sqlite_file <- function(data = small_lines(), env = parent.frame(), table = "order_lines") {
  file <- withr::local_tempfile(fileext = ".db", .local_envir = env)
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  data$day <- format(data$day)
  DBI::dbWriteTable(con, table, data)
  DBI::dbDisconnect(con)
  file
}

metrics <- c(revenue = "sum(net)", orders = "distinct(order_no)", average = "revenue / orders")

far_book <- function(file, ...) {
  ll_book(list(connect = list(driver = "sqlite", file = file), table = "order_lines"),
          metrics = metrics, ...)
}

test_that("a table, a query and an open connection give the same book", {
  file <- sqlite_file()
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::defer(DBI::dbDisconnect(con))
  want <- ll_standings(small_book(), "rep")
  books <- list(far_book(file), ll_book(con, table = "order_lines", metrics = metrics),
                ll_book(con, query = "SELECT * FROM order_lines;\n", metrics = metrics),
                ll_book(list(connect = con, table = "main.order_lines"), metrics = metrics))
  for (book in books) {
    got <- ll_standings(book, "rep")
    expect_equal(as.data.frame(got), as.data.frame(want))
    expect_true(all(ll_proof(got)$holds))
    expect_equal(book$date, "day")
  }
  part <- ll_book(con, query = "SELECT rep, net * 2 AS net FROM order_lines WHERE area = 'Fen'",
                  metrics = metrics["revenue"])
  expect_equal(sum(ll_standings(part, "rep")$revenue), 2 *
               sum(small_lines()$net[small_lines()$area == "Fen"]))
})

test_that("a result's lines can be looked at, and the figure drawn", {
  book <- far_book(sqlite_file())
  top <- ll_standings(book, "rep", top = 2)
  behind <- ll_detail(top, row = 1)
  expect_equal(sum(behind$net), top$revenue[1])
  expect_true(all(is.na(behind$line)))
  expect_sound(list(top, ll_trend(book), ll_check(book)))
})

test_that("what cannot be opened says why and what is near", {
  con <- local_sqlite()
  DBI::dbWriteTable(con, "order_lines", transform(small_lines(), day = format(day)))
  expect_error(ll_book(con, table = "order_line"),
               "order_line.*cannot be read in SQLite.*'order_lines'", class = "ll_error_database")
  expect_error(ll_book(con), "need 'table' or 'query'", class = "ll_error_argument")
  expect_error(ll_book(con, table = "a", query = "b"), "need 'table' or 'query'",
               class = "ll_error_argument")
  expect_error(ll_book(small_lines(), table = "order_lines"), "belong to lines in a database",
               class = "ll_error_argument")
  expect_error(ll_book(con, query = "SELECT nett FROM order_lines"), "no such column: nett",
               class = "ll_error_database")
  expect_error(ll_book(con, table = "order_lines", fields = list(rip = "dimension")),
               "no column 'rip'.*'rep'", class = "ll_error_word")
  expect_error(ll_book(con, table = "order_lines", fields = list(rep = "measure")),
               "measure 'rep'.*holds text.*CAST\\(rep", class = "ll_error_data")
  expect_error(ll_book(con, table = "order_lines", fields = list(net = list(fill = "zero"))),
               "'fill' of 'net' fixes lines in memory", class = "ll_error_argument")
  expect_error(ll_book(con, table = "order_lines", unpivot = "net"), "'unpivot'",
               class = "ll_error_argument")
  expect_error(ll_book(con, query = "SELECT * FROM order_lines WHERE net > 1e9"), "holds no lines",
               class = "ll_error_data")
})

test_that("columns of types that cannot be used are left out and told, or refused by name", {
  con <- local_sqlite()
  DBI::dbExecute(con, "CREATE TABLE t (rep TEXT, net REAL, scan BLOB)")
  DBI::dbExecute(con, "INSERT INTO t VALUES ('Ida', 1.5, x'00ff'), ('Tom', 2, NULL)")
  book <- ll_book(con, table = "t", metrics = c(revenue = "sum(net)"))
  expect_false("scan" %in% book$fields$name)
  expect_match(ll_notes(ll_standings(book, "rep"))$text,
               "column scan is of the type other and was left out", all = FALSE)
  expect_error(ll_book(con, table = "t", fields = list(scan = "dimension")),
               "'scan'.*cannot be used", class = "ll_error_data")
})

test_that("connections name their driver, hold no secrets and say where they went", {
  connect <- function(...) ll_book(list(connect = list(...), table = "t"))
  expect_error(connect(driver = "sqlite", password = "s3cret"), "holds no secrets.*password_from",
               class = "ll_error_argument")
  expect_error(connect(driver = "mysqll"), "driver of connect.*postgres",
               class = "ll_error_argument")
  expect_error(connect(driver = "sqlite", flie = "x"), "unknown key 'flie'.*'file'",
               class = "ll_error_word")
  expect_error(connect(driver = "sqlite", file = "nowhere.db"), "does not exist",
               class = "ll_error_file")
  expect_error(connect(driver = "sqlite"), "needs the file", class = "ll_error_argument")
  no_base <- write_text("this is text", ending = ".db")
  expect_error(suppressWarnings(connect(driver = "sqlite", file = no_base)), "not a database",
               class = "ll_error_database")
  skip_if_not_installed("RPostgres")
  expect_error(connect(driver = "postgres", host = "127.0.0.1", password_from = "LL_NOT_SET"),
               "'LL_NOT_SET' is not set", class = "ll_error_argument")
  withr::local_envvar(LL_SECRET = "s3cret-word")
  error <- expect_error(connect(driver = "postgres", host = "127.0.0.1", port = 9, dbname = "sales",
                                user = "ida", password_from = "LL_SECRET"),
                        "postgres at 127.0.0.1:9, database sales, user ida",
                        class = "ll_error_database")
  expect_no_match <- function(text) expect_false(grepl("s3cret", text, fixed = TRUE))
  expect_no_match(conditionMessage(error))
})

test_that("what changes under an open book stops the question, with nothing half made", {
  con <- local_sqlite()
  DBI::dbWriteTable(con, "order_lines", transform(small_lines(), day = format(day)))
  book <- ll_book(con, table = "order_lines", metrics = metrics)
  DBI::dbRemoveTable(con, "order_lines")
  DBI::dbWriteTable(con, "order_lines", small_lines()[c("order_no", "rep")])
  expect_error(ll_standings(book, "rep"), "column '(day|net)' is no longer among the lines",
               class = "ll_error_data")
  other <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  DBI::dbWriteTable(other, "order_lines", transform(small_lines(), day = format(day)))
  book <- ll_book(other, table = "order_lines", metrics = metrics)
  DBI::dbDisconnect(other)
  expect_error(ll_standings(book, "rep"), "connection to SQLite was lost", class = "ll_error_lost")
})

test_that("limits guard against more rows than memory", {
  book <- far_book(sqlite_file())
  withr::local_options(longladder.most_rows = 2)
  expect_error(ll_standings(book, "rep"), "comes to more than 2 rows", class = "ll_error_data")
  withr::local_options(longladder.most_rows = 1e7, longladder.most_lines = 3)
  expect_error(ll_detail(book), "8 of them would be brought", class = "ll_error_data")
  expect_equal(nrow(ll_detail(book, top = 2)), 2)
})

test_that("nothing is written: connections of ours read only, and files stay as they are", {
  file <- sqlite_file()
  before <- tools::md5sum(file)
  con <- internal("connect_to")(list(driver = "sqlite", file = file))
  withr::defer(DBI::dbDisconnect(con))
  expect_error(DBI::dbExecute(con, "DELETE FROM order_lines"), "readonly")
  book <- far_book(file)
  for (study in c("standings", "pareto", "trend", "check"))
    do.call(internal(paste0("ll_", study)), c(list(book),
                                              if (study %in%
                                                  c("standings", "pareto")) list(each = "rep")))
  expect_identical(tools::md5sum(file), before)
  # No statement but SELECT is ever asked.
  statements <- internal("statements_of")(function() ll_standings(far_book(file), "rep",
                                                                  names(metrics)))
  expect_gt(length(statements), 3)
  expect_true(all(startsWith(vapply(statements, `[[`, "", "sql"), "SELECT")))
})

test_that("the command asks databases, prints statements, and says what is wrong", {
  file <- sqlite_file()
  far <- c("--connect", paste0("driver=sqlite,file=", file), "--table", "order_lines", "--define",
           "revenue=sum(net)")
  got <- command("standings", far, "--each", "rep", "--format", "csv")
  expect_equal(got$status, 0)
  want <- ll_standings(small_book(), "rep", "revenue")
  expect_equal(data.table::fread(text = got$out)$revenue, want$revenue)
  sql <- command("sql", "standings", far, "--each", "rep", "--when", "2026-03")
  expect_equal(sql$status, 0)
  expect_match(sql$out, "GROUP BY ll_k1", all = FALSE)
  expect_false(any(grepl("rank  rep", sql$out)))
  # The statements printed are statements: they run, and the fold's gives the fold.
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::defer(DBI::dbDisconnect(con))
  asked <- strsplit(paste(sql$out, collapse = "\n"), ";\n", fixed = TRUE)[[1]]
  fold <- DBI::dbGetQuery(con, grep("GROUP BY", asked, value = TRUE)[1])
  march <- small_lines()[format(small_lines()$day, "%Y-%m") == "2026-03", ]
  expect_equal(sum(fold$ll_p1_v, na.rm = TRUE), 100 * sum(march$net))
  expect_match(command("sql", "standings", demo_path("order_lines.csv"), "--define",
                       "revenue=sum(net)", "--each", "rep")$err,
               "nothing is asked in SQL")
  expect_equal(command("sql")$status, 0)
  expect_equal(command("standings", "--connect", "driver=sqlite,file=none.db", "--table", "t",
                       "--each", "rep")$status, 2)
  expect_match(command("standings", "lines.csv", far, "--each", "rep")$err, "not both")
  expect_match(command("standings", "--table", "t", "--each", "rep")$err,
               "'--table' needs '--connect'")
})

test_that("a brief says where the database is; its run records that and no secret", {
  folder <- withr::local_tempdir()
  file.copy(sqlite_file(), file.path(folder, "shop.db"))
  con <- DBI::dbConnect(RSQLite::SQLite(), file.path(folder, "shop.db"))
  DBI::dbWriteTable(con, "reps", data.frame(rep = c("Ida", "Tom", "Uma"), team = c("a", "b", "a")))
  DBI::dbDisconnect(con)
  brief <- file.path(folder, "longladder.yml")
  writeLines(c("lines:", "  connect: {driver: sqlite, file: shop.db}", "  table: order_lines",
               "registers:", "  rep: {connect: lines, table: reps}", "metrics: {revenue: sum(net)}",
               "pages:", "  teams: {study: standings, each: team}"), brief)
  got <- ll_standings(ll_brief(brief)$book, "team")
  expect_equal(got$revenue[match(c("a", "b"), got$team)],
               as.vector(tapply(small_lines()$net, small_lines()$rep %in% c("Ida", "Uma") + 2 *
                                is.na(small_lines()$rep), sum))[2:1])
  out <- file.path(folder, "out")
  expect_equal(command("run", brief, "--out", out, "--quiet")$status, 0)
  record <- paste(readLines(file.path(out, "record.json")), collapse = "")
  expect_match(record, "sqlite .*shop.db, table order_lines")
  expect_match(record, "the database of the lines, table reps", fixed = TRUE)
  writeLines(sub("connect: \\{", "connect: {password: x, ", readLines(brief)), brief)
  expect_match(command("run", brief, "--out", out)$err, "password")
})

test_that("bands and metrics may look at each other, not in a circle", {
  lines <- small_lines()
  book <- ll_book(lines, metrics = c(revenue = "sum(net)",
                                     large = "sum(net[size_of == \"50 and above\"])"),
                  bands = list(size_of = list(of = "revenue", each = "rep", from = c(0, 50))))
  got <- ll_standings(book, "rep", c("revenue", "large"))
  total <- tapply(lines$net, lines$rep, sum)
  expect_equal(got$large[match(names(total), got$rep)], as.vector(ifelse(total >= 50, total, 0)))
  expect_error(ll_book(lines, metrics = c(large = "sum(net[size_of == \"50 and above\"])"),
                       bands = list(size_of = list(of = "large", each = "rep", from = c(0, 50)))),
               "circle", class = "ll_error_formula")
})

test_that("names are told apart by their bytes, whatever the column's collation", {
  names <- c("Moor", "moor", "MOOR", "Fen", "fen ", "caf\u00e9", "cafe", "", NA)
  lines <- data.frame(k = rep(names, 4), net = seq_len(36), o = rep(letters[1:4], each = 9))
  for (kind in setdiff(database_kinds(), "clickhouse")) {
    con <- connect_kind(kind)
    run <- function(...) DBI::dbExecute(con, paste0(...))
    types <- switch(kind, sqlite = "TEXT COLLATE NOCASE",
                    duckdb = "VARCHAR COLLATE NOCASE.NOACCENT",
                    postgres = c("citext", "TEXT COLLATE blind"))
    if (kind == "postgres") for (sql in c("SET client_min_messages = error",
                                          "CREATE EXTENSION IF NOT EXISTS citext",
                                          "DROP TABLE IF EXISTS blind_lines",
                                          "DROP COLLATION IF EXISTS blind",
                                          paste0("CREATE COLLATION blind (provider = icu, locale ",
                                                 "= 'und-u-ks-level1', deterministic = false)")))
      run(sql)
    want <- ll_standings(ll_book(lines, metrics = c(revenue = "sum(net)", kinds = "distinct(k)")),
                         "k", where = "k != 'moor'")
    for (type in types) {
      run("DROP TABLE IF EXISTS blind_lines")
      run("CREATE TABLE blind_lines (k ", type, ", net INTEGER, o TEXT)")
      DBI::dbWriteTable(con, "blind_lines", lines, append = TRUE)
      register <- data.frame(k = names[1:7], group = letters[1:7])
      book <- ll_book(con, table = "blind_lines", metrics = c(revenue = "sum(net)",
                                                              kinds = "distinct(k)"),
                      registers = list(k = register))
      got <- ll_standings(book, "k", c("revenue", "kinds"), where = "k != 'moor'")
      expect_equal(as.data.frame(got)[c("k", "revenue")], as.data.frame(want)[c("k", "revenue")],
                   info = paste(kind, type))
      expect_true(all(ll_proof(got)$holds), info = paste(kind, type))
      expect_identical(ll_standings(book, "o", c(n = "count(net[k == \"Moor\"])"))$n, rep(1, 4))
      expect_identical(ll_standings(book, "o", c(n = "distinct(k)"))$n, rep(7, 4))
      expect_identical(nrow(ll_standings(book, "group", "revenue",
                                         where = "group %in% c('a', 'b')")), 2L)
    }
    DBI::dbDisconnect(con)
  }
})

test_that("names that would be cut at zero bytes are not read", {
  con <- local_sqlite()
  DBI::dbExecute(con, "CREATE TABLE t (k TEXT, good TEXT, net INTEGER)")
  DBI::dbExecute(con,
                 paste0("INSERT INTO t VALUES ('a' || CHAR(0) || 'b', 'x', 1), ('a' || CHAR(0) || ",
                        "'c', 'y', 2)"))
  book <- ll_book(con, table = "t", metrics = c(revenue = "sum(net)"))
  expect_match(format(book), "k holds zero bytes in 2 lines", all = FALSE)
  expect_error(ll_standings(book, "k"), "no field called 'k'", class = "ll_error_word")
  expect_error(ll_book(con, table = "t", fields = c(k = "dimension")), "zero bytes",
               class = "ll_error_data")
})

test_that("a file of SQLite that is broken anywhere is ours to tell, or is proven", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".db")
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::local_seed(8)
  n <- 3000
  DBI::dbWriteTable(con, "l", data.frame(order_no = paste0("o", 1:n), rep = sample(c("Ida", "Tom"), n, TRUE),
                                         net = round(stats::runif(n) * 100, 2)))
  DBI::dbDisconnect(con)
  whole <- readBin(file, "raw", 1e7)
  for (i in some_of(1:60, 4)) {
    bytes <- whole
    at <- switch(i %% 3 + 1, sample(100, 8), sample(length(bytes), 200), sample(length(bytes) - 4000, 1) + 1:4000)
    bytes[at] <- as.raw(sample(0:255, length(at), TRUE))
    if (i %% 5 == 0) bytes <- utils::head(bytes, sample(length(bytes), 1))
    writeBin(bytes, file)
    got <- tryCatch({
      book <- ll_book(list(connect = list(driver = "sqlite", file = file), table = "l"),
                      metrics = c(m = "sum(net)"))
      all(ll_proof(ll_standings(book, "rep"))$holds)
    }, ll_error = function(e) TRUE)
    expect_true(got, info = i)
  }
})

test_that("SQLite's own files beside one in WAL mode are told", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".db")
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbGetQuery(con, "PRAGMA journal_mode = WAL")
  DBI::dbWriteTable(con, "l", small_lines()[c("order_no", "rep", "net")])
  DBI::dbDisconnect(con)
  ask <- function() command("standings", "--connect", paste0("driver=sqlite,file=", file), "--table", "l",
                            "--each", "rep", "--define", "r=sum(net)")
  got <- ask()
  expect_equal(got$status, 0)
  expect_match(got$err, "in SQLite's WAL mode; reading it leaves '[^']*-wal' and '[^']*-shm' beside it")
})

test_that("figures beyond 2^53 are said to have lost digits; small ones beside large ones are proven", {
  skip_if_not_installed("RSQLite")
  con <- local_sqlite()
  DBI::dbExecute(con, "CREATE TABLE l (rep TEXT, net INTEGER)")
  DBI::dbExecute(con, "INSERT INTO l VALUES ('a', 9007199254740993), ('b', 9007199254740992)")
  x <- ll_standings(ll_book(con, table = "l", metrics = c(r = "sum(net)")), "rep")
  expect_match(ll_notes(x)$text[1], "9,007,199,254,740,992 and above have lost their last digits")
  lines <- data.frame(rep = c("a", "a", "a", "b"), net = c(123456789012.123456, 1e-6, -123456789012.123456, 1))
  y <- ll_standings(ll_book(lines, metrics = c(r = "sum(net)", s = "sum(net) - sum(net) / 2")), "rep",
                    c("r", "s"))
  expect_false("digits" %in% ll_notes(y)$kind)
  expect_true(ll_proof(y)$holds[grepl("total of r", ll_proof(y)$check)])
  expect_match(ll_proof(y)$check, "as near as figures of such size are added", all = FALSE)
})
