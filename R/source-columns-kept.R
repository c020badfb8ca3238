# The columns of lines in memory: as they are, coded, and as whole numbers.

field_at <- function(source, name) {
  as.list(source$fields[match(name, source$fields$name), ])
}

# A column of the lines. One that was not brought from a database would count as no lines at all.
held_column <- function(source, field) {
  out <- source$columns[[field$column]]
  if (is.null(out)) stop("The field ", field$name, " is wanted of lines that came without it.")
  out
}

# The coded form of a field: list(codes, levels).
coded_field <- function(source, name) {
  if (is.null(source$coded[[name]])) {
    column <- with_lines(code_field(source, name))
    column$codes <- lay_aside(column$codes)
    source$coded[[name]] <- column
  }
  source$coded[[name]]
}

code_field <- function(source, name) {
  # Some lines by themselves, without a look at the names of all.
  if (isTRUE(source$apart)) {
    x <- raw_field(source, name)
    return(code_column(if (is.factor(x)) as.character(x) else as_dates(x)))
  }
  if (!is.null(source$whole)) return(take_codes(coded_field(source$whole, name), source$rows))
  field <- field_at(source, name)
  if (field$from == "lines") code_column(as_dates(held_column(source, field))) else
    code_register_field(source, field)
}

take_codes <- function(column, rows) list(codes = column$codes[rows], levels = column$levels)

# A field's values as given, one for each line. A register may itself be keyed by a register's
# field.
raw_field <- function(source, name) {
  if (!is.null(source$whole)) return(raw_field(source$whole, name)[source$rows])
  field <- field_at(source, name)
  if (field$from == "lines") return(held_column(source, field))
  register <- source$registers[[field$from]]
  key <- raw_field(source, field$from)
  register$table[[field$column]][match(plain_key(key), register$names)]
}

# The numbers of a field (dates as days), as a scaled vector.
scaled_field <- function(source, name) {
  if (is.null(source$scaled[[name]])) {
    value <- if (is.null(source$whole))
      scale_column(as.vector(unclass(as_dates(raw_field(source, name))))) else
      take(scaled_field(source$whole, name), source$rows)
    value$v <- lay_aside(value$v)
    source$scaled[[name]] <- value
  }
  source$scaled[[name]]
}

# Times of day count for hour() and part_of_day() only; everywhere else a time is its day.
as_dates <- function(x) if (inherits(x, "POSIXct")) as.Date(x, tz = "UTC") else x

code_register_field <- function(source, field) {
  base <- coded_field(source, field$from)
  register <- source$registers[[field$from]]
  code_through(base$codes, base$levels, register$names, register$table[[field$column]])
}

plain_key <- function(x) {
  if (is.character(x)) return(x)
  plain_text(if (is.factor(x)) as.character(x) else x)
}
