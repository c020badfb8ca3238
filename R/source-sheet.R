# Reading a table from a spreadsheet: which sheet, where its header stands, and cells as they are.

read_sheet_file <- function(path, what, spec) {
  needs_package("readxl", "A spreadsheet")
  asked <- function(code) {
    tryCatch(code, error = function(e) {
      if (inherits(e, "ll_error")) stop(e)
      file_error(path, "cannot be read as a spreadsheet",
                 x = paste0(fit_text(one_line(conditionMessage(e)), 160), "."))
    })
  }
  sheets <- asked(readxl::excel_sheets(path))
  chosen <- asked(sheet_of(path, spec$sheet, sheets))
  sheet <- chosen$name
  parts <- asked(sheet_parts(path, match(sheet, sheets)))
  shape <- asked(sheet_shape(path, sheet, spec, parts, chosen$head))
  cells <- asked(cells_of_sheet(path, sheet, shape))
  refuse_unnamed(cells, shape, path)
  named <- nzchar(shape$names)
  table <- cells[seq_along(shape$names)][named]
  names(table) <- shape$names[named]
  row <- shape$first + seq_along(table[[1]]) - 1L
  spread <- spread_merged(table, shape$columns[named], row, parts)
  table <- as.data.frame(spread$data, check.names = FALSE, stringsAsFactors = FALSE)
  held <- rowSums(!is.na(table)) > 0
  table <- table[held, , drop = FALSE]
  rownames(table) <- NULL
  check_read_table(table, path, what)
  wanted <- if (is.null(spec$columns)) named else named & shape$names %in% spec$columns
  refuse_unreckoned(parts, shape$columns[wanted], row[held], path)
  list(data = table, fixes = rbind(sheet_choice(sheets, sheet, spec), shape$fixes,
                                   spread$fixes, hidden_rows(parts, row[held])), records = NULL,
       heads = if (all(named)) Filter(function(cells) any(nzchar(cells)), shape$heads))
}

# A sheet by its name or number; if not given the first that holds a table, which a cover does not:
# list(name, head), `head` its first rows where they were looked at.
sheet_of <- function(path, sheet, sheets) {
  if (is.null(sheet)) {
    if (length(sheets) == 1) return(list(name = sheets))
    heads <- lapply(sheets, function(name) sheet_head(path, name))
    size <- vapply(heads, lines_below, 0)
    # A few notes in two columns are no table beside one of many rows.
    at <- c(which(size >= min(5, max(size)) & size > 0), 1)[1]
    return(list(name = sheets[at], head = heads[[at]]))
  }
  if (sheet %in% sheets) return(list(name = sheet))
  number <- suppressWarnings(as.integer(sheet))
  if (!is.na(number) && number >= 1 && number <= length(sheets))
    return(list(name = sheets[number]))
  ll_abort(c(paste0("The file ", quoted(path), " has no sheet called ", quoted(sheet), "."),
             offer(as.character(sheet), sheets, "Sheets")), "word")
}

sheet_choice <- function(sheets, sheet, spec) {
  if (!is.null(spec$sheet) || length(sheets) == 1) return(NULL)
  others <- setdiff(sheets, sheet)
  fix("sheet", NA, 1, paste0(
    "the sheet ", quoted(sheet), " is read",
    if (sheet != sheets[1]) ", since the first holds no table", "; ",
    if (length(others) == 1) paste0(quoted(others), " is not") else
      paste0(and_list(quoted(others), 3), " are not"),
    " (--sheet, or sheet: in a brief, chooses another)"))
}

head_rows <- 60L

# Of all columns from the first on, so that places are those of the sheet.
rows_of_sheet <- function(from, to) readxl::cell_limits(c(from, 1), c(to, NA))

# The first rows of a sheet as texts, blank ones kept.
sheet_head <- function(path, sheet, range = rows_of_sheet(1, head_rows)) {
  head <- suppressMessages(as.data.frame(readxl::read_excel(
    path, sheet, range = range, col_names = FALSE, col_types = "text", .name_repair = "minimal")))
  unname(as.matrix(head))
}

# The row of the header: the first that fills most of what the fullest row fills, so that titles
# above are none. NA where the sheet holds no table.
header_place <- function(head) {
  if (!length(head) || ncol(head) < 2) return(NA_integer_)
  filled <- rowSums(!is.na(head))
  at <- which(filled >= max(2, ceiling(max(filled) * .6)))
  c(at, NA)[1]
}

# How many rows below the header hold two cells or more, all under it.
lines_below <- function(head) {
  at <- header_place(head)
  if (is.na(at) || at == nrow(head)) return(0)
  below <- !is.na(head[seq(at + 1, nrow(head)), , drop = FALSE])
  sum(rowSums(below) >= 2)
}

# Where the table stands: list(names, columns, first, last, fixes), `columns` the places of its columns
# in the sheet and `first` the row of its first line. `head` are its first rows where they are known.
sheet_shape <- function(path, sheet, spec, parts, head) {
  if (!is.null(spec$range)) {
    limits <- asked_corners(spec$range)
    top <- limits$top
    head <- sheet_head(path, sheet, readxl::cell_limits(c(top, limits$left),
                                                        c(top + 1, limits$right)))
    return(list(names = header_names(head[1, ]), columns = limits$left + seq_len(ncol(head)) - 1L,
                first = top + 1L, last = limits$bottom))
  }
  head <- head %||% sheet_head(path, sheet)
  if (!length(head) || all(is.na(head))) file_error(path, "holds only blank cells in this sheet")
  given <- if (!is.null(spec$header_row)) check_whole(spec$header_row, "header_row", list(from = 1))
  at <- given %||% header_place(head)
  if (is.na(at)) at <- which(rowSums(!is.na(head)) > 0)[1]
  if (at > nrow(head)) head <- sheet_head(path, sheet, rows_of_sheet(1, at + 1))
  columns <- seq_len(ncol(head))
  rows <- lapply(seq_len(nrow(head)), function(i) header_names(head[i, ]))
  double <- double_head(merged_rows(rows, at, parts), at)
  last <- double$last %||% at
  list(names = double$names %||% rows[[at]], columns = columns, first = last + 1L, last = NA,
       heads = rows[seq_len(last)],
       fixes = if (is.null(given)) title_rows_fix(at - 1L - (double$above %||% 0L)))
}

title_rows_fix <- function(n) {
  if (n > 0) fix("title_rows", NA, n, paste0(plural(n, "row"), " above the header skipped"))
}

header_names <- function(cells) {
  cells[is.na(cells)] <- ""
  trimmed(one_line(cells))
}

# "A3:F500" or "Sheet!A3:F500", as it was typed.
asked_corners <- function(range) {
  cells <- toupper(gsub("\\$", "", sub("^.*!", "", range)))
  if (!grepl("^[A-Z]{1,3}[0-9]+:[A-Z]{1,3}[0-9]+$", cells))
    ll_abort(c(paste0("'range' must name cells of the sheet such as A3:F500."),
               x = paste0("It is ", shown(range), ".")), "argument")
  corners(cells)
}

# The rows about the header, with names that are merged downwards, over both rows of a head, in the
# lower one.
merged_rows <- function(rows, at, parts) {
  down <- parts$merged[parts$merged$bottom == parts$merged$top + 1 & parts$merged$left ==
                         parts$merged$right & parts$merged$top %in% c(at - 1, at), ]
  for (i in seq_len(NROW(down))) {
    k <- down$left[i]
    rows[[down$bottom[i]]][k] <- rows[[down$top[i]]][k]
    rows[[down$top[i]]][k] <- ""
  }
  rows
}

# The cells below the head, one list entry a column; text where a column holds several kinds.
cells_of_sheet <- function(path, sheet, shape) {
  range <- readxl::cell_limits(c(shape$first, min(shape$columns)),
                               c(shape$last, if (is.na(shape$last)) NA else max(shape$columns)))
  read <- function(types) suppressMessages(suppressWarnings(as.data.frame(readxl::read_excel(
    path, sheet, range = range, col_names = FALSE, col_types = types, guess_max = 2^20,
    .name_repair = "minimal"))))
  table <- as.list(read(NULL))
  # Where numbers or dates stand among texts a cell's text is not what the sheet shows.
  mixed <- vapply(table, function(x) is.character(x) && any(grepl("^-?[0-9][0-9.]*([eE][-+]?[0-9]+)?$", x)),
                  NA)
  if (any(mixed)) {
    typed <- read(ifelse(mixed, "list", "skip"))
    table[mixed] <- lapply(typed, mixed_column)
  }
  lapply(unname(table), sheet_column)
}

# Cells of several kinds as texts: dates as 2026-03-31, numbers with the decimal mark of the texts
# beside them.
mixed_column <- function(cells) {
  kind <- vapply(cells, function(x) class(x)[1], "")
  text <- vapply(cells, function(x) if (is.character(x)) x else NA_character_, "")
  number <- kind == "numeric"
  if (any(number)) {
    comma <- identical(read_numbers(unique(text[!is.na(text)]))$decimal_told, ",")
    plain <- vapply(cells[number], function(x) format(x, digits = 15, scientific = FALSE, trim = TRUE), "")
    text[number] <- if (comma) sub(".", ",", plain, fixed = TRUE) else plain
  }
  date <- kind == "POSIXct"
  if (any(date)) {
    when <- do.call(c, cells[date])
    attr(when, "tzone") <- "UTC"
    midnight <- as.numeric(when) %% 86400 == 0
    text[date] <- ifelse(midnight, format(when, "%Y-%m-%d"), format(when, "%Y-%m-%d %H:%M:%S"))
  }
  text
}

# Times at midnight are days.
sheet_column <- function(x) {
  if (!inherits(x, "POSIXct")) return(tidy_column(x))
  seconds <- as.numeric(x) %% 86400
  if (all(is.na(seconds) | seconds == 0)) as.Date(x) else tidy_column(x)
}

refuse_unnamed <- function(cells, shape, path) {
  unnamed <- c(!nzchar(shape$names), rep(TRUE, max(0, length(cells) - length(shape$names))))
  held <- vapply(cells, function(x) !all(is.na(x)), NA)
  lost <- which(unnamed[seq_along(cells)] & held)
  if (length(lost))
    file_error(path, paste0("has a column without a name (the ", lost[1], "th)"),
               i = "Name it in the sheet, or give the range of the table: range: A3:F500.")
}
