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
  # Where the time goes.
  slow <- utils::head(counts[order(-counts$real), ], 3)
  cat(sprintf("slow: %5.0f s %s: %s", slow$real, slow$file, slow$test), sep = "\n")
  c(passed = sum(counts$passed), failed = sum(counts$failed) + sum(counts$error),
    skipped = sum(counts$skipped))
}

# All files, some at a time in a process each, two at once; each part is told as it ends, so that one
# that hangs is seen, and is stopped after its time. Those that ask servers are one part and begin,
# since they write tables of the same names there; the page in a browser is another.
run_apart <- function() {
  files <- list.files("tests/testthat", "^test-.*[.]R$", full.names = TRUE)
  asks <- vapply(files, function(f) any(grepl("_kinds(", readLines(f), fixed = TRUE)), NA)
  names <- sub("^test-(.*)[.]R$", "\\1", basename(files))
  alone <- names %in% c("desk", "vignettes", "core-segments")
  parts <- c(list(names[asks]), as.list(names[alone & !asks]),
             split(names[!asks & !alone], seq_len(sum(!asks & !alone)) %% 16))
  cores <- if (.Platform$OS.type == "windows") 1L else 2L
  counts <- parallel::mclapply(parts, run_part, mc.cores = cores, mc.preschedule = FALSE)
  # What failed stands at the end too: of a long log its end is what is read.
  again <- unlist(lapply(counts, attr, "told"))
  if (length(again)) writeLines(c("", "What failed:", utils::head(again, 200)))
  rowSums(vapply(counts, as.numeric, numeric(3)))
}

# One part in a process of its own: its counts, after what it had to say.
run_part <- function(files, minutes = 40) {
  log <- tempfile(fileext = ".log")
  # At a terminal the command would wait for what is typed.
  nothing <- tempfile()
  file.create(nothing)
  begun <- Sys.time()
  ended <- suppressWarnings(system2(
    file.path(R.home("bin"), "Rscript"),
    c("--no-init-file", "tools/run-tests.R", shQuote(paste0("^", files, "$"))),
    stdout = log, stderr = log, stdin = nothing, timeout = minutes * 60))
  lines <- if (file.exists(log)) readLines(log, warn = FALSE) else character()
  last <- grep("^[0-9]+ passed, [0-9]+ failed, [0-9]+ skipped$", lines, value = TRUE)
  # A process that ended without a word has failed.
  counts <- if (length(last)) as.numeric(regmatches(last, gregexpr("[0-9]+", last))[[1]]) else
    c(0, 1, 0)
  slow <- grep("^slow: ", lines, value = TRUE)
  told <- grep("^ *$|^slow: |^[0-9]+ passed|^.* DONE |^No example", lines, value = TRUE, invert = TRUE)
  # What was left out is told where nothing should be.
  if (counts[2] == 0 && !(yes("CI") && counts[3] > 0)) told <- character()
  writeLines(c(told, if (yes("LONGLADDER_TEST_ALL")) slow, if (!length(last)) paste(
    "stopped", if (ended == 124) paste("after", minutes, "minutes") else paste("with", ended)),
    sprintf("%6.1f s  %5d passed, %d failed, %d skipped: %s", as.numeric(Sys.time() - begun, "secs"),
            counts[1], counts[2], counts[3], paste(files, collapse = " "))))
  failing <- counts[2] > 0
  structure(counts, told = if (failing) grep("^[a-z-]+: [.]*", told, value = TRUE, invert = TRUE))
}

counts <- if (length(words)) run_here(words) else
  stats::setNames(run_apart(), c("passed", "failed", "skipped"))
if (yes("CI")) {
  snapshots <- system2("git", c("status", "--porcelain", "tests/testthat/_snaps"), stdout = TRUE,
                       stderr = FALSE)
  if (length(snapshots)) cat("snapshots changed or missing:", snapshots, sep = "\n")
  counts[["failed"]] <- counts[["failed"]] + length(snapshots)
}
cat(sprintf("\n%d passed, %d failed, %d skipped\n", counts[["passed"]], counts[["failed"]],
            counts[["skipped"]]))
quit(status = if (counts[["failed"]] || !counts[["passed"]]) 1 else 0)
