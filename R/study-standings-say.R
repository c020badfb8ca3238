# Standings in sentences: finding, reading, settings, proof.

# The names of rows, a pair joined by a dot.
row_names_of <- function(s, rows) {
  do.call(paste, c(unname(lapply(s$f$keys[s$q$each], function(k) one_line(k[rows]))),
                   sep = " \u00b7 "))
}

placed_rows <- function(s) s$order[!is.na(s$f$shared[s$order])]

standings_finding <- function(s) {
  q <- s$q
  placed <- placed_rows(s)
  if (!length(placed)) return(paste0("No ", spoken(q$each[1]), " could be placed by ",
                                     spoken(q$first$name), "."))
  if (length(q$within)) return(finding_within(s))
  if (is.null(q$top) && !is.null(q$bottom)) return(finding_bottom(s))
  finding_leader(s, placed)
}

finding_leader <- function(s, placed) {
  q <- s$q
  value <- s$f$values[[q$first$name]]
  lead <- placed[s$f$shared[placed] == 1]
  name <- row_names_of(s, lead)
  metric <- spoken(q$first$name)
  amount <- said(value[lead[1]], q$first)
  if (length(lead) > 1)
    return(paste0(and_list(name), " share the lead by ", metric, " with ", amount, " each."))
  share <- share_words(s, lead)
  after <- placed[-1]
  after <- after[s$f$shared[after] == s$f$shared[after[1]]]
  behind <- if (!length(after)) "; no one else is placed" else
    paste0("; ", next_words(row_names_of(s, after), level_words(q)), " with ",
           said(value[after[1]], q$first), if (length(after) > 1) " each")
  paste0(name, if (q$first$better == "low") " has the lowest " else " leads by ", metric, " with ",
         amount, share, unsure_words(s$certainty$ahead[lead]), behind, ".")
}

# "Hale Farm is next", "Hale Farm and Moor Farm are next", "12 accounts are next"
next_words <- function(names, many) {
  if (length(names) > 3) return(paste(count_text(length(names)), many, "are next"))
  paste(and_list(names), if (length(names) == 1) "is next" else "are next")
}

share_words <- function(s, rows) {
  if (!s$q$first$adds_up) return("")
  value <- s$f$values[[s$q$first$name]]
  share <- grouped(value, s$group, share_of_positive)[rows]
  if (is.na(share[1])) return("")
  paste0(", ", format_number(sum(share), "percent"), " of the ",
         if (any(value < 0, na.rm = TRUE)) "positive total" else "total")
}

finding_bottom <- function(s) {
  value <- s$f$values[[s$q$first$name]]
  low <- s$rows[s$f$from_last[s$rows] == 1]
  low <- low[!is.na(low)]
  paste0("Last by ", spoken(s$q$first$name), ": ", and_list(row_names_of(s, low)), " with ",
         said(value[low[1]], s$q$first), if (length(low) > 1) " each", ".")
}

# The overall leader, and in how many groups that one leads.
finding_within <- function(s) {
  q <- s$q
  groups <- named_groups(s)
  leader <- s$overall$leader
  n <- groups_led(s)
  name <- do.call(paste, c(unname(leader), sep = " \u00b7 "))
  several <- length(name) > 1
  paste0(and_list(name, 5), if (several) " share the lead" else " leads", " overall by ",
         spoken(q$first$name), " (", said(s$overall$value[1], q$first), if (several) " each", ")",
         if (several) "; one of them is first in " else " and is first in ", n,
         " of ", plural(length(groups), spoken(q$within)), ".")
}

# Groups with a name and somebody placed.
named_groups <- function(s) setdiff(unique(s$group[placed_rows(s)]), "(none)")

# The groups in which a leader overall is first, each once.

groups_led <- function(s) {
  first <- which(s$f$shared == 1)
  led <- !is.na(match_keys(lapply(s$f$keys[s$q$each], `[`, first), s$overall$leader))
  length(intersect(s$group[first[led]], named_groups(s)))
}

standings_reading <- function(s) {
  q <- s$q
  metrics <- vapply(q$metrics, metric_words, "")
  who <- paste(vapply(q$each, function(e) plural_word(spoken(e)), ""), collapse = " by ")
  further <- if (length(metrics) > 1) paste0(", beside it ", and_list(metrics[-1], 8))
  paste0(capital(who), if (length(q$within)) paste(" within", spoken(q$within)), " placed by ",
         metrics[1], further, "; ",
         reading_tail(q, shown_words(q), tie_words(q), at_least_words(q),
                      certainty_reading(s$certainty),
                      paste(count_text(length(placed_rows(s))), "placed")))
}

shown_words <- function(q) {
  c(if (!is.null(q$top)) paste("top", count_text(q$top)),
    if (!is.null(q$bottom)) paste("bottom", count_text(q$bottom)),
    if (q$no_lines) "names without lines included")
}

tie_words <- function(q) {
  switch(q$ties, shared = "ties share a place", dense = "ties share a place, the next follows on",
         average = "ties get the mean of their places",
         broken = paste0("ties broken by ",
                         and_list(c(spoken(q$tie_break %||% character()), "name"))))
}

at_least_words <- function(q) {
  if (is.null(q$at_least)) return(NULL)
  paste0("at least ", plural(q$at_least, order_word(q$book)))
}

standings_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, within = q$within, top = q$top, bottom = q$bottom,
                    ties = q$ties, tie_break = q$tie_break, at_edge = q$at_edge,
                    at_least = q$at_least, no_lines = q$no_lines)
}

standings_proof <- function(s) {
  q <- s$q
  parts <- s$f$values
  whole <- as.list(s$total$values[1, , drop = FALSE])
  rbind(prove_question(q, sum(s$f$lines), whole, s$total$exact),
        prove_parts(q$metrics, parts, whole, s$total$exact,
                    if (length(q$within)) "names in groups" else "names"),
        prove_shown(s, whole))
}

# Rows shown and the foot below them make the total.
prove_shown <- function(s, whole) {
  m <- s$q$first
  if (!m$adds_up || length(s$rows) == length(s$f$none)) return(NULL)
  foot <- s$foot[setdiff(names(s$foot), "total")]
  below <- vapply(foot, function(one) one$values[[m$name]], 0)
  added <- sum(s$f$values[[m$name]][s$rows], below, na.rm = TRUE)
  proof_line(paste0("rows shown + everyone else = total of ", m$name),
             if (is.na(whole[[m$name]])) 0 else whole[[m$name]], added, s$total$exact[[m$name]])
}
