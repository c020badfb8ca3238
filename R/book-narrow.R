# Narrowing: conditions and periods on a book, and the parts of a question that come before the
# fold.

#' Keep to some of the lines
#'
#' Gives the book back narrowed, so that every study sees only those lines. The proof counts what
#' lies outside.
#'
#' @param book (`ll_book`) the book.
#' @param ... conditions as text or one-sided formulas, such as `~ quantity > 3`; or the short form
#'   `field = names`, such as `territory = "Moor"` or `territory = c("Moor", "Fen")`. All must hold.
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

# The short equality form: the field is one of these names (or numbers).
equality <- function(book, field, values) {
  field <- real_name(book, field)
  known_field(book, field, "condition")
  type <- book$fields$type[match(field, book$fields$name)]
  as_number <- function(v) check_number(v, field, list())
  values <- if (type == "number") vapply(values, as_number, 0, USE.NAMES = FALSE) else
    as.character(values)
  tree <- node("within", arg = node("name", name = field), set = node("set", values = values))
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

# Fields may be called by their other names.
real_name <- function(book, name) field_called(name, book) %||% name

# A name that neither the lines nor a register know is an error; one that just has no lines is not.
check_condition_names <- function(book, tree) {
  for (one in unknown_names(book, tree))
    ll_abort(c(paste0("No ", spoken(one$field), " is called ", shown(one$name), "."),
               offer(one$name, one$known, "Known")), "word")
  tree
}

# The names in a tree's conditions that neither the lines nor a register know: a list of list(field,
# name, known).
unknown_names <- function(book, tree) {
  out <- lapply(literals_in(tree), function(one) {
    field <- book$fields[match(one$field, book$fields$name), ]
    if (is.na(field$type) || field$type != "text") return(NULL)
    known <- names_of(book, one$field)
    if (one$field %in% names(book$registers)) known <- c(known, book$registers[[one$field]]$names)
    if (!field$from %in% c("lines", "computed"))
      known <- c(known, plain_key(book$registers[[field$from]]$table[[field$column]]))
    unknown <- setdiff(one$values, known)
    if (length(unknown)) list(field = one$field, name = unknown[1], known = unique(known))
  })
  Filter(Negate(is.null), out)
}

known_field <- function(book, field, what) {
  if (field %in% book$fields$name) return(invisible(field))
  hint <- if (guarded(field) %in% names(book$metrics))
    c(i = paste0(quoted(field), " is a metric: it can be placed by, not sliced by."))
  ll_abort(c(paste0("There is no field called ", quoted(field), " (in ", quoted(what), ")."), hint,
             offer(field, c(setdiff(named_once(book$fields)$name, book$made), names(book$also)),
                   "Fields",
                   list(metric = names(book$metrics)))), "word")
}

# Fields that a person names, under their own names.
named_fields <- function(book, fields, what) {
  vapply(fields, function(field) {
    field <- real_name(book, field)
    known_field(book, field, what)
    field
  }, "", USE.NAMES = FALSE)
}

# Fields whose names can be placed or sliced by; gives the field's own name.
check_dimension <- function(book, field, what) {
  field <- real_name(book, field)
  known_field(book, field, what)
  row <- book$fields[match(field, book$fields$name), ]
  if (row$role == "measure" || row$type == "number")
    ll_abort(c(paste0(quoted(field), " is a measure; ", quoted(what), " needs a dimension."),
               offer_all("Dimensions", dimensions_of(book))), "word")
  if (row$role == "date")
    ll_abort(c(paste0(quoted(field), " is a date; ", quoted(what), " needs a dimension."),
               i = paste0("Give a period with 'when', or place a part of it: month(", field, ").")),
             "word")
  field
}

# The dimensions of a question. A part of a date, such as month(order_date), serves without being
# declared: it becomes a field order_date_month of the book it gives back.
pick_dimensions <- function(book, asked, what) {
  names <- character()
  for (one in asked) {
    if (grepl("^[a-z_]+\\(.*\\)$", one)) {
      made <- add_date_part(book, one, what)
      book <- made$book
      one <- made$name
    }
    names <- c(names, check_dimension(book, one, what))
  }
  list(book = book, names = unique(names))
}

add_date_part <- function(book, text, what) {
  context <- list(label = quoted(what), text = text)
  tree <- resolve_row(read_row(text, quoted(what)), known_to(book), context)
  if (tree$kind != "bucket")
    refuse(context, "a dimension or a part of a date belongs here",
           c(i = "For example month(order_date); other formulas are computed fields."))
  name <- guarded(gsub("[^[:alnum:]]+", "_", paste0(tree_text(tree$arg), "_", tree$part)))
  if (!name %in% names(book$computed)) {
    book <- put_field(book, name, node("computed", name = name, tree = tree, type = "text"),
                      "dimension", "text", text)
    # It serves this question, and is nothing that a person would know of.
    book$made <- c(book$made, name)
  }
  list(book = book, name = name)
}

dimensions_of <- function(book) {
  fields <- named_once(book$fields)
  setdiff(fields$name[fields$role == "dimension"], book$made)
}

# Fields by their plain names: a register's are known as dimension.field too, and only so where
# another field bears the name, which is then looked at in its stead.
named_once <- function(fields) {
  fields[fields$name != register_name(fields$from, fields$column), ]
}

# First and last day of the lines, and the day that "last" counts back from.
book_dates <- function(book, what) {
  if (is.null(book$date))
    ll_abort(c(paste0(quoted(what), " needs a date, and the book has no date field."),
               i = "Name it on opening: date = \"day\" in R, --date day on the command."),
             "data")
  if (!length(book$days))
    ll_abort(paste0("The date field ", quoted(book$date), " holds no date at all."), "data")
  list(first = first_day(book), last = book_day(book), calendar = book$calendar)
}

# One mistyped date far ahead would move every "last": then the person must say what day it is.
refuse_stray_date <- function(book, text) {
  relative <- grepl("^\\s*(last|this)", tolower(text))
  if (!relative || !is.null(book$as_of)) return(invisible())
  stray <- stray_days(book)
  last <- max(book$days)
  if (!last %in% stray) return(invisible())
  sure <- max(book$days[!book$days %in% stray])
  ll_abort(c(paste0(quoted(text), " counts back from the last date, and that looks mistyped."),
             x = paste0("The last date is ", last, ", ", last - sure,
                        " days after the one before (", sure, ")."),
             i = paste0("Say what day to count from: as_of = \"", sure, "\" in R, --as-of ", sure,
                        " on the command.")), "data")
}

# Days at the ends of the book that lie further from the others than a quarter and three times the
# usual step, at most one in a hundred of all.
stray_days <- function(book) {
  days <- sort(book$days)
  n <- length(days)
  if (n < 3) return(days[0])
  step <- as.numeric(diff(days))
  far <- which(step > max(92 + c(day = 0, month = 31, quarter = 92, year = 366)[[book$unit %||%
                                                                                   "day"]],
                          3 * stats::median(step)))
  few <- max(1, n %/% 100)
  after <- far[n - far <= few]
  before <- far[far <= few]
  at <- c(if (length(before)) seq_len(max(before)), if (length(after)) (min(after) + 1):n)
  days[at]
}

# Everything about "which lines": conditions, period, and the period compared with.
narrow <- function(book, where = NULL, when = NULL, against = NULL) {
  now <- before <- NULL
  only <- and_also(book$only, condition_of(book, where, "condition 'where'"))
  if (!is.null(against) && is.null(when))
    ll_abort("'against' needs 'when': the period that is compared.", "argument")
  if (!is.null(when)) {
    dates <- book_dates(book, "when")
    refuse_stray_date(book, when)
    now <- check_whole_periods(book, read_period(when, dates))
    if (!is.null(against)) {
      refuse_stray_date(book, against)
      before <- check_whole_periods(book, read_against(against, now, dates))
    }
  }
  inside <- function(period) and_also(kept_lines(book), and_also(only, in_period(book, period)))
  list(only = only, now = now, before = before, period_now = in_period(book, now),
       period_before = in_period(book, before), where_ever = inside(NULL),
       where_now = inside(now),
       where_before = if (!is.null(before)) inside(before))
}

# The lines that are not set aside.
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

# One fold for several metrics: names of the keys, values and line counts as a data frame, with
# `exact` telling which metrics are exact decimals. `before` is the condition of the other period,
# for change() and growth(); `shown` the lines over which bands of what is shown are measured.
# Names with lines in the other period only are rows too when a metric compares the two.
fold_metrics <- function(book, keys, metrics, where, extra = list(), before = NULL,
                         shown = where, totals = list()) {
  trees <- c(lapply(metrics, `[[`, "tree"), extra)
  parts <- parts_of(trees)
  keys <- key_trees(book, keys, shown)
  now <- source_fold(book$source, keys, parts, where, totals)
  if (is.null(before) || !any(vapply(trees, needs_against, TRUE))) {
    out <- folded_values(trees, now, NULL)
    out$totals <- lapply(now$totals, function(total) folded_values(trees, total, NULL))
    return(out)
  }
  was <- source_fold(book$source, keys, parts, before, totals)
  both <- function(a, b) {
    joined <- join_folds(a, b)
    folded_values(trees, joined$now, joined$before)
  }
  out <- both(now, was)
  out$totals <- Map(both, now$totals, was$totals)
  out
}

folded_values <- function(trees, fold, before) {
  values <- lapply(trees, metric_value, parts = fold$parts, before = before)
  rows <- length(fold$lines)
  frame <- as.data.frame(lapply(values, function(v) rep_len(scaled_value(v), rows)),
                         optional = TRUE)
  for (i in seq_along(trees)) refuse_overflow(trees[[i]], frame[[i]])
  names(frame) <- names(trees)
  list(keys = fold$keys, values = frame, lines = fold$lines,
       exact = vapply(values, is_exact, TRUE), rows = rows, parts = fold$parts, before = before)
}

# Beyond what a double holds there is no number.
refuse_overflow <- function(tree, value) {
  if (any(is.infinite(value)))
    ll_abort(c(paste0("The metric ", quoted(fit_text(one_line(tree_text(tree)), 80)),
                      " grows beyond the largest number there is (1.8e308)."),
               i = "Look for mistyped amounts, or divide them: sum(net / 1000)."), "data")
}

# Two folds over the same keys, each with a row for every name of either.
join_folds <- function(now, before) {
  if (!length(now$keys)) return(list(now = now, before = before$parts))
  at <- match_keys(before$keys, now$keys)
  new <- which(is.na(at))
  n <- length(now$lines)
  at[new] <- n + seq_along(new)
  back <- match(seq_len(n + length(new)), at)
  keys <- Map(function(a, b) c(a, b[new]), now$keys, before$keys)
  ahead <- c(seq_len(n), rep(NA, length(new)))
  list(now = list(keys = keys, lines = c(now$lines, numeric(length(new))),
                  parts = lapply(now$parts, spread_part, ahead)),
       before = lapply(before$parts, spread_part, back))
}
