# How many threads the fold may use: option longladder.threads, else LONGLADDER_THREADS, else the
# machine's, eight at most. R CMD check allows two.

thread_count <- function() {
  asked <- getOption("longladder.threads", Sys.getenv("LONGLADDER_THREADS"))
  asked <- suppressWarnings(as.integer(asked))
  if (length(asked) != 1 || is.na(asked) || asked < 1) asked <- min(kernel_threads(0L), 8L)
  if (nzchar(Sys.getenv("_R_CHECK_LIMIT_CORES_"))) asked <- min(asked, 2L)
  asked
}
