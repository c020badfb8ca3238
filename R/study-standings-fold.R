# Standings, continued: the fold by names, in the order of names.

# One row per name: keys, values, orders, whether the lines bear no name.
fold_names <- function(question, where = question$asked$where_now,
                       before = question$asked$where_before) {
  args <- question$args
  extra <- Filter(Negate(is.null), args$extra)
  fold <- fold_metrics(question$book, c(args$within, args$each), question$metrics, where, extra,
                       before, question$asked$where_now)
  none <- Reduce(`|`, lapply(fold$keys[args$each], is.na), logical(fold$rows))
  keys <- named_keys(fold$keys)
  list(keys = keys, values = fold$values[names(question$metrics)], orders = fold$values$.orders,
       people = fold$values$.people, none = none, lines = fold$lines, parts = fold$parts,
       parts_before = fold$before, at = seq_along(none),
       exact = fold$exact[names(question$metrics)])
}

# Rows by name first, so that whatever is decided last is decided by name.
in_name_order <- function(fold, question) {
  at <- do.call(order, c(unname(lapply(own_keys(fold$keys), name_ranks)), list(method = "radix")))
  if (!is.unsorted(at)) return(fold)
  pick <- function(x) if (is.null(x)) NULL else x[at]
  fold$keys <- lapply(fold$keys, pick)
  fold$values[] <- lapply(fold$values, pick)
  for (one in c("at", "orders", "people", "none", "lines", "unseen")) fold[[one]] <-
    pick(fold[[one]])
  fold
}
