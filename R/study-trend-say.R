# Trend, continued: the table, its sentences, notes and proof.

trend_table <- function(question, found) {
  args <- question$args
  n <- nrow(found$periods)
  stack <- function(f) unlist(lapply(found$lines, f), use.names = FALSE)
  many <- length(found$lines)
  cells <- list(period = rep(found$periods$label, many))
  columns <- new_columns("period", "text")
  add <- function(name, unit, values, shown = TRUE) {
    cells[[name]] <<- if (unit == "date") as_day(values) else values
    digits <- if (grepl("(growth|_change)$", name) && unit %in% c("percent", "points")) 1 else NA
    columns <<- rbind(columns, new_columns(name, unit, shown, digits))
  }
  if (!is.null(args$by)) add(args$by, "text", rep(names(found$lines), each = n))
  for (m in question$metrics) {
    name <- m$name
    # Rates change by points, not by percent of a percentage.
    points <- m$unit == "percent"
    change <- if (points) function(now, before) now - before else growth_of
    ending <- if (points) "change" else "growth"
    of_change <- if (points) "points" else "percent"
    grows <- m$unit != "date"
    first <- name == first_metric(question)$name
    add(name, m$unit, stack(function(l) l$values[[name]]))
    if (grows) add(paste0(name, "_", ending), of_change, stack(function(l) {
      on_before(l$values[[name]], found$periods$part, change)
    }), first)
    add(paste0(name, "_year_before"), m$unit, stack(function(l) l$ago[[name]]), FALSE)
    if (grows) add(paste0(name, "_year_", ending), of_change, stack(function(l) {
      ifelse(found$periods$part, NA, change(l$values[[name]], l$ago[[name]]))
    }))
    if (!is.null(args$rolling)) {
      roll <- function(f) stack(function(l) {
        rolling_over(l$values[[name]], l$earlier[[name]], found$periods$part, args$rolling, f)
      })
      add(paste0(name, "_rolling"), m$unit, roll(mean))
      if (m$adds_up) add(paste0(name, "_rolling_sum"), m$unit, roll(sum))
    }
    if (!is.null(args$per_day) && m$zero) add(paste0(name, "_per_day"), m$unit, stack(function(l) {
      l$values[[name]] / covered_days(found$periods, args$per_day)
    }))
  }
  add("days", "count", rep(found$periods$days, many), FALSE)
  add("part", "text", rep(ifelse(found$periods$part, "part", ""), many), any(found$periods$part))
  list(table = data.frame(cells, check.names = FALSE), columns = columns,
       parts = list(to_date = found$to_date, steady = trend_steady(question, found)))
}

# Change on the period before, where both are whole.
on_before <- function(value, part, change) {
  n <- length(value)
  out <- change(value, c(NA, value[-n]))
  out[part | c(TRUE, part[-n])] <- NA
  out
}

# What `f` makes of the last n whole periods up to each, `earlier` ones before the first among them;
# missing where there are fewer.
rolling_over <- function(value, earlier, part, n, f) {
  value[part] <- NA
  all <- c(earlier, value)
  before <- length(earlier)
  vapply(seq_along(value) + before, function(i) {
    if (i >= n) as.numeric(f(all[(i - n + 1):i])) else NA_real_
  }, 0)
}

covered_days <- function(periods, kind) {
  mapply(count_days, periods$first, periods$last, kind)
}

# Mean, deviation and coefficient of variation of each line's whole periods.
trend_steady <- function(question, found) {
  whole <- !found$periods$part
  if (sum(whole) < 3) return(NULL)
  out <- lapply(names(found$lines), function(line) {
    value <- found$lines[[line]]$values[[first_metric(question)$name]][whole]
    mean <- mean(value)
    deviation <- stats::sd(value)
    data.frame(line = line, periods = sum(whole), mean = mean, deviation = deviation,
               variation = if (isTRUE(mean > 0)) deviation / mean else NA_real_)
  })
  do.call(rbind, out)
}

trend_settings <- function(question, found) {
  args <- question$args
  question_settings(question, every = args$every, by = args$by,
                    top = if (!is.null(args$by)) args$top, rolling = args$rolling,
                    per_day = args$per_day, indexed = args$indexed,
                    adds_up = names(Filter(function(m) m$zero, question$metrics)))
}

# The last whole period against the year before, or against the one before it.
trend_finding <- function(question, found) {
  metric <- first_metric(question)
  whole <- which(!found$periods$part)
  value <- found$all$values[[metric$name]]
  name <- capital(spoken(metric$name))
  finding <- function(...) new_finding(paste0(...), dated = TRUE)
  if (!is.null(found$stretch)) return(finding(stretch_words(question, found)))
  last <- utils::tail(whole, 1)
  label <- found$periods$label[last]
  first <- paste0(name, " in ", label, after_name(name, " was "), said(value[last], metric))
  ago <- found$all$ago[[metric$name]][last]
  year <- change_words(value[last], ago, metric)
  if (!is.null(year)) return(finding(first, ", ", year, " a year before (", said(ago, metric),
                                     ")."))
  step <- if (last > 1 && !found$periods$part[last - 1])
    change_words(value[last], value[last - 1], metric)
  if (!is.null(step)) return(finding(first, ", ", step, " the ",
                                     spoken(question$args$every), " before."))
  finding(first, ".")
}

# Where no period is whole, what there is against the same days a year before.
stretch_words <- function(question, found) {
  metric <- first_metric(question)
  one <- found$stretch[1, ]
  name <- capital(spoken(metric$name))
  days <- period_phrase(list(from = one$from, to = one$to, words = ""), question$book)
  said <- paste0(name, " ", days, after_name(name, " was "), said(one$value, metric))
  year <- change_words(one$value, one$value_before, metric)
  if (is.null(year)) return(paste0(said, "; no whole ", spoken(question$args$every),
                                   " is covered."))
  paste0(said, ", ", year, " the same days a year before (", said(one$value_before, metric), ").")
}

trend_reading <- function(question, found) {
  args <- question$args
  paste0(capital(and_list(vapply(question$metrics, metric_words, ""), 8)), " by ",
         spoken(args$every),
         if (!is.null(args$by))
           paste0(", a line for each ", spoken(args$by), ", the top ", args$top), "; ",
         reading_tail(question,
                      if (!is.null(args$rolling)) paste("means and sums of", args$rolling, "whole periods"),
                      if (!is.null(args$per_day)) paste("per", args$per_day, "day")))
}

trend_notes <- function(question, found) {
  part <- found$periods[found$periods$part, ]
  text <- vapply(seq_len(nrow(part)), function(i) {
    span <- span_text(as_day(part$first[i]), as_day(part$last[i]))
    paste0(part$label[i], " is incomplete, ", span, ": it is marked and left out of growth.")
  }, "")
  empty <- found$periods$label[!found$periods$label %in% found$all$seen]
  rbind(note("part_period", text),
        note("empty", if (length(empty)) paste0(
          plural(length(empty), spoken(question$args$every)), " without lines: ",
          and_list(empty, 6), ".")),
        note_to_date(question, found), note_steady(question, found), question_notes(question))
}

note_to_date <- function(question, found) {
  done <- found$to_date
  metric <- first_metric(question)
  # Not what the finding says already.
  if (!is.null(found$stretch) && identical(found$stretch[1, c("from", "to")],
                                           done[1, c("from", "to")]))
    return(new_notes())
  words <- if (!is.null(done)) change_words(done$value[1], done$value_before[1], metric)
  if (is.null(words)) return(new_notes())
  note("to_date", "The year to date, ", span_text(done$from[1], done$to[1]), ": ",
       spoken(metric$name), " ", said(done$value[1], metric), ", ", words,
       " the same stretch a year before (", said(done$value_before[1], metric), ").")
}

note_steady <- function(question, found) {
  steady <- trend_steady(question, found)
  if (is.null(steady) || nrow(steady) < 2) return(new_notes())
  steady <- steady[!is.na(steady$variation) & steady$line != "(none)" &
                     !grepl("^everyone else \\(", steady$line), ]
  if (nrow(steady) < 2) return(new_notes())
  at <- order(steady$variation)
  say <- function(i) {
    paste0(told_as(question, question$args$by, steady$line[i]), " (",
           format_number(steady$variation[i], "percent", 0), ")")
  }
  note("steady", "Steadiest of those shown: ", say(at[1]), "; least steady: ",
       say(utils::tail(at, 1)),
       " (coefficient of variation of the whole periods).")
}

trend_proof <- function(question, found) {
  parts <- lapply(question$metrics, function(m) {
    unlist(lapply(found$lines, function(l) l$values[[m$name]]), use.names = FALSE)
  })
  rbind(prove_question(question, found$counted, found$total, found$exact),
        prove_periods(question, question$metrics, parts, found$total, found$exact, "periods"))
}

# The lines of a row: its period, and its name where there is one.
trend_behind <- function(question, found) {
  args <- question$args
  kept <- if (!is.null(args$by)) stats::setNames(list(setdiff(names(found$lines), "(none)")),
                                                 args$by)
  list(keys = c(period = args$period, if (!is.null(args$by)) stats::setNames(args$by, args$by)),
       kept = kept)
}
