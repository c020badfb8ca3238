# Bridge, continued: its sentences, notes and proof.

bridge_settings <- function(s) {
  q <- s$q
  question_settings(q, by = q$by, into = q$into, quantity = q$quantity, alike = q$alike,
                    factors = if (!is.null(q$factors)) names(q$factors),
                    in_order = if (q$into == "factors") q$in_order, per_day = q$per_day,
                    top = q$top, then = s$then, now = s$now)
}

bridge_finding <- function(s) {
  paste0(change_sentence(s), switch(s$q$into, segments = if (is.null(s$q$ratio))
    segments_words(s) else rate_words(s), names = names_words(s), steps_words(s)), ".")
}

# Lines without a name are no name.
moved_names <- function(s, names) {
  ifelse(names == "(none)", paste("lines without", and_list(spoken(s$q$by))), one_line(names))
}

# What gained most and what lost most.
segments_words <- function(s) {
  moves <- s$moves
  m <- s$q$first
  rows <- s$rows
  side <- function(which, total, word) {
    if (!any(which)) return(NULL)
    # Largest first on either side.
    named <- utils::head(rows[which, ], 2)
    paste0(word, " of ", said_change(total, m, FALSE), " (",
           if (sum(which) > nrow(named)) "most: ",
           and_list(paste(moved_names(s, named$name), said_change(named$change, m)), 2), ")")
  }
  both <- c(side(rows$change > 0, moves$gains, "gains"),
            side(rows$change < 0, moves$losses, "losses"))
  if (length(both)) paste0(": ", paste(both, collapse = ", "))
}

rate_words <- function(s) {
  m <- s$q$first
  most <- s$rows[which.max(abs(s$rows$change)), ]
  paste0(": ", said_change(s$effects[["rate"]], m), " by the rates of ",
         plural_word(spoken(s$q$by)), ", ", said_change(s$effects[["mix"]], m),
         " by their mix; the most by ", one_line(most$name), ", ", said_change(most$change, m))
}

names_words <- function(s) {
  m <- s$q$first
  table <- s$table[s$table$step %in% c("new", "returned", "grown", "shrunk", "gone"), ]
  text <- paste0(count_words(table$name_count), " ", table$step, " ",
                 said_change(table[[paste0(m$name, "_change")]], m))
  alike <- s$parts$like_for_like
  paste0(if (nrow(table)) paste0(": ", and_list(text)),
         if (!is.na(alike$growth)) paste0("; like for like, the ", plural(
           alike$name_count, spoken(s$q$by)), " of both periods ",
           if (alike$growth < 0) "fell" else "grew", " by ",
           format_number(abs(alike$growth), "percent")))
}

count_words <- function(n) vapply(n, count_text, "")

steps_words <- function(s) {
  m <- s$q$first
  paste0(": ", and_list(paste(s$steps$step, said_change(s$steps$change, m)), 8))
}

bridge_reading <- function(s) {
  q <- s$q
  how <- switch(
    q$into,
    segments = if (is.null(q$ratio)) paste("by", spoken(q$by)) else paste0(
      "by ", spoken(q$by), ", rate and mix at midpoints, mix from the whole's rate"),
    names = paste0("by what became of ", plural_word(spoken(q$by)), "; new: no line before ",
                   date_text(q$asked$now$from)),
    price = paste0("by price and quantity (", spoken(q$quantity),
                   ") at midpoints, at the level of ", spoken(q$by), " (",
                   count_text(s$counts[["stayed"]]), " with a price in both ",
                   "periods)", if (!is.null(q$alike)) paste0(
                     "; a volume is shared by ", if (identical(q$alike, "all"))
                       "all of them" else paste("those of one", spoken(q$alike)))),
    factors = paste0("by ", and_list(spoken(names(q$factors))), ", ", if (q$in_order)
      "moved in this order" else "each by its mean effect over all orders (Shapley)"))
  paste0(capital(metric_words(q$first)), " ", how, "; ", reading_tail(q, if (!is.null(q$per_day)) {
    paste0("both per ", if (q$per_day == "working") "working " else "", "day (",
           count_text(q$days[["now"]]), " against ", count_text(q$days[["before"]]), ")")
  }))
}

bridge_notes <- function(s) {
  q <- s$q
  m <- q$first
  # By the days that the lines cover: a part of a year against a whole one is uneven too.
  covered <- function(p) period_days(covered_part(p, q$book) %||% p)
  uneven <- covered(q$asked$now) != covered(q$asked$before)
  rbind(cancel_note(s), kind_notes(s),
        note("per_day", if (uneven && is.null(q$per_day) && m$adds_up) paste0(
          "The periods are of unequal length and the change is as it stands; 'per_day' puts both ",
          "per day.")),
        question_notes(q))
}

cancel_note <- function(s) {
  m <- s$q$first
  moves <- s$moves
  note("cancel", if (moves$cancel && s$q$into != "factors" && !is.null(s$table$net_share)) paste0(
    "Gains of ", said_change(moves$gains, m, FALSE), " and losses of ",
    said_change(moves$losses, m, FALSE), " nearly cancel, so parts of the net change (",
    said_change(moves$net, m), ") are withheld; gross share is the part of gains plus losses."))
}

kind_notes <- function(s) {
  q <- s$q
  switch(
    q$into,
    segments = note("negative", if (isTRUE(s$negative)) paste0(
      "Some ", plural_word(spoken(q$by)), " have less than zero of ", tree_text(q$ratio$d),
      ", what the rate divides by; their effects add up but mean little.")),
    names = note("history", if (any(s$table$step == "new")) paste0(
      "The book begins on ", date_text(first_day(q$book)), "; a name counted as new may have ",
      "bought before that.")),
    price = rbind(
      note("guess", if (!is.null(q$guessed)) paste0(
        "The quantity is taken to be ", q$guessed, "; say another with 'quantity'.")),
      note("no_price", if (s$counts[["no price"]]) paste0(
        plural(s$counts[["no price"]], spoken(q$by)), " without a quantity above zero in one of ",
        "the periods, so without a price; their change is a step of its own.")),
      note("no_quantity", if (any(s$bare$before != 0 | s$bare$now != 0)) paste0(
        "Lines without a quantity hold ", said(s$bare$before, q$first), " then ",
        "and ", said(s$bare$now, q$first), " now; they are a step of their own.")),
      note("units", if (is.null(q$alike)) paste0(
        "Quantities of different products are not added up, since their units may differ; with ",
        "'alike' volume and mix are told apart."))))
}

bridge_proof <- function(s) {
  q <- s$q
  steps <- if (q$into == "segments") s$rows$change else s$steps$change
  proof <- rbind(
    prove_two_periods(s),
    proof_line("then + all steps = now", s$now, s$then + sum(steps), s$exact),
    proof_line("steps shown and gathered = the change", s$now - s$then, sum(s$steps$change),
               s$exact))
  if (q$into == "factors") proof <- rbind(
    proof, proof_line(paste0("product of the factors = ", q$first$name), s$now,
                      prod(s$factors$now), FALSE))
  if (q$into == "names") proof <- rbind(
    proof, proof_line("names of both periods, new, returned and gone = all names",
                      nrow(s$rows), sum(s$table$name_count)))
  proof
}
