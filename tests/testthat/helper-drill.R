# Books in which a change is looked for.

# Orders of accounts that fix territory and type; items fix family. `change` alters the lines of the
# period now.
drill_lines <- function(seed = 1, change = identity, n = 6000) {
  withr::with_seed(seed, {
    account <- data.frame(territory = sample(paste0("T", 1:5), 80, TRUE),
                          type = sample(c("club", "shop", "farm"), 80, TRUE), w = rlnorm(80))
    item <- data.frame(family = sample(paste0("F", 1:6), 40, TRUE), price = rlnorm(40, 3, .5))
    orders <- n / 2
    of <- sample(80, orders, TRUE, account$w)
    day <- as.Date("2024-01-01") + sample(0:730, orders, TRUE)
    at <- sample(orders, n, TRUE)
    what <- sample(40, n, TRUE)
    out <- data.frame(order_no = sprintf("N%05d", at), day = day[at],
                      account = sprintf("A%02d", of[at]), territory = account$territory[of[at]],
                      type = account$type[of[at]], item = sprintf("I%02d", what),
                      family = item$family[what], net = round(item$price[what] * rlnorm(n, 0, .5),
                                                              2), cost = 0)
    out$cost <- round(out$net * runif(n, .5, .7), 2)
    out$now <- out$day >= as.Date("2025-01-01")
    change(out)
  })
}
drill_book <- function(lines = drill_lines(), ...) {
  ll_book(if (is.data.frame(lines)) lines[setdiff(names(lines), "now")] else lines,
          fields = c(order_no = "identifier", account = "dimension", item = "dimension"),
          date = "day",
          order = "order_no", metrics = c(revenue = "sum(net)", rate = "sum(net - cost) / sum(net)",
                                          lines = "count()", orders = "distinct(order_no)",
                                          middle = "median(net)",
                                          both = "sum(net) - 2 * sum(cost[net > 20])",
                                          average = "sum(net) / distinct(order_no)"), ...)
}
drill <- function(book, ...) ll_drill(book, ..., when = "2025", against = "2024")
