# Distribution, continued: the table, its sentences, notes and proof.

distribution_table <- function(s) {
  q <- s$q
  m <- q$first
  at <- s$bounds$at
  n <- length(at)
  band <- pmin(pmax(band_of(s), if (s$bounds$low) 0 else 1), if (s$bounds$high) n else n - 1)
  bands <- seq(if (s$bounds$low) 0 else 1, if (s$bounds$high) n else n - 1)
  blocks <- lapply(s$groups, function(group) {
    mine <- s$group == group
    at_band <- factor(band[mine], bands)
    sums <- function(x) unname(vapply(split(x[mine], at_band), sum, 0))
    count <- sums(s$times)
    held <- sums(s$value * s$times)
    positive <- sum((s$value * s$times)[mine & s$value > 0])
    out <- data.frame(from = c(NA, at)[bands + 1], to = c(at, NA)[bands + 1], count = count,
                      count_share = count / sum(count),
                      count_running_share = cumsum(count) / sum(count),
                      held = held, held_share = if (positive > 0) held / positive else NA)
    if (!is.null(q$by)) out <- cbind(stats::setNames(data.frame(group), q$by), out)
    out
  })
  table <- if (length(blocks)) do.call(rbind, blocks) else
    data.frame(from = numeric(), to = numeric(), count = numeric(), count_share = numeric(),
               count_running_share = numeric(), held = numeric(), held_share = numeric())
  if (!length(blocks) && !is.null(q$by))
    table <- cbind(stats::setNames(data.frame(character()), q$by), table)
  rownames(table) <- NULL
  names(table)[names(table) == "held"] <- m$name
  names(table)[names(table) == "held_share"] <- paste0(m$name, "_share")
  shown <- m$adds_up
  columns <- rbind(if (!is.null(q$by)) new_columns(q$by, "text"),
                   new_columns(c("from", "to"), m$unit), new_columns("count", "count"),
                   new_columns(c("count_share", "count_running_share"), "percent", digits = 1),
                   new_columns(m$name, m$unit, shown),
                   new_columns(paste0(m$name, "_share"), "percent", shown, 1))
  list(table = table[columns$name], columns = columns)
}

# One row for each group: count, mean, median, quantiles, deviation, skewness, outliers.
distribution_summary <- function(s) {
  one <- function(group) {
    v <- s$value[s$group == group]
    times <- s$times[s$group == group]
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
  do.call(rbind, lapply(s$groups, one))
}

# "580 accounts"; where some stand in several groups, "1,498 combinations of account and rep".
counted_words <- function(s, n = s$n) {
  q <- s$q
  if (!isTRUE(s$split)) return(plural(n, level_word(q)))
  paste(plural(n, "combination"), "of", and_list(spoken(c(q$each, q$by))))
}

distribution_settings <- function(s) {
  question_settings(s$q, each = s$q$each %||% "lines", by = s$q$by, width = s$bounds$width,
                    bounds = s$bounds$at)
}

distribution_finding <- function(s) {
  m <- s$q$first
  if (!length(s$value)) return(paste0("There is no ", spoken(m$name), " to spread."))
  middle <- counted_quantile(s$value, s$times, .5)
  text <- paste0("Half of ", counted_words(s), if (s$n == 1) " has " else " have ",
                 spoken(m$name), " of at most ", said(middle, m), "; the mean is ",
                 said(counted_mean(s$value, s$times), m))
  positive <- sum((s$value * s$times)[s$value > 0])
  if (m$adds_up && positive > 0 && s$n >= 20)
    text <- paste0(text, ", and the highest tenth holds ",
                   format_number(highest_sum(s, ceiling(s$n / 10)) / positive, "percent", 0),
                   " of their ", if (any(s$value < 0)) "positive ", "total")
  paste0(text, ".")
}

# What the highest n hold, losses left out.
highest_sum <- function(s, n) {
  at <- rev(seq_along(s$value))
  before <- cumsum(s$times[at]) - s$times[at]
  taken <- pmin(pmax(n - before, 0), s$times[at])
  sum(taken * pmax(s$value[at], 0))
}

distribution_reading <- function(s) {
  q <- s$q
  paste0(capital(level_words(q)), " by ", metric_words(q$first),
         if (!is.null(q$by)) paste0(", apart for each ", spoken(q$by)), "; ",
         reading_tail(q, paste0("bands of ", said(s$bounds$width, q$first),
                                if (is.null(q$width)) " (proposed)", ", lower bounds included"),
                      paste0(counted_words(s), if (length(s$value)) paste("",
                        "from", said(min(s$value), q$first), "to", said(max(s$value), q$first)))))
}

distribution_notes <- function(s) {
  q <- s$q
  m <- q$first
  below <- sum(s$times[s$value < 0])
  all <- s
  all$group[] <- ""
  all$groups <- ""
  out <- if (s$n >= 8) distribution_summary(all)$beyond_fences else 0
  rbind(
    note("negative", if (below) paste0(counted_words(s, below), if (below == 1) " lies" else " lie",
                                       " below zero, ", said(sum((s$value * s$times)[s$value < 0]),
                                                            m),
                                       " in all.")),
    note("outliers", if (out) paste0(counted_words(s, out), if (out == 1) " lies" else " lie",
                                     " beyond 1.5 times the middle half's width from it.")),
    note("open_ends", if (s$bounds$low || s$bounds$high) paste0(
      "The range is long, so the ", if (s$bounds$low && s$bounds$high) "first and last bands are"
      else if (s$bounds$low) "first band is" else "last band is", " open.")),
    note("missing", if (s$missing) paste0(
      counted_words(s, s$missing), if (s$missing == 1) " has no value and lies" else
        " have no value and lie", " in no band.")),
    note("none", if (length(s$nameless)) paste0(
      "Lines without ", spoken(q$each), " are in no band",
      if (m$adds_up) paste0(" (", said(sum(s$nameless, na.rm = TRUE), m), ")"), ".")),
    question_notes(q))
}

distribution_proof <- function(s, table) {
  q <- s$q
  m <- q$first
  rbind(prove_question(q, s$counted, s$total, s$exact),
        proof_line("counts of the bands = values", s$n, sum(table$count)),
        if (m$adds_up)
          proof_line(paste0("bands and lines in none add up to the total of ", m$name),
                     if (is.na(s$total[[1]])) 0 else s$total[[1]],
                     sum(table[[m$name]], s$nameless, na.rm = TRUE), s$exact[[1]]))
}
