# Nothing is lost: full disks, files that were read, what others keep in a folder, stops midway.

whole_kinds <- c("csv", "json", "xlsx", "parquet", "png", "svg", "pdf")

left_in <- function(folder) list.files(folder, all.files = TRUE, no.. = TRUE)

# Each kind of file, and a run, by a process of its own that a shell line limits.
saved_under <- function(limit, folder) {
  script <- write_text(
    "library(longladder); longladder:::kernel_outlive_writes()",
    "x <- ll_standings(ll_demo(), each = 'account')",
    paste0("told <- function(code) tryCatch({ suppressWarnings(code); 'written' }, ",
           "ll_error_target = conditionMessage)"),
    "folder <- commandArgs(TRUE)[1]; kinds <- commandArgs(TRUE)[-1]",
    "for (kind in kinds) writeLines('older', file.path(folder, paste0('r.', kind)))",
    "for (kind in kinds) { file <- file.path(folder, paste0('r.', kind))",
    paste0("  cat(kind, if (kind == 'html') told(ll_report(list(x), file)) else told(ll_save(x, ",
           "file)), sep = '\\t'); cat('\\n') }"), ending = ".R")
  line <- paste(limit, shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file",
                shQuote(script), shQuote(folder), paste(c(whole_kinds, "html"), collapse = " "),
                "2>&1")
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  suppressWarnings(system2("sh", c("-c", shQuote(line)), stdout = TRUE))
}

expect_all_refused <- function(told, folder, why) {
  text <- paste(told, collapse = "\n")
  for (kind in c(whole_kinds, if (rmarkdown::pandoc_available("2.0")) "html")) {
    expect_match(text, paste0(kind, "\tThe file '[^']*r.", kind, "' cannot be written.\nx ", why),
                 info = kind)
    file <- file.path(folder, paste0("r.", kind))
    expect_identical(readLines(file), "older", info = kind)
  }
  expect_setequal(left_in(folder), paste0("r.", c(whole_kinds, "html")))
}

test_that("a limit of file size: every kind says so, and the older file stays", {
  skip_unless_all()
  folder <- withr::local_tempdir()
  expect_all_refused(saved_under("ulimit -f 4;", folder), folder, "File too large")
})

test_that("a full disk: every kind says so, and the older file stays", {
  folder <- withr::local_tempdir()
  mounted <- suppressWarnings(system2("mount", c("-t", "tmpfs", "-o", "size=44k", "tmpfs", folder),
                                      stderr = FALSE)) == 0
  skip_if_not(mounted || nzchar(Sys.getenv("CI")), "a small disk cannot be mounted here")
  if (!mounted) return(expect_true(TRUE))
  on.exit(system2("umount", folder))
  expect_all_refused(saved_under("", folder), folder, "No space left")
})

test_that("a run on a full disk leaves the earlier output as it was", {
  skip_without_pandoc()
  file <- run_brief_file()
  out <- file.path(dirname(file), "out")
  expect_equal(command("run", file, "--out", out)$status, 0)
  before <- tools::md5sum(list.files(out, full.names = TRUE))
  script <- system.file("exec", "longladder", package = "longladder")
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  line <- paste("ulimit -f 20;", shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file",
                shQuote(script), "run", shQuote(file), "--out", shQuote(out), "2>&1")
  told <- suppressWarnings(system2("sh", c("-c", shQuote(line)), stdout = TRUE))
  expect_equal(attr(told, "status"), 2)
  expect_match(paste(told, collapse = "\n"), "File too large.\ni The folder stays as it was")
  expect_identical(tools::md5sum(list.files(out, full.names = TRUE)), before)
  expect_setequal(left_in(dirname(out)), c("lines.csv", "longladder.yml", "out"))
})

test_that("standard output that takes nothing is status 2; a reader that has gone is none", {
  skip_unless_all()
  skip_if_not(file.exists("/dev/full"))
  script <- system.file("exec", "longladder", package = "longladder")
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"))
  ask <- paste(shQuote(file.path(R.home("bin"), "Rscript")), "--no-init-file", shQuote(script),
               "standings", shQuote(demo_path("order_lines.csv")),
               "--each order_no --define 'r=sum(net)' --quiet --format")
  for (format in c("csv", "json", "table", "line")) {
    told <- suppressWarnings(system2("sh", c("-c", shQuote(paste(ask, format, "2>&1 >/dev/full"))),
                                     stdout = TRUE))
    expect_equal(attr(told, "status"), 2, info = format)
    expect_match(paste(told, collapse = "\n"), "could not be written to standard output as a whole",
                 info = format)
  }
  err <- withr::local_tempfile()
  first <- system2("sh", c("-c", shQuote(paste("(", ask, "csv 2>", shQuote(err),
                                               "; echo status $? >>", shQuote(err),
                                               ") | head -c 5"))), stdout = TRUE)
  expect_identical(first, "rank,")
  expect_identical(readLines(err), "status 0")
})

test_that("a file of any kind that was cut anywhere is not taken for whole", {
  damage <- internal("damage")
  x <- ll_standings(ll_demo(), "rep")
  folder <- withr::local_tempdir()
  withr::local_seed(22)
  for (kind in whole_kinds) {
    file <- file.path(folder, paste0("a.", kind))
    ll_save(x, file)
    expect_null(damage(file, kind, nrow(x)), info = kind)
    bytes <- readBin(file, "raw", file.size(file))
    # A text may end at any line; the writers of text tell of each write.
    for (size in sample(length(bytes) - 2, 25)) if (!kind %in% c("csv", "json") ||
                                                    bytes[size] != as.raw(10)) {
      writeBin(utils::head(bytes, size), file)
      expect_match(damage(file, kind, nrow(x)), "not whole",
                   info = paste(kind, size, "of", length(bytes)))
    }
    writeBin(raw(), file)
    expect_match(damage(file, kind), "nothing", info = kind)
  }
})

test_that("what was read is never written over: lines, registers, sets, briefs, by any name", {
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  utils::write.csv(small_lines(), "lines.csv", row.names = FALSE, na = "")
  utils::write.csv(data.frame(rep = c("Ida", "Tom"), team = "A"), "reps.csv", row.names = FALSE)
  utils::write.csv(data.frame(rep = "Ida", since = 2020), "names.csv", row.names = FALSE)
  nanoparquet::write_parquet(small_lines(), "lines.parquet")
  writeLines(c("lines: lines.csv", "registers: {rep: reps.csv}",
               "sets: {some: {each: rep, file: names.csv}}", "metrics: {revenue: sum(net)}",
               "pages: {reps: {study: standings, each: rep}}"), "b.yml")
  file.symlink("lines.csv", "soft.csv")
  file.link("lines.csv", "hard.csv")
  before <- tools::md5sum(list.files())
  book <- ll_brief("b.yml")$book
  x <- ll_standings(book, "rep")
  dir.create("sub")
  for (file in c("lines.csv", "./lines.csv", "sub/../lines.csv", file.path(folder, "lines.csv"),
                 "soft.csv", "hard.csv", "reps.csv", "names.csv"))
    expect_error(ll_save(x, file), "comes from this very file", class = "ll_error_target",
                 info = file)
  expect_error(ll_save(ll_standings(ll_book("lines.parquet", metrics = c(revenue = "sum(net)")),
                                    "rep"), "lines.parquet"), "very file")
  expect_error(ll_save(ll_standings(ll_book(c("lines.csv", "*arquet"),
                                            metrics = c(revenue = "sum(net)")), "rep"),
                       "lines.parquet"), "very file")
  ask <- function(...) command("standings", "--brief", "b.yml", "--each", "rep", ...)
  outcomes <- list(ask("--out", "lines.csv"), ask("--out", "new.csv", "--out", "reps.csv"),
                   ask("--log", "lines.csv"), ask("--log", "b.yml"),
                   command("draft", "lines.csv", "--out", "b.yml"),
                   command("draft", "lines.csv", "--out", "lines.csv", "--replace"),
                   command("schema", "--out", "b.yml"), command("run", "b.yml", "--out", "."),
                   command("run", "b.yml", "--out", ".", "--replace"))
  for (i in seq_along(outcomes)) expect_equal(outcomes[[i]]$status, 2,
                                              info = paste(i, outcomes[[i]]$err))
  expect_identical(tools::md5sum(names(before)), before)
  expect_setequal(left_in("."), c(names(before), "sub"))
  # What is new, or a log of ours, is written.
  expect_equal(ask("--log", "told.log")$status, 0)
  expect_equal(ask("--log", "told.log")$status, 0)
  expect_gt(length(readLines("told.log")), 3)
  expect_equal(command("draft", "lines.csv", "--out", "c.yml")$status, 0)
  expect_equal(command("draft", "lines.csv", "--out", "c.yml", "--replace")$status, 0)
})

test_that("a foreign record decides nothing, and no link is followed out", {
  skip_unless_all()
  skip_without_pandoc()
  file <- run_brief_file()
  out <- file.path(dirname(file), "out")
  elsewhere <- withr::local_tempdir()
  writeLines("far", file.path(elsewhere, "far.csv"))
  dir.create(out)
  theirs <- c("thesis.csv", "a[b].csv", "remarks.txt", "*.csv")
  for (name in theirs) writeLines("mine", file.path(out, name))
  foreign <- list(program = "longladder", files = I(c("*", theirs, "../lines.csv")),
                  written = data.frame(file = c("*", theirs, "../lines.csv",
                                                file.path(elsewhere, "far.csv")), bytes = 5,
                                       md5 = "0"))
  writeLines(jsonlite::toJSON(foreign), file.path(out, "record.json"))
  # Not ours; and if the person says that it is, it reaches no further than a run's own names.
  expect_match(command("run", file, "--out", out)$err, "bears no signature")
  expect_equal(command("run", file, "--out", out, "--trust-folder")$status, 0)
  expect_true(all(theirs %in% left_in(out)))
  # Ours, changed since, or with our name and their content: nothing of it goes.
  writeLines("changed", file.path(out, "areas.csv"))
  expect_equal(command("run", file, "reps", "--out", out)$status, 0)
  expect_identical(readLines(file.path(out, "areas.csv")), "changed")
  got <- command("run", file, "--out", out)
  expect_equal(got$status, 2)
  expect_match(got$err,
               "out/areas.csv' cannot be written.\nx no earlier run wrote it, or it was changed")
  expect_identical(readLines(file.path(out, "areas.csv")), "changed")
  expect_equal(command("run", file, "--out", out, "--replace")$status, 0)
  # A folder where a file of ours was: one message, nothing of R's own.
  file.remove(file.path(out, "areas.csv"))
  dir.create(file.path(out, "areas.csv"))
  got <- command("run", file, "--out", out)
  expect_match(got$err,
               paste0("^longladder: The file '[^\n]*/areas.csv' cannot be written.\nx a folder ",
                      "has that name.\ni Choose another folder.$"))
  unlink(file.path(out, "areas.csv"), recursive = TRUE)
  # A folder of a group that is a link to another.
  dir.create(apart <- file.path(dirname(file), "apart"))
  file.symlink(elsewhere, file.path(apart, "fen"))
  got <- command("run", file, "--out", apart, "--for-each", "area", "--replace")
  expect_equal(got$status, 2)
  expect_match(got$err, "its folder is a link")
  expect_identical(left_in(elsewhere), "far.csv")
  # A record that is somebody else's is not written over.
  dir.create(other <- file.path(dirname(file), "other"))
  writeLines("{\"album\": \"Moor\"}", file.path(other, "record.json"))
  expect_match(command("run", file, "--out", other)$err, "record.json' cannot be written")
  expect_identical(left_in(other), "record.json")
})

test_that("an edited notebook stays, and the run goes on", {
  skip_unless_all()
  skip_without_pandoc()
  file <- run_brief_file()
  out <- file.path(dirname(file), "out")
  ll_run(file, out)
  cat("my own thoughts\n", file = file.path(out, "notebook.Rmd"), append = TRUE)
  got <- command("run", file, "--out", out)
  expect_equal(got$status, 0)
  expect_match(got$err, "notebook.Rmd' was changed since the earlier run and is left")
  expect_identical(utils::tail(readLines(file.path(out, "notebook.Rmd")), 1), "my own thoughts")
  ll_run(file, out, replace = TRUE)
  expect_false("my own thoughts" %in% readLines(file.path(out, "notebook.Rmd")))
})

# A stage as a run has it before its files are moved, with the files of an earlier run in place.
staged_files <- function(beside, inside = FALSE) {
  out <- file.path(beside, "out")
  dir.create(file.path(out, "moor"), FALSE, TRUE)
  for (name in c("a.csv", "gone.csv", "moor/b.csv")) writeLines(paste("old", name),
                                                                file.path(out, name))
  writeLines("{}", file.path(out, "record.json"))
  stage <- internal("open_stage")(if (inside) out else beside, stop)
  new <- file.path(stage$path, "new")
  dir.create(file.path(new, "fen"), FALSE, TRUE)
  for (name in c("a.csv", "c.csv", "fen/b.csv",
                 "record.json")) writeLines(paste("new", name), file.path(new, name))
  list(stage = stage, out = out)
}

all_texts <- function(folder) {
  files <- sort(list.files(folder, recursive = TRUE, include.dirs = TRUE))
  vapply(stats::setNames(file.path(folder, files), files),
         function(f) if (dir.exists(f)) "folder" else readLines(f), "")
}

test_that("a move that fails, or a death, at any moment leaves all old or all new", {
  place <- internal("place_files")
  count <- 0
  for (inside in c(FALSE, TRUE)) for (fails in c(0:8, -(1:8))) {
    beside <- withr::local_tempdir()
    made <- staged_files(beside, inside)
    before <- all_texts(made$out)
    moves <- 0
    real <- internal("move_file")
    outcome <- with_internal("move_file", function(from, to) {
      moves <<- moves + 1
      if (moves == fails) stop("no")
      # A death: nothing after it is done in this process, the taking back included.
      if (moves == -fails) stop(structure(class = c("death", "condition"),
                                          list(message = "killed", call = NULL)))
      real(from, to)
    }, tryCatch(place(made$stage, made$out, "gone.csv"), ll_error_target = identity,
                death = identity))
    if (inherits(outcome, "death")) {
      internal("kernel_let_go")(made$stage$held)
      internal("sweep_stages")(dirname(made$stage$path), internal("restore_placed"))
      expect_identical(left_in(beside), "out")
      expect_false(dir.exists(made$stage$path))
    }
    if (inherits(outcome, "condition")) {
      count <- count + 1
      expect_identical(all_texts(made$out), before, info = fails)
    } else {
      expect_identical(unname(all_texts(made$out)[c("a.csv", "c.csv", "fen/b.csv")]),
                       paste("new", c("a.csv", "c.csv", "fen/b.csv")), info = fails)
      expect_false(file.exists(file.path(made$out, "gone.csv")))
    }
    internal("close_stage")(made$stage)
  }
  expect_gt(count, 20)
})

test_that("a plan that came from elsewhere moves nothing", {
  beside <- withr::local_tempdir()
  made <- staged_files(beside)
  stage <- made$stage$path
  dir.create(file.path(stage, "old"))
  writeLines("planted", file.path(stage, "old", "a.csv"))
  writeLines(jsonlite::toJSON(list(out = "out", files = I("a.csv"), there = I("a.csv"),
                                   gone = I(character()), mark = c("1:2", "3:4"))),
             file.path(stage, "plan.json"))
  before <- all_texts(made$out)
  internal("kernel_let_go")(made$stage$held)
  internal("sweep_stages")(beside, internal("restore_placed"))
  expect_identical(all_texts(made$out), before)
  expect_identical(left_in(beside), "out")
})

test_that("what dead processes left goes with the next; what is not theirs stays", {
  skip_unless_all()
  beside <- withr::local_tempdir()
  writeLines("mine", file.path(beside, ".longladder-remarks"))
  dir.create(file.path(beside, ".longladder-mine"))
  writeLines("mine", file.path(beside, ".longladder-mine", "thesis.txt"))
  living <- internal("open_stage")(beside, stop)
  script <- write_text(paste0("x <- longladder:::open_stage(commandArgs(TRUE)[1], stop); ",
                              "writeLines('half', file.path(x$path, 'part.csv'))"),
                       paste0("longladder:::mark_temporary(); writeLines('big', tempfile()); ",
                              "tools::pskill(Sys.getpid(), 9)"), ending = ".R")
  temporary <- withr::local_tempdir()
  withr::local_envvar(R_LIBS = paste(.libPaths(), collapse = ":"), TMPDIR = temporary)
  suppressWarnings(system2(file.path(R.home("bin"), "Rscript"),
                           c("--no-init-file", shQuote(script), shQuote(beside)), stderr = FALSE))
  expect_length(list.files(beside, "^[.]longladder", all.files = TRUE), 4)
  expect_length(list.files(temporary), 1)
  file <- file.path(beside, "r.csv")
  expect_equal(run_process("standings", demo_path("order_lines.csv"), "--each", "rep", "--define",
                           "r=sum(net)", "--out", file)$status, 0)
  expect_setequal(left_in(beside), c(".longladder-remarks", ".longladder-mine",
                                     basename(living$path), "r.csv"))
  expect_length(list.files(temporary), 0)
  internal("close_stage")(living)
})
