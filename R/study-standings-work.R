# Standings, continued: the question and what is found.

# The question, with what standings ask beside what every study asks.
standings_question <- function(book, args) {
  force(args)
  question <- together(
    function() {
      ask_book(book, args, c("each", "within"), join_metrics(args$metrics, args$tie_break, book))
    },
    function() check_register_for(book, args))[[1]]
  if (length(intersect(question$args$each, question$args$within)))
    ll_abort("'within' must be another dimension than 'each'.", "argument")
  if (length(question$args$within) > 1) ll_abort("'within' takes one dimension.", "argument")
  with_args(question, extra = hidden_counts(question))
}

# Metrics that break ties join those asked for.
join_metrics <- function(metrics, tie_break, book) {
  tie_break <- guarded(tie_break)
  if (is.null(tie_break)) return(metrics)
  if (is.null(metrics)) metrics <- names(book$metrics)[1]
  named <- ifelse(nzchar(names(metrics) %||% rep("", length(metrics))), names(metrics),
                  as.character(metrics))
  c(metrics, setdiff(tie_break, guarded(named)))
}

check_register_for <- function(book, args) {
  if (!is.null(args$resamples) && length(args$within))
    ll_abort("'resamples' works without 'within'; narrow to one group with 'where'.", "argument")
  refuse_min_orders(book, args)
  if (!isTRUE(args$no_lines)) return(invisible())
  if (length(args$each) != 1 || length(args$within))
    ll_abort("'no_lines' works with one dimension in 'each' and without 'within'.", "argument")
  if (!args$each %in% names(book$registers))
    ll_abort(c(paste0("'no_lines' needs a register of ", quoted(args$each), "."),
               i = "Give one on opening: registers = list(account = \"accounts.csv\")."), "data")
}

# Counts that notes and min_orders need beside the metrics: orders, and people.
hidden_counts <- function(question) {
  # Orders are dear to count; only quotients and min_orders ask for them.
  quotient <- any(vapply(question$metrics, function(m) averages(m$tree), TRUE))
  if (question$book$grain == "summed") quotient <- FALSE
  list(.orders = if (quotient || !is.null(question$args$min_orders)) order_count(question$book),
       .people = if (counts_people(question)) distinct_names(question$book$people))
}

counts_people <- function(question) {
  args <- question$args
  !is.null(question$book$people) && first_metric(question)$adds_up && length(args$each) == 1 &&
    !length(args$within) && args$each != question$book$people
}

# Adds the register's names that have no lines here: nothing sold, nothing counted.
add_unseen <- function(question, fold) {
  args <- question$args
  unseen <- setdiff(shown_names(question$book$registers[[args$each]]$names), fold$keys[[args$each]])
  n <- length(unseen)
  fold$unseen <- c(rep(FALSE, length(fold$none)), rep(TRUE, n))
  fold$keys[[args$each]] <- c(fold$keys[[args$each]], unseen)
  blank <- lapply(question$metrics, function(m) rep(if (m$zero) 0 else NA_real_, n))
  fold$values <- rbind(fold$values, stats::setNames(as.data.frame(blank), names(fold$values)))
  if (!is.null(fold$orders)) fold$orders <- c(fold$orders, rep(0, n))
  if (!is.null(fold$people)) fold$people <- c(fold$people, rep(0, n))
  fold$at <- c(fold$at, rep(NA, n))
  fold$none <- c(fold$none, rep(FALSE, n))
  fold$lines <- c(fold$lines, rep(0, n))
  fold
}

# Ranks of every metric; the rows in their order: by group, then best first, those without a rank
# after, lines without a name last.
rank_names <- function(question, fold) {
  args <- question$args
  if (args$no_lines) fold <- add_unseen(question, fold)
  fold <- in_name_order(fold, question)
  group <- if (length(args$within)) fold$keys[[args$within]] else rep(1L, length(fold$none))
  few <- if (is.null(args$min_orders)) rep(FALSE, length(fold$none)) else
    fold$orders < args$min_orders
  out <- fold$none | few
  further <- lapply(guarded(args$tie_break), function(name) {
    value <- settle_ties(fold$values[[name]], fold$exact[[name]])
    if (question$metrics[[name]]$better == "high") -value else value
  })
  rank <- function(metric, ties) {
    value <- fold$values[[metric$name]]
    value[out] <- NA
    ranks_within(value, group, higher = metric$better == "high", ties = ties,
                 exact = fold$exact[[metric$name]], further = further)
  }
  fold$ranks <- lapply(question$metrics, rank, ties = args$ties)
  fold$shared <- if (args$ties == "shared") fold$ranks[[1]] else
    rank(first_metric(question), "shared")
  broken <- rank(first_metric(question), "broken")
  fold$from_last <- last_ranks(fold$shared, group)
  fold$few <- few & !fold$none
  found <- list(fold = fold, group = group)
  found$total <- fold_metrics(question$book, character(), question$metrics,
                              question$asked$where_now, before = question$asked$where_before)
  found$groups <- group_totals(question)
  found$order <- order(group_order(found), fold$none, is.na(broken), broken, method = "radix")
  found$overall <- overall_ranks(question, found)
  found
}

# Ranges of ranks by the first metric, at the rows of the fold.
certain_ranks <- function(question, found) {
  args <- question$args
  if (is.null(args$resamples)) return(NULL)
  ranked <- found$order[!is.na(found$fold$shared[found$order])]
  out <- resampled_ranks(question, own_keys(lapply(found$fold$keys[args$each], `[`, ranked)),
                         question$metrics[1], question$asked$where_now, args$resamples, args$seed,
                         metric_scores(first_metric(question)))
  at <- match(seq_along(found$fold$none), ranked)
  out[c("from", "to", "ahead")] <- lapply(out[c("from", "to", "ahead")], `[`, at)
  out
}

# The shared rank counted from the last: 1 for the lowest, ties sharing it.
last_ranks <- function(shared, group) {
  ranks_within(shared, group, higher = TRUE, ties = "shared", exact = TRUE)
}

group_totals <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  if (!length(args$within)) return(NULL)
  g <- fold_metrics(question$book, args$within, question$metrics, question$asked$where_now,
                    before = question$asked$where_before)
  out <- data.frame(g$keys, g$values, check.names = FALSE)
  out[[1]] <- shown_names(out[[1]])
  best <- best_order(out[[metric$name]], metric$better == "high")
  rownames(out) <- NULL
  out[best, , drop = FALSE]
}

# Groups with the best total first.
group_order <- function(found) {
  if (is.null(found$groups)) return(rep(1L, length(found$group)))
  match(found$group, found$groups[[1]])
}

# With `within`: the rank by the first metric over all groups, of each name as a whole.
overall_ranks <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  if (!length(args$within)) return(NULL)
  fold <- fold_names(with_args(question, within = NULL))
  value <- fold$values[[metric$name]]
  value[fold$none | if (is.null(args$min_orders)) FALSE else fold$orders < args$min_orders] <- NA
  rank <- ranks(value, metric$better == "high", "shared", fold$exact[[1]])
  fold$rank <- rank[match_keys(found$fold$keys[args$each], fold$keys[args$each])]
  list(rank = fold$rank, leader = lapply(fold$keys[args$each], `[`, which(rank == 1)),
       value = value[which(rank == 1)])
}

standings_found <- found_of(
  "standings", common = list(),
  fold = holds("list", NULL, "the fold by names: keys, values, orders, none, few, lines, ranks"),
  group = holds("any", "row", "the name of `within` that each row is ranked in"),
  order = holds("count", "row", "the rows in the order of the table"),
  rows = holds("count", NULL, "the rows shown, in their order"),
  rest = holds("count", NULL, "named rows that are not shown"),
  edge = holds("list", NULL, "ties at the last rank shown: side, n, shown, rows, group"),
  foot = holds("list", NULL, "label and values of each row below the table, total last"),
  total = holds("list", NULL, "the fold over all lines asked for"),
  groups = holds("table", NULL, "the metrics of each group, best first", absent = "without within"),
  overall = holds("list", NULL, "rank over all groups by row; leader and value of the first",
                  absent = "without within"),
  resamples = holds("list", NULL, "ranges of ranks by row, see resampled_ranks()",
                    absent = "without resamples"),
  before = holds("list", NULL, "fold, at, rank, values: the period before, by row",
                 absent = "without a period compared with"),
  total_before = holds("list", NULL, "the fold over all lines then",
                       absent = "without a period compared with"),
  moves = holds("table", NULL, "names with rank, rank_before, moved, move",
                absent = "without a period compared with"))

standings_work <- function(question) {
  found <- rank_names(question, fold_names(question))
  found$resamples <- certain_ranks(question, found)
  found <- compare_ranks(question, found)
  found <- select_ranks(question, found)
  found <- foot_rows(question, found)
  do.call(standings_found, found)
}
