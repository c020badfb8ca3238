# Orders in two tables: the date stands in the register of orders, the amounts on the lines.

# The columns of the lines with the date of each one's order: the field that the person named, or
# the only date there is where the lines have none. Lines without an order have no date.
with_header_date <- function(columns, tables, args) {
  data <- columns$data
  named <- args$date
  if (!is.null(named) && !is.null(same_word(named, names(data)))) return(columns)
  for (key in intersect(names(tables), names(data))) {
    table <- tables[[key]]$table
    dates <- names(table)[vapply(table, inherits, NA, "Date")]
    if (!length(dates)) next
    field <- if (!is.null(named)) same_word(sub(paste0("^", key, "[.]"), "", named), dates) else
      if (length(dates) == 1 && grepl(order_words, column_word(key)) && !has_dates(data)) dates
    if (is.null(field) || field %in% names(data)) next
    known <- tables[[key]]$names
    orders <- plain_key(data[[key]])
    if (!is.null(args$match[[key]]))
      orders <- as_registered(orders, meeting_names(unique(orders), known, args$match[[key]])$to)
    at <- match(orders, known)
    columns$data[[field]] <- table[[field]][at]
    columns$header_fix <- fix("header", field, sum(is.na(at)), paste0(
      "periods go by ", field, " of the register of ", key, ": ", plural(sum(!is.na(at)), "line"),
      " with an order there, ", count_text(sum(is.na(at))), " without, ",
      plural(length(setdiff(known, orders)), "order"), " without lines"))
    return(columns)
  }
  columns
}

has_dates <- function(data) {
  any(vapply(names(data), function(name) {
    x <- data[[name]]
    inherits(x, c("Date", "POSIXct")) || (is.character(x) || is.factor(x)) &&
      mostly_dates(first_held(x), NULL, named_like_date(name))
  }, NA))
}
