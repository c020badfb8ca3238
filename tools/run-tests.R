# Runs the tests on the installed package, all of them or those whose file names match the words
# given, and ends with one plain line of counts. Snapshots are compared as well; one that changed or
# is missing fails.
Sys.setenv(NOT_CRAN = "true")
library(testthat)
words <- commandArgs(TRUE)
results <- test_dir("tests/testthat", filter = if (length(words)) paste(words, collapse = "|"), 
                    package = "longladder", load_package = "installed", reporter = "summary",
                    stop_on_failure = FALSE)
counts <- as.data.frame(results)
snapshots <- system2("git", c("status", "--porcelain", "tests/testthat/_snaps"), stdout = TRUE,
                     stderr = FALSE)
changed <- if (isTRUE(as.logical(Sys.getenv("CI")))) length(snapshots) else 0L
failed <- sum(counts$failed) + sum(counts$error) + changed
if (changed) cat("snapshots changed or missing:", snapshots, sep = "\n")
passed <- sum(counts$passed)
skipped <- sum(counts$skipped)
cat(sprintf("\n%d passed, %d failed, %d skipped\n", passed, failed, skipped))
quit(status = if (failed || !passed) 1 else 0)
