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
fold_question <- function(question, keys, totals = list(), extra = list(),
                          where = question$asked$where_now) {
  fold_metrics(question$book, keys, question$metrics, where, extra, question$asked$where_before,
               question$asked$where_now, totals)
}

# A fold by names, with `none` (lines without a name of `each`), `orders` (where asked for), `few`
# (fewer orders than `min_orders`) and the total.
fold_each <- function(question, keys = question$args$each, where = question$asked$where_now,
                      orders = !is.null(arg_or_null(question, "min_orders"))) {
  least <- arg_or_null(question, "min_orders")
  fold <- fold_question(question, keys, list(character()),
                        if (orders) list(.orders = order_count(question$book)) else list(), where)
  fold$none <- Reduce(`|`, lapply(fold$keys[question$args$each], is.na))
  fold$orders <- fold$values$.orders
  fold$few <- if (is.null(least)) logical(fold$rows) else fold$orders < least
  fold$total <- as.list(fold$totals[[1]]$values[1, names(question$metrics), drop = FALSE])
  fold
}

# A quotient on few orders is pointed out.
wants_orders <- function(question) {
  !is.null(arg_or_null(question, "min_orders")) || averages(first_metric(question)$tree) &&
    question$book$grain != "summed"
}

# The names of `each` by the first metric, largest first (best first where `by_better`), ties in the
# order of names; lines without a name and names without a value apart.
ranked_names <- function(question, where, by_better = FALSE) {
  fold <- fold_metrics(question$book, question$args$each, question$metrics, where,
                       totals = list(character()))
  out <- list(total = as.list(fold$totals[[1]]$values[1, , drop = FALSE]), exact = fold$exact,
              counted = sum(fold$lines))
  higher <- !by_better || first_metric(question)$better == "high"
  value <- fold$values[[1]]
  none <- Reduce(`|`, lapply(fold$keys, is.na))
  out$none <- value[none]
  out$valueless <- sum(is.na(value) & !none)
  named <- which(!none & !is.na(value))
  at <- named[best_order(value[named], higher)]
  out$keys <- lapply(fold$keys, `[`, at)
  out$value <- value[at]
  out$rank <- sorted_ranks(out$value, fold$exact[[1]])
  out
}

# The lines of a question in memory, with its fields and those in `more`; lines that were there
# already are all there.
lines_here <- function(question, more = NULL, where = question$asked$where_now, first = NULL) {
  source_here(question$book$source, trees_here(question, more), where, first)
}

# What lines must bring: the question's fields and those in `more`.
trees_here <- function(question, more) {
  c(question_trees(question), lapply(more, key_tree, book = question$book))
}

# The raw lines of a question, or of the period it compares with.
raw_lines <- function(question, period = question$asked$period_now) {
  second_lines(question$book$source, question$book$aside, question$asked$only, period)
}

few_orders <- 5       # a quotient on fewer orders is pointed out
