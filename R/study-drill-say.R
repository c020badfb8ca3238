# Drill, continued: the table, its sentences, notes and proof.

# "territory Fen, type garden centre"
segment_words <- function(question, names) {
  paste(vapply(names(names), function(field) {
    paste(spoken(field), and_list(told_as(question, field, names[[field]]), 4, "or"))
  }, ""), collapse = ", ")
}

drill_table <- function(question, found) {
  metric <- first_metric(question)
  n <- length(found$leaves)
  as <- function(ending) paste0(metric$name, ending)
  presence <- function(before, now) {
    ifelse(before == 0 & now != 0, "new", ifelse(now == 0 & before != 0, "gone", "stayed"))
  }
  p <- found$parts
  rate <- question$args$rate
  cells <- data.frame(
    segment = c(vapply(found$named, segment_words, "", question = question), "everything else"),
    presence = if (rate) ifelse(is.na(p$before), "new", ifelse(is.na(p$now), "gone", "stayed")) else
      presence(p$before, p$now),
    before = p$before, now = p$now, change = p$change,
    growth = if (rate) NA_real_ else growth_of(p$now, p$before), excess = p$excess,
    chance = c(drill_chance(found), NA),
    condition = c(vapply(found$trees, tree_text, ""), if (n) tree_text(found$rest_tree) else ""))
  names(cells)[3:6] <- c(as("_before"), metric$name, as("_change"), as("_growth"))
  if (rate) cells[[as("_growth")]] <- NULL
  unit <- c(segment = "text", presence = "text", before = metric$unit, now = metric$unit,
            change = change_unit(metric$unit), growth = if (!rate) "percent",
            excess = change_unit(metric$unit), chance = "percent", condition = "text")
  columns <- new_columns(names(cells), unname(unit), names(cells) != "condition",
                         digits = ifelse(unit %in% c("percent", "points") & rate &
                                           names(unit) != "chance", 2, NA))
  columns$digits[columns$name == "chance"] <- 3
  foot <- cells[NA_integer_, ][1, ]
  foot[c("segment", "presence", "condition")] <- list("total", "", "")
  foot[[as("_before")]] <- found$then
  foot[[metric$name]] <- found$now
  foot[[as("_change")]] <- exact_change(found$now, found$then)
  if (!rate) foot[[as("_growth")]] <- growth_of(found$now, found$then)
  list(table = cells, columns = columns,
       parts = list(path = drill_path(question, found), foot = foot))
}

# At most how likely noise alone is to lift any segment so high.
drill_chance <- function(found) vapply(found$leaves, function(l) min(1, exp(-l$score)), 0)

# Every leaf condition by condition, those it shares with other leaves first.
drill_path <- function(question, found) {
  rows <- lapply(seq_along(found$leaves), function(i) {
    leaf <- found$leaves[[i]]
    shared <- vapply(leaf$dims, function(v) {
      sum(vapply(found$leaves, function(l) setequal(l$codes[[v]], leaf$codes[[v]]), NA))
    }, 0)
    order <- order(-shared, seq_along(leaf$dims))
    do.call(rbind, lapply(seq_along(order), function(k) {
      dims <- leaf$dims[order[seq_len(k)]]
      mine <- NULL
      for (v in dims) mine <- rows_with(found$search, mine, v, leaf$codes[[v]])
      amount <- drill_amounts(found$search, mine) / 10^found$laid$decimals
      names <- leaf_names(found, list(dims = dims, codes = leaf$codes))
      data.frame(leaf = i, level = k, segment = segment_words(question, names),
                 name = segment_words(question, names[k]), before = amount[["a"]],
                 now = amount[["b"]],
                 change = amount[["b"]] - amount[["a"]])
    }))
  })
  out <- do.call(rbind, rows)
  out %||% data.frame(leaf = integer(), level = integer(), segment = character(),
                      name = character(), before = numeric(), now = numeric(), change = numeric())
}

rows_with <- function(search, rows, dim, codes) {
  found <- lapply(codes, function(code) {
    kernel_segment_rows(search$lines, rows, match(dim, search$names), code, FALSE)
  })
  if (length(found) == 1) found[[1]] else sort(unlist(found))
}

drill_settings <- function(question, found) {
  args <- question$args
  question_settings(question, dims = args$dims, barred = args$barred, path = args$path,
                    depth = args$depth, most = args$most, sure = args$sure,
                    material = args$material, then = found$then, now = found$now,
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
  metric <- first_metric(question)
  head <- change_sentence(question, found)
  if (!length(found$leaves))
    return(new_finding(paste0(head, ": no segment stands out from the whole."), compared = TRUE))
  shown <- utils::head(seq_along(found$leaves), 2)
  text <- vapply(shown, function(i) {
    paste(segment_words(question, found$named[[i]]), said_change(found$parts$excess[i], metric))
  }, "")
  more <- length(found$leaves) - length(shown)
  new_finding(compared = TRUE, paste0(
    head, ": ", paste(text, collapse = "; "), if (more) paste0("; ", count_text(more), " more"),
    ", beyond everything else, which ", rest_words(question, found), "."))
}

# A few sentences for the manager, a note each.
drill_story <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  if (!length(found$leaves)) return(paste0(
    "No segment of ", and_list(spoken(args$dims), 12),
    " moved otherwise than the whole by more than noise explains."))
  text <- vapply(seq_along(found$leaves), function(i) {
    p <- found$parts[i, ]
    chance <- exp(-found$leaves[[i]]$score)
    trust <- if (chance < 1e-4) "beyond doubt by the noise of the book" else
      paste0("noise alone does as much at most ", if (chance < 1e-3) "once in 1,000 such books" else
        paste(format_number(chance, "percent"), "of the time"))
    name <- capital(segment_words(question, found$named[[i]]))
    if (!found$leaves[[i]]$all) name <- paste0(name, " (without the segments above)")
    moved <- if (args$rate) paste0(
      if (is.na(p$before)) " is new" else if (is.na(p$now)) " is gone" else paste0(
        " went from ", said(p$before, metric), " to ", said(p$now, metric)),
      " and by rate and mix brought ", said_change(p$change, metric), " to the whole") else
        if (p$before == 0) paste0(" is new, with ", said(p$now, metric)) else if (p$now == 0)
          paste0(" is gone; it had ", said(p$before, metric)) else paste0(
            if (p$change < 0) " fell from " else " rose from ", said(p$before, metric), " to ",
            said(p$now, metric), " (", said_change(p$change, metric), ")")
    own <- if (args$rate) paste0(", of which ", said_change(p$excess, metric), " is its own") else
      if (p$before != 0) paste0("; at the growth of everything else it would have been ",
                                said(p$now - p$excess, metric), ", so ",
                                said_change(p$excess, metric), " is its own")
    paste0(name, moved, own, "; ", trust, ".")
  }, "")
  rest <- found$parts[nrow(found$parts), ]
  span <- if (!is.na(rest$before) && !is.na(rest$now))
    paste0(" went from ", said(rest$before, metric), " to ", said(rest$now, metric))
  c(text, paste0("Everything else", span, if (args$rate) paste0(if (!is.null(span)) " and", " ",
    rest_words(question, found), if (rest$change != 0) " to the whole") else paste0(
      " (", said_change(rest$change, metric), "): it ", rest_words(question, found)), "."))
}

drill_reading <- function(question, found) {
  args <- question$args
  how <- if (!is.null(args$path)) paste("along", and_list(spoken(args$path), last = "then")) else
    paste0("by segments of up to ", plural(args$depth, "condition"), " in ",
           and_list(spoken(args$dims), 12))
  paste0(capital(metric_words(first_metric(question))), " ", how,
         ", named when noise alone would do so at most ", format_number(1 - args$sure, "percent"),
         " of the time and the excess is at least ", format_number(args$material, "percent"),
         " of the total; ", reading_tail(question))
}

drill_notes <- function(question, found) {
  metric <- first_metric(question)
  excess <- found$parts$excess[seq_along(found$leaves)]
  gains <- sum(excess[excess > 0])
  losses <- -sum(excess[excess < 0])
  part <- if (!question$args$rate) sum(found$parts$before[seq_along(found$leaves)]) /
    found$then else 0
  cancel <- gains > 0 && losses > 0 && abs(gains - losses) < .25 * (gains + losses)
  rbind(note("story", drill_story(question, found)),
        note("cancel", if (cancel) paste0(
          "Segments above and below nearly make each other up: ", said_change(gains, metric),
          " and ", said_change(-losses, metric), "; the total alone does not show them.")),
        note("half", if (part > .5) paste0(
          "The segments held more than half of the total then, so which side is 'everything else' ",
          "is a matter of convention.")),
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
  taken <- NULL
  for (i in seq_along(found$leaves)) {
    # A line belongs to the first segment that it fits.
    fits <- second_pick(source, found$conditions[[i]])
    inside <- if (is.null(taken)) fits else pick_both(fits, pick_not(taken))
    taken <- if (is.null(taken)) fits else pick_not(pick_both(pick_not(taken), pick_not(fits)))
    for (side in c("before", "now")) {
      keep <- (if (side == "now") plain else plain_before)$keep
      value <- value_or_zero(second_metric(source, metric$tree, pick_both(keep, inside)), metric)
      proof <- rbind(proof, proof_line(
        paste0(segment_words(question, found$named[[i]]), if (side == "now") " now" else " then",
               " = its lines added up by a second route"), value, found$parts[[side]][i],
        found$exact))
    }
  }
  proof
}

drill_behind <- function(question, found) list(rows = c(found$trees, list(found$rest_tree)))
