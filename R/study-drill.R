# Drill: which segments drove a change, and how far to trust that.

declared_drill <- declare(
  "drill", "Where a change is, beyond the general growth, and how unusual that is",
  answers = "Which segments drove the change between two periods, and is that unusual?",
  asked = c("why did revenue change in Q2 2026", "why did margin fall in Moor last quarter"),
  args = list(
    metrics = arg_metrics("the metric whose change is to be explained (default: the book's first)"),
    by = arg("words", "the dimensions to look in (default: all that tell something)"),
    not_by = arg("words", "dimensions that may not be named"),
    path = arg("words", "a fixed path: the first condition by this dimension, the next by that"),
    depth = arg("whole", "conditions of a segment at most", 3, to = 3),
    max_segments = arg("whole", "segments at most", 6, to = 8),
    confidence = arg("number", "how sure to be that a change is not by chance", .95,
                     from = .5, to = .999999),
    min_impact = arg("number", "smallest excess that counts, as a part of the larger total", .005,
                     from = 0, to = 1),
    where = arg_where,
    when = arg("period", "the period now", "this year to date"),
    against = arg("period", "the period then: year before, previous, 2025", "year before")),
  examples = c("--metrics revenue --when 2026-Q2",
               "--metrics revenue --when 2026-Q2 --not-by item,account --depth 2",
               "--metrics margin_rate --when 2026-Q2",
               "--metrics revenue --when 2026-Q2 --path territory,family"),
  next_answer = c("names", "steps", "over_time", "year_before", "gone"),
  next_row = c("inside", "names", "gone", "lines", "over_time", "without"))

#' Drill: where a change is, and how unusual that is
#'
#' Finds the fewest disjoint segments, conjunctions of up to three names such as *territory Fen,
#' type garden centre*, that account for most of a change beyond the general growth, and says of
#' each how likely such a book does as much by itself. That growth and what the segments did beyond
#' it are the whole change, exactly.
#'
#' **Two answers.** *Where the change is* goes by money and simplicity: segments in the order of
#' their excess. With `A` then and `B` now, `g = B / A` of all lines outside the segments, a
#' segment's excess is `B - g A`, and `B - A` of the whole is `(g - 1) A` of the whole plus all
#' excesses; rises and falls are found alike, so a flat total still shows what cancels. *How
#' unusual* is `chance`: the chance that somewhere in such a book as much happens by itself. It
#' never says that nothing happened: the next candidates are listed (part `others`), and a note
#' says how much a segment would have had to move to be unusual.
#'
#' **How segments are chosen.** Every name and every pair of names that occurs is looked at,
#' triples inside the twenty best pairs. The score is the deviance of the money now from what the
#' growth of the rest would make of it, over the size of orders, less the log of how many segments
#' of such dimensions there are: that is the price of a further condition, and why customer or item
#' numbers do not win by having hundreds of values. A narrower segment that holds four fifths of a
#' wider one's excess stands for it, and the other way round. What is named is left
#' out and the rest looked at again, until a segment is not worth its price, `max_segments` are
#' named, or everything else would be less than three tenths of the money. Neighbours that changed
#' alike are one ("Fen or Moor"). Bands of the metric itself and fields that name single customers
#' are no causes, unless asked for in `by`.
#'
#' **Chance.** The excess over the noise of the segment's own orders, in all periods but now, and of
#' its own moves in earlier pairs of like periods (twelve at most, the model counting as twelve) is
#' held against the normal distribution (fewer than ten customers: a t with 9 degrees of freedom),
#' for all names of as many conditions with half a per cent of the money (Bonferroni). `unusual`
#' says it in words: `"beyond doubt"` under 1 in 1,000, `"one such book in 40"`, or `"ordinary"`
#' where the chance is above `1 - confidence`. Customers that move together for one cause, and
#' drift that is larger now than in other periods, are not told from a cause.
#'
#' **A rate** goes by its parts: every line carries its part of the rate's change (rate effect and
#' mix effect together, as in [ll_bridge()]), and the growth is the rest's change of rate. Segments
#' are searched for in the same way and scored by how firmly their excess stands out from squares of
#' order totals, a drift of customers and items fitted to the book, and the rest's noise; `chance`
#' is had from the same.
#'
#' **In a database** tables of names and pairs are added up there (`GROUP BY`, one within the
#' other), and no lines travel; what SQL cannot say is looked for among lines that are brought, and
#' so are tables of few lines (`options(longladder.few_lines = 2e6)`), which is sooner.
#'
#' @param book (`ll_book`) the book; it needs a date.
#' @param metrics (text) one metric that adds up, or a rate `a / b` of two that do.
#' @param by (text) the dimensions to look in; fields of registers and parts of dates such as
#'   `weekday(order_date)` serve too. All dimensions but mere labels of others if not given.
#' @param not_by (text) dimensions that may not be named.
#' @param path (text) one to three dimensions: the only path looked at.
#' @param depth (whole number, 1 to 3) conditions of a segment at most.
#' @param max_segments (whole number, 1 to 8) segments at most.
#' @param confidence (number, .5 to .999999) how sure to be that the book does not do as much by
#'   itself.
#' @param min_impact (number, 0 to 1) the smallest excess, as a part of the larger of both totals;
#'   of a rate as a part of five times its change.
#' @inheritParams ll_standings
#' @param when,against (text) the period now and the one it is compared with; they may not overlap.
#'
#' @return A data frame of class `ll_result_drill`, a row for each segment, largest excess first,
#'   and one for everything else: `segment`, `presence` (`"stayed"`, `"new"`, `"gone"`),
#'   `<metric>_before`, the metric, `<metric>_change`, `<metric>_growth`, `beyond_growth` (the
#'   excess), `chance` (0 to 1), `unusual` (in words), and `condition`, its lines as a condition for
#'   other studies. A line belongs to the segment that was found first among those it fits. Parts:
#'   `others`, the next candidates with `beyond_growth` and `chance`; `inside`, for each segment and
#'   dimension the three names that moved most; `path`, each segment condition by condition.
#'   Settings: `rest_growth`, the growth of everything else; `least`, the smallest excess of a
#'   segment with a twentieth of the money that would have been unusual.
#' @section Notes given: The story in a few sentences; the next candidates; segments that cancel;
#'   incomplete periods; of an amount who moved most within each segment and what could have been
#'   found.
#' @section Errors: As [ll_bridge()]; `ll_error_argument` for metrics that neither add up nor are a
#'   rate of such, and for periods that overlap; `ll_error_data` where the total then is not above
#'   zero.
#' @section Sources: Kulldorff (1997), the scan statistic; Friedman and Fisher (1999), cover;
#'   Genovese, Roeder and Wasserman (2006), weighted Bonferroni; Efron (2004), an empirical null;
#'   for rates Efron (1969) and Shao (1997) on self-normalised sums and Huber (1964), proposal 2.
#' @examples
#' book <- ll_demo()
#' found <- ll_drill(book, "revenue", when = "2026-Q2")
#' found
#' ll_part(found, "others")
#' @export
ll_drill <- function(book, metrics = NULL, by = NULL, not_by = NULL, path = NULL, depth = 3,
                     max_segments = 6, confidence = .95, min_impact = .005, where = NULL,
                     when = "this year to date", against = "year before") {
  answer(declared_drill, book, as.list(environment()))
}
