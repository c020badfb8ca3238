# How long the command takes to start, against R's own start. Writes bench/command.md.

source("bench/common.R")
rscript <- file.path(R.home("bin"), "Rscript")
run <- function(...) function() system2(rscript, c("--vanilla", ...), stdout = FALSE,
                                        stderr = FALSE)
Sys.setenv(R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep))
file <- tempfile(fileext = ".csv")
data.table::fwrite(order_lines(1000), file)
command <- file.path("exec", "longladder")
subjects <- list("start of the command" = list(
  ours = run(command, "help"),
  "R alone" = run("-e", "1"),
  "loading data.table" = run("-e", shQuote("library(data.table)")),
  "standings of 1,000 lines from a CSV file" = run(command, "standings", file, "--each", "account",
                                                   "--define", shQuote("revenue=sum(net)")),
  "standings of the demo, with its brief" = run(command, "standings", "--brief", shQuote(
    "inst/extdata/longladder.yml"), "--each", "rep"),
  "a question in words to the demo" = run(command, "ask", shQuote("top 5 reps by margin in 2025"),
                                          "--brief", "inst/extdata/longladder.yml")))
rows <- measure(subjects, times = max(rounds, 7))
write_page("command", "The command", paste0("Whole processes; medians of ", max(rounds, 7),
                                            " interleaved rounds. The command starts ",
  sprintf("%.2f s", rows$seconds[1] - rows$seconds[2]), " later than R itself."), "",
           table_of(rows), "", "![command](command.png)")
draw_rows("command", transform(rows, subject = sub("ours", "the command, asked for help", who),
                               who = "whole process"), "The start of the command")
