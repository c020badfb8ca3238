# What studies of names have in common: fields of each name for a sheet to act on, and totals over
# some names.

# Fields to show beside names: the register's own, and those of the lines as on each name's latest
# line.
check_shown <- function(question) {
  args <- question$args
  with_args(question,
            with_fields = setdiff(named_fields(question$book, args$with_fields, "with_fields"),
                                  args$each))
}

# list(cells, columns) for names of the first dimension of `each`.
shown_fields <- function(question, names) {
  args <- question$args
  if (!length(args$with_fields)) return(list(cells = list(), columns = NULL))
  latest <- NULL
  cells <- lapply(stats::setNames(args$with_fields, args$with_fields), function(field) {
    row <- question$book$fields[match(field, question$book$fields$name), ]
    if (row$from == args$each[1]) {
      register <- question$book$registers[[row$from]]
      return(register$table[[row$column]][match(names, register$names)])
    }
    if (is.null(latest)) latest <<- latest_lines(question, names)
    as_dates(field_values(latest$book, field, latest$lines))
  })
  unit <- field_units(question, cells)
  cells[unit == "text"] <- lapply(cells[unit == "text"], as.character)
  list(cells = cells, columns = new_columns(args$with_fields, unname(unit)))
}

# The unit of each of several fields, by their values.
field_units <- function(question, cells) {
  money <- money_fields(question$book)
  vapply(stats::setNames(nm = names(cells)), function(field) {
    x <- cells[[field]]
    if (inherits(x, "Date")) "date" else if (!is.numeric(x)) "text" else
      if (field %in% money) "money" else "number"
  }, "")
}

# The latest line of each name, the last in the file of several; without dates the last one:
# list(lines, book), the book being one in which the lines can be looked up.
latest_lines <- function(question, names) {
  args <- question$args
  found <- source_latest(question$book$source, key_tree(question$book, args$each[1]),
                         question$book$date, kept_lines(question$book),
                         lapply(args$with_fields, key_tree, book = question$book))
  book <- question$book
  book$source <- found$source
  list(lines = rev(found$line)[match(names, rev(found$name))], book = book)
}

# The metrics of some names together, recalculated from their lines.
total_of_names <- function(question, names, where = question$asked$where_now) {
  these <- these_names(question, stats::setNames(list(names), question$args$each[1]))
  fold <- fold_question(question, character(), where = and_also(where, these))
  as.list(fold$values[1, names(question$metrics), drop = FALSE])
}

# Values of names from a fold by them; names without lines have nothing, or no value.
metrics_of_names <- function(question, names, fold) {
  at <- match(names, fold$keys[[1]])
  out <- lapply(question$metrics, function(m) {
    v <- fold$values[[m$name]][at]
    if (m$zero) v[is.na(at)] <- 0
    v
  })
  as.data.frame(out, optional = TRUE)
}

# All dimensions but those given, positions of lines within orders, and fields that only name a
# register's names once more; of the registers in `own` those too are kept.
telling_dimensions <- function(book, but, own = NULL) {
  labels <- unlist(lapply(setdiff(names(book$registers), own), label_fields, book = book))
  positions <- book$fields$name[book$fields$why %in% positions_why]
  setdiff(dimensions_of(book), c(but, labels, book$labels, positions))
}

# The fields of a register that tell (nearly) every name from every other.
label_fields <- function(book, dimension) {
  fields <- named_once(book$fields[book$fields$from == dimension, ])
  fields$name[fields$column %in% naming_columns(book$registers[[dimension]])]
}

# The names of a dimension in the order people expect: parts of dates and bands in their own, others
# by the values given, best first; "(none)" last.
natural_order <- function(book, field, names, value = NULL) {
  tree <- key_tree(book, field)
  if (tree$kind == "computed") tree <- tree$tree
  own <- switch(tree$kind, bucket = if (tree$part == "weekday") weekday_levels else
    sort(unique(names), method = "radix"), band = , banded = shown_names(tree$labels))
  if (is.null(own)) {
    by_name <- order(names, method = "radix")
    own <- if (is.null(value)) names[by_name] else
      names[by_name][order(-value[by_name], na.last = TRUE)]
  }
  c(setdiff(own[own %in% names], "(none)"), intersect(names, "(none)"))
}

# Values of a field, computed ones included, for some lines.
field_values <- function(book, name, lines) {
  tree <- key_tree(book, name)
  if (tree$kind == "name") return(source_lines(book$source, lines, name)[[1]])
  if (is_text(book$source, tree)) {
    column <- coded_tree(book$source, tree)
    return(c(NA, column$levels)[column$codes[lines] + 1L])
  }
  value <- scaled_value(row_values(book$source, tree))[lines]
  if (row_type(tree, known_to(book)) == "date") as_day(value) else value
}
