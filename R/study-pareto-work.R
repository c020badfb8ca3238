# Pareto, continued: the question and what is found.

pareto_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, "each"), "pareto")
  refuse_several(question, "'pareto' cuts")
  metric <- first_metric(question)
  if (!metric$adds_up)
    ll_abort(c(paste0("A running total needs a metric that adds up, and ", quoted(metric$name),
                      " does not."), i = "Sums and counts of lines do."), "argument")
  cuts <- length(args$cut)
  if (cuts > 25) ll_abort("'cut' takes at most 25 shares.", "argument")
  with_args(question, labels = if (cuts == 1) c("yes", "no") else LETTERS[seq_len(cuts + 1)])
}

pareto_found <- found_of(
  "pareto", common = found_ranked,
  running = holds("list", NULL, "total and share: running totals, and their share of the positive"),
  inside = holds("count", "cut", "names inside each cut"),
  class = holds("text", "name", "yes or no; with several cuts A, B, ... and below zero"),
  classes = holds("table", NULL, "class, names, value, share: a row for each class"),
  concentration = holds("table", NULL, "measure, value and, against a period, value_before"),
  value_before = holds("metric", "name", "their values then, 0 without lines",
                       absent = "without a period compared with"),
  class_before = holds("text", "name", "their classes then, or no lines",
                       absent = "without a period compared with"),
  moves = holds("table", NULL, "class_before, class, names: who went from which to which",
                absent = "without a period compared with"))

# Names in their order with rank, running total and class; those of the period before beside them.
pareto_work <- function(question) {
  found <- pareto_fold(question, question$asked$where_now)
  found$classes <- pareto_classes(question, found)
  held <- concentration(found$value)
  found$concentration <- data.frame(measure = names(held), value = unname(held))
  if (!is.null(question$asked$before)) {
    then <- pareto_fold(question, question$asked$where_before)
    moved <- moves_between(question, list(keys = found$keys, group = found$class),
                           list(keys = then$keys, group = then$class),
                           c(question$args$labels, "below zero"), "no lines", "class")
    found$value_before <- ifelse(is.na(moved$at), 0, then$value[moved$at])
    found$class_before <- moved$was
    found$moves <- moved$moves
    found$concentration$value_before <- unname(concentration(then$value))
  }
  do.call(pareto_found, found)
}

pareto_fold <- function(question, where) {
  args <- question$args
  out <- ranked_names(question, where)
  out$running <- running(out$value)
  out$inside <- inside_counts(out$value, args$cut, args$of, args$crossing, out$exact[[1]])
  out$class <- args$labels[1 + findInterval(seq_along(out$value) - 1, sort(out$inside))]
  if (args$of == "total" && length(args$cut) > 1) out$class[out$value < 0] <- "below zero"
  out
}

# Names, value and share of each class, in their order.
pareto_classes <- function(question, found) {
  labels <- c(question$args$labels, if ("below zero" %in% found$class) "below zero")
  at <- factor(found$class, labels)
  value <- vapply(split(found$value, at), exact_total, 0)
  positive <- sum(found$value[found$value > 0])
  data.frame(class = labels, names = tabulate(at, length(labels)), value = unname(value),
             share = if (positive > 0) unname(value) / positive else NA_real_)
}
