# Drill, continued: the table, its sentences, notes and proof.

# "territory Fen, type garden centre"
segment_words <- function(question, names) {
  paste(vapply(names(names), function(field) {
    names <- told_as(question, field, shown_names(names[[field]]))
    paste(spoken(field), and_list(names, 4, "or"))
  }, ""), collapse = ", ")
}

drill_table <- function(question, found) {
  metric <- first_metric(question)
  n <- length(found$leaves)
  as <- function(ending) paste0(metric$name, ending)
  p <- found$parts
  rate <- question$args$rate
  cells <- data.frame(
    segment = c(vapply(found$named, segment_words, "", question = question), "everything else"),
    presence = found$presence,
    before = p$before, now = p$now, change = p$change,
    growth = if (rate) NA_real_ else growth_of(p$now, p$before),
    beyond_growth = p$excess,
    chance = c(found$chance, NA), unusual = c(drill_unusual(question, found), ""),
    condition = c(vapply(found$trees, tree_text, ""), if (n) tree_text(found$rest_tree) else ""))
  names(cells)[3:6] <- c(as("_before"), metric$name, as("_change"), as("_growth"))
  if (rate) cells[[as("_growth")]] <- NULL
  unit <- c(segment = "text", presence = "text", before = metric$unit, now = metric$unit,
            change = change_unit(metric$unit), growth = if (!rate) "percent",
            beyond_growth = change_unit(metric$unit), chance = "percent", unusual = "text",
            condition = "text")
  columns <- new_columns(names(cells), unname(unit), names(cells) != "condition",
                         digits = ifelse(unit %in% c("percent", "points") & rate &
                                           names(unit) != "chance", 2, NA))
  columns$digits[columns$name == "chance"] <- 1
  columns$heading[columns$name == "beyond_growth"] <-
    if (rate) "beyond everything else" else "beyond general growth"
  columns$heading[columns$name == "chance"] <- "probability by chance"
  foot <- cells[NA_integer_, ][1, ]
  foot[c("segment", "presence", "unusual", "condition")] <- list("total", "", "", "")
  foot[[as("_before")]] <- found$then
  foot[[metric$name]] <- found$now
  foot[[as("_change")]] <- exact_change(found$now, found$then)
  if (!rate) foot[[as("_growth")]] <- growth_of(found$now, found$then)
  list(table = cells, columns = columns,
       parts = list(path = drill_path(question, found), others = drill_others_told(question, found),
                    inside = drill_inside_told(question, found), foot = foot))
}

# The next candidates in words.
drill_others_told <- function(question, found) {
  words <- vapply(found$others_named, segment_words, "", question = question)
  data.frame(segment = words, beyond_growth = found$others$excess, chance = found$others$chance)
}

# Who moved most within each segment, with what the names are called.
drill_inside_told <- function(question, found) {
  out <- found$inside
  out$segment <- vapply(found$named[out$leaf], segment_words, "", question = question)
  out$name <- vapply(seq_len(nrow(out)), function(i) {
    told_as(question, out$dimension[i], shown_names(out$name[i]))
  }, "")
  out[c("leaf", "segment", "dimension", "name", "before", "now", "change")]
}

# "beyond doubt", "one such book in 40", "ordinary"
drill_unusual <- function(question, found) {
  vapply(found$chance, function(p) {
    if (p < 1e-3) "beyond doubt" else if (p <= 1 - question$args$confidence)
      paste("one such book in", count_text(floor(1 / p))) else "ordinary"
  }, "")
}

# Whether what segments did is beyond the ordinary.
is_unusual <- function(question, found) found$chance <= 1 - question$args$confidence

# Every leaf condition by condition.
drill_path <- function(question, found) {
  path <- found$paths
  words <- function(i, last) {
    names <- found$named[[path$leaf[i]]][path$dims[[i]]]
    segment_words(question, if (last) names[length(names)] else names)
  }
  at <- seq_len(nrow(path))
  data.frame(leaf = path$leaf, level = path$level, segment = vapply(at, words, "", last = FALSE),
             name = vapply(at, words, "", last = TRUE), before = path$before, now = path$now,
             change = path$now - path$before)
}

drill_settings <- function(question, found) {
  args <- question$args
  question_settings(question, by = args$by, not_by = args$not_by, path = args$path,
                    depth = args$depth, max_segments = args$max_segments,
                    confidence = args$confidence, min_impact = args$min_impact,
                    least = if (!args$rate) found$least, then = found$then, now = found$now,
                    rest_growth = if (args$rate) found$growth else found$growth - 1,
                    uniform = found$uniform)
}

# What is in no segment: "grew by 3.5 %", of a rate "brought +0.4 points".
rest_words <- function(question, found) {
  if (question$args$rate) {
    brought <- found$parts$change[nrow(found$parts)]
    return(if (round(brought, 6) == 0) "brought nothing" else
      paste("brought", said_change(brought, first_metric(question))))
  }
  x <- found$growth - 1
  if (round(abs(x), 5) == 0) return("stayed as it was")
  paste(if (x < 0) "fell by" else "grew by", format_number(abs(x), "percent"))
}

drill_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  head <- change_sentence(question, found)
  n <- length(found$leaves)
  if (!n) return(new_finding(compared = TRUE, paste0(
    head, ": no segment moved by ", if (args$rate) paste0(
      rate_least(question, found), " beyond everything else.") else paste0(
        format_number(args$min_impact, "percent"), " of the total beyond the general growth."))))
  unusual <- is_unusual(question, found)
  shown <- first_few(if (any(unusual)) which(unusual) else seq_len(n), 2)
  text <- vapply(shown, function(i) segment_told(question, found, i), "")
  more <- n - length(shown)
  new_finding(compared = TRUE, paste0(
    head, ": ", paste(text, collapse = ", "), if (more) paste0("; ", count_text(more), " more"),
    if (!any(unusual)) "; changes of this size are usual in this book", "."))
}

# The smallest excess of a rate that counts: "0.03 points".
rate_least <- function(question, found) {
  unit <- change_unit(first_metric(question)$unit)
  shown <- found$search$least * if (unit == "points") 100 else 1
  format_number(found$search$least, unit, min(6, max(2, ceiling(-log10(shown)))))
}

# "item Wrenfield double-wall hive (HV-018) +84,763 (new)"
segment_told <- function(question, found, i) {
  p <- found$parts[i, ]
  presence <- found$presence[i]
  paste0(segment_words(question, found$named[[i]]), " ",
         said_change(p$change, first_metric(question)),
         if (!question$args$rate && presence != "stayed") paste0(" (", presence, ")"))
}

# A few sentences for the manager, a note each.
drill_story <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  text <- vapply(seq_along(found$leaves), function(i) {
    p <- found$parts[i, ]
    name <- capital(segment_words(question, found$named[[i]]))
    if (!found$leaves[[i]]$all) name <- paste0(name, " (without lines of the other segments)")
    moved <- if (args$rate) paste0(
      if (is.na(p$before)) " is new" else if (is.na(p$now)) " is gone" else paste0(
        " went from ", said(p$before, metric), " to ", said(p$now, metric)),
      " and by rate and mix brought ", said_change(p$change, metric), " to the whole") else
        if (p$before == 0) paste0(" is ", found$presence[i], ", with ", said(p$now, metric)) else
          if (p$now == 0) paste0(" is ", found$presence[i], "; it had ", said(p$before, metric)) else
            paste0(
            if (p$change < 0) " fell from " else " rose from ", said(p$before, metric), " to ",
            said(p$now, metric), " (", said_change(p$change, metric), ")")
    own <- if (args$rate) paste0(", ", said_change(p$excess, metric),
                                 " of it beyond what all else did") else
      if (p$before != 0 && p$now != 0) paste0(
        ", ", said_change(p$excess, metric, FALSE), if (p$excess < 0) " below" else " above",
        " what the general growth would have made it")
    paste0(name, moved, own, "; ", chance_told(question, found, i), ".")
  }, "")
  rest <- found$parts[nrow(found$parts), ]
  span <- if (!is.na(rest$before) && !is.na(rest$now))
    paste0(" went from ", said(rest$before, metric), " to ", said(rest$now, metric))
  c(text, paste0("Everything else", span, if (args$rate) paste0(if (!is.null(span)) " and", " ",
    rest_words(question, found), if (rest$change != 0) " to the whole") else paste0(
      " (", said_change(rest$change, metric), "): it ", rest_words(question, found)), "."))
}

chance_told <- function(question, found, i) {
  p <- found$chance[i]
  few <- found$customers[i]
  share <- if (p < 1e-3) "below 0.1 %" else if (p > .99) "above 99 %" else
    format_number(p, "percent", if (p < .1) 1 else 0)
  paste0(if (p <= 1 - question$args$confidence) "unusual" else
    "changes of this size are usual in this book", ", probability by chance ", share,
    if (isTRUE(few < 10)) paste0(" (it rests on ", plural(few, "customer"), ")"))
}

drill_reading <- function(question, found) {
  args <- question$args
  how <- if (!is.null(args$path)) paste("along", and_list(spoken(args$path), last = "then")) else
    paste0("by segments of up to ", plural(args$depth, "condition"), " in ",
           plural(length(setdiff(args$by, found$split)), "dimension"))
  paste0(capital(metric_words(first_metric(question))), " ", how, ", each at least ",
         if (args$rate) paste(rate_least(question, found), "beyond what all else did") else
           paste(format_number(args$min_impact, "percent"),
                 "of the total beyond the growth of all others"),
         "; unusual: a probability by chance of at most ",
         format_number(1 - args$confidence, "percent"), "; ",
         reading_tail(question))
}

# The next candidates, what could have been found, and who is inside.
drill_further <- function(question, found) {
  metric <- first_metric(question)
  rate <- question$args$rate
  others <- utils::head(drill_others_told(question, found), 3)
  inside <- found$inside
  who <- vapply(seq_along(found$leaves), function(i) {
    mine <- inside[inside$leaf == i, ]
    if (!nrow(mine)) return("")
    mine <- mine[order(-abs(mine$change)), ]
    mine <- utils::head(mine[!duplicated(mine$dimension), ], 3)
    told <- vapply(seq_len(nrow(mine)), function(k) {
      paste(spoken(mine$dimension[k]),
            told_as(question, mine$dimension[k], shown_names(mine$name[k])),
            said_change(mine$change[k], metric))
    }, "")
    paste0("Most within ", segment_words(question, found$named[[i]]), ": ", and_list(told), ".")
  }, "")
  rbind(note("inside", who[nzchar(who)]),
        note("others", if (nrow(others)) paste0("Next to these: ", and_list(paste(
          others$segment, said_change(others$beyond_growth, metric))),
          if (rate) " beyond everything else." else " beyond the general growth.")),
        note("power", if (!rate) paste0(
          "A segment with a twentieth of the money had to move by some ",
          said(signif(found$least, 2), metric), " beyond the general growth to be unusual here.")))
}

drill_notes <- function(question, found) {
  args <- question$args
  n <- length(found$leaves)
  metric <- first_metric(question)
  excess <- found$parts$excess[seq_along(found$leaves)]
  gains <- sum(excess[excess > 0])
  losses <- -sum(excess[excess < 0])
  part <- if (!question$args$rate) sum(found$parts$before[seq_along(found$leaves)]) /
    found$then else 0
  cancel <- gains > 0 && losses > 0 && abs(gains - losses) < .25 * (gains + losses)
  rbind(note("story", drill_story(question, found)), drill_further(question, found),
        note("cancel", if (cancel) paste0(
          "Segments above and below nearly make each other up: ", said_change(gains, metric),
          " and ", said_change(-losses, metric), "; the total alone does not show them.")),
        note("half", if (part > .5) paste0(
          "The segments held more than half of the total then, so which side is 'everything else' ",
          "is a matter of convention.")),
        note("judged", if (!args$rate && n) paste0(
          "Judged by the segments' ", plural_word(order_word(question$book)), " ",
          if (found$laid$beyond) "in all other periods" else "then",
          if (found$laid$pairs) paste(" and by", plural(found$laid$pairs, "earlier pair"),
                                      "of such periods"), ", in ",
          and_list(spoken(setdiff(args$by, found$split)), 12), ".")),
        note("split", if (length(found$split)) paste0(
          capital(and_list(spoken(found$split))), " could not be looked at: one ",
          order_word(question$book), " may have several of their names.")),
        note("associated", if (length(found$leaves)) paste0(
          "A segment tells where the change is, not why; what happened there is for those who ",
          "know it.")),
        question_notes(question))
}

drill_proof <- function(question, found) {
  metric <- first_metric(question)
  source <- question$book$source
  plain <- raw_lines(question)
  plain_before <- raw_lines(question, question$asked$period_before)
  proof <- rbind(
    prove_two_periods(question, found, plain, plain_before),
    proof_line("growth of everything else over the whole + all excesses = the change",
               found$now - found$then, found$uniform + sum(found$parts$excess), FALSE))
  if (!question$args$rate) proof <- rbind(
    proof, proof_line("segments and everything else now = now", found$now, sum(found$parts$now),
                      found$exact),
    proof_line("segments and everything else then = then", found$then, sum(found$parts$before),
               found$exact))
  left <- NULL
  inside <- vector("list", length(found$leaves))
  # A line belongs to the segment that was found first among those it fits.
  for (i in order(found$turn)) {
    fits <- second_pick(source, found$conditions[[i]])
    inside[[i]] <- pick_both(left, fits)
    left <- pick_both(left, pick_not(fits))
  }
  for (i in seq_along(found$leaves)) {
    for (side in c("before", "now")) {
      keep <- (if (side == "now") plain else plain_before)$keep
      value <- second_metric(source, metric$tree, pick_both(keep, inside[[i]]))
      proof <- rbind(proof, proof_line(
        paste0(segment_words(question, found$named[[i]]), if (side == "now") " now" else " then",
               " = its lines added up by a second route"), value_or_zero(value, metric),
        found$parts[[side]][i],
        found$exact))
    }
  }
  proof
}

drill_behind <- function(question, found) list(rows = c(found$trees, list(found$rest_tree)))
