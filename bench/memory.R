# Peak memory of whole processes, as the operating system counts it: what a step takes beyond what
# was held before. And how fast this machine goes through memory, as the limit of any fold. Writes
# bench/memory.md.

source("bench/common.R")
# The lines are read from a file of R's own, so that making them leaves no mark; the peak is set back
# before each step, where the system lets us.
lines_file <- tempfile(fileext = ".rds")
saveRDS(order_lines(), lines_file, compress = FALSE)
setup <- sprintf("lines <- readRDS(%s)", shQuote(lines_file))
reset <- "invisible(gc()); writeLines(\"5\", \"/proc/self/clear_refs\"); held <- process_memory(\"VmRSS\")"
finish <- "cat(\"\\n\", held, process_memory(\"VmHWM\"))"
beyond <- function(before, step) {
  file <- tempfile(fileext = ".R")
  writeLines(c("source(\"bench/common.R\")", setup, before, reset, step, finish), file)
  said <- system2(file.path(R.home("bin"), "Rscript"), file, stdout = TRUE, stderr = FALSE)
  numbers <- as.numeric(strsplit(trimws(tail(said, 1)), " ")[[1]])
  c(held = numbers[1], beyond = numbers[2] - numbers[1])
}
book <- "book <- ll_book(lines, metrics = metrics); x <- fold(book$source, \"account\", list(a = part(\"sum\", \"net\"))); rm(x)"
steps <- list(
  "open a book" = c("", "book <- ll_book(lines, metrics = metrics)"),
  "sum by a text key" = c(book,
                          "x <- fold(book$source, \"account\", list(a = part(\"sum\", \"net\")))"),
  "data.table, sum by a text key" = c("data.table::setDT(lines)",
                                      "x <- lines[, .(sum(net)), by = account]"),
  "collapse, sum by a text key" = c("",
                                    "x <- collapse::fsum(lines$net, collapse::GRP(lines$account, sort = FALSE))"),
  "sum by two text keys" = c(book,
                             "x <- fold(book$source, c(\"account\", \"region\"), list(a = part(\"sum\", \"net\")))"),
  "median by a text key" = c(book,
                             "x <- fold(book$source, \"account\", list(a = part(\"quantile\", \"net\", prob = list(value = .5))))"),
  "distinct orders by a text key" = c(book,
                                      "x <- fold(book$source, \"account\", list(a = part(\"distinct\", \"order_no\")))"),
  "standings, whole call" = c(book, "x <- ll_standings(book, \"account\", \"revenue\", top = 10)"),
  "standings, four metrics, condition, comparison" = c(book,
                                                       "x <- ll_standings(book, \"account\", names(metrics), top = 10, where = \"region != \\\"north\\\"\", when = \"2025\", against = \"previous\")"),
  "bridge" = c(book,
               "x <- ll_bridge(book, \"revenue\", \"region\", when = \"2025\", against = \"2024\")"),
  "drill" = c(book,
              "x <- ll_drill(book, \"revenue\", by = c(\"account\", \"product\", \"region\"), when = \"2025\", against = \"2024\")"),
  "pareto" = c(book, "x <- ll_pareto(book, \"account\", \"revenue\")"),
  "quadrants" = c(book, "x <- ll_quadrants(book, \"account\", c(\"revenue\", \"margin_rate\"))"),
  "tiers" = c(book,
              "x <- ll_tiers(book, \"account\", metrics = \"revenue\", tiers = c(small = 0, large = 25000))"),
  "score, 200 draws of weights" = c(book,
                                    "x <- ll_score(book, \"account\", c(\"revenue\", \"margin_rate\"), draws = 200)"),
  "standings, 50 resamples" = c(book,
                                "x <- ll_standings(book, \"account\", \"revenue\", top = 10, resamples = 50)"),
  "crosstab" = c(book, "x <- ll_crosstab(book, \"product\", \"region\", \"revenue\")"))
if (!has("collapse")) steps <- steps[!startsWith(names(steps), "collapse")]
taken <- as.data.frame(do.call(rbind, lapply(steps, function(s) beyond(s[1], s[2]))))
read <- n_lines * 12 / 2^20
text <- sprintf("| %s | %.0f | %.0f | %.2f |", rownames(taken), taken$held, taken$beyond,
                taken$beyond / read)
write_page("memory", "Memory", paste0(
  count(n_lines),
  " lines. Held: what the process holds before the step, in MB. Beyond: how much more it took at its peak. The columns that a sum by a text key ",
  "reads are ", round(read), " MB (codes of 4 bytes and amounts of 8)."), "",
  "| step | held MB | beyond MB | of the columns read |", "|---|---|---|---|", text, "",
           "![memory](memory.png)", "",
  do.call(sprintf,
          c(list("Memory in this run: %.1f GB a second reading, %.1f writing, by %d threads."),
            memory_speed() / 1e9, internal("thread_count")())))
house <- internal("house")
taken$step <- factor(rownames(taken), rev(rownames(taken)))
figure <- ggplot2::ggplot(taken, ggplot2::aes(beyond, step)) +
  ggplot2::geom_col(fill = house$main,
                    width = .6) + ggplot2::geom_vline(xintercept = read, colour = house$mark) +
  ggplot2::geom_label(ggplot2::aes(label = paste(count(round(beyond)), "MB")), hjust = -.05,
                      colour = house$ink, fill = "white", label.size = 0, size = 3.6) +
  ggplot2::scale_x_continuous(expand = ggplot2::expansion(c(0, .12)),
                              labels = NULL) + internal("theme_house")() +
  ggplot2::theme(axis.text.y = ggplot2::element_text(hjust = 0, colour = house$ink)) +
  ggplot2::labs(title = paste("Memory beyond what was held,", count(n_lines), "lines"),
                subtitle = "at its peak, as the system counts it; the line: the two columns that a sum reads")
save_drawn("memory", figure)
