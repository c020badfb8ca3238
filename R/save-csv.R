# The bare table as CSV: plain numbers, UTF-8, no thousands marks.

csv_lines <- function(x) {
  table <- safe_cells(plain_frame(x))
  utils::capture.output(data.table::fwrite(table, na = "", quote = "auto", scipen = 100))
}

write_csv <- function(x, path) {
  data.table::fwrite(safe_cells(plain_frame(x)), path, na = "", quote = "auto", scipen = 100,
                     encoding = "UTF-8")
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
