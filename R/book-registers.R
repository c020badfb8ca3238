# Registers: the tables of all names of a dimension that should exist, with their own fields.

# list(tables, fixes)
open_registers <- function(registers, columns, switches, con = NULL) {
  if (is.null(registers)) return(list(tables = list()))
  if (is.null(names(registers)) || any(!nzchar(names(registers))))
    ll_abort("'registers' must be named after their dimensions: list(account = accounts).",
             "argument")
  names(registers) <- vapply(names(registers), function(name) {
    if (name %in% columns) name else same_word(name, columns) %||% name
  }, "")
  if (length(registers) == 1) check_register_keys(registers, columns)
  thunks <- lapply(names(registers), function(dimension) {
    function() open_register(dimension, registers[[dimension]], switches, con)
  })
  tables <- stats::setNames(do.call(together, thunks), names(registers))
  check_register_keys(tables, columns)
  list(tables = tables, fixes = do.call(rbind, lapply(tables, `[[`, "fixes")))
}

# A register is keyed by a field of the lines, or by a field of another register that is.
check_register_keys <- function(tables, columns) {
  known <- columns
  waiting <- names(tables)
  while (length(ready <- intersect(waiting, known))) {
    fields <- lapply(tables[ready], function(t) if (is.list(t)) names(t$table))
    known <- c(known, unlist(fields))
    waiting <- setdiff(waiting, ready)
  }
  if (length(waiting))
    ll_abort(c(paste0("The register ", quoted(waiting[1]), " needs a field of that name."),
               offer(waiting[1], unique(known), "Fields")), "word")
}

# A register as a list of what is said of it: of a frame or a path, its table.
register_parts <- function(given) {
  if (is.data.frame(given) || !is.list(given)) list(table = given) else given
}

open_register <- function(dimension, given, switches, con = NULL) {
  spec <- register_parts(given)
  known <- book_keys("registers")
  unknown <- setdiff(names(spec), known)
  if (length(unknown))
    ll_abort(c(paste0("The register of ", dimension, " has an unknown key ", quoted(unknown[1]),
                      "."), offer(unknown[1], known, "Keys")), "word")
  table <- spec$table %||% spec$file
  where <- paste("the register of", dimension)
  fixes <- NULL
  if (!is.null(spec$connect)) {
    table <- register_of_database(spec, con, where)
  } else if (is.character(table)) {
    read <- read_side_table(table, where, switches, spec[intersect(names(spec), sheet_keys)],
                            spec$key %||% dimension)
    table <- read$table
    fixes <- read$fixes
    if (!is.null(fixes)) fixes$text <- paste0(where, ": ", fixes$text)
  }
  table <- check_frame(table, paste("register", dimension))
  key <- spec$key %||% dimension
  if (!key %in% names(table)) key <- same_word(key, names(table)) %||% key
  if (!key %in% names(table))
    ll_abort(c(paste0("The register of ", dimension, " has no column ", quoted(key), "."),
               offer(key, names(table), "Columns"),
               i = "Name its key column: list(table = , key = )."), "word")
  keyed_register(table, key, where, fixes)
}

sheet_keys <- c("sheet", "range", "header_row", "encoding")

# A register that is a table or a query in a database: that of the lines, or another.
register_of_database <- function(spec, con, where) {
  own <- spec$connect
  if (identical(own, "lines")) {
    if (is.null(con))
      ll_abort(paste0("'connect: lines' of ", where, " needs lines that are in a database."),
               "argument")
    own <- con
  }
  if (!is_connection(own)) {
    own <- connect_to(own)
    on.exit(DBI::dbDisconnect(own))
  }
  whole_table(own, spec$table, spec$query)
}

# A file that stands beside the lines: list(table, fixes). `key` are columns that name things.
read_side_table <- function(file, where, switches = all_fixes, spec = list(), key = character()) {
  read <- read_file(file, "names", switches, spec, key, role_of = role_finder(list(), key))
  made <- prepare_columns(as.list(read$data), list(), switches, where, TRUE)
  table <- as.data.frame(made$data, optional = TRUE)
  names(table) <- names(read$data)
  list(table = table, fixes = rbind(read$fixes, made$fixes))
}

keyed_register <- function(table, key, where, fixes) {
  names <- as_utf8(plain_key(table[[key]]))
  blank <- is_blank(names)
  twice <- duplicated(names) & !blank
  keep <- !blank & !twice
  fields <- table[keep, setdiff(names(table), key), drop = FALSE]
  for (n in names(fields)) refuse_infinite(fields[[n]], n, where)
  fields[] <- Map(function(x, n) as_dates(read_date_column(x, n, where)$value), fields,
                  names(fields))
  list(names = names[keep], table = fields, key = key, rows = nrow(table), twice = sum(twice),
       blank = sum(blank), fixes = fixes)
}

# How lines and register agree: names on lines that the register lacks, and the reverse.
register_match <- function(book, dimension) {
  register <- book$registers[[dimension]]
  seen <- names_of(book, dimension)
  list(seen = seen, unknown = setdiff(seen, register$names),
       unused = setdiff(register$names, seen), twice = register$twice, rows = register$rows,
       blank = register$blank)
}

# The registers that fields come from, those that key a register included.
registers_used <- function(book, fields) {
  from <- intersect(book$fields$from[match(fields, book$fields$name)], names(book$registers))
  if (length(from)) union(from, registers_used(book, from)) else character()
}
