# Reading a text table (CSV and its kin) into columns. Identifiers that a number would spoil
# (leading zeros, more than 15 digits) stay text. What had to be repaired is reported once.

# list(data, repairs, records): records are the lines of the table that the file holds, counted
# apart from the reader.
read_table_file <- function(path, what = "lines", switches = all_repairs) {
  check_readable(path, what)
  plain <- plain_bytes(path, switches)
  on.exit(unlink(plain$made))
  head <- read_head(plain$path, path)
  shape <- table_shape(head$lines, path, what, switches)
  foot <- table_foot(plain$path, shape, switches)
  if (!is.null(foot$path)) plain$made <- c(plain$made, foot$path)
  scan <- scan_bytes(foot$path %||% plain$path, shape$separator, head$bytes[shape$header], path)
  check_encoding(scan, switches, path)
  table <- read_columns(foot$path %||% plain$path, shape, path)
  if (!nrow(table) && scan$records > 1) ragged_line(head$lines, shape, path)
  check_table(table, path, what)
  repairs <- rbind(plain$repairs, shape$repairs, foot$repairs, if (scan$bad_utf8)
    repair("encoding", NA, sum(scan$bad_utf8), "bytes that are no UTF-8 were read as Latin-1"))
  table[] <- lapply(table, tidy_column, ascii = !scan$high, quotes = scan$inner_quotes)
  list(data = table, repairs = repairs, records = scan$records - 1, decimal = shape$decimal,
       total_line = foot$total_line)
}

file_error <- function(path, problem, ...) {
  ll_abort(c(paste0("The file ", quoted(path), " ", problem, "."), ...), "file")
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

read_columns <- function(path, shape, named) {
  trouble <- character()
  text <- if (shape$decimal == ",") "character" else shape$zoned
  table <- tryCatch(
    withCallingHandlers(
      data.table::fread(file = path, sep = shape$separator, header = TRUE, data.table = FALSE,
                        skip = shape$header - 1L, encoding = "UTF-8", na.strings = c("", "NA"),
                        strip.white = FALSE, keepLeadingZeros = TRUE, dec = ".",
                        colClasses = if (length(text)) list_classes(text, shape),
                        integer64 = "character", check.names = FALSE, showProgress = FALSE,
                        blank.lines.skip = TRUE),
      warning = function(w) {
        trouble <<- c(trouble, conditionMessage(w))
        invokeRestart("muffleWarning")
      }),
    error = function(e) not_a_table(named, conditionMessage(e)))
  check_ragged(named, trouble)
  table
}

list_classes <- function(text, shape) {
  if (identical(text, "character")) return("character")
  list(character = text)
}

check_ragged <- function(path, trouble) {
  broken <- grep("Stopped early|Discarded single-line footer|Detected [0-9]+ column names",
                 trouble, value = TRUE)
  if (!length(broken)) return(invisible())
  line <- sub(".*Stopped early on line ([0-9]+)\\. Expected ([0-9]+) fields but found ([0-9]+).*",
              "Line \\1 has \\3 fields where \\2 are expected.", broken[1])
  file_error(path, "is no regular table", x = fit_text(one_line(line), 200),
             i = paste0("Every line needs as many fields as the header; a text with the separator ",
                        "in it needs quotes."))
}

# The first line that has not as many cells as the header.
ragged_line <- function(lines, shape, path) {
  counts <- count_cells(lines, shape$separator)
  at <- which(seq_along(lines) > shape$header & nzchar(trimws(lines)) &
                counts != counts[shape$header])[1]
  if (is.na(at)) return(invisible())
  check_ragged(path, sprintf("Stopped early on line %d. Expected %d fields but found %d.", at,
                             counts[shape$header], counts[at]))
}

check_table <- function(table, path, what) {
  if (!nrow(table)) file_error(path, paste0("holds a header and no ", what))
  check_duplicate_names(names(table), paste0("The file ", quoted(path)), "file")
}

check_duplicate_names <- function(names, where, class) {
  twice <- unique(names[duplicated(names)])
  if (length(twice))
    ll_abort(c(paste0(where, " names ", plural(length(twice), "column"), " more than once."),
               x = paste0("Twice or more: ", and_list(quoted(twice)), "."),
               i = "Give every column a name of its own."), class)
}

# Doubled quotes inside quoted text stand for one; text is UTF-8; dates are Date. Texts are not
# looked through for what the bytes are known not to hold.
tidy_column <- function(x, ascii = FALSE, quotes = TRUE) {
  if (is.character(x)) {
    if (!ascii) x <- as_utf8(x)
    doubled <- if (quotes) grep("\"\"", x, fixed = TRUE)
    if (length(doubled)) x[doubled] <- gsub("\"\"", "\"", x[doubled], fixed = TRUE)
    return(x)
  }
  if (inherits(x, "IDate")) return(as.Date(x))
  if (inherits(x, "POSIXct")) attr(x, "tzone") <- "UTC"
  x
}

scan_bytes <- function(path, separator, skip, named) {
  scan <- kernel_scan(path, separator, skip)
  if (scan$zero_bytes > 0)
    file_error(named, "is no text table: it holds zero bytes", i = "Save it as CSV in UTF-8.")
  if (scan$cut)
    file_error(named, "ends inside a quoted cell",
               x = paste0("The quote opened in line ", count_text(scan$open_at),
                          " of the table is never closed."),
               i = "The file was cut short or a quote is missing: get it again, or close it.")
  scan
}

check_encoding <- function(scan, switches, path) {
  if (scan$bad_utf8 && !switches[["encoding"]])
    file_error(path, "is not in UTF-8, and the repair 'encoding' is switched off")
}
