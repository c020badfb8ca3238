# How often the range of ranks that `resamples` gives holds a name's true rank, on simulated books:
# the table in ?ll_standings. Run as: R_LIBS=build/library Rscript tools/coverage.R [BOOKS]
library(longladder)
inner <- function(name) getFromNamespace(name, "longladder")
books <- as.integer(c(commandArgs(TRUE), "200")[1])

# 20 names with levels of their own, about `orders` orders each, amounts lognormal with the deviation
# `skew` of their logarithm; placed by the sum or the mean.
cover <- function(orders, skew, mean, names = 20, resamples = 400) {
  held <- width <- 0
  neighbours <- NULL
  for (book in seq_len(books)) {
    set.seed(book + 1000 * orders)
    level <- exp(rnorm(names, 0, .5))
    count <- pmax(rpois(names, orders), 1)
    name <- rep(seq_len(names), count)
    amount <- level[name] * rlnorm(length(name), -skew^2 / 2, skew)
    value <- rowsum(amount, name)[, 1] / if (mean) count else 1
    order <- order(-value)
    sums <- inner("kernel_resample")(matrix(amount), match(name, order) - 1L, seq_along(name) - 1L,
                                     names, length(name), 0L, resamples, book)
    score <- matrix(if (mean) sums[, 1] / sums[, 2] else sums[, 1], names)
    range <- inner("kernel_rank_ranges")(score, .05, .95)
    true <- rank(-level)[order]
    held <- held + sum(true >= range$low & true <= range$high)
    width <- width + sum(range$high - range$low + 1)
    level <- level[order]
    neighbours <- rbind(neighbours, data.frame(said = range$ahead[-names],
                                               right = level[-names] > level[-1]))
  }
  firm <- neighbours$right[neighbours$said >= .8]
  data.frame(orders, skew, by = if (mean) "mean" else "sum", held = held / (books * names),
             places = width / (books * names), firm_right = mean(firm, na.rm = TRUE))
}

cases <- expand.grid(orders = c(3, 5, 10, 30, 100), skew = c(.7, 1.2), mean = c(FALSE, TRUE))
out <- do.call(rbind, Map(cover, cases$orders, cases$skew, cases$mean))
print(out, digits = 3, row.names = FALSE)
