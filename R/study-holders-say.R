# Holders, continued: the table, its sentences, notes and proof.

holders_table <- function(s) {
  q <- s$q
  m <- q$first
  keys <- c(q$within, q$each)
  unit <- change_unit(m$unit)
  cells <- list()
  if (!is.null(s$line)) cells$line <- line_numbers(s$book$source, s$line)
  cells[[m$name]] <- in_unit(s$value, m)
  cells[q$show] <- s$held
  cells$runner_up <- s$runner_up
  cells[[paste0(m$name, "_runner_up")]] <- in_unit(s$next_value, m)
  cells$lead <- s$lead
  field_unit <- field_units(q, s$held)
  table <- as.data.frame(c(s$keys[keys], cells), optional = TRUE)
  names(table) <- c(keys, names(cells))
  columns <- rbind(new_columns(keys, rep("text", length(keys))),
                   if (!is.null(s$line)) new_columns("line", "count"),
                   new_columns(m$name, m$unit), new_columns(q$show, unname(field_unit)),
                   new_columns(c("runner_up", paste0(m$name, "_runner_up"), "lead"),
                               c("text", m$unit, unit)))
  list(table = table, columns = columns)
}

holders_settings <- function(q) {
  question_settings(q, each = q$each, which = q$which, within = q$within,
                    part = if (length(q$within)) q$part, show = q$show, at_least = q$at_least)
}

# "largest order", "smallest line", "highest margin rate".
holders_title <- function(q) {
  if (of_size(q)) paste(extreme_word(q), level_word(q), "by", spoken(q$first$name)) else
    paste(q$which, spoken(q$first$name))
}

of_size <- function(q) {
  q$first$adds_up && (is.null(q$each) || identical(q$each, q$book$order))
}

extreme_word <- function(q) {
  if (of_size(q)) c(highest = "largest", lowest = "smallest")[[q$which]] else q$which
}

# The holder of a row as a sentence names it, with the fields of what it holds.
holder_name <- function(s, i, fields = TRUE) {
  q <- s$q
  name <- if (is.null(s$line)) joined_names(lapply(s$keys[q$each], `[`, i)) else
    line_label(line_numbers(s$book$source, s$line[i]))
  held <- if (fields) vapply(q$show, function(field) {
    value <- s$held[[field]][i]
    if (is.na(value)) "" else if (inherits(value, "Date")) date_text(value) else
      paste(spoken(field), one_line(as.character(value)))
  }, "")
  held <- held[nzchar(held)]
  paste0(name, if (length(held)) paste0(" (", paste(held, collapse = ", "), ")"))
}

holders_finding <- function(s) {
  q <- s$q
  m <- q$first
  if (!length(s$value))
    return(paste0("No ", level_word(q), " has ", spoken(m$name), " here."))
  # Groups without a name come last.
  named <- named_group(s)
  at <- c(which(named), 1)[1]
  top <- which(s$group == s$group[at])
  who <- if (length(top) == 1) holder_name(s, at) else
    and_list(vapply(utils::head(top, 20), holder_name, "", s = s, fields = FALSE), 4)
  if (length(top) > 20) who <- paste(count_text(length(top)), level_words(q))
  amount <- paste0(" with ", said(s$value[at], m), if (length(top) > 1) " each")
  lead <- if (isTRUE(s$lead[at] > 0)) paste0(", ", said_change(s$lead[at], m, FALSE), if (
    q$which == "highest") " ahead of " else " below ", one_line(s$runner_up[at]))
  if (!length(q$within))
    return(paste0("The ", holders_title(q), ": ", who, amount, lead, "."))
  groups <- length(unique(s$group[named]))
  place <- paste(vapply(s$keys[q$within], function(key) one_line(key[at]), ""), collapse = ", ")
  alone <- count_leads(s)
  what <- spoken(q$within[1])
  paste0("Within ", if (groups == 1) paste("one", what) else plural(groups, what), ", the ",
         holders_title(q), " of all: ", who, " in ", place, amount, alone, ".")
}

# Which rows stand in groups that have a name.
named_group <- function(s) {
  keys <- s$keys[s$q$within]
  if (!length(keys)) return(rep(TRUE, length(s$value)))
  Reduce(`&`, lapply(keys, function(key) key != "(none)"))
}

# Who holds the extreme of most groups, where one holds several.
count_leads <- function(s) {
  q <- s$q
  if (!is.null(s$line)) return(NULL)
  named <- named_group(s)
  counts <- sort(table(joined_names(s$keys[q$each])[named]), decreasing = TRUE)
  if (!length(counts) || counts[1] < 2 || length(unique(s$group[named])) < 3) return(NULL)
  most <- names(counts)[counts == counts[1]]
  paste0("; ", and_list(most, 3), if (length(most) == 1) " holds it in " else " hold it in ",
         count_text(counts[[1]]), if (length(most) > 1) " each")
}

holders_reading <- function(s) {
  q <- s$q
  inside <- if (length(q$within)) paste0(
    " in each ", and_list(spoken(q$within)),
    if (!is.null(q$each)) if (q$part == "whole") paste0(", by the whole ", level_word(q)) else
      ", by what lies inside it")
  paste0("The ", extreme_word(q), " ", level_word(q), " by ", metric_words(q$first), inside, "; ",
         reading_tail(q, few_reading(q)))
}

holders_notes <- function(s) {
  q <- s$q
  tied <- unique(s$group[s$tied > 1])
  few <- if (is.null(s$orders) || !averages(q$first$tree)) 0 else sum(s$orders < few_orders)
  lone <- length(unique(s$group[s$tied == 1 & is.na(s$runner_up)]))
  several <- if (length(tied)) if (!length(q$within))
    paste0(count_text(length(s$value)), " hold the same value: all are shown.") else
      paste0(plural(length(tied), "group"), if (length(tied) == 1) " has" else " have",
             " several holders of the same value: all are shown.")
  rbind(note("ties", several),
        note("few_orders", if (few) paste0(
          plural(few, "value"), if (few == 1) " rests" else " rest", " on fewer than ", few_orders,
          " ", plural_word(order_word(q$book)), "; 'at_least' asks for more.")),
        note("alone", if (lone) paste0(
          if (length(q$within)) paste(plural(lone, "group"), if (lone == 1) "has" else "have") else
            "There is", " nobody to come second.")),
        few_note(q, s$left, "left", "not considered."),
        question_notes(q))
}

holders_proof <- function(s) {
  q <- s$q
  plain <- raw_lines(q)
  proof <- prove_question(q, s$counted, s$total, s$exact, plain)
  if (!is.null(s$line) && length(s$value)) {
    tree <- node("aggregate", fn = if (q$which == "highest") "max" else "min",
                 arg = q$first$tree$arg, where = NULL)
    proof <- rbind(proof, proof_line(
      paste("the", q$which, "of all lines by a second route"),
      plain_metric(q$book$source, tree, plain$keep), s$value[1], FALSE))
  }
  if (is.null(s$line) && length(q$within))
    proof <- rbind(proof, proof_line("groups with names = groups with a holder", s$all_groups,
                                     length(unique(s$group))))
  proof
}

# A line is told by its value in its group.
holders_behind <- function(s) {
  q <- s$q
  if (is.null(s$line))
    return(list(keys = stats::setNames(nm = c(if (q$part == "inside") q$within, q$each))))
  list(rows = lapply(seq_along(s$value), function(i) {
    out <- node("compare", op = "==", type = "number",
                args = list(q$first$tree$arg, node("number", value = s$value[i])))
    for (field in q$within) out <- and_also(out, name_condition(q, field, s$keys[[field]][i], NULL))
    out
  }))
}
