# Associations, continued: the table, its sentences, notes and proof.

associations_table <- function(s) {
  numbers <- any(s$table$kind == "numbers")
  through <- any(nzchar(s$table$through))
  partly <- any(s$table$known < length(s$value))
  columns <- new_columns(
    c("field", "adjusted", "strength", "through", "left", "rank_correlation", "chance",
      "explained", "names", "known", "kind"),
    c("text", "percent", "text", "text", "percent", "number", "percent", "percent", "count",
      "count", "text"),
    shown = c(TRUE, TRUE, TRUE, through, through, numbers, TRUE, TRUE, TRUE, partly, FALSE),
    digits = c(NA, 1, NA, NA, 1, 2, 1, 1, NA, NA, NA))
  list(table = s$table[columns$name], columns = columns)
}

associations_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, by = names(s$fields), shuffles = q$shuffles, seed = q$seed,
                    compared = length(s$value), sampled = s$sampled)
}

associations_finding <- function(s) {
  q <- s$q
  what <- paste0(spoken(q$first$name), " of ", level_words(q))
  if (!length(s$value)) return(paste0("No ", level_word(q), " has a ", spoken(q$first$name), "."))
  if (!isTRUE(s$spread > 0))
    return(paste0(capital(what), " does not vary: there is nothing to go with."))
  if (!nrow(s$table)) return(paste0("No field here can go with ", what, "."))
  real <- s$table[!s$table$strength %in% c("no more than chance", strength_words[1]), ]
  if (!nrow(real)) return(paste0(
    if (nrow(s$table) == 1)
      paste0("The one field looked at, ", spoken(s$table$field), ", does not go") else
      paste("None of", plural(nrow(s$table), "field"), "looked at goes"), " with ", what,
    " by more than chance or 1 %."))
  share <- function(x) format_number(x, "percent", if (x < .1) 1 else 0)
  first <- paste0(if (nrow(s$table) > 1) paste("Of", plural(nrow(s$table), "field"),
                                               "looked at, what goes most with ") else
                    "The one field looked at that goes with ", what,
                  " is ", spoken(real$field[1]), ", ",
                  share(real$adjusted[1]), " of its variation (", real$strength[1], ")",
                  known_among(s, real[1, ]), runs_through(real[1, ]))
  second <- if (nrow(real) > 1) paste0("; next ", spoken(real$field[2]), ", ",
                                       share(real$adjusted[2]), known_among(s, real[2, ]),
                                       runs_through(real[2, ]))
  paste0(first, second, ".")
}

# " among the 34 of 580 accounts where it is known", unless that is nearly all.
known_among <- function(s, row) {
  if (row$known < (1 - few_differ) * length(s$value))
    paste0(" among the ", count_text(row$known), " of ", count_text(length(s$value)), " ",
           level_words(s$q), " where it is known")
}

runs_through <- function(row) {
  if (nzchar(row$through)) paste0(", which runs through ", spoken(row$through)) else ""
}

associations_reading <- function(s) {
  q <- s$q
  paste0("Share of the variation of ", metric_words(q$first), " of each ", level_word(q),
         " that goes with each field, adjusted for its number of names, held against ",
         count_text(q$shuffles), " shuffles of whole ",
         if (is.null(q$each) && anyDuplicated(s$block)) "orders" else level_words(q),
         "; ", if (s$sampled) paste0(count_text(length(s$value)), " of ", count_text(s$of),
                                     " lines, whole orders taken evenly; "), reading_tail(q))
}

associations_notes <- function(s) {
  q <- s$q
  heavy <- heavy_part(s$value)
  level <- level_word(q)
  out <- s$left_out
  words <- vapply(split(out$field, factor(out$why, unique(out$why))), function(fields) {
    and_list(spoken(fields), 8)
  }, "")
  rbind(note("cause", "Going together is no cause: a field may stand for another that is not in ",
             "the book."),
        note("heavy", if (!is.na(heavy) && heavy > .5) paste0(
          "The 1 % of ", level_words(q), " furthest from the mean hold ",
          format_number(heavy, "percent", 0), " of the variation; a few large ones decide.")),
        note("left_out", if (length(words)) paste0(
          "Left out: ", paste0(words, " (", names(words), ")", collapse = "; "), ".")),
        note("known", known_or_not(s)),
        note("differs", differs_within(s)),
        note("missing", if (s$missing) paste0(
          plural(s$missing, level), " without a value or name left out.")),
        question_notes(q))
}

# Fields of which it tells something whether they are known.
known_or_not <- function(s) {
  m <- s$q$first
  vapply(seq_len(NROW(s$known)), function(i) {
    row <- s$known[i, ]
    fields <- row$fields[[1]]
    paste0(capital(level_words(s$q)), " where ", and_list(spoken(fields), 4),
           if (length(fields) > 1) " are" else " is", " known have a mean ", spoken(m$name),
           " of ", said(row$with, m), ", the others ", said(row$without, m), ": ",
           format_number(row$adjusted, "percent", 1), " of its variation (",
           row$strength, ").")
  }, "")
}

# Fields that differ within a few orders or names only.
differs_within <- function(s) {
  differ <- vapply(s$fields, function(f) f$differ %||% 0, 0)
  fields <- split(names(differ), differ)
  fields <- fields[names(fields) != "0"]
  if (!length(fields)) return(NULL)
  paste0(vapply(fields, function(x) capital(and_list(spoken(x))), ""),
         ifelse(lengths(fields) == 1, " differs", " differ"), " within ",
         vapply(as.numeric(names(fields)), plural, "", level_word(s$q)),
         "; what most of its lines say serves.")
}

# The share of the sum of squares that the hundredth furthest from the mean hold.
heavy_part <- function(value) {
  n <- length(value)
  if (n < 200) return(NA_real_)
  squares <- sort(value^2, decreasing = TRUE)
  sum(squares[seq_len(ceiling(n / 100))]) / sum(squares)
}

associations_proof <- function(s) {
  q <- s$q
  second <- vapply(s$table$field, function(name) {
    own <- where_known(s, name)
    1 - left_within(own$value, own$fields[[1]]) / own$spread
  }, 0)
  rbind(prove_question(q, s$counted, s$total, s$exact),
        if (nrow(s$table))
          proof_line("shares explained = 1 - what is left within names, added up over the fields",
                     sum(second), sum(s$table$explained), FALSE))
}
