# What studies ask of the lines: folds of a question, names with their values, lines brought here.

# How many orders a name has, or lines where the book has no orders.
order_count <- function(book) {
  if (is.null(book$order)) node("aggregate", fn = "count") else distinct_names(book$order)
}

# What order_count() counts.
order_word <- function(book) if (is.null(book$order)) "line" else "order"

# The first ("min") or last ("max") day of lines.
extreme_day <- function(book, fn) {
  node("aggregate", fn = fn, arg = node("name", name = book$date), where = NULL, type = "date")
}

distinct_names <- function(field) {
  node("aggregate", fn = "distinct", arg = node("name", name = field), where = NULL)
}

# The fold of a question over some of its dimensions; totals as in source_fold().
fold_question <- function(q, keys, totals = list(), extra = list(), where = q$asked$where_now) {
  fold_metrics(q$book, keys, q$metrics, where, extra, q$asked$where_before, q$asked$where_now,
               totals)
}

# A fold by names, with `none` (lines without a name of `each`), `orders` (where asked for), `few`
# (fewer orders than `at_least`) and the total.
fold_each <- function(q, keys = q$each, where = q$asked$where_now, orders = !is.null(q$at_least)) {
  f <- fold_question(q, keys, list(character()),
                     if (orders) list(.orders = order_count(q$book)) else list(), where)
  f$none <- Reduce(`|`, lapply(f$keys[q$each], is.na))
  f$orders <- f$values$.orders
  f$few <- if (is.null(q$at_least)) logical(f$rows) else f$orders < q$at_least
  f$total <- as.list(f$totals[[1]]$values[1, names(q$metrics), drop = FALSE])
  f
}

# A quotient on few orders is pointed out.
wants_orders <- function(q) {
  !is.null(q$at_least) || averages(q$first$tree) && q$book$grain != "summed"
}

# The names of `each` by the first metric, largest first (best first where `by_better`), ties in the
# order of names; lines without a name and names without a value apart.
placed_names <- function(q, where, by_better = FALSE) {
  fold <- fold_metrics(q$book, q$each, q$metrics, where, totals = list(character()))
  out <- list(total = as.list(fold$totals[[1]]$values[1, , drop = FALSE]), exact = fold$exact,
              counted = sum(fold$lines))
  higher <- !by_better || q$first$better == "high"
  value <- fold$values[[1]]
  none <- Reduce(`|`, lapply(fold$keys, is.na))
  out$none <- value[none]
  out$valueless <- sum(is.na(value) & !none)
  named <- which(!none & !is.na(value))
  at <- named[best_order(value[named], higher)]
  out$keys <- lapply(fold$keys, `[`, at)
  out$value <- value[at]
  out$place <- sorted_places(out$value, fold$exact[[1]])
  out
}

# The lines of a question in memory, with its fields and those in `more`; lines that were there
# already are all there.
lines_here <- function(q, more = NULL, where = q$asked$where_now, first = NULL) {
  trees <- c(question_trees(q), lapply(more, key_tree, book = q$book))
  source_here(q$book$source, trees, where, first)
}

# The raw lines of a question, or of the period it compares with.
raw_lines <- function(q, period = q$asked$period_now) {
  plain_lines(q$book$source, q$book$aside, q$asked$only, period)
}
