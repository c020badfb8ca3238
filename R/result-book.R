# The book as text.

#' @export
format.ll_book <- function(x, ..., width = getOption("width")) {
  dates <- if (length(x$days)) paste0(", ", span_text(first_day(x), last_day(x)), " (by ", x$date,
                                      ")")
  own <- x$fields[x$fields$from %in% c("lines", "computed"), ]
  unguarded(c(
    paste0(if (is.null(x$title)) "A book" else x$title, ": ", plural(x$lines, "line"), dates),
    if (!is.null(x$only)) paste0("narrowed to ", tree_words(x$only)), "",
    format_fields(own, x$lines), format_registers(x, width), format_metrics(x$metrics),
    format_uses(x, width), format_fixes(x, width)))
}

#' @export
print.ll_book <- function(x, ..., width = getOption("width")) {
  writeLines(format(x, ..., width = width))
  invisible(x)
}

format_fields <- function(own, lines) {
  own <- own[order(match(own$role, roles)), ]
  gaps <- ifelse(own$missing == 0, "", paste0(vapply(own$missing, count_text, ""), " missing"))
  block <- function(head, x, right = FALSE) pad(c(head, x), max(nchar(c(head, x), "width")), right)
  sub("\\s+$", "", paste(block("field", one_line(own$name)), block("role", own$role),
                         block("gaps", gaps, TRUE), block("why", own$why), sep = "  "))
}

format_registers <- function(book, width) {
  if (!length(book$registers)) return(character())
  one <- function(dimension) {
    register <- book$registers[[dimension]]
    match <- register_match(book, dimension)
    facts <- c(paste(count_text(length(register$names)), "names"),
               if (length(register$table)) paste("fields",
                                                 paste(names(register$table), collapse = ", ")),
               if (length(match$unused)) paste(count_text(length(match$unused)), "without lines"),
               if (length(match$unknown))
                 paste0(count_text(length(match$unknown)), " on lines but not in it (",
                        and_list(quoted(show_blanks(match$unknown)), 3), ")"),
               if (match$twice) paste(count_text(match$twice),
                                      "listed twice, the first one serves"))
    strwrap(paste0("register ", dimension, ": ", paste(facts, collapse = "; ")), width, exdent = 2)
  }
  c("", unlist(lapply(names(book$registers), one)))
}

format_metrics <- function(metrics) {
  if (!length(metrics)) return(c("", "no metrics yet"))
  pick <- function(field) vapply(metrics, `[[`, "", field)
  c("", paste0("metric ", pad(names(metrics), max(nchar(names(metrics), "width"))), "  ",
               one_line(pick("text")), "  (", pick("unit"),
               ifelse(pick("better") == "low", ", lower is better", ""), ")"))
}

format_uses <- function(book, width) {
  facts <- c(if (!is.null(book$order)) paste0("orders are counted by ", book$order),
             if (!is.null(book$people)) paste0("people by ", book$people))
  open <- open_order(book, "order = FIELD", function(name) paste0("\"", name, "\""))
  c(if (length(facts)) strwrap(paste(facts, collapse = "; "), width, exdent = 2),
    if (!is.null(open)) strwrap(open, width, exdent = 2),
    strwrap(shared_names(book), width, exdent = 2))
}

# Several fields could count orders and none was chosen: which, and how to choose.
open_order <- function(book, how, quote) {
  own <- book$fields[book$fields$from == "lines" & book$fields$role == "identifier", ]
  if (!is.null(book$order) || nrow(own) < 2) return(NULL)
  paste0("orders are not counted: ", and_list(own$name), " could tell them; choose with ",
         sub("FIELD", quote(own$name[1]), how, fixed = TRUE))
}

format_fixes <- function(book, width) {
  done <- fixes_made(book)
  text <- c(if (NROW(done)) paste("fixed:", done$text),
            if (!is.null(book$aside)) paste("excluded: lines where", tree_words(book$aside)))
  if (length(text)) c("", strwrap(text, width, exdent = 2))
}
