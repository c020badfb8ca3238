# Versus, continued: the table, its sentences, notes and proof.

# The name that leads each row; "" where tied or fewer than two have a value.
versus_leaders <- function(question, found) {
  metric <- first_metric(question)
  apply(found$cells[[1]], 1, function(v) {
    rank <- ranks(v, metric$better == "high", exact = found$exact[[1]])
    lead <- which(rank == 1)
    if (length(lead) == 1 && sum(!is.na(v)) > 1) question$args$names[lead] else ""
  })
}

# Who leads where, over the names of `by` in which two can be compared: before what lies beyond
# `top` is gathered, and without the lines that have no such name.
versus_contest <- function(question, found) {
  named <- found$rows != "(none)"
  met <- named & rowSums(!is.na(found$cells[[1]])) > 1
  led <- versus_leaders(question, found)[met]
  list(rows = found$rows[met], of = sum(named), empty = sum(found$lines[named, ] == 0),
       weights = found$weights[met, , drop = FALSE],
       times = vapply(question$args$names, function(name) sum(led == name), 0))
}

versus_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  cells <- found$cells[[1]]
  whole <- found$whole[[1]]
  label <- versus_labels(question)
  columns <- stats::setNames(lapply(seq_along(args$names), function(j) in_unit(cells[, j], metric)),
                             label)
  table <- data.frame(stats::setNames(list(found$rows), args$by), columns,
                      difference = exact_change(cells[, 1], cells[, 2]),
                      ratio = ratio_of(cells[, 1], cells[, 2]),
                      leader = as.character(versus_leaders(question, found)), check.names = FALSE)
  foot <- data.frame(stats::setNames(list("total"), args$by),
                     stats::setNames(lapply(whole, in_unit, metric), label),
                     difference = exact_change(whole[1], whole[2]),
                     ratio = ratio_of(whole[1], whole[2]),
                     leader = "", check.names = FALSE)
  unit <- change_unit(metric$unit)
  # Every metric over all of `by`, a row each: only the first is set out across it.
  named <- make.unique(c("metric", "unit", one_line(args$names)), " ")
  whole <- data.frame(metric = spoken(names(question$metrics)),
                      unit = vapply(question$metrics, `[[`, "", "unit"),
                      do.call(rbind, found$whole), row.names = NULL)
  names(whole) <- named
  whole_columns <- new_columns(named, c("text", "text", rep("own", length(args$names))),
                               named != "unit",
                               heading = c(NA, NA, compared_names(question)))
  list(table = table, parts = list(foot = foot, overall = found$overall, whole = whole),
       further = if (length(question$metrics) > 1) list(whole = whole_columns),
       coded = c(leader = args$each),
       columns = new_columns(c(args$by, label, "difference", "ratio", "leader"),
                             c("text", rep(metric$unit, length(label)), unit, "number", "text"),
                             digits = c(NA, rep(NA, length(label)), NA, 2, NA),
                             heading = c(NA, compared_names(question), NA, NA, NA)))
}

# The names compared, as sentences call them.
compared_names <- function(question) {
  told_as(question, question$args$each, question$args$names)
}

# The columns of the names compared.
versus_labels <- function(question) {
  make.unique(c(question$args$by, "difference", "ratio", "leader",
                one_line(question$args$names)), " ")[-(1:4)]
}

versus_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, names = args$names, by = args$by, top = args$top,
                    adds_up = names(Filter(function(m) m$zero, question$metrics)))
}

# How often each name leads, and who leads as a whole.
versus_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  who <- compared_names(question)
  finding <- function(...) new_finding(paste0(...), where = args$only_before)
  if (!length(found$rows)) return(finding("None of ", and_list(who), " has lines here."))
  whole <- found$whole[[1]]
  lead <- which(ranks(whole, metric$better == "high", exact = found$exact[[1]]) == 1)
  words <- if (length(lead) > 1)
    paste0(and_list(who[lead]), " share the lead by ", spoken(metric$name), ", ",
           said(whole[lead[1]], metric), " each") else
    paste0(who[lead], " leads by ", spoken(metric$name), ", ", said(whole[lead], metric),
           " against ", and_list(ifelse(is.na(whole[-lead]), "no value",
                                        vapply(whole[-lead], said, "", metric))))
  finding(words, "; ", contest_words(question, found), ".")
}

# "of 9 stores A leads in 4 and B in 3; 2 are level"
contest_words <- function(question, found) {
  args <- question$args
  contest <- found$contest
  n <- length(contest$rows)
  held <- paste0("a ", spoken(first_metric(question)$name), " of ",
                 if (length(args$names) == 2) "both" else
    "two or more")
  if (!n) return(paste0("no ", spoken(args$by), " has ", held))
  level <- n - sum(contest$times)
  paste0("of ", plural(n, noun_of(question, args$by)), if (n < contest$of) paste0(" with ", held),
         ", ",
         and_list(paste0(short_names(question, args$each, args$names), " leads in ",
                         contest$times)),
         if (level) paste0("; ", level, verb(level, " is level")))
}

versus_reading <- function(question, found) {
  args <- question$args
  paste0(capital(metric_words(first_metric(question))), " of the ",
         plural_word(noun_of(question, args$each)), " ", and_list(compared_names(question)),
         " across ", plural_word(noun_of(question, args$by)),
         if (length(question$metrics) > 1) paste0(
           ", as a whole also ", and_list(vapply(question$metrics[-1], metric_words, ""), 8)), "; ",
         reading_tail(question, if (!is.null(args$top)) paste("top", args$top, "and the rest")))
}

versus_notes <- function(question, found) {
  silent <- compared_names(question)[colSums(found$lines) == 0]
  zero <- found$contest$empty
  rbind(note_versus_reversal(question, found),
        note("no_lines", if (length(silent)) paste0(
          and_list(silent), verb(length(silent), " has"),
          " no lines in this question.")),
        note("empty", if (zero && !length(silent)) paste0(
          plural(zero, "cell"), verb(zero, " has"), " no lines",
          if (!first_metric(question)$zero) " and no value" else if (zero == 1) " and counts 0" else
            " and count 0", ".")),
        question_notes(question))
}

# A whole that says the reverse of its parts, and the weights behind it.
note_versus_reversal <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  lead <- which(ranks(found$whole[[1]], metric$better == "high", exact = found$exact[[1]]) == 1)
  who <- compared_names(question)
  contest <- found$contest
  times <- contest$times
  other <- which.max(times)
  if (length(lead) != 1 || other == lead || times[other] <= length(contest$rows) / 2)
    return(new_notes())
  why <- ""
  if (length(contest$weights)) {
    # The row whose weight differs most between the two.
    at <- which.max(abs(contest$weights[, lead] - contest$weights[, other]))
    share <- function(j) format_number(contest$weights[at, j], "percent", 0)
    why <- paste0(": ", told_as(question, args$by, contest$rows[at]), " weighs ", share(lead),
                  " in ", who[lead], " and ", share(other), " in ", who[other])
  }
  note("reversal", who[lead], " leads as a whole, but ", who[other], " in ",
       times[other], " of ", plural(length(contest$rows), noun_of(question, args$by)), why, ".")
}

versus_proof <- function(question, found) {
  metric <- first_metric(question)
  parts <- lapply(found$cells, as.vector)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        prove_parts(question$metrics, parts, found$total, found$exact, "cells"),
        if (metric$adds_up)
          proof_line(paste0("names as a whole add up to the total of ", metric$name),
                     if (is.na(found$total[[1]])) 0 else found$total[[1]],
                     sum(found$whole[[1]], na.rm = TRUE), found$exact[[1]]))
}

versus_behind <- function(question, found) {
  args <- question$args
  list(keys = stats::setNames(nm = args$by),
       columns = stats::setNames(lapply(shown_names(args$names), name_condition,
                                        question = question, field = args$each, kept = NULL),
                                 versus_labels(question)),
       kept = if (!is.null(args$top)) stats::setNames(list(found$rows), args$by))
}
