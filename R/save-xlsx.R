# A workbook of one result: the table with number formats, frozen header and filter; a second sheet
# with finding, reading, notes and proof.

write_xlsx <- function(x, path) {
  facts <- facts(x)
  book <- openxlsx::createWorkbook(title = sheet_text(facts$finding))
  add_table_sheet(book, facts$study, plain_frame(x), facts)
  for (part in names(facts$further))
    add_table_sheet(book, part, facts$parts[[part]], list(columns = facts$further[[part]]))
  add_words_sheet(book, "about", facts)
  openxlsx::saveWorkbook(book, path, overwrite = TRUE)
}

add_table_sheet <- function(book, sheet, table, facts) {
  openxlsx::addWorksheet(book, sheet)
  openxlsx::freezePane(book, sheet, firstRow = TRUE)
  put_table(book, sheet, table, facts)
  fit_print(book, sheet, ncol(table), 1)
}

# A table with its foot from row `top` on, in people's formats; gives back the row after it.
put_table <- function(book, sheet, table, facts, top = 1) {
  header <- openxlsx::createStyle(textDecoration = "bold", border = "bottom", wrapText = TRUE,
                                  valign = "top")
  # No format of a sheet turns a share into points.
  in_points <- intersect(names(table), facts$columns$name[facts$columns$unit == "points"])
  in_cells <- function(x) {
    x[in_points] <- lapply(x[in_points], `*`, 100)
    x
  }
  put_cells(book, sheet, in_cells(table), headerStyle = header, withFilter = nrow(table) > 0,
            keepNA = FALSE, startRow = top)
  foot <- facts$parts$foot
  if (!is.null(foot) && nrow(foot))
    put_cells(book, sheet, in_cells(foot[names(table)]), startRow = top + nrow(table) + 2,
              colNames = FALSE, keepNA = FALSE)
  rows <- top + seq_len(nrow(table) + 2 + NROW(foot))
  for (i in seq_along(table)) {
    unit <- column_unit(facts, names(table)[i])
    openxlsx::addStyle(book, sheet, openxlsx::createStyle(numFmt = sheet_format(unit)), rows, i,
                       stack = TRUE)
  }
  openxlsx::setColWidths(book, sheet, seq_along(table), column_widths(table, facts))
  if (NROW(foot))
    openxlsx::addStyle(book, sheet, openxlsx::createStyle(textDecoration = "italic"),
                       top + nrow(table) + 1 + seq_len(nrow(foot)), seq_along(table),
                       gridExpand = TRUE, stack = TRUE)
  top + nrow(table) + 2 + NROW(foot)
}

sheet_format <- function(unit) {
  switch(unit, money = "#,##0.00", count = "#,##0", percent = "0.0%",
         points = "0.0 \"points\"", rank = "0.##",
         date = "yyyy-mm-dd", moved = "+0;-0;0", text = "@", "#,##0.####")
}

column_widths <- function(table, facts) {
  vapply(names(table), function(name) {
    column_width(table[[name]], name, column_unit(facts, name))
  }, 0)
}

column_width <- function(values, name, unit) {
  text <- format_values(utils::head(values, 1000), unit)
  min(max(nchar(text, "width"), ceiling(nchar(name) / 2), 8) + 3, 50)
}

add_words_sheet <- function(book, sheet, facts) {
  openxlsx::addWorksheet(book, sheet)
  bold <- openxlsx::createStyle(textDecoration = "bold")
  row <- 1
  put <- function(title, data) {
    put_cells(book, sheet, title, startRow = row)
    openxlsx::addStyle(book, sheet, bold, row, 1)
    put_cells(book, sheet, data, startRow = row + 1, colNames = is.data.frame(data),
                        headerStyle = bold, keepNA = FALSE)
    row <<- row + NROW(data) + 2 + is.data.frame(data)
  }
  put("Finding", facts$finding)
  put("Reading", facts$reading)
  if (nrow(facts$notes)) put("Notes", facts$notes)
  put("Proof", facts$proof)
  openxlsx::setColWidths(book, sheet, 1:4, c(60, 24, 24, 10))
  fit_print(book, sheet, 4)
}

# Printed on sheets as wide as the table, with its head on each and numbers below.
fit_print <- function(book, sheet, columns, head = NULL) {
  openxlsx::pageSetup(book, sheet, orientation = if (columns > 6) "landscape" else "portrait",
                      paperSize = 9, fitToWidth = TRUE, fitToHeight = FALSE,
                      printTitleRows = head, left = .5, right = .5)
  openxlsx::setHeaderFooter(book, sheet, footer = c("&A", NA, "&P of &N"))
}

# Sentences over the width of the table, each in as many lines as it takes.
put_sentences <- function(book, sheet, text, row, widths, height = 15) {
  for (i in seq_along(text)) {
    put_cells(book, sheet, text[i], startRow = row + i - 1)
    if (length(widths) > 1)
      openxlsx::mergeCells(book, sheet, cols = seq_along(widths), rows = row + i - 1)
    lines <- ceiling(nchar(text[i], "width") * 1.15 / sum(widths))
    openxlsx::setRowHeights(book, sheet, row + i - 1, height * max(lines, 1))
  }
  openxlsx::addStyle(book, sheet, openxlsx::createStyle(wrapText = TRUE, valign = "top"),
                     row - 1 + seq_along(text), 1, stack = TRUE)
}

put_cells <- function(book, sheet, data, ...) {
  openxlsx::writeData(book, sheet, sheet_cells(data), ...)
}

sheet_cells <- function(data) {
  if (!is.data.frame(data)) return(if (is.character(data)) sheet_text(data) else data)
  names(data) <- sheet_text(names(data))
  data[] <- lapply(data, function(x) if (is.character(x)) sheet_text(x) else x)
  data
}

# Characters that XML cannot hold, as spreadsheets write them: _x0001_ (ISO/IEC 29500-1, 22.9.2.19);
# what looks like one of these has its first sign written so.
sheet_text <- function(x) {
  x <- gsub("_(x[0-9A-Fa-f]{4}_)", "_x005F_\\1", x)
  # No cell holds more (ECMA-376, 18.3.1.4).
  long <- which(nchar(x) > 32767)
  x[long] <- paste0(substr(x[long], 1, 32766), "\u2026")
  odd <- grep("[\\x01-\\x08\\x0b-\\x1f\ufffe\uffff]", x, perl = TRUE)
  x[odd] <- vapply(x[odd], function(text) {
    code <- utf8ToInt(text)
    signs <- intToUtf8(code, multiple = TRUE)
    bad <- code < 32 & !code %in% c(9, 10) | code %in% c(0xfffe, 0xffff)
    signs[bad] <- sprintf("_x%04X_", code[bad])
    paste(signs, collapse = "")
  }, "")
  x
}
