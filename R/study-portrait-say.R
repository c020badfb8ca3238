# Portrait, continued: the table, its sentences, notes and proof.

portrait_table <- function(s) {
  q <- s$q
  m <- q$first
  rows <- lapply(names(s$profile), function(dimension) {
    data.frame(dimension = dimension, label = label_of(q, dimension,
                                                       s$profile[[dimension]]$rows$name),
               s$profile[[dimension]]$rows)
  })
  table <- if (length(rows)) do.call(rbind, rows) else empty_profile(m)
  rownames(table) <- NULL
  labelled <- any(!is.na(table$label))
  shares <- intersect(c("share", "book_share"), names(table))
  values <- if (m$adds_up) "value" else c("value", "overall")
  kept <- c("dimension", "name", if (labelled) "label", values, shares, "index")
  table <- table[kept]
  table$value <- in_unit(table$value, m)
  names(table)[names(table) == "value"] <- m$name
  unit <- c("text", "text", if (labelled) "text", rep(m$unit, length(values)),
            rep("percent", length(shares)), "number")
  list(table = table, columns = new_columns(names(table), unit, digits = ifelse(
    names(table) == "index", 0, ifelse(unit == "percent", 1, NA))))
}

empty_profile <- function(m) {
  out <- data.frame(dimension = "", label = NA_character_, name = "", value = 0, overall = 0,
                    index = 0)
  if (m$adds_up) out[c("share", "book_share")] <- 0
  out[0, ]
}

portrait_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, name = q$name, by = names(s$profile), top = q$top,
                    telling = telling_order(s),
                    adds_up = names(Filter(function(m) m$zero, q$metrics)))
}

# The dimensions by how far the name lies from the book in them.
telling_order <- function(s) {
  by <- setdiff(names(s$profile), s$q$weekday)
  by[order(-vapply(s$profile[by], profile_distance, 0))]
}

portrait_finding <- function(s) {
  q <- s$q
  m <- q$first
  if (!s$counted) return(paste0(one_line(q$name), " has no lines in this question."))
  first <- s$placed[1, ]
  where <- if (is.na(first$place)) paste0(one_line(q$name), " has no ", spoken(m$name)) else
    paste0(one_line(q$name), if (first$tied) " shares place " else " holds place ",
           format_number(first$place, "place"), " of ", plural(first$of, spoken(q$each)), " by ",
           spoken(m$name), " with ", said(first$value, m),
           if (!is.na(first$share)) paste0(", ", format_number(first$share, "percent"),
                                           " of the total"))
  paste0(paste(c(where, best_times(s), stands_out(s)), collapse = "; "), ".")
}

# "best month 2025-05 (12,345), best weekday Tuesday"
best_times <- function(s) {
  m <- s$q$first
  # A rate or average of a few lines is no best.
  best <- function(value, lines) {
    value[lines < (if (m$adds_up) 1 else 5)] <- NA
    at <- which(places(value, m$better == "high") == 1)
    if (length(at) == 1 && sum(!is.na(value)) > 1) at
  }
  month <- if (!is.null(s$months)) best(s$months[[2]], s$months$lines)
  days <- s$profile[[s$q$weekday %||% ""]]$all
  day <- if (!is.null(days)) best(days$value, days$lines)
  words <- c(if (length(month)) paste0("best month ", s$months[[1]][month], " (",
                                       said(s$months[[2]][month], m), ")"),
             if (length(day)) paste("best weekday", days$name[day]))
  if (length(words)) paste(words, collapse = ", ")
}

# The name of a dimension that weighs more here than in the book: the largest part of the
# divergence between the two (Kullback and Leibler 1951, doi:10.1214/aoms/1177729694).
stands_out <- function(s) {
  q <- s$q
  if (!q$first$adds_up || s$orders < 5) return(NULL)
  all <- do.call(rbind, lapply(setdiff(names(s$profile), q$weekday), function(dimension) {
    data.frame(dimension = dimension, s$profile[[dimension]]$all)
  }))
  if (is.null(all)) return(NULL)
  part <- all$share * log(pmax(all$index, 0) / 100)
  part[all$name == "(none)" | all$share <= 0] <- NA
  at <- which.max(part)
  if (!length(at) || !isTRUE(part[at] > 0) || all$index[at] < 110) return(NULL)
  label <- label_of(q, all$dimension[at], all$name[at])
  share <- function(x) format_number(x, "percent", if (x < .1) 1 else 0)
  paste0(spoken(all$dimension[at]), " ", one_line(if (is.na(label)) all$name[at] else label),
         " weighs ", share(all$share[at]), " here and ", share(all$book_share[at]), " overall")
}

portrait_reading <- function(s) {
  q <- s$q
  facts <- utils::head(s$facts[s$facts$value != "(none)", ], 6)
  facts$value <- fit_text(facts$value, 40)
  paste0(capital(spoken(q$each)), " ", one_line(q$name),
         if (nrow(facts)) paste0(" (", paste(spoken(facts$field), one_line(facts$value),
                                             collapse = ", "), ")"),
         " by ", and_list(vapply(q$metrics, metric_words, ""), 8), "; index 100 = ",
         if (q$first$adds_up) "the same share as overall" else "the same as overall", "; ",
         reading_tail(q))
}

portrait_notes <- function(s) {
  q <- s$q
  if (!s$counted) return(question_notes(q$own))
  tied <- s$placed[s$placed$tied > 0 & !is.na(s$placed$place), ]
  behind <- order_word(q$book)
  silent <- if (!is.null(s$months) && q$first$zero) sum(s$months[[2]] == 0, na.rm = TRUE) else 0
  rbind(note("ties", if (nrow(tied)) paste0(
          "Its place by ", spoken(tied$metric), " is shared with ", vapply(
            tied$tied, plural, "", "other"), ".")),
        note("few_orders", if (s$orders < 5) paste0(
          "All of this rests on ", plural(s$orders, behind), ".")),
        note("empty", if (silent) paste0(
          "No ", spoken(q$first$name), " in ", count_text(silent), " of ",
          plural(nrow(s$months), "month"), ".")), own_column_note("month", q, "portrait"),
        question_notes(q$own))
}

portrait_proof <- function(s) {
  q <- s$q$own
  m <- q$metrics[1]
  parts <- lapply(names(s$profile), function(dimension) {
    all <- s$profile[[dimension]]$all
    rbind(prove_parts(m, stats::setNames(list(all$value), names(m)), s$total, s$exact,
                      paste0("names of ", dimension, ", here,")),
          prove_parts(m, stats::setNames(list(all$overall), names(m)), s$book, s$exact,
                      paste0("names of ", dimension, ", overall,")))
  })
  months <- if (!is.null(s$months)) prove_parts(m, s$months[2], s$total, s$exact, "months")
  rbind(prove_question(q, s$counted, s$total, s$exact), months, do.call(rbind, parts))
}
