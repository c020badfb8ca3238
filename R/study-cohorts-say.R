# Cohorts, continued: the tables, their sentences, notes and proof.

cohorts_table <- function(question, found) {
  kinds <- setdiff(names(found$kinds), "none")
  cells <- list(period = found$periods$label)
  columns <- new_columns("period", "text")
  foot <- list(period = "total")
  whole <- function(of, name) of$whole[[name]]
  add <- function(name, unit, values, total = NA, digits = NA) {
    cells[[name]] <<- values
    foot[[name]] <<- total
    columns <<- rbind(columns, new_columns(name, unit, digits = digits))
  }
  # In the period that cannot be split nothing is called new, and nothing existing.
  unsplit <- found$unsplit & !any(question$args$cohorts$order == question$args$cohorts$before)
  blank <- function(v, kind) if (kind == "unknown") v else replace(v, unsplit, NA)
  # Nor is there a share of new ones where it is not known of all whether they are.
  known <- function(share) replace(share, found$unsplit & found$kinds$unknown$lines > 0, NA)
  for (m in question$metrics) {
    add(m$name, m$unit, in_unit(found$all$rows[[m$name]], m), in_unit(whole(found$all, m$name), m))
    for (kind in kinds)
      add(paste0(m$name, "_", kind), m$unit,
          in_unit(blank(found$kinds[[kind]]$rows[[m$name]], kind), m),
          in_unit(whole(found$kinds[[kind]], m$name), m))
    if (m$name == first_metric(question)$name && m$adds_up)
      add("new_share", "percent", known(share_of_total(cells[[paste0(m$name, "_new")]],
                                                       as.numeric(cells[[m$name]]))), digits = 1)
  }
  for (count in names(question$args$extra)) {
    name <- own_column(substring(count, 2), question, "cohorts")
    add(name, "count", found$all$rows[[count]], whole(found$all, count))
    add(paste0(name, "_new"), "count", blank(found$kinds$new$rows[[count]], "new"),
        whole(found$kinds$new, count))
  }
  if (any(found$periods$part)) {
    cells$part <- ifelse(found$periods$part, "part", "")
    foot$part <- ""
    columns <- rbind(columns, new_columns("part", "text"))
  }
  wide <- retention_table(question, found)
  list(table = as.data.frame(cells, optional = TRUE), columns = columns,
       parts = list(triangle = found$triangle, retention = wide$table,
                    foot = as.data.frame(foot, optional = TRUE)),
       further = list(retention = wide$columns))
}

share_of_total <- function(part, whole) ifelse(!is.na(whole) & whole > 0, part / whole, NA)

# Cohorts by periods: the share of its names, or of its first period's money.
retention_table <- function(question, found) {
  t <- found$triangle
  value <- if (question$args$share_of == "money") t$metric_share else t$names_share
  cohorts <- unique(t$cohort)
  cells <- list(cohort = cohorts, size = t$size[match(cohorts, t$cohort)])
  for (period in found$periods$label)
    cells[[period]] <- value[match(paste(cohorts, period, recycle0 = TRUE),
                                 paste(t$cohort, t$period, recycle0 = TRUE))]
  list(table = as.data.frame(cells, optional = TRUE),
       columns = new_columns(names(cells), c("text", "count", rep("percent", nrow(found$periods))),
                             digits = c(NA, NA, rep(0, nrow(found$periods)))))
}

cohorts_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, every = args$every, over = args$over,
                    share_of = args$share_of, since = if (!args$unused_since) args$since,
                    opens = args$cohorts$opens, parts = found$periods$label[found$periods$part])
}

# The last whole period that can be split, and the part after it.
cohorts_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  cohorts <- args$cohorts
  periods <- found$periods
  whole <- utils::tail(which(!periods$part & periods$label != cohorts$opens), 1)
  last <- nrow(found$periods)
  if (!length(whole)) whole <- last
  what <- plural_word(noun_of(question, args$each))
  # Where the period asked for is the one told of, once is enough.
  dated <- identical(question$asked$now$text, periods$label[whole])
  finding <- function(...) new_finding(paste0(...), dated = dated)
  if (periods$label[whole] == cohorts$opens && cohorts$unknown %in% cohorts$order)
    return(finding("The lines begin in ", cohorts$opens, ": who is new there cannot be told."))
  brought <- function(i, counted, of) {
    value <- found$kinds$new$rows[[metric$name]][i]
    share <- share_of_total(value, found$all$rows[[metric$name]][i])
    n <- found$kinds$new$rows$.names[i]
    paste0(counted(n), " brought ", said(value, metric), if (metric$adds_up && !is.na(share))
      paste0(" (", format_number(share, "percent", 1), of, ")") else if (!metric$adds_up)
        paste0(" ", spoken(metric$name)))
  }
  none <- function(i) found$kinds$new$rows$.names[i] == 0
  stay <- if (whole > 1) cohort_stays(found, found$periods$label[whole - 1],
                                      found$periods$label[whole])
  if (none(whole) && !(last > whole && found$periods$part[last] && !none(last)))
    return(finding("No new ", what, " came in ", found$periods$label[whole], stay, "."))
  new <- function(n) sub(" ", " new ", plural(n, noun_of(question, args$each)), fixed = TRUE)
  finding("In ", found$periods$label[whole], ", ",
         brought(whole, new, paste(" of", spoken(metric$name))),
         if (last > whole && found$periods$part[last])
           paste0("; in ", found$periods$label[last], " to ",
                  day_of_year(as_day(found$periods$last[last])), ", ",
                  brought(last, count_text, "")), stay, ".")
}

# How many of a cohort bought again in the period after its own.
cohort_stays <- function(found, cohort, after) {
  mine <- found$triangle[found$triangle$cohort == cohort, ]
  if (!nrow(mine)) return(NULL)
  there <- mine$period == after
  share <- max(mine$names_share[there], 0)
  away <- max(mine$names_elsewhere[there] / mine$size[there], 0)
  paste0("; ", format_number(share, "percent", 0), " of those new in ", cohort, " bought again in ",
         after, if (away > 0) paste0(", ", format_number(away, "percent", 0),
                                     " more only elsewhere in the book"))
}

cohorts_reading <- function(question, found) {
  args <- question$args
  since <- if (!is.null(args$since) && !args$unused_since) paste0(
    "; there before ", args$cohorts$opens, " where ", spoken(args$since),
    " of the register says so")
  paste0(capital(and_list(vapply(question$metrics, metric_words, ""))), " by ", spoken(args$every),
         ", split by the ", spoken(args$every), " of each ", spoken(args$each), "'s first line ",
         if (args$over == "shown") "of those shown" else "in the book", since, "; ",
         reading_tail(question))
}

cohorts_notes <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  unknown <- any(found$unsplit)
  parts <- found$periods[found$periods$part, ]
  what <- plural_word(noun_of(question, args$each))
  none <- found$kinds$none$whole[[metric$name]]
  lines <- found$kinds$none$lines
  short <- !args$every %in% c("year", "fiscal_year") && is.null(args$since)
  rbind(note("unknown", if (unknown) paste0(
          "What lies before ", question$args$cohorts$opens, " is not in the lines: ",
          if (is.null(args$since) ||
              args$unused_since) paste(what, "with lines there may be old or new.") else
            paste(what, "with lines there and no date in the register may be old or new."))),
        note("unknown", if (short) paste0(
          capital(what), " that seem new in the ",
          plural_word(spoken(sub("fiscal_", "", args$every))),
          " after ", question$args$cohorts$opens, " may have bought before the book begins.")),
        note("since", if (args$unused_since) paste0(
          spoken(args$since), " of the register is not used: it tells who was there, not who ",
          "bought such lines.")),
        note("since", if (question$args$late) paste0(
          plural(question$args$late, each_word(question)), " had a line before the date of ",
          spoken(args$since),
          " in the register; the line counts.")),
        note("part_period", if (nrow(parts)) paste0(
          and_list(parts$label), verb(nrow(parts), " is"),
          " covered in part: what is new there goes on.")),
        note("part_period", if (args$share_of == "money") paste0(
          "A cohort joins during its first period, so that the next one looks large beside it.")),
        note("none", if (lines) paste0(
          plural(lines, "line"), " without a name", if (metric$adds_up && !is.na(none))
            paste0(" (", said(none, metric), ")"), verb(lines, " is"),
          " neither new nor existing.")),
        own_column_note(orders_column(question), question, "cohorts"), question_notes(question))
}

cohorts_proof <- function(question, found) {
  metric <- first_metric(question)
  plain <- raw_lines(question)
  proof <- prove_question(question, found$all$lines, found$total, found$exact, plain)
  kinds <- names(found$kinds)
  zero <- function(x) if (is.na(x)) 0 else x
  for (m in Filter(function(m) m$adds_up, question$metrics)) {
    parts <- vapply(found$kinds, function(kind) zero(kind$whole[[m$name]]), 0)
    proof <- rbind(proof, proof_line(
      paste0(m$name, " of ", and_list(kinds), " add up to the total"),
      zero(found$total[[m$name]]), sum(parts), found$exact[[m$name]]))
  }
  named <- setdiff(kinds, "none")
  per <- Reduce(`+`, lapply(found$kinds[named], function(kind) kind$rows$.names))
  keep <- pick_both(plain$keep, second_pick(question$book$source, found$trees$new))
  proof <- rbind(
    proof,
    proof_line(paste0("names of ", and_list(named), " = names of each period, added up"),
               sum(found$all$rows$.names), sum(per)),
    proof_line("names by cohort and period = names of each period, added up",
               sum(found$all$rows$.names), sum(found$triangle$names)))
  if (!metric$adds_up) return(proof)
  rbind(proof, proof_line(
    paste0(metric$name, " of new names = the lines added up by a second route"),
    zero(second_metric(question$book$source, metric$tree, keep)),
    zero(found$kinds$new$whole[[metric$name]]), found$exact[[1]]))
}

cohorts_behind <- function(question, found) {
  list(keys = c(period = question$args$period), book = without_cohorts(question$book))
}
