# Lapsed, continued: the table, its sentences, notes and proof.

lapsed_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  rows <- found$rows
  names <- c(rows$name, found$never)
  shown <- if (is.null(args$top)) seq_along(names) else seq_len(min(args$top, length(names)))
  n <- length(found$never)
  none <- function(x, value = NA) c(x, rep(value, n))[shown]
  fields <- shown_fields(question, names[shown])
  zero <- function(metric) if (metric$zero) 0 else NA_real_
  before <- c(paste0(metric$name, "_before"), paste0(metric$name, "_inactive"))
  last <- paste0("last_", order_word(question$book))
  days <- paste0(order_word(question$book), "_days")
  cells <- c(stats::setNames(list(shown_names(names[shown])), args$each), fields$cells,
             stats::setNames(list(none(rows$status, "never"), none(rows$at_stake, zero(metric)),
                                  none(rows$last_order), none(rows$days_since),
                                  none(rows$usual_interval), none(rows$elsewhere),
                                  none(rows$elsewhere_since)),
                             c("status", "at_stake", last, "days_since", "usual_interval",
                               "elsewhere", "elsewhere_since")),
             stats::setNames(list(none(rows$before, zero(metric)),
                                  none(rows$inactive, zero(metric))),
                             before),
             lapply(question$metrics, function(one) none(found$life[[one$name]], zero(one))),
             stats::setNames(list(none(rows$order_days, 0), none(rows$longest_gap),
                                  none(rows$gap_of)), c(days, "longest_gap", "gap_of")))
  for (one in c("at_stake", before)) cells[[one]] <- in_unit(cells[[one]], metric)
  for (one in question$metrics) cells[[one$name]] <- in_unit(cells[[one$name]], one)
  units <- unname(vapply(question$metrics, `[[`, "", "unit"))
  columns <- rbind(new_columns(args$each, "text"), fields$columns,
                   new_columns(c("status", "at_stake", last, "days_since", "usual_interval"),
                               c("text", metric$unit, "date", "count", "number"),
                               digits = c(NA, NA, NA, NA, 0)),
                   new_columns(c("elsewhere", "elsewhere_since"), c("text", "date"),
                               any(rows$status == "elsewhere")),
                   new_columns(before, metric$unit), new_columns(names(question$metrics), units),
                   new_columns(c(days, "longest_gap", "gap_of"),
                               c("count", "count", "text")))
  table <- as.data.frame(cells, optional = TRUE)
  list(table = table, columns = columns,
       parts = list(statuses = found$statuses,
                    foot = lapsed_foot(question, found, table, names, shown)))
}

# What all lapsed names hold together.
lapsed_foot <- function(question, found, table, names, shown) {
  metric <- first_metric(question)
  n <- nrow(found$rows)
  if (!n || !metric$adds_up) return(NULL)
  row <- function(label, at) {
    out <- foot_row(table, question$args$each, label)
    before <- paste0(metric$name, c("_before", "_inactive"))
    out[c("at_stake", before)] <- lapply(found$rows[c("at_stake", "before", "inactive")],
                                         function(v) {
      exact_total(v[at])
    })
    for (m in Filter(function(m) m$adds_up, question$metrics))
      out[[m$name]] <- exact_total(found$life[[m$name]][at])
    out
  }
  rest <- setdiff(seq_len(n), shown)
  rbind(if (length(shown) < length(names))
    row(paste0("everyone else (", count_text(length(names) - length(shown)), ")"), rest),
    row("total", seq_len(n)))
}

lapsed_settings <- function(question, found) {
  args <- question$args
  span <- function(p) list(from = format(p$from), to = format(p$to))
  question_settings(question, each = args$each, active = span(args$active),
                    inactive = span(args$inactive), today = format(args$today),
                    overdue_after = args$overdue_after, never = args$never,
                    min_orders = args$min_orders,
                    top = args$top, with_fields = if (length(args$with_fields)) args$with_fields)
}

lapsed_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  n <- nrow(found$rows)
  what <- noun_of(question, args$each)
  before <- if (args$active$text == "before") "" else paste0(" with lines ", active_words(question))
  if (!n) return(paste0("No ", what, " with lines ", active_words(question),
                        " is without lines ", when_words(question, args$inactive), "."))
  kinds <- found$statuses[found$statuses$status != "never", ]
  kinds <- status_words(question, found, kinds)
  paste0(plural(n, what), before, verb(n, " has"),
         if (before == "") " had no lines " else " none ",
         when_words(question, args$inactive), if (!is.null(question$asked$only)) " here", ": ",
         paste(kinds, collapse = ", "), stake_words(question, found), ".")
}

# "44 gone", "1 overdue", "1 within the usual interval", "2 not yet overdue": so many of each
# status;
# who waits is within the usual interval, or beyond it and not yet overdue.
status_words <- function(question, found, kinds) {
  words <- c(gone = "gone", overdue = "overdue", elsewhere = "with lines elsewhere in the book",
             back = "back since")
  waits <- found$rows$status == "waiting"
  within <- sum(waits & found$rows$days_since <= found$rows$usual_interval)
  unlist(lapply(seq_len(nrow(kinds)), function(i) {
    n <- kinds$names[i]
    if (kinds$status[i] != "waiting") return(paste(count_text(n), words[[kinds$status[i]]]))
    c(if (within) paste(count_text(within), "within the usual interval"),
      if (n > within) paste(count_text(n - within), "not yet overdue"))
  }))
}

# "; in the year before their last order they brought 239,092 of revenue, 109,830 of it by those
# elsewhere"
stake_words <- function(question, found) {
  metric <- first_metric(question)
  if (!metric$adds_up) return(NULL)
  n <- nrow(found$rows)
  away <- found$rows$status == "elsewhere"
  brought <- function(rows) said(exact_total(found$rows$at_stake[rows]), metric)
  paste0("; in the year before ", if (n == 1) "its" else "their", " last ",
         order_word(question$book), if (n == 1) " it" else " they", " brought ",
         brought(seq_len(n)), " of ", spoken(metric$name),
         if (any(away) && !all(away)) paste0(", ", brought(away), " of it by those elsewhere"))
}

# "before 17 September 2025", "in 2025"
active_words <- function(question) {
  args <- question$args
  if (args$active$text == "before") paste("before", date_text(args$active$to + 1)) else
    when_words(question, args$active)
}

# "in the last 365 days", "from 1 June 2026 to 16 September 2026"
when_words <- function(question, period) {
  if (grepl("^last [0-9]", period$words)) return(paste("in the", period$words))
  if (grepl("^last|^this", period$words)) return(period_phrase(period, question$book))
  paste(if (period$words == span_text(period$from, period$to) &&
            period$from < period$to) "from" else "in", period$words)
}

lapsed_reading <- function(question, found) {
  args <- question$args
  span <- function(p) {
    text <- span_text(p$from, p$to)
    # "The last 180 days" are counted to the day that is told below.
    if (p$words == text || grepl("^last [0-9]", p$words)) when_words(question, p) else
      paste0(when_words(question, p), ", ", text)
  }
  active <- if (args$active$text == "before") paste("before", date_text(args$active$to + 1)) else
    span(args$active)
  paste0(each_words(question), " with lines ", active, " and none ", span(args$inactive),
         ", by the ",
         metric_words(first_metric(question)),
         " of the 365 days up to their last line; gone or overdue ", "after more than ",
         format_number(args$overdue_after), " usual intervals between ",
         plural_word(order_word(question$book)),
         if (any(found$rows$status == "elsewhere"))
           ", elsewhere with lines in that time that the conditions leave out", ", counted to ",
         date_text(args$today), "; ",
         reading_tail(question, few_reading(question)))
}

# How to ask for lines above zero, where one measure says what they are.
above_zero <- function(question) {
  fields <- question$book$fields
  measure <- intersect(names_in(first_metric(question)$tree), fields$name[fields$type == "number"])
  if (length(measure) == 1)
    paste0(" The condition ", quoted(paste(name_text(measure), "> 0")), " leaves such lines out.")
}

lapsed_notes <- function(question, found) {
  args <- question$args
  n <- length(found$credits)
  back <- sum(found$rows$status == "back")
  borrowed <- sum(found$rows$gap_of == "all")
  all <- found$rows$usual_interval[found$rows$gap_of == "all"][1]
  never <- length(found$never)
  rbind(note("never", if (never) paste0(
          plural(never, each_word(question)), " of the register ",
          verb(never, "has"), " no lines at all.")),
        note("credits", if (n) paste0(
          plural(n, each_word(question)), verb(n, " has"), " no ",
          spoken(first_metric(question)$name),
          " above zero in the inactive period, and ", verb(n, "counts"),
          " as active all the same: ",
          and_list(told_as(question, args$each, found$credits), 4), ".",
          above_zero(question))),
        note("back", if (back) paste0(plural(back, each_word(question)),
                                      verb(back, " has"),
                                      " lines again after the inactive period.")),
        note("few_orders", if (borrowed) paste0(
          plural(borrowed, each_word(question)), " with fewer than three days of lines ",
          verb(borrowed, "is"), " judged by the usual interval of all ",
          plural_word(noun_of(question, args$each)),
          if (!is.na(all)) paste0(", ", format_number(all, digits = 0), " days"), ".")),
        note("register", if (found$unjudged) paste0(
          "Names without lines are not listed: the register cannot tell which of them would ",
          "meet a condition on the lines.")),
        few_note(question, found$left, "left"),
        part_period_notes(question$book, list(now = args$active)),
        part_period_notes(question$book, list(now = args$inactive)), question_notes(question))
}

lapsed_proof <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  plain <- raw_lines(question)
  proof <- prove_question(question, found$counted, found$total, found$exact, plain)
  seen <- function(p) {
    inside <- second_pick(question$book$source, in_period(question$book, p))
    second_held(question$book$source, key_tree(question$book, args$each),
                pick_both(inside, plain$keep))
  }
  gone <- length(setdiff(seen(args$active), seen(args$inactive)))
  proof <- rbind(proof,
                 proof_line("active names = inactive + still active", found$active,
                            found$all_lapsed + found$still),
                 proof_line("inactive names on the raw lines, by a second route", gone,
                            found$all_lapsed))
  if (!metric$adds_up || !nrow(found$rows)) return(proof)
  keep <- pick_both(second_pick(question$book$source, found$year), plain$keep)
  rbind(proof,
        proof_line(paste0(metric$name, " at stake = the lines added up by a second route"),
                   second_metric(question$book$source, metric$tree, keep),
                   exact_total(found$rows$at_stake), found$exact[[1]]))
}

lapsed_behind <- function(question, found) rows_of_names(question$args$each)
