# Tiers, continued: the table, its sentences, notes and proof.

tiers_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  table <- data.frame(named_keys(found$keys), rank = found$rank, in_unit(found$value, metric),
                      found$tier, found$to_next, found$to_fall, check.names = FALSE)
  names(table) <- c(args$each, "rank", metric$name, "tier", "to_next", "to_fall")
  unit <- change_unit(metric$unit)
  columns <- rbind(new_columns("rank", "rank"), new_columns(args$each, "text"),
                   new_columns(c(metric$name, "tier", "to_next", "to_fall"),
                               c(metric$unit, "text", unit, unit),
                               c(TRUE, TRUE, TRUE, is.null(args$groups))))
  if (!is.null(found$moves)) {
    table[[paste0(metric$name, "_before")]] <- in_unit(found$value_before, metric)
    table$tier_before <- found$tier_before
    columns <- rbind(columns, new_columns(c(paste0(metric$name, "_before"), "tier_before"),
                                          c(metric$unit, "text")))
  }
  list(table = table, columns = columns,
       parts = list(foot = tiers_foot(question, found, table), tiers = found$held,
                    moves = found$moves))
}

tiers_foot <- function(question, found, table) {
  metric <- first_metric(question)
  row <- function(label, value) {
    out <- foot_row(table, question$args$each, label)
    out[[metric$name]] <- in_unit(value, metric)
    out
  }
  held <- lapply(seq_len(nrow(found$held)), function(i) {
    row(paste0(found$held$tier[i], " (", count_text(found$held$names[i]), ")"), found$held$value[i])
  })
  none <- if (length(found$none) && metric$adds_up)
    list(row("(none)", exact_total(found$none)))
  out <- do.call(rbind, c(held, none, list(row("total", found$total[[1]]))))
  rownames(out) <- NULL
  out
}

tiers_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, bounds = args$table$bounds,
                    labels = found$held$tier, groups = args$groups, at_bound = args$at_bound)
}

tiers_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  n <- length(found$value)
  what <- each_word(question)
  finding <- function(...) new_finding(paste0(...), compared = !is.null(found$moves))
  if (!n) return(finding("No ", what, " has ", spoken(metric$name), " here."))
  top <- found$held[found$held$names > 0, ][1, ]
  if (!is.null(args$groups))
    return(finding("Of ", plural(n, what), " in ", args$groups, " groups, the ",
                  if (top$names == 1) "one" else count_text(top$names), " of ", top$tier,
                  verb(top$names, " has "), spoken(metric$name), " from ",
                  said(top$from, metric), " to ", said(found$value[1], metric),
                  if (isTRUE(top$share > 0)) paste0(
                    ", ", format_number(top$share, "percent"),
                    share_of_words(question, metric, found$value, found$total[[1]])),
                  if (!is.null(found$moves)) rise_words(question, found), "."))
  text <- paste0("Of ", plural(n, what), ", ", count_text(top$names),
                 verb(top$names, " is "), top$tier,
                 if (is.finite(top$from)) paste0(" (from ", said(top$from, metric), ")"),
                 if (isTRUE(top$share > 0)) paste0(
                   ", with ", format_number(top$share, "percent"),
                   share_of_words(question, metric, found$value, found$total[[1]])))
  close <- sum(near_next(question, found))
  risen <- if (!is.null(found$moves)) rise_words(question, found)
  finding(text, if (close) paste0("; ", count_text(close), verb(close, " is"),
                                  " within 5 % of the next tier"), risen, ".")
}

# Names that need no more than a twentieth of the next bound to reach it.
near_next <- function(question, found) {
  if (!is.null(question$args$groups)) return(logical(length(found$value)))
  !is.na(found$to_next) & found$to_next <= near_bound * abs(found$value + found$to_next)
}

# How many stand in a better tier than then, and in a worse one; who has lines in one period only
# neither rose nor fell.
rise_words <- function(question, found) {
  moves <- found$like_moves %||% found$moves
  alike <- if (!is.null(found$like_moves))
    paste0("against ", before_phrase(question$asked$now, question$asked$like$before, question$book),
           ", ")
  rank <- function(tier) match(tier, rev(tier_order(question, found)))
  n <- function(meets) sum(moves$names[which(meets)])
  up <- n(rank(moves$tier) > rank(moves$tier_before))
  down <- n(rank(moves$tier) < rank(moves$tier_before))
  came <- n(moves$tier_before == "no lines")
  left <- n(moves$tier == "no lines")
  away <- c(n(moves$tier_before == "elsewhere"), n(moves$tier == "elsewhere"))
  paste0("; ", alike, count_text(up), " rose and ", count_text(down), " fell",
         if (came) paste0(", ", count_text(came), " had no lines then"),
         if (left) paste0(", ", count_text(left), verb(left, " has"), " none now"),
         if (away[1]) paste0(", ", count_text(away[1]), verb(away[1], " was"), " elsewhere then"),
         if (away[2]) paste0(", ", count_text(away[2]), verb(away[2], " is"), " elsewhere now"))
}

tiers_reading <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  bounds <- if (is.null(args$groups))
    and_list(paste0(args$table$labels[-1], " from ", vapply(args$table$bounds, said, "", metric)),
             12)
  paste0(each_words(question), " by ", metric_words(metric), "; ",
    if (is.null(args$groups)) paste0(bounds, if (args$at_bound == "in")
      ", a value on a bound is in" else ", a value on a bound is still below") else
      paste(args$groups, "groups of equal size by rank, tied names together, group 1 best"), "; ",
    reading_tail(question))
}

tiers_notes <- function(question, found) {
  args <- question$args
  on <- if (is.null(args$groups)) sum(!is.na(found$to_fall) & abs(found$to_fall) < 5e-8 |
                                     !is.na(found$to_next) & abs(found$to_next) < 5e-8) else 0
  empty <- found$held$tier[found$held$names == 0]
  ragged <- if (!is.null(args$groups) && length(found$value)) diff(range(found$held$names)) > 1 else
    FALSE
  moves <- if (!is.null(found$moves)) move_words(found$moves)
  rbind(note("on_bound", if (on) paste0(
          plural(on, each_word(question)), verb(on, " lies"),
                                        " exactly on a bound: ",
          if (args$at_bound == "in") "in the tier above it." else "in the tier below it.")),
        note("empty", if (length(empty) && length(found$value)) paste0(
          "No ", each_word(question), " is in ", and_list(empty, last = "or"), ".")),
        note("ties", if (ragged) "Ties make the groups differ in size by more than one."),
        nameless_note(question, found$none), valueless_note(question, found$valueless),
        note("moves", if (!is.null(moves)) paste0("Moved: ", moves, ".")), question_notes(question))
}

tiers_proof <- function(question, found) {
  metric <- first_metric(question)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        prove_parts(question$metrics, stats::setNames(list(c(found$value, found$none)),
                                                      metric$name), found$total, found$exact,
                    "names"),
        if (metric$adds_up)
          proof_line("tiers and lines without a name add up to the total",
                     if (is.na(found$total[[1]])) 0 else found$total[[1]],
                     sum(found$held$value, found$none, na.rm = TRUE), found$exact[[1]]),
        proof_line("names = names of all tiers", length(found$value), sum(found$held$names)))
}

tiers_behind <- function(question, found) rows_of_names(question$args$each)
