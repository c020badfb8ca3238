# What studies of names have in common: fields of each name for a sheet to act on, and totals over
# some names.

# Fields to show beside names: the register's own, and those of the lines as on each name's latest
# line.
check_shown <- function(q) {
  q$show <- setdiff(named_fields(q$book, q$show, "show"), q$each)
  q
}

# list(cells, columns) for names of the first dimension of `each`.
shown_fields <- function(q, names) {
  if (!length(q$show)) return(list(cells = list(), columns = NULL))
  latest <- NULL
  cells <- lapply(stats::setNames(q$show, q$show), function(field) {
    row <- q$book$fields[match(field, q$book$fields$name), ]
    if (row$from == q$each[1]) {
      register <- q$book$registers[[row$from]]
      return(register$table[[row$column]][match(names, register$names)])
    }
    if (is.null(latest)) latest <<- latest_lines(q, names)
    as_dates(field_values(latest$book, field, latest$lines))
  })
  unit <- field_units(q, cells)
  cells[unit == "text"] <- lapply(cells[unit == "text"], as.character)
  list(cells = cells, columns = new_columns(q$show, unname(unit)))
}

# The unit of each of several fields, by their values.
field_units <- function(q, cells) {
  money <- money_fields(q$book)
  vapply(stats::setNames(nm = names(cells)), function(field) {
    x <- cells[[field]]
    if (inherits(x, "Date")) "date" else if (!is.numeric(x)) "text" else
      if (field %in% money) "money" else "number"
  }, "")
}

# The latest line of each name, the last in the file of several; without dates the last one:
# list(lines, book), the book being one in which the lines can be looked up.
latest_lines <- function(q, names) {
  found <- source_latest(q$book$source, key_tree(q$book, q$each[1]), q$book$date,
                         kept_lines(q$book), lapply(q$show, key_tree, book = q$book))
  book <- q$book
  book$source <- found$source
  list(lines = rev(found$line)[match(names, rev(found$name))], book = book)
}

# The metrics of some names together, folded again from their lines.
total_of_names <- function(q, names, where = q$asked$where_now) {
  as.list(fold_question(q, character(), where = and_also(
    where, these_names(q, stats::setNames(list(names), q$each[1]))))$values[1, names(q$metrics),
                                                                        drop = FALSE])
}

# Values of names from a fold by them; names without lines have nothing, or no value.
metrics_of_names <- function(q, names, fold) {
  at <- match(names, fold$keys[[1]])
  out <- lapply(q$metrics, function(m) {
    v <- fold$values[[m$name]][at]
    if (m$zero) v[is.na(at)] <- 0
    v
  })
  as.data.frame(out, optional = TRUE)
}

# All dimensions but those given and fields that only name a register's names once more; of the
# registers in `own` those too are kept.
telling_dimensions <- function(book, but, own = NULL) {
  labels <- unlist(lapply(setdiff(names(book$registers), own), label_fields, book = book))
  setdiff(dimensions_of(book), c(but, labels))
}

# Fields of a register that tell (nearly) every name from every other: the first is its label.
label_fields <- function(book, dimension) {
  table <- book$registers[[dimension]]$table
  unique_to <- vapply(table, function(x) {
    is.character(x) && length(unique(x)) >= .9 * length(x)
  }, NA)
  fields <- named_once(book$fields[book$fields$from == dimension, ])
  fields$name[fields$column %in% names(table)[unique_to]]
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

# An empty row of a table for its foot, with a label where the names stand.
foot_row <- function(table, each, label) {
  out <- table[NA_integer_, , drop = FALSE][1, ]
  out[each] <- c(list(label), rep(list(""), length(each) - 1))
  out
}
