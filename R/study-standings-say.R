# Standings in sentences: finding, reading, settings, proof.

# The names of rows, as sentences call them.
row_names_of <- function(question, found, rows) {
  told_as_keys(question, found$fold$keys[question$args$each], rows)
}

ranked_rows <- function(found) found$order[!is.na(found$fold$shared[found$order])]

standings_finding <- function(question, found) {
  args <- question$args
  ranked <- ranked_rows(found)
  if (!length(ranked)) return(paste0("No ", spoken(args$each[1]), " could be ranked by ",
                                     spoken(first_metric(question)$name), "."))
  if (length(args$within)) return(finding_within(question, found))
  if (is.null(args$top) && !is.null(args$bottom)) return(finding_bottom(question, found))
  finding_leader(question, found, ranked)
}

finding_leader <- function(question, found, ranked) {
  value <- found$fold$values[[first_metric(question)$name]]
  lead <- ranked[found$fold$shared[ranked] == 1]
  name <- row_names_of(question, found, lead)
  metric <- spoken(first_metric(question)$name)
  amount <- said(value[lead[1]], first_metric(question))
  if (length(lead) > 1)
    return(paste0(and_list(name), " share the lead by ", metric, " with ", amount, " each."))
  share <- share_words(question, found, lead)
  after <- ranked[-1]
  after <- after[found$fold$shared[after] == found$fold$shared[after[1]]]
  behind <- if (!length(after)) "; no one else is ranked" else
    paste0("; ", next_words(row_names_of(question, found, after), level_words(question)), " with ",
           said(value[after[1]], first_metric(question)), if (length(after) > 1) " each")
  paste0(name, if (first_metric(question)$better == "low") " has the lowest " else " leads by ",
         metric, " with ", amount, share, unsure_words(found$resamples$ahead[lead]), behind, ".")
}

share_words <- function(question, found, rows) {
  metric <- first_metric(question)
  if (!metric$adds_up || metric$against) return("")
  value <- found$fold$values[[metric$name]]
  share <- grouped(value, found$group, share_of_positive)[rows]
  of_the_total(sum(share), if (any(value < 0, na.rm = TRUE)) "positive total" else "total")
}

finding_bottom <- function(question, found) {
  metric <- first_metric(question)
  value <- found$fold$values[[metric$name]]
  low <- found$rows[found$fold$from_last[found$rows] == 1]
  low <- low[!is.na(low)]
  paste0("Last by ", spoken(metric$name), ": ", and_list(row_names_of(question, found, low)),
         " with ", said(value[low[1]], metric), if (length(low) > 1) " each", ".")
}

# The overall leader, and in how many groups that one leads.
finding_within <- function(question, found) {
  metric <- first_metric(question)
  groups <- named_groups(found)
  leader <- found$overall$leader
  n <- groups_led(question, found)
  name <- told_as_keys(question, leader)
  several <- length(name) > 1
  paste0(and_list(name, 5), if (several) " share the lead" else " leads", " overall by ",
         spoken(metric$name), " (", said(found$overall$value[1], metric), if (several) " each", ")",
         if (several) "; one of them is first in " else " and is first in ", n,
         " of ", plural(length(groups), noun_of(question, question$args$within)), ".")
}

# Groups with a name and somebody ranked.
named_groups <- function(found) setdiff(unique(found$group[ranked_rows(found)]), "(none)")

# The groups in which a leader overall is first, each once.

groups_led <- function(question, found) {
  first <- which(found$fold$shared == 1)
  led <- !is.na(match_keys(lapply(found$fold$keys[question$args$each], `[`, first),
                           found$overall$leader))
  length(intersect(found$group[first[led]], named_groups(found)))
}

standings_reading <- function(question, found) {
  args <- question$args
  metrics <- vapply(question$metrics, metric_words, "")
  further <- if (length(metrics) > 1) paste0(", beside it ", and_list(metrics[-1], 8))
  paste0(each_words(question), if (length(args$within)) paste(" within", spoken(args$within)),
         " ranked by ", metrics[1], further, "; ",
         reading_tail(question, shown_words(question), tie_words(question),
                      min_orders_words(question), resamples_reading(question, found$resamples),
                      paste(count_text(length(ranked_rows(found))), "ranked")))
}

shown_words <- function(question) {
  args <- question$args
  c(if (!is.null(args$top)) paste("top", count_text(args$top)),
    if (!is.null(args$bottom)) paste("bottom", count_text(args$bottom)),
    if (args$no_lines) "names without lines included")
}

tie_words <- function(question) {
  args <- question$args
  switch(args$ties, shared = "ties share a rank", dense =
         "ties share a rank, the next follows on", average = "ties get the mean of their ranks",
         broken = paste0("ties broken by ",
                         and_list(c(spoken(args$tie_break %||% character()), "name"))))
}

min_orders_words <- function(question) {
  args <- question$args
  if (is.null(args$min_orders)) return(NULL)
  paste0("at least ", plural(args$min_orders, order_word(question$book)))
}

standings_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, within = args$within, top = args$top,
                    bottom = args$bottom, ties = args$ties, tie_break = args$tie_break,
                    last_ties = args$last_ties, min_orders = args$min_orders,
                    no_lines = args$no_lines)
}

standings_proof <- function(question, found) {
  parts <- found$fold$values
  whole <- as.list(found$total$values[1, , drop = FALSE])
  rbind(prove_question(question, sum(found$fold$lines), whole, found$total$exact),
        prove_parts(question$metrics, parts, whole, found$total$exact,
                    if (length(question$args$within)) "names in groups" else "names"),
        prove_shown(question, found, whole))
}

# Rows shown and the foot below them make the total.
prove_shown <- function(question, found, whole) {
  metric <- first_metric(question)
  if (!metric$adds_up || length(found$rows) == length(found$fold$none)) return(NULL)
  foot <- found$foot[setdiff(names(found$foot), "total")]
  below <- vapply(foot, function(one) one$values[[metric$name]], 0)
  added <- sum(found$fold$values[[metric$name]][found$rows], below, na.rm = TRUE)
  proof_line(paste0("rows shown + everyone else = total of ", metric$name),
             if (is.na(whole[[metric$name]])) 0 else whole[[metric$name]], added,
             found$total$exact[[metric$name]])
}

standings_behind <- function(question, found) {
  rows_of_names(c(question$args$within, question$args$each))
}
