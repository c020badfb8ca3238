# The answer of a study: its result, whose finding says what it stands on. A finding is read alone,
# as a title, on a slide or as one line, so the period, what it is compared with, the condition and
# the fewest orders stand before it.

# dated: the finding tells of periods itself; compared: it tells of a change; where: the condition
# to be said, where the finding says some of it itself.
new_answer <- function(q, study, table, settings, columns, finding, ..., book = q$book,
                       only = q$asked$only, dated = FALSE, compared = FALSE,
                       where = q$asked$only) {
  lead <- c(if (!dated) period_lead(q, compared),
            if (!is.null(where)) paste("where", fit_text(tree_words(where), 90)),
            if (!is.null(q$at_least))
              paste("of", level_words(q), "with at least", plural(q$at_least, order_word(q$book))))
  if (length(lead)) finding <- paste0(capital(paste(lead, collapse = ", ")), ": ", finding)
  new_result(study, table, settings, columns, finding, ..., book = book, only = only)
}

# "in 2026 to 16 September", "in quarter 2 of 2026, against quarter 2 of 2025"
period_lead <- function(q, compared = FALSE) {
  now <- q$asked$now
  if (is.null(now) || anyNA(c(now$from, now$to)) || identical(now$text, "all")) return(NULL)
  c(period_phrase(now, q$book), if (compared && !is.null(q$asked$before))
    paste("against", before_phrase(now, q$asked$before, q$book)))
}
