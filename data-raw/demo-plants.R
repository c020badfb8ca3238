# The planted stories, one function each; README.md tells them in words.

plant_stories <- function(lines, registers) {
  items <- registers$items
  lines$family <- items$family[match(lines$item, items$item)]
  lines <- plant_price_change(lines, items)
  lines <- plant_stopped(lines)
  lines <- plant_gap(lines)
  lines <- plant_old_hive(lines, items)
  lines <- plant_new_hive(lines, items)
  lines <- plant_hidden_loss(lines)
  lines <- plant_leader(lines, registers$reps)
  lines <- plant_busy(lines)
  lines <- plant_rare_reps(lines, items)
  lines <- plant_lowest_orders(lines, items)
  lines <- plant_credits(lines)
  lines <- plant_untidy(lines)
  lines <- plant_account_tie(lines)
  lines <- plant_close_reps(lines)
  finish(lines)
}

total_by <- function(lines, field) sort(tapply(lines$net, lines[[field]], sum, na.rm = TRUE), TRUE)

# Jars: 12 % dearer from January 2026 (in price_again), and a tenth fewer of them.
plant_price_change <- function(lines, items) {
  at <- which(lines$family == "jars" & lines$order_date >= as.Date("2026-01-01") &
                lines$quantity > 4)
  lines$quantity[at] <- round(lines$quantity[at] * .9)
  plain <- lines$quantity > 0
  lines[plain, ] <- price_again(lines[plain, ], items)
  lines
}

# Eighteen good accounts stop between March and August 2025.
plant_stopped <- function(lines) {
  rank <- names(total_by(lines, "account"))
  stopped <- rank[round(seq(24, 180, length.out = 18))]
  last <- as.Date("2025-03-01") + round(seq(0, 183, length.out = 18))
  for (i in seq_along(stopped))
    lines <- lines[!(lines$account == stopped[i] & lines$order_date > last[i]), ]
  lines
}

# Eight of the forty best accounts never buy extractors.
plant_gap <- function(lines) {
  best <- names(total_by(lines, "account"))[c(3, 7, 12, 16, 21, 27, 33, 38)]
  lines[!(lines$account %in% best & lines$family == "extractors"), ]
}

# Fen garden centres have long bought HV-001: one more line of it on every second order.
plant_old_hive <- function(lines, items) {
  first <- lines$territory == "Fen" & lines$type == "garden centre" & lines$quantity > 0 &
    !duplicated(lines$order_no) & lines$order_no %% 2 == 0
  extra <- lines[first, ]
  extra$item <- "HV-001"
  extra$family <- "hives"
  extra$quantity <- 2 + rpois(nrow(extra), 1.5)
  rbind(lines, price_again(extra, items))
}

# HV-018 arrives in April 2026 and takes the place of HV-001, above all in Fen garden centres.
plant_new_hive <- function(lines, items) {
  launch <- as.Date("2026-04-01")
  after <- lines$order_date >= launch & lines$item == "HV-001" & lines$quantity > 0
  here <- lines$territory == "Fen" & lines$type == "garden centre"
  swap <- after & runif(nrow(lines)) < ifelse(here, .9, .35)
  lines$item[swap] <- "HV-018"
  lines[swap, ] <- price_again(lines[swap, ], items)
  quarter <- lines$order_date >= launch & lines$order_date <= as.Date("2026-06-30")
  orders <- lines[quarter & here & !duplicated(lines$order_no) & lines$quantity > 0, ]
  extra <- orders[sample(nrow(orders), round(nrow(orders) * .6)), ]
  extra$item <- "HV-018"
  extra$family <- "hives"
  extra$quantity <- 2 + rpois(nrow(extra), 4)
  extra$discount <- sample(c(0, .05), nrow(extra), TRUE)
  rbind(lines, price_again(extra, items))
}

# Vale schools buy almost no suits in the second quarter of 2026.
plant_hidden_loss <- function(lines) {
  gone <- lines$territory == "Vale" & lines$type == "school" & lines$family == "suits" &
    lines$order_date >= as.Date("2026-04-01") & lines$order_date <= as.Date("2026-06-30")
  lines[!(gone & runif(nrow(lines)) < .92), ]
}

# Maren Holt leads overall, but only Moor is hers: elsewhere she is behind the best.
plant_leader <- function(lines, reps) {
  for (territory in unique(lines$territory)) {
    here <- lines$territory == territory
    goal <- total_by(lines[here, ], "rep")[1] * if (territory == "Moor") .75 else .3
    worth <- tapply(lines$net[here], lines$order_no[here], sum)
    large <- names(worth)[worth > median(worth)]
    orders <- as.numeric(sample(large))
    worth <- worth[as.character(orders)]
    take <- orders[cumsum(worth) <= goal]
    lines$rep[lines$order_no %in% take] <- "Maren Holt"
  }
  lines
}

# Lotte Fane takes the small orders of Coast: most orders, not most revenue.
plant_busy <- function(lines) {
  here <- lines$territory == "Coast"
  worth <- tapply(lines$net[here], lines$order_no[here], sum)
  small <- as.numeric(names(worth)[worth > 0 & worth < quantile(worth, .6)])
  lines$rep[lines$order_no %in% small] <- "Lotte Fane"
  lines
}

# Jory Blackwood and Nell Carrow have three orders each; Jory's are very large.
plant_rare_reps <- function(lines, items) {
  give <- function(lines, rep, territory, size, day) {
    pool <- unique(lines$order_no[lines$territory == territory & lines$quantity > 0 &
                                    lines$order_date >= as.Date(day) & lines$family == "frames" &
                                    lines$net > 0])
    take <- pool[c(2, 9, 17)]
    at <- lines$order_no %in% take
    lines$rep[at] <- rep
    lines$quantity[at] <- lines$quantity[at] * size
    lines[at, ] <- price_again(lines[at, ], items)
    lines
  }
  lines <- give(lines, "Jory Blackwood", "Coast", 12, "2026-05-04")
  give(lines, "Nell Carrow", "Vale", 1, "2026-05-18")
}

# The smallest order with a positive value is the same for two reps.
plant_lowest_orders <- function(lines, items) {
  value <- tapply(lines$net, lines$order_no, sum)
  ordinary <- as.numeric(names(value)[value > 0])
  for (rep in c("Lotte Fane", "Felix Roke")) {
    mine <- ordinary[ordinary %in% lines$order_no[lines$rep == rep]]
    single <- mine[tabulate(match(lines$order_no, mine), length(mine)) == 1]
    at <- which(lines$order_no == single[5])
    lines$item[at] <- "JR-003"
    lines$family[at] <- "jars"
    lines$quantity[at] <- 1
    lines$list_price[at] <- 1.85
    lines$discount[at] <- 0
    lines$net[at] <- 1.85
    lines$cost[at] <- 1.02
  }
  small <- names(value)[value > 0 & value <= 1.85]
  stopifnot(length(small) == 0)
  lines
}

# Credits: money back without a quantity.
plant_credits <- function(lines) {
  at <- sample(which(lines$quantity > 0 & lines$net > 60), 46)
  credit <- lines[at, ]
  credit$order_no <- max(lines$order_no) + seq_along(at)
  credit$order_date <- pmin(credit$order_date + sample(5:30, length(at), TRUE), last_day)
  credit$ship_date <- as.Date(NA)
  credit$quantity <- NA
  credit$list_price <- NA
  credit$discount <- NA
  credit$net <- -round(credit$net * .1, 2)
  credit$cost <- 0
  rbind(lines, credit)
}

# What untidy hands leave: a rep spelled two ways, no rep, no net, duplicate lines, shipment
# before order, an order under two accounts.
plant_untidy <- function(lines) {
  plain <- which(lines$quantity > 0)
  tamsin <- intersect(plain, which(lines$rep == "Tamsin Orrell"))
  twice <- lines$order_no[sample(tamsin, 14)]
  lines$rep[lines$order_no %in% twice] <- "tamsin  orrell"
  safe <- plain[!lines$rep[plain] %in% c("Jory Blackwood", "Nell Carrow", "Lotte Fane",
                                        "Felix Roke", "tamsin  orrell")]
  no_rep <- lines$order_no[sample(safe, 26)]
  lines$rep[lines$order_no %in% no_rep] <- NA
  lines$net[sample(safe, 23)] <- NA
  early <- sample(safe, 5)
  lines$ship_date[early] <- lines$order_date[early] - 2
  split <- lines$order_no[safe[duplicated(lines$order_no[safe])]][200]
  at <- which(lines$order_no == split)[1]
  lines$account[at] <- sort(unique(lines$account[lines$territory == lines$territory[at]]))[11]
  double <- sample(safe, 6)
  rbind(lines, lines[double, ])
}

# The accounts at tenth and eleventh rank are made equal to the cent by one credit.
plant_account_tie <- function(lines) {
  total <- round(total_by(lines, "account"), 2)
  tenth <- names(total)[10]
  credit <- lines[which(lines$account == tenth & !is.na(lines$rep))[1], ]
  credit$order_no <- max(lines$order_no) + 1
  credit$order_date <- as.Date("2026-02-17")
  credit$ship_date <- as.Date(NA)
  credit$quantity <- NA
  credit$list_price <- NA
  credit$discount <- NA
  credit$net <- round(total[[11]] - total[[10]], 2)
  credit$cost <- 0
  rbind(lines, credit)
}

# Two Moor reps end seven coins apart: orders change hands, then a few coins on one line.
plant_close_reps <- function(lines) {
  pair <- c("Tobias Wren", "Greta Lunt")
  gap <- function() {
    total <- total_by(lines, "rep")
    round(total[[pair[1]]] - total[[pair[2]]], 2)
  }
  value <- tapply(lines$net, lines$order_no, sum)
  for (step in 1:12) {
    from <- if (gap() > 0) pair[1] else pair[2]
    mine <- as.character(unique(lines$order_no[lines$rep %in% from & lines$quantity > 0]))
    mine <- mine[!is.na(value[mine])]
    best <- mine[which.min(abs(value[mine] - abs(gap()) / 2))]
    if (abs(abs(gap()) - 2 * value[[best]]) >= abs(gap())) break
    lines$rep[lines$order_no == as.numeric(best)] <- setdiff(pair, from)
  }
  tenth <- names(total_by(lines, "account"))[c(1:30)]
  at <- which(lines$rep %in% pair[2] & lines$quantity > 0 & lines$net > 500 &
                !lines$account %in% tenth)[1]
  lines$net[at] <- round(lines$net[at] + gap() - .07, 2)
  lines
}

finish <- function(lines) {
  lines <- lines[order(lines$order_date, lines$order_no), ]
  # Number the orders again in the order of their dates, so that the numbers look like a ledger's.
  lines$order_no <- 240000 + match(lines$order_no, unique(lines$order_no))
  rownames(lines) <- NULL
  lines[c("order_no", "order_date", "ship_date", "account", "item", "rep", "territory", "channel",
          "quantity", "list_price", "discount", "net", "cost")]
}
