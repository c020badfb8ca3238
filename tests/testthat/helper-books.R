# Books and small tools that several test files use.

# What a study found is held against its declaration (R/base-found.R).
options(longladder.strict = TRUE)

# Nobody's own kept books and settings are touched.
Sys.setenv(LONGLADDER_CACHE = file.path(tempdir(), "kept"),
           LONGLADDER_CONFIG = file.path(tempdir(), "own"))

# Whether all tests run, the long ones too.
all_tests <- function() nzchar(Sys.getenv("LONGLADDER_TEST_ALL")) || nzchar(Sys.getenv("CI"))

# Long tests are for CI and `make test-all`.
skip_unless_all <- function() {
  skip_if(!all_tests(), "a long test: make test-all")
}

# Every `nth` of many cases in the everyday run, all of them in CI and by make test-all.
some_of <- function(all, nth) {
  if (all_tests()) all else all[seq(1, length(all), nth)]
}

# A place for answers that others are held against: what is asked by a key is asked once.
answers_kept <- function() {
  kept <- list()
  function(key, ask) {
    if (is.null(kept[[key]])) kept[[key]] <<- list(ask())
    kept[[key]][[1]]
  }
}

# The demo book is opened once for all tests.
demo_book <- local({
  book <- NULL
  function() {
    if (is.null(book)) book <<- ll_demo()
    book
  }
})

demo_lines <- local({
  lines <- NULL
  function() {
    if (is.null(lines)) {
      lines <<- utils::read.csv(demo_path("order_lines.csv"), colClasses = c(account = "character"),
                                na.strings = "", stringsAsFactors = FALSE)
    }
    lines
  }
})

demo_path <- function(name) system.file("extdata", name, package = "longladder", mustWork = TRUE)

# The planted stories: what the demo's README promises.
story <- function(name, key) {
  told <- utils::read.csv(demo_path("stories.csv"), colClasses = "character")
  value <- told$value[told$story == name & told$key == key]
  stopifnot(length(value) == 1)
  number <- suppressWarnings(as.numeric(value))
  if (is.na(number) || grepl("^0[0-9]", value)) value else number
}

small_lines <- function() {
  data.frame(
    order_no = c("A1", "A1", "A2", "A3", "A4", "A5", "A6", "A7"),
    day = as.Date(c("2026-01-05", "2026-01-05", "2026-01-20", "2026-02-03", "2026-02-10",
                    "2026-03-01", "2026-03-15", "2026-03-20")),
    rep = c("Ida", "Ida", "Tom", "Tom", "Uma", "Ida", "Uma", NA),
    area = c("Moor", "Moor", "Fen", "Fen", "Moor", "Fen", "Fen", "Moor"),
    qty = c(1L, 2L, 3L, 1L, 5L, 2L, NA, 1L),
    net = c(10.1, 20.2, 30.3, 5, 25.05, 0.1, 10.15, 7.5))
}

small_book <- function(...) {
  ll_book(small_lines(),
          metrics = list(revenue = "sum(net)", orders = "distinct(order_no)",
                         average = "revenue / orders"), ...)
}

# Lines with everything that goes wrong: ties, missing, negatives, huge and tiny.
random_lines <- function(seed, n = 200) {
  withr::with_seed(seed, {
    data.frame(order_no = paste0("N", sample(max(n %/% 2, 1), n, TRUE)),
               day = as.Date("2025-01-01") + sample(400, n, TRUE),
               rep = sample(c("Ann", "Bo", "Cy", "Di", NA), n, TRUE),
               area = sample(c("x", "y", NA), n, TRUE),
               qty = sample(c(-2:6, NA), n, TRUE),
               net = sample(c(round(rnorm(n, 50, 80), 2), NA, 0), n, TRUE))
  })
}

# The command in this process: status, standard output, standard error.
command <- function(...) {
  words <- c(...)
  err <- capture.output(out <- capture.output(status <- ll_main(words)), type = "message")
  list(status = status, out = out, err = paste(err, collapse = "\n"))
}

# The command as a process of its own, as a person runs it.
run_process <- function(..., folder = NULL, env = character()) {
  words <- c(...)
  script <- system.file("exec", "longladder", package = "longladder")
  out <- tempfile()
  err <- tempfile()
  if (!is.null(folder)) withr::local_dir(folder)
  status <- suppressWarnings(system2(
    file.path(R.home("bin"), "Rscript"), shQuote(c("--no-init-file", script, words)), stdout = out,
    stderr = err, env = c(paste0("R_LIBS=", paste(.libPaths(), collapse = ":")), env)))
  list(status = status, out = readLines(out, warn = FALSE), err = readLines(err, warn = FALSE))
}

write_text <- function(..., ending = ".csv") {
  file <- tempfile(fileext = ending)
  writeLines(c(...), file, useBytes = TRUE)
  file
}

internal <- function(name) getFromNamespace(name, "longladder")

# Every result ties out, draws without a murmur and prints.
expect_sound <- function(results) {
  grDevices::pdf(NULL)
  on.exit(grDevices::dev.off())
  for (x in results) {
    expect_true(all(ll_proof(x)$holds))
    expect_silent(plot(x))
    expect_true(nzchar(paste(format(x), collapse = "")))
  }
}

# An SQLite database in memory for the rest of a test.
local_sqlite <- function(env = parent.frame()) {
  skip_if_not_installed("RSQLite")
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con), env)
  con
}

# More lines than one thread takes; fewer where each instruction is watched (tools/sanitize.sh).
many_lines <- function() if (nzchar(Sys.getenv("LONGLADDER_FEW_LINES"))) 30000 else 600000

# How many random cases a test draws; LONGLADDER_MORE_CASES multiplies them for a longer run.
cases <- function(n) n * max(1, as.integer(Sys.getenv("LONGLADDER_MORE_CASES", "1")))

# Code while a function of ours is another.
with_internal <- function(name, value, code) {
  own <- internal(name)
  utils::assignInNamespace(name, value, "longladder")
  on.exit(utils::assignInNamespace(name, own, "longladder"))
  code
}

# The folder of the sources, where the tests have them.
source_folder <- function() {
  folder <- c(file.path("..", ".."), file.path("..", "..", ".."),
              dirname(Sys.getenv("LONGLADDER_SOURCE", "none")))
  folder <- folder[dir.exists(file.path(folder, "vignettes"))]
  if (length(folder)) normalizePath(folder[1]) else skip("the sources are not here")
}

# The result of an example of a study, asked of the demo as the command asks it.
command_result <- function(declared, example) {
  words <- scan(text = example, what = "", quote = "'\"", quiet = TRUE)
  read <- internal("read_words")(declared, c(words, "--brief", demo_path("longladder.yml")))
  internal("ask_study")(declared, read, function(book, drafted) open_books$last <- book)[[1]]
}

# Results hold their books weakly.
open_books <- new.env()

# The call that a command's words say: list(study, args), defined metrics in their place.
call_of_command <- function(command) {
  words <- scan(text = command, what = "", quote = "'", quiet = TRUE)
  declared <- internal("declaration_of")(words[1])
  read <- internal("read_words")(declared, words[-1], most = 0)
  args <- unclass(internal("study_args")(declared, read$options))
  defined <- unlist(internal("pairs_of")(read$options$define, "define"))
  for (name in internal("metric_args")(declared)) if (!is.null(args[[name]])) {
    own <- args[[name]] %in% names(defined)
    if (any(own)) {
      names(args[[name]]) <- ifelse(own, args[[name]], "")
      args[[name]][own] <- defined[args[[name]][own]]
    }
  }
  telling(words[1], args)
}

# A call's telling arguments, checked, in one order.
telling <- function(study, args) {
  list(study = study, args = internal("asked_args")(study, args))
}

# A spreadsheet whose sheet's own part is changed as the writer of sheets cannot.
changed_sheet <- function(file, change) {
  folder <- withr::local_tempdir()
  utils::unzip(file, exdir = folder)
  part <- file.path(folder, "xl", "worksheets", "sheet1.xml")
  xml <- change(paste(readLines(part, warn = FALSE, encoding = "UTF-8"), collapse = "\n"))
  writeLines(enc2utf8(xml), part, useBytes = TRUE)
  out <- tempfile(fileext = ".xlsx")
  # With what the writer of sheets packs by.
  zip::zip(out, list.files(folder, recursive = TRUE, all.files = TRUE), root = folder)
  out
}

# With rows hidden as a filter hides them.
hide_rows <- function(file, rows) {
  changed_sheet(file, function(xml) {
    for (row in rows) xml <- sub(paste0("<row r=\"", row, "\""),
                                 paste0("<row r=\"", row, "\" hidden=\"1\""), xml, fixed = TRUE)
    xml
  })
}

# A brief of two pages beside its lines.
run_brief_file <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  utils::write.csv(small_lines(), file.path(folder, "lines.csv"), row.names = FALSE, na = "")
  writeLines(c("lines: lines.csv", "metrics: {revenue: {is: sum(net), unit: money}}", "pages:",
               "  reps: {study: standings, each: rep}", "  areas: {study: standings, each: area}"),
             file.path(folder, "longladder.yml"))
  file.path(folder, "longladder.yml")
}

# The demo's folder, copied, so that its brief may be written to: the brief's path.
demo_copy <- function(env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file.copy(list.files(dirname(demo_path("longladder.yml")), full.names = TRUE), folder)
  file.path(folder, "longladder.yml")
}
