# A result in an R Markdown or Quarto document: its sentences and its tables in Markdown, so that a
# web page, a PDF and a word processor's document get the same.

knitted_rows <- 60   # rows shown of a table, as printing does

#' Results in R Markdown and Quarto documents
#'
#' A result at the end of a chunk is knitted as its finding, its reading, its tables, its notes and
#' its proof, formatted as they are printed. `print()` still gives console text.
#'
#' @param x (`ll_result`) the result of a study.
#' @param ... ignored.
#' @param most (whole number, from 1) rows shown of each table.
#' @return Markdown, of class `knit_asis`.
#' @section Errors: `ll_error_argument` for what is no result.
#' @examplesIf requireNamespace("knitr", quietly = TRUE)
#' book <- ll_demo()
#' cat(knitr::knit_print(ll_standings(book, "rep", top = 3)))
#' @exportS3Method knitr::knit_print
knit_print.ll_result <- function(x, ..., most = knitted_rows) {
  facts <- facts(x)
  tables <- unlist(lapply(names(facts$further), function(part) {
    c(markdown_table(facts$parts[[part]], facts$further[[part]], NULL, most), "")
  }))
  knitr::asis_output(paste0(c(
    "", paste_marked("**", c(broken_proof(facts$proof), facts$finding)), "",
    paste_marked("", facts$reading),
    "", tables, markdown_table(plain_frame(x), facts$columns, facts$parts$foot, most), "",
    knitted_notes(facts$notes, notes_wanted()),
    paste_marked("", c(proof_text(facts$proof), sprintf("does not hold: %s", facts$proof$check[
      !facts$proof$holds]))), ""), "\n", collapse = ""))
}

# The first notes, and how many more there are.
knitted_notes <- function(notes, most) {
  if (!nrow(notes)) return(NULL)
  c(paste("-", markdown_text(c(utils::head(notes$text, most), more_notes(notes, most)))), "")
}

# Paragraphs, marked at both ends.
paste_marked <- function(mark, text) {
  paste0(mark, markdown_text(text), mark, collapse = "\n\n")
}

# A pipe table: what stands below the rule of the printed table stands last, emphasised.
markdown_table <- function(table, columns, foot, most) {
  if (!nrow(table)) return(markdown_text("(nothing to list)"))
  columns <- columns[columns$shown, ]
  shown <- table[seq_len(min(nrow(table), most)), , drop = FALSE]
  cells <- lapply(seq_len(nrow(columns)), function(i) {
    text <- column_texts(shown, columns[i, ], foot)
    below <- trimmed(text$below)
    if (!length(below)) below <- rep("", NROW(foot))
    c(markdown_text(trimmed(text$text)),
      ifelse(nzchar(below), paste0("*", markdown_text(below), "*"), ""))
  })
  rows <- function(texts) paste0("| ", do.call(paste, c(unname(as.list(texts)), sep = " | ")), " |")
  right <- !columns$unit %in% c("text", "own")
  more <- nrow(table) - nrow(shown)
  # Pandoc shares the width of a long row by the dashes.
  head <- markdown_text(column_headings(columns))
  width <- pmax(vapply(cells, function(x) max(nchar(x, "width")), 0), nchar(head, "width") / 2, 3)
  dashes <- strrep("-", ceiling(width))
  c(rows(head), rows(paste0(ifelse(right, "", ":"), dashes, ifelse(right, ":", ""))), rows(cells),
    if (more) c("", paste("...", markdown_text(plural(more, "more row")))))
}
