# A table as CSV: plain numbers, UTF-8, no thousands marks.

csv_lines <- function(table) {
  file <- tempfile(fileext = ".csv")
  on.exit(unlink(file))
  write_whole(file, function(path) write_csv(table, path))
  readLines(file, encoding = "UTF-8", warn = FALSE)
}

write_csv <- function(table, path) {
  # Older versions write the bytes as they are held, which is UTF-8 here.
  encoding <- if ("encoding" %in% names(formals(data.table::fwrite))) list(encoding = "UTF-8")
  do.call(data.table::fwrite, c(list(safe_cells(table), path, na = "", quote = "auto",
                                     scipen = 100), encoding))
}

# The rows of a table, or with them what stands below: the rest, those without a name and the total,
# as a column `row` tells.
rows_of <- function(x, with_foot) {
  table <- plain_frame(x)
  if (!with_foot) return(table)
  foot <- facts(x)$parts$foot
  if (NROW(foot)) foot <- foot[names(table)]
  data.frame(rbind(table, foot), row = rep(c("table", "foot"), c(nrow(table), NROW(foot))),
             check.names = FALSE, row.names = NULL)
}

# A text that a spreadsheet would run as a formula gets an apostrophe in front, and so stays text;
# names become headers, in a crosstab.
safe_cells <- function(table) {
  table[] <- lapply(table, function(column) if (is.character(column)) safe_text(column) else column)
  names(table) <- safe_text(names(table))
  table
}

# No formula begins so: numbers, lone signs, and phone numbers, in which a blank parts two numbers.
no_formula <- "^[-+]([0-9.,]+|[-+]*|[^[:alpha:]=|!@]*[0-9)] +[(0-9][^[:alpha:]=|!@]*)$"

safe_text <- function(x) {
  # Where another sign parts cells, what follows it begins one.
  parted <- which(!is.na(x) & grepl("[;|\t\n\r][=+@\uff1d\uff0b\uff0d\uff20-]", x))
  x[parted] <- vapply(x[parted], function(text) {
    parts <- strsplit(text, "(?<=[;|\t\n\r])", perl = TRUE)[[1]]
    paste(c(parts[1], safe_begin(parts[-1])), collapse = "")
  }, "", USE.NAMES = FALSE)
  safe_begin(x)
}

# Signs of full width are read as the plain ones.
safe_begin <- function(x) {
  runs <- !is.na(x) & grepl("^[=+@\t\r\uff1d\uff0b\uff0d\uff20-]", x) & !grepl(no_formula, x)
  x[runs] <- paste0("'", x[runs])
  x
}
