# Versus, continued: the question and what is found.

versus_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("each", "by")), "versus")
  each <- question$args$each
  if (length(each) > 1 || length(question$args$by) > 1)
    ll_abort("'each' and 'by' take one dimension each.", "argument")
  if (each == question$args$by) ll_abort("'by' must be another dimension than 'each'.", "argument")
  names <- check_names(question$book, each, args$names)
  twice <- names[duplicated(names)]
  if (length(twice)) ll_abort(paste0("The name ", told_as(question, each, twice[1]),
                                      " is given twice."), "argument")
  if (length(names) < 2 || length(names) > 5)
    ll_abort(c("'names' takes two to five names.",
               x = paste0("There ", if (length(names) == 1) "is 1" else
                 paste("are", length(names)), ".")), "argument")
  key <- bind_scope(key_tree(question$book, each), question$asked$where_now)
  question <- with_args(question, names = names)
  rivals <- node("within", arg = key, set = node("set", values = names))
  with_args(with_condition(question, rivals), rivals = rivals, only_before = question$asked$only)
}

versus_found <- found_of(
  "versus",
  rows = holds("text", "row", "the names of `by`, the rest last"),
  cells = holds("list", "metric", "a matrix for each metric, rows by names compared"),
  lines = holds("matrix", "row", "lines of each cell", missing = "likewise"),
  whole = holds("list", "metric", "each metric of each name compared, over all rows"),
  overall = holds("table", NULL, "metric, name, value: the same as a table"),
  contest = holds("list", NULL, "rows in which two meet, of, empty, weights, times (led)"),
  weights = holds("matrix", NULL, "of what a quotient divides by, each row's share",
                  missing = "where nothing is divided by", absent = "for other metrics"))

# Matrices of every metric: a row for each name of `by`, a column for each name compared.
versus_work <- function(question) {
  args <- question$args
  keys <- c(args$by, args$each)
  fold <- fold_question(question, keys, list(args$each, character()))
  total <- fold$totals[[2]]
  found <- list(total = as.list(total$values[1, , drop = FALSE]),
                exact = total$exact, counted = sum(fold$lines))
  by <- named_keys(fold$keys[args$by])[[1]]
  rival <- match(fold$keys[[args$each]], args$names)
  first <- fold$values[[1]]
  sums <- vapply(split(first, factor(by, unique(by))), sum, 0, na.rm = TRUE)
  found$rows <- natural_order(question$book, args$by, unique(by), sums)
  found$cells <- lapply(stats::setNames(names(fold$values), names(fold$values)), function(name) {
    metric <- question$metrics[[name]]
    cells <- matrix(if (metric$zero) 0 else NA_real_, length(found$rows), length(args$names))
    cells[cbind(match(by, found$rows), rival)] <- fold$values[[name]]
    cells
  })
  found$lines <- matrix(0, length(found$rows), length(args$names))
  found$lines[cbind(match(by, found$rows), rival)] <- fold$lines
  whole <- fold$totals[[1]]
  found$whole <- lapply(question$metrics, function(metric) {
    value <- whole$values[[metric$name]][match(args$names, whole$keys[[1]])]
    if (metric$zero) value[is.na(value)] <- 0
    value
  })
  found$weights <- versus_weights(question, by, rival, found)
  found$overall <- data.frame(metric = rep(names(question$metrics), each = length(args$names)),
                              name = rep(args$names, length(question$metrics)),
                              value = unlist(found$whole, use.names = FALSE))
  found$contest <- versus_contest(question, found)
  if (!is.null(args$top) && length(found$rows) > args$top) found <- versus_rest(question, found)
  do.call(versus_found, found)
}

# For a quotient, how much of its denominator each name has in each row: what a reversal of the
# whole against the parts is owed to.
versus_weights <- function(question, by, rival, found) {
  tree <- first_metric(question)$tree
  if (tree$kind != "op" || tree$op != "/") return(NULL)
  below <- list(list(name = "below", tree = tree$args[[2]], against = FALSE))
  names(below) <- "below"
  fold <- fold_metrics(question$book, c(question$args$by, question$args$each), below,
                       question$asked$where_now)
  cells <- matrix(0, length(found$rows), length(question$args$names))
  cells[cbind(match(named_keys(fold$keys[question$args$by])[[1]], found$rows),
              match(fold$keys[[question$args$each]], question$args$names))] <- fold$values$below
  cells[is.na(cells)] <- 0
  sweep(cells, 2, colSums(cells), "/")
}

# The rows beyond `top` as one, recalculated.
versus_rest <- function(question, found) {
  args <- question$args
  named <- found$rows != "(none)"
  sums <- rowSums(found$cells[[1]], na.rm = TRUE)
  best <- order(!named, -sums)[seq_len(args$top)]
  kept <- found$rows[sort(best)]
  key <- bind_scope(key_tree(question$book, args$by), question$asked$where_now)
  others <- unmet(node("within", arg = key, set = node("set", values = kept)))
  fold <- fold_question(question, args$each, where = and_also(question$asked$where_now, others))
  at <- match(args$names, fold$keys[[1]])
  for (name in names(found$cells)) {
    value <- fold$values[[name]][at]
    if (question$metrics[[name]]$zero) value[is.na(value)] <- 0
    found$cells[[name]] <- rbind(found$cells[[name]][match(kept, found$rows), , drop = FALSE],
                                 value)
  }
  lines <- fold$lines[at]
  found$lines <- rbind(found$lines[match(kept, found$rows), , drop = FALSE], or_zero(lines))
  found$rows <- c(kept, paste0("everyone else (", count_text(length(found$rows) - length(kept)),
                               ")"))
  found
}
