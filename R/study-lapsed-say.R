# Lapsed, continued: the table, its sentences, notes and proof.

lapsed_table <- function(s) {
  q <- s$q
  m <- q$first
  rows <- s$rows
  names <- c(rows$name, s$never)
  shown <- if (is.null(q$top)) seq_along(names) else seq_len(min(q$top, length(names)))
  n <- length(s$never)
  none <- function(x, value = NA) c(x, rep(value, n))[shown]
  fields <- shown_fields(q, names[shown])
  zero <- function(metric) if (metric$zero) 0 else NA_real_
  before <- c(paste0(m$name, "_before"), paste0(m$name, "_silent"))
  last <- paste0("last_", order_word(q$book))
  days <- paste0(order_word(q$book), "_days")
  cells <- c(stats::setNames(list(shown_names(names[shown])), q$each), fields$cells,
             stats::setNames(list(none(rows$rhythm, "never"), none(rows$at_stake, zero(m)),
                                  none(rows$last_order), none(rows$days_since),
                                  none(rows$usual_gap)),
                             c("rhythm", "at_stake", last, "days_since", "usual_gap")),
             stats::setNames(list(none(rows$before, zero(m)), none(rows$silent, zero(m))), before),
             lapply(q$metrics, function(one) none(s$life[[one$name]], zero(one))),
             stats::setNames(list(none(rows$order_days, 0), none(rows$longest_gap),
                                  none(rows$gap_of)), c(days, "longest_gap", "gap_of")))
  for (one in c("at_stake", before)) cells[[one]] <- in_unit(cells[[one]], m)
  for (one in q$metrics) cells[[one$name]] <- in_unit(cells[[one$name]], one)
  units <- unname(vapply(q$metrics, `[[`, "", "unit"))
  columns <- rbind(new_columns(q$each, "text"), fields$columns,
                   new_columns(c("rhythm", "at_stake", last, "days_since", "usual_gap"),
                               c("text", m$unit, "date", "count", "number"),
                               digits = c(NA, NA, NA, NA, 0)),
                   new_columns(before, m$unit), new_columns(names(q$metrics), units),
                   new_columns(c(days, "longest_gap", "gap_of"),
                               c("count", "count", "text")))
  table <- as.data.frame(cells, optional = TRUE)
  list(table = table, columns = columns, foot = lapsed_foot(s, table, names, shown))
}

# What all lapsed names hold together.
lapsed_foot <- function(s, table, names, shown) {
  q <- s$q
  n <- nrow(s$rows)
  if (!n || !q$first$adds_up) return(NULL)
  row <- function(label, at) {
    out <- foot_row(table, q$each, label)
    before <- paste0(q$first$name, c("_before", "_silent"))
    out[c("at_stake", before)] <- lapply(s$rows[c("at_stake", "before", "silent")], function(v) {
      exact_total(v[at])
    })
    for (m in Filter(function(m) m$adds_up, q$metrics))
      out[[m$name]] <- exact_total(s$life[[m$name]][at])
    out
  }
  rest <- setdiff(seq_len(n), shown)
  rbind(if (length(shown) < length(names))
    row(paste0("everyone else (", count_text(length(names) - length(shown)), ")"), rest),
    row("total", seq_len(n)))
}

lapsed_settings <- function(q) {
  span <- function(p) list(from = format(p$from), to = format(p$to))
  question_settings(q, each = q$each, active = span(q$active), silent = span(q$silent),
                    today = format(q$today), patience = q$patience, never = q$never,
                    at_least = q$at_least, top = q$top, show = if (length(q$show)) q$show)
}

lapsed_finding <- function(s) {
  q <- s$q
  n <- nrow(s$rows)
  what <- spoken(q$each)
  never <- length(s$never)
  rest <- if (never) paste0("; ", count_text(never), " of the register have no lines at all")
  if (!n) return(paste0("No ", what, " with lines ", active_words(q), " is silent ",
                        when_words(q$silent), rest, "."))
  kinds <- s$rhythms[s$rhythms$rhythm != "never", ]
  stake <- if (q$first$adds_up)
    paste0(" In the 365 days up to ", if (n == 1) "its" else "their",
           if (n == 1) " last line it" else " last lines they", " brought ",
           said(exact_total(s$rows$at_stake), q$first), " of ", spoken(q$first$name), ".")
  words <- c(gone = "gone", late = "late", waiting = "within their usual gap", back = "back since")
  paste0(plural(n, what), if (n == 1) " is" else " are", " silent ", when_words(q$silent), ": ",
         and_list(paste(vapply(kinds$names, count_text, ""), words[kinds$rhythm])), rest, ".",
         stake)
}

# "before 17 September 2025", "in 2025"
active_words <- function(q) {
  if (q$active$text == "before") paste("before", date_text(q$active$to + 1)) else
    when_words(q$active)
}

# "in the last 365 days", "from 1 June 2026 to 16 September 2026"
when_words <- function(p) {
  if (grepl("^last|^this", p$words)) return(paste("in the", p$words))
  paste(if (p$words == span_text(p$from, p$to) && p$from < p$to) "from" else "in", p$words)
}

lapsed_reading <- function(s) {
  q <- s$q
  span <- function(p) {
    text <- span_text(p$from, p$to)
    if (p$words == text) when_words(p) else paste0(when_words(p), ", ", text)
  }
  active <- if (q$active$text == "before") paste("before", date_text(q$active$to + 1)) else
    span(q$active)
  paste0(each_words(q), " with lines ", active, " and none ", span(q$silent), ", by the ",
         metric_words(q$first), " of the 365 days up to their last line; gone or late ",
         "after more than ", format_number(q$patience), " usual gaps up to ", date_text(q$today),
         "; ", reading_tail(q, few_reading(q)))
}

# How to ask for lines above zero, where one measure says what they are.
above_zero <- function(q) {
  fields <- q$book$fields
  measure <- intersect(names_in(q$first$tree), fields$name[fields$type == "number"])
  if (length(measure) == 1)
    paste0(" The condition ", quoted(paste(name_text(measure), "> 0")), " leaves such lines out.")
}

lapsed_notes <- function(s) {
  q <- s$q
  n <- length(s$credits)
  back <- sum(s$rows$rhythm == "back")
  borrowed <- sum(s$rows$gap_of == "all")
  all <- s$rows$usual_gap[s$rows$gap_of == "all"][1]
  rbind(note("credits", if (n) paste0(
          plural(n, "name"), if (n == 1) " has" else " have", " no ", spoken(q$first$name),
          " above zero in the silent period, and ", if (n == 1) "counts" else "count",
          " as active all the same: ", and_list(one_line(s$credits), 4), ".", above_zero(q))),
        note("back", if (back) paste0(plural(back, "name"), if (back == 1) " has" else " have",
                                      " lines again after the silent period.")),
        note("few_orders", if (borrowed) paste0(
          plural(borrowed, "name"), " with fewer than three days of lines ",
          if (borrowed == 1) "is" else "are", " judged by the usual gap of all",
          if (!is.na(all)) paste0(", ", format_number(all, digits = 0), " days"), ".")),
        note("register", if (s$unjudged) paste0(
          "Names without lines are not listed: the register cannot tell which of them would ",
          "meet a condition on the lines.")),
        few_note(q, s$left, "left"),
        part_period_notes(q$book, list(now = q$active)),
        part_period_notes(q$book, list(now = q$silent)), question_notes(q))
}

lapsed_proof <- function(s) {
  q <- s$q
  plain <- raw_lines(q)
  proof <- prove_question(q, s$counted, s$total, s$exact, plain)
  seen <- function(p) {
    inside <- plain_pick(q$book$source, in_period(q$book, p))
    plain_held(q$book$source, key_tree(q$book, q$each), pick_both(inside, plain$keep))
  }
  gone <- length(setdiff(seen(q$active), seen(q$silent)))
  proof <- rbind(proof,
                 proof_line("active names = silent + still active", s$active,
                            s$all_lapsed + s$still),
                 proof_line("silent names on the raw lines, by a second route", gone,
                            s$all_lapsed))
  if (!q$first$adds_up || !nrow(s$rows)) return(proof)
  keep <- pick_both(plain_pick(q$book$source, s$year), plain$keep)
  rbind(proof,
        proof_line(paste0(q$first$name, " at stake = the lines added up by a second route"),
                   plain_metric(q$book$source, q$first$tree, keep),
                   exact_total(s$rows$at_stake), s$exact[[1]]))
}
