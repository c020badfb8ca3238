# Times the studies of who is new, gone and missing on many names and products, as multiples of one
# plain fold of a sum by the names on the same open book. Writes bench/names.md.
#
#   make bench              two million lines, 200,000 names, 10,000 products
#   LINES=1e7 make bench    ten million, a million names

source("bench/common.R")
n <- n_lines
names <- n %/% 10
set.seed(1)
lines <- data.frame(
  order_no = sprintf("N%07d", sample(n * 2 / 5, n, TRUE)),
  day = as.Date("2022-01-01") + sample(1800, n, TRUE),
  account = sprintf("A%07d", sample(names, n, TRUE)), item = sprintf("I%05d", sample(1e4, n, TRUE)),
  net = round(runif(n, 1, 500), 2))
register <- data.frame(account = sprintf("A%07d", seq_len(names * 1.01)),
                       kind = rep_len(c("a", "b", "c"), names * 1.01))
book <- ll_book(lines, fields = c(order_no = "identifier", account = "dimension",
                                  item = "dimension"), metrics = c(revenue = "sum(net)"),
                registers = list(account = register), order = "order_no", date = "day")
sum_of_net <- list(a = part("sum", "net"))
subjects <- list(
  "plain fold by name" = function() fold(book$source, "account", sum_of_net),
  "plain fold by name and product" = function() fold(book$source, c("account", "item"), sum_of_net),
  "standings of names, top 10" = function() ll_standings(book, "account", top = 10),
  "sets: active then and not now" = function() ll_sets(book, "account",
                                                       "active('2024') - active('2025')", top = 20),
  "sets: the best 50 that are still active" = function() ll_sets(book, "account",
                                                                 "top(revenue, 50, when = '2024') & active('2025')"),
  "sets: registered and never seen" = function() ll_sets(book, "account", "registered() - active()",
                                                         top = 20),
  "lapsed" = function() ll_lapsed(book, "account", top = 20),
  "cohorts by year" = function() ll_cohorts(book, "account"),
  "whitespace of the best 40 by product" = function() ll_whitespace(book, "account", "item"),
  "whitespace of all names by product" = function() ll_whitespace(book, "account", "item",
                                                                  top = "all"))
rows <- measure(lapply(subjects, function(f) list(ours = f)), times = min(rounds, 3))
write_page("names", "Many names", paste0(
  count(n), " lines, ", count(names), " names, 10,000 products; medians of ", min(rounds, 3),
  " interleaved rounds after a first one, whole calls with table, ",
  "notes and proof."), "", table_of_folds(rows, "plain folds by name"), "", "![names](names.png)")
draw_rows("names", rows, paste("Who is new, gone and missing, in", count(n), "lines"))
