# Detail, continued: the question and what is found.

# `book` may be a result, of whose row the lines are asked for.
detail_question <- function(book, args) {
  result <- if (inherits(book, "ll_result")) book
  if (is.null(result) && !(is.null(args$row) && is.null(args$column)))
    ll_abort("'row' and 'column' belong to a result given in place of the book.", "argument")
  question <- refuse_compared(ask_book(check_book(book_of(book)), args), "detail")
  if (!is.null(result)) question <- narrow_to_row(question, result, args$row, args$column)
  book <- question$book
  own <- book$fields$name[book$fields$from == "lines"]
  sort_by <- if (is.null(args$sort_by)) book$date else real_name(book, args$sort_by)
  if (!is.null(sort_by)) known_field(book, sort_by, "sort_by")
  with_args(question, sort_by = sort_by,
            with_fields = unique(named_fields(book, args$with_fields %||% own, "with_fields")))
}

detail_found <- found_of(
  "detail",
  here = holds("book", NULL, "the book with these lines in memory"),
  lines = holds("count", NULL, "the lines shown, by their row there, in their order"),
  meets = holds("count", "one", "lines that meet the conditions"))

detail_work <- function(question) {
  args <- question$args
  first <- if (!is.null(args$top) && !is.null(args$sort_by))
    list(by = key_tree(question$book, args$sort_by), highest = args$first == "highest",
         n = args$top)
  book <- question$book
  book$source <- lines_here(question, c(args$with_fields, args$sort_by), first = first)
  keep <- line_mask(book$source, question$asked$where_now)
  lines <- if (is.null(keep)) seq_len(source_size(book$source)) else which(keep)
  total <- fold_question(question, character())
  meets <- if (is_partial(book$source)) sum(total$lines) else length(lines)
  if (!is.null(args$sort_by)) {
    by <- field_values(book, args$sort_by, lines)
    if (is.character(by)) by <- match(by, sort(unique(by), method = "radix"))
    by <- as.numeric(by)
    lines <- lines[order(if (args$first == "highest") -by else by, lines, na.last = TRUE)]
  }
  detail_found(here = book, lines = if (is.null(args$top)) lines else utils::head(lines, args$top),
               meets = meets, counted = sum(total$lines), exact = total$exact,
               total = as.list(total$values[1, , drop = FALSE]))
}
