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
