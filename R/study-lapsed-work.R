# Lapsed, continued: the question and what is found.

lapsed_question <- function(book, args) {
  refuse_min_orders(book, args)
  question <- refuse_compared(ask_book(book, args, "each"), "lapsed")
  refuse_pairs(question, "lapsed")
  question <- check_shown(question)
  book <- question$book
  dates <- book_dates(book, "lapsed")
  text <- args$inactive %||% if (book$unit == "day") "last 365 days" else "last 12 months"
  for (one in c(text, args$active)) refuse_stray_date(book, one)
  read <- function(text, name) check_whole_periods(book, read_period(text, dates, name))
  inactive <- read(text, "inactive")
  if (is.null(args$active) && inactive$from <= dates$first)
    ll_abort(c(paste0("Nothing lies before the inactive period: the lines begin on ",
                      date_text(dates$first), "."),
               i = "Give a later 'inactive', or say when they were active."), "data")
  active <- if (is.null(args$active))
    period(dates$first, inactive$from - 1, "before", "ever before") else read(args$active, "active")
  if (active$from <= inactive$to && inactive$from <= active$to)
    ll_abort(c("'active' and 'inactive' overlap: nobody is both on the same day.",
               x = paste0("They are ", span_text(active$from, active$to), " and ",
                          span_text(inactive$from, inactive$to), ".")), "argument")
  with_args(question, inactive = inactive, active = active, today = book_day(book))
}

lapsed_found <- found_of(
  "lapsed",
  active = holds("count", "one", "names active in the active period"),
  still = holds("count", "one", "those of them active in the inactive one"),
  all_lapsed = holds("count", "one", "those who are not"),
  left = holds("count", "one", "those of these with too few orders"),
  credits = holds("text", NULL, "still active by nothing above zero"),
  rows = holds("table", "name", "name, status, at_stake, last_order, ...: most at stake first"),
  life = holds("table", "name", "their metrics over all lines asked for"),
  year = holds("tree", NULL, "the condition of the lines at stake"),
  never = holds("text", NULL, "names of the register without lines"),
  unjudged = holds("flag", "one", "whether conditions keep these from being told"),
  statuses = holds("table", NULL, "status, names, at_stake"))

# Lapsed names by what is at stake, names without lines behind them.
lapsed_work <- function(question) {
  args <- question$args
  inside <- function(p) and_also(question$asked$where_ever, in_period(question$book, p))
  life <- fold_each(question)
  then <- fold_question(first_only(question), args$each, where = inside(args$active))
  now <- fold_question(first_only(question), args$each, where = inside(args$inactive))
  # Names come in their order from each fold; a million of them are looked up once.
  was <- then$keys[[1]][!is.na(then$keys[[1]])]
  at <- match(was, now$keys[[1]])
  lapsed <- was[is.na(at)]
  few <- lapsed %in% life$keys[[1]][life$few]
  found <- list(counted = sum(life$lines), total = life$total,
                exact = life$exact[names(question$metrics)], active = length(was),
                still = sum(!is.na(at)), all_lapsed = length(lapsed), left = sum(few),
                credits = setdiff(credit_names(question, was, now$values[[1]][at]),
                                  life$keys[[1]][life$few]))
  found <- lapsed_rows(question, found, lapsed[!few], then, now)
  found$life <- metrics_of_names(question, found$rows$name, life)
  found[c("never", "unjudged")] <- never_bought(question, life)
  found$statuses <- status_counts(question, found)
  do.call(lapsed_found, found)
}

# The question with its first metric alone.
first_only <- function(question) altered(question, metrics = question$metrics[1])

# Names that are active in the inactive period without more than zero; `value` is theirs in it.
credit_names <- function(question, names, value) {
  if (!first_metric(question)$adds_up) return(character())
  names[!is.na(value) & value <= 0]
}

# A row for each name, most at stake first; `year` is the condition of the lines at stake.
lapsed_rows <- function(question, found, names, then, now) {
  question <- first_only(question)
  key <- key_tree(question$book, question$args$each)
  date <- node("name", name = question$book$date)
  gaps <- source_gaps(question$book$source, key, date, question$asked$where_now)
  usual <- usual_gaps(gaps)
  at <- match(names, gaps$name)
  last <- gaps$last[at]
  found$year <- node("since", arg = key, date = date, names = names, from = last - 364)
  stake <- fold_question(question, question$args$each,
                         where = and_also(question$asked$where_now, found$year))
  value <- function(fold) metrics_of_names(question, names, fold)[[1]]
  since <- as.numeric(question$args$today) - last
  status <- status_of(since, usual$gap[at], gaps$longest[at], question$args$overdue_after)
  status[last > as.numeric(question$args$inactive$to)] <- "back"
  away <- elsewhere_of(question, stats::setNames(list(names), question$args$each),
                       in_period(question$book, question$args$inactive))
  status[away$held] <- "elsewhere"
  rows <- data.frame(name = names, status = status, elsewhere = away$where,
                     elsewhere_since = away$since, at_stake = value(stake),
                     last_order = as_day(last), days_since = since, usual_interval = usual$gap[at],
                     gap_of = ifelse(usual$own[at], "own", "all"), longest_gap = gaps$longest[at],
                     order_days = gaps$days[at], before = value(then), inactive = value(now))
  found$rows <- rows[best_order(rows$at_stake, first_metric(question)$better == "high"), ]
  found
}

# Names of the register without lines. Under conditions on the lines nobody can tell which of them
# would meet these; then they are left out, and that is said.
never_bought <- function(question, life) {
  args <- question$args
  register <- question$book$registers[[args$each]]
  if (is.null(register) || args$never == "leave")
    return(list(names = character(), unjudged = FALSE))
  only <- question$asked$only
  fields <- register_known(question$book, args$each)$name
  if (!all(names_in(only) %in% fields)) return(list(names = character(), unjudged = TRUE))
  names <- registered_names(question$book, args$each, list(where = only))
  list(names = sort(setdiff(names, life$keys[[1]]), method = "radix"), unjudged = FALSE)
}

# How many names of each status, and what is at stake with them.
status_counts <- function(question, found) {
  order <- c("gone", "overdue", "waiting", "elsewhere", "back", "never")
  status <- c(found$rows$status, rep("never", length(found$never)))
  stake <- c(found$rows$at_stake, rep(NA, length(found$never)))
  held <- vapply(order, function(one) {
    v <- stake[status == one & !is.na(stake)]
    if (length(v) && first_metric(question)$adds_up) exact_total(v) else NA_real_
  }, 0)
  out <- data.frame(status = order, names = tabulate(match(status, order), length(order)),
                    at_stake = unname(held))
  out[out$names > 0, ]
}
