# Distribution, continued: the table, its sentences, notes and proof.

distribution_table <- function(question, found) {
  by <- question$args$by
  metric <- first_metric(question)
  table <- found$bands
  names(table)[names(table) == "held"] <- metric$name
  names(table)[names(table) == "held_share"] <- paste0(metric$name, "_share")
  shown <- metric$adds_up
  columns <- rbind(if (!is.null(by)) new_columns(by, "text"),
                   new_columns(c("from", "to"), metric$unit), new_columns("count", "count"),
                   new_columns(c("count_share", "count_running_share"), "percent", digits = 1),
                   new_columns(metric$name, metric$unit, shown),
                   new_columns(paste0(metric$name, "_share"), "percent", shown, 1))
  list(table = table[columns$name], columns = columns,
       parts = list(summary = distribution_summary(found)),
       coded = if (!is.null(question$args$by)) c(group = question$args$by))
}

# One row for each group: count, mean, median, quantiles, deviation, skewness, outliers.
distribution_summary <- function(found) {
  one <- function(group) {
    v <- found$value[found$group == group]
    times <- found$times[found$group == group]
    n <- sum(times)
    p <- counted_quantile(v, times, c(.1, .25, .5, .75, .9))
    fence <- 1.5 * (p[4] - p[2])
    variance <- counted_moment(v, times, 2)
    data.frame(group = if (nzchar(group)) group else "all", count = n,
               mean = counted_mean(v, times), median = p[3], lowest = min(v), p10 = p[1],
               p25 = p[2], p75 = p[4], p90 = p[5], highest = max(v),
               deviation = if (n > 1) sqrt(variance * n / (n - 1)) else NA_real_,
               skewness = if (variance > 0) counted_moment(v, times, 3) / variance^1.5 else
                 NA_real_,
               below_zero = sum(times[v < 0]),
               beyond_fences = sum(times[v < p[2] - fence | v > p[4] + fence]))
  }
  if (length(found$groups)) return(do.call(rbind, lapply(found$groups, one)))
  numbers <- c("count", "mean", "median", "lowest", "p10", "p25", "p75", "p90", "highest",
               "deviation", "skewness", "below_zero", "beyond_fences")
  data.frame(group = character(), lapply(stats::setNames(nm = numbers), function(name) numeric()))
}

# "580 accounts"; where some stand in several groups, "1,498 combinations of account and rep".
counted_words <- function(question, found, n = found$n) {
  args <- question$args
  if (!isTRUE(found$split)) return(plural(n, level_word(question)))
  paste(plural(n, "combination"), "of", and_list(spoken(c(args$each, args$by))))
}

distribution_settings <- function(question, found) {
  question_settings(question, each = question$args$each %||% "lines", by = question$args$by,
                    width = found$bounds$width, bounds = found$bounds$at)
}

distribution_finding <- function(question, found) {
  metric <- first_metric(question)
  if (!length(found$value)) return(paste0("There is no ", spoken(metric$name), " to spread."))
  middle <- counted_quantile(found$value, found$times, .5)
  text <- paste0("Half of ", counted_words(question, found),
                 verb(found$n, " has "), spoken(metric$name), " of at most ",
                 said(middle, metric), "; the mean is ",
                 said(counted_mean(found$value, found$times), metric))
  positive <- sum((found$value * found$times)[found$value > 0])
  if (metric$adds_up && positive > 0 && found$n >= 20)
    text <- paste0(text, ", and the highest tenth holds ",
                   format_number(highest_sum(found, ceiling(found$n / 10)) / positive, "percent",
                                 0),
                   " of their ", if (any(found$value < 0)) "positive ", "total")
  paste0(text, ".")
}

# What the highest n hold, losses left out.
highest_sum <- function(found, n) {
  at <- rev(seq_along(found$value))
  before <- cumsum(found$times[at]) - found$times[at]
  taken <- pmin(pmax(n - before, 0), found$times[at])
  sum(taken * pmax(found$value[at], 0))
}

distribution_reading <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  paste0(capital(level_words(question)), " by ", metric_words(metric),
         if (!is.null(args$by)) paste0(", apart for each ", spoken(args$by)), "; ",
         reading_tail(question, paste0("bands of ", said(found$bounds$width, metric),
                                       if (is.null(args$width)) " (proposed)",
                                       ", lower bounds included"),
                      paste0(counted_words(question, found), if (length(found$value))
                        paste(" from", said(min(found$value), metric), "to",
                              said(max(found$value), metric)))))
}

distribution_notes <- function(question, found) {
  metric <- first_metric(question)
  below <- sum(found$times[found$value < 0])
  all <- altered(found, group = rep("", length(found$group)), groups = "")
  out <- if (found$n >= 8) distribution_summary(all)$beyond_fences else 0
  rbind(
    note("negative", if (below) paste0(counted_words(question, found, below),
                                       verb(below, " lies"), " below zero, ",
                                       said(sum((found$value * found$times)[found$value < 0]),
                                            metric),
                                       " in all.")),
    note("outliers", if (out) paste0(counted_words(question, found, out),
                                     verb(out, " lies"),
                                     " beyond 1.5 times the middle half's width from it.")),
    note("open_ends", if (found$bounds$low || found$bounds$high) paste0(
      "The range is long, so the ", if (found$bounds$low && found$bounds$high)
        "first and last bands are" else if (found$bounds$low) "first band is" else "last band is",
      " open.")),
    note("missing", if (found$missing) paste0(
      counted_words(question, found, found$missing), if (found$missing == 1)
        " has no value and lies" else " have no value and lie", " in no band.")),
    note("none", if (length(found$nameless)) paste0(
      "Lines without ", spoken(question$args$each), " are in no band",
      if (metric$adds_up) paste0(" (", said(sum(found$nameless, na.rm = TRUE), metric), ")"), ".")),
    question_notes(question))
}

distribution_proof <- function(question, found) {
  bands <- found$bands
  metric <- first_metric(question)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        proof_line("counts of the bands = values", found$n, sum(bands$count)),
        if (metric$adds_up)
          proof_line(paste0("bands and lines in none add up to the total of ", metric$name),
                     if (is.na(found$total[[1]])) 0 else found$total[[1]],
                     sum(bands$held, found$nameless, na.rm = TRUE), found$exact[[1]]))
}

distribution_behind <- function(question, found) {
  list(rows = band_conditions(question, found))
}
