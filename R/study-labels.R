# Names as sentences call them, and with what is known of them.

# Names as sentences call them: "Quarry Combe Garden Centre (03085)".
told_as <- function(question, field, names) {
  told <- with_labels_of(question$book, field, names, own_names(names))
  incomplete <- incomplete_names(question$book, field, names)
  ifelse(is.na(incomplete), told, paste0(told, " (", incomplete, ")"))
}

# Of names that are periods and that the lines cover in part: to which day; missing for all others.
incomplete_names <- function(book, field, names) {
  out <- rep(NA_character_, length(names))
  part <- book_date_part(book, field)
  if (is.null(part)) return(out)
  # Only the periods at the ends of the book may be.
  ends <- bucket_labels(as.integer(c(first_day(book), last_covered(book))), part, book$calendar)
  out[names %in% ends] <- vapply(names[names %in% ends], function(name) {
    period <- read_period(name, book_dates(book, "when"))
    covered <- covered_part(period, book)
    if (is.null(covered)) return(NA_character_)
    paste(c(if (covered$from > period$from) paste("from", day_of_year(covered$from)),
            if (covered$to < period$to) paste("to", day_of_year(covered$to))), collapse = " ")
  }, "")
  out
}

# The part of the book's date that a dimension is made of, where its names are periods: "year".
book_date_part <- function(book, field) {
  tree <- key_tree(book, field)
  if (tree$kind == "computed") tree <- tree$tree
  if (tree$kind != "bucket" || tree$arg$kind != "name" || !identical(tree$arg$name, book$date) ||
        !length(book$days) || tree$part %in% c("weekday", time_parts, "day"))
    return(NULL)
  tree$part
}

# The same of rows of keys, several dimensions joined by a dot; of more than three rows without the
# codes, where no two are called alike.
told_as_keys <- function(question, keys, rows = seq_along(keys[[1]])) {
  tell <- if (length(keys[[1]][rows]) > 3) short_names else told_as
  one <- function(field) tell(question, field, keys[[field]][rows])
  do.call(paste, c(lapply(names(keys), one), sep = " \u00b7 "))
}

# The same where they were told before: what they are called alone, if no two are called alike.
short_names <- function(question, field, names) {
  labels <- labels_of(question$book, field, own_names(names))
  first <- labels[!duplicated(names)]
  alone <- !is.na(labels) & !labels %in% first[duplicated(first)]
  ifelse(alone, one_line(labels), told_as(question, field, names))
}

# Keys with "(none)" for lines without a name.
named_keys <- function(keys) lapply(keys, shown_names)

own_keys <- function(keys) lapply(keys, own_names)
