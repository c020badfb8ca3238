# Payouts, continued: the question and what is found.

payout_question <- function(book, args) {
  if (length(args$rates) > 1)
    ll_abort("'rates' is one table; others to compare with belong in 'instead'.", "argument")
  if (!is.null(args$cap) && !is.null(args$floor) && args$floor > args$cap)
    ll_abort(paste0("'floor' (", args$floor, ") is above 'cap' (", args$cap, ")."), "argument")
  if (args$pay == "offer" && !is.null(c(args$cap, args$floor)))
    ll_abort("'cap' and 'floor' are of money, and an offer is none.", "argument")
  read <- together(
    function() read_steps(args$rates[[1]], args$pay, "rates"),
    function() lapply(args$instead, read_steps, args$pay, "instead"))
  args$steps <- read[[1]]
  args$others <- read[[2]]
  q <- refuse_compared(ask_book(book, args, "each"), "payout")
  refuse_several(q, "'payout' pays on")
  if (q$pay %in% c("whole", "graduated") && !q$first$adds_up)
    ll_abort(c(paste0("A rate is paid on an amount, and ", quoted(q$first$name),
                      " does not add up."), i = "Use pay = \"sum\" or \"offer\" with it."),
             "argument")
  q
}

# Lower bounds and what each pays, as numbers (for offers as words).
read_steps <- function(table, pay, argument) {
  from <- vapply(table$from, number_or_percent, 0, USE.NAMES = FALSE)
  bad <- which(is.na(from))[1]
  if (!is.na(bad))
    ll_abort(c(paste0("The bounds of '", argument, "' must be numbers."),
               x = paste0("One is ", shown(table$from[bad]), "."),
               i = "For example 0=2%,20000=4%."), "argument")
  check_rising(from, argument)
  if (from[1] < 0)
    ll_abort(c(paste0("Amounts below zero are paid nothing, so no step of '", argument,
                      "' may begin below zero."), x = paste0("One begins at ", table$from[1], ".")),
             "argument")
  if (pay == "offer") return(data.frame(from = from, pays = trimmed(table$pays)))
  pays <- vapply(table$pays, number_or_percent, 0, USE.NAMES = FALSE)
  rate <- pay != "sum"
  bad <- which(is.na(pays) | pays < 0 | rate & pays > 1)[1]
  if (!is.na(bad))
    ll_abort(c(paste0("'", argument, "' pays ", shown(table$pays[bad]), " from ", table$from[bad],
                      ", which is no ", if (rate) "rate from 0 to 100 %." else "amount of money."),
               i = if (rate) "Write 4% or 0.04; for fixed sums give pay = \"sum\"." else
                 "For example 50000=500."), "argument")
  data.frame(from = from, pays = pays)
}

payout_names <- function(q) {
  s <- c(list(q = q), placed_names(q, q$asked$where_now))
  s$paid <- pay_names(s, q$steps)
  s$step <- step_words(s, q$steps)[s$paid$number + 1]
  s$steps_held <- payout_steps(s)
  s$others <- lapply(q$others, pay_names, s = s)
  if (q$pay != "offer") s$costs <- payout_costs(s)
  s
}

# What each name is paid by one table of steps, now and on the bound of the next step.
pay_names <- function(s, steps) {
  q <- s$q
  number <- tier_number(s$value, steps$from, s$exact[[1]], q$at_bound == "in")
  # Below zero nothing is paid, whatever the bounds.
  number[s$value < 0] <- 0
  if (q$pay == "offer")
    return(list(number = number, offer = c("no", steps$pays)[number + 1],
                to_next = exact_change(next_bound(s, number, steps), s$value)))
  bare <- paid_by_steps(s$value, number, steps, q$pay)
  payout <- to_the_coin(within_limits(bare, q, s$value))
  bound <- next_bound(s, number, steps)
  then <- to_the_coin(within_limits(
    paid_by_steps(bound, pmin(number + 1, nrow(steps)), steps, q$pay), q, bound))
  list(number = number, bare = bare, payout = payout, to_next = exact_change(bound, s$value),
       next_adds = then - payout)
}

# The bound of the next step of each value.
next_bound <- function(s, number, steps) c(steps$from, NA)[number + 1]

within_limits <- function(paid, q, value) {
  if (!is.null(q$floor)) paid <- ifelse(value >= 0, pmax(paid, q$floor), paid)
  if (!is.null(q$cap)) paid <- pmin(paid, q$cap)
  paid
}

step_words <- function(s, steps) {
  m <- s$q$first
  from <- if (m$unit == "percent") format_number(steps$from, m$unit) else bound_text(steps$from)
  c(paste("below", from[1]), paste(if (s$q$at_bound == "in") "from" else "above", from))
}

# "2.0 % from 0 and 4.0 % from 20,000"
table_words <- function(s, steps) {
  pays <- if (s$q$pay == "offer") one_line(steps$pays) else
    vapply(steps$pays, format_number, "", unit = if (s$q$pay == "sum") "money" else "percent")
  and_list(paste(pays, step_words(s, steps)[-1]), 12)
}

# What each step pays, to how many, on how much.
payout_steps <- function(s) {
  q <- s$q
  words <- rev(step_words(s, q$steps))
  at <- factor(s$step, words)
  per_step <- function(x) unname(vapply(split(x, at), exact_total, 0))
  out <- data.frame(step = words, from = rev(c(-Inf, q$steps$from)),
                    pays = rev(c(if (q$pay == "offer") "no" else 0, q$steps$pays)),
                    names = tabulate(at, length(words)),
                    value = if (q$first$adds_up) per_step(s$value) else NA_real_)
  if (q$pay != "offer") out$payout <- per_step(s$paid$payout)
  out
}

payout_costs <- function(s) {
  one <- function(paid, label) {
    data.frame(table = label, names = sum(paid$payout > 0), payout = exact_total(paid$payout))
  }
  labels <- vapply(c(list(s$q$steps), s$q$others), table_words, "", s = s)
  out <- do.call(rbind, unname(Map(one, c(list(s$paid), s$others), labels)))
  rownames(out) <- NULL
  amount <- sum(s$value[s$value > 0])
  out$payout_rate <- if (s$q$first$adds_up && amount > 0) out$payout / amount else NA_real_
  out$difference <- to_the_coin(out$payout - out$payout[1])
  out
}
