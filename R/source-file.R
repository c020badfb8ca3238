# Reading a text table (CSV and its kin) into columns. Only measures and dates are read as such:
# what names things keeps the bytes of the file. What had to be fixed is reported once.

# list(data, fixes, records, total_line, roles, heads): records are the lines of the table that the file holds,
# counted apart from the reader. `names` are columns known to name things, `like_names` tells it of
# a header; `role_of` tells of a column by its name and numbers what it is, list(role, why). All
# that are no measures are given as text, with the roles that were found in `roles`. Only `columns`
# are read where all of them stand in the header. `encoding` is that of the file where it was said.
read_table_file <- function(path, what = "lines", switches = all_fixes, names = character(),
                            like_names = NULL, role_of = NULL, columns = NULL, encoding = NULL) {
  check_readable(path, what)
  plain <- plain_bytes(path, switches, encoding)
  on.exit(unlink(plain$made))
  head <- read_head(plain$path, path)
  shape <- table_shape(head$lines, path, what, switches)
  check_header_size(shape$columns, paste0("The file ", quoted(path)), "file")
  foot <- table_foot(plain$path, shape, switches, path)
  if (!is.null(foot$path)) plain$made <- c(plain$made, foot$path)
  file <- foot$path %||% plain$path
  scan <- scan_bytes(file, shape$separator, head$bytes[shape$header], path)
  check_encoding(scan, switches, path)
  shape$skip <- head$line[shape$header] - 1L
  shape$from <- head$bytes[shape$header]
  shape$lines <- scan$records - 1
  if (scan$inner_quotes || scan$inner_breaks || scan$only_returns) {
    shape$marks <- quoting_marks(scan, shape$separator, path)
    file <- rewrite_table(file, shape, head$bytes[shape$header], path)
    plain$made <- c(plain$made, file)
    shape$skip <- 0L
    shape$from <- 0
  }
  things <- shape$columns %in% names
  if (!is.null(like_names)) things <- things | vapply(shape$columns, like_names, NA)
  select <- header_places(columns, shape$columns)
  check_memory(scan$records - 1, length(select %||% shape$columns), path)
  text <- union(shape$zoned, which(things))
  table <- read_columns(file, shape, path, if (is.null(select)) text else intersect(text, select),
                        select)
  place <- function(of) (select %||% seq_along(table))[match(of, base::names(table))]
  if (!nrow(table) && scan$records > 1) ragged_line(head$lines, shape, path)
  check_read_table(table, path, what)
  found <- other_roles(table, role_of)
  # A few cells settle most columns.
  open <- two_ways(table, few_cells)
  if (length(open)) {
    at <- place(open)
    few <- read_columns(file, shape, path, at, at, most = few_cells)
    # Where the first cells have no point, the values of all tell whether later ones do.
    shown <- open[vapply(few[open], reads_two_ways, NA)]
    bare <- open[!vapply(few[open], function(x) any(grepl(".", texts_of(x), fixed = TRUE)), NA)]
    open <- union(shown, two_ways(table[bare]))
  }
  again <- union(base::names(found), open)
  if (length(again)) {
    at <- place(again)
    text <- read_columns(file, shape, path, at, at)
    kept <- Filter(function(name) {
      name %in% base::names(found) || reads_two_ways(text[[name]])
    }, again)
    table[kept] <- text[kept]
  }
  fixes <- rbind(plain$fixes, shape$fixes, foot$fixes, if (scan$bad_utf8)
    fix("encoding", NA, sum(scan$bad_utf8), "bytes that are no UTF-8 were read as Latin-1"))
  table[] <- lapply(table, tidy_column, ascii = !scan$high, marks = shape$marks)
  list(data = table, fixes = fixes, records = scan$records - 1, total_line = foot$total_line,
       roles = found, heads = if (is.null(select)) shape$heads)
}

# The places of columns by their names in the header; NULL where all are to be read, or one is not
# found there by its plain name.
header_places <- function(columns, header) {
  at <- match(columns, header)
  if (length(at) && !anyNA(at) && !anyDuplicated(header)) at
}

# Of memory that opening takes for each cell, as measured on ten and thirty million lines; where
# columns are laid aside on a hundred million, of which what is mapped does not count.
cell_bytes <- 26
aside_bytes <- 10

# Before it is read: a table that does not fit into memory.
check_memory <- function(records, columns, path) {
  needed <- records * columns * if (goes_aside(records)) aside_bytes else cell_bytes
  free <- memory_free()
  if (is.na(free) || needed < 1e9 && is.null(getOption("longladder.memory")) || needed <= free)
    return(invisible())
  file_error(path, "does not fit into memory",
             x = paste0(count_text(records), " lines of ", columns, " columns take about ",
                        size_text(needed), "; ", size_text(free), " are free."),
             i = paste0("Read only the columns you need (lines: {file: ..., columns: [...]}), or ",
                        "ask it in a database, or with 'through: duckdb'."))
}

# The roles of the columns that were read as numbers (or TRUE and FALSE) and name things.
other_roles <- function(table, role_of) {
  looked <- names(table)[vapply(table, function(x) is.numeric(x) || is.logical(x), NA)]
  found <- lapply(stats::setNames(looked, looked), function(name) {
    x <- table[[name]]
    if (all(is.na(x))) return(NULL)
    if (is.null(role_of)) return(if (is.logical(x)) list("dimension", "text"))
    role_of(name, x)
  })
  Filter(function(role) !is.null(role) && role[[1]] != "measure", found)
}

# Columns of numbers none of which tells a decimal point from a grouping mark, as far as the values
# of the first `most` lines show; their texts tell.
two_ways <- function(table, most = Inf) {
  open <- vapply(table, function(x) {
    if (!is.double(x) || inherits(x, c("Date", "POSIXct"))) return(FALSE)
    x <- x[seq_len(min(most, length(x)))]
    part <- x[!is.na(x) & x != round(x)]
    (length(part) > 0 || is.finite(most)) && all(abs(part) >= 1 & abs(part) < 1000) &&
      all(round(part * 1000) / 1000 == part)
  }, NA)
  names(table)[open]
}

few_cells <- 1000

texts_of <- function(x) if (is.factor(x)) levels(x) else x

reads_two_ways <- function(text) {
  pointed <- grep(".", texts_of(text), fixed = TRUE, value = TRUE)
  length(pointed) > 0 && all(grepl("^[-+]?[1-9][0-9]{0,2}[.][0-9]{3}$", trimmed(pointed)))
}

# Bytes that the file has not, to stand for quotes, line breaks and separators within cells.
quoting_marks <- function(scan, separator, path) {
  if (length(scan$free) < 5)
    file_error(path, "is no text table: it holds nearly every control character",
               i = "Save it as CSV in UTF-8.")
  structure(scan$free[1:5], separator = separator)
}

rewrite_table <- function(file, shape, from, named) {
  made <- tempfile(fileext = ".csv")
  if (!kernel_rewrite(file, made, shape$separator, from, shape$marks)) {
    unlink(made)
    refuse_full_temporary(named)
  }
  made
}

not_a_table <- function(path, why) {
  why <- sub("\\.$", "", fit_text(one_line(why), 160))
  file_error(path, "cannot be read as a table", x = paste0(why, "."),
             i = "It should hold a header and lines with the same separator.")
}

check_readable <- function(path, what) {
  if (!file.exists(path)) {
    folder <- if (dir.exists(dirname(path))) list.files(dirname(path)) else character()
    near <- nearest(basename(path), folder, 1)
    file_error(path, "does not exist",
               if (length(near)) c(i = paste0("Nearest in that folder: ", quoted(near), ".")))
  }
  if (dir.exists(path)) file_error(path, paste0("is a folder, not a table of ", what))
  if (file.access(path, 4) != 0) file_error(path, "may not be read: permission is missing")
  if (file.size(path) == 0) file_error(path, "is empty")
}

# The table as the reader gives it; the columns `text` as text, all or only those in `select`, both
# by their place; the first `most` lines. Large tables are read in pieces, with text as factors.
read_columns <- function(path, shape, named, text = integer(), select = NULL, most = Inf) {
  if (is.finite(most) || file.size(path) < 1.5 * piece_size())
    return(read_piece(path, shape, shape$skip, named, text, select, most))
  read <- function(piece, text, select, at) {
    read_piece(piece, shape, 0L, named, text, select, Inf, function() lines_before(path, at))
  }
  read_pieces(path, shape$from, named, text, select, shape$lines, read)
}

read_piece <- function(path, shape, skip, named, text, select, most, before = function() 1) {
  trouble <- character()
  table <- tryCatch(
    withCallingHandlers(
      data.table::fread(file = path, sep = shape$separator, header = TRUE, data.table = FALSE,
                        skip = skip, nrows = most, encoding = "UTF-8",
                        na.strings = c("", "NA"), strip.white = FALSE, keepLeadingZeros = TRUE,
                        dec = ".", quote = if (is.null(shape$marks)) "\"" else "",
                        select = select,
                        colClasses = if (length(text)) list(character = text),
                        integer64 = "character", check.names = FALSE, showProgress = FALSE,
                        blank.lines.skip = TRUE),
      warning = function(w) {
        trouble <<- c(trouble, conditionMessage(w))
        invokeRestart("muffleWarning")
      }),
    error = function(e) not_a_table(named, conditionMessage(e)))
  check_ragged(named, trouble, before)
  names(table) <- if (is.null(shape$names)) every_name(unmarked(as_utf8(names(table)), shape$marks),
                                                       select) else
    every_name(shape$names[select %||% seq_along(table)], select)
  table
}

# Columns that the header leaves without a name, if only by blanks, are called by their place, as
# the reader calls those with nothing at all.
every_name <- function(names, place) {
  none <- is_blank(names)
  names[none] <- paste0("V", (if (is.null(place)) seq_along(names) else place)[none])
  names
}

# `before` tells how many lines there are before those of a piece and its header.
check_ragged <- function(path, trouble, before = function() 1) {
  broken <- grep("Stopped early|Discarded single-line footer|Detected [0-9]+ column names",
                 trouble, value = TRUE)
  if (!length(broken)) return(invisible())
  at <- regmatches(broken[1], regexec(paste0(
    "Stopped early on line ([0-9]+)\\. Expected ([0-9]+) fields but found ([0-9]+)"),
    broken[1]))[[1]]
  line <- if (length(at)) sprintf("Line %.0f has %s fields where %s are expected.",
                                  as.numeric(at[2]) + before() - 1, at[4], at[3]) else broken[1]
  # The reader leaves aside a last line that is short.
  footer <- startsWith(broken[1], "Discarded single-line footer")
  if (footer) line <- paste("The last line is short:", quoted(gsub(".*<<|>>.*", "", broken[1])))
  file_error(path, if (footer) "seems to be cut off" else "is no regular table",
             x = fit_text(one_line(line), 200),
             i = if (footer) "Get it again; or, if nothing is missing, take that line away." else
               paste0("Every line needs as many fields as the header; a text with the separator ",
                      "in it needs quotes."))
}

# The first line that has not as many cells as the header.
ragged_line <- function(lines, shape, path) {
  counts <- count_cells(lines, shape$separator)
  at <- which(seq_along(lines) > shape$header & nzchar(trimmed(lines)) &
                counts != counts[shape$header])[1]
  if (is.na(at)) return(invisible())
  check_ragged(path, sprintf("Stopped early on line %d. Expected %d fields but found %d.", at,
                             counts[shape$header], counts[at]))
}

check_read_table <- function(table, path, what) {
  if (!nrow(table)) file_error(path, paste0("holds a header and no ", what))
  check_duplicate_names(names(table), paste0("The file ", quoted(path)), "file")
}

check_duplicate_names <- function(names, where, class) {
  check_header_size(names, where, class)
  twice <- unique(names[duplicated(names)])
  if (length(twice))
    ll_abort(c(paste0(where, " names ", plural(length(twice), "column"), " more than once."),
               x = paste0("Twice or more: ", and_list(quoted(twice)), "."),
               i = "Give every column a name of its own."), class)
}

# No lines of a company have so many columns, and R takes no name of so many bytes.
most_columns <- 1000
longest_header <- 2000

check_header_size <- function(names, where, class) {
  if (length(names) > most_columns)
    ll_abort(c(paste0(where, " has ", count_text(length(names)), " columns."),
               x = paste0(count_text(most_columns), " are the most."),
               i = "Lines have a column for each thing that is told of them: is the separator right?"),
             class)
  check_name_size(names, paste0(where, " has a column whose name"), class)
}

check_name_size <- function(names, which, class) {
  long <- names[nchar(names, "bytes") > longest_header]
  if (length(long))
    ll_abort(c(paste0(which, " has ", count_text(nchar(long[1], "bytes")), " bytes."),
               x = paste0("It begins ", shown(long[1]), "; ", count_text(longest_header),
                          " are the most.")), class)
}

# Text is UTF-8, as it stood within quotes; dates are Date. Texts are not looked through for what
# the bytes are known not to hold.
tidy_column <- function(x, ascii = FALSE, marks = NULL) {
  if (is.character(x)) return(unmarked(if (ascii) x else as_utf8(x), marks))
  if (is.factor(x)) {
    texts <- tidy_column(levels(x), ascii, marks)
    if (!identical(texts, levels(x))) levels(x) <- texts
    return(x)
  }
  if (inherits(x, "IDate")) return(as.Date(x))
  if (inherits(x, "POSIXct")) attr(x, "tzone") <- "UTC"
  x
}

# Texts with what their marks stand for; each that occurs is looked at once.
unmarked <- function(x, marks) {
  if (is.null(marks)) return(x)
  empty <- rawToChar(as.raw(marks[5]))
  letters <- paste(rawToChar(as.raw(marks[1:4]), multiple = TRUE), collapse = "")
  texts <- unique(x)
  hit <- grep(paste0("[", letters, empty, "]"), texts, useBytes = TRUE)
  if (!length(hit)) return(x)
  to <- texts
  to[hit] <- chartr(letters, paste0("\"\n\r", attr(marks, "separator")), texts[hit])
  to[to %in% empty] <- ""
  to[match(x, texts)]
}

scan_bytes <- function(path, separator, skip, named) {
  scan <- kernel_scan(path, separator, skip)
  check_lines(scan$records, named)
  if (scan$zero_bytes > 0) refuse_zero_bytes(as.raw(0), named)
  if (scan$cut)
    file_error(named, "ends inside a quoted cell",
               x = paste0("The quote opened in line ", count_text(scan$open_at),
                          " of the table is never closed."),
               i = "The file was cut short or a quote is missing: get it again, or close it.")
  scan
}

# What a vector of R's whole numbers can number.
check_lines <- function(n, named) {
  if (n > .Machine$integer.max)
    file_error(named, paste("has", count_text(n), "lines, more than 2,147,483,647"),
               i = "Ask it in a database, or with 'through: duckdb'.")
}

check_encoding <- function(scan, switches, path) {
  if (scan$bad_utf8 && !switches[["encoding"]])
    file_error(path, "is not in UTF-8, and the fix 'encoding' is switched off")
}
