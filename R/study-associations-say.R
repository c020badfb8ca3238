# Associations, continued: the table, its sentences, notes and proof.

associations_table <- function(question, found) {
  numbers <- any(found$table$kind == "numbers")
  through <- any(nzchar(found$table$through))
  partly <- any(found$table$known < length(found$value))
  columns <- new_columns(
    c("field", "adjusted", "strength", "through", "left", "rank_correlation", "chance",
      "explained", "names", "known", "kind"),
    c("text", "percent", "text", "text", "percent", "number", "percent", "percent", "count",
      "count", "text"),
    shown = c(TRUE, TRUE, TRUE, through, through, numbers, TRUE, TRUE, TRUE, partly, FALSE),
    digits = c(NA, 1, NA, NA, 1, 2, 1, 1, NA, NA, NA))
  columns$heading[columns$name == "names"] <- "values"
  columns$heading[columns$name == "chance"] <- "by chance"
  list(table = found$table[columns$name], columns = columns,
       parts = list(pairs = found$pairs, left_out = found$left_out))
}

associations_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, by = names(found$fields), shuffles = args$shuffles,
                    seed = args$seed, compared = length(found$value), sampled = found$sampled)
}

associations_finding <- function(question, found) {
  metric <- first_metric(question)
  what <- paste0(spoken(metric$name), " of ", level_words(question))
  if (!length(found$value)) return(paste0("No ", level_word(question), " has a ",
                                          spoken(metric$name), "."))
  if (!isTRUE(found$spread > 0))
    return(paste0(capital(what), " does not vary: there is nothing to go with."))
  if (!nrow(found$table)) return(paste0("No field here can go with ", what, "."))
  real <- found$table[!found$table$strength %in% c("no more than chance", strength_words[1]), ]
  if (!nrow(real)) return(paste0(
    if (nrow(found$table) == 1)
      paste0("The one field looked at, ", spoken(found$table$field), ", does not go") else
      paste("None of", plural(nrow(found$table), "field"), "looked at goes"), " with ", what,
    " by more than chance or 1 %."))
  share <- function(x) format_number(x, "percent", if (x < .1) 1 else 0)
  first <- paste0(if (nrow(found$table) > 1) paste("Of", plural(nrow(found$table), "field"),
                                                   "looked at, what goes most with ") else
                    "The one field looked at that goes with ", what,
                  " is ", spoken(real$field[1]), ", ",
                  share(real$adjusted[1]), " of its variation (", real$strength[1], ")",
                  known_among(question, found, real[1, ]), runs_through(real[1, ]))
  second <- if (nrow(real) > 1) paste0("; next ", spoken(real$field[2]), ", ",
                                       share(real$adjusted[2]),
                                       known_among(question, found, real[2, ]),
                                       runs_through(real[2, ]))
  paste0(first, second, ".")
}

# " among the 34 of 580 accounts where it is known", unless that is nearly all.
known_among <- function(question, found, row) {
  if (row$known < (1 - few_differ) * length(found$value))
    paste0(" among the ", count_text(row$known), " of ", count_text(length(found$value)), " ",
           level_words(question), " where it is known")
}

runs_through <- function(row) {
  if (nzchar(row$through)) paste0(", which runs through ", spoken(row$through)) else ""
}

associations_reading <- function(question, found) {
  args <- question$args
  paste0("Share of the variation of ", metric_words(first_metric(question)), " of each ",
         level_word(question),
         " that goes with each field, adjusted for its number of values, held against ",
         count_text(args$shuffles), " shuffles of whole ",
         if (is.null(args$each) && anyDuplicated(found$block)) "orders" else level_words(question),
         "; ", if (found$sampled) paste0(count_text(length(found$value)), " of ",
                                         count_text(found$of),
                                         " lines, whole orders taken evenly; "),
         reading_tail(question))
}

associations_notes <- function(question, found) {
  heavy <- heavy_part(found$value)
  level <- level_word(question)
  out <- found$left_out
  words <- vapply(split(out$field, factor(out$why, unique(out$why))), function(fields) {
    and_list(spoken(fields), 8)
  }, "")
  rbind(note("cause", "Going together is no cause: a field may stand for another that is not in ",
             "the book."),
        note("heavy", if (!is.na(heavy) && heavy > .5) paste0(
          "The 1 % of ", level_words(question), " furthest from the mean hold ",
          format_number(heavy, "percent", 0), " of the variation; a few large ones decide.")),
        note("left_out", if (length(words)) paste0(
          "Left out: ", paste0(words, " (", names(words), ")", collapse = "; "), ".")),
        note("known", known_or_not(question, found)),
        note("differs", differs_within(question, found)),
        note("missing", if (found$missing) paste0(
          plural(found$missing, level), " without a value or name left out.")),
        question_notes(question))
}

# Fields of which it tells something whether they are known.
known_or_not <- function(question, found) {
  metric <- first_metric(question)
  vapply(seq_len(NROW(found$known)), function(i) {
    row <- found$known[i, ]
    fields <- row$fields[[1]]
    paste0(capital(level_words(question)), " where ", and_list(spoken(fields), 4),
           if (length(fields) > 1) " are" else " is", " known have a mean ", spoken(metric$name),
           " of ", said(row$with, metric), ", the others ", said(row$without, metric), ": ",
           format_number(row$adjusted, "percent", 1), " of its variation (",
           row$strength, ").")
  }, "")
}

# Fields that differ within a few orders or names only.
differs_within <- function(question, found) {
  differ <- vapply(found$fields, function(f) f$differ %||% 0, 0)
  fields <- split(names(differ), differ)
  fields <- fields[names(fields) != "0"]
  if (!length(fields)) return(NULL)
  paste0(vapply(fields, function(x) capital(and_list(spoken(x))), ""),
         ifelse(lengths(fields) == 1, " differs", " differ"), " within ",
         vapply(as.numeric(names(fields)), plural, "", level_word(question)),
         "; what most of its lines say serves.")
}

# The share of the sum of squares that the hundredth furthest from the mean hold.
heavy_part <- function(value) {
  n <- length(value)
  if (n < 200) return(NA_real_)
  squares <- sort(value^2, decreasing = TRUE)
  sum(squares[seq_len(ceiling(n / 100))]) / sum(squares)
}

associations_proof <- function(question, found) {
  values <- found[c("value", "block", "stratum", "fields", "centre", "spread")]
  second <- vapply(found$table$field, function(name) {
    own <- where_known(values, name)
    1 - left_within(own$value, own$fields[[1]]) / own$spread
  }, 0)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        if (nrow(found$table))
          proof_line("shares explained = 1 - what is left within names, added up over the fields",
                     sum(second), sum(found$table$explained), FALSE))
}

associations_behind <- function(question, found) list()
