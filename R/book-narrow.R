# Narrowing: conditions and periods on a book, and the parts of a question that come before the
# fold.

#' Keep to some of the lines
#'
#' Gives the book back narrowed, so that every study sees only those lines. The proof counts what
#' lies outside.
#'
#' @param book (`ll_book`) the book.
#' @param ... (text or one-sided formulas) conditions, such as `~ quantity > 3`; or the short form
#'   `field = names`, such as `territory = "Moor"` or `territory = c("Moor", "Fen")`; "(none)" or
#'   `NA` are lines without a name, as tables show them. All must hold.
#' @return The `ll_book`, narrowed.
#' @section Errors:
#' `ll_error_formula` for a condition that cannot be read, `ll_error_word` for a field or name that
#' neither the lines nor the register know.
#' @examples
#' book <- ll_demo()
#' ll_standings(ll_where(book, territory = "Fen"), each = "rep", top = 3)
#' @export
ll_where <- function(book, ...) {
  check_book(book)
  given <- list(...)
  labels <- names(given) %||% rep("", length(given))
  thunks <- lapply(seq_along(given), function(i) {
    function() {
      if (nzchar(labels[i])) equality(book, labels[i], given[[i]]) else
        condition_of(book, given[[i]], "condition")
    }
  })
  for (tree in do.call(together, thunks)) book$only <- and_also(book$only, tree)
  book
}

check_book <- function(book) {
  if (!inherits(book, "ll_book"))
    ll_abort(c("'book' must be a book opened with ll_book() or ll_brief().",
               x = paste0("It is ", shown(class(book)[1]), ".")), "argument")
  book
}

# The short equality form: the field is one of these names (or numbers), as tables show them.
equality <- function(book, field, values) {
  field <- real_name(book, field)
  known_field(book, field, "condition")
  type <- book$fields$type[match(field, book$fields$name)]
  as_number <- function(v) check_number(v, field, list())
  key <- node("name", name = field)
  bare <- is.na(values) | values %in% "(none)"
  values <- values[!bare]
  values <- if (type == "number") vapply(values, as_number, 0, USE.NAMES = FALSE) else
    own_names(as.character(values))
  tree <- or_all(c(
    if (length(values) || !any(bare))
      list(node("within", arg = key, set = node("set", values = values))),
    if (any(bare)) list(node("missing", arg = key))))
  context <- list(label = "condition", text = tree_text(tree))
  check_condition_names(book, resolve_condition(tree, known_to(book), context))
}

condition_of <- function(book, given, label) {
  if (is.null(given)) return(NULL)
  text <- if (inherits(given, "formula")) formula_text(given) else given
  context <- list(label = label, text = text)
  tree <- resolve_condition(read_condition(given, label), known_to(book), context)
  check_condition_names(book, tree)
}

# Everything about "which lines": conditions, period, and the period compared with.
narrow <- function(book, where = NULL, when = NULL, against = NULL) {
  now <- before <- like <- NULL
  only <- and_also(book$only, condition_of(book, where, "condition 'where'"))
  if (!is.null(against) && is.null(when))
    ll_abort("'against' needs 'when': the period that is compared.", "argument")
  if (!is.null(when)) {
    dates <- book_dates(book, "when")
    refuse_stray_date(book, when)
    now <- check_whole_periods(book, read_period(when, dates))
    if (!is.null(against)) {
      refuse_stray_date(book, against)
      made <- like_compared(book, against, now, dates)
      before <- made$before
      like <- made$like
    }
  }
  inside <- function(period) and_also(kept_lines(book), and_also(only, in_period(book, period)))
  list(only = only, now = now, before = before, like = like, period_now = in_period(book, now),
       period_before = in_period(book, before), where_ever = inside(NULL),
       where_now = inside(now),
       where_before = if (!is.null(before)) inside(before))
}

# The lines that are not excluded.
kept_lines <- function(book) {
  if (!is.null(book$aside)) unmet(book$aside)
}

# A period as a condition on the book's date.
in_period <- function(book, period) {
  if (is.null(period)) return(NULL)
  side <- function(op, day) {
    node("compare", op = op, type = "date",
         args = list(node("name", name = book$date), node("date", value = as.numeric(day))))
  }
  and_also(side(">=", period$from), side("<=", period$to))
}
