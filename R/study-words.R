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
  if (!anyNA(c(p$from, p$to)) && is_calendar_name(p) && identical(p$words, period_name(p)))
    return(sub("^in ", "", period_phrase(p, book)))
  span <- span_text(p$from, p$to)
  words <- if (p$words == span) span else paste0(p$words, ", ", span)
  if (grepl("^(last|this)", p$text))
    words <- paste0(words, ", counted back from ", date_text(book$as_of %||% last_day(book)))
  words
}

against_words <- function(period) {
  if (is_calendar_name(period)) {
    name <- period_name(period)
    before <- sub(",.*$", "", period$words)
    return(if (before == name) name else paste0(before, ", ", name))
  }
  span <- span_text(period$from, period$to)
  if (grepl(span, period$words, fixed = TRUE)) period$words else paste0(period$words, ", ", span)
}

condition_reading <- function(asked) {
  if (is.null(asked$only)) return(NULL)
  paste("only lines where", fit_text(tree_words(asked$only), 300))
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

# A field's noun: "account".
noun_of <- function(question, field) field_noun(question$book, field)

# The noun of what is asked for: "account", "combination of rep and territory".
each_word <- function(question) nouns_of(question, question$args$each)

nouns_of <- function(question, fields) {
  if (length(fields) == 1) return(noun_of(question, fields))
  fields <- paste(spoken(fields), collapse = " and ")
  noun(paste("combination of", fields), paste("combinations of", fields))
}

# "Accounts", "Combinations of rep and territory": how a reading begins.
each_words <- function(question) capital(plural_word(each_word(question)))

# "line", "order", "account"
level_word <- function(question) {
  each <- arg_or_null(question, "each")
  if (is.null(each)) "line" else if (identical(each, question$book$order)) "order" else
    nouns_of(question, each)
}

# "lines", "orders", "accounts", "combinations of rep and account"
level_words <- function(question) plural_word(level_word(question))

# The parts of a reading that every study has after its own beginning.
reading_tail <- function(question, ...) {
  parts <- c(period_reading(question$book, question$asked), condition_reading(question$asked),
             if (!is.null(question$asked$before)) paste("against",
                                                        against_words(question$asked$before)),
             band_reading(question_trees(question)), set_reading(question_trees(question)), ...)
  paste0(paste(parts, collapse = "; "), ".")
}

few_reading <- function(question) {
  least <- arg_or_null(question, "min_orders")
  if (!is.null(least)) paste("of", level_words(question), "with at least",
                             plural(least, order_word(question$book)))
}

# The settings every study has; empty ones are left out.
question_settings <- function(question, ...) {
  period <- function(p) if (!is.null(p)) list(from = format(p$from), to = format(p$to))
  Filter(Negate(is.null), list(
    ..., metrics = names(question$metrics), formulas = lapply(question$metrics, `[[`, "text"),
    better = lapply(question$metrics, `[[`, "better"),
    where = if (!is.null(question$asked$only)) tree_text(question$asked$only),
    when = period(question$asked$now), against = period(question$asked$before)))
}

# ", 22.0 % of the total"; nothing where there is no share, or a loss, which is no part of what is
# above zero.
of_the_total <- function(share, total = "total") {
  if (isTRUE(share >= 0)) paste0(", ", format_number(share, "percent"), " of the ", total) else ""
}
