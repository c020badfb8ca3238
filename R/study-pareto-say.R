# Pareto, continued: the table, its sentences, notes and proof.

pareto_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  several <- length(args$cut) > 1
  what <- if (several) "class" else "inside"
  name <- function(ending) paste0(metric$name, ending)
  table <- data.frame(named_keys(found$keys), rank = found$rank, in_unit(found$value, metric),
                      share_of_positive(found$value), found$running$total, found$running$share,
                      found$class, check.names = FALSE)
  names(table) <- c(args$each, "rank", metric$name, name("_share"), name("_running_total"),
                    name("_running_share"), what)
  columns <- rbind(new_columns("rank", "rank"), new_columns(args$each, "text"),
                   new_columns(metric$name, metric$unit),
                   new_columns(c(name("_share"), name("_running_total"), name("_running_share")),
                               c("percent", metric$unit, "percent"), c(TRUE, FALSE, TRUE),
                               c(2, NA, 1)),
                   new_columns(what, "text"))
  if (!is.null(found$moves)) {
    table[[name("_before")]] <- in_unit(found$value_before, metric)
    table[[paste0(what, "_before")]] <- found$class_before
    columns <- rbind(columns, new_columns(c(name("_before"), paste0(what, "_before")),
                                          c(metric$unit, "text")))
  }
  list(table = table, columns = columns,
       parts = list(foot = pareto_foot(question, found, table), classes = found$classes,
                    concentration = found$concentration, moves = found$moves))
}

pareto_foot <- function(question, found, table) {
  args <- question$args
  metric <- first_metric(question)
  row <- function(label, value, share) {
    out <- foot_row(table, args$each, label)
    out[[metric$name]] <- in_unit(value, metric)
    out[[paste0(metric$name, "_share")]] <- share
    out
  }
  classes <- found$classes
  label <- if (length(args$cut) == 1) c(yes = "inside", no = "outside")[classes$class] else
    ifelse(classes$class == "below zero", classes$class, paste("class", classes$class))
  label <- paste0(label, " (", vapply(classes$names, count_text, ""), ")")
  parts <- lapply(seq_len(nrow(classes)), function(i) {
    row(label[i], classes$value[i], classes$share[i])
  })
  none <- if (length(found$none)) list(row("(none)", exact_total(found$none), NA))
  out <- do.call(rbind, c(parts, none, list(row("total", found$total[[1]], NA))))
  rownames(out) <- NULL
  out
}

pareto_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, cut = args$cut, of = args$of,
                    crossing = args$crossing)
}

pareto_finding <- function(question, found) {
  metric <- first_metric(question)
  n <- length(found$value)
  what <- each_word(question)
  if (!n) return(paste0("No ", what, " has ", spoken(metric$name), " here."))
  if (!any(found$value > 0))
    return(paste0("None of ", plural(n, what), " has ", spoken(metric$name),
                  " above zero, so there is ", "no share to cut."))
  first <- found$classes[1, ]
  bring <- verb(first$names, " brings ")
  text <- if (!first$names)
    paste0("No ", what, " is inside the first ", percent_words(question$args$cut[1]), ": ",
           told_as_keys(question, found$keys, 1), " alone brings ",
           format_number(found$running$share[1], "percent"),
           share_of_words(question, metric, found$value, found$total[[1]])) else
    paste0(count_text(first$names), " of ", plural(n, what), " (",
           format_number(first$names / n, "percent", 0), ")", bring,
           format_number(first$share, "percent"),
           share_of_words(question, metric, found$value, found$total[[1]]))
  half <- names_to_half(found$value)
  paste0(text, "; the first ", if (half == 1) "one brings" else paste(count_text(half), "bring"),
         " half.")
}

pareto_reading <- function(question, found) {
  args <- question$args
  cut <- and_list(vapply(args$cut, percent_words, ""))
  of <- if (args$of == "names") "names" else if (any(found$value < 0))
    "total of the positive values" else "total"
  side <- switch(args$crossing, `in` = "inside", out = "outside", nearest = "on the nearer side")
  paste0(each_words(question), " by ", metric_words(first_metric(question)),
         ", largest first; cut at ", cut, " of the ", of, ", the one that crosses it ", side, "; ",
         reading_tail(question))
}

pareto_notes <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  n <- length(found$value)
  below <- found$value < 0
  words <- function(class) {
    if (length(args$cut) > 1) return(class)
    c(yes = "inside", no = "outside", `no lines` = "no lines", elsewhere = "elsewhere")[class]
  }
  moves <- if (!is.null(found$moves)) move_words(found$moves, words)
  ties <- lapply(seq_along(args$cut), function(cut) tie_at_cut(question, found, cut))
  large <- n && args$of == "total" && isTRUE(found$running$share[1] > args$cut[1])
  rbind(note("ties", unlist(ties)),
        note("large", if (large) paste0(
          told_as_keys(question, found$keys, 1), " alone is more than the first cut.")),
        note("negative", if (any(below)) paste0(
          plural(sum(below), each_word(question)), verb(sum(below), " is"),
          " below zero (", said(exact_total(found$value[below]), metric),
          " in all): shares are of the positive total, and concentration is not defined.")),
        nameless_note(question, found$none), valueless_note(question, found$valueless),
        note("moves", if (!is.null(moves)) paste0("Moved: ", moves, ".")),
        question_notes(question))
}

# Names tied with the last one inside a cut go with it.
tie_at_cut <- function(question, found, j) {
  last <- found$inside[j]
  if (last < 1 || last > length(found$value)) return(NULL)
  tied <- which(found$rank == found$rank[last])
  if (length(tied) < 2) return(NULL)
  paste0(and_list(told_as_keys(question, found$keys, tied), 4), " tie at ",
         said(found$value[last], first_metric(question)), " where the cut at ",
         percent_words(question$args$cut[j]), " falls, and stay together.")
}

pareto_proof <- function(question, found) {
  metric <- first_metric(question)
  values <- c(found$value, found$none)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        prove_parts(question$metrics, stats::setNames(list(values), metric$name), found$total,
                    found$exact, "names"),
        proof_line("classes and lines without a name add up to the total",
                   if (is.na(found$total[[1]])) 0 else found$total[[1]],
                   sum(found$classes$value, found$none, na.rm = TRUE), found$exact[[1]]),
        proof_line("names = names of all classes", length(found$value), sum(found$classes$names)))
}

pareto_behind <- function(question, found) rows_of_names(question$args$each)
