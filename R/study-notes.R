# Notes that studies share: what a careful colleague points out whatever was asked.

question_notes <- function(question) {
  rbind(part_period_notes(question$book, question$asked), event_notes(question),
        date_part_notes(question),
        late_note(question), stray_note(question),
        missing_notes(question), ratio_notes(question$metrics), rate_notes(question),
        register_notes(question$book, names_used(question)),
        no_lines_notes(question), undated_note(question),
        unknown_name_notes(question), opening_notes(without_currency_offer(question$book)))
}

far_days <- 730   # from the others, in days: a year that was mistyped, most likely

# Days with lines that lie years away from all others, where the question is of them too.
stray_note <- function(question) {
  book <- question$book
  far <- stray <- stray_days(book)
  now <- question$asked$now
  if (!is.null(now)) stray <- stray[stray >= now$from & stray <= now$to]
  if (!length(stray)) return(NULL)
  others <- range(book$days[!book$days %in% far])
  stray <- stray[stray > others[2] + far_days | stray < others[1] - far_days]
  note("stray", if (length(stray)) paste0(
    and_list(date_text(stray), 3), verb(length(stray), " lies"), " years away from all other days, ",
    date_text(others[1]), " to ", date_text(others[2]), ": is the year mistyped? A period without ",
    if (length(stray) == 1) "it" else "them", " leaves ", if (length(stray) == 1) "it" else "them",
    " out."))
}

# Beyond 2^53 a double (IEEE 754) holds no odd numbers.
digits_note <- function(question, table) {
  values <- as.numeric(unlist(Filter(is.numeric, table[intersect(names(question$metrics), names(table))])))
  note("digits", if (any(is.finite(values) & abs(values) >= 2^53)) paste0(
    "Figures of ", count_text(2^53), " and above have lost their last digits: what seems to tie ",
    "may differ, and sums of them are near, not exact."))
}

nameless_note <- function(question, none) {
  metric <- first_metric(question)
  note("none", if (length(none)) paste0(
    "Lines without a name", if (metric$adds_up)
      paste0(" hold ", said(exact_total(none), metric), " and"),
    " are not ranked."))
}

few_note <- function(question, n, kind = "few_orders", ending = "left out.") {
  note(kind, if (n) paste0(plural(n, each_word(question)), " with fewer than ",
                           plural(question$args$min_orders, order_word(question$book)), " ",
                           ending))
}

valueless_note <- function(question, n) {
  note("missing", if (n) paste0(plural(n, each_word(question)), " without a value left out."))
}

# Lines without a date are in no period.
undated_note <- function(question) {
  metric <- first_metric(question)
  book <- question$book
  if (is.null(question$asked$now) && is.null(arg_or_null(question, "period"))) return(NULL)
  found <- undated_lines(question, question$metrics[1])
  if (is.null(found)) return(NULL)
  n <- found$lines
  amount <- found$values[[1]]
  note("undated", if (isTRUE(n > 0)) paste0(
    plural(n, "line"), verb(n, " has"), " no ", spoken(book$date),
    if (metric$adds_up && !is.na(amount)) paste0(", with ", said(amount, metric), " of ",
                                                 spoken(metric$name)),
    "; ", if (n == 1) "it is" else "they are", " in no period."))
}

# The lines without a date, folded; NULL where the book has none.
undated_lines <- function(question, metrics, where = question$asked$where_ever) {
  book <- question$book
  if (is.null(book$date) ||
        !isTRUE(book$fields$missing[match(book$date, book$fields$name)] > 0)) return(NULL)
  gap <- node("missing", arg = node("name", name = book$date))
  fold_metrics(book, character(), metrics, and_also(where, gap))
}

# A brief's formulas may name what is no longer there.
unknown_name_notes <- function(question) {
  if (is.null(question$book$read)) return(NULL)
  found <- unlist(lapply(question_trees(question, FALSE), unknown_names, book = question$book),
                  recursive = FALSE)
  text <- unlist(lapply(found, function(one) {
    near <- nearest(one$name, one$known, 1)
    paste0("No ", spoken(one$field), " is called ", shown(one$name),
           if (length(near)) paste0(" (nearest: ", quoted(near), ")"),
           ", which a formula names: it counts no line.")
  }))
  note("unknown_name", unique(text))
}

# A period that the book does not cover to its ends, and one that is compared with an unlike one.
part_period_notes <- function(book, asked) {
  one <- function(p) {
    if (is.null(p) || !length(book$days)) return(NULL)
    if (p$from > last_day(book) || p$to < first_day(book))
      return(paste0("The book has no lines in ", span_text(p$from, p$to), "."))
    covered <- covered_part(p, book)
    if (is.null(covered)) return(NULL)
    paste0("Incomplete: ", period_name(p) %||% short_span(p), " is covered ",
           if (covered$from > p$from) paste0("from ", date_text(covered$from), " "),
           "to ", date_text(covered$to), ", ",
           count_text(as.integer(covered$to - covered$from) + 1), " of its ",
           plural(period_days(p), "day"), ".")
  }
  now <- one(asked$now)
  text <- c(now, one(asked$before), unlike_words(book, asked))
  kind <- rep("part_period", length(text))
  # What is compared on the same days is said by the finding already.
  if (length(now) && !is.null(asked$before$of)) kind[1] <- "covered"
  new_notes(kind, text)
}

# Periods of another length; the same days of one that is covered in part are alike.
unlike_words <- function(book, asked) {
  if (is.null(asked$before)) return(NULL)
  days <- c(period_days(asked$now), period_days(asked$before))
  if (!is.null(asked$before$of)) days[1] <- period_days(covered_part(asked$now, book) %||% asked$now)
  if (abs(diff(days)) <= (if (is.null(asked$before$of)) 0 else 3)) return(NULL)
  paste0("The periods differ in length: ", plural(days[1], "day"), " against ",
         count_text(days[2]), ".")
}

# A dimension of periods of which the last is incomplete: what it is on the same days a year before.
date_part_notes <- function(question) {
  book <- question$book
  metric <- if (length(question$metrics)) first_metric(question)
  if (is.null(metric) || metric$against || metric$unit == "date" ||
        !is.null(arg_or_null(question, "period"))) return(NULL)
  parts <- Filter(Negate(is.null), lapply(question$asked$dimensions, book_date_part, book = book))
  text <- unlist(lapply(unique(parts), function(part) {
    dates <- book_dates(book, "when")
    name <- bucket_labels(as.integer(last_covered(book)), part, book$calendar)
    now <- read_period(name, dates)
    if (is.null(covered_part(now, book))) return(NULL)
    before <- like_compared(book, "year before", now, dates)$before
    if (before$from < first_day(book) - part_days) return(NULL)
    value <- lapply(list(now, before), function(p) {
      where <- and_also(question$asked$where_ever, in_period(book, p))
      fold_metrics(book, character(), question$metrics[1], where)$values[[1]]
    })
    words <- change_words(value[[1]], value[[2]], metric)
    if (!is.null(words)) paste0(
      capital(period_phrase(now, book)), " ", spoken(metric$name), after_name(metric$name, " was "),
      said(value[[1]], metric), ", ", words, " ", before_phrase(now, before, book), ", ",
      said(value[[2]], metric), ".")
  }))
  note("part_period", text)
}

# Lines that seem to come late within what is asked for, and which days all have.
late_note <- function(question) {
  asked <- question$asked
  if (is.null(asked$now) && is.null(arg_or_null(question, "period"))) return(NULL)
  late <- late_in_question(question$book, asked)
  if (is.null(late)) return(NULL)
  after <- min(late$after)
  when <- if (!is.null(asked$now) && asked$now$from <= after)
    paste0("; days that all have: when = ", quoted(paste0(asked$now$from, "/", after)))
  note("late", late_words_of(question, late), when, ".")
}

# "Territory Vale has no lines after 28 August 2026, the others go on to 16 September 2026"
late_words_of <- function(question, late) {
  how <- if (all(late$seen == 0)) "no" else "hardly any"
  after <- unique(late$after)
  ends <- paste0(" lines after ", if (length(after) > 1) "dates from ", date_text(min(after)))
  if (is.null(late$field))
    return(paste0("The book has ", how, ends, ", though such days usually have"))
  names <- told_as(question, late$field, late$names)
  paste0(if (length(names) == 1) capital(spoken(late$field)) else
    capital(plural_word(noun_of(question, late$field))), " ", and_list(names, 3),
    verb(length(names), " has"), " ", how, ends, ", the others go on to ", date_text(late$last),
    ": a fall may be data that are not in yet")
}

# Feasts and fairs that lie in one of two periods alone.
event_notes <- function(question) {
  asked <- question$asked
  if (is.null(asked$before)) return(NULL)
  apart <- events_apart(asked$now, asked$before, question$book$calendar)
  note("event", vapply(apart, function(name) {
    paste0(capital(name), " lies in only one of the two periods; against = ", quoted(name),
           " compares day by day from it.")
  }, "", USE.NAMES = FALSE))
}

# Names that differ only in case, blanks or accents may be one.
spelling_notes <- function(book, names, what) {
  if (length(names) > 2e5) return(new_notes())
  alike <- source_similar_names(book$source, key_tree(book, what), names)
  if (!length(alike)) return(new_notes())
  pairs <- vapply(utils::head(alike, 3), function(x) and_list(quoted(show_blanks(x))), "")
  new_notes("spelling", paste0(
    if (length(alike) == 1) paste("Similar spellings, counted apart:") else
      paste0(length(alike), " sets of ", plural_word(spoken(what)),
             " have similar spellings and are counted apart:"),
    " ", paste(pairs, collapse = "; "), if (length(alike) > 3) "; and more", "."))
}

# What the registers and conditions in use leave open.
register_notes <- function(book, used) {
  text <- lapply(registers_used(book, used), function(dimension) {
    match <- register_match(book, dimension)
    c(if (length(match$unknown))
        paste0(plural(length(match$unknown), spoken(dimension)),
               " on the lines not in the register: ", and_list(show_blanks(match$unknown), 4), "."),
      if (match$twice) paste0(plural(match$twice, "row"), " of the register of ", dimension,
                              " repeat a name; the first one serves."))
  })
  text <- unlist(text)
  new_notes(rep("register", length(text)), text)
}

no_lines_notes <- function(question) {
  book <- question$book
  text <- unlist(lapply(literals_in(question$asked$only), function(one) {
    if (book$fields$type[match(one$field, book$fields$name)] != "text") return(NULL)
    none <- not_among(one$values, names_of(book, one$field))
    if (length(none)) paste0(capital(spoken(one$field)), " ",
                             and_list(told_as(question, one$field, none), 4),
                             " is in the register and has no lines.")
  }))
  new_notes(rep("no_lines", length(text)), text)
}

# An average of quotients weighs a small line like a large one.
ratio_notes <- function(metrics) {
  text <- unlist(lapply(metrics, function(m) {
    if (averages_ratios(m$tree))
      paste0(capital(spoken(m$name)), " averages a ratio of single lines, small ones as much as ",
             "large ones; a ratio of totals, such as sum(a) / sum(b), is usually meant.")
  }))
  new_notes(rep("mean_of_ratio", length(text)), as.character(text))
}

# Rates that stand on each line are not added up, and their average weighs all lines alike.
rate_notes <- function(question) {
  rates <- question$book$fields$name[question$book$fields$rate]
  text <- unlist(lapply(question$metrics, function(m) {
    used <- nodes_where(m$tree, function(t) {
      t$kind == "aggregate" && t$fn %in% c("sum", "mean") && t$arg$kind == "name" &&
        t$arg$name %in% rates
    })
    vapply(used, function(t) {
      field <- spoken(t$arg$name)
      if (t$fn == "sum") paste0(capital(spoken(m$name)), " adds up ", field, ", which is a rate of ",
                                "each line: the sum of rates means nothing.")
      else paste0(capital(spoken(m$name)), " is unweighted: ", field, " of a small line counts as ",
                  "much as of a large one.")
    }, "")
  }))
  new_notes(rep("rate", length(text)), as.character(text))
}

# An answer tells itself of which currency it is.
without_currency_offer <- function(book) {
  if (!is.null(book$offers))
    book$offers <- book$offers[!startsWith(book$offers$option, "--currency "), , drop = FALSE]
  book
}

# What was fixed when the book was opened, and what is excluded.
opening_notes <- function(book) {
  done <- fixes_made(book)
  text <- c(if (NROW(done)) paste0("On opening: ", paste(done$text, collapse = "; "), "."),
            if (!is.null(book$aside))
              paste0("Excluded: lines where ", tree_words(book$aside), "."))
  open <- if (NROW(book$offers)) paste0(capital(book$offers$text), ".")
  rbind(new_notes(rep("undecided", length(open)), as.character(open)),
        new_notes(rep("opening", length(text)), as.character(text)))
}
