# One workbook of many results: contents with links, a sheet each, and all proofs.

#' Save many results as one workbook
#'
#' Writes an XLSX workbook: contents with a link and the finding of each result; a sheet for each,
#' with finding and reading above the table, filter, frozen header and number formats, notes below;
#' and a sheet of all proofs.
#'
#' @param results (named list of `ll_result`) what studies returned; the names become sheets.
#' @param file (text) the path, ending in `.xlsx`.
#' @param title (text) what the workbook is called; the book's title if not given.
#' @return The path, invisibly.
#' @section Errors: `ll_error_argument` for what are no results, `ll_error_target` where the file
#' cannot be written.
#' @examples
#' book <- ll_demo()
#' file <- tempfile(fileext = ".xlsx")
#' ll_workbook(list(reps = ll_standings(book, "rep", "revenue", top = 5),
#'                  check = ll_check(book)), file)
#' @export
ll_workbook <- function(results, file, title = NULL) {
  if (inherits(results, "ll_result")) results <- list(results)
  if (!is.list(results) || !length(results))
    ll_abort("'results' must be results of studies, in a named list.", "argument")
  pages <- Map(function(name, x) list(title = name, result = x), result_names(results), results)
  if (check_ending(file) != "xlsx")
    ll_abort(paste0("A workbook ends in .xlsx, not as ", quoted(basename(file)), "."), "target")
  write_whole(file, function(path) {
    write_workbook(pages, title %||% facts(results[[1]])$title, path)
  }, files_behind(results))
}

# What results of a list are called, each once; those without a name as their study. Refuses what is
# no result.
result_names <- function(results) {
  studies <- vapply(results, function(x) facts(x)$study, "")
  names <- names(results) %||% studies
  make.unique(unname(ifelse(nzchar(names), names, studies)), " ")
}

# The files that some results come from.
files_behind <- function(results) unlist(lapply(results, function(x) facts(x)$book$files))

# Pages as lists of title, and result or error.
write_workbook <- function(pages, title, path) {
  book <- openxlsx::createWorkbook(title = sheet_text(title))
  sheets <- sheet_names(vapply(pages, `[[`, "", "title"))
  add_contents_sheet(book, pages, sheets, title)
  for (i in seq_along(pages)) if (!is.null(pages[[i]]$result))
    add_page_sheet(book, sheets[i], pages[[i]]$result, pages[[i]]$comment)
  add_proofs_sheet(book, pages)
  openxlsx::saveWorkbook(book, path, overwrite = TRUE)
}

# Sheets may not be longer than 31 signs, hold some of them, or bear a name twice.
sheet_names <- function(titles) {
  names <- trimmed(substr(gsub("[][*?/\\\\':]+", " ", one_line(titles)), 1, 27))
  names[!nzchar(names) | tolower(names) == "history"] <- "page"
  taken <- c("contents", "proofs")
  for (i in seq_along(names)) {
    plain <- names[i]
    n <- 2
    while (tolower(names[i]) %in% taken) {
      names[i] <- paste(plain, n)
      n <- n + 1
    }
    taken <- c(taken, tolower(names[i]))
  }
  names
}

bold_cells <- function(...) openxlsx::createStyle(textDecoration = "bold", ...)

add_contents_sheet <- function(book, pages, sheets, title) {
  openxlsx::addWorksheet(book, "contents", gridLines = FALSE)
  put_cells(book, "contents", title)
  openxlsx::addStyle(book, "contents", bold_cells(fontSize = 16), 1, 1)
  failed <- vapply(pages, function(p) is.null(p$result), NA)
  told <- vapply(pages, function(p) {
    if (is.null(p$result)) paste("could not be made:", one_line(conditionMessage(p$error))) else
      paste(c(ll_finding(p$result), if (length(p$comment)) one_line(p$comment)), collapse = "\n")
  }, "")
  held <- vapply(pages, function(p) {
    if (is.null(p$result)) "" else sub("^proof: ", "", proof_text(ll_proof(p$result)))
  }, "")
  head <- bold_cells(border = "bottom")
  titles <- vapply(pages, `[[`, "", "title")
  put_cells(book, "contents", data.frame(page = titles, finding = told, proof = held),
                      startRow = 3, headerStyle = head)
  # A link is a formula, so the name in it has its quotes doubled.
  for (i in which(!failed)) openxlsx::writeFormula(
    book, "contents", startRow = 3 + i,
    x = openxlsx::makeHyperlinkString(sheets[i], text = gsub(
      "\"", "\"\"", fit_text(sheet_text(one_line(titles[i])), 120))))
  openxlsx::addStyle(book, "contents", openxlsx::createStyle(wrapText = TRUE, valign = "top"),
                     3 + seq_along(pages), 1:3, gridExpand = TRUE, stack = TRUE)
  openxlsx::setColWidths(book, "contents", 1:3, c(36, 94, 18))
  fit_print(book, "contents", 7, 3)
}

# Finding, reading and a way back above the table; notes below.
add_page_sheet <- function(book, sheet, x, comment = NULL) {
  facts <- facts(x)
  openxlsx::addWorksheet(book, sheet)
  table <- plain_frame(x)
  widths <- column_widths(table, facts)
  # A narrow table leaves sentences little room.
  over <- c(widths, rep(12, max(0, ceiling((80 - sum(widths)) / 12))))
  put_sentences(book, sheet, facts$finding, 1, over, 18)
  put_sentences(book, sheet, facts$reading, 2, over)
  openxlsx::addStyle(book, sheet, bold_cells(fontSize = 13), 1, 1, stack = TRUE)
  openxlsx::addStyle(book, sheet, openxlsx::createStyle(fontColour = "#5D6B75"), 2, 1,
                     stack = TRUE)
  openxlsx::writeFormula(book, sheet, startRow = 3,
                         x = openxlsx::makeHyperlinkString("contents", text = "contents"))
  if (length(comment)) put_sentences(book, sheet, one_line(comment), 4, over)
  below <- put_table(book, sheet, table, facts, 5)
  openxlsx::freezePane(book, sheet, firstActiveRow = 6)
  if (nrow(facts$notes)) {
    put_cells(book, sheet, "Notes", startRow = below + 1)
    openxlsx::addStyle(book, sheet, bold_cells(), below + 1, 1)
    put_sentences(book, sheet, facts$notes$text, below + 2, over)
  }
  fit_print(book, sheet, length(over), 5)
}

add_proofs_sheet <- function(book, pages) {
  proofs <- do.call(rbind, unname(lapply(pages, function(p) {
    if (!is.null(p$result)) cbind(page = p$title, ll_proof(p$result))
  })))
  openxlsx::addWorksheet(book, "proofs")
  if (is.null(proofs)) return(invisible())
  put_cells(book, "proofs", proofs, withFilter = TRUE,
                      headerStyle = bold_cells(border = "bottom"))
  openxlsx::freezePane(book, "proofs", firstRow = TRUE)
  openxlsx::setColWidths(book, "proofs", seq_along(proofs), c(28, 90, 22, 22, 10))
  fit_print(book, "proofs", 7, 1)
}
