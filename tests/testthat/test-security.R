# A brief, its folder and its files may come from anybody: see SECURITY.md. Nothing in them is run,
# nothing is written but what is asked for, and nothing steers the terminal.

hostile_texts <- c("a`touch RAN`b", "`r file.create('RAN')`", "$(touch RAN)", "; touch RAN;",
                   "'; touch RAN; '", "\" --lua-filter=x \"; touch RAN; \"",
                   "<script>document.title='RAN'</script>",
                   "x\n```\n\n```{r}\nfile.create('RAN')\n```", "!expr file.create('RAN')",
                   "x\n---\n\n`r file.create('RAN')`", strrep("`", 60), "<<reps>>",
                   "x`); file.create('RAN'); (`", "\"); file.create('RAN'); (\"",
                   "[a](javascript:RAN)", "$x^2$ \\input{RAN}")

test_that("titles, pages, names and files of a hostile brief run nothing when rendered", {
  skip_unless_all()
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  json <- function(x) jsonlite::toJSON(x, auto_unbox = TRUE)
  # Each text alone as title and file, and all of them as pages and names.
  for (i in c(seq_along(hostile_texts), 0)) {
    text <- if (i) hostile_texts[i] else "name"
    pages <- if (i) text else hostile_texts
    lines <- stats::setNames(data.frame(c("A", "B", "C"), c(pages[1], "Tom", pages[1]), c(1, 2, 3)),
                             c("order_no", text, "net"))
    file <- paste0("lines ", gsub("/", "_", text), ".csv")
    data.table::fwrite(lines, file)
    writeLines(c(if (i %% 2) paste("title:", json(text)), paste("lines:", json(file)),
                 "metrics: {m: sum(net)}", "pages:", paste0("  ", vapply(pages, json, ""),
                                                            ": {study: standings, title: ",
                                                            vapply(pages, json, ""), ", each: ",
                                                            json(text), "}")), "b.yml",
               useBytes = TRUE)
    brief <- ll_brief("b.yml")
    ll_report(list(page = ll_standings(brief$book, text)), "r.html")
    expect_false(page_says("r.html", "<script>document"), info = text)
    if (i %in% c(0, 3)) ll_run(brief, paste0("out", i), for_each = text)
    ll_notebook(brief, "n.Rmd", only = stats::setNames(list(pages[1]), text))
    # What is run is the brief's calls alone: the chunks in order, nothing within a line.
    code <- knitr::purl("n.Rmd", "n.R", quiet = TRUE, documentation = 0)
    calls <- as.list(parse(code))
    expect_true(all(vapply(calls, function(x) deparse(x)[1] %in% c("result", "book") ||
                           grepl(paste0("^(library|knitr::opts|options|autoplot|(brief|book|result",
                                        ") <- (ll_|brief))"), deparse(x)[1]), NA)), info = text)
    if (i %in% c(0:3, 8, 10)) {
      expect_false(page_says(rmarkdown::render("n.Rmd", quiet = TRUE, envir = new.env()),
                             "Error in|mathjax|<script>document"), info = text)
    } else {
      knitr::knit("n.Rmd", "n.md", quiet = TRUE, envir = new.env())
    }
  }
  expect_identical(list.files(".", "^RAN", recursive = TRUE, all.files = TRUE), character())
})

# Everything that R, knitr, R Markdown and pandoc pick up of a folder; each would leave a file RAN-*.
plant_canaries <- function(folder) {
  r <- function(name) paste0("file.create('", file.path(folder, paste0("RAN-", name)), "')")
  put <- function(file, ...) writeLines(c(...), file.path(folder, file))
  put(".Rprofile", r("profile"))
  put(".Renviron", "LONGLADDER_PLANTED=yes", "R_PROFILE_USER=evil.R")
  put("evil.R", r("user"))
  put("evil.lua", paste0("io.open('", file.path(folder, "RAN-lua"), "', 'w'):close()"))
  evil <- c("html_document:", "  pandoc_args: ['--lua-filter=evil.lua']",
            paste0("  df_print: !expr ", r("expr")), "base::source:", "  file: evil.R")
  put("_output.yml", evil)
  put("_output.yaml", evil)
  put("_site.yml", "name: x", "output:", paste0("  ", evil))
  put("_metadata.yml", "filters: [evil.lua]", paste0("x: !expr ", r("metadata")))
  put("_quarto.yml", "project: {type: website}", "filters: [evil.lua]")
  put("_bookdown.yml", "before_chapter_script: evil.R")
  put("_common.R", r("common"))
  put("index.Rmd", "---", "site: base::source", "---", paste0("`r ", r("index"), "`"))
  put("defaults.yaml", "filters: [evil.lua]")
  for (sub in c("templates", "filters", "R", "renv")) dir.create(file.path(folder, sub))
  put("templates/default.html5", "<p>PLANTED</p>")
  put("filters/evil.lua", readLines(file.path(folder, "evil.lua")))
  put("renv/activate.R", r("renv"))
  put("R/a.R", r("package"))
}

test_that("a folder that holds what R, knitr, R Markdown and pandoc pick up runs nothing of it", {
  skip_unless_all()
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  plant_canaries(folder)
  utils::write.csv(small_lines(), file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  run <- function(...) {
    line <- paste(c(shQuote(system.file("exec", "longladder", package = "longladder")),
                    shQuote(c(...))), collapse = " ")
    withr::local_dir(folder)
    withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"),
                        PATH = paste(R.home("bin"), Sys.getenv("PATH"), sep = ":"))
    told <- suppressWarnings(system2("sh", c("-c", shQuote(paste(line, "2>&1"))), stdout = TRUE))
    expect_null(attr(told, "status"), info = paste(c(..., told), collapse = "\n"))
    told
  }
  run("draft", "lines.csv", "--out", "longladder.yml")
  run("ask", "total net by rep", "lines.csv")
  told <- run("run", "longladder.yml", "--out", ".")
  expect_match(told, "holds _output.yml, _output.yaml, _site.yml.*'longladder render'", all = FALSE)
  run("render", "notebook.Rmd")
  expect_false(page_says(file.path(folder, "notebook.html"), "PLANTED"))
  expect_true(page_says(file.path(folder, "notebook.html"), "leads by"))
  # From R in that folder, and as the desk hands over.
  withr::local_dir(folder)
  brief <- ll_brief("longladder.yml")
  internal("run_for_desk")(function() brief, list(text = brief$text))
  ll_render(file.path("hand-over", "notebook.Rmd"))
  expect_identical(list.files(folder, "^RAN", all.files = TRUE, recursive = TRUE), character())
  # That it would have been run: by hand, in this folder.
  try(suppressWarnings(rmarkdown::render("notebook.Rmd", quiet = TRUE)), silent = TRUE)
  expect_true(file.exists("RAN-expr"))
})

test_that("a notebook is rendered with its own folder's pictures and output, or the reason is told", {
  skip_unless_all()
  skip_without_pandoc()
  folder <- withr::local_tempdir()
  dir.create(file.path(folder, "sub"))
  file <- file.path(folder, "sub", "own.Rmd")
  grDevices::png(file.path(folder, "sub", "dot.png"))
  graphics::plot(1)
  grDevices::dev.off()
  writeLines(c("---", "title: x", "output: html_document", "---", "", "![dot](dot.png)", "",
               "```{r}", "cat(basename(getwd()), options(width = 33)$width)", "```"), file)
  before <- options("width")
  expect_identical(ll_render(file), file.path(folder, "sub", "own.html"))
  expect_identical(options("width"), before)
  expect_true(page_says(file.path(folder, "sub", "own.html"), "sub 80|data:image/png"))
  expect_error(ll_render(file, file.path(folder, "own.pdf")), "output ends in .html",
               class = "ll_error_target")
  expect_error(ll_render(file, file), "very file", class = "ll_error_target")
  writeLines(c("---", "title: x", "---", "```{r}", "stop('no such thing')", "```"), file)
  expect_error(ll_render(file), "could not be rendered(.|\n)*no such thing",
               class = "ll_error_render")
  expect_setequal(list.files(file.path(folder, "sub")), c("dot.png", "own.html", "own.Rmd"))
  expect_error(ll_render(file.path(folder, "none.Rmd")), class = "ll_error_file")
  expect_equal(command("render")$status, 2)
  expect_equal(command("render", file, file)$status, 2)
  expect_match(command("render", "--help")$out, "usage: longladder render", all = FALSE)
})

test_that("control characters reach no terminal and no file that they would break", {
  skip_unless_all()
  odd <- c("esc\033[31mred", "bell\a", "one\001two", "back\b\b", "unit\037x", "del\177",
           paste0("c1", intToUtf8(0x9b), "31m"), paste0("bidi", intToUtf8(0x202e), "gpj"),
           paste0("iso", intToUtf8(0x2066), "x"), "fffe\ufffex", "new\nline", "cr\rx", "vt\vx",
           "_x0041_", "#0#5", "<b>&amp;\"'")
  steers <- paste0("[\001-\010\013-\037\177", intToUtf8(0x80), "-", intToUtf8(0x9f),
                   intToUtf8(0x202a), "-", intToUtf8(0x202e), "]")
  lines <- data.frame(order_no = paste0("o", seq_along(odd)), rep = odd, net = seq_along(odd) + .5)
  folder <- withr::local_tempdir()
  for (name in odd) {
    named <- lines
    names(named)[2] <- paste0("h", name)
    book <- ll_book(named, metrics = c(m = "sum(net)"))
    x <- ll_standings(book, paste0("h", name))
    expect_no_match(paste(c(format(x, width = 200), format(book)), collapse = "\n"), steers,
                    info = encodeString(name))
    expect_no_match(conditionMessage(expect_error(ll_standings(book, "hh"), class = "ll_error")),
                    steers)
    for (kind in c("xlsx", "svg")) {
      file <- file.path(folder, paste0("a.", kind))
      ll_save(x, file)
      parts <- if (kind == "svg") file else utils::unzip(file, exdir = file.path(folder, "parts"))
      for (part in grep("(xml|rels|svg)$", parts,
                        value = TRUE)) expect_no_error(xml2::read_xml(part))
    }
    file <- file.path(folder, "a.json")
    ll_save(x, file)
    expect_identical(jsonlite::fromJSON(file)$rows[[2]], as.data.frame(x)[[2]])
  }
  # As a spreadsheet reads it: characters that XML has not are written as their codes.
  file <- file.path(folder, "a.xlsx")
  ll_save(ll_standings(ll_book(lines, metrics = c(m = "sum(net)")), "rep"), file)
  expect_true(all(c("one_x0001_two", "_x005F_x0041_") %in% openxlsx::read.xlsx(file)$rep))
  csv <- file.path(folder, "odd\033[2J.csv")
  data.table::fwrite(stats::setNames(lines, c("order_no", "r\033[31mep", "net")), csv)
  got <- command("standings", csv, "--each", "rap")
  expect_equal(got$status, 2)
  expect_no_match(got$err, steers)
})

test_that("a query is one statement that reads, and loads no native code", {
  skip_if_not_installed("RSQLite")
  file <- withr::local_tempfile(fileext = ".db")
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  DBI::dbWriteTable(con, "lines", small_lines()[c("order_no", "rep", "net")])
  DBI::dbDisconnect(con)
  open <- function(query) ll_book(list(connect = list(driver = "sqlite", file = file),
                                       query = query))
  for (query in c("SELECT * FROM lines;", "SELECT * FROM lines -- remark",
                  "WITH q AS (SELECT * FROM lines) SELECT * FROM q", "(SELECT * FROM lines)",
                  "SELECT 'a;b(' AS t, net FROM lines",
                  "SELECT /* ; ) */ \"rep\", `net` FROM lines",
                  "SELECT 'it''s' AS t, net FROM lines"))
    expect_no_error(open(query))
  for (query in c("SELECT 1) AS x; DROP TABLE lines; SELECT (1", "DROP TABLE lines",
                  "ATTACH 'x' AS y", "PRAGMA writable_schema = 1",
                  "SELECT 'a\\'; DROP TABLE lines --' AS t", "SELECT 'open",
                  "SELECT 1) UNION (SELECT 2", "SELECT 1; SELECT 2", "COPY lines TO 'x'",
                  "SELECT $$ ; $$ ; DROP TABLE lines"))
    expect_error(open(query), "'query' must be one statement", class = "ll_error_argument",
                 info = query)
  expect_error(open("SELECT load_extension('x'), net FROM lines"), "not authorized",
               class = "ll_error_database")
  # A connection of one's own writes nothing while it is asked, and may write afterwards.
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::defer(DBI::dbDisconnect(con))
  ask <- internal("guarded_question")
  expect_error(ask(con, function() DBI::dbExecute(con, "DELETE FROM lines")), "readonly")
  expect_equal(DBI::dbExecute(con, "DELETE FROM lines WHERE net = 5"), 1)
})

test_that("PostgreSQL: a function that would write does not, in any connection", {
  if (!"postgres" %in% server_kinds()) return(succeed("servers are tested by make test-servers"))
  con <- connect_kind("postgres")
  withr::defer(DBI::dbDisconnect(con))
  for (sql in c("SET client_min_messages = error", "DROP TABLE IF EXISTS guarded",
                "CREATE TABLE guarded (rep TEXT, net NUMERIC)",
                "INSERT INTO guarded VALUES ('Ida', 1), ('Tom', 2.5)",
                paste("CREATE OR REPLACE FUNCTION planted() RETURNS INT AS $$ BEGIN PERFORM",
                      "set_config('default_transaction_read_only', 'off', false);",
                      "INSERT INTO guarded VALUES ('PLANTED', 1); RETURN 1; END $$",
                      "LANGUAGE plpgsql")))
    DBI::dbExecute(con, sql)
  ours <- list(driver = "postgres", host = "127.0.0.1", port = server_port("POSTGRES_PORT"),
               dbname = "postgres", user = "ladder", password_from = "LONGLADDER_TEST_SECRET")
  for (connect in list(con, ours)) {
    lines <- function(query) list(connect = connect, query = query)
    expect_error(ll_standings(ll_book(lines("SELECT *, planted() AS p FROM guarded"),
                                      metrics = c(m = "sum(net)")), "rep"), "read-only transaction",
                 class = "ll_error_database")
    # What a query sets does not outlive it.
    ll_book(lines("SELECT *, set_config('work_mem', '5MB', false) AS s FROM guarded"))
  }
  expect_identical(DBI::dbGetQuery(con, "SHOW work_mem")[[1]], "4MB")
  # Within a transaction of one's own, which goes on afterwards.
  DBI::dbBegin(con)
  DBI::dbExecute(con, "UPDATE guarded SET net = net + 1")
  expect_error(ll_book(list(connect = con, query = "SELECT *, planted() AS p FROM guarded")),
               "read-only transaction")
  expect_identical(ll_standings(ll_book(con, table = "guarded", metrics = c(m = "sum(net)")),
                                "rep")$m, c(3.5, 2))
  DBI::dbExecute(con, "UPDATE guarded SET net = net + 1")
  DBI::dbRollback(con)
  expect_equal(DBI::dbGetQuery(con, "SELECT COUNT(*) AS n, SUM(net) AS s FROM guarded"),
               data.frame(n = 2, s = 3.5))
  # A numeric that is no number is a missing one.
  DBI::dbExecute(con, "INSERT INTO guarded VALUES ('Uma', 'NaN'), ('Uma', 4)")
  x <- ll_standings(ll_book(con, table = "guarded", metrics = c(m = "sum(net)")), "rep")
  expect_identical(x$m, c(4, 2.5, 1))
  expect_true(all(ll_proof(x)$holds))
})

test_that("a table that was changed since is told by what it holds", {
  for (kind in database_kinds()) {
    lines <- lines_in(kind, small_lines())
    book <- ll_book(lines, metrics = c(m = "sum(net)"))
    expect_true(all(ll_proof(ll_standings(book, "rep"))$holds), info = kind)
    if (kind == "clickhouse") next
    DBI::dbExecute(lines$connect, "UPDATE order_lines SET net = net + 1 WHERE order_no = 'A3'")
    DBI::dbExecute(lines$connect, "UPDATE order_lines SET net = net - 0.01 WHERE order_no = 'A2'")
    expect_error(ll_standings(book, "rep"), "were changed since", class = "ll_error_data",
                 info = kind)
    expect_no_error(ll_standings(ll_book(lines, metrics = c(m = "sum(net)")), "rep"))
  }
})

test_that("a table that grows while it is asked gives no answer of two states, in any engine", {
  more <- transform(small_lines(), order_no = paste0("new", order_no))
  real <- internal("fetch_answer")
  for (kind in setdiff(database_kinds(), "clickhouse")) for (at in 1:9) {
    lines <- lines_in(kind, small_lines())
    # In SQLite and DuckDB the tests' tables are in the memory of one connection.
    beside <- if (kind == "postgres") connect_kind(kind) else lines$connect
    grow <- function() {
      if (kind == "sqlite") DBI::dbExecute(beside, "PRAGMA query_only = OFF")
      DBI::dbWriteTable(beside, "order_lines", more, append = TRUE)
    }
    asked <- function() {
      book <- ll_book(lines, metrics = c(m = "sum(net)", n = "count()"))
      x <- ll_standings(book, "rep", c("m", "n"))
      list(as.data.frame(x), all(ll_proof(x)$holds))
    }
    n <- 0
    before <- asked()
    growing <- function(con, sql) {
      n <<- n + 1
      if (n == at) grow()
      real(con, sql)
    }
    got <- with_internal("fetch_answer", growing,
                         tryCatch(asked(), ll_error_data = function(e) conditionMessage(e)))
    if (n < at) next
    if (is.character(got))
      expect_match(got, "changed (since|while) the book was opened", info = kind)
    else expect_true(got[[2]] && (identical(got, before) || identical(got, asked())),
                     info = paste(kind, at))
    if (kind == "postgres") DBI::dbDisconnect(beside)
  }
})

test_that("no query changes a table or writes a file, in any engine", {
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  hostile <- c("DELETE FROM order_lines", "DROP TABLE order_lines",
               "UPDATE order_lines SET net = 0",
               "WITH gone AS (DELETE FROM order_lines RETURNING *) SELECT * FROM gone",
               "WITH x AS (UPDATE order_lines SET net = 0 RETURNING *) SELECT * FROM x",
               "SELECT * INTO planted FROM order_lines", "SELECT * FROM order_lines FOR UPDATE",
               "SELECT * FROM order_lines INTO OUTFILE 'planted.csv'",
               "CREATE TABLE planted AS SELECT 1", "COPY order_lines TO 'planted.csv'",
               "EXPORT DATABASE 'planted'", "ATTACH 'planted.db'", "INSTALL httpfs", "LOAD httpfs",
               "EXPLAIN ANALYZE DELETE FROM order_lines", "CALL pragma_version()",
               "SELECT 1) AS x; DROP TABLE order_lines; SELECT (1",
               "/* a */ DROP TABLE order_lines",
               "-- a\nDROP TABLE order_lines", "SELECT 1; DELETE FROM order_lines",
               "SELECT 1 \\; DROP TABLE order_lines", "SET search_path TO planted", "BEGIN",
               "SELECT 1; COMMIT; DROP TABLE order_lines", "TRUNCATE order_lines", "VACUUM",
               "DO $$ BEGIN DELETE FROM order_lines; END $$", "LISTEN planted", "COMMIT",
               "GRANT ALL ON order_lines TO PUBLIC",
               "OPTIMIZE TABLE order_lines", "SYSTEM SHUTDOWN", "KILL QUERY WHERE 1",
               "SELECT pg_advisory_lock(1), nextval('planted')", "SELECT lo_create(77)",
               "SELECT setval('planted', 1)", "SELECT * FROM order_lines LIMIT 0; SELECT 1")
  for (kind in database_kinds()) {
    lines <- lines_in(kind, small_lines())
    # ClickHouse's driver loses its connection over some of what is refused.
    own <- function() if (kind == "clickhouse") connect_kind(kind) else lines$connect
    state <- function() {
      con <- own()
      if (kind == "clickhouse") on.exit(DBI::dbDisconnect(con))
      told <- DBI::dbGetQuery(con, "SELECT COUNT(*) AS n, SUM(net) AS s FROM order_lines")
      list(as.numeric(told$n), as.numeric(told$s), sort(DBI::dbListTables(con)))
    }
    before <- state()
    for (sql in hostile) {
      got <- tryCatch({
        ll_total(ll_book(list(connect = own(), query = sql)))
        "answered"
      }, ll_error = function(e) "refused", error = function(e) paste("RAW", conditionMessage(e)))
      expect_true(got %in% c("answered", "refused"), info = paste(kind, sql, got))
      expect_identical(state(), before, info = paste(kind, sql))
    }
    # A table's or column's name is a name.
    for (table in c("order_lines; DROP TABLE order_lines", "order_lines\" WHERE 1=0 --",
                    "order_lines`", "(SELECT 1)", "order_lines' OR '1'='1"))
      expect_error(ll_book(list(connect = own(), table = table)), class = "ll_error",
                   info = paste(kind, table))
    expect_identical(state(), before, info = kind)
  }
  expect_identical(list.files(folder, all.files = TRUE, no.. = TRUE), character())
})

test_that("a locked file of SQLite is waited for, and told", {
  file <- withr::local_tempfile(fileext = ".db")
  con <- DBI::dbConnect(RSQLite::SQLite(), file)
  withr::defer(DBI::dbDisconnect(con))
  DBI::dbWriteTable(con, "lines", small_lines()[c("order_no", "rep", "net")])
  withr::local_options(longladder.wait_seconds = .5)
  DBI::dbExecute(con, "BEGIN EXCLUSIVE")
  expect_error(ll_book(list(connect = list(driver = "sqlite", file = file), table = "lines")),
               "SQLite is locked(.|\n)*Waited 0.5 seconds", class = "ll_error_database")
  DBI::dbExecute(con, "ROLLBACK")
  expect_no_error(ll_book(list(connect = list(driver = "sqlite", file = file), table = "lines")))
})

test_that("settings and profiles of the folder are not read, or it is said", {
  folder <- withr::local_tempdir()
  writeLines("LONGLADDER_PLANTED=yes", file.path(folder, ".Renviron"))
  writeLines("file.create('RAN')", file.path(folder, ".Rprofile"))
  file.copy(demo_path("order_lines.csv"), file.path(folder, "l.csv"))
  got <- run_process("standings", "l.csv", "--each", "rep", "--define", "r=sum(net)",
                     folder = folder)
  expect_match(got$err, "settings of '.Renviron' in this folder", all = FALSE)
  told <- run_process("standings", "l.csv", "--each", "rep", "--define", "r=sum(net)",
                      folder = folder, env = paste0("R_ENVIRON_USER=", file.path(folder, "none")))
  expect_no_match(paste(told$err, collapse = "\n"), "Renviron")
  script <- system.file("exec", "longladder", package = "longladder")
  withr::local_dir(folder)
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"),
                      PATH = paste(R.home("bin"), Sys.getenv("PATH"), sep = ":"))
  direct <- suppressWarnings(system2(script, c("standings", "l.csv", "--each", "rep", "--define",
                                               shQuote("r=sum(net)")), stdout = TRUE,
                                     stderr = TRUE))
  expect_no_match(paste(direct, collapse = "\n"), "Renviron")
  expect_match(paste(direct, collapse = "\n"), "leads by r")
  expect_false(file.exists("RAN"))
})

test_that("an interrupt ends the command within two seconds, whatever R is at", {
  withr::local_seed(169)
  file <- withr::local_tempfile(fileext = ".csv")
  n <- 6e5
  data.table::fwrite(data.frame(order_no = seq_len(n), name = paste("name", sample.int(n)),
                                net = round(stats::runif(n), 2)), file)
  script <- system.file("exec", "longladder", package = "longladder")
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  for (wait in c(1, 2.5, 4)) {
    line <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file", shQuote(script),
                  "standings", shQuote(file),
                  "--each name --define 'r=sum(net)' >/dev/null 2>&1 & p=$!; sleep", wait,
                  paste0("; s=$(date +%s%N); kill -INT $p 2>/dev/null; wait $p; echo $? $(( ",
                         "($(date +%s%N) - s) / 1000000 ))"))
    told <- as.numeric(strsplit(system2("bash", c("-c", shQuote(line)), stdout = TRUE), " ")[[1]])
    # It may have ended before.
    expect_true(told[1] %in% c(0, 1), info = wait)
    expect_lt(told[2], 2000)
  }
})
