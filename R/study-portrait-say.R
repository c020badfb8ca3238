# Portrait, continued: the table, its sentences, notes and proof.

portrait_table <- function(question, found) {
  metric <- first_metric(question)
  rows <- lapply(names(found$profile), function(dimension) {
    data.frame(dimension = dimension,
               name_label = labels_of(question$book, dimension,
                                      own_names(found$profile[[dimension]]$rows$name)),
               found$profile[[dimension]]$rows)
  })
  table <- if (length(rows)) do.call(rbind, rows) else empty_profile(metric)
  rownames(table) <- NULL
  labelled <- any(!is.na(table$name_label))
  shares <- intersect(c("share", "book_share"), names(table))
  values <- if (metric$adds_up) "value" else c("value", "overall")
  kept <- c("dimension", "name", if (labelled) "name_label", values, shares, "index")
  table <- table[kept]
  table$value <- in_unit(table$value, metric)
  names(table)[names(table) == "value"] <- metric$name
  unit <- c("text", "text", if (labelled) "text", rep(metric$unit, length(values)),
            rep("percent", length(shares)), "number")
  digits <- ifelse(names(table) == "index", 0, ifelse(unit == "percent", 1, NA))
  columns <- new_columns(names(table), unit, names(table) != "name_label", digits)
  if (labelled) columns$label[columns$name == "name"] <- "name_label"
  list(table = table, columns = columns,
       parts = list(metrics = found$ranked, months = found$months, facts = found$facts),
       further = list(metrics = ranked_columns(found)))
}

empty_profile <- function(metric) {
  out <- data.frame(dimension = "", name_label = NA_character_, name = "", value = 0, overall = 0,
                    index = 0)
  if (metric$adds_up) out[c("share", "book_share")] <- 0
  out[0, ]
}

portrait_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, name = args$name, by = names(found$profile),
                    top = args$top, telling = telling_order(question, found),
                    adds_up = names(Filter(function(m) m$zero, question$metrics)))
}

# The dimensions by how far the name lies from the book in them.
telling_order <- function(question, found) {
  by <- setdiff(names(found$profile), question$args$weekday)
  by[order(-vapply(found$profile[by], profile_distance, 0))]
}

portrait_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  name <- told_as(question, args$each, args$name)
  if (!found$counted) return(paste0(name, " has no lines in this question."))
  first <- found$ranked[1, ]
  where <- if (is.na(first$rank)) paste0(name, " has no ", spoken(metric$name)) else
    paste0(name, if (first$tied) " shares rank " else " holds rank ",
           format_number(first$rank, "rank"), " of ",
           plural(first$of, noun_of(question, args$each)), " by ",
           spoken(metric$name), " with ", said(first$value, metric),
           of_the_total(first$share))
  apart <- stands_out(question, found)
  paste0(paste(c(where, best_times(question, found, is.null(apart)), apart), collapse = "; "), ".")
}

# "best month 2025-05 (12,345), best weekday Tuesday"
best_times <- function(question, found, weekday) {
  metric <- first_metric(question)
  # A rate or average of a few lines is no best.
  best <- function(value, lines) {
    value[lines < (if (metric$adds_up) 1 else 5)] <- NA
    at <- which(ranks(value, metric$better == "high") == 1)
    if (length(at) == 1 && sum(!is.na(value)) > 1) at
  }
  month <- if (!is.null(found$months)) best(found$months[[2]], found$months$lines)
  days <- found$profile[[question$args$weekday %||% ""]]$all
  day <- if (weekday && !is.null(days)) best(days$value, days$lines)
  words <- c(if (length(month)) paste0("best month ", found$months[[1]][month], " (",
                                       said(found$months[[2]][month], metric), ")"),
             if (length(day)) paste("best weekday", days$name[day]))
  if (length(words)) paste(words, collapse = ", ")
}

# The name of a dimension that weighs more here than in the book: the largest part of the
# divergence between the two (Kullback and Leibler 1951, doi:10.1214/aoms/1177729694).
stands_out <- function(question, found) {
  if (!first_metric(question)$adds_up || found$orders < 5) return(NULL)
  all <- do.call(rbind, lapply(setdiff(names(found$profile), question$args$weekday),
                               function(dimension) {
    data.frame(dimension = dimension, found$profile[[dimension]]$all)
  }))
  if (is.null(all)) return(NULL)
  part <- all$share * log(pmax(all$index, 0) / 100)
  part[all$name == "(none)" | all$share <= 0] <- NA
  at <- which.max(part)
  if (!length(at) || !isTRUE(part[at] > 0) || all$index[at] < 110) return(NULL)
  share <- function(x) format_number(x, "percent", if (x < .1) 1 else 0)
  paste0(spoken(all$dimension[at]), " ", told_as(question, all$dimension[at], all$name[at]),
         " weighs ", share(all$share[at]), " here and ", share(all$book_share[at]), " overall")
}

portrait_reading <- function(question, found) {
  args <- question$args
  label <- label_table(question$book, args$each)$column
  told <- found$facts$value != "(none)" & !found$facts$field %in% label
  facts <- utils::head(found$facts[told, ], 6)
  facts$value <- fit_text(facts$value, 40)
  paste0(capital(spoken(args$each)), " ", told_as(question, args$each, args$name),
         if (nrow(facts)) paste0(" (", paste(spoken(facts$field), one_line(facts$value),
                                             collapse = ", "), ")"),
         " by ", and_list(vapply(question$metrics, metric_words, ""), 8), "; index 100 = ",
         if (first_metric(question)$adds_up) "the same share as overall" else "the same as overall",
         "; ", reading_tail(question))
}

portrait_notes <- function(question, found) {
  args <- question$args
  if (!found$counted) return(question_notes(args$own))
  tied <- found$ranked[found$ranked$tied > 0 & !is.na(found$ranked$rank), ]
  behind <- order_word(question$book)
  silent <- found$silent$months
  rbind(note("ties", if (nrow(tied)) paste0(
          "Its rank by ", spoken(tied$metric), " is shared with ", vapply(
            tied$tied, plural, "", "other"), ".")),
        note("few_orders", if (found$orders < 5) paste0(
          "All of this rests on ", plural(found$orders, behind), ".")),
        note("empty", if (silent) paste0(
          "No ", spoken(first_metric(question)$name), " in ", count_text(silent), " of ",
          plural(found$silent$of, "month"), if (found$silent$of < nrow(found$months))
            " since its first line", ".")),
        own_column_note("month", question, "portrait"),
        question_notes(args$own))
}

portrait_proof <- function(question, found) {
  own <- question$args$own
  metric <- own$metrics[1]
  parts <- lapply(names(found$profile), function(dimension) {
    all <- found$profile[[dimension]]$all
    rbind(prove_parts(metric, stats::setNames(list(all$value), names(metric)), found$total,
                      found$exact, paste0("names of ", dimension, ", here,")),
          prove_parts(metric, stats::setNames(list(all$overall), names(metric)), found$book,
                      found$exact, paste0("names of ", dimension, ", overall,")))
  })
  months <- if (!is.null(found$months)) prove_periods(own, metric, found$months[2], found$total,
                                                      found$exact, "months")
  rbind(prove_question(own, found$counted, found$total, found$exact), months,
        do.call(rbind, parts))
}

portrait_behind <- function(question, found) {
  list(keys = c(name = ""), of = "dimension", only = question$args$own$asked$only,
       kept = lapply(found$profile, function(part) part$rows$name))
}
