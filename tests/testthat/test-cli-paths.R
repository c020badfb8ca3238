# Paths that commands read and write: none is written over or written twice, by whatever name, and
# every option that tells of a file declares which of the two it is.

test_that("every option that takes a file declares whether it is read or written", {
  options <- c(internal("common_options")(), internal("run_options")(),
               internal("command_ask")$args, internal("command_run")$args,
               internal("command_cache")$args, internal("command_render")$args, internal("command_desk")$args)
  told <- vapply(options, function(option) {
    grepl("(^| )(file|folder|lines in a database|a table of date|the brief \\(|other lines)", option$help)
  }, NA)
  declared <- vapply(options, function(option) !is.null(option$path), NA)
  # A set is typed, a fix is a switch, a source is a name; a kept book is found by its file.
  known <- c("fix", "source_field", "remove", "unpivot", "cache", "through", "upload", "verify",
             "for_each", "replace", "trust_folder")
  expect_identical(sort(setdiff(names(options)[told & !declared], known)), character())
  expect_setequal(unique(names(options)[declared]), c(
    "brief", "register", "exchange_rates", "connect", "out", "log", "lines", "from",
    "log_questions", "unanswered"))
})

test_that("no input is written to by any option, whatever name it has", {
  skip_on_os("windows")
  withr::local_dir(withr::local_tempdir())
  data.table::fwrite(small_lines(), "lines.csv")
  writeLines(c("rep,team", "Ida,x"), "reps.csv")
  writeLines(c("lines: lines.csv", "metrics: {revenue: sum(net)}", "registers: {rep: reps.csv}"),
             "b.yml")
  writeLines("revenue by rep", "q.txt")
  inputs <- c("lines.csv", "reps.csv", "b.yml", "q.txt")
  before <- lapply(inputs, readLines)
  for (input in inputs) {
    file.symlink(input, paste0("soft-", input))
    file.link(input, paste0("hard-", input))
  }
  names <- c(inputs, paste0("soft-", inputs), paste0("hard-", inputs), file.path(".", inputs))
  for (name in names) for (words in list(
    c("ask", "revenue by rep", "--brief", "b.yml", "--log-questions", name),
    c("ask", "--from", "q.txt", "--brief", "b.yml", "--log-questions", name),
    c("ask", "revenue by rep", "--brief", "b.yml", "--log", name),
    c("total", "lines.csv", "--define", "revenue=sum(net)", "--log", name),
    c("total", "--brief", "b.yml", "--out", name))) {
    got <- command(words)
    expect_equal(got$status, 2, info = paste(c(words, "/", got$err), collapse = " "))
    expect_match(got$err, "^longladder: ", info = paste(words, collapse = " "))
    expect_identical(lapply(inputs, readLines), before, info = paste(words, collapse = " "))
  }
})

test_that("one path is written once, no link is written through, no pipe or device replaced", {
  skip_on_os("windows")
  withr::local_dir(withr::local_tempdir())
  data.table::fwrite(small_lines(), "lines.csv")
  ask <- function(...) command("total", "lines.csv", "--define", "revenue=sum(net)", ...)
  twice <- ask("--out", "x.csv", "--log", "./x.csv")
  expect_match(twice$err, "written twice, by --out and --log|written twice, by --log and --out")
  expect_match(ask("--out", "x.csv", "--out", "x.csv")$err, "written twice, by --out and --out")
  writeLines("mine", "mine.csv")
  file.symlink("mine.csv", "link.csv")
  file.symlink("nowhere.csv", "loose.csv")
  for (link in c("link.csv", "loose.csv")) expect_match(ask("--out", link)$err, "is a link to")
  expect_identical(readLines("mine.csv"), "mine")
  system2("mkfifo", "pipe.csv")
  expect_match(ask("--out", "pipe.csv")$err, "no regular file")
  expect_false(file.exists("x.csv"))
  expect_match(command("ask", "--from", "lines.csv", "--out", "a.csv", "lines.csv")$err,
               "does not go with '--from'")
  # A log that was written before goes on.
  for (i in 1:2) expect_equal(ask("--log", "told.log")$status, 0)
  for (i in 1:2) expect_equal(
    command("ask", "revenue", "lines.csv", "--log-questions", "asked.jsonl")$status, 0)
  expect_length(readLines("asked.jsonl"), 2)
})
