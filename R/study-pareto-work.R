# Pareto, continued: the question and what is found.

pareto_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, "each"), "pareto")
  refuse_several(q, "'pareto' cuts")
  if (!q$first$adds_up)
    ll_abort(c(paste0("A running total needs a metric that adds up, and ", quoted(q$first$name),
                      " does not."), i = "Sums and counts of lines do."), "argument")
  q$labels <- if (length(q$cut) == 1) c("yes", "no") else
    LETTERS[seq_len(min(length(q$cut) + 1, 26))]
  if (length(q$cut) > 25) ll_abort("'cut' takes at most 25 shares.", "argument")
  q
}

# Names in their order with place, running total and class; those of the period before beside them.
pareto_names <- function(q) {
  now <- pareto_fold(q, q$asked$where_now)
  s <- c(list(q = q), now)
  s$classes <- pareto_classes(s)
  before <- if (!is.null(q$asked$before)) pareto_fold(q, q$asked$where_before)
  if (!is.null(before)) {
    at <- match_keys(s$keys, before$keys)
    s$before <- before
    s$value_before <- ifelse(is.na(at), 0, before$value[at])
    s$class_before <- ifelse(is.na(at), "no lines", before$class[at])
    gone <- before$class[is.na(match_keys(before$keys, s$keys))]
    s$moves <- group_moves(c(s$class_before, gone), c(s$class, rep("no lines", length(gone))),
                           c(q$labels, "below zero", "no lines"), "class")
  }
  held <- concentration(s$value)
  s$concentration <- data.frame(measure = names(held), value = unname(held))
  if (!is.null(before)) s$concentration$value_before <- unname(concentration(before$value))
  s
}

pareto_fold <- function(q, where) {
  out <- placed_names(q, where)
  out$running <- running(out$value)
  out$inside <- inside_counts(out$value, q$cut, q$of, q$crossing, out$exact[[1]])
  out$class <- q$labels[1 + findInterval(seq_along(out$value) - 1, sort(out$inside))]
  if (q$of == "total" && length(q$cut) > 1) out$class[out$value < 0] <- "below zero"
  out
}

# Names, value and share of each class, in their order.
pareto_classes <- function(s) {
  labels <- c(s$q$labels, if ("below zero" %in% s$class) "below zero")
  at <- factor(s$class, labels)
  value <- vapply(split(s$value, at), exact_total, 0)
  positive <- sum(s$value[s$value > 0])
  data.frame(class = labels, names = tabulate(at, length(labels)), value = unname(value),
             share = if (positive > 0) unname(value) / positive else NA_real_)
}
