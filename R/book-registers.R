# Registers: the tables of all names of a dimension that should exist, with their own fields.

open_registers <- function(registers, columns) {
  if (is.null(registers)) return(list())
  if (is.null(names(registers)) || any(!nzchar(names(registers))))
    ll_abort("'registers' must be named after their dimensions: list(account = accounts).",
             "argument")
  thunks <- lapply(names(registers), function(dimension) {
    function() open_register(dimension, registers[[dimension]], columns)
  })
  stats::setNames(do.call(together, thunks), names(registers))
}

open_register <- function(dimension, given, columns) {
  if (!dimension %in% columns)
    ll_abort(c(paste0("The register ", quoted(dimension), " needs a field of that name."),
               offer(dimension, columns, "Fields")), "word")
  spec <- if (is.data.frame(given) || !is.list(given)) list(table = given) else given
  table <- spec$table %||% spec$file
  if (is.character(table)) table <- read_table_file(table, "names")
  table <- check_frame(table, paste("register", dimension))
  key <- spec$key %||% dimension
  if (!key %in% names(table))
    ll_abort(c(paste0("The register of ", dimension, " has no column ", quoted(key), "."),
               offer(key, names(table), "Columns"),
               i = "Name its key column: list(table = , key = )."), "word")
  names <- table[[key]]
  if (is.factor(names)) names <- as.character(names)
  names <- as_utf8(plain_key(names))
  blank <- is_blank(names)
  twice <- duplicated(names) & !blank
  keep <- !blank & !twice
  fields <- table[keep, setdiff(names(table), key), drop = FALSE]
  fields[] <- Map(function(x, n) read_date_column(x, n, paste("the register of", dimension)),
                  fields, names(fields))
  list(names = names[keep], table = fields, key = key, twice = sum(twice), blank = sum(blank))
}

# Rows of the field table for a register's fields: always as dimension.field, and under the plain
# name where no other field bears it.
register_fields <- function(dimension, register, taken) {
  lapply(names(register$table), function(field) {
    free <- !field %in% c(taken, reserved_names)
    x <- register$table[[field]]
    row <- describe_column(x, field)
    # Numbers in a register belong to the name, not to the line: they are read, never added up.
    if (row$role == "identifier") row$role <- "dimension"
    row$why <- paste0("register of ", dimension)
    known <- paste0(dimension, ".", field)
    cbind(data.frame(name = if (free) c(field, known) else known, column = field,
                     from = dimension), row, row.names = NULL)
  })
}

# How lines and register agree: names on lines that the register lacks, and the reverse.
register_match <- function(book, dimension) {
  register <- book$registers[[dimension]]
  seen <- names_of(book, dimension)
  list(unknown = setdiff(seen, register$names), unused = setdiff(register$names, seen),
       twice = register$twice)
}

# All names of a field that the lines of the whole book know.
names_of <- function(book, field) {
  coded_field(book$source, field)$levels
}
