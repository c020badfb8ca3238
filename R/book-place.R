# Where the lines are: what a person gives as `lines`, a data frame, paths, a connection, or a list
# that says more.


# list(con, table, query), list(file, spec) or list(lines) for a data frame.
lines_place <- function(lines, table = NULL, query = NULL) {
  if (is_connection(lines)) return(list(con = lines, table = table, query = query))
  if (!is.null(table) || !is.null(query))
    ll_abort(c("'table' and 'query' belong to lines in a database.",
               i = "Give the connection as 'lines': ll_book(con, table = \"order_lines\")."),
             "argument")
  if (is.data.frame(lines)) return(list(lines = lines))
  if (is.character(lines)) lines <- list(file = lines)
  if (!is.list(lines) || !length(names(lines))) check_frame(lines, "lines")
  known <- names(lines_spec()$keys)
  unknown <- setdiff(names(lines) %||% "", known)
  if (length(unknown))
    ll_abort(c(paste0("'lines' has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  far <- !is.null(lines$connect)
  of_database <- c("connect", "table", "query")
  odd <- intersect(names(lines), if (far) setdiff(known, of_database) else of_database)
  if (length(odd))
    ll_abort(c(paste0("'", odd[1], "' of 'lines' does not go with ", if (far) "'connect'." else
      "files."), i = "Lines are in files (file: ...) or in a database (connect: ..., table: ...)."),
      "argument")
  if (!far) return(files_place(lines))
  given <- is_connection(lines$connect)
  list(con = if (given) lines$connect else connect_to(lines$connect), ours = !given,
       table = lines$table, query = lines$query)
}

# Whole paths of the files that a book is read from, databases in files included. What was read is
# never written over.
files_named <- function(lines, registers, sets) {
  of <- function(given) {
    if (is.data.frame(given) || is_connection(given)) return(NULL)
    if (is.character(given)) return(expand_files(given))
    if (!is.list(given)) return(NULL)
    table <- if (is.character(given$table) && is.null(given$connect)) given$table
    c(if (length(given$file)) expand_files(unlist(given$file)), table,
      if (is.list(given$connect)) unlist(given$connect[c("file", "dbname")]))
  }
  beside <- lapply(unname(sets), function(set) if (is.list(set)) list(file = set$file))
  found <- unlist(lapply(c(list(lines), unname(registers), beside), of))
  if (length(found)) normalizePath(found[file.exists(found)]) else character()
}

files_place <- function(lines) {
  paths <- unlist(lines$file)
  if (!is.character(paths) || !length(paths) || anyNA(paths) || !all(nzchar(paths)))
    ll_abort(c("'lines' must be a data frame, the path of a file, or a connection.",
               x = paste0("It is ", shown(paths), ".")), "argument")
  spec <- lines[setdiff(names(lines), "file")]
  if (!is.null(spec$columns)) spec$columns <- check_words(unlist(spec$columns), "columns of lines")
  files <- expand_files(paths)
  if (!is.null(spec$through)) return(through_place(files, spec))
  list(file = files, spec = spec)
}

# Files that are asked where they lie, by an engine that reads them in pieces.
through_place <- function(files, spec) {
  check_choice(spec$through, "through of lines", list(choices = "duckdb"))
  odd <- intersect(names(spec), c("sheet", "range", "header_row", "source_field", "encoding"))
  if (length(odd))
    ll_abort(paste0("'", odd[1], "' does not go with 'through'."), "argument")
  for (file in files) check_readable(file, "lines")
  kinds <- vapply(files, file_kind, "")
  if (any(kinds == "sheet")) file_error(files[kinds == "sheet"][1], "is a spreadsheet",
                                        i = "'through' is for CSV and Parquet.")
  if (length(unique(kinds)) > 1)
    ll_abort("'through' takes files of one kind: all CSV, or all Parquet.", "argument")
  con <- open_duckdb()
  list_of <- paste0("[", paste(DBI::dbQuoteString(con, normalizePath(files, "/")),
                               collapse = ", "), "]")
  reader <- if (kinds[1] == "parquet") "read_parquet(" else "read_csv("
  columns <- if (is.null(spec$columns)) "*" else
    paste(quoted_name(con, spec$columns), collapse = ", ")
  list(con = con, query = paste0("SELECT ", columns, " FROM ", reader, list_of,
                                 ", union_by_name = true)"), ours = TRUE)
}

# DuckDB in memory; those who have it by another driver give a function that opens it.
open_duckdb <- function() {
  own <- getOption("longladder.duckdb")
  if (is.function(own)) own() else connect_to(list(driver = "duckdb"))
}
