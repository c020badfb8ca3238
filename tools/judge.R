# Judges sentences: asks random books, works every claim of what comes back out again by base R, and
# tells those that are wrong, with the seed that draws the book again.
#
#   Rscript tools/judge.R [SENTENCES] [SEED]
suppressPackageStartupMessages(library(longladder))
source("tests/testthat/helper-judge.R")

given <- commandArgs(TRUE)
wanted <- if (length(given) > 0) as.numeric(given[1]) else 20000
seed <- if (length(given) > 1) as.numeric(given[2]) else as.integer(Sys.time()) %% 1e6 * 1000
cores <- if (.Platform$OS.type == "windows") 1L else 2L

judged <- function(seed) {
  tryCatch(judge_all(seed), error = function(e) {
    data.frame(kind = "error", wrong = conditionMessage(e), seed = seed)
  })
}

told <- NULL
repeat {
  more <- parallel::mclapply(seed + seq_len(4 * cores) - 1, judged, mc.cores = cores)
  told <- rbind(told, do.call(rbind, more))
  seed <- seed + 4 * cores
  if (NROW(told) >= wanted) break
}
wrong <- told[nzchar(told$wrong), ]
shown <- utils::head(wrong, 20)
cat(sprintf("%s, seed %d: %s\n", shown$kind, as.integer(shown$seed), shown$wrong), sep = "")
cat(sprintf("judged: %d sentences of %d kinds in %d books, %d wrong\n", nrow(told),
            length(unique(told$kind)), length(unique(told$seed)), nrow(wrong)))
quit(status = if (nrow(wrong)) 1 else 0)
