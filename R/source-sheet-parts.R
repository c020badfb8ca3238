# What a spreadsheet says of its cells beside their values: merged ones, hidden rows, formulas that
# were never reckoned. Read from the sheet's own part of the file, of which readers of cells tell
# nothing.

# Sheets of more bytes are not looked at.
most_part_bytes <- 3e8

# list(merged, hidden, unreckoned) of the k-th sheet: ranges, row numbers, cells. NULL for old
# spreadsheets and very large ones.
sheet_parts <- function(path, k) {
  names <- tryCatch(utils::unzip(path, list = TRUE), error = function(e) NULL,
                    warning = function(w) NULL)
  if (is.null(names)) return(NULL)
  inner <- part_of_sheet(path, names, k)
  size <- names$Length[match(inner, names$Name)]
  if (is.na(size) || size > most_part_bytes) return(NULL)
  xml <- read_part(path, inner, size)
  merged <- corners(found_in(xml, "<mergeCell ref=\"([A-Z]+[0-9]+:[A-Z]+[0-9]+)\""))
  hidden <- found_in(xml, "<row [^>]*\\bhidden=\"(?:1|true)\"[^>]*>")
  cells <- found_in(xml, "<c r=\"([A-Z]+[0-9]+)\"[^>]*><f(?:[^>]*/>|[^>]*>[^<]*</f>)(?:<v */>|<v></v>)?</c>")
  list(merged = merged, hidden = as.integer(sub(".*\\br=\"([0-9]+)\".*", "\\1", hidden)),
       unreckoned = cells)
}

# The file within the spreadsheet that holds its k-th sheet.
part_of_sheet <- function(path, names, k) {
  part <- function(name) read_part(path, name, names$Length[match(name, names$Name)])
  sheets <- found_in(part("xl/workbook.xml"), "<(?:[a-z]+:)?sheet [^>]*>")
  id <- sub(".*r:id=\"([^\"]+)\".*", "\\1", sheets[k])
  links <- found_in(part("xl/_rels/workbook.xml.rels"), "<Relationship [^>]*>")
  target <- sub(".*Target=\"([^\"]+)\".*", "\\1", links[grepl(paste0("Id=\"", id, "\""), links,
                                                              fixed = TRUE)])
  if (!length(target)) return(NA_character_)
  sub("^/", "", if (startsWith(target[1], "/")) target[1] else paste0("xl/", target[1]))
}

read_part <- function(path, name, size) {
  if (is.na(size)) return("")
  con <- unz(path, name, "rb")
  on.exit(close(con))
  bytes <- readBin(con, "raw", size)
  text <- rawToChar(bytes[bytes != 0])
  # Places are counted in bytes, whatever the letters.
  Encoding(text) <- "latin1"
  text
}

# What the pattern's group, or the whole of it, meets.
found_in <- function(text, pattern) {
  at <- gregexpr(pattern, text, perl = TRUE, useBytes = TRUE)[[1]]
  if (at[1] < 0) return(character())
  start <- attr(at, "capture.start")
  if (length(start)) at <- structure(start[, 1], match.length = attr(at, "capture.length")[, 1])
  substring(text, at, at + attr(at, "match.length") - 1L)
}

row_of_cell <- function(cell) as.integer(gsub("[A-Z]", "", cell))

column_of_cell <- function(cell) {
  vapply(strsplit(gsub("[0-9]", "", cell), ""), function(letters) {
    as.integer(Reduce(function(sum, letter) sum * 26 + letter, match(letters, LETTERS), 0))
  }, 0L)
}

corners <- function(ranges) {
  from <- sub(":.*", "", ranges)
  to <- sub(".*:", "", ranges)
  data.frame(top = row_of_cell(from), bottom = row_of_cell(to), left = column_of_cell(from),
             right = column_of_cell(to))
}

# What stands in a cell that is merged over several rows belongs to each of them: list(data, fixes).
spread_merged <- function(table, columns, row, parts) {
  down <- parts$merged[parts$merged$bottom > parts$merged$top, ]
  n <- 0L
  for (i in seq_len(NROW(down))) {
    k <- which(columns >= down$left[i] & columns <= down$right[i])[1]
    at <- which(row >= down$top[i] & row <= down$bottom[i])
    if (is.na(k) || length(at) < 2) next
    table[[k]][at] <- table[[k]][at[1]]
    n <- n + length(at) - 1L
  }
  list(data = table, fixes = if (n) fix("merged", NA, n, paste0(
    plural(n, "cell"), " filled with what stands in the merged cells that they are part of")))
}

# Rows that a filter or a hand hides are lines like others; it is said.
hidden_rows <- function(parts, rows) {
  n <- sum(rows %in% parts$hidden)
  if (n) fix("hidden", NA, n, paste0(
    plural(n, "row"), " hidden in the sheet (by a filter or by hand) ", if (n == 1) "is" else "are",
    " read as well"))
}

# A formula without a value would be a missing amount that nobody sees.
refuse_unreckoned <- function(parts, columns, rows, path) {
  cells <- parts$unreckoned
  cells <- cells[column_of_cell(cells) %in% columns & row_of_cell(cells) %in% rows]
  if (!length(cells)) return(invisible())
  file_error(path, paste0("holds ", plural(length(cells), "formula"), " without ",
                          if (length(cells) == 1) "its value" else "their values"),
             x = paste0("The first stands in cell ", cells[1], "; whatever wrote the file did not ",
                        "reckon it."),
             i = paste0("Open the file in a spreadsheet program and save it, or leave those columns ",
                        "out: lines: {file: ..., columns: [...]}."))
}
