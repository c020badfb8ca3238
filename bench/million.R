# Studies of a million names with one line each, against one sort of their values; and what each does
# with the values alone. Writes bench/million.md and bench/million.png.

source("bench/common.R")
names <- as.integer(as.numeric(Sys.getenv("NAMES", "1e6")))
set.seed(1)
lines <- data.frame(account = sprintf("A%07d", sample(names)),
                    order_no = sprintf("N%07d", seq_len(names)),
                    net = round(rlnorm(names, 4, 1.5), 2), cost = round(rlnorm(names, 3.5, 1.5), 2))
book <- ll_book(lines, fields = c(account = "dimension", order_no = "identifier"),
                order = "order_no", metrics = c(revenue = "sum(net)",
                                                margin = "sum(net) - sum(cost)",
                                                rate = "(sum(net) - sum(cost)) / sum(net)"))
value <- lines$net
ranks <- internal("ranks")
order_of <- function() order(value, method = "radix")
subjects <- list(
  "ranking values" = list(
    ours = function() ranks(value),
    "one sort" = order_of,
    "base R, rank()" = function() rank(-value, ties.method = "min"),
    data.table = function() data.table::frank(-value, ties.method = "min")),
  "Pareto cut of values" = list(
    ours = function() {
      at <- internal("best_order")(value)
      internal("inside_counts")(value[at], c(.5, .8))
    },
    "one sort" = order_of,
    "base R, by hand" = function() {
      sorted <- sort(value, decreasing = TRUE)
      cumsum(sorted) / sum(sorted)
    }),
  "tiers of values" = list(
    ours = function() internal("tier_number")(value, c(10, 100, 1000), TRUE),
    "one sort" = order_of,
    "base R, findInterval()" = function() findInterval(value, c(10, 100, 1000))),
  "standings, top 10" = list(ours = function() ll_standings(book, "account", "revenue", top = 10),
                             "one sort" = order_of),
  "pareto" = list(ours = function() ll_pareto(book, "account", "revenue"), "one sort" = order_of),
  "quadrants" = list(ours = function() ll_quadrants(book, "account", c("revenue", "rate")),
                     "one sort" = order_of),
  "tiers" = list(ours = function() ll_tiers(book, "account", metrics = "revenue",
                                            tiers = c(small = 0, middle = 100, large = 1000)),
                 "one sort" = order_of),
  "score" = list(ours = function() ll_score(book, "account", c("revenue", "rate")),
                 "one sort" = order_of),
  "score, with 20 draws of weights" = list(ours = function() ll_score(book, "account",
                                                                      c("revenue", "rate"),
                                                                      draws = 20), "one sort" = order_of))
few <- max(names %/% 100, 10)
orders <- data.frame(account = sprintf("A%05d", sample(few, names, TRUE)),
                     order_no = lines$order_no, net = lines$net)
orders_book <- ll_book(orders, fields = c(account = "dimension", order_no = "identifier"),
                       order = "order_no", metrics = c(revenue = "sum(net)"))
subjects[[paste("resamples of", count(few), "names")]] <- list(
  ours = function() ll_standings(orders_book, "account", "revenue", top = 10,
                                 resamples = 200), "one sort" = order_of)
if (!has("data.table")) subjects <- lapply(subjects, function(s) s[names(s) != "data.table"])
rows <- measure(subjects)
write_page("million", "A million names", paste0(
  count(names), " names with a line each (resamples: 200 resamples of the orders of ", count(few),
  " names); medians of ", rounds,
  " interleaved rounds. The first three subjects are what ",
  "a study does with the values alone; the others are whole calls: the fold, the table with its names, notes, and proof. \"One sort\" is R's radix order() of the values."),
  "", table_of(rows), "", "![million](million.png)")
draw_rows("million", rows, paste("Studies of", count(names), "names"))
