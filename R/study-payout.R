# Payouts: what each name earns by steps of its amount.

declared_payout <- declare(
  "payout", "What each name earns: rates by step, graduated, fixed sums or offers",
  answers = "What does each one earn: commission by rate, bonus, or offer?",
  asked = "payout of reps at 2% in 2025",
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
    compare_rates = arg("steps", "other rates, to see what they would cost; several apart by ';'"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each rep --rates 0=1%,100000=2%,250000=3% --pay graduated --when 2025",
    "--each rep --rates 100000=500,250000=2000 --pay sum --when 2025 --compare-rates 100000=800",
    "--each account --rates '20000=free delivery' --pay offer --when 2025"),
  next_answer = c("over_time", "split"),
  next_row = c("full", "inside", "lines", "beside"))

#' Payouts: commissions, bonuses and offers
#'
#' Works out what each name earns on its amount: a rate by step on the whole amount, a rate by step
#' on each slice (graduated), a fixed sum at a hurdle or by step, or an offer that is made or not.
#'
#' A step holds from its lower bound up to the next one. Amounts below zero, and below the first
#' step, earn nothing; those below zero are listed in the notes. `cap` and `floor` bound each
#' payout; the floor is for names with an amount that is not below zero. Every payout is then
#' rounded half up to the cent, and totals are those of the rounded payouts, so that the list adds
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
#' @param compare_rates (as `rates`; several as a list, or apart by `;`) other tables, paid the same
#'   way.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_payout`, a row for each name, largest amount first: the
#'   dimensions, `rank`, the metric, `step` (missing below the first), `payout_rate` (for rates;
#'   the payout over the amount), `payout` (money) or `offer` (text, `"no"` where none is made),
#'   `to_next` (how much more reaches the next step), `next_adds` (what the payout would then be
#'   more), and `payout_compared`, numbered where there are several. Parts: `steps` (bound, what it
#'   pays, names, value, payout), `costs` (names paid, payout and its difference for each table),
#'   `foot`.
#' @section Notes given: Amounts below zero, payouts capped or raised, names near the next step, a
#' step that pays less than the one below it, what rounding adds to the total, lines without a name,
#' incomplete periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for bounds out of order, given twice or
#' no numbers, for rates that cannot be read, and for a floor above the cap.
#' @examples
#' ll_payout(ll_demo(), each = "rep", rates = c("0" = .01, "250000" = .03), pay = "graduated")
#' @export
ll_payout <- function(book, each, rates, pay = "whole", metrics = NULL, at_bound = "in",
                      cap = NULL, floor = NULL, compare_rates = NULL, where = NULL, when = NULL) {
  answer(declared_payout, book, as.list(environment()))
}
