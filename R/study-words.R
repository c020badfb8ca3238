# Sentences that studies share: metrics, periods and conditions as a reading tells them.

# "revenue (sum(net), highest first)"
metric_words <- function(metric) {
  paste0(spoken(metric$name), " (", one_line(metric$text),
         if (metric$better == "low") ", lowest first", ")")
}

period_reading <- function(book, asked) {
  if (is.null(asked$now)) {
    if (!length(book$days)) return("all lines")
    return(paste("all dates,", span_text(first_day(book), last_day(book))))
  }
  p <- asked$now
  span <- span_text(p$from, p$to)
  words <- if (p$words == span) span else paste0(p$words, ", ", span)
  if (grepl("^(last|this)", p$text))
    words <- paste0(words, ", counted back from ", date_text(book$as_of %||% last_day(book)))
  words
}

against_words <- function(p) {
  span <- span_text(p$from, p$to)
  if (grepl(span, p$words, fixed = TRUE)) p$words else paste0(p$words, ", ", span)
}

condition_reading <- function(asked) {
  if (is.null(asked$only)) return(NULL)
  paste("only lines where", fit_text(tree_words(asked$only), 300))
}

# Value of a metric in a sentence.
said <- function(x, metric) format_number(x, metric$unit)

# What shares of names' values are of: " of revenue"; " of the positive revenue"; where other lines
# have some of the total, " of the revenue of these accounts".
share_of_words <- function(q, metric, value, total) {
  value <- value[!is.na(value)]
  positive <- if (any(value < 0)) "positive "
  all <- isTRUE(abs(exact_total(value) - total) <= 1e-9 * max(1, abs(total)))
  paste0(" of ", if (!all || !is.null(positive)) "the ", positive, spoken(metric$name),
         if (!all) paste(" of these", level_words(q)))
}

# A period that the book does not cover to its ends.
part_period_notes <- function(book, asked) {
  one <- function(p) {
    if (is.null(p) || !length(book$days)) return(NULL)
    first <- first_day(book)
    last <- last_day(book)
    from <- max(p$from, first)
    to <- min(p$to, last)
    if (to < from) return(paste0("The book has no lines in ", span_text(p$from, p$to), "."))
    if (from == p$from && to == p$to) return(NULL)
    paste0("A part period: ", span_text(p$from, p$to), " is covered from ", date_text(from), " to ",
           date_text(to), ", ", count_text(as.integer(to - from) + 1), " of its ",
           plural(period_days(p), "day"), ".")
  }
  text <- c(one(asked$now), one(asked$before))
  if (!is.null(asked$before) && period_days(asked$now) != period_days(asked$before))
    text <- c(text, paste0("The periods differ in length: ", plural(period_days(asked$now), "day"),
                           " against ", count_text(period_days(asked$before)), "."))
  new_notes(rep("part_period", length(text)), text)
}

# Names that differ only in case, blanks or accents may be one.
spelling_notes <- function(book, names, what) {
  if (length(names) > 2e5) return(new_notes())
  alike <- source_alike_names(book$source, key_tree(book, what), names)
  if (!length(alike)) return(new_notes())
  pairs <- vapply(utils::head(alike, 3), function(x) and_list(quoted(show_blanks(x))), "")
  new_notes("spelling", paste0(
    if (length(alike) == 1) paste("Spelled alike, counted apart:") else
      paste0(length(alike), " sets of ", plural_word(spoken(what)),
             " are spelled alike and counted apart:"),
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

no_lines_notes <- function(book, asked) {
  text <- unlist(lapply(literals_in(asked$only), function(one) {
    if (book$fields$type[match(one$field, book$fields$name)] != "text") return(NULL)
    none <- setdiff(one$values, names_of(book, one$field))
    if (length(none)) paste0(capital(spoken(one$field)), " ", and_list(none, 4),
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

# What was repaired or mended when the book was opened, and what is set aside.
opening_notes <- function(book) {
  done <- repairs_made(book)
  text <- c(if (NROW(done)) paste0("On opening: ", paste(done$text, collapse = "; "), "."),
            if (!is.null(book$aside))
              paste0("Set aside: lines where ", tree_words(book$aside), "."))
  new_notes(rep("opening", length(text)), as.character(text))
}

# The saved sets in use, and how they are defined.
set_reading <- function(trees) {
  is_saved <- function(t) t$kind == "within" && !is.null(t$set$name)
  used <- unlist(lapply(trees, nodes_where, is_saved), recursive = FALSE)
  if (!length(used)) return(NULL)
  text <- vapply(used, function(t) {
    paste0(quoted(t$set$name), " is ", fit_text(one_line(t$set$text), 200))
  }, "")
  paste(unique(text), collapse = ", ")
}

# The bands in use, and over what they were measured.
band_reading <- function(trees) {
  is_band <- function(t) t$kind %in% c("band", "banded")
  used <- unlist(lapply(trees, nodes_where, is_band), recursive = FALSE)
  if (!length(used)) return(NULL)
  text <- vapply(used, function(tree) {
    if (tree$kind == "band")
      return(paste(spoken(tree$name), "by", tree_text(tree$arg), "of the line"))
    paste0(spoken(tree$name), " by ", tree$of, " of each ", spoken(tree$whose),
           if (tree$over == "book") " over the whole book" else " over the lines shown")
  }, "")
  paste(unique(text), collapse = ", ")
}
