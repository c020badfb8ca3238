# Trend, continued: the question and what is found.

most_periods <- 20000

trend_question <- function(book, args) {
  q <- ask_by_period(book, args, "trend", "by")
  if (length(q$by) > 1) ll_abort("'by' takes one dimension.", "argument")
  covered_stretch(q, q$dates$first, min(q$dates$last, last_day(book)))
}

# Every period of the stretch: label, first and last day, days covered, whether it is a part.
trend_periods <- function(q, most = most_periods) {
  refuse_many_periods(q, most)
  around <- seq(as.integer(q$first_day) - 400L, as.integer(q$last_day) + 400L)
  label <- bucket_labels(around, q$every, q$calendar)
  inside <- around >= as.integer(q$first_day) & around <= as.integer(q$last_day)
  shown <- unique(label[inside])
  mine <- match(label, shown)
  span <- function(f, among) as.vector(tapply(around[among], mine[among], f))
  known <- !is.na(mine)
  out <- data.frame(label = shown, from = span(min, known), to = span(max, known),
                    first = span(min, known & inside), last = span(max, known & inside))
  # A book that begins on the second of the month lacks no trade of the first.
  slack <- if (q$every %in% c("day", "week")) 0 else part_days
  asked <- !is.null(q$asked$now)
  out$part <- out$first - out$from > (if (asked) 0 else slack) & out$first > out$from |
    out$to - out$last > (if (asked && q$asked$now$to == q$last_day) 0 else slack)
  out$days <- out$last - out$first + 1
  out
}

# A stray date makes thousands of years of it.
refuse_many_periods <- function(q, most) {
  unit <- sub("fiscal_", "", q$every)
  length <- c(day = 1, week = 7, month = 30.4, quarter = 91.3, year = 365.25)[[unit]]
  n <- as.numeric(q$last_day - q$first_day) / length
  if (n <= most) return(invisible())
  stray <- stray_days(q$book)
  ll_abort(c(paste0("From ", date_text(q$first_day), " to ", date_text(q$last_day), " there are ",
                    count_text(round(n)), " ", plural_word(unit), ", more than ",
                    count_text(most), "."),
             i = paste0("Give 'when', or a longer 'every'", if (length(stray)) paste0(
               "; far from the others ", if (length(stray) == 1) "is " else "are ",
               and_list(date_text(stray), 3)), ".")), "data")
}

# Values of every metric for each line (a name of `by`, the rest, or all) and period.
trend_series <- function(q, periods) {
  s <- list(q = q, periods = periods)
  whole <- fold_question(q, character())
  s$total <- as.list(whole$values[1, , drop = FALSE])
  s$exact <- whole$exact
  s$all <- trend_line(s, trend_folds(q, q$period))
  s$counted <- sum(s$all$lines)
  s$lines <- if (is.null(q$by)) list(all = s$all) else trend_lines(s)
  s$to_date <- year_to_date(q)
  s$stretch <- asked_stretch(q, s$periods)
  s
}

# The folds of the periods shown, and of all the book's, which a year before is looked up in.
trend_folds <- function(q, keys, also = NULL) {
  now <- fold_question(q, keys, where = and_also(q$asked$where_now, also))
  ever <- if (is.null(q$asked$now)) now else
    fold_question(q, keys, where = and_also(q$asked$where_ever, also))
  list(now = now, ever = ever)
}

# One line: the values in the periods shown, and a year before.
trend_line <- function(s, folds) {
  q <- s$q
  ago <- year_ago(s$periods, q)
  pick <- function(fold, label, m, there) {
    at <- match(label, fold$keys[[q$period]])
    value <- fold$values[[m$name]][at]
    if (m$zero) value[is.na(at)] <- 0
    value[!there] <- NA
    value
  }
  list(values = lapply(q$metrics, function(m) pick(folds$now, s$periods$label, m, TRUE)),
       ago = lapply(q$metrics, function(m) pick(folds$ever, ago$label, m, ago$inside)),
       lines = folds$now$lines, seen = folds$now$keys[[q$period]])
}

# The same period a year before, and whether the book covers it whole.
year_ago <- function(periods, q) {
  label <- periods$label
  if (q$every == "day") {
    days <- vapply(label, function(day) as.numeric(year_before(as.Date(day))), 0, USE.NAMES = FALSE)
    return(list(label = format(as_day(days)), inside = days >= as.integer(first_day(q$book))))
  }
  year <- as.integer(regmatches(label, regexpr("[0-9]{4}", label)))
  before <- label
  regmatches(before, regexpr("[0-9]{4}", before)) <- as.character(year - 1L)
  days <- seq(as.integer(min(periods$from)) - 800L, as.integer(max(periods$to)))
  name <- bucket_labels(days, q$every, q$calendar)
  from <- days[match(before, name)]
  slack <- if (q$every == "week") 0 else part_days
  list(label = before, inside = !is.na(from) & from >= as.integer(first_day(q$book)) - slack)
}

# A line for each of the first names, the rest and the nameless, all out of one fold.
trend_lines <- function(s) {
  q <- s$q
  folds <- trend_folds(q, c(q$by, q$period))
  whole <- fold_question(q, q$by)
  names <- whole$keys[[1]]
  named <- which(!is.na(names))
  best <- names[named][best_order(whole$values[[q$first$name]][named], q$first$better == "high")]
  kept <- utils::head(best, q$top)
  of <- function(wanted) {
    lapply(folds, function(fold) {
      rows <- fold$keys[[q$by]] %in% wanted
      list(keys = lapply(fold$keys, `[`, rows), values = fold$values[rows, , drop = FALSE],
           lines = fold$lines[rows])
    })
  }
  lines <- lapply(stats::setNames(kept, shown_names(kept)), function(name) trend_line(s, of(name)))
  rest <- setdiff(best, kept)
  if (length(rest)) {
    label <- paste0("everyone else (", count_text(length(rest)), ")")
    lines[[label]] <- trend_line(s, if (all(vapply(q$metrics, `[[`, NA, "adds_up")))
      lapply(of(rest), add_periods, q = q) else
        trend_folds(q, q$period, all_but(q, q$by, names(lines))))
  }
  if (anyNA(names)) lines[["(none)"]] <- trend_line(s, of(NA_character_))
  lines
}

# A fold of names and periods added up over the names, as whole numbers where they are decimals.
add_periods <- function(fold, q) {
  period <- fold$keys[[q$period]]
  label <- unique(period)
  at <- factor(match(period, label), seq_along(label))
  add <- function(x) {
    exact <- scaled_number(x)
    total <- vapply(split(exact$v, at), sum, 0, na.rm = TRUE)
    total[vapply(split(is.na(x), at), all, NA)] <- NA
    unname(if (is_exact(exact)) total / 10^exact$places else total)
  }
  fold$values <- as.data.frame(lapply(fold$values, add), optional = TRUE)
  fold$lines <- add(fold$lines)
  fold$keys <- stats::setNames(list(label), q$period)
  fold
}

# This year so far against the same stretch of the year before.
year_to_date <- function(q) {
  last <- min(last_day(q$book, q$book$days[q$book$days <= book_day(q$book)]), book_day(q$book))
  now <- read_period("this year to date", list(first = first_day(q$book), last = last))
  against_year_before(q, now)
}

# The whole of what is asked for, where no period of it is whole.
asked_stretch <- function(q, periods) {
  if (!all(periods$part)) return(NULL)
  now <- period(as_day(min(periods$first)), as_day(max(periods$last)), "", "")
  against_year_before(q, now, alone = TRUE)
}

# The metrics over a stretch of days and over the same a year before: a row each. Where the book
# does not reach back so far, NULL, or with `alone` the stretch by itself.
against_year_before <- function(q, now, alone = FALSE) {
  before <- read_against("year before", now, list())
  short <- before$from < first_day(q$book) - part_days
  if (short && !alone) return(NULL)
  value <- function(p) {
    where <- and_also(q$asked$where_ever, in_period(q$book, p))
    unlist(fold_question(q, character(), where = where)$values[1, ])
  }
  a <- value(now)
  b <- if (short) rep(NA_real_, length(a)) else value(before)
  data.frame(metric = names(q$metrics), from = now$from, to = now$to, value = unname(a),
             value_before = unname(b), growth = unname(growth_of(a, b)))
}
