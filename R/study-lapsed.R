# Lapsed: names that bought in one period and are silent in another, and what is at stake.

declared_lapsed <- declare(
  "lapsed", "Names that bought before and not now, by what is at stake; and who has no lines",
  args = list(
    each = arg("words", "whose names: a dimension", required = TRUE),
    active = arg("period", "when they were active (default: ever before the silent period)"),
    silent = arg("period", "when they were not (default: the last 365 days)"),
    metrics = arg_metrics("metrics; the first is what is at stake (default: the book's first)"),
    show = arg("words", "further fields of the names: account_name,contact,rep"),
    patience = arg("number", "how many usual gaps a silence may last before a name is late",
                   2, from = .1),
    never = arg("choice", "the register's names without lines: list them last, or leave them",
                "list", choices = c("list", "leave")),
    at_least = arg("whole", "fewest orders a name must have to be listed"),
    top = arg("whole", "list only the first so many names"),
    where = arg_where),
  examples = c(
    "--each account --show account_name,contact,rep --top 20",
    "--each account --active 2025 --silent 2026 --never leave",
    "--each item --silent 'last quarter' --never leave"))

#' Lapsed: who bought before and not now
#'
#' Lists names that are active in one period and silent in another, by what is at stake, with the
#' proof that they did buy before, and how long the silence is by their own rhythm. Names of the
#' register that have no lines come last.
#'
#' Active means a line on a day of the period, whatever its amount; names without more than zero
#' are pointed out. A name's usual gap is the median of days between its days with lines, from
#' three such days up; for others it is the median of those medians. A silence of more than
#' `patience` usual gaps is `"gone"` when the name was never away so long before, else `"late"`; a
#' shorter one is `"waiting"`. A buyer of once a year is not called gone after two months.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) whose names: one dimension.
#' @param active (text) a period; ever before the silent one if not given.
#' @param silent (text) a period that does not touch `active`; the last 365 days if not given.
#' @param metrics (text) as in [ll_standings()]; the first is what is at stake.
#' @param show (text) further fields: of the register, or of the lines as on the name's latest line.
#' @param patience (number) in usual gaps.
#' @param never (text) `"list"` the register's names that have no lines, or `"leave"` them.
#' @param at_least (whole number) names with fewer orders are left out.
#' @param top (whole number) only the first so many names.
#' @param where as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_lapsed`, a row for each name, most at stake first: the
#'   dimension, the fields of `show`, `rhythm` (`"gone"`, `"late"`, `"waiting"`, `"back"` for those
#'   with lines after the silent period, `"never"`), `at_stake` (the first metric over the 365 days
#'   up to the last line), `last_order` (date), `days_since`, `usual_gap` (days), `gap_of` (`"own"`
#'   or `"all"`), `longest_gap`, `order_days` (days with orders; `last_line` and
#'   `line_days` where no order is known), the metrics over all dates, and
#'   `<metric>_before` and `<metric>_silent` of the first, in the two periods. Part `rhythms`: names
#'   and what is at stake of each.
#' @section Notes given: Names without more than zero in the silent period, names that came back,
#' part periods, names of the register not judged.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for periods that overlap;
#' `ll_error_data` without dates, or where nothing lies before the silent period.
#' @examples
#' book <- ll_demo()
#' ll_lapsed(book, "account", show = c("account_name", "contact"), top = 5)
#' ll_lapsed(book, "account", active = "2025", silent = "2026-Q3", never = "leave", top = 5)
#' @export
ll_lapsed <- function(book, each, active = NULL, silent = NULL, metrics = NULL, show = NULL,
                      patience = 2, never = "list", at_least = NULL, top = NULL, where = NULL) {
  check_book(book)
  given <- list(each = if (missing(each)) NULL else each, active = active, silent = silent,
                metrics = metrics, show = show, patience = patience, never = never,
                at_least = at_least, top = top, where = where)
  q <- lapsed_question(book, check_args(declared_lapsed, given))
  s <- lapsed_names(q)
  table <- lapsed_table(s)
  new_answer(q, "lapsed", table$table, lapsed_settings(q), table$columns, lapsed_finding(s),
             lapsed_reading(s), lapsed_notes(s), lapsed_proof(s),
             parts = Filter(Negate(is.null), list(rhythms = s$rhythms, foot = table$foot)),
             behind = list(keys = stats::setNames(nm = q$each)))
}

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
