# Bridge, continued: its sentences, notes and proof.

bridge_settings <- function(question, found) {
  args <- question$args
  question_settings(question, by = args$by, into = args$into, quantity = args$quantity,
                    alike = args$alike, factors = if (!is.null(args$factors)) names(args$factors),
                    in_order = if (args$into == "factors") args$in_order, per_day = args$per_day,
                    top = args$top, then = found$then, now = found$now)
}

bridge_finding <- function(question, found) {
  args <- question$args
  why <- switch(args$into, segments = if (is.null(args$ratio)) segments_words(question, found) else
    rate_words(question, found), names = names_words(question, found), steps_words(question, found))
  new_finding(paste0(change_sentence(question, found), why, "."), compared = TRUE)
}

# Lines without a name are no name.
moved_names <- function(question, found, names) {
  ifelse(names == "(none)", paste("lines without", and_list(spoken(question$args$by))),
         told_as(question, question$args$by, names))
}

# What gained most and what lost most.
segments_words <- function(question, found) {
  moves <- found$moves
  metric <- first_metric(question)
  rows <- found$rows
  side <- function(which, total, word) {
    if (!any(which)) return(NULL)
    # Largest first on either side.
    named <- rows[which, ][1, ]
    paste0(word, " of ", said_change(total, metric, FALSE), " (", if (sum(which) > 1) "most: ",
           moved_names(question, found, named$name),
           if (sum(which) > 1) paste0(" ", said_change(named$change, metric)), ")")
  }
  both <- c(side(rows$change > 0, moves$gains, "gains"),
            side(rows$change < 0, moves$losses, "losses"))
  if (length(both)) paste0(": ", paste(both, collapse = ", "))
}

rate_words <- function(question, found) {
  metric <- first_metric(question)
  most <- found$rows[which.max(abs(found$rows$change)), ]
  paste0(": ", said_change(found$effects[["rate"]], metric), " by the rates of ",
         plural_word(noun_of(question, question$args$by)), ", ",
         said_change(found$effects[["mix"]], metric), " by their mix; the most by ",
         told_as(question, question$args$by, most$name), ", ", said_change(most$change, metric))
}

# "19 new +104,573, 75 returned +108,382, 64 gone -69,208 and 344 of both -9,705"
names_words <- function(question, found) {
  metric <- first_metric(question)
  groups <- found$groups[!found$groups$step %in% c("grown", "unchanged", "shrunk", "(none)"), ]
  alike <- found$like_for_like
  text <- c(paste(count_words(groups$name_count), groups$step, said_change(groups$change, metric)),
            if (alike$name_count) paste0(
              count_text(alike$name_count), " of both ", said_change(alike$change, metric)))
  if (length(text)) paste0(": ", and_list(text, length(text)))
}

count_words <- function(n) vapply(n, count_text, "")

steps_words <- function(question, found) {
  metric <- first_metric(question)
  paste0(": ", and_list(paste(found$steps$step, said_change(found$steps$change, metric)), 8))
}

bridge_reading <- function(question, found) {
  args <- question$args
  how <- switch(
    args$into,
    segments = if (is.null(args$ratio)) paste("by", spoken(args$by)) else paste0(
      "by ", spoken(args$by), ", rate and mix at midpoints, mix from the whole's rate"),
    names = paste0("by what became of ", plural_word(noun_of(question, args$by)),
                   " in the whole book; new: no line before ",
                   date_text(question$asked$now$from)),
    price = paste0("by price and quantity (", spoken(args$quantity),
                   ") at midpoints, at the level of ", spoken(args$by), " (",
                   count_text(found$counts[["stayed"]]), " with a price in both ",
                   "periods)", if (!is.null(args$alike)) paste0(
                     "; a volume is shared by ", if (identical(args$alike, "all"))
                       "all of them" else paste("those of one", spoken(args$alike)))),
    factors = paste0("by ", and_list(spoken(names(args$factors))), ", ", if (args$in_order)
      "moved in this order" else "each by its mean effect over all orders (Shapley)"))
  paste0(capital(metric_words(first_metric(question))), " ", how, "; ",
         reading_tail(question, if (!is.null(args$per_day)) {
    paste0("both per ", if (args$per_day == "working") "working " else "", "day (",
           count_text(args$days[["now"]]), " against ", count_text(args$days[["before"]]), ")")
  }))
}

bridge_notes <- function(question, found) {
  metric <- first_metric(question)
  # By the days that the lines cover: a part of a year against a whole one is uneven too.
  covered <- function(p) period_days(covered_part(p, question$book) %||% p)
  uneven <- covered(question$asked$now) != covered(question$asked$before)
  rbind(cancel_note(question, found), kind_notes(question, found),
        note("per_day", if (uneven && is.null(question$args$per_day) && metric$adds_up) paste0(
          "The periods are of unequal length and the change is as it stands; 'per_day' puts both ",
          "per day.")),
        question_notes(question))
}

cancel_note <- function(question, found) {
  metric <- first_metric(question)
  moves <- found$moves
  # Factors and segments of a rate have no parts of the net change.
  parts <- question$args$into != "factors" && is.null(found$whole)
  note("cancel", if (moves$cancel && parts) paste0(
    "Gains of ", said_change(moves$gains, metric, FALSE), " and losses of ",
    said_change(moves$losses, metric, FALSE), " nearly cancel, so parts of the net change (",
    said_change(moves$net, metric), ") are withheld; gross share is the part of gains plus ",
    "losses."))
}

kind_notes <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  switch(
    args$into,
    segments = note("negative", if (isTRUE(found$negative)) paste0(
      "Some ", plural_word(noun_of(question, args$by)), " have less than zero of ",
      tree_text(args$ratio$d),
      ", what the rate divides by; their effects add up but mean little.")),
    names = note("history", if (any(found$groups$step == "new")) paste0(
      "The book begins on ", date_text(first_day(question$book)), "; a name counted as new may ",
      "have bought before that.")),
    price = rbind(
      note("inside", inside_words(question, found)),
      note("listed", if (isTRUE(found$listed$kept)) paste0(
        "The ", spoken(found$listed$field), " of what was sold in both periods stayed the same: ",
        if (is.null(found$inside)) "what a unit brought changed" else "prices changed",
        " by discounts and charges.")),
      note("guess", if (!is.null(args$guessed)) paste0(
        "The quantity is taken to be ", args$guessed, "; say another with 'quantity'.")),
      note("no_price", if (found$counts[["no price"]]) paste0(
        plural(found$counts[["no price"]], spoken(args$by)), " without a quantity above zero in ",
        "one of the periods, so without a price; their change is a step of its own.")),
      note("no_quantity", if (any(found$bare$before != 0 | found$bare$now != 0)) paste0(
        "Lines without a quantity hold ", said(found$bare$before, metric), " then ",
        "and ", said(found$bare$now, metric), " now; they are a step of their own.")),
      note("units", if (is.null(args$alike)) paste0(
        "Quantities of different products are not added up, since their units may differ; with ",
        "'alike' volume and mix are told apart."))))
}

# What of the step of prices is the products' own, where names are no single products.
inside_words <- function(question, found) {
  if (is.null(found$inside)) return(NULL)
  metric <- first_metric(question)
  one <- noun_of(question, question$args$by)
  if (is.na(found$inside[["price"]]))
    return(paste0("A ", one, " is no single product, so the mix within ", plural_word(one),
                  " is in the step of prices; the book does not tell products."))
  paste0("A ", one, " is no single product: of ",
         said_change(sum(found$inside), metric), ", ", said_change(found$inside[["price"]], metric),
         " is by the prices of ", plural_word(noun_of(question, product_field(question$book))),
         " themselves and ", said_change(found$inside[["mix"]], metric), " by their mix.")
}

bridge_proof <- function(question, found) {
  args <- question$args
  steps <- if (args$into == "segments") found$rows$change else found$steps$change
  proof <- rbind(
    prove_two_periods(question, found),
    proof_line("then + all steps = now", found$now, found$then + sum(steps), found$exact),
    proof_line("steps shown and gathered = the change", found$now - found$then,
               sum(found$steps$change), found$exact))
  if (args$into == "factors") proof <- rbind(
    proof, proof_line(paste0("product of the factors = ", first_metric(question)$name), found$now,
                      prod(found$factors$now), FALSE))
  if (args$into == "names") proof <- rbind(
    proof, proof_line("names of both periods, new, returned and gone = all names",
                      nrow(found$rows), sum(found$groups$name_count)))
  proof
}

bridge_behind <- function(question, found) {
  if (question$args$into == "segments") rows_of_names(question$args$by) else
    list()
}
