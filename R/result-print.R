# Results as lines of text: finding, reading, the table fitted to the width, notes, proof.

#' @export
format.ll_result <- function(x, ..., width = getOption("width"), most = 60,
                             notes = getOption("longladder.notes", notes_most)) {
  facts <- facts(x)
  c(format_broken(facts$proof, width), strwrap(facts$finding, width), strwrap(facts$reading, width),
    "",
    unlist(lapply(names(facts$further), function(part) {
      c(format_table(facts$parts[[part]], facts$further[[part]], NULL, width, most), "")
    })),
    format_table(plain_frame(x), facts$columns, facts$parts$foot, width, most), "",
    format_notes(facts$notes, width, notes_wanted(notes)), format_proof(facts$proof))
}

#' @export
print.ll_result <- function(x, ..., width = getOption("width"), most = 60,
                            notes = getOption("longladder.notes", notes_most)) {
  lines <- format(x, ..., width = width, most = most, notes = notes)
  first <- length(format_broken(ll_proof(x), width))
  cut <- first + seq_along(strwrap(ll_finding(x), width))
  lines[cut] <- cli::style_bold(lines[cut])
  failed <- (grepl("^proof: ", lines) | seq_along(lines) <= first) & !all(ll_proof(x)$holds)
  lines[failed] <- cli::col_red(lines[failed])
  writeLines(lines)
  invisible(x)
}

format_notes <- function(notes, width, most) {
  if (!nrow(notes) || !most) return(character())
  more <- more_notes(notes, most)
  c("notes", unlist(lapply(one_line(utils::head(notes$text, most)), function(text) {
    strwrap(text, width - 2, initial = "- ", prefix = "  ")
  })), if (length(more)) paste0("- ", more, ": --notes all, or ll_notes() in R"))
}

format_broken <- function(proof, width) {
  text <- broken_proof(proof)
  if (length(text)) c(unlist(lapply(one_line(text), strwrap, width = width, exdent = 2)), "")
}

format_proof <- function(proof) {
  broken <- proof$check[!proof$holds]
  c(proof_text(proof), sprintf("  does not hold: %s", broken))
}

# The table with its foot below a rule. Columns that do not fit are named instead.
format_table <- function(table, columns, foot, width, most) {
  if (!nrow(table)) return("(nothing to list)")
  shown <- columns[columns$shown, ]
  # Columns that other rows left empty say nothing.
  cut <- max(nrow(table) - most, 0)
  table <- table[seq_len(nrow(table) - cut), , drop = FALSE]
  moved <- shown$name[shown$unit == "moved"]
  ranked <- columns$name[columns$unit == "rank"][1]
  for (name in moved) table[[name]][is.na(table[[name]]) & !is.na(table[[ranked]])] <- Inf
  heads <- column_headings(shown)
  cells <- lapply(seq_len(nrow(shown)), function(i) {
    format_cells(column_texts(table, shown[i, ], foot), shown$unit[i], heads[i])
  })
  kept <- columns_that_fit(cells, width)
  tall <- max(vapply(cells[kept], function(x) length(x$head), 0L))
  head <- paste_columns(lapply(cells[kept], function(x) {
    c(rep(strrep(" ", nchar(x$body[1], "width")), tall - length(x$head)), x$head)
  }))
  body <- paste_columns(lapply(cells[kept], `[[`, "body"))
  rule <- strrep("-", max(nchar(body, "width")))
  n <- nrow(table)
  out <- c(head, rule, body[seq_len(n)], if (cut) paste0("... ", plural(cut, "more row")),
           if (length(body) > n) c(rule, body[-seq_len(n)]))
  left <- heads[-kept]
  c(sub("\\s+$", "", out),
    if (length(left)) strwrap(paste0("not shown for want of width: ", and_list(left, 12)), width))
}

paste_columns <- function(columns) do.call(paste, c(unname(columns), sep = "  "))

# Heading (in as many lines as it takes), rows and foot of one column, padded to one width.
format_cells <- function(cells, unit, heading) {
  body <- fit_text(c(cells$text, cells$below), cell_width)
  words <- strsplit(heading, " ")[[1]]
  width <- max(nchar(c(body, words), "width"))
  right <- unit != "text"
  head <- strwrap(heading, width + 1)
  list(head = pad(head, width, right), body = pad(body, width, right))
}

# A column's cells, and those of its foot, in people's formats.
cell_texts <- function(values, foot, unit, digits = NA) {
  counted <- is.numeric(values) && !unit %in% c("moved", "rank")
  digits <- if (counted) if (is.na(digits)) fitting_digits(values, unit) else digits
  show <- function(x) {
    if (is.null(digits)) format_values(x, unit) else format_number(x, unit, digits)
  }
  list(text = show(values),
       below = if (is.null(foot)) character() else ifelse(is.na(foot), "", show(foot)))
}

# The same of a column of a table that knows its columns: codes with what they are called.
column_texts <- function(table, column, foot) {
  values <- table[[column$name]]
  if (column$unit == "own")
    values <- format_own(values, table[[paste0(column$name, "_unit")]] %||% table$unit)
  if (!is.na(column$label)) values <- labelled_cells(values, table[[column$label]])
  cell_texts(values, foot[[column$name]], column$unit, column$digits)
}

# So that the code is seen whole, what it is called gives way.
labelled_cells <- function(codes, labels) {
  room <- pmax(cell_width - nchar(codes, "width") - 3, 8)
  for (width in unique(room[!is.na(labels)])) {
    at <- which(room == width & !is.na(labels))
    labels[at] <- fit_text(one_line(labels[at]), width)
  }
  labelled_text(codes, labels)
}

cell_width <- 40

# Values that have a unit each.
format_own <- function(values, unit) {
  vapply(seq_along(values), function(i) format_values(values[i], unit[i]), "")
}

format_values <- function(values, unit) {
  switch(unit, own = values, text = ifelse(is.na(values), "", one_line(as.character(values))),
         moved = format_moved(values), rank = sub("^-$", "", format_number(values, "rank")),
         format_number(values, unit))
}

# Ranks moved: up is plus. Inf marks a name that was not ranked before.
format_moved <- function(x) {
  ifelse(is.na(x), "", ifelse(is.infinite(x), "new", ifelse(x == 0, "=", sprintf("%+g", x))))
}

columns_that_fit <- function(cells, width) {
  widths <- vapply(cells, function(x) nchar(x$body[1], "width"), 0) + 2
  fits <- which(cumsum(widths) - 2 <= width)
  if (!length(fits)) 1 else fits
}
