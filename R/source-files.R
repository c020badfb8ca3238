# Files of lines of every kind: text tables, Parquet, spreadsheets; several of them as one table.


# Paths, and patterns in which * stands for any letters and ? for one, as paths; each once.
expand_files <- function(paths) {
  found <- lapply(paths, function(path) {
    if (file.exists(path) || !grepl("[*?[]", path)) return(path)
    hits <- sort(Sys.glob(path), method = "radix")
    hits <- hits[!dir.exists(hits)]
    if (!length(hits))
      file_error(path, "matches no file",
                 i = paste0("Looked in ", quoted(dirname(path)), "; * stands for any letters."))
    hits
  })
  unique(unlist(found))
}

# What kind of table a file is, by its first bytes; old and new spreadsheets, Parquet, else text.
file_kind <- function(path) {
  start <- readBin(path, "raw", 8)
  is <- function(bytes) length(start) >= length(bytes) && all(start[seq_along(bytes)] == bytes)
  if (is(charToRaw("PAR1"))) return("parquet")
  if (is(as.raw(c(0x50, 0x4b, 3, 4))) && grepl("\\.xls[xm]$", path, ignore.case = TRUE, perl = TRUE) ||
        is(as.raw(c(0xd0, 0xcf, 0x11, 0xe0)))) return("sheet")
  "text"
}

# One file, whatever its kind: list(data, fixes, records, total_line, roles), see
# read_table_file(). `spec` holds columns, sheet, range and header_row where given.
read_file <- function(path, what = "lines", switches = all_fixes, spec = list(),
                      names = character(), like_names = NULL, role_of = NULL) {
  check_readable(path, what)
  kind <- file_kind(path)
  odd <- intersect(base::names(spec), c("sheet", "range", "header_row"))
  if (kind != "sheet" && length(odd))
    ll_abort(c(paste0("'", odd[1], "' belongs to spreadsheets, and ", quoted(path), " is none."),
               i = "Leave it out."), "argument")
  if (kind != "text" && !is.null(spec$encoding))
    ll_abort(c(paste0("'encoding' belongs to text tables, and ", quoted(path), " is none."),
               i = "Leave it out."), "argument")
  read <- switch(kind, parquet = read_parquet_file(path, what, spec$columns),
                 sheet = read_sheet_file(path, what, spec),
                 read_table_file(path, what, switches, names, like_names, role_of,
                                 spec$columns, check_encoding_word(spec$encoding)))
  if (!is.null(spec$columns) && kind != "parquet")
    read$data <- read$data[known_columns(spec$columns, base::names(read$data), path)]
  read
}

known_columns <- function(wanted, names, path) {
  unknown <- setdiff(wanted, names)
  if (length(unknown))
    ll_abort(c(paste0("There is no column ", quoted(unknown[1]), " in the file ", quoted(path),
                      "."), offer(unknown[1], names, "Columns")), "word")
  wanted
}

read_parquet_file <- function(path, what, columns = NULL) {
  needs_package("nanoparquet", "A Parquet file")
  broken <- function(e) {
    file_error(path, "cannot be read as Parquet",
               x = paste0(fit_text(one_line(conditionMessage(e)), 160), "."))
  }
  # Names first, so that a wrong one is told and not many columns are read for few.
  names <- tryCatch(nanoparquet::read_parquet_schema(path), error = broken)
  names <- names$name[is.na(names$num_children) | names$num_children == 0]
  check_header_size(names, paste0("The file ", quoted(path)), "file")
  if (!is.null(columns)) known_columns(columns, names, path)
  check_lines(tryCatch(nanoparquet::read_parquet_info(path)$num_rows, error = broken), path)
  table <- tryCatch(as.data.frame(nanoparquet::read_parquet(path, col_select = columns)),
                    error = broken)
  table <- plain_columns(table, function(names, types) {
    file_error(path, paste0("has a column of a type that cannot be used: ", quoted(names[1])),
               x = paste0("It ", types[1], "."),
               i = "Leave it out: lines: {file: ..., columns: [...]}.")
  })
  table[] <- lapply(table, function(x) {
    if (is.factor(x)) as.character(x) else tidy_column(x)
  })
  check_read_table(table, path, what)
  list(data = table, fixes = NULL, records = NULL)
}

# Tables of several files as one: columns matched by name. A column that a file lacks is missing on
# its lines; one that is of different kinds becomes text. Both are reported.
bind_tables <- function(tables, files) {
  names <- unique(unlist(lapply(tables, names)))
  size <- vapply(tables, function(t) length(t[[1]]), 0L)
  fixes <- NULL
  data <- lapply(stats::setNames(names, names), function(name) {
    there <- vapply(tables, function(t) name %in% names(t), NA)
    if (!all(there))
      fixes <<- rbind(fixes, fix("columns", name, sum(size[!there]), paste0(
        "the column ", name, " is not in ", and_list(quoted(basename(files[!there])), 3),
        ": missing on ", plural(sum(size[!there]), "line"))))
    parts <- lapply(tables, function(t) t[[name]])
    kinds <- unique(vapply(parts[there], kind_of_column, ""))
    kinds <- setdiff(kinds, "empty")
    if (length(kinds) > 1) {
      fixes <<- rbind(fixes, fix("columns", name, sum(size), paste0(
        "the column ", name, " holds ", and_list(kinds), " in different files and is read as ",
        "text")))
      parts <- lapply(parts, function(x) if (is.null(x)) x else plain_key(x))
    }
    none <- gap_like(parts[there])
    parts <- unname(Map(function(x, n) {
      if (is.null(x) || kind_of_column(x) == "empty") rep(none, n) else x
    }, parts, size))
    # Files read in pieces have texts as factors.
    if (any(vapply(parts, is.factor, NA))) bind_pieces(lapply(parts, numbered_texts)) else
      join_parts(parts)
  })
  list(data = data, fixes = fixes)
}
