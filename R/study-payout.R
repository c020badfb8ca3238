# Payouts: what each name earns by steps of its amount.

declared_payout <- declare(
  "payout", "What each name earns: rates by step, graduated, fixed sums or offers",
  args = list(
    each = arg("words", "whom to pay: one dimension, or several for pairs", required = TRUE),
    rates = arg("steps", "what is paid from which amount up: '0=2%,20000=4%', '50000=500'",
                required = TRUE),
    pay = arg("choice", paste("the rate on the whole amount, graduated by slice, a fixed sum, or",
                              "an offer (yes or no)"), "whole",
              choices = c("whole", "graduated", "sum", "offer")),
    metrics = arg_metrics("the amount (default: the book's first)"),
    at_bound = arg("choice", "a value on a bound: in the step, or only strictly above it", "in",
                   choices = c("in", "below")),
    cap = arg("number", "no name is paid more", from = 0),
    floor = arg("number", "no name with an amount is paid less", from = 0),
    instead = arg("steps", "other rates, to see what they would cost; several apart by ';'"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each rep --rates 0=1%,100000=2%,250000=3% --pay graduated --when 2025",
    "--each rep --rates 100000=500,250000=2000 --pay sum --when 2025 --instead 100000=800",
    "--each account --rates '20000=free delivery' --pay offer --when 2025"))

#' Payouts: commissions, bonuses and offers
#'
#' Works out what each name earns on its amount: a rate by step on the whole amount, a rate by step
#' on each slice (graduated), a fixed sum at a hurdle or by step, or an offer that is made or not.
#'
#' A step holds from its lower bound up to the next one. Amounts below zero, and below the first
#' step, earn nothing; those below zero are listed in the notes. `cap` and `floor` bound each
#' payout; the floor is for names with an amount that is not below zero. Every payout is then
#' rounded half up to the coin, and totals are those of the rounded payouts, so that the list adds
#' up to what is paid. All steps come from one table: nothing can drift from row to row.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to pay: one dimension, or several for pairs.
#' @param rates (a text such as `"0=2%,20000=4%"`, named values `c("0" = .02, "20000" = .04)`, or a
#'   data frame of `from` and `pays`) lower bounds and what is paid from there up: rates as `"4%"`
#'   or 0.04, amounts of money for `pay = "sum"`, words for `pay = "offer"`.
#' @param pay (text) `"whole"`, `"graduated"`, `"sum"` or `"offer"`.
#' @param metrics (text) one metric, as in [ll_standings()]; for rates one that adds up.
#' @param at_bound (text) whether a value on a bound is `"in"` the step, or still `"below"` it, so
#'   that it pays strictly above only.
#' @param cap,floor (number, money) the most and the least that one name is paid.
#' @param instead (as `rates`; several as a list, or apart by `;`) other tables, paid the same way.
#' @param where,when as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_payout`, a row for each name, largest amount first: the
#'   dimensions, `place`, the metric, `step` (missing below the first), `payout_rate` (for rates;
#'   the payout over the amount), `payout` (money) or `offer` (text, `"no"` where none is made),
#'   `to_next` (how much more reaches the next step), `next_adds` (what the payout would then be
#'   more), and `payout_instead`, numbered where there are several. Parts: `steps` (bound, what it
#'   pays, names, value, payout), `costs` (names paid, payout and its difference for each table),
#'   `foot`.
#' @section Notes given: Amounts below zero, payouts capped or raised, names near the next step, a
#' step that pays less than the one below it, what rounding adds to the total, lines without a name,
#' part periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for bounds out of order, given twice or
#' no numbers, for rates that cannot be read, and for a floor above the cap.
#' @examples
#' ll_payout(ll_demo(), each = "rep", rates = c("0" = .01, "250000" = .03), pay = "graduated")
#' @export
ll_payout <- function(book, each, rates, pay = "whole", metrics = NULL, at_bound = "in",
                      cap = NULL, floor = NULL, instead = NULL, where = NULL, when = NULL) {
  check_book(book)
  given <- list(each = if (missing(each)) NULL else each,
                rates = if (missing(rates)) NULL else rates, pay = pay, metrics = metrics,
                at_bound = at_bound, cap = cap, floor = floor, instead = instead, where = where,
                when = when)
  q <- payout_question(book, check_args(declared_payout, given))
  s <- payout_names(q)
  table <- payout_table(s)
  new_answer(q, "payout", table$table, payout_settings(s), table$columns, payout_finding(s),
             payout_reading(s), payout_notes(s), payout_proof(s),
             parts = Filter(Negate(is.null), list(foot = table$foot, steps = s$steps_held,
                                                  costs = s$costs)),
             behind = list(keys = stats::setNames(nm = q$each)))
}

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
