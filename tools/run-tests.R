# Runs the tests on the installed package, all of them or those whose file names match the words
# given, and ends with one plain line of counts. Snapshots are compared as well; one that changed or
# is missing fails. The everyday run, without words, goes in two processes at once; long tests are
# left out of it and come with LONGLADDER_TEST_ALL=1 (make test-all) and in CI.
Sys.setenv(NOT_CRAN = "true")
words <- commandArgs(TRUE)
yes <- function(name) nzchar(Sys.getenv(name))

# Some files, in this process.
run_here <- function(words) {
  library(testthat)
  results <- test_dir("tests/testthat", filter = if (length(words)) paste(words, collapse = "|"),
                      package = "longladder", load_package = "installed", reporter = "summary",
                      stop_on_failure = FALSE)
  counts <- as.data.frame(results)
  c(passed = sum(counts$passed), failed = sum(counts$failed) + sum(counts$error),
    skipped = sum(counts$skipped))
}

# All files, some at a time in a process each, two at once; each tells its counts on its last line.
# Those that ask servers are one part and begin, since they write tables of the same names there.
run_apart <- function() {
  files <- list.files("tests/testthat", "^test-.*[.]R$", full.names = TRUE)
  asks <- vapply(files, function(f) any(grepl("_kinds(", readLines(f), fixed = TRUE)), NA)
  files <- sub("^test-(.*)[.]R$", "\\1", basename(files))
  parts <- c(list(files[asks]), split(files[!asks], seq_along(files[!asks]) %% 8))
  logs <- vapply(parts, function(part) tempfile(fileext = ".log"), "")
  one <- function(i) {
    system2(file.path(R.home("bin"), "Rscript"),
            c("--no-init-file", "tools/run-tests.R", shQuote(paste0("^", parts[[i]], "$"))),
            stdout = logs[i], stderr = logs[i])
  }
  cores <- if (.Platform$OS.type == "windows") 1L else 2L
  parallel::mclapply(seq_along(parts), one, mc.cores = cores, mc.preschedule = FALSE)
  rowSums(vapply(logs, function(log) {
    lines <- if (file.exists(log)) readLines(log, warn = FALSE) else character()
    last <- grep("^[0-9]+ passed, [0-9]+ failed, [0-9]+ skipped$", lines, value = TRUE)
    cat(grep("^ *$|^[0-9]+ passed|^.* DONE |^No example", lines, value = TRUE, invert = TRUE),
        sep = "\n")
    # A process that ended without a word has failed.
    if (!length(last)) return(c(passed = 0, failed = 1, skipped = 0))
    stats::setNames(as.numeric(regmatches(last, gregexpr("[0-9]+", last))[[1]]),
                    c("passed", "failed", "skipped"))
  }, c(passed = 0, failed = 0, skipped = 0)))
}

counts <- if (length(words)) run_here(words) else run_apart()
if (yes("CI")) {
  snapshots <- system2("git", c("status", "--porcelain", "tests/testthat/_snaps"), stdout = TRUE,
                       stderr = FALSE)
  if (length(snapshots)) cat("snapshots changed or missing:", snapshots, sep = "\n")
  counts[["failed"]] <- counts[["failed"]] + length(snapshots)
}
cat(sprintf("\n%d passed, %d failed, %d skipped\n", counts[["passed"]], counts[["failed"]],
            counts[["skipped"]]))
quit(status = if (counts[["failed"]] || !counts[["passed"]]) 1 else 0)
