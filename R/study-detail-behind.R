# Detail, continued: the lines behind a row or cell of another result.
#
# A result tells them by its `behind`, a list of any of
#   keys     fields whose names stand in the table's columns, named by those columns; a row's lines
#            bear its names
#   of       the column that holds the field of each row, for tables of several dimensions
#   kept     for a field, the names that the row "everyone else" is not
#   rows     conditions, as trees, one for each row (NULL where a row stands for no set of lines)
#   columns  conditions of value columns, named

# The question of a result's row, or of one cell of it: its conditions and period, and its names.
narrow_to_row <- function(question, result, row, column) {
  result <- inner_result(result)
  fold <- facts(result)
  behind <- fold$behind
  if (!length(behind))
    ll_abort(c(paste0("The rows of ", fold$study, " do not stand for lines."),
               i = "Give conditions instead: ll_detail(book, where = ...)."), "argument")
  if (is.null(row) || row > nrow(result))
    ll_abort(paste0("'row' must be one of the ", plural(nrow(result), "row"), " of the result."),
             "argument")
  if (is.null(question$asked$now) && !is.null(fold$settings$when)) {
    from <- as.Date(fold$settings$when$from)
    to <- as.Date(fold$settings$when$to)
    now <- period(from, to, "row", span_text(from, to))
    question <- with_asked(question, now = now, period_now = in_period(question$book, now))
  }
  only <- and_also(question$asked$only, fold$only)
  inside <- and_also(kept_lines(question$book), and_also(only, question$asked$period_now))
  question <- with_asked(question, only = only, where_now = inside)
  cells <- as.data.frame(result)[row, , drop = FALSE]
  with_condition(question, and_also(row_condition(question, behind, cells, row),
                                    column_condition(behind, column)))
}

row_condition <- function(question, behind, cells, row) {
  if (!is.null(behind$rows)) {
    if (is.null(behind$rows[[row]]))
      ll_abort(paste0("Row ", row, " does not stand for a set of lines."), "argument")
    return(behind$rows[[row]])
  }
  keys <- behind$keys
  if (!is.null(behind$of)) keys[] <- cells[[behind$of]]
  out <- NULL
  for (column in names(keys)) out <- and_also(out, name_condition(
    question, keys[[column]], cells[[column]], behind$kept[[keys[[column]]]]))
  out
}
