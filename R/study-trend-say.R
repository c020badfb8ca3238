# Trend, continued: the table, its sentences, notes and proof.

trend_table <- function(s) {
  q <- s$q
  n <- nrow(s$periods)
  stack <- function(f) unlist(lapply(s$lines, f), use.names = FALSE)
  many <- length(s$lines)
  cells <- list(period = rep(s$periods$label, many))
  columns <- new_columns("period", "text")
  add <- function(name, unit, values, shown = TRUE) {
    cells[[name]] <<- if (unit == "date") as_day(values) else values
    digits <- if (grepl("(growth|_change)$", name) && unit %in% c("percent", "points")) 1 else NA
    columns <<- rbind(columns, new_columns(name, unit, shown, digits))
  }
  if (!is.null(q$by)) add(q$by, "text", rep(names(s$lines), each = n))
  for (m in q$metrics) {
    name <- m$name
    # Rates change by points, not by percent of a percentage.
    points <- m$unit == "percent"
    change <- if (points) function(now, before) now - before else growth_of
    ending <- if (points) "change" else "growth"
    of_change <- if (points) "points" else "percent"
    grows <- m$unit != "date"
    first <- name == q$first$name
    add(name, m$unit, stack(function(l) l$values[[name]]))
    if (grows) add(paste0(name, "_", ending), of_change, stack(function(l) {
      on_before(l$values[[name]], s$periods$part, change)
    }), first)
    add(paste0(name, "_year_before"), m$unit, stack(function(l) l$ago[[name]]), FALSE)
    if (grows) add(paste0(name, "_year_", ending), of_change, stack(function(l) {
      ifelse(s$periods$part, NA, change(l$values[[name]], l$ago[[name]]))
    }))
    if (!is.null(q$rolling)) add(paste0(name, "_rolling"), m$unit, stack(function(l) {
      rolling_mean(l$values[[name]], s$periods$part, q$rolling)
    }))
    if (!is.null(q$per_day) && m$zero) add(paste0(name, "_per_day"), m$unit, stack(function(l) {
      l$values[[name]] / covered_days(s$periods, q$per_day)
    }))
  }
  add("days", "count", rep(s$periods$days, many), FALSE)
  add("part", "text", rep(ifelse(s$periods$part, "part", ""), many), any(s$periods$part))
  list(table = data.frame(cells, check.names = FALSE), columns = columns)
}

# Change on the period before, where both are whole.
on_before <- function(value, part, change) {
  n <- length(value)
  out <- change(value, c(NA, value[-n]))
  out[part | c(TRUE, part[-n])] <- NA
  out
}

# The mean of the last n whole periods up to each; missing where there are fewer.
rolling_mean <- function(value, part, n) {
  value[part] <- NA
  out <- rep(NA_real_, length(value))
  for (i in seq_along(value)) if (i >= n) out[i] <- mean(value[(i - n + 1):i])
  out
}

covered_days <- function(periods, kind) {
  mapply(count_days, periods$first, periods$last, kind)
}

# Mean, deviation and coefficient of variation of each line's whole periods.
trend_steady <- function(s) {
  whole <- !s$periods$part
  if (sum(whole) < 3) return(NULL)
  out <- lapply(names(s$lines), function(line) {
    value <- s$lines[[line]]$values[[s$q$first$name]][whole]
    mean <- mean(value)
    deviation <- stats::sd(value)
    data.frame(line = line, periods = sum(whole), mean = mean, deviation = deviation,
               variation = if (isTRUE(mean > 0)) deviation / mean else NA_real_)
  })
  do.call(rbind, out)
}

trend_settings <- function(q) {
  question_settings(q, every = q$every, by = q$by, top = if (!is.null(q$by)) q$top,
                    rolling = q$rolling, per_day = q$per_day, indexed = q$indexed,
                    adds_up = names(Filter(function(m) m$zero, q$metrics)))
}

# The last whole period against the year before, or against the one before it.
trend_finding <- function(s) {
  m <- s$q$first
  whole <- which(!s$periods$part)
  value <- s$all$values[[m$name]]
  name <- capital(spoken(m$name))
  if (!is.null(s$stretch)) return(stretch_finding(s))
  last <- utils::tail(whole, 1)
  label <- s$periods$label[last]
  first <- paste0(name, " in ", label, " was ", said(value[last], m))
  ago <- s$all$ago[[m$name]][last]
  year <- change_words(value[last], ago, m)
  if (!is.null(year)) return(paste0(first, ", ", year, " a year before (", said(ago, m), ")."))
  step <- if (last > 1 && !s$periods$part[last - 1]) change_words(value[last], value[last - 1], m)
  if (!is.null(step)) return(paste0(first, ", ", step, " the ", spoken(s$q$every), " before."))
  paste0(first, ".")
}

# Where no period is whole, what there is against the same days a year before.
stretch_finding <- function(s) {
  m <- s$q$first
  one <- s$stretch[1, ]
  said <- paste0(capital(spoken(m$name)), " ", period_phrase(list(
    from = one$from, to = one$to, words = ""), s$q$book), " was ", said(one$value, m))
  year <- change_words(one$value, one$value_before, m)
  if (is.null(year)) return(paste0(said, "; no whole ", spoken(s$q$every), " is covered."))
  paste0(said, ", ", year, " the same days a year before (", said(one$value_before, m), ").")
}

# "12.5 % above", "1.2 points below"; NULL where there is nothing to compare.
change_words <- function(now, before, metric) {
  points <- metric$unit == "percent"
  change <- if (points) now - before else growth_of(now, before)
  if (is.na(change) || metric$unit == "date") return(NULL)
  if (abs(change) < 5e-5) return("level with")
  paste(format_number(abs(change), if (points) "points" else "percent", 1),
        if (change > 0) "above" else "below")
}

trend_reading <- function(s) {
  q <- s$q
  paste0(capital(and_list(vapply(q$metrics, metric_words, ""), 8)), " by ", spoken(q$every),
         if (!is.null(q$by)) paste0(", a line for each ", spoken(q$by), ", the top ", q$top), "; ",
         reading_tail(q, if (!is.null(q$rolling)) paste("means of", q$rolling, "whole periods"),
                      if (!is.null(q$per_day)) paste("per", q$per_day, "day")))
}

trend_notes <- function(s) {
  q <- s$q
  part <- s$periods[s$periods$part, ]
  text <- vapply(seq_len(nrow(part)), function(i) {
    span <- span_text(as_day(part$first[i]), as_day(part$last[i]))
    paste0(part$label[i], " is a part period, ", span, ": it is marked and left out of growth.")
  }, "")
  empty <- s$periods$label[!s$periods$label %in% s$all$seen]
  rbind(note("part_period", text),
        note("empty", if (length(empty)) paste0(
          plural(length(empty), spoken(q$every)), " without lines: ", and_list(empty, 6), ".")),
        note_to_date(s), note_steady(s), question_notes(q))
}

note_to_date <- function(s) {
  done <- s$to_date
  m <- s$q$first
  # Not what the finding says already.
  if (!is.null(s$stretch) && identical(s$stretch[1, c("from", "to")], done[1, c("from", "to")]))
    return(new_notes())
  words <- if (!is.null(done)) change_words(done$value[1], done$value_before[1], m)
  if (is.null(words)) return(new_notes())
  note("to_date", "The year to date, ", span_text(done$from[1], done$to[1]), ": ", spoken(m$name),
       " ", said(done$value[1], m), ", ", words,
       " the same stretch a year before (", said(done$value_before[1], m), ").")
}

note_steady <- function(s) {
  steady <- trend_steady(s)
  if (is.null(steady) || nrow(steady) < 2) return(new_notes())
  steady <- steady[!is.na(steady$variation) & steady$line != "(none)" &
                     !grepl("^everyone else \\(", steady$line), ]
  if (nrow(steady) < 2) return(new_notes())
  at <- order(steady$variation)
  say <- function(i) {
    paste0(steady$line[i], " (", format_number(steady$variation[i], "percent", 0), ")")
  }
  note("steady", "Steadiest of those shown: ", say(at[1]), "; least steady: ",
       say(utils::tail(at, 1)),
       " (coefficient of variation of the whole periods).")
}

trend_proof <- function(s) {
  q <- s$q
  parts <- lapply(q$metrics, function(m) {
    unlist(lapply(s$lines, function(l) l$values[[m$name]]), use.names = FALSE)
  })
  rbind(prove_question(q, s$counted, s$total, s$exact),
        prove_parts(q$metrics, parts, s$total, s$exact, "periods"))
}

# The lines of a row: its period, and its name where there is one.
trend_behind <- function(s) {
  q <- s$q
  kept <- if (!is.null(q$by)) stats::setNames(list(setdiff(names(s$lines), "(none)")), q$by)
  list(keys = c(period = q$period, if (!is.null(q$by)) stats::setNames(q$by, q$by)), kept = kept)
}
