# Standings, continued: the period compared with, who is shown, the foot, the table.

# Values and ranks of the period compared with, and how names moved.
compare_ranks <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  # A metric that compares the two periods itself has no value in the one before.
  if (is.null(question$asked$before) || metric$against) return(found)
  fold <- in_name_order(fold_names(question, question$asked$where_before, NULL), question)
  group <- if (length(args$within)) fold$keys[[args$within]] else rep(1L, length(fold$none))
  value <- fold$values[[metric$name]]
  value[fold$none | if (is.null(args$min_orders)) FALSE else fold$orders < args$min_orders] <- NA
  fold$shared <- ranks_within(value, group, higher = metric$better == "high", ties = "shared",
                              exact = fold$exact[[1]])
  at <- match_keys(found$fold$keys, fold$keys)
  found$before <- list(fold = fold, at = at, rank = fold$shared[at],
                       values = lapply(fold$values, function(v) v[at]))
  # A metric that adds up or counts was 0 where a name had no lines.
  for (m in question$metrics[vapply(question$metrics, function(m) m$zero && !m$against, TRUE)])
    found$before$values[[m$name]][is.na(at)] <- 0
  found$total_before <- fold_metrics(question$book, character(), question$metrics,
                                     question$asked$where_before)
  found$moves <- list_moves(question, found)
  found
}

list_moves <- function(question, found) {
  fold <- found$fold
  now <- fold$shared
  before <- found$before$rank
  gone <- !is.na(found$before$fold$shared)
  gone[found$before$at] <- FALSE
  gone <- which(gone)
  rows <- found$order[!is.na(now[found$order]) | !is.na(before[found$order])]
  keys <- Map(function(here, there) c(here[rows], there[gone]), fold$keys, found$before$fold$keys)
  rank <- c(now[rows], rep(NA, length(gone)))
  was <- c(before[rows], found$before$fold$shared[gone])
  move <- c("up", "same", "down")[sign(rank - was) + 2]
  move[is.na(rank)] <- "left"
  move[is.na(was)] <- "entered"
  if (!is.null(question$asked$only)) {
    at <- which(is.na(rank))
    away <- absent_states(question, lapply(keys, `[`, at), question$asked$period_now, "left")
    move[at] <- away
  }
  data.frame(keys, rank = rank, rank_before = was, moved = was - rank, move = move,
             check.names = FALSE)
}

# Which rows are shown. `top` and `bottom` always go by the shared rank; a tie at the edge is kept
# whole, or cut by the order of the table when asked.
select_ranks <- function(question, found) {
  args <- question$args
  picked <- found$order
  found$edge <- list()
  if (!is.null(args$top) || !is.null(args$bottom)) {
    top <- edge_rows(question, found, args$top, found$fold$shared, found$order, "top")
    bottom <- edge_rows(question, found, args$bottom, found$fold$from_last, rev(found$order),
                        "bottom")
    found$edge <- c(top$edge, bottom$edge)
    picked <- found$order[found$order %in% c(top$rows, bottom$rows)]
    # The last ones are told from the last up.
    if (is.null(args$top)) picked <- last_first(found, picked)
  }
  found$rows <- picked
  found
}

# Rows from the last rank up, group by group; tied ones stay in the order of names.
last_first <- function(found, rows) {
  group <- match(found$group[rows], unique(found$group[rows]))
  rows[order(group, found$fold$from_last[rows], seq_along(rows))]
}

edge_rows <- function(question, found, n, rank, order, side) {
  if (is.null(n)) return(list(rows = integer(), edge = list()))
  within_n <- order[!is.na(rank[order]) & rank[order] <= n]
  edges <- list()
  rows <- lapply(split(within_n, factor(found$group[within_n], unique(found$group[within_n]))),
                 function(mine) {
    if (length(mine) <= n) return(mine)
    tied <- mine[rank[mine] == max(rank[mine])]
    edges[[length(edges) + 1]] <<- list(side = side, n = n, shown = length(mine), rows = tied,
                                        group = found$group[mine[1]])
    if (question$args$last_ties == "exact") mine[seq_len(n)] else mine
  })
  list(rows = unlist(rows, use.names = FALSE), edge = edges)
}

# Below the table: everyone else, lines without a name (when not among the rows), the total.
foot_rows <- function(question, found) {
  left <- setdiff(seq_along(found$fold$none), found$rows)
  none <- left[found$fold$none[left]]
  rest <- left[!found$fold$none[left]]
  foot <- list()
  if (length(rest))
    foot$rest <- list(label = paste0("everyone else (", count_text(length(rest)), ")"),
                      values = rest_values(question, found, rest))
  if (length(none)) foot$none <- list(label = "(none)", values = rest_values(question, found, none))
  foot$total <- list(label = "total", values = as.list(found$total$values[1, , drop = FALSE]))
  found$rest <- rest
  found$foot <- foot
  found
}

# Values of several names together: from their parts added up, or recalculated from the lines where
# a part cannot be rolled up.
rest_values <- function(question, found, rows) {
  at <- found$fold$at[rows]
  at <- at[!is.na(at)]
  together <- function(parts) {
    lapply(parts, function(part) {
      if (can_roll_up(part)) roll_up(take(part, at), rep(0L, length(at)), 1L)
    })
  }
  now <- together(found$fold$parts)
  before <- together(found$fold$parts_before)
  lapply(question$metrics, function(m) {
    if (!rolls_up(m$tree)) return(refold(question, found, rows, m))
    scaled_value(metric_value(m$tree, now, if (length(before)) before))
  })
}

# Folded again over the lines of these names: those that are not shown, with or without a name.
refold <- function(question, found, rows, metric) {
  args <- question$args
  key <- function(field) bind_scope(key_tree(question$book, field), question$asked$where_now)
  nameless <- or_all(lapply(args$each, function(field) node("missing", arg = key(field))))
  side <- if (all(found$fold$none[rows])) nameless else unmet(nameless)
  shown <- which(seq_along(found$fold$none) %in% found$rows)
  if (length(shown)) {
    fields <- c(args$within, args$each)
    these <- one_of_rows(own_keys(lapply(found$fold$keys[fields], `[`, shown)), lapply(fields, key))
    side <- and_also(side, unmet(these))
  }
  out <- fold_metrics(question$book, character(), stats::setNames(list(metric), metric$name),
                      and_also(question$asked$where_now, side),
                      before = if (!is.null(question$asked$where_before))
                        and_also(question$asked$where_before, side))
  out$values[[1]]
}

# The data frame, its columns and its foot.
standings_table <- function(question, found) {
  args <- question$args
  rows <- found$rows
  cells <- list()
  columns <- new_columns()
  add <- function(name, unit, values, shown = TRUE) {
    cells[[name]] <<- if (unit == "date") as_day(values[rows]) else values[rows]
    columns <<- rbind(columns, new_columns(name, unit, shown))
  }
  for (field in args$within) add(field, "text", found$fold$keys[[field]])
  add("rank", "rank", found$fold$ranks[[1]])
  if (length(args$within)) add("rank_overall", "rank", found$overall$rank)
  for (field in args$each) add(field, "text", found$fold$keys[[field]])
  resamples_columns(found$resamples, add)
  for (metric in question$metrics) add_metric(question, found, metric, add)
  if (!is.null(found$before)) {
    add("rank_before", "rank", found$before$rank)
    add("moved", "moved", found$before$rank - found$fold$shared)
  }
  list(table = data.frame(cells, check.names = FALSE), columns = columns,
       parts = list(foot = foot_table(question, found, names(cells)), moves = found$moves,
                    groups = found$groups))
}

add_metric <- function(question, found, metric, add) {
  name <- metric$name
  value <- found$fold$values[[name]]
  first <- name == first_metric(question)$name
  as <- function(ending) paste0(name, "_", ending)
  add(name, metric$unit, value)
  if (!first) add(as("rank"), "rank", found$fold$ranks[[name]])
  if (metric$adds_up) add(as("share"), "percent", grouped(value, found$group, share_of_positive),
                          shown = first && !metric$against)
  if (metric$adds_up && first) {
    run <- running_columns(found, value)
    add(as("running_total"), metric$unit, run$total, shown = FALSE)
    # From the last up, and of changes, a running share tells nothing.
    runs <- is.null(question$args$bottom) && !metric$against
    add(as("running_share"), "percent", run$share, shown = is.null(found$before) && runs)
  }
  if (is.null(found$before) || metric$against) return(invisible())
  was <- found$before$values[[name]]
  add(as("before"), metric$unit, was, shown = first)
  # Rates change by points, not by percent of a percentage.
  rate <- metric$unit == "percent"
  add(as("change"), change_unit(metric$unit), exact_change(value, was), shown = first && rate)
  if (metric$unit != "date")
    add(as("growth"), "percent", growth_of(value, was), shown = first && !rate)
}

grouped <- function(value, group, fold) {
  out <- rep(NA_real_, length(value))
  for (rows in rows_by_group(group)) out[rows] <- fold(value[rows])
  out
}

# Running columns go down each group in the order of the table.
running_columns <- function(found, value) {
  out <- list(total = rep(NA_real_, length(value)), share = rep(NA_real_, length(value)))
  for (rows in rows_by_group(found$group, found$order)) {
    run <- running(value[rows])
    out$total[rows] <- run$total
    out$share[rows] <- run$share
  }
  out
}

# The foot has the columns of the table that make sense for many names at once.
foot_table <- function(question, found, names) {
  args <- question$args
  blank <- as.data.frame(stats::setNames(rep(list(NA), length(names)), names), optional = TRUE)
  names(blank) <- names
  rows <- lapply(found$foot, function(one) {
    row <- blank
    for (field in c(args$within, args$each)) row[[field]] <- ""
    row[[args$each[1]]] <- one$label
    for (metric in question$metrics)
      row[[metric$name]] <- in_unit(one$values[[metric$name]], metric)
    if (!length(args$within)) row <- foot_shares(row, question, found)
    row
  })
  # What was before is known for the total only.
  last <- length(rows)
  if (!is.null(found$before)) for (metric in Filter(function(m) !m$against, question$metrics)) {
    name <- metric$name
    was <- found$total_before$values[[name]][1]
    now <- found$total$values[[name]][1]
    rows[[last]][[paste0(name, "_before")]] <- in_unit(was, metric)
    rows[[last]][[paste0(name, "_change")]] <- exact_change(now, was)
    if (metric$unit != "date") rows[[last]][[paste0(name, "_growth")]] <- growth_of(now, was)
  }
  out <- do.call(rbind, rows)
  rownames(out) <- NULL
  out
}

foot_shares <- function(row, question, found) {
  for (metric in question$metrics) if (metric$adds_up) {
    value <- found$fold$values[[metric$name]]
    whole <- sum(value[!is.na(value) & value > 0])
    if (whole > 0) row[[paste0(metric$name, "_share")]] <- row[[metric$name]] / whole
  }
  row
}
