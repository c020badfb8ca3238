# Results as lines of text: finding, reading, the table fitted to the width, notes, proof.

#' @export
format.ll_result <- function(x, ..., width = getOption("width"), most = 60) {
  f <- facts(x)
  c(strwrap(f$finding, width), strwrap(f$reading, width), "",
    format_table(plain_frame(x), f$columns, f$parts$foot, width, most), "",
    format_notes(f$notes, width), format_proof(f$proof))
}

#' @export
print.ll_result <- function(x, ..., width = getOption("width"), most = 60) {
  lines <- format(x, ..., width = width, most = most)
  cut <- length(strwrap(ll_finding(x), width))
  lines[seq_len(cut)] <- cli::style_bold(lines[seq_len(cut)])
  failed <- grepl("^proof: ", lines) & !all(ll_proof(x)$holds)
  lines[failed] <- cli::col_red(lines[failed])
  writeLines(lines)
  invisible(x)
}

format_notes <- function(notes, width) {
  if (!nrow(notes)) return(character())
  c("notes", unlist(lapply(one_line(notes$text), function(text) {
    strwrap(text, width - 2, initial = "- ", prefix = "  ")
  })))
}

format_proof <- function(proof) {
  out <- proof_text(proof)
  broken <- proof[!proof$holds, ]
  if (!nrow(broken)) return(out)
  c(out, sprintf("  does not hold: %s (expected %s, found %s)", broken$check,
                 format_number(broken$expected), format_number(broken$found)))
}

# The table with its foot below a rule. Columns that do not fit are named instead.
format_table <- function(table, columns, foot, width, most) {
  if (!nrow(table)) return("(no names)")
  shown <- columns[columns$shown, ]
  # Columns that other rows left empty say nothing.
  cut <- max(nrow(table) - most, 0)
  table <- table[seq_len(nrow(table) - cut), , drop = FALSE]
  cells <- lapply(seq_len(nrow(shown)), function(i) {
    format_cells(table[[shown$name[i]]], foot[[shown$name[i]]], shown$unit[i], shown$name[i])
  })
  kept <- columns_that_fit(cells, width)
  lines <- do.call(paste, c(unname(cells[kept]), sep = "  "))
  n <- nrow(table)
  rule <- strrep("-", max(nchar(lines, "width")))
  out <- c(lines[1], rule, lines[seq_len(n) + 1],
           if (cut) paste0("... ", plural(cut, "more row")),
           if (length(lines) > n + 1) c(rule, lines[-seq_len(n + 1)]))
  left <- shown$name[-kept]
  c(sub("\\s+$", "", out),
    if (length(left)) strwrap(paste0("not shown for want of width: ", paste(left, collapse = ", ")),
                              width))
}

# Heading, rows and foot of one column, padded to one width.
format_cells <- function(values, foot, unit, name) {
  text <- c(name, format_values(c(values, foot), unit))
  text <- fit_text(text, 40)
  pad(text, max(nchar(text, "width")), right = !unit %in% c("text"))
}

format_values <- function(values, unit) {
  switch(unit, text = ifelse(is.na(values), "", one_line(as.character(values))),
         moved = format_moved(values), place = sub("^-$", "", format_number(values, "place")),
         format_number(values, unit))
}

# Places moved: up is plus. Inf marks a name that was not placed before.
format_moved <- function(x) {
  ifelse(is.na(x), "", ifelse(is.infinite(x), "new", ifelse(x == 0, "=", sprintf("%+g", x))))
}

columns_that_fit <- function(cells, width) {
  widths <- vapply(cells, function(x) nchar(x[1], "width"), 0) + 2
  fits <- which(cumsum(widths) - 2 <= width)
  if (!length(fits)) 1 else fits
}
