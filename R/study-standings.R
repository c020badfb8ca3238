# Standings: who stands where, by several metrics.

declared_standings <- declare(
  "standings", "Rank customers, products, reps by one or several metrics",
  answers = "Who is ahead, by one metric or by several?",
  asked = c("top 10 reps by revenue",
            "profit per order by rep, only Moor",
            "fastest growing families in 2026"),
  pictures = c("bars", "dots"),
  args = list(
    each = arg("words", "whom to rank: one dimension, or several for pairs (rep,territory)",
               required = TRUE),
    metrics = arg("metrics",
                  "metrics to rank by; the first orders the table (default: the book's first)"),
    top = arg("whole", "only the first so many ranks"),
    bottom = arg("whole", "only the last so many ranks"),
    within = arg("words", "rank separately inside each name of this dimension"),
    where = arg_where, when = arg_when,
    against = arg("period", "also show this period: previous, year before, 2025"),
    ties = arg("choice", "how tied names share ranks", "shared",
               choices = c("shared", "dense", "average", "broken")),
    tie_break = arg("words", "metrics that decide among tied names, then the name does"),
    last_ties = arg("choice", "a tie at the last rank shown: show all tied, or the exact number",
                    "all", choices = c("all", "exact")),
    min_orders = arg("whole", "fewest orders a name must have to be ranked"),
    no_lines = arg("flag", "also the register's names without lines", FALSE),
    resamples = arg_resamples, seed = arg_seed),
  examples = c(
    "--each rep --metrics revenue,margin_rate,orders --top 10",
    "--each account --metrics revenue --top 10 --when 2026 --against 'year before'",
    "--each rep --within territory --top 3",
    "--each item --metrics revenue --bottom 5 --where 'quantity > 0' --when 'last quarter'",
    "--each rep --metrics revenue --when 2026 --resamples 500"),
  next_answer = c("why", "year_before", "over_time", "split", "all", "share"),
  next_row = c("inside", "full", "why", "lines", "beside", "could_buy", "replaced", "without"))

#' Standings: rank names by one or several metrics
#'
#' Every metric gets its value and its rank. The first metric orders the table; with `top` or
#' `bottom` the rest is gathered below it, and the total is always recalculated from the lines.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to rank: one dimension, or several for pairs such as
#'   `c("rep", "territory")`.
#' @param metrics (text) names of metrics, or named formulas that serve this time only:
#'   `c("revenue", average = "revenue / orders")`. The book's first metric if not given.
#' @param top,bottom (whole number, 1 up) only the first or last so many ranks, counted in shared
#'   ranks whatever `ties` says; with `within`, of each group.
#' @param within (text) a dimension; ranks are given separately inside each of its names, with
#'   `rank_overall` beside them.
#' @param where (text or one-sided formula) only lines that meet this condition.
#' @param when (text) only this period: `"2026"`, `"2026-04"`, `"2026-Q2"`, `"2026-04-01"`,
#'   `"2026-04-01/2026-06-30"` (both ends in), `"all"`, `"last month"`, `"last quarter"`,
#'   `"last year"` (the last whole one), `"this year to date"`, `"last 90 days"`,
#'   `"last 12 months"`. Words count back from the book's last date.
#' @param against (text) a period to compare with: `"previous"`, `"year before"`, or any period.
#' Where
#'   the lines do not cover `when` to its end the first two stand for the same days; see
#'   [ll_languages].
#' @param ties (text) how equal values share ranks:
#'   * `"shared"`: 1 2 2 4
#'   * `"dense"`: 1 2 2 3
#'   * `"average"`: 1 2.5 2.5 4
#'   * `"broken"`: 1 2 3 4, decided by `tie_break`, then by name
#' @param tie_break (text) metrics that order tied names, and decide under `ties = "broken"`; they
#'   join the table.
#' @param last_ties (text) what to do with a tie at the last rank shown: `"all"` shows all tied
#'   names, `"exact"` cuts it to the number asked for.
#' @param min_orders (whole number) names with fewer orders stay in the table without a rank.
#' @param no_lines (`TRUE` or `FALSE`) whether the register's names without lines in the question
#'   are shown, with 0 for metrics that add up or count.
#' @param resamples (whole number, 50 to 65,000) so many resamples of the orders, for how far a
#'   rank is owed to which orders happened to come in; see the section below.
#' @param seed (whole number) the same seed gives the same resamples on every machine.
#'
#' @return A data frame of class `ll_result_standings`, a row per name, best first:
#' * the dimensions of `within` and `each`; lines without a name are the row `(none)`, not ranked
#' * `rank`: by the first metric; missing where there is no value, too few orders or no name
#' * `rank_overall`: with `within`, the rank by the first metric over all groups
#' * each metric; missing where all its lines lack the measure or a quotient divides by zero
#' * `<metric>_rank` for the metrics after the first
#' * `<metric>_share` for metrics that add up: of the total, or of the total of positive values
#'   where some are negative; `<metric>_running_total` and `<metric>_running_share` of the first
#'   metric, down the table
#' * with `against`: `<metric>_before`, `<metric>_change`, `<metric>_growth` (missing unless the
#'   value before was above zero), `rank_before`, and `moved`, the ranks won (lost when negative)
#' * with `resamples`: `resampled_from` and `resampled_to`, the ranks in 5 and 95 percent of the
#'   resamples, and `ahead_of_next`, the share of them in which the name is ahead of the next one
#'
#' Parts: `foot` (everyone else, lines without a name, total), with `against` also `moves` (who
#' entered, left, rose, fell), with `within` also `groups` (totals of each group).
#'
#' Ranking costs one pass over the lines and one sort of the names. Equal means equal to the cent
#' for sums of decimals, and within a relative 1e-9 for quotients.
#' @section Ranks under resampled orders:
#' With `resamples` every order counts a random number of times (Poisson with mean 1), and the names
#' are ranked again; for the people who sell it is their customers that are resampled, with all
#' their orders. The range says how much of a rank may be chance of this kind; it knows nothing of
#' seasons, prices or faults of the data. Measured on 200 simulated books of 20 names (levels
#' lognormal with deviation 0.5, amounts lognormal), the range held a name's true rank in this
#' share of cases:
#'
#' | orders a name | sums, skew 0.7 | sums, skew 1.2 | means, skew 0.7 | means, skew 1.2 |
#' |---|---|---|---|---|
#' | 3 | 77 % | 71 % | 66 % | 60 % |
#' | 5 | 82 % | 76 % | 82 % | 75 % |
#' | 10 | 87 % | 81 % | 89 % | 83 % |
#' | 30 | 92 % | 88 % | 93 % | 89 % |
#' | 100 | 95 % | 92 % | 96 % | 93 % |
#'
#' (skew: the deviation of the amounts' logarithm.) Names with fewer than 10 orders therefore get no
#' range. Neighbours of which one is ahead in 80 % of the resamples or more were truly so in 69 to
#' 82 % of cases at 10 orders a name, and in 88 to 92 % at 100.
#' @section Notes given:
#' Ties at the edge and elsewhere, neighbours less than 0.1 % apart, different leaders by different
#' metrics, averages on fewer than five orders, a leader who does not lead most groups, a lead owed
#' to more people, incomplete periods, negative values, lines without a name or value, names spelled
#' alike.
#' @section Errors:
#' `ll_error_word` for unknown fields, metrics, names and periods, `ll_error_formula` for a
#' condition
#' that cannot be read, `ll_error_argument` for values out of range, `ll_error_data` where the lines
#' do not allow the question.
#' @seealso [ll_finding()] and its kin take the result apart; [ll_save()] writes it; `plot()` draws
#' it.
#' @examples
#' book <- ll_demo()
#' ll_standings(book, each = "rep", metrics = c("revenue", "margin_rate"), top = 5)
#' ll_standings(book, each = "item", when = "2026-Q2", against = "year before", top = 5)
#' @export
ll_standings <- function(book, each, metrics = NULL, top = NULL, bottom = NULL, within = NULL,
                         where = NULL, when = NULL, against = NULL, ties = "shared",
                         tie_break = NULL, last_ties = "all", min_orders = NULL, no_lines = FALSE,
                         resamples = NULL, seed = 1) {
  answer(declared_standings, book, as.list(environment()))
}
