# Whole questions on an open book, with table, notes and proof: standings of many customers on four
# metrics with a condition and a period to compare with, a crosstab, a trend; against one plain
# grouping by a text key. Writes bench/standings.md and bench/standings.png.

source("bench/common.R")
lines <- order_lines()
table <- data.table::as.data.table(lines)
book <- ll_book(lines, metrics = metrics)
best_ten <- function(from, to) {
  kept <- table[region != "north" & day >= from & day <= to]
  sums <- kept[, .(revenue = sum(net), cost_total = sum(cost)), by = account]
  orders <- unique(kept, by = c("account", "order_no"))[, .(orders = .N), by = account]
  sums <- orders[sums, on = "account"]
  sums[, margin_rate := (revenue - cost_total) / revenue]
  sums[, rank := data.table::frank(-revenue, ties.method = "min")]
}
grouping <- function() table[, .(sum(net)), by = account]
fastest <- if (has("collapse")) function() collapse::fsum(lines$net,
                                                          collapse::GRP(lines$account,
                                                                        sort = FALSE)) else grouping
subjects <- list(
  "standings, one metric" = list(
    ours = function() ll_standings(book, "account", "revenue", top = 10),
    "one grouping by a text key" = fastest,
    "data.table, by hand, no notes or proof" = function() {
      sums <- table[, .(revenue = sum(net)), by = account]
      sums[, rank := data.table::frank(-revenue, ties.method = "min")][rank <= 10]
    }),
  "standings, four metrics, condition, comparison" = list(
    ours = function() ll_standings(book, "account", names(metrics), top = 10,
                                   where = "region != \"north\"", when = "2025",
                                   against = "previous"),
    "one grouping by a text key" = fastest,
    "data.table, by hand, no notes or proof" = function() {
      now <- best_ten(as.Date("2025-01-01"), as.Date("2025-12-31"))
      was <- best_ten(as.Date("2024-01-01"), as.Date("2024-12-31"))
      merge(now, was, by = "account", all.x = TRUE)[rank.x <= 10][order(rank.x)]
    }),
  "crosstab of products by region" = list(
    ours = function() ll_crosstab(book, "product", "region", "revenue"),
    "data.table, by hand, no notes or proof" = function() data.table::dcast(table[, .(v = sum(net)),
                                                                                  by = .(product,
                                                                                         region)], product ~ region, value.var = "v")),
  "trend by month and region" = list(
    ours = function() ll_trend(book, "revenue", by = "region"),
    "data.table, by hand, no notes or proof" = function() table[, .(sum(net)),
                                                                by = .(region,
                                                                       year = data.table::year(day),
                                                                       month = data.table::month(day))]))
rows <- measure(subjects)
write_page("standings", "Whole questions", paste0(
  count(nrow(lines)), " lines, ", count(length(unique(lines$account))), " customers; medians of ",
  rounds, " interleaved rounds after a first one. ",
  "Ours are whole calls on an open book: the table, its notes, and its proof, which adds everything up once more in base R. \"One grouping\" is the ",
  "fastest rival adding up one column by the raw names of the customers."), "", table_of(rows), "",
           "![standings](standings.png)")
draw_rows("standings", rows, paste("Whole questions of", count(nrow(lines)), "lines"))
