# Versus, continued: the table, its sentences, notes and proof.

# The name that leads each row; "" where tied or fewer than two have a value.
versus_leaders <- function(s) {
  m <- s$q$first
  apply(s$cells[[1]], 1, function(v) {
    place <- places(v, m$better == "high", exact = s$exact[[1]])
    lead <- which(place == 1)
    if (length(lead) == 1 && sum(!is.na(v)) > 1) s$q$names[lead] else ""
  })
}

# Who leads where, over the names of `by` in which two can be compared: before what lies beyond
# `top` is gathered, and without the lines that have no such name.
versus_contest <- function(s) {
  named <- s$rows != "(none)"
  met <- named & rowSums(!is.na(s$cells[[1]])) > 1
  led <- versus_leaders(s)[met]
  list(rows = s$rows[met], of = sum(named), empty = sum(s$lines[named, ] == 0),
       weights = s$weights[met, , drop = FALSE],
       times = vapply(s$q$names, function(name) sum(led == name), 0))
}

versus_table <- function(s) {
  q <- s$q
  m <- q$first
  cells <- s$cells[[1]]
  whole <- s$whole[[1]]
  label <- make.unique(c(q$by, "difference", "ratio", "leader", one_line(q$names)), " ")[-(1:4)]
  columns <- stats::setNames(lapply(seq_along(q$names), function(j) in_unit(cells[, j], m)), label)
  table <- data.frame(stats::setNames(list(s$rows), q$by), columns,
                      difference = exact_change(cells[, 1], cells[, 2]),
                      ratio = ratio_of(cells[, 1], cells[, 2]),
                      leader = as.character(versus_leaders(s)), check.names = FALSE)
  foot <- data.frame(stats::setNames(list("total"), q$by),
                     stats::setNames(lapply(whole, in_unit, m), label),
                     difference = exact_change(whole[1], whole[2]),
                     ratio = ratio_of(whole[1], whole[2]),
                     leader = "", check.names = FALSE)
  unit <- change_unit(m$unit)
  # Every metric over all of `by`, a row each: only the first is set out across it.
  named <- make.unique(c("metric", "unit", one_line(q$names)), " ")
  whole <- data.frame(metric = spoken(names(q$metrics)), unit = vapply(q$metrics, `[[`, "", "unit"),
                      do.call(rbind, s$whole), row.names = NULL)
  names(whole) <- named
  list(table = table, foot = foot, label = label, whole = whole,
       whole_columns = new_columns(named, c("text", "text", rep("own", length(q$names))),
                                   named != "unit"),
       columns = new_columns(c(q$by, label, "difference", "ratio", "leader"),
                             c("text", rep(m$unit, length(label)), unit, "number", "text"),
                             digits = c(NA, rep(NA, length(label)), NA, 2, NA)))
}

ratio_of <- function(a, b) {
  out <- a / b
  out[is.na(b) | b <= 0] <- NA
  out
}

versus_settings <- function(q) {
  question_settings(q, each = q$each, names = q$names, by = q$by, top = q$top,
                    adds_up = names(Filter(function(m) m$zero, q$metrics)))
}

# How often each name leads, and who leads as a whole.
versus_finding <- function(s) {
  q <- s$q
  m <- q$first
  if (!length(s$rows)) return(paste0("None of ", and_list(q$names), " has lines here."))
  whole <- s$whole[[1]]
  lead <- which(places(whole, m$better == "high", exact = s$exact[[1]]) == 1)
  words <- if (length(lead) > 1)
    paste0(and_list(q$names[lead]), " share the lead by ", spoken(m$name), ", ",
           said(whole[lead[1]], m), " each") else
    paste0(q$names[lead], " leads by ", spoken(m$name), ", ", said(whole[lead], m), " against ",
           and_list(ifelse(is.na(whole[-lead]), "no value", vapply(whole[-lead], said, "", m))))
  paste0(words, "; ", contest_words(s), ".")
}

# "of 9 stores A leads in 4 and B in 3; 2 are level"
contest_words <- function(s) {
  q <- s$q
  contest <- s$contest
  n <- length(contest$rows)
  held <- paste0("a ", spoken(q$first$name), " of ", if (length(q$names) == 2) "both" else
    "two or more")
  if (!n) return(paste0("no ", spoken(q$by), " has ", held))
  level <- n - sum(contest$times)
  paste0("of ", plural(n, spoken(q$by)), if (n < contest$of) paste0(" with ", held), ", ",
         and_list(paste0(q$names, " leads in ", contest$times)),
         if (level) paste0("; ", level, if (level == 1) " is level" else " are level"))
}

versus_reading <- function(s) {
  q <- s$q
  paste0(capital(metric_words(q$first)), " of ", and_list(q$names), " (", spoken(q$each),
         ") across ", spoken(q$by), if (length(q$metrics) > 1) paste0(
           ", as a whole also ", and_list(vapply(q$metrics[-1], metric_words, ""), 8)), "; ",
         reading_tail(q, if (!is.null(q$top)) paste("top", q$top, "and the rest")))
}

versus_notes <- function(s) {
  q <- s$q
  silent <- q$names[colSums(s$lines) == 0]
  zero <- s$contest$empty
  rbind(note_versus_reversal(s),
        note("no_lines", if (length(silent)) paste0(
          and_list(silent), if (length(silent) == 1) " has" else " have",
          " no lines in this question.")),
        note("empty", if (zero && !length(silent)) paste0(
          plural(zero, "cell"), if (zero == 1) " has" else " have", " no lines",
          if (!q$first$zero) " and no value" else if (zero == 1) " and counts 0" else
            " and count 0", ".")),
        question_notes(q))
}

# A whole that says the reverse of its parts, and the weights behind it.
note_versus_reversal <- function(s) {
  q <- s$q
  m <- q$first
  lead <- which(places(s$whole[[1]], m$better == "high", exact = s$exact[[1]]) == 1)
  contest <- s$contest
  times <- contest$times
  other <- which.max(times)
  if (length(lead) != 1 || other == lead || times[other] <= length(contest$rows) / 2)
    return(new_notes())
  why <- ""
  if (length(contest$weights)) {
    # The row whose weight differs most between the two.
    at <- which.max(abs(contest$weights[, lead] - contest$weights[, other]))
    share <- function(j) format_number(contest$weights[at, j], "percent", 0)
    why <- paste0(": ", contest$rows[at], " weighs ", share(lead), " in ", q$names[lead], " and ",
                  share(other), " in ", q$names[other])
  }
  note("reversal", q$names[lead], " leads as a whole, but ", q$names[other], " in ", times[other],
       " of ", plural(length(contest$rows), spoken(q$by)), why, ".")
}

versus_proof <- function(s) {
  q <- s$q
  parts <- lapply(s$cells, as.vector)
  rbind(prove_question(q, s$counted, s$total, s$exact),
        prove_parts(q$metrics, parts, s$total, s$exact, "cells"),
        if (q$first$adds_up)
          proof_line(paste0("names as a whole add up to the total of ", q$first$name),
                     if (is.na(s$total[[1]])) 0 else s$total[[1]],
                     sum(s$whole[[1]], na.rm = TRUE), s$exact[[1]]))
}

versus_behind <- function(s, label) {
  q <- s$q
  list(keys = stats::setNames(nm = q$by),
       columns = stats::setNames(lapply(shown_names(q$names), name_condition, q = q, field = q$each,
                                        kept = NULL), label),
       kept = if (!is.null(q$top)) stats::setNames(list(s$rows), q$by))
}
