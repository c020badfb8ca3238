# Lapsed, continued: the question and what is found.

lapsed_question <- function(book, args) {
  refuse_at_least(book, args)
  q <- refuse_compared(ask_book(book, args, "each"), "lapsed")
  refuse_pairs(q, "lapsed")
  q <- check_shown(q)
  dates <- book_dates(q$book, "lapsed")
  text <- args$silent %||% if (q$book$unit == "day") "last 365 days" else "last 12 months"
  for (one in c(text, args$active)) refuse_stray_date(q$book, one)
  q$silent <- check_whole_periods(q$book, read_period(text, dates, "silent"))
  if (is.null(args$active)) {
    if (q$silent$from <= dates$first)
      ll_abort(c(paste0("Nothing lies before the silent period: the lines begin on ",
                        date_text(dates$first), "."),
                 i = "Give a later 'silent', or say when they were active."), "data")
    q$active <- period(dates$first, q$silent$from - 1, "before", "ever before")
  } else {
    q$active <- check_whole_periods(q$book, read_period(args$active, dates, "active"))
  }
  if (q$active$from <= q$silent$to && q$silent$from <= q$active$to)
    ll_abort(c("'active' and 'silent' overlap: nobody is both on the same day.",
               x = paste0("They are ", span_text(q$active$from, q$active$to), " and ",
                          span_text(q$silent$from, q$silent$to), ".")), "argument")
  q$today <- book_day(q$book)
  q
}

# Lapsed names by what is at stake, names without lines behind them.
lapsed_names <- function(q) {
  inside <- function(p) and_also(q$asked$where_ever, in_period(q$book, p))
  life <- fold_each(q)
  then <- fold_question(first_only(q), q$each, where = inside(q$active))
  now <- fold_question(first_only(q), q$each, where = inside(q$silent))
  # Names come in their order from each fold; a million of them are looked up once.
  was <- then$keys[[1]][!is.na(then$keys[[1]])]
  at <- match(was, now$keys[[1]])
  lapsed <- was[is.na(at)]
  few <- lapsed %in% life$keys[[1]][life$few]
  s <- list(q = q, counted = sum(life$lines), total = life$total,
            exact = life$exact[names(q$metrics)], active = length(was),
            still = sum(!is.na(at)), all_lapsed = length(lapsed), left = sum(few),
            credits = credit_names(q, was, now$values[[1]][at]))
  s <- lapsed_rows(s, lapsed[!few], then, now)
  s$life <- metrics_of_names(q, s$rows$name, life)
  s[c("never", "unjudged")] <- never_bought(q, life)
  s$rhythms <- rhythm_counts(s)
  s
}

# The question with its first metric alone.
first_only <- function(q) {
  q$metrics <- q$metrics[1]
  q
}

# Names that are active in the silent period without more than zero; `value` is theirs in it.
credit_names <- function(q, names, value) {
  if (!q$first$adds_up) return(character())
  names[!is.na(value) & value <= 0]
}

# A row for each name, most at stake first; `year` is the condition of the lines at stake.
lapsed_rows <- function(s, names, then, now) {
  q <- first_only(s$q)
  key <- key_tree(q$book, q$each)
  date <- node("name", name = q$book$date)
  gaps <- source_gaps(q$book$source, key, date, q$asked$where_now)
  usual <- usual_gaps(gaps)
  at <- match(names, gaps$name)
  last <- gaps$last[at]
  s$year <- node("since", arg = key, date = date, names = names, from = last - 364)
  stake <- fold_question(q, q$each, where = and_also(q$asked$where_now, s$year))
  value <- function(fold) metrics_of_names(q, names, fold)[[1]]
  since <- as.numeric(q$today) - last
  rhythm <- rhythm_of(since, usual$gap[at], gaps$longest[at], q$patience)
  rhythm[last > as.numeric(q$silent$to)] <- "back"
  rows <- data.frame(name = names, rhythm = rhythm, at_stake = value(stake),
                     last_order = as_day(last), days_since = since, usual_gap = usual$gap[at],
                     gap_of = ifelse(usual$own[at], "own", "all"), longest_gap = gaps$longest[at],
                     order_days = gaps$days[at], before = value(then), silent = value(now))
  s$rows <- rows[best_order(rows$at_stake, q$first$better == "high"), ]
  s
}

# Names of the register without lines. Under conditions on the lines nobody can tell which of them
# would meet these; then they are left out, and that is said.
never_bought <- function(q, life) {
  register <- q$book$registers[[q$each]]
  if (is.null(register) || q$never == "leave") return(list(names = character(), unjudged = FALSE))
  only <- q$asked$only
  fields <- register_known(q$book, q$each)$name
  if (!all(names_in(only) %in% fields)) return(list(names = character(), unjudged = TRUE))
  names <- registered_names(q$book, q$each, list(where = only))
  list(names = sort(setdiff(names, life$keys[[1]]), method = "radix"), unjudged = FALSE)
}

# How many names of each rhythm, and what is at stake with them.
rhythm_counts <- function(s) {
  order <- c("gone", "late", "waiting", "back", "never")
  rhythm <- c(s$rows$rhythm, rep("never", length(s$never)))
  stake <- c(s$rows$at_stake, rep(NA, length(s$never)))
  held <- vapply(order, function(one) {
    v <- stake[rhythm == one & !is.na(stake)]
    if (length(v) && s$q$first$adds_up) exact_total(v) else NA_real_
  }, 0)
  out <- data.frame(rhythm = order, names = tabulate(match(rhythm, order), 5),
                    at_stake = unname(held))
  out[out$names > 0, ]
}
