# Tiers, continued: the table, its sentences, notes and proof.

tiers_table <- function(s) {
  q <- s$q
  m <- q$first
  table <- data.frame(named_keys(s$keys), place = s$place, in_unit(s$value, m), s$tier, s$to_next,
                      s$to_fall, check.names = FALSE)
  names(table) <- c(q$each, "place", m$name, "tier", "to_next", "to_fall")
  unit <- change_unit(m$unit)
  columns <- rbind(new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
                   new_columns(c(m$name, "tier", "to_next", "to_fall"),
                               c(m$unit, "text", unit, unit),
                               c(TRUE, TRUE, TRUE, is.null(q$groups))))
  if (!is.null(s$moves)) {
    table[[paste0(m$name, "_before")]] <- in_unit(s$value_before, m)
    table$tier_before <- s$tier_before
    columns <- rbind(columns, new_columns(c(paste0(m$name, "_before"), "tier_before"),
                                          c(m$unit, "text")))
  }
  list(table = table, columns = columns, foot = tiers_foot(s, table))
}

tiers_foot <- function(s, table) {
  q <- s$q
  m <- q$first
  row <- function(label, value) {
    out <- foot_row(table, q$each, label)
    out[[m$name]] <- in_unit(value, m)
    out
  }
  held <- lapply(seq_len(nrow(s$held)), function(i) {
    row(paste0(s$held$tier[i], " (", count_text(s$held$names[i]), ")"), s$held$value[i])
  })
  none <- if (length(s$none) && m$adds_up)
    list(row("(none)", exact_total(s$none)))
  out <- do.call(rbind, c(held, none, list(row("total", s$total[[1]]))))
  rownames(out) <- NULL
  out
}

tiers_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, bounds = q$table$bounds, labels = s$held$tier,
                    groups = q$groups, at_bound = q$at_bound)
}

tiers_finding <- function(s) {
  q <- s$q
  m <- q$first
  n <- length(s$value)
  what <- each_word(q)
  if (!n) return(paste0("No ", what, " has ", spoken(m$name), " here."))
  top <- s$held[s$held$names > 0, ][1, ]
  if (!is.null(q$groups))
    return(paste0("Of ", plural(n, what), " in ", q$groups, " groups, the ",
                  if (top$names == 1) "one" else count_text(top$names), " of ", top$tier,
                  if (top$names == 1) " has " else " have ", spoken(m$name), " from ",
                  said(top$from, m), " to ", said(s$value[1], m), if (isTRUE(top$share > 0)) paste0(
                    ", ", format_number(top$share, "percent"),
                    share_of_words(q, m, s$value, s$total[[1]])),
                  if (!is.null(s$moves)) rise_words(s), "."))
  text <- paste0("Of ", plural(n, what), ", ", count_text(top$names),
                 if (top$names == 1) " is " else " are ", top$tier,
                 if (is.finite(top$from)) paste0(" (from ", said(top$from, m), ")"),
                 if (isTRUE(top$share > 0)) paste0(", with ", format_number(top$share, "percent"),
                                                   share_of_words(q, m, s$value, s$total[[1]])))
  close <- sum(near_next(s))
  risen <- if (!is.null(s$moves)) rise_words(s)
  paste0(text, if (close) paste0("; ", count_text(close), if (close == 1) " lacks" else " lack",
                                 " less than 5 % to the next tier"), risen, ".")
}

# Names that need no more than a twentieth of the next bound to reach it.
near_next <- function(s) {
  if (!is.null(s$q$groups)) return(logical(length(s$value)))
  !is.na(s$to_next) & s$to_next <= near_bound * abs(s$value + s$to_next)
}

# How many stand in a better tier than then, and in a worse one; who has lines in one period only
# neither rose nor fell.
rise_words <- function(s) {
  rank <- function(tier) match(tier, rev(s$held$tier))
  n <- function(meets) sum(s$moves$names[which(meets)])
  up <- n(rank(s$moves$tier) > rank(s$moves$tier_before))
  down <- n(rank(s$moves$tier) < rank(s$moves$tier_before))
  came <- n(s$moves$tier_before == "no lines")
  left <- n(s$moves$tier == "no lines")
  paste0("; ", count_text(up), " rose and ", count_text(down), " fell",
         if (came) paste0(", ", count_text(came), " had no lines then"),
         if (left) paste0(", ", count_text(left), if (left == 1) " has" else " have", " none now"))
}

tiers_reading <- function(s) {
  q <- s$q
  bounds <- if (is.null(q$groups))
    and_list(paste0(q$table$labels[-1], " from ", vapply(q$table$bounds, said, "", q$first)), 12)
  paste0(each_words(q), " by ", metric_words(q$first), "; ",
    if (is.null(q$groups)) paste0(bounds, if (q$at_bound == "in")
      ", a value on a bound is in" else ", a value on a bound is still below") else
      paste(q$groups, "groups of equal size by place, tied names together, group 1 best"), "; ",
    reading_tail(q))
}

tiers_notes <- function(s) {
  q <- s$q
  on <- if (is.null(q$groups)) sum(!is.na(s$to_fall) & abs(s$to_fall) < 5e-8 |
                                     !is.na(s$to_next) & abs(s$to_next) < 5e-8) else 0
  empty <- s$held$tier[s$held$names == 0]
  ragged <- if (!is.null(q$groups) && length(s$value)) diff(range(s$held$names)) > 1 else FALSE
  moves <- if (!is.null(s$moves)) move_words(s$moves)
  rbind(note("on_bound", if (on) paste0(
          plural(on, "name"), if (on == 1) " lies" else " lie", " exactly on a bound: ",
          if (q$at_bound == "in") "in the tier above it." else "in the tier below it.")),
        note("empty", if (length(empty) && length(s$value)) paste0(
          "Without names: ", and_list(empty), ".")),
        note("ties", if (ragged) "Ties make the groups differ in size by more than one."),
        nameless_note(q, s$none), valueless_note(s$valueless),
        note("moves", if (!is.null(moves)) paste0("Moved: ", moves, ".")), question_notes(q))
}

tiers_proof <- function(s) {
  q <- s$q
  m <- q$first
  rbind(prove_question(q, s$counted, s$total, s$exact),
        prove_parts(q$metrics, stats::setNames(list(c(s$value, s$none)), m$name), s$total, s$exact,
                    "names"),
        if (m$adds_up)
          proof_line("tiers and lines without a name add up to the total",
                     if (is.na(s$total[[1]])) 0 else s$total[[1]],
                     sum(s$held$value, s$none, na.rm = TRUE), s$exact[[1]]),
        proof_line("names = names of all tiers", length(s$value), sum(s$held$names)))
}
