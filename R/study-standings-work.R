# Standings, continued: the question and what is found.

# The question, with what standings ask beside what every study asks.
standings_question <- function(book, args) {
  force(args)
  q <- together(
    function() {
      ask_book(book, args, c("each", "within"), join_metrics(args$metrics, args$tie_break, book))
    },
    function() check_register_for(book, args))[[1]]
  if (length(intersect(q$each, q$within)))
    ll_abort("'within' must be another dimension than 'each'.", "argument")
  if (length(q$within) > 1) ll_abort("'within' takes one dimension.", "argument")
  q$extra <- hidden_counts(q)
  q
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
  if (!is.null(args$certainty) && length(args$within))
    ll_abort("'certainty' works without 'within'; narrow to one group with 'where'.", "argument")
  refuse_at_least(book, args)
  if (!isTRUE(args$no_lines)) return(invisible())
  if (length(args$each) != 1 || length(args$within))
    ll_abort("'no_lines' works with one dimension in 'each' and without 'within'.", "argument")
  if (!args$each %in% names(book$registers))
    ll_abort(c(paste0("'no_lines' needs a register of ", quoted(args$each), "."),
               i = "Give one on opening: registers = list(account = \"accounts.csv\")."), "data")
}

# Counts that notes and at_least need beside the metrics: orders, and people.
hidden_counts <- function(q) {
  # Orders are dear to count; only quotients and at_least ask for them.
  quotient <- any(vapply(q$metrics, function(m) averages(m$tree), TRUE))
  if (q$book$grain == "summed") quotient <- FALSE
  list(.orders = if (quotient || !is.null(q$at_least)) order_count(q$book),
       .people = if (counts_people(q)) distinct_names(q$book$people))
}

counts_people <- function(q) {
  !is.null(q$book$people) && q$first$adds_up && length(q$each) == 1 && !length(q$within) &&
    q$each != q$book$people
}

# One row per name: keys, values, orders, whether the lines bear no name.
fold_names <- function(q, where = q$asked$where_now, before = q$asked$where_before) {
  extra <- Filter(Negate(is.null), q$extra)
  fold <- fold_metrics(q$book, c(q$within, q$each), q$metrics, where, extra, before,
                       q$asked$where_now)
  none <- Reduce(`|`, lapply(fold$keys[q$each], is.na), logical(fold$rows))
  keys <- named_keys(fold$keys)
  list(keys = keys, values = fold$values[names(q$metrics)], orders = fold$values$.orders,
       people = fold$values$.people, none = none, lines = fold$lines, parts = fold$parts,
       parts_before = fold$before, at = seq_along(none), exact = fold$exact[names(q$metrics)])
}

# Adds the register's names that have no lines here: nothing sold, nothing counted.
add_unseen <- function(q, f) {
  unseen <- setdiff(shown_names(q$book$registers[[q$each]]$names), f$keys[[q$each]])
  n <- length(unseen)
  f$unseen <- c(rep(FALSE, length(f$none)), rep(TRUE, n))
  f$keys[[q$each]] <- c(f$keys[[q$each]], unseen)
  blank <- lapply(q$metrics, function(m) rep(if (m$zero) 0 else NA_real_, n))
  f$values <- rbind(f$values, stats::setNames(as.data.frame(blank), names(f$values)))
  if (!is.null(f$orders)) f$orders <- c(f$orders, rep(0, n))
  if (!is.null(f$people)) f$people <- c(f$people, rep(0, n))
  f$at <- c(f$at, rep(NA, n))
  f$none <- c(f$none, rep(FALSE, n))
  f$lines <- c(f$lines, rep(0, n))
  f
}

# Places of every metric; the rows in their order: by group, then best first, those without a place
# after, lines without a name last.
place_names <- function(q, f) {
  if (q$no_lines) f <- add_unseen(q, f)
  f <- in_name_order(f, q)
  group <- if (length(q$within)) f$keys[[q$within]] else rep(1L, length(f$none))
  few <- if (is.null(q$at_least)) rep(FALSE, length(f$none)) else f$orders < q$at_least
  out <- f$none | few
  further <- lapply(guarded(q$tie_break), function(name) {
    value <- settle_ties(f$values[[name]], f$exact[[name]])
    if (q$metrics[[name]]$better == "high") -value else value
  })
  place <- function(metric, ties) {
    value <- f$values[[metric$name]]
    value[out] <- NA
    places_within(value, group, higher = metric$better == "high", ties = ties,
                  exact = f$exact[[metric$name]], further = further)
  }
  f$places <- lapply(q$metrics, place, ties = q$ties)
  f$shared <- if (q$ties == "shared") f$places[[1]] else place(q$first, "shared")
  broken <- place(q$first, "broken")
  f$from_last <- last_places(f$shared, group)
  f$few <- few & !f$none
  s <- list(q = q, f = f, group = group)
  s$total <- fold_metrics(q$book, character(), q$metrics, q$asked$where_now,
                          before = q$asked$where_before)
  s$groups <- group_totals(q)
  s$order <- order(group_order(s), f$none, is.na(broken), broken, method = "radix")
  s$overall <- overall_places(s)
  s
}

# Ranges of places by the first metric, at the rows of the fold.
certain_places <- function(s) {
  q <- s$q
  if (is.null(q$certainty)) return(NULL)
  placed <- s$order[!is.na(s$f$shared[s$order])]
  out <- resampled_places(q, own_keys(lapply(s$f$keys[q$each], `[`, placed)),
                          q$metrics[1], q$asked$where_now, q$certainty, q$seed,
                          metric_scores(q$first))
  at <- match(seq_along(s$f$none), placed)
  out[c("from", "to", "ahead")] <- lapply(out[c("from", "to", "ahead")], `[`, at)
  out
}

# Rows by name first, so that whatever is decided last is decided by name.
in_name_order <- function(f, q) {
  at <- do.call(order, c(unname(lapply(own_keys(f$keys), name_ranks)), list(method = "radix")))
  if (!is.unsorted(at)) return(f)
  pick <- function(x) if (is.null(x)) NULL else x[at]
  f$keys <- lapply(f$keys, pick)
  f$values[] <- lapply(f$values, pick)
  for (one in c("at", "orders", "people", "none", "lines", "unseen")) f[[one]] <- pick(f[[one]])
  f
}

# The shared place counted from the last: 1 for the lowest, ties sharing it.
last_places <- function(shared, group) {
  places_within(shared, group, higher = TRUE, ties = "shared", exact = TRUE)
}

group_totals <- function(q) {
  if (!length(q$within)) return(NULL)
  g <- fold_metrics(q$book, q$within, q$metrics, q$asked$where_now,
                    before = q$asked$where_before)
  out <- data.frame(g$keys, g$values, check.names = FALSE)
  out[[1]] <- shown_names(out[[1]])
  best <- best_order(out[[q$first$name]], q$first$better == "high")
  rownames(out) <- NULL
  out[best, , drop = FALSE]
}

# Groups with the best total first.
group_order <- function(s) {
  if (is.null(s$groups)) return(rep(1L, length(s$group)))
  match(s$group, s$groups[[1]])
}

# With `within`: the place by the first metric over all groups, of each name as a whole.
overall_places <- function(s) {
  q <- s$q
  if (!length(q$within)) return(NULL)
  whole <- q
  whole$within <- NULL
  f <- fold_names(whole)
  value <- f$values[[q$first$name]]
  value[f$none | if (is.null(q$at_least)) FALSE else f$orders < q$at_least] <- NA
  place <- places(value, q$first$better == "high", "shared", f$exact[[1]])
  f$place <- place[match_keys(s$f$keys[q$each], f$keys[q$each])]
  list(place = f$place, leader = lapply(f$keys[q$each], `[`, which(place == 1)),
       value = value[which(place == 1)])
}
