# Payouts, continued: the question and what is found.

payout_question <- function(book, args) {
  if (length(args$rates) > 1)
    ll_abort("'rates' is one table; others to compare with belong in 'compare_rates'.", "argument")
  if (!is.null(args$cap) && !is.null(args$floor) && args$floor > args$cap)
    ll_abort(paste0("'floor' (", args$floor, ") is above 'cap' (", args$cap, ")."), "argument")
  if (args$pay == "offer" && !is.null(c(args$cap, args$floor)))
    ll_abort("'cap' and 'floor' are of money, and an offer is none.", "argument")
  read <- together(
    function() read_steps(args$rates[[1]], args$pay, "rates"),
    function() lapply(args$compare_rates, read_steps, args$pay, "compare_rates"))
  question <- refuse_compared(ask_book(book, args, "each"), "payout")
  refuse_several(question, "'payout' pays on")
  metric <- first_metric(question)
  if (args$pay %in% c("whole", "graduated") && !metric$adds_up)
    ll_abort(c(paste0("A rate is paid on an amount, and ", quoted(metric$name),
                      " does not add up."), i = "Use pay = \"sum\" or \"offer\" with it."),
             "argument")
  with_args(question, steps = read[[1]], others = read[[2]])
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

payout_found <- found_of(
  "payout", common = found_ranked,
  paid = holds("list", NULL, "number (of the step), bare, payout, to_next, next_adds; or offer"),
  step = holds("text", "name", "the step each is on, in words"),
  steps_held = holds("table", NULL, "step, from, pays, names, value, payout: highest first"),
  others = holds("list", NULL, "the same as paid, by each other table"),
  costs = holds("table", NULL, "table, names, payout, payout_rate, difference",
                absent = "for offers"))

payout_work <- function(question) {
  args <- question$args
  found <- ranked_names(question, question$asked$where_now)
  found$paid <- pay_names(question, found, args$steps)
  found$step <- step_words(question, found, args$steps)[found$paid$number + 1]
  found$steps_held <- payout_steps(question, found)
  found$others <- lapply(args$others, pay_names, question = question, found = found)
  if (args$pay != "offer") found$costs <- payout_costs(question, found)
  do.call(payout_found, found)
}

# What each name is paid by one table of steps, now and on the bound of the next step.
pay_names <- function(question, found, steps) {
  args <- question$args
  number <- tier_number(found$value, steps$from, found$exact[[1]], args$at_bound == "in")
  # Below zero nothing is paid, whatever the bounds.
  number[found$value < 0] <- 0
  if (args$pay == "offer")
    return(list(number = number, offer = c("no", steps$pays)[number + 1],
                to_next = exact_change(next_bound(found, number, steps), found$value)))
  bare <- paid_by_steps(found$value, number, steps, args$pay)
  payout <- to_the_cent(within_limits(bare, question, found$value))
  bound <- next_bound(found, number, steps)
  then <- to_the_cent(within_limits(
    paid_by_steps(bound, pmin(number + 1, nrow(steps)), steps, args$pay), question, bound))
  list(number = number, bare = bare, payout = payout, to_next = exact_change(bound, found$value),
       next_adds = then - payout)
}

# The bound of the next step of each value.
next_bound <- function(found, number, steps) c(steps$from, NA)[number + 1]

within_limits <- function(paid, question, value) {
  args <- question$args
  if (!is.null(args$floor)) paid <- ifelse(value >= 0, pmax(paid, args$floor), paid)
  if (!is.null(args$cap)) paid <- pmin(paid, args$cap)
  paid
}

step_words <- function(question, found, steps) {
  metric <- first_metric(question)
  from <- if (metric$unit == "percent") format_number(steps$from, metric$unit) else
    bound_text(steps$from)
  c(paste("below", from[1]), paste(if (question$args$at_bound == "in") "from" else "above", from))
}

# "2.0 % from 0 and 4.0 % from 20,000"
table_words <- function(question, found, steps) {
  pays <- if (question$args$pay == "offer") one_line(steps$pays) else
    vapply(steps$pays, format_number, "", unit = if (question$args$pay == "sum") "money" else
           "percent")
  and_list(paste(pays, step_words(question, found, steps)[-1]), 12)
}

# What each step pays, to how many, on how much.
payout_steps <- function(question, found) {
  args <- question$args
  words <- rev(step_words(question, found, args$steps))
  at <- factor(found$step, words)
  per_step <- function(x) unname(vapply(split(x, at), exact_total, 0))
  out <- data.frame(step = words, from = rev(c(-Inf, args$steps$from)),
                    pays = rev(c(if (args$pay == "offer") "no" else 0, args$steps$pays)),
                    names = tabulate(at, length(words)),
                    value = if (first_metric(question)$adds_up) per_step(found$value) else NA_real_)
  if (args$pay != "offer") out$payout <- per_step(found$paid$payout)
  out
}

payout_costs <- function(question, found) {
  one <- function(paid, label) {
    data.frame(table = label, names = sum(paid$payout > 0), payout = exact_total(paid$payout))
  }
  labels <- vapply(c(list(question$args$steps), question$args$others), table_words, "",
                   question = question, found = found)
  out <- do.call(rbind, unname(Map(one, c(list(found$paid), found$others), labels)))
  rownames(out) <- NULL
  amount <- sum(found$value[found$value > 0])
  out$payout_rate <- if (first_metric(question)$adds_up && amount > 0) out$payout / amount else
    NA_real_
  out$difference <- to_the_cent(out$payout - out$payout[1])
  out
}
