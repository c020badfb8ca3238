# Benchmark: everyone as a percentage of a line, from the best, given, a percentile, or each one's
# own plan.

declared_benchmark <- declare(
  "benchmark", "Everyone as a percentage of the best few, of a given line, or of their own plan",
  args = list(
    each = arg("words", "whom to place: one dimension, or several for pairs", required = TRUE),
    metrics = arg_metrics("the metric (default: the book's first)"),
    best = arg("whole", "the line is the level of the best so many (default: 3)"),
    level = arg("choice",
                "of the best: their mean (for a rate, all of them together), median, lowest",
                "mean", choices = c("mean", "median", "lowest")),
    fixed = arg("level", "instead: the line is this value, such as 50000 or 30%"),
    percentile = arg("number", "instead: the line is this percentile of the names", from = 0,
                     to = 100),
    plan = arg("plan", paste("instead: each one's own line, a field of the register, or a file",
                             "with the names, amount and, if wanted, period")),
    bands = arg("percents", "bounds of the bands, in percent of the line (default: 50,80,100)"),
    at_least = arg("whole", "fewest orders a name must have"),
    certainty = arg_certainty, seed = arg_seed, where = arg_where, when = arg_when),
  examples = c(
    "--each rep --best 3 --when 2026",
    "--each rep --metrics margin_rate --best 5 --at-least 20",
    "--each rep --plan quota --when 2025",
    "--each account --percentile 90 --level median"))

#' Benchmark: everyone against a line
#'
#' Draws a line and gives every name's value as a percentage of it, in bands. The line is the level
#' of the best few, a given value, a percentile, or each one's own plan; it follows every condition.
#'
#' The best are the names on the first `best` places, ties at the last of them included. Their level
#' is the mean, the median or the lowest of their values; for rates and other averages the mean is
#' the metric of all of them together, the ratio of their totals. Where less of the metric is better
#' the best have the lowest values and the percentage is the line over the value, so that 100 %
#' still means the line is reached. Percentiles are those of type 7 (Hyndman and Fan 1996).
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whom to place: one dimension, or several for pairs.
#' @param metrics (text) one metric, as in [ll_standings()].
#' @param best (whole number) the line is the level of so many; 3 if no other line is asked for.
#' @param level (text) `"mean"`, `"median"` or `"lowest"` of the best (the least good of them).
#' @param fixed (number, or text such as `"30%"`) the line itself, in the metric's unit.
#' @param percentile (number, 0 to 100) the line is this percentile of the names' values.
#' @param plan (text or data frame) each one's own line: a field of the register of `each`, or a
#'   file or table with a column named like `each`, `amount`, and if wanted `period` (any period of
#'   the calendar, such as `2026-Q2`). Amounts of periods inside `when` are added up, those partly
#'   inside by their days.
#' @param bands (shares; numbers above 1 and text with `%` are percent) bounds of the bands; 50, 80
#'   and 100 % if not given.
#' @param at_least (whole number) names with fewer orders are left out, of the best too.
#' @param certainty,seed as in [ll_standings()]: ranges of places under resampled orders.
#' @param where,when as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_benchmark`, a row for each name, best first: the
#'   dimensions, `place`, the metric, `benchmark` (the line), `of_benchmark` (0.8 for 80 %; missing
#'   where the line is not above zero), `to_benchmark` (what is missing to the line; negative beyond
#'   it), `band`; with `certainty` its columns of [ll_standings()]. With a plan, names that have one
#'   and no lines are rows too. Parts: `bands` (lower bound, names, value of each), `best` (the
#'   names the line is made of), `foot`.
#' @section Notes given: Ties among the best, best names with few orders, names without a plan,
#' plans of periods not in the question, lines not above zero, lines without a name, part periods.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for two kinds of line at once, and for
#' a plan without the names or amounts.
#' @references Hyndman, R. J. and Fan, Y. (1996) Sample quantiles in statistical packages. *The
#' American Statistician* 50, 361-365.
#' @examples
#' ll_benchmark(ll_demo(), each = "rep", best = 3, when = "2026")
#' ll_benchmark(ll_demo(), each = "rep", plan = "quota", when = "2025")
#' @export
ll_benchmark <- function(book, each, metrics = NULL, best = NULL, level = "mean", fixed = NULL,
                         percentile = NULL, plan = NULL, bands = NULL, at_least = NULL,
                         certainty = NULL, seed = 1, where = NULL, when = NULL) {
  check_book(book)
  given <- list(each = if (missing(each)) NULL else each, metrics = metrics, best = best,
                level = level, fixed = fixed, percentile = percentile, plan = plan, bands = bands,
                at_least = at_least, certainty = certainty, seed = seed, where = where,
                when = when)
  q <- benchmark_question(book, check_args(declared_benchmark, given))
  s <- benchmark_names(q)
  table <- benchmark_table(s)
  new_answer(q, "benchmark", table$table, benchmark_settings(s), table$columns,
             benchmark_finding(s), benchmark_reading(s), benchmark_notes(s), benchmark_proof(s),
             parts = Filter(Negate(is.null), list(foot = table$foot, bands = s$held,
                                                  best = s$best)),
             behind = list(keys = stats::setNames(nm = q$each)))
}

benchmark_question <- function(book, args) {
  refuse_at_least(book, args)
  kinds <- c("best", "fixed", "percentile", "plan")
  asked <- kinds[!vapply(args[kinds], is.null, NA)]
  if (length(asked) > 1)
    ll_abort(paste0("One line at a time: ", and_list(quoted(asked)), " are given."), "argument")
  if (!length(asked)) args$best <- 3
  if (is.null(args$bands)) args$bands <- c(.5, .8, 1)
  args$kind <- if (length(asked)) asked else "best"
  q <- refuse_compared(ask_book(book, args, "each"), "benchmark")
  refuse_several(q, "'benchmark' draws a line for")
  if (q$first$unit == "date")
    ll_abort(paste0("A date is no percentage of another: ", quoted(q$first$name),
                    " has no benchmark."), "argument")
  if (q$kind == "plan") q <- c(q, list(plans = read_plan(q)))
  q
}

benchmark_names <- function(q) {
  s <- benchmark_fold(q)
  s <- c(list(q = q), s)
  s <- if (q$kind == "plan") plan_lines(s) else own_line(s)
  low <- q$first$better == "low"
  above <- s$line > 0 & (!low | s$value > 0)
  s$of <- ifelse(!is.na(above) & above, if (low) s$line / s$value else s$value / s$line, NA)
  s$labels <- percent_bands(q$bands)
  number <- findInterval(s$of + 1e-9, q$bands)
  s$band <- ifelse(is.na(s$of), "no percentage", s$labels[number + 1])
  s$held <- benchmark_bands(s)
  if (!is.null(q$certainty))
    s$certainty <- resampled_places(q, s$keys, q$metrics, q$asked$where_now, q$certainty, q$seed,
                                    metric_scores(q$first))
  s
}

# Names best first, those with too few orders left out.
benchmark_fold <- function(q) {
  f <- fold_each(q, orders = wants_orders(q))
  none <- f$none
  few <- f$few
  value <- f$values[[1]]
  shown <- which(!none & !few & !is.na(value))
  at <- shown[best_order(value[shown], q$first$better == "high")]
  list(keys = lapply(f$keys, `[`, at), value = value[at], none = value[none],
       orders = f$orders[at], few = sum(few & !none),
       left = exact_total(value[few & !none]),
       valueless = sum(!none & !few & is.na(value)),
       unvalued = f$keys[[1]][!none & !few & is.na(value)],
       place = sorted_places(value[at], f$exact[[1]]),
       total = f$total,
       exact = f$exact[names(q$metrics)], counted = sum(f$lines))
}

# One line for all.
own_line <- function(s) {
  q <- s$q
  s$line <- switch(q$kind, fixed = q$fixed, best = line_of_best(s),
                   percentile = if (length(s$value)) stats::quantile(
                     s$value, if (q$first$better == "low") 1 - q$percentile / 100 else
                       q$percentile / 100, names = FALSE) else NA_real_)
  if (q$kind == "best") {
    first <- which(s$place <= q$best)
    s$best <- data.frame(lapply(s$keys, `[`, first), s$value[first], check.names = FALSE)
    names(s$best) <- c(q$each, q$first$name)
  }
  s$common <- s$line
  s$line <- rep(s$line, length(s$value))
  s
}

line_of_best <- function(s) {
  q <- s$q
  first <- which(s$place <= q$best)
  if (!length(first)) return(NA_real_)
  if (q$level == "median") return(stats::median(s$value[first]))
  if (q$level == "lowest") return(s$value[first[length(first)]])
  if (!averages(q$first$tree)) return(mean(s$value[first]))
  where <- and_also(q$asked$where_now, these_names(q, lapply(s$keys, `[`, first)))
  fold_question(q, character(), where = where)$values[[1]][1]
}

percent_bands <- function(bounds) {
  text <- vapply(bounds, percent_words, "")
  n <- length(bounds)
  number <- sub(" %", "", text, fixed = TRUE)
  c(paste("below", text[1]), if (n > 1) paste(number[-n], "to", text[-1]),
    paste(text[n], "and above"))
}

benchmark_bands <- function(s) {
  labels <- c(rev(s$labels), if (any(s$band == "no percentage")) "no percentage")
  at <- factor(s$band, labels)
  value <- if (s$q$first$adds_up) unname(vapply(split(s$value, at), exact_total, 0)) else NA_real_
  data.frame(band = labels, from = c(rev(s$q$bands), NA, NA)[seq_along(labels)],
             names = tabulate(at, length(labels)), value = value)
}
