# Detail, continued: the question and what is found.

# The book that a result was made from, as long as somebody keeps it open.
book_of <- function(x) {
  if (!inherits(x, "ll_result")) return(x)
  kept <- facts(x)$book
  source <- kernel_strong(kept$source)
  if (is.null(source))
    ll_abort(c("The book of this result is no longer open.",
               i = "Keep it in a variable, or ask the book itself: ll_detail(book, where = ...)."),
             "argument")
  kept$source <- source
  kept
}

detail_fields <- function(q) {
  book <- q$book
  own <- book$fields$name[book$fields$from == "lines"]
  q$show <- unique(named_fields(book, q$show %||% own, "show"))
  q$sort_by <- if (is.null(q$sort_by)) book$date else real_name(book, q$sort_by)
  if (!is.null(q$sort_by)) known_field(book, q$sort_by, "sort_by")
  q
}

detail_lines <- function(q) {
  first <- if (!is.null(q$top) && !is.null(q$sort_by))
    list(by = key_tree(q$book, q$sort_by), highest = q$direction == "highest", n = q$top)
  book <- q$book
  book$source <- lines_here(q, c(q$show, q$sort_by), first = first)
  keep <- line_mask(book$source, q$asked$where_now)
  lines <- if (is.null(keep)) seq_len(source_size(book$source)) else which(keep)
  total <- fold_question(q, character())
  s <- list(q = q, here = book, counted = sum(total$lines), exact = total$exact,
            found = if (is_partial(book$source)) sum(total$lines) else length(lines),
            total = as.list(total$values[1, , drop = FALSE]))
  if (!is.null(q$sort_by)) {
    by <- field_values(book, q$sort_by, lines)
    if (is.character(by)) by <- match(by, sort(unique(by), method = "radix"))
    by <- as.numeric(by)
    lines <- lines[order(if (q$direction == "highest") -by else by, lines, na.last = TRUE)]
  }
  s$lines <- if (is.null(q$top)) lines else utils::head(lines, q$top)
  s
}

# Values of a field, computed ones included, for some lines.
field_values <- function(book, name, lines) {
  tree <- key_tree(book, name)
  if (tree$kind == "name") return(source_lines(book$source, lines, name)[[1]])
  if (is_text(book$source, tree)) {
    column <- coded_tree(book$source, tree)
    return(c(NA, column$levels)[column$codes[lines] + 1L])
  }
  value <- scaled_value(row_values(book$source, tree))[lines]
  if (row_type(tree, known_to(book)) == "date") as_day(value) else value
}
