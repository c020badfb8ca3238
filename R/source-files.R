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
  if (is(as.raw(c(0x50, 0x4b, 3, 4))) && grepl("\\.xls[xm]$", path, ignore.case = TRUE) ||
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
  read <- switch(kind, parquet = read_parquet_file(path, what, spec$columns),
                 sheet = read_sheet_file(path, what, spec),
                 read_table_file(path, what, switches, names, like_names, role_of,
                                 spec$columns))
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

read_sheet_file <- function(path, what, spec) {
  needs_package("readxl", "A spreadsheet")
  asked <- function(code) {
    tryCatch(code, error = function(e) {
      if (inherits(e, "ll_error")) stop(e)
      file_error(path, "cannot be read as a spreadsheet",
                 x = paste0(fit_text(one_line(conditionMessage(e)), 160), "."))
    })
  }
  sheet <- asked(sheet_of(path, spec$sheet))
  skip <- 0
  fixes <- if (is.null(spec$sheet) && sheet != asked(readxl::excel_sheets(path))[1])
    fix("sheet", NA, 1, paste0("the sheet ", quoted(sheet), " is read, since the first holds no table; ",
                               "--sheet (sheet: in a brief) chooses another"))
  if (is.null(spec$range)) {
    skip <- if (is.null(spec$header_row)) asked(sheet_header(path, sheet)) - 1 else
      check_whole(spec$header_row, "header_row", list(from = 1)) - 1
    if (skip && is.null(spec$header_row))
      fixes <- rbind(fixes, fix("title_rows", NA, skip, paste0(plural(skip, "row"),
                                                               " above the header skipped")))
  }
  table <- asked(suppressMessages(suppressWarnings(as.data.frame(readxl::read_excel(
    path, sheet, range = spec$range, skip = skip, guess_max = 2^20, .name_repair = "minimal")))))
  named <- nzchar(names(table)) & !is.na(names(table))
  blank <- vapply(table, function(x) all(is.na(x)), NA)
  lost <- which(!named & !blank)
  if (length(lost))
    file_error(path, paste0("has a column without a name (the ", lost[1], "th)"),
               i = "Name it in the sheet, or give the range of the table: range: A3:F500.")
  table <- table[named]
  table <- table[rowSums(!is.na(table)) > 0, , drop = FALSE]
  rownames(table) <- NULL
  table[] <- lapply(table, sheet_column)
  check_read_table(table, path, what)
  list(data = table, fixes = fixes, records = NULL)
}

# A sheet by its name or number; if not given the first that holds a table, which a cover does not.
sheet_of <- function(path, sheet) {
  sheets <- readxl::excel_sheets(path)
  if (is.null(sheet)) {
    for (name in if (length(sheets) > 1) sheets) if (holds_table(path, name)) return(name)
    return(sheets[1])
  }
  if (sheet %in% sheets) return(sheet)
  number <- suppressWarnings(as.integer(sheet))
  if (!is.na(number) && number >= 1 && number <= length(sheets)) return(sheets[number])
  ll_abort(c(paste0("The file ", quoted(path), " has no sheet called ", quoted(sheet), "."),
             offer(as.character(sheet), sheets, "Sheets")), "word")
}

# Whether three rows one below the other have three cells or more filled, or two in all columns.
holds_table <- function(path, sheet) {
  head <- suppressMessages(as.data.frame(readxl::read_excel(
    path, sheet, range = readxl::cell_rows(c(1, 60)), col_names = FALSE, col_types = "text",
    .name_repair = "minimal")))
  if (ncol(head) < 2) return(FALSE)
  filled <- rowSums(!is.na(head))
  wide <- filled >= max(2, ceiling(max(filled) / 2))
  any(wide & c(FALSE, wide[-length(wide)]) & c(FALSE, FALSE, wide[seq_len(max(length(wide) - 2, 0))]))
}

# Rows above the header hold few cells; the header is the first that holds more.
sheet_header <- function(path, sheet) {
  head <- suppressMessages(as.data.frame(readxl::read_excel(
    path, sheet, range = readxl::cell_rows(c(1, 50)), col_names = FALSE, col_types = "text",
    .name_repair = "minimal")))
  filled <- rowSums(!is.na(head))
  if (!length(filled) || !any(filled > 0)) file_error(path, "holds only blank cells in this sheet")
  width <- as.integer(names(which.max(table(filled[filled > 0]))))
  c(which(filled > max(1, floor(width * .4))), which(filled > 0))[1]
}

# Times at midnight are days.
sheet_column <- function(x) {
  if (!inherits(x, "POSIXct")) return(tidy_column(x))
  seconds <- as.numeric(x) %% 86400
  if (all(is.na(seconds) | seconds == 0)) as.Date(x) else tidy_column(x)
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
