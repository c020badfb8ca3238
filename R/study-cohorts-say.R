# Cohorts, continued: the tables, their sentences, notes and proof.

cohorts_table <- function(s) {
  q <- s$q
  kinds <- setdiff(names(s$kinds), "none")
  cells <- list(period = s$periods$label)
  columns <- new_columns("period", "text")
  foot <- list(period = "total")
  whole <- function(of, name) of$whole[[name]]
  add <- function(name, unit, values, total = NA, digits = NA) {
    cells[[name]] <<- values
    foot[[name]] <<- total
    columns <<- rbind(columns, new_columns(name, unit, digits = digits))
  }
  # In the period that cannot be split nothing is called new, and nothing existing.
  unsplit <- s$unsplit & !any(s$cohorts$order == s$cohorts$before)
  blank <- function(v, kind) if (kind == "unknown") v else replace(v, unsplit, NA)
  # Nor is there a share of new ones where it is not known of all whether they are.
  known <- function(share) replace(share, s$unsplit & s$kinds$unknown$lines > 0, NA)
  for (m in q$metrics) {
    add(m$name, m$unit, in_unit(s$all$rows[[m$name]], m), in_unit(whole(s$all, m$name), m))
    for (kind in kinds)
      add(paste0(m$name, "_", kind), m$unit,
          in_unit(blank(s$kinds[[kind]]$rows[[m$name]], kind), m),
          in_unit(whole(s$kinds[[kind]], m$name), m))
    if (m$name == q$first$name && m$adds_up)
      add("new_share", "percent", known(share_of_total(cells[[paste0(m$name, "_new")]],
                                                       as.numeric(cells[[m$name]]))), digits = 1)
  }
  for (count in names(q$extra)) {
    name <- own_column(substring(count, 2), q, "cohorts")
    add(name, "count", s$all$rows[[count]], whole(s$all, count))
    add(paste0(name, "_new"), "count", blank(s$kinds$new$rows[[count]], "new"),
        whole(s$kinds$new, count))
  }
  if (any(s$periods$part)) {
    cells$part <- ifelse(s$periods$part, "part", "")
    foot$part <- ""
    columns <- rbind(columns, new_columns("part", "text"))
  }
  wide <- retention_table(s)
  list(table = as.data.frame(cells, optional = TRUE), foot = as.data.frame(foot, optional = TRUE),
       columns = columns, retention = wide$table, retention_columns = wide$columns)
}

share_of_total <- function(part, whole) ifelse(!is.na(whole) & whole > 0, part / whole, NA)

# Cohorts by periods: the share of its names, or of its first period's money.
retention_table <- function(s) {
  q <- s$q
  t <- s$triangle
  value <- if (q$share_of == "money") t$metric_share else t$names_share
  cohorts <- unique(t$cohort)
  cells <- list(cohort = cohorts, size = t$size[match(cohorts, t$cohort)])
  for (period in s$periods$label)
    cells[[period]] <- value[match(paste(cohorts, period, recycle0 = TRUE),
                                 paste(t$cohort, t$period, recycle0 = TRUE))]
  list(table = as.data.frame(cells, optional = TRUE),
       columns = new_columns(names(cells), c("text", "count", rep("percent", nrow(s$periods))),
                             digits = c(NA, NA, rep(0, nrow(s$periods)))))
}

cohorts_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, every = q$every, over = q$over, share_of = q$share_of,
                    since = if (!q$unused_since) q$since, opens = s$cohorts$opens,
                    parts = s$periods$label[s$periods$part])
}

# The last whole period that can be split, and the part after it.
cohorts_finding <- function(s) {
  q <- s$q
  whole <- utils::tail(which(!s$periods$part & s$periods$label != s$cohorts$opens), 1)
  last <- nrow(s$periods)
  if (!length(whole)) whole <- last
  what <- plural_word(spoken(q$each))
  if (s$periods$label[whole] == s$cohorts$opens && s$cohorts$unknown %in% s$cohorts$order)
    return(paste0("The lines begin in ", s$cohorts$opens, ": who is new there cannot be told."))
  brought <- function(i) {
    value <- s$kinds$new$rows[[q$first$name]][i]
    share <- share_of_total(value, s$all$rows[[q$first$name]][i])
    n <- s$kinds$new$rows$.names[i]
    paste0(if (q$first$adds_up && !is.na(share)) paste0(format_number(share, "percent", 1), " of ",
                                                        spoken(q$first$name), ", "),
           said(value, q$first), " from ", plural(n, spoken(q$each)))
  }
  none <- function(i) s$kinds$new$rows$.names[i] == 0
  stay <- if (whole > 1) cohort_stays(s, s$periods$label[whole - 1], s$periods$label[whole])
  if (none(whole) && !(last > whole && s$periods$part[last] && !none(last)))
    return(paste0("No new ", what, " came in ", s$periods$label[whole], stay, "."))
  paste0("New ", what, " brought ", brought(whole), ", in ", s$periods$label[whole],
         if (last > whole && s$periods$part[last])
           paste0(", and ", brought(last), ", in the part of ", s$periods$label[last]), stay, ".")
}

# How many of a cohort bought again in the period after its own.
cohort_stays <- function(s, cohort, after) {
  mine <- s$triangle[s$triangle$cohort == cohort, ]
  if (!nrow(mine)) return(NULL)
  share <- max(mine$names_share[mine$period == after], 0)
  paste0("; ", format_number(share, "percent", 0), " of those new in ", cohort, " bought again in ",
         after)
}

cohorts_reading <- function(s) {
  q <- s$q
  since <- if (!is.null(q$since) && !q$unused_since) paste0(
    "; there before ", s$cohorts$opens, " where ", spoken(q$since), " of the register says so")
  paste0(capital(and_list(vapply(q$metrics, metric_words, ""))), " by ", spoken(q$every),
         ", split by the ", spoken(q$every), " of each ", spoken(q$each), "'s first line ",
         if (q$over == "shown") "of those shown" else "in the book", since, "; ", reading_tail(q))
}

cohorts_notes <- function(s) {
  q <- s$q
  unknown <- any(s$unsplit)
  parts <- s$periods[s$periods$part, ]
  none <- s$kinds$none$whole[[q$first$name]]
  lines <- s$kinds$none$lines
  short <- !q$every %in% c("year", "fiscal_year") && is.null(q$since)
  rbind(note("unknown", if (unknown) paste0(
          "What lies before ", s$cohorts$opens, " is not in the lines: ",
          if (is.null(q$since) || q$unused_since) "names with lines there may be old or new." else
            "names with lines there and no date in the register may be old or new.")),
        note("unknown", if (short) paste0(
          "Names that seem new in the ", plural_word(spoken(sub("fiscal_", "", q$every))),
          " after ", s$cohorts$opens, " may have bought before the book begins.")),
        note("since", if (q$unused_since) paste0(
          spoken(q$since), " of the register is not used: it tells who was there, not who bought ",
          "such lines.")),
        note("since", if (s$late) paste0(
          plural(s$late, "name"), " had a line before the date of ", spoken(q$since),
          " in the register; the line counts.")),
        note("part_period", if (nrow(parts)) paste0(
          and_list(parts$label), if (nrow(parts) == 1) " is" else " are",
          " covered in part: what is new there goes on.")),
        note("part_period", if (q$share_of == "money") paste0(
          "A cohort joins during its first period, so that the next one looks large beside it.")),
        note("none", if (lines) paste0(
          plural(lines, "line"), " without a name", if (q$first$adds_up && !is.na(none))
            paste0(" (", said(none, q$first), ")"), if (lines == 1) " is" else " are",
          " neither new nor existing.")),
        own_column_note(orders_column(q), q, "cohorts"), question_notes(q))
}

cohorts_proof <- function(s) {
  q <- s$q
  plain <- raw_lines(q)
  proof <- prove_question(q, s$all$lines, s$total, s$exact, plain)
  kinds <- names(s$kinds)
  zero <- function(x) if (is.na(x)) 0 else x
  for (m in Filter(function(m) m$adds_up, q$metrics)) {
    parts <- vapply(s$kinds, function(kind) zero(kind$whole[[m$name]]), 0)
    proof <- rbind(proof, proof_line(
      paste0(m$name, " of ", and_list(kinds), " add up to the total"),
      zero(s$total[[m$name]]), sum(parts), s$exact[[m$name]]))
  }
  named <- setdiff(kinds, "none")
  per <- Reduce(`+`, lapply(s$kinds[named], function(kind) kind$rows$.names))
  keep <- pick_both(plain$keep, plain_pick(q$book$source, s$trees$new))
  proof <- rbind(
    proof,
    proof_line(paste0("names of ", and_list(named), " = names of each period, added up"),
               sum(s$all$rows$.names), sum(per)),
    proof_line("names by cohort and period = names of each period, added up",
               sum(s$all$rows$.names), sum(s$triangle$names)))
  if (!q$first$adds_up) return(proof)
  rbind(proof, proof_line(
    paste0(q$first$name, " of new names = the lines added up by a second route"),
    zero(plain_metric(q$book$source, q$first$tree, keep)),
    zero(s$kinds$new$whole[[q$first$name]]), s$exact[[1]]))
}
