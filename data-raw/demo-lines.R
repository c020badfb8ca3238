# Ordinary trade: orders by month, account, item; before any story is planted.

first_day <- as.Date("2024-01-02")
last_day <- as.Date("2026-09-16")
season <- c(.7, .9, 1.25, 1.5, 1.55, 1.3, 1.05, .95, .8, .65, .6, .75)
family_season <- rbind(
  hives = c(1, 1.2, 1.4, 1.4, 1.2, .9, .7, .6, .6, .7, .8, 1),
  frames = c(1, 1.2, 1.3, 1.3, 1.2, 1, .9, .7, .6, .6, .7, .9),
  suits = c(.8, .9, 1.2, 1.4, 1.3, 1.1, .9, .8, .7, .6, .7, 1.1),
  extractors = c(.3, .4, .5, .8, 1, 1.5, 2, 2, 1, .4, .3, .3),
  jars = c(.5, .5, .6, .7, .9, 1.2, 1.7, 2, 1.6, 1, .9, .9),
  feed = c(1.2, 1, .9, .7, .5, .5, .6, 1, 2, 2, 1.4, 1.2),
  `live bees` = c(0, 0, .2, 1.5, 2.5, 2.2, 1.5, .8, .4, 0, 0, 0),
  tools = rep(1, 12), wax = c(1, 1.2, 1.3, 1.3, 1.2, 1, .8, .7, .7, .7, .9, 1.1))

make_lines <- function(registers) {
  orders <- make_orders(registers$accounts, registers$reps)
  lines <- orders[rep(seq_len(nrow(orders)), orders$n), ]
  lines$n <- NULL
  lines <- add_items(lines, registers)
  lines <- price_lines(lines, registers$items)
  make_returns(lines)
}

make_orders <- function(accounts, reps) {
  months <- seq(as.Date("2024-01-01"), as.Date("2026-09-01"), by = "month")
  active <- accounts[!accounts$never, ]
  out <- lapply(seq_along(months), function(m) {
    from <- max(months[m], first_day)
    to <- min(seq(months[m], by = "month", length.out = 2)[2] - 1, last_day)
    month <- as.integer(format(months[m], "%m"))
    share <- as.numeric(to - months[m] + 1) / 30.4
    n <- round(424 * season[month] * 1.035^((m - 1) / 4) * min(1, share))
    days <- seq(from, to, by = "day")
    weekday <- as.POSIXlt(days)$wday
    day <- sample(days, n, TRUE, c(.15, 1.2, 1.1, 1, 1, .9, .3)[weekday + 1])
    who <- sample(nrow(active), n, TRUE, active$weight * (active$since <= months[m]))
    data.frame(order_date = day, row = who)
  })
  orders <- do.call(rbind, out)
  orders <- orders[order(orders$order_date), ]
  a <- active[orders$row, ]
  orders$account <- a$account
  orders$type <- a$type
  orders$weight <- a$weight
  orders$territory <- a$territory
  orders$row <- NULL
  orders$order_no <- 240001 + seq_len(nrow(orders)) - 1
  orders$ship_date <- orders$order_date + sample(1:9, nrow(orders), TRUE,
                                                 c(3, 5, 5, 4, 3, 2, 1, 1, 1))
  orders$channel <- channels(orders)
  orders$rep <- home_reps(orders, reps)
  orders$n <- 1 + rpois(nrow(orders), 1.55)
  orders
}

# The fair channel stops after October 2025.
channels <- function(orders) {
  n <- nrow(orders)
  channel <- sample(c("field", "phone", "web", "fair"), n, TRUE, c(.36, .26, .32, .06))
  web <- orders$type %in% c("apiary", "club") & runif(n) < .25
  channel[web] <- "web"
  channel[channel == "fair" & orders$order_date > as.Date("2025-10-31")] <- "phone"
  channel
}

# An account keeps to one rep of its territory; one order in eight goes to another.
home_reps <- function(orders, reps) {
  regular <- reps[!reps$rep %in% c("Jory Blackwood", "Nell Carrow"), ]
  accounts <- unique(orders[c("account", "territory")])
  pick <- function(territory) {
    staff <- regular$rep[regular$home == territory]
    sample(staff, 1, prob = seq(2.4, 1, length.out = length(staff)))
  }
  keeper <- setNames(vapply(accounts$territory, pick, ""), accounts$account)
  rep <- unname(keeper[orders$account])
  other <- which(runif(nrow(orders)) < .125)
  rep[other] <- vapply(orders$territory[other], pick, "")
  rep
}

add_items <- function(lines, registers) {
  items <- registers$items
  taste <- matrix(1, length(types), length(families), dimnames = list(types, families))
  taste["school", "suits"] <- 5
  taste["school", c("extractors", "live bees")] <- .4
  taste["garden centre", c("hives", "tools")] <- 1.8
  taste["farm shop", "jars"] <- 2.2
  taste["apiary", c("frames", "wax", "feed")] <- 1.4
  month <- as.integer(format(lines$order_date, "%m"))
  cell <- paste(month, lines$type)
  pick <- integer(nrow(lines))
  for (one in unique(cell)) {
    at <- which(cell == one)
    chance <- items$pull * family_season[items$family, month[at[1]]] *
      taste[lines$type[at[1]], items$family]
    pick[at] <- sample(nrow(items), length(at), TRUE, chance)
  }
  lines$item <- items$item[pick]
  lines
}

price_lines <- function(lines, items) {
  n <- nrow(lines)
  at <- match(lines$item, items$item)
  size <- items$quantity[at] * lines$weight^.25
  lines$quantity <- 1 + rpois(n, pmax(size * exp(rnorm(n, -.2, .6)) - 1, 0))
  lines$discount <- sample(c(0, .05, .1, .15), n, TRUE, c(.55, .2, .17, .08))
  lines$weight <- NULL
  price_again(lines, items)
}

# Net and cost from quantity, price and discount. Jars cost 12 % more from January 2026; live
# bees are cleared below cost in August and September.
price_again <- function(lines, items) {
  at <- match(lines$item, items$item)
  jars <- items$family[at] == "jars" & lines$order_date >= as.Date("2026-01-01")
  late_bees <- items$family[at] == "live bees" & format(lines$order_date, "%m") %in% c("08", "09")
  lines$list_price <- round(items$list_price[at] * ifelse(jars, 1.12, 1), 2)
  lines$discount[late_bees] <- .4
  lines$net <- round(lines$quantity * lines$list_price * (1 - lines$discount) + 1e-9, 2)
  lines$cost <- round(lines$quantity * items$unit_cost[at], 2)
  lines
}

# One line in ninety comes back some days later, as an order of its own.
make_returns <- function(lines) {
  back <- lines[sample(nrow(lines), round(nrow(lines) / 90)), ]
  back$order_date <- pmin(back$order_date + sample(6:40, nrow(back), TRUE), last_day)
  back$ship_date <- as.Date(NA)
  for (field in c("quantity", "net", "cost")) back[[field]] <- -back[[field]]
  back$order_no <- max(lines$order_no) + seq_len(nrow(back))
  rbind(lines, back)
}
