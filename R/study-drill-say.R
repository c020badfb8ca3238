# Drill, continued: the table, its sentences, notes and proof.

# "territory Fen, type garden centre"
segment_words <- function(names) {
  paste(vapply(names(names), function(field) {
    paste(spoken(field), and_list(one_line(names[[field]]), 4, "or"))
  }, ""), collapse = ", ")
}

drill_table <- function(s) {
  q <- s$q
  m <- q$first
  n <- length(s$leaves)
  as <- function(ending) paste0(m$name, ending)
  presence <- function(before, now) {
    ifelse(before == 0 & now != 0, "new", ifelse(now == 0 & before != 0, "gone", "stayed"))
  }
  p <- s$parts
  rate <- q$rate
  cells <- data.frame(
    segment = c(vapply(s$named, segment_words, ""), "everything else"),
    presence = if (rate) ifelse(is.na(p$before), "new", ifelse(is.na(p$now), "gone", "stayed")) else
      presence(p$before, p$now),
    before = p$before, now = p$now, change = p$change,
    growth = if (rate) NA_real_ else growth_of(p$now, p$before), excess = p$excess,
    chance = c(drill_chance(s), NA),
    condition = c(vapply(s$trees, tree_text, ""), if (n) tree_text(s$rest_tree) else ""))
  names(cells)[3:6] <- c(as("_before"), m$name, as("_change"), as("_growth"))
  if (rate) cells[[as("_growth")]] <- NULL
  unit <- c(segment = "text", presence = "text", before = m$unit, now = m$unit,
            change = change_unit(m$unit), growth = if (!rate) "percent",
            excess = change_unit(m$unit), chance = "percent", condition = "text")
  columns <- new_columns(names(cells), unname(unit), names(cells) != "condition",
                         digits = ifelse(unit %in% c("percent", "points") & rate &
                                           names(unit) != "chance", 2, NA))
  columns$digits[columns$name == "chance"] <- 3
  foot <- cells[NA_integer_, ][1, ]
  foot[c("segment", "presence", "condition")] <- list("total", "", "")
  foot[[as("_before")]] <- s$then
  foot[[m$name]] <- s$now
  foot[[as("_change")]] <- exact_change(s$now, s$then)
  if (!rate) foot[[as("_growth")]] <- growth_of(s$now, s$then)
  list(table = cells, columns = columns, foot = foot)
}

# At most how likely noise alone is to lift any segment so high.
drill_chance <- function(s) vapply(s$leaves, function(l) min(1, exp(-l$score)), 0)

# Every leaf condition by condition, those it shares with other leaves first.
drill_path <- function(s) {
  rows <- lapply(seq_along(s$leaves), function(i) {
    leaf <- s$leaves[[i]]
    shared <- vapply(leaf$dims, function(v) {
      sum(vapply(s$leaves, function(l) setequal(l$codes[[v]], leaf$codes[[v]]), NA))
    }, 0)
    order <- order(-shared, seq_along(leaf$dims))
    do.call(rbind, lapply(seq_along(order), function(k) {
      dims <- leaf$dims[order[seq_len(k)]]
      mine <- NULL
      for (v in dims) mine <- rows_with(s$search, mine, v, leaf$codes[[v]])
      amount <- drill_amounts(s$search, mine) / 10^s$laid$places
      names <- leaf_names(s, list(dims = dims, codes = leaf$codes))
      data.frame(leaf = i, level = k, segment = segment_words(names),
                 name = segment_words(names[k]), before = amount[["a"]], now = amount[["b"]],
                 change = amount[["b"]] - amount[["a"]])
    }))
  })
  out <- do.call(rbind, rows)
  out %||% data.frame(leaf = integer(), level = integer(), segment = character(),
                      name = character(), before = numeric(), now = numeric(), change = numeric())
}

rows_with <- function(d, rows, dim, codes) {
  found <- lapply(codes, function(code) {
    kernel_segment_rows(d$lines, rows, match(dim, d$names), code, FALSE)
  })
  if (length(found) == 1) found[[1]] else sort(unlist(found))
}

drill_settings <- function(s) {
  q <- s$q
  question_settings(q, dims = q$dims, barred = q$barred, path = q$path, depth = q$depth,
                    most = q$most, sure = q$sure, material = q$material, then = s$then,
                    now = s$now, rest_growth = if (q$rate) s$growth else s$growth - 1,
                    uniform = s$uniform)
}

# What is in no segment: "grew by 3.5 %", of a rate "brought +0.4 points".
rest_words <- function(s) {
  if (s$q$rate) {
    brought <- s$parts$change[nrow(s$parts)]
    return(if (round(brought, 6) == 0) "brought nothing" else
      paste("brought", said_change(brought, s$q$first)))
  }
  x <- s$growth - 1
  if (round(abs(x), 5) == 0) return("stayed as it was")
  paste(if (x < 0) "fell by" else "grew by", format_number(abs(x), "percent"))
}

drill_finding <- function(s) {
  q <- s$q
  m <- q$first
  head <- change_sentence(s)
  if (!length(s$leaves))
    return(paste0(head, ": no segment stands out from the whole."))
  shown <- utils::head(seq_along(s$leaves), 2)
  text <- vapply(shown, function(i) {
    paste0(segment_words(s$named[[i]]), " ", said_change(s$parts$excess[i], m))
  }, "")
  more <- length(s$leaves) - length(shown)
  paste0(head, ": ", paste(text, collapse = "; "), if (more) paste0(
    "; ", count_text(more), " more"), ", beyond everything else, which ", rest_words(s), ".")
}

# A few sentences for the manager, a note each.
drill_story <- function(s) {
  q <- s$q
  m <- q$first
  if (!length(s$leaves)) return(paste0(
    "No segment of ", and_list(spoken(q$dims), 12), " moved otherwise than the whole by more than ",
    "noise explains."))
  text <- vapply(seq_along(s$leaves), function(i) {
    p <- s$parts[i, ]
    chance <- exp(-s$leaves[[i]]$score)
    trust <- if (chance < 1e-4) "beyond doubt by the noise of the book" else
      paste0("noise alone does as much at most ", if (chance < 1e-3) "once in 1,000 such books" else
        paste(format_number(chance, "percent"), "of the time"))
    name <- capital(segment_words(s$named[[i]]))
    if (!s$leaves[[i]]$all) name <- paste0(name, " (without the segments above)")
    moved <- if (q$rate) paste0(
      if (is.na(p$before)) " is new" else if (is.na(p$now)) " is gone" else paste0(
        " went from ", said(p$before, m), " to ", said(p$now, m)),
      " and by rate and mix brought ", said_change(p$change, m), " to the whole") else
        if (p$before == 0) paste0(" is new, with ", said(p$now, m)) else if (p$now == 0)
          paste0(" is gone; it had ", said(p$before, m)) else paste0(
            if (p$change < 0) " fell from " else " rose from ", said(p$before, m), " to ",
            said(p$now, m), " (", said_change(p$change, m), ")")
    own <- if (q$rate) paste0(", of which ", said_change(p$excess, m), " is its own") else
      if (p$before != 0) paste0("; at the growth of everything else it would have been ",
                                said(p$now - p$excess, m), ", so ", said_change(p$excess, m),
                                " is its own")
    paste0(name, moved, own, "; ", trust, ".")
  }, "")
  rest <- s$parts[nrow(s$parts), ]
  span <- if (!is.na(rest$before) && !is.na(rest$now))
    paste0(" went from ", said(rest$before, m), " to ", said(rest$now, m))
  c(text, paste0("Everything else", span, if (q$rate) paste0(if (!is.null(span)) " and", " ",
    rest_words(s), if (rest$change != 0) " to the whole") else paste0(
      " (", said_change(rest$change, m), "): it ", rest_words(s)), "."))
}

drill_reading <- function(s) {
  q <- s$q
  how <- if (!is.null(q$path)) paste("along", and_list(spoken(q$path), last = "then")) else
    paste0("by segments of up to ", plural(q$depth, "condition"), " in ",
           and_list(spoken(q$dims), 12))
  paste0(capital(metric_words(q$first)), " ", how, ", named when noise alone would do so at most ",
         format_number(1 - q$sure, "percent"), " of the time and the excess is at least ",
         format_number(q$material, "percent"), " of the total; ", reading_tail(q))
}

drill_notes <- function(s) {
  q <- s$q
  m <- q$first
  excess <- s$parts$excess[seq_along(s$leaves)]
  gains <- sum(excess[excess > 0])
  losses <- -sum(excess[excess < 0])
  part <- if (!q$rate) sum(s$parts$before[seq_along(s$leaves)]) / s$then else 0
  cancel <- gains > 0 && losses > 0 && abs(gains - losses) < .25 * (gains + losses)
  rbind(note("story", drill_story(s)),
        note("cancel", if (cancel) paste0(
          "Segments above and below nearly make each other up: ", said_change(gains, m), " and ",
          said_change(-losses, m), "; the total alone does not show them.")),
        note("half", if (part > .5) paste0(
          "The segments held more than half of the total then, so which side is 'everything else' ",
          "is a matter of convention.")),
        note("associated", if (length(s$leaves)) paste0(
          "A segment tells where the change is, not why; what happened there is for those who ",
          "know it.")),
        question_notes(q))
}

drill_proof <- function(s) {
  q <- s$q
  m <- q$first
  source <- q$book$source
  plain <- raw_lines(q)
  plain_before <- raw_lines(q, q$asked$period_before)
  proof <- rbind(
    prove_two_periods(s, plain, plain_before),
    proof_line("growth of everything else over the whole + all excesses = the change",
               s$now - s$then, s$uniform + sum(s$parts$excess), FALSE))
  if (!q$rate) proof <- rbind(
    proof, proof_line("segments and everything else now = now", s$now, sum(s$parts$now), s$exact),
    proof_line("segments and everything else then = then", s$then, sum(s$parts$before), s$exact))
  taken <- NULL
  for (i in seq_along(s$leaves)) {
    # A line belongs to the first segment that it fits.
    fits <- plain_pick(source, s$conditions[[i]])
    inside <- if (is.null(taken)) fits else pick_both(fits, pick_not(taken))
    taken <- if (is.null(taken)) fits else pick_not(pick_both(pick_not(taken), pick_not(fits)))
    for (side in c("before", "now")) {
      keep <- (if (side == "now") plain else plain_before)$keep
      value <- value_or_zero(plain_metric(source, m$tree, pick_both(keep, inside)), m)
      proof <- rbind(proof, proof_line(
        paste0(segment_words(s$named[[i]]), if (side == "now") " now" else " then",
               " = its lines added up by a second route"), value, s$parts[[side]][i], s$exact))
    }
  }
  proof
}
