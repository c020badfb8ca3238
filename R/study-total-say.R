# Total, continued: the table, its sentences, notes and proof.

# A row for each metric, each in a unit of its own.
total_table <- function(question, found) {
  metrics <- unname(question$metrics)
  number <- function(of) vapply(metrics, function(m) as.numeric(of(m)), 0)
  now <- number(function(m) found$total[[m$name]])
  unit <- vapply(metrics, `[[`, "", "unit")
  table <- data.frame(metric = vapply(metrics, `[[`, "", "name"), value = now, unit = unit)
  columns <- new_columns(c("metric", "value", "unit"), c("text", "own", "text"),
                         c(TRUE, TRUE, FALSE))
  compared <- vapply(metrics, total_compared, NA, question = question)
  if (any(compared)) {
    before <- number(function(m) if (total_compared(question, m)) found$before[[m$name]] else NA)
    table$before <- before
    table$change <- ifelse(compared, exact_changes(now, before), NA_real_)
    table$change_unit <- vapply(unit, change_unit, "", USE.NAMES = FALSE)
    table$growth <- ifelse(unit == "percent", NA_real_, growth_of(now, before))
    columns <- rbind(columns, new_columns(c("before", "change", "change_unit", "growth"),
                                          c("own", "own", "text", "percent"),
                                          c(TRUE, TRUE, FALSE, TRUE)))
  }
  list(table = table, columns = columns)
}

# Each difference by itself: one that is no decimal does not make the others inexact.
exact_changes <- function(now, before) unlist(Map(exact_change, now, before))

# A metric that compares the two periods itself has no value in the one before; dates only differ.
total_compared <- function(question, metric) {
  !is.null(question$asked$before) && !metric$against && metric$unit != "date"
}

total_settings <- function(question, found) question_settings(question)

total_finding <- function(question, found) {
  if (!found$counted) return("No line meets these conditions.")
  text <- vapply(question$metrics, total_sentence, "", question = question, found = found)
  new_finding(paste0(capital(paste(text, collapse = "; ")), "."),
              compared = !is.null(question$asked$before), alike = !is.null(found$like))
}

# "revenue was 3,204,518, 2.6 % above the 3,122,998 before", of further metrics "orders 5,783, 6.6 %
# above the 5,427 before"
total_sentence <- function(question, found, metric) {
  now <- found$total[[metric$name]]
  first <- metric$name == first_metric(question)$name
  name <- spoken(metric$name)
  what <- paste0(name, if (is.na(now)) after_name(name, " has no value") else
    paste0(if (first) after_name(name, " was"), " ", said(now, metric)))
  if (!total_compared(question, metric)) return(what)
  before <- found$before[[metric$name]]
  if (is.na(before)) return(what)
  if (!is.null(found$like)) return(paste0(what, total_alike(question, found, metric)))
  change <- change_words(now, before, metric)
  if (is.null(change)) return(paste0(what, " (", said(before, metric), " before)"))
  paste0(what, ", ", change, " the ", said(before, metric), " before")
}

# ", 10.4 % above the same days of 2025, 2,584,862; all of 2025 was 3,204,518"
total_alike <- function(question, found, metric) {
  words <- like_words(question, found$like, metric)
  asked <- question$asked
  whole <- paste0(if (is.null(covered_part(asked$before, question$book))) "all of ",
                  period_name(asked$before) %||% short_span(asked$before), " was ",
                  said(found$before[[metric$name]], metric))
  paste0(if (!like_is_now(question)) paste0("; on the days of both periods, ",
                                            short_span(asked$like$now), ", ",
                                            said(found$like$now[[metric$name]], metric)),
         if (!is.null(words)) paste0(", ", words), "; ", whole)
}

total_reading <- function(question, found) {
  paste0(capital(and_list(vapply(question$metrics, metric_words, ""), 8)),
         " over all lines asked for; ", reading_tail(question))
}

total_notes <- function(question, found) question_notes(question)

total_proof <- function(question, found) {
  shown <- Filter(function(m) total_compared(question, m), question$metrics)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        if (length(shown)) total_before_proof(question, found, shown))
}

# What it was before, by the second route too.
total_before_proof <- function(question, found, metrics) {
  plain <- raw_lines(question, question$asked$period_before)
  again <- second_metrics(question$book$source, lapply(metrics, `[[`, "tree"), plain$keep)
  do.call(rbind, lapply(names(metrics), function(name) {
    proof_line(paste0(name, " before = the lines added up by a second route"), again[[name]],
               found$before[[name]], found$exact[[name]])
  }))
}

# The one row stands for all lines of the question.
total_behind <- function(question, found) list(keys = character())
