# Distribution: how many lines, orders or names lie in each band of a value.

bins_most <- 60

declared_distribution <- declare(
  "distribution", "How many lines, orders or names lie in each band of a value, and what they hold",
  args = list(
    each = arg("words", "what is counted: a dimension or identifier (default: lines)"),
    metrics = arg("metrics", "the metric whose spread is shown; for lines the sum of one field"),
    width = arg("number", "the width of a band (default: a round one from the values)"),
    by = arg("words", "apart for each name of this dimension"),
    where = arg_where, when = arg_when),
  examples = c(
    "--metrics revenue --each account",
    "--metrics revenue --each order_no --width 250",
    "--metrics units"))

#' Distribution: how values spread
#'
#' Counts lines, orders or the names of any dimension in bands of a metric, with what each band
#' holds. Bands are half open, the lower bound included, and zero is always a bound, so that losses
#' stand apart.
#'
#' The width proposed is that of Freedman and Diaconis, 2 IQR / n^(1/3), rounded to 1, 2, 2.5 or 5
#' times a power of ten, and at least 1 for whole numbers. Where the quartiles coincide it is the
#' range divided by 20. There are at most 60 bands: where the range is long, the first and last are
#' open and hold everything beyond them.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) what is counted: a dimension or an identifier such as the order; lines if not
#'   given.
#' @param metrics (text) one metric, as in [ll_standings()]; for lines a sum of one formula.
#' @param width (number above 0) the width of a band.
#' @param by (text) a dimension; the distribution is given apart for each of its first 6 names by
#'   count.
#' @param where,when as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_distribution`, a row for each band (and name of `by`):
#'   `from` and `to` (missing where open), `count`, `count_share`, `count_running_share`, the
#'   metric's total in the band and its `_share` of the positive total. Parts: `summary` (count,
#'   mean, median, quantiles, deviation, skewness, how many lie beyond 1.5 IQR of the quartiles).
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a width that is not above zero, for
#' several metrics, or for a metric over lines that is no sum of a formula.
#' @references Freedman, D. and Diaconis, P. (1981) On the histogram as a density estimator.
#' *Zeitschrift fuer Wahrscheinlichkeitstheorie* 57, 453-476. \doi{10.1007/BF01025868}
#' @examples
#' ll_distribution(ll_demo(), each = "account", metrics = "revenue")
#' @export
ll_distribution <- function(book, each = NULL, metrics = NULL, width = NULL, by = NULL,
                            where = NULL, when = NULL) {
  check_book(book)
  given <- list(each = each, metrics = metrics, width = width, by = by, where = where, when = when)
  q <- distribution_question(book, check_args(declared_distribution, given))
  s <- distribution_values(q)
  s$bounds <- value_bounds(s$value, q$width, s$times)
  table <- distribution_table(s)
  new_answer(q, "distribution", table$table, distribution_settings(s), table$columns,
             distribution_finding(s), distribution_reading(s), distribution_notes(s),
             distribution_proof(s, table$table),
             parts = list(summary = distribution_summary(s)),
             behind = list(rows = band_conditions(s, table$table)))
}

distribution_question <- function(book, args) {
  if (!is.null(args$width) && args$width <= 0)
    ll_abort(c("'width' must be above zero.", x = paste0("It is ", args$width, ".")), "argument")
  q <- refuse_compared(ask_book(book, args, c("each", "by")), "distribution")
  refuse_several(q, "'distribution' looks at")
  if (length(q$by) > 1 || length(q$each) > 1)
    ll_abort("'each' and 'by' take one dimension each.", "argument")
  if (is.null(q$each)) refuse_no_sum(q$first)
  q
}

# Every value that lines or names have, how many have it (`times`), and the name of `by`.
distribution_values <- function(q) {
  total <- fold_question(q, character())
  s <- list(q = q, total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
            lines = total$lines)
  s <- if (is.null(q$each)) line_values(s) else name_values(s)
  settle_groups(s)
}

name_values <- function(s) {
  q <- s$q
  fold <- fold_question(q, c(q$by, q$each))
  named <- !is.na(fold$keys[[q$each]])
  value <- fold$values[[1]][named]
  known <- !is.na(value)
  group <- if (is.null(q$by)) rep("", sum(named)) else named_keys(fold$keys[q$by])[[1]][named]
  at <- order(value, na.last = NA)
  s$missing <- sum(!known)
  s$value <- value[at]
  s$times <- rep(1, length(at))
  s$name <- fold$keys[[q$each]][named][at]
  s$group <- group[at]
  # Whether a name stands in several groups, once in each.
  s$split <- anyDuplicated(fold$keys[[q$each]][named]) > 0
  s$nameless <- fold$values[[1]][!named]
  s$counted <- sum(fold$lines)
  s
}

line_values <- function(s) {
  q <- s$q
  by <- if (!is.null(q$by)) bind_scope(key_tree(q$book, q$by), q$asked$where_now)
  counted <- source_counted(q$book$source, q$first$tree$arg, by, q$asked$where_now)
  s$nameless <- numeric()
  s$missing <- counted$missing
  s$counted <- sum(counted$times) + counted$missing
  s$value <- counted$value
  s$times <- counted$times
  s$group <- if (is.null(by)) rep("", length(s$value)) else
    shown_names(counted$group)
  s
}

# Groups are the six largest, the rest gathered.
settle_groups <- function(s) {
  names <- sort(unique(s$group), method = "radix")
  size <- vapply(names, function(name) sum(s$times[s$group == name]), 0)
  s$groups <- names[order(-size)]
  if (length(s$groups) > 6) {
    s$group[!s$group %in% s$groups[1:6]] <- "everyone else"
    s$groups <- c(s$groups[1:6], "everyone else")
  }
  # In rising order whatever the groups, so that running counts find quantiles.
  at <- order(s$value)
  for (part in c("value", "times", "group", "name")) s[[part]] <- s[[part]][at]
  s$n <- sum(s$times)
  s
}

# Bounds of the bands, for values that rise: a round width, zero among them; list(at, width, low,
# high), open ends told.
value_bounds <- function(value, width = NULL, times = rep(1, length(value))) {
  if (!length(value)) return(list(at = c(0, 1), width = 1, low = FALSE, high = FALSE))
  given <- !is.null(width)
  if (!given) width <- round_width(value, times)
  reach <- function(p) floor(counted_quantile(value, times, p) / width + 1e-9)
  middle <- c(.005, .995)
  if (!given) while (diff(reach(middle)) >= bins_most * 2 / 3) width <- next_round(width)
  whole <- reach(c(0, 1)) + 0:1
  ends <- whole
  if (diff(whole) > (if (given) bins_most else bins_most / 2)) {
    # What lies far out is gathered at open ends; zero stays a bound where there are losses.
    ends <- reach(middle) + 0:1
    if (whole[1] < 0) ends[1] <- min(ends[1], 0)
    if (diff(ends) > bins_most) ends[2] <- ends[1] + bins_most
  }
  list(at = seq(ends[1], ends[2]) * width, width = width, low = whole[1] < ends[1],
       high = whole[2] > ends[2])
}

# Freedman and Diaconis, made round; whole numbers have bands of at least one.
round_width <- function(value, times) {
  spread <- diff(counted_quantile(value, times, c(.25, .75)))
  range <- diff(range(value))
  width <- if (spread > 0) 2 * spread / sum(times)^(1 / 3) else range / 20
  if (width <= 0) return(if (value[1] == 0) 1 else 10^floor(log10(abs(value[1]))))
  power <- 10^floor(log10(width))
  width <- round_steps[which.min(abs(log(width / power / round_steps)))] * power
  if (all(value == round(value))) max(1, round(width)) else width
}

round_steps <- c(1, 2, 2.5, 5, 10)

next_round <- function(width) {
  power <- 10^floor(log10(width) + 1e-9)
  round_steps[which(round_steps > width / power + 1e-9)[1]] * power
}

# The band of each value: 0 below the first bound, as many as bounds above the last.
band_of <- function(s) findInterval(s$value + abs(s$value) * 1e-12, s$bounds$at)

# The lines of each band: by their own value, or by the names whose value lies in it.
band_conditions <- function(s, table) {
  q <- s$q
  lapply(seq_len(nrow(table)), function(i) {
    group <- if (is.null(q$by)) "" else table[[q$by]][i]
    if (group == "everyone else") return(NULL)
    out <- if (is.null(q$each)) value_within(q, table$from[i], table$to[i]) else
      names_within(s, group, table$from[i], table$to[i])
    and_also(out, if (!is.null(q$by)) name_condition(q, q$by, group, NULL))
  })
}

names_within <- function(s, group, from, to) {
  at <- s$group == group & (is.na(from) | s$value >= from) & (is.na(to) | s$value < to)
  node("within", arg = bind_scope(key_tree(s$q$book, s$q$each), s$q$asked$where_now),
       set = node("set", values = s$name[at]))
}

value_within <- function(q, from, to) {
  side <- function(op, bound) {
    if (is.na(bound)) return(NULL)
    node("compare", op = op, type = "number",
         args = list(q$first$tree$arg, node("number", value = bound)))
  }
  known <- unmet(node("missing", arg = q$first$tree$arg))
  and_also(and_also(side(">=", from), side("<", to)), if (is.na(from) && is.na(to)) known)
}
