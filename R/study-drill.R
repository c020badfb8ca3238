# Drill: which segments drove a change, and how far to trust that.

declared_drill <- declare(
  "drill", "Find the segments that drove a change, beyond the growth of everything else",
  answers = "Which segments drove the change between two periods?",
  args = list(
    metrics = arg_metrics("the metric whose change is to be explained (default: the book's first)"),
    dims = arg("words", "the dimensions to look in (default: all that tell something)"),
    barred = arg("words", "dimensions that may not be named"),
    path = arg("words", "a fixed path: the first condition by this dimension, the next by that"),
    depth = arg("whole", "conditions of a segment at most", 3, to = 3),
    most = arg("whole", "segments at most", 4, to = 8),
    sure = arg("number", "how sure to be that noise alone names nothing", .99, from = .5,
               to = .999999),
    material = arg("number", "smallest excess that counts, as a part of the larger total", .01,
                   from = 0, to = 1),
    where = arg_where,
    when = arg("period", "the period now", "this year to date"),
    against = arg("period", "the period then: year before, previous, 2025", "year before")),
  examples = c("--metrics revenue --when 2026-Q2",
               "--metrics revenue --when 2026-Q2 --barred item,account --depth 2",
               "--metrics margin_rate --when 2026-Q2",
               "--metrics revenue --when 2026-Q2 --path territory,family"))

#' Drill: which segments drove a change
#'
#' Finds the segments, conjunctions of up to three names such as *territory Fen, type garden
#' centre*, whose change goes beyond the growth of everything else by more than noise explains.
#' That growth and the excesses of the segments together are the whole change, exactly. It stops by
#' itself: where nothing stands out it says so.
#'
#' **Excess.** With `A` then and `B` now, `g = B / A` of all lines outside the segments, a segment's
#' excess is `B - g A`, and `B - A` of the whole is `(g - 1) A` of the whole plus all excesses.
#' Segments of opposite sign are found alike, so a flat total still shows what cancels. For a rate
#' every line carries its part of the rate's change (its rate effect and mix effect together, as in
#' [ll_bridge()]), and the growth is the rest's change of rate.
#'
#' **How far to trust it.** `chance` bounds how likely noise alone would lift any segment that could
#' have been named as high as this. The excess of square roots of amounts (less swayed by a few
#' large lines) is held against its own variance: squares of order totals, a drift of customers and
#' of items fitted to the book by Huber's proposal 2, a drift of 1.5 % of any segment, and the
#' rest's noise. All segments of such dimensions that exist are paid for (Bonferroni), so a customer
#' or item number does not win by having hundreds of values, and is found when it is the cause. A
#' segment is named when `chance` is at most `1 - sure`, it has at least four orders, and its excess
#' is material.
#'
#' **Power and false alarms**, measured on simulated books with 8 dimensions, 600 accounts, 140
#' items, 1,000 to 40,000 lines a period and planted causes of 3 to 20 % of the total in one to
#' three dimensions, half of them hidden by an equal opposite one (`bench/power.md`, made by
#' `bench/power.R`). The share of books in which the segment named first is a planted one, by the
#' planted money over the standard deviation of its segment (of the lesser of two):
#'
#' | | below 4 | 4 to 6 | 6 to 8 | 8 to 12 | 12 up | all |
#' |---|---|---|---|---|---|---|
#' | nothing else moves | .50 | .89 | 1.00 | .92 | 1.00 | .74 |
#' | every account and item drifts too | .49 | .94 | .91 | 1.00 | 1.00 | .68 |
#'
#' In books without a cause one was named in 1 % (steady) and 3 % (drifting); with a cause another
#' segment was named first in 2 % and 6 %.
#'
#' **Search.** The best name of every dimension; the four best of these crossed with every other
#' dimension that they do not fix (an item fixes its family), the three best pairs once more; the
#' best score at any depth wins. It is excluded and the rest searched again; with two causes each
#' is sought again without the other.
#'
#' @param book (`ll_book`) the book; it needs a date.
#' @param metrics (text) one metric that adds up, or a rate `a / b` of two that do.
#' @param dims (text) two or more dimensions; fields of registers and parts of dates such as
#'   `weekday(order_date)` serve too. All dimensions but mere labels of others if not given.
#' @param barred (text) dimensions that may not be named; they still tell how much names waver.
#' @param path (text) one to three dimensions: the only path looked at.
#' @param depth (whole number, 1 to 3) conditions of a segment at most.
#' @param most (whole number, 1 to 8) segments at most; neighbours are merged after that.
#' @param sure (number, .5 to .999999) see above.
#' @param material (number, 0 to 1) the smallest excess, as a part of the larger of both totals.
#' @inheritParams ll_standings
#' @param when,against (text) the period now and the one it is compared with; they may not overlap.
#'
#' @return A data frame of class `ll_result_drill`, a row for each segment, firmest first, and one
#'   for everything else: `segment`, `presence` (`"stayed"`, `"new"`, `"gone"`), `<metric>_before`,
#'   the metric, `<metric>_change`, `<metric>_growth`, `excess`, `chance`, and `condition`, its
#'   lines as a condition for other studies. A line belongs to the first segment that it fits. Part
#'   `path`: each segment condition by condition, for the tree of the figure. Setting
#'   `rest_growth`: the growth of everything else.
#' @section Notes given: The story in a few sentences; segments that cancel, segments that make up
#'   more than half, part periods.
#' @section Errors: As [ll_bridge()]; `ll_error_argument` for metrics that neither add up nor are a
#'   rate of such, and for periods that overlap; `ll_error_data` where the total then is not above
#'   zero.
#' @section Sources: Bartlett (1936) on square roots; Efron (1969) and Shao (1997) on
#'   self-normalised sums; Huber (1964), proposal 2; Kulldorff (1997), the scan statistic; Friedman
#'   and Fisher (1999), cover; Genovese, Roeder and Wasserman (2006), weighted Bonferroni.
#' @examples
#' book <- ll_demo()
#' found <- ll_drill(book, "revenue", when = "2026-Q2")
#' found
#' ll_part(found, "path")
#' @export
ll_drill <- function(book, metrics = NULL, dims = NULL, barred = NULL, path = NULL, depth = 3,
                     most = 4, sure = .99, material = .01, where = NULL,
                     when = "this year to date", against = "year before") {
  answer(declared_drill, book, as.list(environment()))
}
