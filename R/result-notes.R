# Which notes stand first, and how many are shown: those that could change the reader's mind before
# those that only explain. All stand in JSON, in workbooks and in ll_notes().

notes_most <- 3   # shown under an answer, unless more are asked for

# Kinds of notes by weight, those that could turn a conclusion first; kinds that are not named stand
# between the last two.
notes_order <- list(
  c("undecided", "stray", "digits", "late", "same_days", "plan_whole", "unknown_name", "alone", "heavy", "large"),
  c("reversal", "turned", "lead", "leaders_differ", "leader_not_in_groups", "people", "cancel",
    "half", "inside", "listed", "returns", "credits", "story", "unknown", "rounding", "duplicates"),
  c("tie_edge", "tie", "ties", "near", "near_equal", "on_line", "on_bound", "few_orders", "few",
    "resampled", "falls", "constant", "twice", "spelling"),
  c("part_period", "event", "negative", "moves", "to_date", "not_dominated", "per_day", "missing",
    "mean_of_ratio", "rate"),
  character(),
  c("none", "undated", "register", "no_lines", "opening", "covered", "empty", "power",
    "others", "associated", "judged", "totals"))

note_weight <- function(kind) {
  tier <- rep(seq_along(notes_order), lengths(notes_order))
  out <- tier[match(kind, unlist(notes_order))]
  out[is.na(out)] <- which(lengths(notes_order) == 0)
  out
}

# By weight; notes of one weight in the order in which they were found.
sorted_notes <- function(notes) {
  if (!NROW(notes)) return(notes)
  notes <- notes[order(note_weight(notes$kind)), ]
  rownames(notes) <- NULL
  notes
}

# How many notes are shown: a number, "all" or "no".
notes_wanted <- function(wanted = getOption("longladder.notes", notes_most)) {
  if (identical(wanted, "all")) return(Inf)
  if (identical(wanted, "no")) return(0)
  number <- as_single_number(wanted)
  if (is.na(number) || number < 0 || number != round(number))
    ll_abort(c("'notes' is how many notes are shown: a whole number, all or no.",
               x = paste0("It is ", shown(wanted), ".")), "argument")
  number
}

# "and 9 more"
more_notes <- function(notes, most) {
  left <- nrow(notes) - min(most, nrow(notes))
  if (left) paste0("and ", count_text(left), " more")
}
