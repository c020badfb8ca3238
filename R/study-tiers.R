# Tiers: names sorted into a named table of lower bounds, or into groups of equal size.

declared_tiers <- declare(
  "tiers", "Sort names into tiers by lower bounds, with the way to the next one",
  answers = "Which tier is each one in, and how far is the next?",
  asked = c("four groups of reps by margin rate",
            "tiers of accounts: Copper from 0, Brass from 5000"),
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs", required = TRUE),
    tiers = arg("bounds", "tiers with their lower bounds: 'Copper=0,Brass=5000,Silver=20000'"),
    groups = arg("whole", "instead: so many groups of equal numbers of names", from = 2, to = 100),
    metrics = arg_metrics("the metric (default: the book's first)"),
    below = arg("text", "what those below the first bound are called"),
    at_bound = arg("choice", "a value on a bound: in the tier, or still in the one below", "in",
                   choices = c("in", "below")),
    where = arg_where, when = arg_when,
    against = arg("period", "also the tiers in this period: previous, year before, 2025")),
  examples = c(
    "--each account --tiers Copper=0,Brass=5000,Silver=20000,Gold=50000",
    "--each account --tiers Copper=0,Brass=5000,Silver=20000 --when 2025 --against 'year before'",
    "--each rep --groups 4 --metrics margin_rate"),
  next_answer = c("year_before", "over_time", "share"),
  next_row = c("full", "inside", "could_buy", "lines"))

#' Tiers: names by lower bounds
#'
#' Sorts names into tiers by a metric, tells how far each is from the next tier and from falling out
#' of its own, and against another period who rose and fell.
#'
#' A tier holds what is at or above its lower bound and below the next one. Values equal to a bound
#' to the cent (quotients within a relative 1e-9) are on it. With `groups` the names are cut by
#' rank into so many groups of equal size, tied names together in the better one; group 1 is best.
#' The bands of a brief, such as `account_size: {of: revenue, each: account, from: [...]}`, make the
#' same tiers a dimension for every other study.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs.
#' @param tiers (named numbers, a text such as `"Copper=0,Brass=5000"`, or a data frame of `label`,
#'   `from` and, if wanted, `to`) the lower bounds, rising.
#' @param groups (whole number, 2 to 100) instead of `tiers`.
#' @param metrics (text) one metric, as in [ll_standings()].
#' @param below (text) what those below the first bound are called.
#' @param at_bound (text) whether a value on a bound is `"in"` the tier or still `"below"` it.
#' @inheritParams ll_standings
#'
#' @return A data frame of class `ll_result_tiers`, a row for each name, best first: the dimensions,
#'   `rank`, the metric, `tier`, `to_next` (how much more lifts it into the next tier; missing in
#'   the last), `to_fall` (how much less takes it to the bound of its own; missing in the first); in
#'   the metric's unit. With `against`, `<metric>_before` and `tier_before` (`"no lines"` where
#'   there were none). Parts: `tiers` (tier, lower bound, names, value and share of each, best
#'   first), `foot`, with `against` also `moves` (names by tier then and now).
#' @section Notes given: Names on a bound and near the next one, tiers without names, ties between
#' groups, lines without a name, names that moved, incomplete periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for bounds out of order, given twice or
#' no numbers, with the pair at fault, and for a table with gaps or overlaps.
#' @examples
#' ll_tiers(ll_demo(), each = "account", tiers = c(Copper = 0, Brass = 5000, Silver = 20000))
#' @export
ll_tiers <- function(book, each, tiers = NULL, groups = NULL, metrics = NULL, below = NULL,
                     at_bound = "in", where = NULL, when = NULL, against = NULL) {
  answer(declared_tiers, book, as.list(environment()))
}
