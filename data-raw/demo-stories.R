# The planted stories with their exact figures, by base R alone; stops where one does not hold.

tell_stories <- function(lines, registers) {
  at_account <- match(lines$account, registers$accounts$account)
  lines$type <- registers$accounts$type[at_account]
  lines$family <- registers$items$family[match(lines$item, registers$items$item)]
  out <- rbind(story_book(lines), story_account_tie(lines), story_close_reps(lines),
               story_untidy(lines), story_leader(lines), story_heads(lines),
               story_three_hands(lines), story_stopped(lines, registers), story_hive(lines),
               story_gap(lines), story_lowest(lines), story_price(lines))
  out$value <- sub("\\.00$", "", out$value)
  out
}

row <- function(story, key, value) {
  if (is.numeric(value)) value <- sprintf("%.2f", round(value, 2) + 0)
  data.frame(story = story, key = key, value = as.character(value))
}
by_sum <- function(lines, field) {
  sort(round(tapply(lines$net, lines[[field]], sum, na.rm = TRUE), 2), decreasing = TRUE)
}
orders_by <- function(lines, field) {
  tapply(lines$order_no, lines[[field]], function(x) length(unique(x)))
}
quarter <- function(lines, from, to) {
  lines[lines$order_date >= as.Date(from) & lines$order_date <= as.Date(to), ]
}

story_book <- function(lines) {
  rbind(row("book", "lines", nrow(lines)),
        row("book", "orders", length(unique(lines$order_no))),
        row("book", "revenue", sum(lines$net, na.rm = TRUE)),
        row("book", "cost", sum(lines$cost)),
        row("book", "first_date", format(min(lines$order_date))),
        row("book", "last_date", format(max(lines$order_date))),
        row("book", "returns", sum(lines$quantity < 0, na.rm = TRUE)),
        row("book", "credits", sum(is.na(lines$quantity))),
        row("book", "below_cost", sum(lines$net < lines$cost & lines$quantity > 0, na.rm = TRUE)),
        row("book", "below_cost_live_bees", sum(lines$net < lines$cost & lines$quantity > 0 &
                                                  lines$family == "live bees", na.rm = TRUE)))
}

story_account_tie <- function(lines) {
  total <- by_sum(lines, "account")
  naive <- vapply(names(total)[10:11], function(a) {
    Reduce(`+`, na.omit(lines$net[lines$account == a]))
  }, 0)
  stopifnot(total[10] == total[11], total[9] > total[10], total[11] > total[12],
            naive[1] != naive[2])
  rbind(row("tie", "tenth_a", min(names(total)[10:11])),
        row("tie", "tenth_b", max(names(total)[10:11])),
        row("tie", "tenth_revenue", total[[10]]), row("tie", "leader", names(total)[1]),
        row("tie", "leader_revenue", total[[1]]))
}

story_close_reps <- function(lines) {
  total <- by_sum(lines, "rep")
  gap <- round(total[["Tobias Wren"]] - total[["Greta Lunt"]], 2)
  at <- match(c("Tobias Wren", "Greta Lunt"), names(total))
  stopifnot(gap == .07, diff(at) == 1)
  rbind(row("close", "ahead", "Tobias Wren"), row("close", "behind", "Greta Lunt"),
        row("close", "ahead_revenue", total[["Tobias Wren"]]), row("close", "gap", gap),
        row("close", "rank", at[1]))
}

story_untidy <- function(lines) {
  two <- lines$rep %in% "tamsin  orrell"
  split <- tapply(lines$account, lines$order_no, function(x) length(unique(x)))
  early <- !is.na(lines$ship_date) & lines$ship_date < lines$order_date
  stopifnot(any(two), anyNA(lines$rep), anyNA(lines$net))
  rbind(row("untidy", "second_spelling", "tamsin  orrell"),
        row("untidy", "second_spelling_lines", sum(two)),
        row("untidy", "second_spelling_revenue", sum(lines$net[two], na.rm = TRUE)),
        row("untidy", "no_rep_lines", sum(is.na(lines$rep))),
        row("untidy", "no_rep_revenue", sum(lines$net[is.na(lines$rep)], na.rm = TRUE)),
        row("untidy", "no_net_lines", sum(is.na(lines$net))),
        row("untidy", "duplicate_lines", sum(duplicated(lines))),
        row("untidy", "ship_before_order_lines", sum(early)),
        row("untidy", "orders_under_two_accounts", sum(split > 1)))
}

story_leader <- function(lines) {
  total <- by_sum(lines, "rep")
  cell <- tapply(lines$net, list(lines$territory, lines$rep), sum, na.rm = TRUE)
  best <- colnames(cell)[apply(cell, 1, which.max)]
  stopifnot(sum(best == names(total)[1]) == 1)
  rbind(row("leader", "leader", names(total)[1]), row("leader", "leader_revenue", total[[1]]),
        row("leader", "second", names(total)[2]), row("leader", "second_revenue", total[[2]]),
        row("leader", "leads_in", rownames(cell)[best == names(total)[1]]),
        row("leader", "territories", nrow(cell)))
}

story_heads <- function(lines) {
  total <- by_sum(lines, "territory")
  heads <- tapply(lines$rep, lines$territory, function(x) length(unique(na.omit(x))))
  per_head <- total / heads[names(total)]
  stopifnot(names(total)[1] == "Moor", which.max(heads) == which(names(heads) == "Moor"),
            names(which.max(per_head)) == "Fen")
  rbind(row("heads", "leader", "Moor"), row("heads", "leader_revenue", total[["Moor"]]),
        row("heads", "leader_heads", heads[["Moor"]]), row("heads", "per_head_leader", "Fen"),
        row("heads", "leader_per_head", per_head[["Moor"]]),
        row("heads", "per_head_best", per_head[["Fen"]]))
}

story_three_hands <- function(lines) {
  total <- by_sum(lines, "rep")
  orders <- orders_by(lines, "rep")
  average <- total / orders[names(total)]
  top <- names(which.max(average))
  stopifnot(top == "Jory Blackwood", orders[[top]] == 3,
            names(which.max(orders)) != names(which.max(total)))
  first <- function(x) names(x)[which.max(x)]
  rbind(row("hands", "most_revenue", first(total)), row("hands", "most_orders", first(orders)),
        row("hands", "most_orders_count", max(orders)),
        row("hands", "highest_average", top), row("hands", "highest_average_value", average[[top]]),
        row("hands", "highest_average_orders", orders[[top]]))
}

story_stopped <- function(lines, registers) {
  last <- tapply(as.numeric(lines$order_date), lines$account, max)
  worth <- by_sum(lines, "account")
  silent <- names(last)[last < as.numeric(as.Date("2025-09-17"))]
  good <- silent[worth[silent] >= worth[[180]] * .5]
  never <- setdiff(registers$accounts$account, lines$account)
  stopifnot(length(silent) >= 18)
  rbind(row("stopped", "silent_last_12_months", length(silent)),
        row("stopped", "silent_revenue", sum(worth[silent])),
        row("stopped", "never_ordered", length(never)))
}

story_hive <- function(lines) {
  now <- quarter(lines, "2026-04-01", "2026-06-30")
  was <- quarter(lines, "2025-04-01", "2025-06-30")
  net <- function(x) sum(x$net, na.rm = TRUE)
  fen <- function(x) x[x$territory == "Fen" & x$type == "garden centre", ]
  vale <- function(x) x[x$territory == "Vale" & x$type == "school" & x$family == "suits", ]
  old <- function(x) x[x$item == "HV-001", ]
  new <- function(x) x[x$item == "HV-018", ]
  stopifnot(net(new(was)) == 0, net(new(fen(now))) > 40000,
            net(vale(now)) < net(vale(was)) * .2, net(old(fen(now))) < net(old(fen(was))))
  rbind(row("hive", "revenue_2025Q2", net(was)), row("hive", "revenue_2026Q2", net(now)),
        row("hive", "fen_garden_2025Q2", net(fen(was))),
        row("hive", "fen_garden_2026Q2", net(fen(now))),
        row("hive", "new_hive_2026Q2", net(new(now))),
        row("hive", "new_hive_fen_garden_2026Q2", net(new(fen(now)))),
        row("hive", "old_hive_2025Q2", net(old(was))),
        row("hive", "old_hive_2026Q2", net(old(now))),
        row("hive", "vale_school_suits_2025Q2", net(vale(was))),
        row("hive", "vale_school_suits_2026Q2", net(vale(now))))
}

story_gap <- function(lines) {
  best <- names(by_sum(lines, "account"))[1:40]
  buys <- unique(lines$account[lines$family == "extractors"])
  none <- sort(setdiff(best, buys))
  stopifnot(length(none) >= 6)
  rbind(row("gap", "top40_without_extractors", length(none)),
        row("gap", "top40_without_extractors_names", paste(none, collapse = " ")))
}

story_lowest <- function(lines) {
  value <- tapply(lines$net, lines$order_no, sum)
  low <- min(value[value > 0], na.rm = TRUE)
  holders <- lines$rep[lines$order_no %in% names(value)[which(value == low)]]
  orders <- orders_by(lines, "rep")
  fewest <- sort(names(orders)[orders == min(orders)])
  stopifnot(setequal(holders, c("Lotte Fane", "Felix Roke")), length(fewest) == 2)
  rbind(row("lowest", "smallest_positive_order", low),
        row("lowest", "holders", paste(sort(holders), collapse = ", ")),
        row("lowest", "fewest_orders", min(orders)),
        row("lowest", "fewest_orders_reps", paste(fewest, collapse = ", ")))
}

story_price <- function(lines) {
  jars <- lines[lines$family == "jars" & lines$quantity > 0 & !is.na(lines$quantity), ]
  was <- quarter(jars, "2025-01-01", "2025-06-30")
  now <- quarter(jars, "2026-01-01", "2026-06-30")
  net <- function(x) sum(x$net, na.rm = TRUE)
  rbind(row("price", "jars_revenue_2025H1", net(was)), row("price", "jars_revenue_2026H1",
                                                           net(now)),
        row("price", "jars_quantity_2025H1", sum(was$quantity)),
        row("price", "jars_quantity_2026H1", sum(now$quantity)))
}

write_readme <- function(stories, lines) {
  told <- c(
    book = "The whole book: January 2024 to mid September 2026, so that the last month and quarter are part periods.",
    tie = "Two accounts tie to the cent at tenth rank by revenue; added as plain floating point in file order their totals differ.",
    close = "Two reps are seven coins apart by revenue, next to each other.",
    untidy = "A rep spelled two ways, lines with no rep or no net, duplicate lines, shipment before order, an order under two accounts.",
    leader = "The rep with most revenue overall leads in one territory only.",
    heads = "A territory that leads on revenue only because more reps sell in it; per rep another one leads.",
    hands = "Most revenue, most orders and the highest average order are three reps; the average rests on three orders.",
    stopped = "Good accounts that stopped in 2025, and registered accounts that never ordered.",
    hive = "HV-018 arrives in April 2026, drives a jump in Fen garden centres in the second quarter while replacing HV-001, and hides the loss of suits to Vale schools.",
    gap = "Accounts among the forty best that never buy extractors.",
    lowest = "Two reps hold the same smallest order of positive value; two reps share the fewest orders.",
    price = "Jars: 12 % dearer from January 2026, a tenth fewer per line.")
  text <- c("# Demo data: Wrenfield Beekeeping Supply", "",
            "A made-up wholesaler. `Rscript data-raw/make-demo.R` makes it from a fixed seed into",
            "`inst/extdata/`; this page is written by the same script, and the figures below are taken",
            "from the lines with base R alone (`inst/extdata/stories.csv` holds them for the tests).", "")
  for (one in names(told)) {
    mine <- stories[stories$story == one, ]
    text <- c(text, paste0("## ", one), "", told[[one]], "", "| figure | value |", "|---|---|",
              sprintf("| `%s` | %s |", mine$key, mine$value), "")
  }
  text <- c(text,
            "Also there for later: the fair channel stops after October 2025; live bees are cleared", "below cost in August and September; trade is seasonal; account numbers have leading zeros.")
  writeLines(text, "data-raw/README.md")
}
