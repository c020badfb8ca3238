# A file's bytes before they are a table: compression, UTF-16, byte order marks; title rows above
# the header and notes below the lines.

# What can be fixed on opening, and the state of its switch.
all_fixes <- c(title_rows = TRUE, foot_rows = TRUE, total_rows = TRUE, numbers = TRUE,
               dates = TRUE, encoding = TRUE)

# One line of the report: kind, field (NA for the whole table), how many, what was done; expected
# and found where there is a control.
fix <- function(kind, field, n, text, expected = NA_real_, found = NA_real_) {
  data.frame(kind = kind, field = as.character(field), n = as.double(n), text = text,
             expected = as.double(expected), found = as.double(found))
}

check_fixes <- function(given) {
  switches <- all_fixes
  if (is.null(given)) return(switches)
  if (is.logical(given) && is.null(names(given)) && length(given) == 1 && !is.na(given)) {
    switches[] <- given
    return(switches)
  }
  values <- as.list(given)
  unknown <- setdiff(names(values) %||% "", names(switches))
  if (length(unknown))
    ll_abort(c(paste0("There is no fix called ", quoted(unknown[1]), "."),
               offer(unknown[1], names(switches), "Fixes")), "word")
  for (name in names(values)) switches[[name]] <- check_flag(values[[name]], name)
  switches
}

# The path of a file of plain UTF-8 (or Latin-1) bytes: the file itself, or one made from it.
plain_bytes <- function(path, switches, encoding = NULL) {
  start <- as.integer(readBin(path, "raw", 4))
  is <- function(...) identical(start[seq_len(min(...length(), length(start)))], as.integer(c(...)))
  if (is(0x50, 0x4b))
    file_error(path, "is a spreadsheet or archive, not a text table",
               i = "Save the sheet as CSV and give that file.")
  if (is(0x1f, 0x8b)) {
    made <- gunzip(path)
    out <- plain_bytes(made, switches, encoding)
    out$made <- c(out$made, made)
    return(out)
  }
  if (is(0xff, 0xfe) || is(0xfe, 0xff)) {
    if (!switches[["encoding"]])
      file_error(path, "is not in UTF-8, and the fix 'encoding' is switched off")
    made <- recode_utf16(path)
    return(list(path = made, made = made,
                fixes = fix("encoding", NA, 1, "the file was turned from UTF-16 into UTF-8")))
  }
  recode_page(path, encoding, switches) %||% list(path = path, made = character(), fixes = NULL)
}

# A copy in UTF-8 of a file whose bytes are in another code page: list(path, made, fixes); NULL where
# it is UTF-8, or Latin-1, which is read as it stands.
recode_page <- function(path, encoding, switches) {
  page <- encoding %||% if (switches[["encoding"]]) guess_page(path)
  if (is.null(page) || page == "CP1252" && is.null(encoding)) return(NULL)
  wide <- page %in% wide_pages || !is.null(encoding)
  from <- file(path, "rb")
  on.exit(close(from))
  left <- raw()
  made <- write_blocks(path, function() {
    block <- readBin(from, "raw", 2^22)
    last <- length(block) < 2^22
    block <- c(left, block)
    left <<- raw()
    # A letter of several bytes may lie over the end of a block, a line end does not.
    ends <- if (wide && !last) which(block == as.raw(10))
    if (length(ends)) {
      left <<- block[-seq_len(max(ends))]
      block <- block[seq_len(max(ends))]
    }
    if (!length(block)) return(raw())
    out <- recoded(block, page)
    if (is.null(out)) file_error(path, paste("is not in", page),
                                 i = "Say in which encoding it is: --encoding, or save it in UTF-8.")
    out
  })
  list(path = made, made = made, fixes = fix("encoding", NA, 1, paste0(
    "the file was read as ", page_name(page), if (is.null(encoding)) "; --encoding says another")))
}

gunzip <- function(path) {
  from <- gzfile(path, "rb")
  on.exit(close(from))
  # A broken file ends in a warning, not an error.
  broken <- function(e) file_error(path, "is no whole gzip file")
  made <- write_blocks(path, function() {
    tryCatch(readBin(from, "raw", 2^20), error = broken, warning = broken)
  })
  if (file.size(made) == 0) file_error(path, "is empty")
  made
}

# A temporary file of the blocks that `more` gives until it gives none; `named` is the file that
# they come from. What the disk did not take would be missing from every number.
write_blocks <- function(named, more) {
  made <- tempfile(fileext = ".csv")
  to <- file(made, "wb")
  size <- 0
  suppressWarnings({
    tryCatch(while (length(block <- more())) {
      writeBin(block, to)
      size <- size + length(block)
    }, finally = close(to))
  })
  if (file.size(made) != size) {
    unlink(made)
    refuse_full_temporary(named)
  }
  made
}

refuse_full_temporary <- function(named) {
  file_error(named, "cannot be read: the folder for temporary files is full",
             x = paste0("That folder is ", quoted(tempdir()), "."))
}

recode_utf16 <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  text <- iconv(list(bytes), "UTF-16", "UTF-8", toRaw = TRUE)[[1]]
  if (is.null(text)) file_error(path, "begins like UTF-16 and is none")
  refuse_zero_bytes(text, path)
  once <- list(text)
  write_blocks(path, function() {
    block <- unlist(once)
    once <<- NULL
    block
  })
}

# The first records as text, each with the byte it begins at and the line it stands on. Headers and
# cells may be long: more is read until there are some records.
read_head <- function(path, named, size = 65536) {
  repeat {
    head <- first_records(path, named, size)
    if (head$whole || length(head$lines) >= 12 || size >= 2^28) return(head)
    size <- size * 4
  }
}

first_records <- function(path, named, size) {
  bytes <- readBin(path, "raw", size)
  mark <- length(bytes) >= 3 && identical(as.integer(bytes[1:3]), c(0xefL, 0xbbL, 0xbfL))
  refuse_zero_bytes(bytes, named)
  if (mark) bytes[1:3] <- as.raw(32)
  whole <- length(bytes) < size
  starts <- kernel_records(bytes, paste(separators, collapse = "")) + 1
  stops <- c(starts[-1] - 1, length(bytes))
  if (!whole && length(starts) > 1) {
    starts <- starts[-length(starts)]
    stops <- stops[-length(stops)]
  }
  lines <- text_lines(bytes, starts, stops)
  if (mark) lines[1] <- substring(lines[1], 4)
  if (whole && !any(nzchar(trimmed(lines)))) file_error(named, "holds only blank lines")
  if (mark) starts[1] <- 4
  ends <- bytes == as.raw(10)
  if (!any(ends)) ends <- bytes == as.raw(13)
  list(lines = lines, bytes = starts - 1, line = cumsum(c(1, ends))[starts], whole = whole)
}

refuse_zero_bytes <- function(bytes, named) {
  if (any(bytes == as.raw(0)))
    file_error(named, "is no text table: it holds zero bytes", i = "Save it as CSV in UTF-8.")
}

# Stretches of bytes as lines of text.
text_lines <- function(bytes, starts, stops) {
  lines <- vapply(seq_along(starts), function(i) {
    if (stops[i] < starts[i]) "" else rawToChar(bytes[starts[i]:stops[i]])
  }, "")
  Encoding(lines) <- "UTF-8"
  sub("[\r\n]+$", "", as_utf8(lines))
}

# Cells of a line, with quotes kept together.
split_cells <- function(line, separator) {
  marked <- gsub(separator, "\u0001", gsub_quoted(line, separator), fixed = TRUE)
  cells <- strsplit(paste0(marked, "\u0001"), "\u0001", fixed = TRUE)[[1]]
  trimmed(gsub("\u0002", separator, cells, fixed = TRUE))
}

# Separators inside quotes hidden, the quotes taken off.
gsub_quoted <- function(line, separator) {
  if (!grepl("\"", line, fixed = TRUE)) return(line)
  at <- gregexpr("\"([^\"]|\"\")*\"", line)
  regmatches(line, at) <- lapply(regmatches(line, at), function(q) {
    gsub(separator, "\u0002", substr(q, 2, nchar(q) - 1), fixed = TRUE)
  })
  line
}

count_cells <- function(lines, separator) {
  bare <- gsub("\"([^\"]|\"\")*\"", "", lines)
  nchar(bare) - nchar(gsub(separator, "", bare, fixed = TRUE)) + 1L
}

separators <- c("\t", ";", "|", ",")

# Separator, number of columns, where the header stands.
table_shape <- function(lines, path, what, switches) {
  filled <- which(nzchar(trimmed(lines)))
  sample <- utils::head(filled, 200)
  found <- lapply(separators, function(s) separator_fit(lines[sample], s))
  score <- vapply(found, `[[`, 0, "score")
  if (all(score == 0))
    file_error(path, "is not a table: it has one column",
               x = paste0("Its first line is ", shown(lines[filled[1]]), "."),
               i = "Fields are separated by commas, semicolons, tabs or bars.")
  best <- which.max(score)
  separator <- separators[best]
  width <- found[[best]]$width
  header <- header_line(lines[sample], separator, width)
  if (header > 1 && !switches[["title_rows"]])
    file_error(path, "has rows above its header, and the fix 'title_rows' is switched off",
               x = paste0("Its first line is ", shown(lines[filled[1]]), "."))
  body <- utils::tail(sample, -header)
  if (!length(body) && length(lines) < 2000)
    file_error(path, paste0("holds a header and no ", what),
               x = paste0("Its one line is ", shown(lines[sample[header]]), "."))
  cells <- lapply(lines[utils::head(body, 20)], split_cells, separator)
  near <- seq(max(1, header - 1), min(length(sample), header + 20))
  double <- if (switches[["title_rows"]])
    double_head(lapply(lines[sample[near]], split_cells, separator), match(header, near))
  if (!is.null(double)) header <- near[double$last]
  columns <- double$names %||% split_cells(lines[sample[header]], separator)
  list(separator = separator, width = width, header = sample[header], columns = columns,
       heads = lapply(lines[sample[seq_len(header)]], split_cells, separator),
       names = double$names, zoned = zoned_columns(cells, length(columns)),
       fixes = if (!is.null(double)) fix(
         "title_rows", NA, header - 1, paste0(
           "the head goes over two rows", if (header > 2) paste0(", ", plural(
             header - 2, "row"), " above it skipped"), ": ", shown(utils::tail(double$names, 1)))) else
               if (header > 1) fix(
         "title_rows", NA, header - 1,
         paste0(plural(header - 1, "row"), " above the header skipped, beginning ",
                shown(lines[filled[1]]))))
}

# How well a separator cuts the lines into the same number of cells.
separator_fit <- function(lines, separator) {
  counts <- count_cells(lines, separator)
  wide <- counts[counts > 1]
  if (!length(wide)) return(list(score = 0, width = 1L))
  width <- as.integer(names(which.max(table(wide))))
  list(width = width, score = mean(counts == width) + (counts[1] == width) / 2 + 1e-6 * width)
}

# Rows above the header hold few cells; the header is the first that holds more.
header_line <- function(lines, separator, width) {
  few <- max(1, floor(width * .4))
  for (i in seq_along(lines)) if (sum(nzchar(split_cells(lines[i], separator))) > few) return(i)
  1L
}

# Columns whose times end in Z or an offset, by their place, are kept as text until the time zone is
# known.
zoned_columns <- function(cells, width) {
  if (!length(cells)) return(integer())
  zoned <- grepl("^[0-9]{4}-.*[0-9]{2}:[0-9]{2}.*(Z|[-+][0-9]{2}:?[0-9]{2})$", unlist(cells))
  column <- unlist(lapply(cells, seq_along))
  sort(unique(column[zoned & column <= width]))
}

# Notes below the lines, and total lines with fewer cells than the others, are cut off in a copy.
table_foot <- function(path, shape, switches, named) {
  if (!switches[["foot_rows"]]) return(list())
  tail <- read_tail(path, named)
  # The header and the first line below it always stay.
  first <- if (tail$whole) shape$header + 2 else 1
  notes <- character()
  cut <- total <- NULL
  for (i in rev(seq_along(tail$lines))) {
    line <- tail$lines[i]
    if (!nzchar(trimmed(line))) next
    kind <- if (i >= first) foot_kind(line, shape)
    if (is.null(kind)) break
    cut <- tail$at[i]
    notes <- c(line, notes)
    if (kind == "total") total <- Filter(nzchar, split_cells(line, shape$separator))
  }
  if (is.null(cut)) return(list())
  list(path = copy_bytes(path, list(c(0, cut)), named), total_line = total,
       fixes = fix("foot_rows", NA, length(notes),
                   paste0(plural(length(notes), "row"), " below the lines excluded: ",
                          fit_text(one_line(paste(notes, collapse = " / ")), 80))))
}

# A line with fewer cells than the table: "total" when it says so, "note" when it is one cell.
foot_kind <- function(line, shape) {
  cells <- split_cells(line, shape$separator)
  held <- cells[nzchar(cells)]
  if (length(cells) >= shape$width || grepl("\"", line, fixed = TRUE)) return(NULL)
  if (names_total(held[1])) return("total")
  if (length(held) <= 1) "note"
}

# The last lines, each with the byte it begins at.
read_tail <- function(path, named, size = 65536) {
  from <- max(0, file.size(path) - size)
  con <- file(path, "rb")
  on.exit(close(con))
  seek(con, from)
  bytes <- readBin(con, "raw", size)
  refuse_zero_bytes(bytes, named)
  ends <- which(bytes == as.raw(10))
  starts <- c(1, ends + 1)
  stops <- c(ends - 1, length(bytes))
  keep <- which(starts <= length(bytes) & (starts > 1 | from == 0))
  list(lines = text_lines(bytes, starts[keep], stops[keep]), at = from + starts[keep] - 1,
       whole = from == 0)
}

# Stretches of a file, each from one byte up to another, as a file of their own; `named` is the file
# of the person.
copy_bytes <- function(path, stretches, named) {
  from <- file(path, "rb")
  on.exit(close(from))
  left <- 0
  write_blocks(named, function() {
    if (left == 0 && length(stretches)) {
      seek(from, stretches[[1]][1])
      left <<- diff(stretches[[1]])
      stretches <<- stretches[-1]
    }
    block <- readBin(from, "raw", min(left, 2^22))
    left <<- left - length(block)
    block
  })
}
