# Holders, continued: the table, its sentences, notes and proof.

holders_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  keys <- c(args$within, args$each)
  unit <- change_unit(metric$unit)
  cells <- list()
  if (!is.null(found$line)) cells$line <- line_numbers(found$book$source, found$line)
  cells[[metric$name]] <- in_unit(found$value, metric)
  cells[args$with_fields] <- found$held
  cells$runner_up <- found$runner_up
  cells[[paste0(metric$name, "_runner_up")]] <- in_unit(found$next_value, metric)
  cells$lead <- found$lead
  field_unit <- field_units(question, found$held)
  table <- as.data.frame(c(found$keys[keys], cells), optional = TRUE)
  names(table) <- c(keys, names(cells))
  columns <- rbind(new_columns(keys, rep("text", length(keys))),
                   if (!is.null(found$line)) new_columns("line", "count"),
                   new_columns(metric$name, metric$unit),
                   new_columns(args$with_fields, unname(field_unit)),
                   new_columns(c("runner_up", paste0(metric$name, "_runner_up"), "lead"),
                               c("text", metric$unit, unit)))
  list(table = table, columns = columns,
       coded = if (length(args$each) == 1) c(runner_up = args$each))
}

holders_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, which = args$which, within = args$within,
                    part = if (length(args$within)) args$part, with_fields = args$with_fields,
                    min_orders = args$min_orders)
}

# "largest order", "smallest line", "highest margin rate".
holders_title <- function(question) {
  metric <- first_metric(question)
  if (of_size(question)) paste(extreme_word(question), level_word(question), "by",
                               spoken(metric$name)) else
    paste(question$args$which, spoken(metric$name))
}

of_size <- function(question) {
  each <- question$args$each
  first_metric(question)$adds_up && (is.null(each) || identical(each, question$book$order))
}

extreme_word <- function(question) {
  args <- question$args
  if (of_size(question)) c(highest = "largest", lowest = "smallest")[[args$which]] else args$which
}

# The holder of a row as a sentence names it, with the fields of what it holds.
holder_name <- function(question, found, i, fields = TRUE) {
  args <- question$args
  name <- if (is.null(found$line)) told_as_keys(question, found$keys[args$each], i) else
    line_label(line_numbers(found$book$source, found$line[i]))
  # Lines of a database have no numbers: their orders tell them apart.
  order <- found$held[[question$book$order %||% ""]][i]
  if (identical(name, "a line") && !fields && !is.null(order) && !is.na(order))
    return(paste("a line of", order_word(question$book), one_line(as.character(order))))
  held <- if (fields) vapply(args$with_fields, function(field) {
    value <- found$held[[field]][i]
    if (is.na(value)) "" else if (inherits(value, "Date")) date_text(value) else
      paste(spoken(field), told_as(question, field, as.character(value)))
  }, "")
  held <- held[nzchar(held)]
  paste0(name, if (length(held)) paste0(" (", paste(held, collapse = ", "), ")"))
}

runner_name <- function(question, found, i) {
  each <- question$args$each
  if (!is.null(found$line)) return(paste0(
    if (!is.null(question$book$order)) paste("one of", order_word(question$book), ""),
    found$runner_up[i]))
  if (length(each) == 1) told_as(question, each, found$runner_up[i]) else
    one_line(found$runner_up[i])
}

holders_finding <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  if (!length(found$value))
    return(paste0("No ", level_word(question), " has ", spoken(metric$name), " here."))
  # Groups without a name come last.
  named <- named_group(question, found)
  at <- c(which(named), 1)[1]
  top <- which(found$group == found$group[at])
  who <- if (length(top) == 1) holder_name(question, found, at) else
    and_list(vapply(utils::head(top, 20), holder_name, "", question = question, found = found,
                    fields = FALSE), 4)
  if (length(top) > 20) who <- paste(count_text(length(top)), level_words(question))
  amount <- paste0(" with ", said(found$value[at], metric), if (length(top) > 1) " each")
  lead <- if (isTRUE(found$lead[at] > 0)) paste0(
    ", ", said_change(found$lead[at], metric, FALSE),
    if (args$which == "highest") " ahead of " else " below ", runner_name(question, found, at))
  if (!length(args$within))
    return(paste0("The ", holders_title(question), ": ", who, amount, lead, "."))
  groups <- length(unique(found$group[named]))
  group <- paste(vapply(args$within, function(field) {
    told_as(question, field, found$keys[[field]][at])
  }, ""), collapse = ", ")
  alone <- count_leads(question, found)
  what <- noun_of(question, args$within[1])
  paste0("Within ", if (groups == 1) paste("one", what) else plural(groups, what), ", the ",
         holders_title(question), " of all: ", who, " in ", group, amount, alone, ".")
}

# Which rows stand in groups that have a name.
named_group <- function(question, found) {
  keys <- found$keys[question$args$within]
  if (!length(keys)) return(rep(TRUE, length(found$value)))
  Reduce(`&`, lapply(keys, function(key) key != "(none)"))
}

# Who holds the extreme of most groups, where one holds several.
count_leads <- function(question, found) {
  if (!is.null(found$line)) return(NULL)
  named <- named_group(question, found)
  holders <- told_as_keys(question, found$keys[question$args$each])
  counts <- sort(table(holders[named]), decreasing = TRUE)
  if (!length(counts) || counts[1] < 2 || length(unique(found$group[named])) < 3) return(NULL)
  most <- names(counts)[counts == counts[1]]
  paste0("; ", and_list(most, 3), verb(length(most), " holds it in "),
         count_text(counts[[1]]), if (length(most) > 1) " each")
}

holders_reading <- function(question, found) {
  args <- question$args
  inside <- if (length(args$within)) paste0(
    " in each ", and_list(spoken(args$within)),
    if (!is.null(args$each)) if (args$part == "whole")
      paste0(", by the whole ", level_word(question)) else ", by what lies inside it")
  paste0("The ", extreme_word(question), " ", level_word(question), " by ",
         metric_words(first_metric(question)), inside, "; ",
         reading_tail(question, few_reading(question)))
}

holders_notes <- function(question, found) {
  args <- question$args
  tied <- unique(found$group[found$tied > 1])
  few <- if (is.null(found$orders) || !averages(first_metric(question)$tree)) 0 else
    sum(found$orders < few_orders)
  lone <- length(unique(found$group[found$tied == 1 & is.na(found$runner_up)]))
  several <- if (length(tied)) if (!length(args$within))
    paste0(count_text(length(found$value)), " hold the same value: all are shown.") else
      paste0(plural(length(tied), "group"), verb(length(tied), " has"),
             " several holders of the same value: all are shown.")
  rbind(note("ties", several),
        note("few_orders", if (few) paste0(
          plural(few, "value"), verb(few, " rests"), " on fewer than ", few_orders,
          " ", plural_word(order_word(question$book)), "; 'min_orders' asks for more.")),
        note("alone", if (lone) paste0(
          if (length(args$within)) paste(plural(lone, "group"),
                                         verb(lone, "has")) else
            "There is", " nobody to come second.")),
        few_note(question, found$left, "left", "not considered."),
        question_notes(question))
}

holders_proof <- function(question, found) {
  args <- question$args
  plain <- raw_lines(question)
  proof <- prove_question(question, found$counted, found$total, found$exact, plain)
  if (!is.null(found$line) && length(found$value)) {
    tree <- node("aggregate", fn = if (args$which == "highest") "max" else "min",
                 arg = first_metric(question)$tree$arg, where = NULL)
    proof <- rbind(proof, proof_line(
      paste("the", args$which, "of all lines by a second route"),
      second_metric(question$book$source, tree, plain$keep), found$value[1], FALSE))
  }
  if (is.null(found$line) && length(args$within))
    proof <- rbind(proof, proof_line("groups with names = groups with a holder", found$all_groups,
                                     length(unique(found$group))))
  proof
}

# A line is told by its value in its group.
holders_behind <- function(question, found) {
  args <- question$args
  if (is.null(found$line))
    return(rows_of_names(c(if (args$part == "inside") args$within, args$each)))
  list(rows = lapply(seq_along(found$value), function(i) {
    out <- node("compare", op = "==", type = "number",
                args = list(first_metric(question)$tree$arg,
                            node("number", value = found$value[i])))
    for (field in args$within)
      out <- and_also(out, name_condition(question, field, found$keys[[field]][i], NULL))
    out
  }))
}
