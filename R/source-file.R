# Reading a text table (CSV and its kin) into columns. Identifiers that a number would spoil
# (leading zeros, more than 15 digits) stay text.

read_table_file <- function(path, what = "lines") {
  check_readable(path, what)
  header <- check_header(path, what)
  separator <- find_separator(header, path)
  trouble <- character()
  table <- tryCatch(
    withCallingHandlers(
      data.table::fread(file = path, sep = separator, header = TRUE, data.table = FALSE,
                        encoding = "UTF-8", na.strings = c("", "NA"), strip.white = FALSE,
                        keepLeadingZeros = TRUE,
                        integer64 = "character", check.names = FALSE, showProgress = FALSE),
      warning = function(w) {
        trouble <<- c(trouble, conditionMessage(w))
        invokeRestart("muffleWarning")
      }),
    error = function(e) not_a_table(path, conditionMessage(e)))
  check_ragged(path, trouble)
  check_table(table, path, what)
  table[] <- lapply(table, tidy_column)
  table
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
  start <- readBin(path, "raw", 4096)
  if (identical(as.integer(start[1:2]), c(0x50L, 0x4bL)))
    file_error(path, "is a spreadsheet or archive, not a text table",
               i = "Save the sheet as CSV and give that file.")
  if (any(start == as.raw(0)))
    file_error(path, "is no text table: it holds zero bytes",
               i = "Save it as CSV in UTF-8 (UTF-16 is not read).")
}

# The header by itself: fread tells too little when there is nothing below it.
check_header <- function(path, what) {
  first <- readLines(path, n = 2000L, warn = FALSE, encoding = "UTF-8")
  filled <- first[nzchar(trimws(iconv(first, "UTF-8", "UTF-8", sub = "?")))]
  if (!length(filled)) file_error(path, "holds only blank lines")
  if (length(filled) == 1 && length(first) < 2000)
    file_error(path, paste0("holds a header and no ", what),
               x = paste0("Its one line is ", shown(as_utf8(filled[1])), "."))
  filled[1]
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

# The separator that the header has most of, outside quotes.
find_separator <- function(header, path) {
  bare <- gsub("\"[^\"]*\"", "", header, useBytes = TRUE)
  choices <- c(",", ";", "\t", "|")
  hits <- lapply(choices, function(s) gregexpr(s, bare, fixed = TRUE, useBytes = TRUE))
  count <- vapply(hits, function(hit) sum(hit[[1]] > 0), 0L)
  if (max(count) == 0)
    file_error(path, "is not a table: it has one column",
               x = paste0("Its first line is ", shown(as_utf8(header)), "."),
               i = "Fields are separated by commas, semicolons, tabs or bars.")
  choices[which.max(count)]
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

# Doubled quotes inside quoted text stand for one; text is UTF-8; dates are Date.
tidy_column <- function(x) {
  if (is.character(x)) {
    x <- as_utf8(x)
    doubled <- grep("\"\"", x, fixed = TRUE)
    x[doubled] <- gsub("\"\"", "\"", x[doubled], fixed = TRUE)
    return(x)
  }
  if (inherits(x, "IDate")) return(as.Date(x))
  if (inherits(x, "POSIXct")) return(as.Date(x, tz = "UTC"))
  x
}
