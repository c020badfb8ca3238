# Bridge, continued: its table, in the columns of its kind.

bridge_table <- function(question, found) {
  args <- question$args
  made <- switch(args$into,
                 segments = if (is.null(args$ratio)) segments_table(question, found) else
                 rate_table(question, found),
                 names = names_table(question, found), price = price_table(question, found),
                 factors = factors_table(question, found))
  made$parts <- c(list(steps = running_steps(found)), made$parts)
  if (args$into == "segments") made$coded <- c(step = args$by)
  made
}

# Steps with where each begins and ends.
running_steps <- function(found) {
  ends <- found$then + cumsum(found$steps$change)
  data.frame(step = found$steps$step, change = found$steps$change,
             from = c(found$then, ends)[seq_along(ends)], to = ends)
}

segments_table <- function(question, found) {
  by <- question$args$by
  rows <- found$rows[found$picked, ]
  table <- change_table(question, found, rows, stats::setNames(list(rows$name), by))
  table <- cbind(table[by], presence = rows$presence, table[setdiff(names(table), by)])
  list(table = table, parts = list(foot = segments_foot(question, found, names(table))),
       columns = rbind(new_columns(c(by, "presence"), "text"),
                       change_columns(first_metric(question))))
}

# Gathered steps, then all gains, all losses and the whole.
segments_foot <- function(question, found, columns) {
  rows <- found$rows
  sums <- function(which, name) {
    data.frame(name = name, before = exact_total(rows$before[which]),
               now = exact_total(rows$now[which]), change = exact_total(rows$change[which]))
  }
  gain <- rows$change > 0
  loss <- rows$change < 0
  all <- rbind(found$gathered,
               if (any(gain) && any(loss)) rbind(sums(gain, "all gains"), sums(loss, "all losses")),
               whole_change(found))
  foot <- change_table(question, found, all, stats::setNames(list(all$name), question$args$by))
  foot$gross_share[nrow(foot)] <- NA
  foot$presence <- ""
  foot[columns]
}

whole_change <- function(found) {
  data.frame(name = "total", before = found$then, now = found$now,
             change = exact_change(found$now, found$then))
}

# Columns of amounts then and now; `rows` has before, now, change.
change_table <- function(question, found, rows, first) {
  metric <- first_metric(question)$name
  out <- as.data.frame(first, optional = TRUE)
  out[[paste0(metric, "_before")]] <- rows$before
  out[[metric]] <- rows$now
  out[[paste0(metric, "_change")]] <- rows$change
  out[[paste0(metric, "_growth")]] <- growth_of(rows$now, rows$before)
  cbind(out, move_shares(found, rows$change))
}

change_columns <- function(metric) {
  new_columns(c(paste0(metric$name, "_before"), metric$name,
                paste0(metric$name, c("_change", "_growth")), "net_share", "gross_share"),
              c(metric$unit, metric$unit, change_unit(metric$unit), "percent", "percent",
                "percent"),
              digits = c(NA, NA, NA, NA, 1, 1))
}

# Each change as a part of the net change, withheld where gains and losses cancel, and of the gross
# movement.
move_shares <- function(found, change) {
  moves <- found$moves
  part <- function(of) if (of != 0) change / of else rep(NA_real_, length(change))
  data.frame(net_share = if (moves$cancel) rep(NA_real_, length(change)) else part(moves$net),
             gross_share = part(moves$gross) * sign(change))
}

rate_table <- function(question, found) {
  metric <- first_metric(question)
  columns <- c(question$args$by, "mix_before", "mix_now",
               paste0(metric$name, c("_before", "", "_rate_effect", "_mix_effect", "_effect")))
  fields <- c("name", "mix_before", "mix_now", "before", "now", "rate", "mix", "change")
  as_shown <- function(rows) stats::setNames(rows[fields], columns)
  units <- c("text", "percent", "percent", metric$unit, metric$unit,
             rep(change_unit(metric$unit), 3))
  digits <- c(NA, 1, 1, rep(if (metric$unit == "percent") 2 else NA, 5))
  list(table = as_shown(found$rows[found$picked, ]),
       columns = new_columns(columns, units, digits = digits),
       parts = list(foot = as_shown(rbind(found$gathered, found$whole))))
}

names_table <- function(question, found) {
  as_shown <- function(rows, first) change_table(question, found, rows, first)
  total <- as_shown(whole_change(found), list(step = "total", name_count = nrow(found$rows)))
  total$gross_share <- NA
  rows <- found$rows[step_order(found$rows$change, found$rows$name), ]
  every <- as_shown(rows, stats::setNames(list(rows$name), question$args$by))
  list(table = as_shown(found$groups, as.list(found$groups[c("step", "name_count")])),
       columns = rbind(new_columns(c("step", "name_count"), c("text", "count")),
                       change_columns(first_metric(question))),
       parts = list(names = cbind(every[1], step = rows$step, every[-1]),
                    like_for_like = found$like_for_like, foot = total))
}

price_table <- function(question, found) {
  metric <- first_metric(question)
  table <- data.frame(step = found$steps$step, change = found$steps$change)
  names(table)[2] <- paste0(metric$name, "_change")
  table <- cbind(table, move_shares(found, found$steps$change))
  foot <- table[NA_integer_, ][1, ]
  foot[1:2] <- list("total", exact_change(found$now, found$then))
  list(table = table, parts = list(products = found$products, foot = foot),
       columns = new_columns(names(table), c("text", change_unit(metric$unit), "percent",
                                             "percent"), digits = c(NA, NA, 1, 1)))
}

factors_table <- function(question, found) {
  metric <- first_metric(question)
  factors <- question$args$factors
  values <- lapply(found$valued, unname)
  table <- data.frame(step = names(factors), before = values$before, now = values$now,
                      growth = growth_of(values$now, values$before),
                      unit = unname(vapply(factors, `[[`, "", "unit")),
                      effect = found$steps$change)
  effect <- paste0(metric$name, "_effect")
  names(table)[6] <- effect
  foot <- table[NA_integer_, ][1, ]
  foot$step <- metric$name
  foot$growth <- growth_of(found$now, found$then)
  foot[[effect]] <- found$now - found$then
  list(table = table, parts = list(foot = foot),
       columns = rbind(new_columns(c("step", "before", "now", "growth"),
                                   c("text", "own", "own", "percent")),
                       new_columns("unit", "text", FALSE),
                       new_columns(effect, change_unit(metric$unit))))
}
