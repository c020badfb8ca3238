# The bare table as CSV: plain numbers, UTF-8, no thousands marks.

csv_lines <- function(x) {
  file <- tempfile(fileext = ".csv")
  on.exit(unlink(file))
  write_whole(file, function(path) write_csv(x, path))
  readLines(file, encoding = "UTF-8", warn = FALSE)
}

write_csv <- function(x, path) {
  # Older versions write the bytes as they are held, which is UTF-8 here.
  encoding <- if ("encoding" %in% names(formals(data.table::fwrite))) list(encoding = "UTF-8")
  do.call(data.table::fwrite, c(list(safe_cells(plain_frame(x)), path, na = "", quote = "auto",
                                     scipen = 100), encoding))
}

# A text that a spreadsheet would run as a formula gets an apostrophe in front, and so stays text.
safe_cells <- function(table) {
  table[] <- lapply(table, function(column) if (is.character(column)) safe_text(column) else column)
  table
}

safe_text <- function(x) {
  number <- grepl("^[-+][0-9.,]+$", x)
  runs <- !is.na(x) & grepl("^[=+@\t\r-]", x) & !number
  x[runs] <- paste0("'", x[runs])
  x
}
