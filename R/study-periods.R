# What studies of a change between two periods share.

# Both periods must touch the book's dates; conditions may still leave one of them empty. Amounts
# are divided by `days`, which is one where they stay as they are.
ask_two_periods <- function(question) {
  for (p in question$asked[c("now", "before")])
    if (p$to < first_day(question$book) || p$from > last_day(question$book))
      ll_abort(c(paste0("The book has no lines in ", span_text(p$from, p$to),
                        ", so there is nothing to compare."),
                 i = paste0("Its lines are from ",
                            span_text(first_day(question$book), last_day(question$book)),
                            "; give 'when' and 'against'.")), "data")
  with_args(question, days = c(now = 1, before = 1))
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
trading_days <- function(book, period, kind) {
  n <- count_days(as.integer(max(period$from, first_day(book))),
                  as.integer(min(period$to, last_day(book))), kind)
  if (!n) ll_abort(paste0("There is no working day in ", span_text(period$from, period$to), "."),
                   "data")
  n
}

# Values of both periods, a row for each name of either: list(keys, now, before, in_now, in_before,
# total_now, total_before, counted, exact). `trees` are named formulas; `also` narrows the lines.
both_periods <- function(question, keys, trees, also = NULL) {
  parts <- lapply(trees, function(tree) list(tree = tree))
  one <- function(where) {
    fold_metrics(question$book, keys, parts, and_also(where, also),
                 shown = question$asked$where_now, totals = list(character()))
  }
  now <- one(question$asked$where_now)
  was <- one(question$asked$where_before)
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
period_totals <- function(question, fold) {
  args <- question$args
  metric <- first_metric(question)
  name <- metric$name
  then <- value_or_zero(fold$total_before[[name]], metric)
  now <- value_or_zero(fold$total_now[[name]], metric)
  if (is.na(then) || is.na(now)) {
    p <- question$asked[[if (is.na(now)) "now" else "before"]]
    ll_abort(paste0(capital(spoken(name)), " has no value in ", span_text(p$from, p$to), "."),
             "data")
  }
  list(total_now = now, total_before = then,
       then = then / args$days[["before"]], now = now / args$days[["now"]], counted = fold$counted,
       exact = fold$exact[[name]] && is.null(arg_or_null(question, "per_day")))
}

# The metric's values by name, both per day: a name without lines, or none of whose amounts is
# known, adds nothing.
period_changes <- function(question, fold) {
  args <- question$args
  name <- first_metric(question)$name
  before <- or_zero(fold$before[[name]]) / args$days[["before"]]
  now <- or_zero(fold$now[[name]]) / args$days[["now"]]
  data.frame(before = before, now = now, change = exact_change(now, before),
             presence = ifelse(!fold$in_before, "new", ifelse(!fold$in_now, "gone", "stayed")))
}

# The same, where the conditions leave out lines of the other period: elsewhere, from elsewhere.
with_elsewhere <- function(question, keys, presence) {
  if (is.null(question$asked$only) || !length(keys)) return(presence)
  away <- function(which, period) {
    elsewhere_of(question, lapply(keys, `[`, which), question$asked[[period]])$held
  }
  gone <- which(presence == "gone")
  presence[gone][away(gone, "period_now")] <- "elsewhere"
  fresh <- which(presence == "new")
  presence[fresh][away(fresh, "period_before")] <- "from elsewhere"
  presence
}

# No lines are nothing for a metric that adds up or counts.
value_or_zero <- function(x, metric) if (is.na(x) && metric$zero) 0 else x

# The proof of the metric's totals in both periods; `plain` are the raw lines of each.
prove_two_periods <- function(question, found, plain = raw_lines(question),
                              plain_before = raw_lines(question, question$asked$period_before)) {
  metric <- first_metric(question)
  named <- function(x) stats::setNames(list(x), metric$name)
  then <- second_metric(question$book$source, metric$tree, plain_before$keep)
  rbind(prove_question(question, found$counted, named(found$total_now), named(found$exact), plain),
        proof_line(paste0(metric$name, " then = the lines added up by a second route"),
                   value_or_zero(then, metric), found$total_before, found$exact))
}

# A question by the periods of the book's date, `every` long; the parts of the date are its
# dimension `period`.
ask_by_period <- function(book, args, study, dimension) {
  dates <- book_dates(book, study)
  check_every(book, args$every)
  args <- altered(args, period = paste0(args$every, "(", name_text(book$date), ")"))
  question <- refuse_compared(ask_book(book, args, c("period", dimension)), study)
  with_args(question, calendar = dates$calendar, dates = dates)
}

# The first and last day of a question that has to lie within the book's.
covered_stretch <- function(question, first, last) {
  now <- question$asked$now
  first <- max(first, now$from)
  last <- min(last, now$to)
  if (first > last)
    ll_abort(paste0("The book has no dates in ", span_text(now$from, now$to), "."), "data")
  with_args(question, first_day = first, last_day = last)
}

# Every period of the stretch: label, first and last day, days covered, whether it is a part.
trend_periods <- function(question, most = most_periods) {
  args <- question$args
  refuse_many_periods(question, most)
  around <- seq(as.integer(args$first_day) - 400L, as.integer(args$last_day) + 400L)
  label <- bucket_labels(around, args$every, args$calendar)
  inside <- around >= as.integer(args$first_day) & around <= as.integer(args$last_day)
  shown <- unique(label[inside])
  mine <- match(label, shown)
  span <- function(f, among) as.vector(tapply(around[among], mine[among], f))
  known <- !is.na(mine)
  out <- data.frame(label = shown, from = span(min, known), to = span(max, known),
                    first = span(min, known & inside), last = span(max, known & inside))
  # A book that begins on the second of the month lacks no trade of the first.
  slack <- if (args$every %in% c("day", "week")) 0 else part_days
  now <- question$asked$now
  cut <- !is.null(now) && now$to == args$last_day
  short <- out$to > out$last
  if (!cut) short[short] <- vapply(which(short), function(i) {
    covered_to(question$book, as_day(out$to[i])) < as_day(out$to[i])
  }, NA)
  out$part <- out$first - out$from > (if (is.null(now)) slack else 0) & out$first > out$from |
    short
  out$days <- out$last - out$first + 1
  out
}

# A stray date makes thousands of years of it.
refuse_many_periods <- function(question, most) {
  args <- question$args
  unit <- sub("fiscal_", "", args$every)
  length <- c(day = 1, week = 7, month = 30.4, quarter = 91.3, year = 365.25)[[unit]]
  n <- as.numeric(args$last_day - args$first_day) / length
  # Nor does anybody ask for a thousand years.
  years <- as.numeric(args$last_day - args$first_day) / 365.25
  if (n <= most && years <= most_years) return(invisible())
  if (n <= most) {
    n <- years
    unit <- "year"
    most <- most_years
  }
  stray <- stray_days(question$book)
  ll_abort(c(paste0("From ", date_text(args$first_day), " to ", date_text(args$last_day),
                    " there are ", count_text(round(n)), " ", plural_word(unit), ", more than ",
                    count_text(most), "."),
             i = paste0("Give 'when', or a longer 'every'", if (length(stray)) paste0(
               "; far from the others ", verb(length(stray), "is "),
               and_list(date_text(stray), 3)), ".")), "data")
}

most_periods <- 20000
most_years <- 1000
