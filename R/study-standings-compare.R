# Standings, continued: the period compared with, who is shown, the foot, the table.

# Values and places of the period compared with, and how names moved.
compare_places <- function(s) {
  q <- s$q
  # A metric that compares the two periods itself has no value in the one before.
  if (is.null(q$asked$before) || q$first$against) return(s)
  f <- in_name_order(fold_names(q, q$asked$where_before, NULL), q)
  group <- if (length(q$within)) f$keys[[q$within]] else rep(1L, length(f$none))
  value <- f$values[[q$first$name]]
  value[f$none | if (is.null(q$at_least)) FALSE else f$orders < q$at_least] <- NA
  f$shared <- places_within(value, group, higher = q$first$better == "high", ties = "shared",
                            exact = f$exact[[1]])
  at <- match_keys(s$f$keys, f$keys)
  s$before <- list(f = f, at = at, place = f$shared[at],
                   values = lapply(f$values, function(v) v[at]))
  # A metric that adds up or counts was 0 where a name had no lines.
  for (m in q$metrics[vapply(q$metrics, function(m) m$zero && !m$against, TRUE)])
    s$before$values[[m$name]][is.na(at)] <- 0
  s$total_before <- fold_metrics(q$book, character(), q$metrics, q$asked$where_before)
  s$moves <- list_moves(s)
  s
}

list_moves <- function(s) {
  f <- s$f
  now <- f$shared
  before <- s$before$place
  gone <- !is.na(s$before$f$shared)
  gone[s$before$at] <- FALSE
  gone <- which(gone)
  rows <- s$order[!is.na(now[s$order]) | !is.na(before[s$order])]
  keys <- Map(function(here, there) c(here[rows], there[gone]), f$keys, s$before$f$keys)
  place <- c(now[rows], rep(NA, length(gone)))
  was <- c(before[rows], s$before$f$shared[gone])
  move <- c("up", "same", "down")[sign(place - was) + 2]
  move[is.na(place)] <- "left"
  move[is.na(was)] <- "entered"
  data.frame(keys, place = place, place_before = was, moved = was - place, move = move,
             check.names = FALSE)
}

# Which rows are shown. `top` and `bottom` always go by the shared place; a tie at the edge is kept
# whole, or cut by the order of the table when asked.
select_places <- function(s) {
  q <- s$q
  picked <- s$order
  s$edge <- list()
  if (!is.null(q$top) || !is.null(q$bottom)) {
    top <- edge_rows(s, q$top, s$f$shared, s$order, "top")
    bottom <- edge_rows(s, q$bottom, s$f$from_last, rev(s$order), "bottom")
    s$edge <- c(top$edge, bottom$edge)
    picked <- s$order[s$order %in% c(top$rows, bottom$rows)]
  }
  s$rows <- picked
  s
}

edge_rows <- function(s, n, place, order, side) {
  if (is.null(n)) return(list(rows = integer(), edge = list()))
  within_n <- order[!is.na(place[order]) & place[order] <= n]
  edges <- list()
  rows <- lapply(split(within_n, factor(s$group[within_n], unique(s$group[within_n]))),
                 function(mine) {
    if (length(mine) <= n) return(mine)
    tied <- mine[place[mine] == max(place[mine])]
    edges[[length(edges) + 1]] <<- list(side = side, n = n, shown = length(mine), rows = tied,
                                        group = s$group[mine[1]])
    if (s$q$at_edge == "exact") mine[seq_len(n)] else mine
  })
  list(rows = unlist(rows, use.names = FALSE), edge = edges)
}

# Below the table: everyone else, lines without a name (when not among the rows), the total.
foot_rows <- function(s) {
  q <- s$q
  left <- setdiff(seq_along(s$f$none), s$rows)
  none <- left[s$f$none[left]]
  rest <- left[!s$f$none[left]]
  foot <- list()
  if (length(rest))
    foot$rest <- list(label = paste0("everyone else (", count_text(length(rest)), ")"),
                      values = rest_values(s, rest))
  if (length(none)) foot$none <- list(label = "(none)", values = rest_values(s, none))
  foot$total <- list(label = "total", values = as.list(s$total$values[1, , drop = FALSE]))
  s$rest <- rest
  s$foot <- foot
  s
}

# Values of several names together: from their parts added up, or folded again from the lines where
# a part cannot be rolled up.
rest_values <- function(s, rows) {
  at <- s$f$at[rows]
  at <- at[!is.na(at)]
  together <- function(parts) {
    lapply(parts, function(part) {
      if (can_roll_up(part)) roll_up(take(part, at), rep(0L, length(at)), 1L)
    })
  }
  now <- together(s$f$parts)
  before <- together(s$f$parts_before)
  lapply(s$q$metrics, function(m) {
    if (!rolls_up(m$tree)) return(refold(s, rows, m))
    scaled_value(metric_value(m$tree, now, if (length(before)) before))
  })
}

# Folded again over the lines of these names: those that are not shown, with or without a name.
refold <- function(s, rows, metric) {
  q <- s$q
  key <- function(field) bind_scope(key_tree(q$book, field), q$asked$where_now)
  nameless <- or_all(lapply(q$each, function(field) node("missing", arg = key(field))))
  side <- if (all(s$f$none[rows])) nameless else unmet(nameless)
  shown <- which(seq_along(s$f$none) %in% s$rows)
  if (length(shown)) {
    fields <- c(q$within, q$each)
    these <- one_of_rows(own_keys(lapply(s$f$keys[fields], `[`, shown)), lapply(fields, key))
    side <- and_also(side, unmet(these))
  }
  out <- fold_metrics(q$book, character(), stats::setNames(list(metric), metric$name),
                      and_also(q$asked$where_now, side),
                      before = if (!is.null(q$asked$where_before))
                        and_also(q$asked$where_before, side))
  out$values[[1]]
}

# The data frame, its columns and its foot.
standings_table <- function(s) {
  q <- s$q
  rows <- s$rows
  cells <- list()
  columns <- new_columns()
  add <- function(name, unit, values, shown = TRUE) {
    cells[[name]] <<- if (unit == "date") as_day(values[rows]) else values[rows]
    columns <<- rbind(columns, new_columns(name, unit, shown))
  }
  for (field in q$within) add(field, "text", s$f$keys[[field]])
  add("place", "place", s$f$places[[1]])
  if (length(q$within)) add("place_overall", "place", s$overall$place)
  for (field in q$each) add(field, "text", s$f$keys[[field]])
  certainty_columns(s$certainty, add)
  for (metric in q$metrics) add_metric(s, metric, add)
  if (!is.null(s$before)) {
    add("place_before", "place", s$before$place)
    add("moved", "moved", s$before$place - s$f$shared)
  }
  list(table = data.frame(cells, check.names = FALSE), columns = columns,
       foot = foot_table(s, names(cells)))
}

add_metric <- function(s, metric, add) {
  name <- metric$name
  value <- s$f$values[[name]]
  first <- name == s$q$first$name
  as <- function(ending) paste0(name, "_", ending)
  add(name, metric$unit, value)
  if (!first) add(as("place"), "place", s$f$places[[name]])
  if (metric$adds_up) add(as("share"), "percent", grouped(value, s$group, share_of_positive),
                          shown = first)
  if (metric$adds_up && first) {
    run <- running_columns(s, value)
    add(as("running_total"), metric$unit, run$total, shown = FALSE)
    add(as("running_share"), "percent", run$share, shown = is.null(s$before))
  }
  if (is.null(s$before) || metric$against) return(invisible())
  was <- s$before$values[[name]]
  add(as("before"), metric$unit, was, shown = first)
  # Rates change by points, not by percent of a percentage.
  rate <- metric$unit == "percent"
  add(as("change"), change_unit(metric$unit), exact_change(value, was), shown = first && rate)
  if (metric$unit != "date")
    add(as("growth"), "percent", growth_of(value, was), shown = first && !rate)
}

grouped <- function(value, group, f) {
  out <- rep(NA_real_, length(value))
  for (rows in rows_by_group(group)) out[rows] <- f(value[rows])
  out
}

# Running columns go down each group in the order of the table.
running_columns <- function(s, value) {
  out <- list(total = rep(NA_real_, length(value)), share = rep(NA_real_, length(value)))
  for (rows in rows_by_group(s$group, s$order)) {
    run <- running(value[rows])
    out$total[rows] <- run$total
    out$share[rows] <- run$share
  }
  out
}

# The foot has the columns of the table that make sense for many names at once.
foot_table <- function(s, names) {
  q <- s$q
  blank <- as.data.frame(stats::setNames(rep(list(NA), length(names)), names), optional = TRUE)
  names(blank) <- names
  rows <- lapply(s$foot, function(one) {
    row <- blank
    for (field in c(q$within, q$each)) row[[field]] <- ""
    row[[q$each[1]]] <- one$label
    for (metric in q$metrics) row[[metric$name]] <- in_unit(one$values[[metric$name]], metric)
    if (!length(q$within)) row <- foot_shares(row, s)
    row
  })
  # What was before is known for the total only.
  last <- length(rows)
  if (!is.null(s$before)) for (metric in Filter(function(m) !m$against, q$metrics)) {
    name <- metric$name
    was <- s$total_before$values[[name]][1]
    now <- s$total$values[[name]][1]
    rows[[last]][[paste0(name, "_before")]] <- in_unit(was, metric)
    rows[[last]][[paste0(name, "_change")]] <- exact_change(now, was)
    if (metric$unit != "date") rows[[last]][[paste0(name, "_growth")]] <- growth_of(now, was)
  }
  out <- do.call(rbind, rows)
  rownames(out) <- NULL
  out
}

in_unit <- function(x, metric) if (metric$unit == "date") as_day(x) else x

foot_shares <- function(row, s) {
  for (metric in s$q$metrics) if (metric$adds_up) {
    value <- s$f$values[[metric$name]]
    whole <- sum(value[!is.na(value) & value > 0])
    if (whole > 0) row[[paste0(metric$name, "_share")]] <- row[[metric$name]] / whole
  }
  row
}
