# Drill: which segments drove a change, and how far to trust that.

declared_drill <- declare(
  "drill", "Find the segments that drove a change, beyond the growth of everything else",
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
#' best score at any depth wins. It is set aside and the rest searched again; with two causes each
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
#' @param where as in [ll_standings()].
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
  check_book(book)
  given <- list(metrics = metrics, dims = dims, barred = barred, path = path, depth = depth,
                most = most, sure = sure, material = material, where = where, when = when,
                against = against)
  q <- drill_question(book, check_args(declared_drill, given))
  s <- drill_found(q)
  table <- drill_table(s)
  new_answer(q, "drill", table$table, drill_settings(s), table$columns, drill_finding(s),
             drill_reading(s), drill_notes(s), drill_proof(s),
             parts = list(path = drill_path(s), foot = table$foot),
             behind = list(rows = c(s$trees, list(s$rest_tree))), compared = TRUE)
}

drill_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("dims", "barred", "path")), "drill")
  refuse_several(q, "'drill' explains")
  q <- ask_two_periods(q)
  if (q$asked$now$from <= q$asked$before$to && q$asked$before$from <= q$asked$now$to)
    ll_abort("'when' and 'against' overlap: a line cannot be both then and now.", "argument")
  q$ratio <- ratio_parts(q$first$tree)
  rate <- !is.null(q$ratio) && adds_up(q$ratio$n) && adds_up(q$ratio$d)
  if (!q$first$adds_up && !rate)
    ll_abort(c(paste0(capital(spoken(q$first$name)), " (", one_line(q$first$text),
                      ") neither adds up nor is a rate of two that do."),
               i = paste0("Take sums, counts of lines or their ratios; for distinct counts ",
                          "bridge into = \"names\" or its factors.")), "argument")
  q$rate <- rate
  if (q$first$adds_up) q$ratio <- NULL
  drill_dimensions(q)
}

# Dimensions looked in, and further ones that only tell how names waver.
drill_dimensions <- function(q) {
  all <- telling_dimensions(q$book, NULL)
  if (length(q$path) > 3) ll_abort("'path' takes one to three dimensions.", "argument")
  q$dims <- unique(c(q$path, if (is.null(q$dims)) if (is.null(q$path)) all else NULL else q$dims))
  q$dims <- setdiff(q$dims, q$barred)
  if (!length(q$dims))
    ll_abort("No dimension is left to look in.", "argument")
  if (length(q$dims) > 20)
    ll_abort(paste0("'drill' looks in twenty dimensions at most; the book has ", length(q$dims),
                    ". Name them with 'dims'."), "argument")
  # Every other dimension may be the one by which names waver.
  q$others <- setdiff(unique(c(q$barred, all)), q$dims)
  if (length(q$dims) + length(q$others) > 20) q$others <- q$barred
  q
}

# The lines of both periods laid out for the search.
drill_lines <- function(q) {
  both <- either(q$asked$where_before, q$asked$where_now)
  source <- lines_here(q, c(q$dims, q$others, q$book$order), both)
  masks <- list(line_mask(source, q$asked$where_before), line_mask(source, q$asked$where_now))
  period <- masks[[1]] + 2L * masks[[2]]
  trees <- key_trees(q$book, c(q$dims, q$others), q$asked$where_now)
  columns <- lapply(trees, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(trees, function(tree) length(source_names(q$book$source, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  order <- if (!is.null(q$book$order)) order_codes(coded_field(source, q$book$order)$codes)
  # Some thousand orders tell which dimensions stay the same within them.
  some <- if (!is.null(order)) which(order <= max(1e3, max(order) * 2e5 / source$n))
  by_order <- if (length(some)) drill_by_order(lapply(codes, `[`, some), order[some]) else
    levels >= 0
  group <- drill_group(by_order, levels)
  values <- drill_values(q, source, period)
  lines <- kernel_segments(codes, period, values$amount, values$weight, order,
                           if (!is.null(group)) codes[[group]], !q$rate)
  list(lines = lines, levels = levels, names = lapply(columns, `[[`, "levels"), group = group,
       by_order = by_order, places = values$places)
}

# Lines without an order are one each.
order_codes <- function(codes) {
  if (min(codes) > 0L) return(codes)
  none <- which(codes == 0L)
  codes[none] <- max(codes) + seq_along(none)
  codes
}

# What each line adds: amounts as whole numbers of 10^-places where they are decimals; for a rate
# its part of the rate's change and its weight.
drill_values <- function(q, source, period) {
  if (!q$rate) {
    v <- metric_lines(source, q$first$tree)
    return(list(amount = v$v, weight = NULL, places = if (is_exact(v)) v$places else 0L))
  }
  n <- scaled_value(metric_lines(source, q$ratio$n))
  d <- scaled_value(metric_lines(source, q$ratio$d))
  whole <- function(x) c(sum(x[period == 1]), sum(x[period == 2]))
  wholes <- whole(d)
  if (any(wholes <= 0))
    ll_abort(paste0("What ", spoken(q$first$name), " divides by is not above zero in ",
                    span_text(q$asked$before$from, q$asked$before$to), " or ",
                    span_text(q$asked$now$from, q$asked$now$to), "."), "data")
  middle <- mean(whole(n) / wholes)
  of <- wholes[pmax(period, 1)]
  list(amount = (n - middle * d) / of, weight = d / of, places = 0L)
}

# Everything that is found.
drill_found <- function(q) {
  laid <- drill_lines(q)
  deep <- min(q$depth, if (!is.null(q$path)) length(q$path) else 3)
  d <- new_drill(laid$lines, laid$levels, q$rate, laid$by_order, laid$group, deep, q$material,
                 q$path, q$others)
  whole <- both_periods(q, character(), stats::setNames(list(q$first$tree), q$first$name))
  s <- c(period_totals(q, whole), list(laid = laid, search = d))
  if (!q$rate && s$then <= 0)
    ll_abort(c(paste0(capital(spoken(q$first$name)), " then is ", said(s$then, q$first),
                      "; growth needs a total above zero."),
               i = "Give another period with 'against', or look with bridge."), "data")
  s$leaves <- drill_segments(d, -log(1 - q$sure), q$most)
  drill_measured(merge_leaves(s, measure_leaves(s)))
}

# Amounts of each leaf; a line belongs to the first that it fits.
measure_leaves <- function(s) {
  d <- s$search
  rows <- NULL
  for (i in seq_along(s$leaves)) {
    leaf <- s$leaves[[i]]
    mine <- drill_rows(d, list(leaf), rows, FALSE)
    leaf$all <- i == 1 || length(drill_rows(d, list(leaf), NULL, FALSE)) == length(mine)
    leaf$amount <- drill_amounts(d, mine) / 10^s$laid$places
    if (i < length(s$leaves)) rows <- drill_rows(d, list(leaf), rows)
    s$leaves[[i]] <- leaf
  }
  s$leaves
}

# Neighbours that differ in one dimension, went the same way and changed alike are one: "Fen or
# Moor".
merge_leaves <- function(s, leaves) {
  alike <- function(a, b) {
    if (!setequal(a$dims, b$dims) || sign(a$excess) != sign(b$excess)) return(NULL)
    differ <- a$dims[!vapply(a$dims, function(v) setequal(a$codes[[v]], b$codes[[v]]), NA)]
    near <- function(x, y) x == y || x > 0 && y > 0 && abs(log(x / y)) < .5
    ratio <- function(x) if (x$amount[["a"]] != 0) x$amount[["b"]] / x$amount[["a"]] else Inf
    if (length(differ) == 1 && (s$q$rate || near(ratio(a), ratio(b)))) differ
  }
  i <- 1
  while (i < length(leaves)) {
    found <- FALSE
    for (j in seq(i + 1, length(leaves))) {
      differ <- alike(leaves[[i]], leaves[[j]])
      if (is.null(differ)) next
      a <- leaves[[i]]
      b <- leaves[[j]]
      a$codes[[differ]] <- sort(c(a$codes[[differ]], b$codes[[differ]]))
      a$amount <- a$amount + b$amount
      # The less firm of the two.
      a$score <- min(a$score, b$score)
      a$all <- a$all && b$all
      leaves[[i]] <- a
      leaves <- leaves[-j]
      found <- TRUE
      break
    }
    if (!found) i <- i + 1
  }
  s$leaves <- leaves
  s
}

# Excess of every leaf over the growth of everything else; together with that growth the change.
drill_measured <- function(s) {
  q <- s$q
  s$named <- lapply(s$leaves, leaf_names, s = s)
  s$conditions <- lapply(s$named, leaf_condition, q = q)
  before <- NULL
  s$trees <- lapply(s$conditions, function(tree) {
    out <- if (is.null(before)) tree else
      and_also(tree, unmet(before))
    before <<- if (is.null(before)) tree else or_all(list(before, tree))
    out
  })
  s$rest_tree <- if (!is.null(before)) unmet(before)
  a <- vapply(s$leaves, function(l) l$amount[["a"]], 0)
  b <- vapply(s$leaves, function(l) l$amount[["b"]], 0)
  if (q$rate) return(drill_rates(s))
  rest <- c(s$then - sum(a), s$now - sum(b))
  s$growth <- if (length(a) == 0 || rest[1] > 0) rest[2] / rest[1] else 1
  s$parts <- data.frame(before = c(a, rest[1]), now = c(b, rest[2]))
  s$parts$change <- exact_change(s$parts$now, s$parts$before)
  s$parts$excess <- s$parts$now - s$growth * s$parts$before
  s$parts$excess[nrow(s$parts)] <- if (rest[1] > 0) 0 else rest[2] - rest[1]
  s$uniform <- (s$growth - 1) * s$then
  s
}

# The rates of the leaves, and what each brought to the change of the whole's rate.
drill_rates <- function(s) {
  q <- s$q
  trees <- list(n = q$ratio$n, d = q$ratio$d, r = q$first$tree)
  folded <- lapply(c(s$trees, list(s$rest_tree)), function(tree) {
    both_periods(q, character(), trees, tree)
  })
  take_one <- function(side, what) {
    vapply(folded, function(f) {
      x <- f[[paste0("total_", side)]][[what]]
      if (is.na(x) && what != "r") 0 else x
    }, 0)
  }
  n <- list(take_one("before", "n"), take_one("now", "n"))
  d <- list(take_one("before", "d"), take_one("now", "d"))
  whole <- lapply(d, sum)
  middle <- (sum(n[[1]]) / whole[[1]] + sum(n[[2]]) / whole[[2]]) / 2
  moved <- (n[[2]] - middle * d[[2]]) / whole[[2]] - (n[[1]] - middle * d[[1]]) / whole[[1]]
  weight <- (d[[1]] / whole[[1]] + d[[2]] / whole[[2]]) / 2
  last <- length(moved)
  s$growth <- if (weight[last] > 0) moved[last] / weight[last] else 0
  s$parts <- data.frame(before = take_one("before", "r"), now = take_one("now", "r"),
                        change = moved, excess = moved - s$growth * weight)
  s$parts$excess[last] <- 0
  s$uniform <- s$growth
  s
}

# A leaf's names by dimension.
leaf_names <- function(s, leaf) {
  lapply(stats::setNames(nm = leaf$dims), function(v) s$laid$names[[v]][leaf$codes[[v]]])
}

leaf_condition <- function(q, names) {
  Reduce(and_also, lapply(names(names), function(field) {
    node("within", arg = bind_scope(key_tree(q$book, field), q$asked$where_now),
         set = node("set", values = names[[field]]))
  }))
}
