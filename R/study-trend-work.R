# Trend, continued: the question and what is found.

trend_question <- function(book, args) {
  question <- ask_by_period(book, args, "trend", "by")
  if (length(question$args$by) > 1) ll_abort("'by' takes one dimension.", "argument")
  dates <- question$args$dates
  covered_stretch(question, dates$first, min(dates$last, last_day(book)))
}

trend_found <- found_of(
  "trend",
  periods = holds("table", NULL, "label, first and last day, days covered, part"),
  all = holds("list", NULL, paste("values, earlier (periods before those shown, for rolling means),",
                                  "ago (a year before), lines and seen, by metric and period")),
  lines = holds("list", NULL, "the same for each name of `by`, the rest and the nameless"),
  to_date = holds("table", NULL, "the year to date against the year before",
                  absent = "where a period is asked for"),
  stretch = holds("table", NULL, "the part of a period asked for, against the year before",
                  absent = "where a period is covered whole"))

# Values of every metric for each line (a name of `by`, the rest, or all) and period.
trend_work <- function(question) {
  args <- question$args
  found <- list(periods = trend_periods(question))
  found$earlier <- earlier_labels(question, found$periods)
  whole <- fold_question(question, character())
  found$total <- as.list(whole$values[1, , drop = FALSE])
  found$exact <- whole$exact
  found$all <- trend_line(question, found, trend_folds(question, args$period))
  found$counted <- sum(found$all$lines)
  found$lines <- if (is.null(args$by)) list(all = found$all) else trend_lines(question, found)
  found$to_date <- year_to_date(question)
  found$stretch <- asked_stretch(question, found$periods)
  do.call(trend_found, without(found, "earlier"))
}

# The periods before those shown that a rolling mean reaches back to and the book covers whole.
earlier_labels <- function(question, periods) {
  args <- question$args
  if (is.null(args$rolling)) return(character())
  begin <- as.integer(first_day(question$book)) - part_days
  end <- as.integer(periods$from[1]) - 1L
  if (end < begin) return(character())
  days <- begin:end
  whole <- unique(bucket_labels(days, args$every, args$calendar))
  cut <- bucket_labels(days[1] - 1L, args$every, args$calendar) == whole[1]
  if (cut) whole <- whole[-1]
  utils::tail(whole, args$rolling - 1)
}

# The folds of the periods shown, and of all the book's, which a year before is looked up in.
trend_folds <- function(question, keys, also = NULL) {
  now <- fold_question(question, keys, where = and_also(question$asked$where_now, also))
  ever <- if (is.null(question$asked$now)) now else
    fold_question(question, keys, where = and_also(question$asked$where_ever, also))
  list(now = now, ever = ever)
}

# One line: the values in the periods shown, and a year before.
trend_line <- function(question, found, folds) {
  args <- question$args
  ago <- year_ago(found$periods, question)
  pick <- function(fold, label, m, there) {
    at <- match(label, fold$keys[[args$period]])
    value <- fold$values[[m$name]][at]
    if (m$zero) value[is.na(at)] <- 0
    value[!there] <- NA
    value
  }
  list(values = lapply(question$metrics, function(m) pick(folds$now, found$periods$label, m, TRUE)),
       earlier = lapply(question$metrics, function(m) pick(folds$ever, found$earlier, m, TRUE)),
       ago = lapply(question$metrics, function(m) pick(folds$ever, ago$label, m, ago$inside)),
       lines = folds$now$lines, seen = folds$now$keys[[args$period]])
}

# The same period a year before, and whether the book covers it whole.
year_ago <- function(periods, question) {
  args <- question$args
  label <- periods$label
  if (args$every == "day") {
    days <- vapply(label, function(day) as.numeric(year_before(as.Date(day))), 0, USE.NAMES = FALSE)
    return(list(label = format(as_day(days)),
                inside = days >= as.integer(first_day(question$book))))
  }
  year <- as.integer(regmatches(label, regexpr("[0-9]{4}", label)))
  before <- label
  regmatches(before, regexpr("[0-9]{4}", before)) <- as.character(year - 1L)
  days <- seq(as.integer(min(periods$from)) - 800L, as.integer(max(periods$to)))
  name <- bucket_labels(days, args$every, args$calendar)
  from <- days[match(before, name)]
  slack <- if (args$every == "week") 0 else part_days
  list(label = before, inside = !is.na(from) & from >= as.integer(first_day(question$book)) - slack)
}

# A line for each of the first names, the rest and the nameless, all out of one fold.
trend_lines <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  folds <- trend_folds(question, c(args$by, args$period))
  whole <- fold_question(question, args$by)
  names <- whole$keys[[1]]
  named <- which(!is.na(names))
  best <- names[named][best_order(whole$values[[metric$name]][named], metric$better == "high")]
  # A single one that is left has its own line too.
  kept <- if (length(best) == args$top + 1) best else utils::head(best, args$top)
  # Where the rows of each line are, looked up once: there may be a million names.
  rows <- lapply(folds, function(fold) rows_of_lines(fold$keys[[args$by]], kept))
  of <- function(line) {
    Map(function(fold, at) {
      list(keys = lapply(fold$keys, `[`, at[[line]]), lines = fold$lines[at[[line]]],
           values = fold$values[at[[line]], , drop = FALSE])
    }, folds, rows)
  }
  lines <- lapply(stats::setNames(seq_along(kept), shown_names(kept)),
                  function(k) trend_line(question, found, of(k)))
  rest <- setdiff(best, kept)
  if (length(rest)) {
    label <- paste0("everyone else (", count_text(length(rest)), ")")
    add_up <- all(vapply(question$metrics, `[[`, NA, "adds_up"))
    lines[[label]] <- trend_line(question, found, if (add_up)
      lapply(of("rest"), add_periods, question = question) else
        trend_folds(question, args$period, all_but(question, args$by, names(lines))))
  }
  if (anyNA(names)) lines[["(none)"]] <- trend_line(question, found, of("none"))
  lines
}

# The rows of each of the names kept, in their order, of the `rest`, and of `none`.
rows_of_lines <- function(names, kept) {
  at <- match(names, kept, nomatch = 0L)
  there <- which(at > 0L)
  c(unname(split(there, factor(at[there], seq_along(kept)))),
    list(rest = which(at == 0L & !is.na(names)), none = which(is.na(names))))
}

# A fold of names and periods added up over the names, as whole numbers where they are decimals.
add_periods <- function(fold, question) {
  args <- question$args
  period <- fold$keys[[args$period]]
  label <- unique(period)
  at <- factor(match(period, label), seq_along(label))
  add <- function(x) {
    exact <- scaled_number(x)
    total <- vapply(split(exact$v, at), sum, 0, na.rm = TRUE)
    total[vapply(split(is.na(x), at), all, NA)] <- NA
    unname(if (is_exact(exact)) total / 10^exact$decimals else total)
  }
  fold$values <- as.data.frame(lapply(fold$values, add), optional = TRUE)
  fold$lines <- add(fold$lines)
  fold$keys <- stats::setNames(list(label), args$period)
  fold
}

# This year so far against the same stretch of the year before; the fiscal year, by fiscal periods.
year_to_date <- function(question) {
  last <- min(last_day(question$book,
                       question$book$days[question$book$days <= book_day(question$book)]),
              book_day(question$book))
  year <- if (startsWith(question$args$every, "fiscal")) "fiscal year" else "year"
  now <- read_period(paste("this", year, "to date"),
                     list(first = first_day(question$book), last = last,
                          calendar = question$args$calendar))
  against_year_before(question, now)
}

# The whole of what is asked for, where no period of it is whole.
asked_stretch <- function(question, periods) {
  if (!all(periods$part)) return(NULL)
  now <- period(as_day(min(periods$first)), as_day(max(periods$last)), "", "")
  against_year_before(question, now, alone = TRUE)
}

# The metrics over a stretch of days and over the same a year before: a row each. Where the book
# does not reach back so far, NULL, or with `alone` the stretch by itself.
against_year_before <- function(question, now, alone = FALSE) {
  before <- like_compared(question$book, "year before", now,
                          list(calendar = question$args$calendar))$before
  short <- before$from < first_day(question$book) - part_days
  if (short && !alone) return(NULL)
  value <- function(p) {
    where <- and_also(question$asked$where_ever, in_period(question$book, p))
    unlist(fold_question(question, character(), where = where)$values[1, ])
  }
  a <- value(now)
  b <- if (short) rep(NA_real_, length(a)) else value(before)
  data.frame(metric = names(question$metrics), from = now$from, to = now$to, value = unname(a),
             value_before = unname(b), growth = unname(growth_of(a, b)))
}
