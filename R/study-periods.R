# What studies of a change between two periods share.

# Both periods must touch the book's dates; conditions may still leave one of them empty. Amounts
# are divided by `days`, which is one where they stay as they are.
ask_two_periods <- function(q) {
  for (p in q$asked[c("now", "before")])
    if (p$to < first_day(q$book) || p$from > last_day(q$book))
      ll_abort(c(paste0("The book has no lines in ", span_text(p$from, p$to),
                        ", so there is nothing to compare."),
                 i = paste0("Its lines are from ", span_text(first_day(q$book), last_day(q$book)),
                            "; give 'when' and 'against'.")), "data")
  q$days <- c(now = 1, before = 1)
  q
}

# A rate as list(n, d), two trees that are added up and then divided; NULL for other metrics.
ratio_parts <- function(tree) {
  if (tree$kind == "op" && tree$op == "/" && !is_constant(tree$args[[2]]) &&
        all(vapply(tree$args, counted_up, NA)))
    return(list(n = tree$args[[1]], d = tree$args[[2]]))
  if (tree$kind == "aggregate" && tree$fn == "mean" && tree$arg$kind != "per") {
    as <- function(fn) {
      tree$fn <- fn
      tree
    }
    return(list(n = as("sum"), d = as("count")))
  }
  NULL
}

counted_up <- function(tree) adds_up(tree) || counts_distinct(tree)

# Days of a period that the book covers.
trading_days <- function(book, p, kind) {
  n <- count_days(as.integer(max(p$from, first_day(book))),
                  as.integer(min(p$to, last_day(book))), kind)
  if (!n) ll_abort(paste0("There is no working day in ", span_text(p$from, p$to), "."), "data")
  n
}

# Values of both periods, a row for each name of either: list(keys, now, before, in_now, in_before,
# total_now, total_before, counted, exact). `trees` are named formulas; `also` narrows the lines.
both_periods <- function(q, keys, trees, also = NULL) {
  parts <- lapply(trees, function(tree) list(tree = tree))
  one <- function(where) {
    fold_metrics(q$book, keys, parts, and_also(where, also), shown = q$asked$where_now,
                 totals = list(character()))
  }
  now <- one(q$asked$where_now)
  was <- one(q$asked$where_before)
  at <- if (length(keys)) match_keys(was$keys, now$keys) else 1
  fresh <- which(is.na(at))
  here <- c(seq_len(now$rows), rep(NA, length(fresh)))
  there <- c(match(seq_len(now$rows), at), fresh)
  values <- function(fold, rows) {
    Map(function(v, tree) {
      v <- v[rows]
      if (zero_without_lines(tree)) v[is.na(rows)] <- 0
      v
    }, fold$values[names(trees)], trees)
  }
  total <- function(fold) as.list(fold$totals[[1]]$values[1, , drop = FALSE])
  list(keys = Map(function(a, b) c(a, b[fresh]), now$keys, was$keys),
       now = values(now, here), before = values(was, there), in_now = !is.na(here),
       in_before = !is.na(there), total_now = total(now), total_before = total(was),
       counted = sum(now$lines), exact = now$exact & was$exact)
}

# What studies of a change start from: the metric's totals, put per day where asked.
period_totals <- function(q, f) {
  name <- q$first$name
  then <- value_or_zero(f$total_before[[name]], q$first)
  now <- value_or_zero(f$total_now[[name]], q$first)
  if (is.na(then) || is.na(now)) {
    p <- q$asked[[if (is.na(now)) "now" else "before"]]
    ll_abort(paste0(capital(spoken(name)), " has no value in ", span_text(p$from, p$to), "."),
             "data")
  }
  list(q = q, total_now = now, total_before = then, then = then / q$days[["before"]],
       now = now / q$days[["now"]], counted = f$counted,
       exact = f$exact[[name]] && is.null(q$per_day))
}

# The metric's values by name, both per day: a name without lines, or none of whose amounts is
# known, adds nothing.
period_changes <- function(q, f) {
  name <- q$first$name
  before <- or_zero(f$before[[name]]) / q$days[["before"]]
  now <- or_zero(f$now[[name]]) / q$days[["now"]]
  data.frame(before = before, now = now, change = exact_change(now, before),
             presence = ifelse(!f$in_before, "new", ifelse(!f$in_now, "gone", "stayed")))
}

# "134,042", "+134,042", "-0.3 points": a change of the metric, a rate's in points.
said_change <- function(x, m, sign = TRUE) {
  text <- format_number(abs(x), change_unit(m$unit))
  paste0(if (sign) ifelse(x < 0, "-", "+"), text)
}

# "Revenue rose by 134,042 (11.2 %) to 1,329,696"
change_sentence <- function(s) {
  m <- s$q$first
  change <- exact_change(s$now, s$then)
  growth <- if (m$unit != "percent") growth_of(s$now, s$then) else NA
  what <- paste0(capital(spoken(m$name)), if (!is.null(s$q$per_day)) paste(
    " per", if (s$q$per_day == "working") "working day" else "day"))
  if (change == 0) return(paste0(what, " stayed at ", said(s$now, m)))
  paste0(what, if (change > 0) " rose by " else " fell by ", said_change(change, m, FALSE),
         if (!is.na(growth)) paste0(" (", format_number(abs(growth), "percent"), ")"), " to ",
         said(s$now, m))
}

# No lines are nothing for a metric that adds up or counts.
value_or_zero <- function(x, metric) if (is.na(x) && metric$zero) 0 else x

# The proof of the metric's totals in both periods; `plain` are the raw lines of each.
prove_two_periods <- function(s, plain = raw_lines(s$q),
                              plain_before = raw_lines(s$q, s$q$asked$period_before)) {
  q <- s$q
  m <- q$first
  named <- function(x) stats::setNames(list(x), m$name)
  then <- plain_metric(q$book$source, m$tree, plain_before$keep)
  rbind(prove_question(q, s$counted, named(s$total_now), named(s$exact), plain),
        proof_line(paste0(m$name, " then = the lines added up by a second route"),
                   value_or_zero(then, m), s$total_before, s$exact))
}

# A question by the periods of the book's date, `every` long; the parts of the date are its
# dimension `period`.
ask_by_period <- function(book, args, study, dimension) {
  dates <- book_dates(book, study)
  check_every(book, args$every)
  args$period <- paste0(args$every, "(", name_text(book$date), ")")
  q <- refuse_compared(ask_book(book, args, c("period", dimension)), study)
  q$calendar <- dates$calendar
  q$dates <- dates
  q
}

# The first and last day of a question that has to lie within the book's.
covered_stretch <- function(q, first, last) {
  q$first_day <- max(first, q$asked$now$from)
  q$last_day <- min(last, q$asked$now$to)
  if (q$first_day > q$last_day)
    ll_abort(paste0("The book has no dates in ", span_text(q$asked$now$from, q$asked$now$to), "."),
             "data")
  q
}
