# Versus, continued: the question and what is found.

versus_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("each", "by")), "versus")
  if (length(q$each) > 1 || length(q$by) > 1)
    ll_abort("'each' and 'by' take one dimension each.", "argument")
  if (q$each == q$by) ll_abort("'by' must be another dimension than 'each'.", "argument")
  twice <- q$names[duplicated(q$names)]
  if (length(twice)) ll_abort(paste0("The name ", quoted(twice[1]), " is given twice."), "argument")
  if (length(q$names) < 2 || length(q$names) > 5)
    ll_abort(c("'names' takes two to five names.",
               x = paste0("There ", if (length(q$names) == 1) "is 1" else
                 paste("are", length(q$names)), ".")), "argument")
  key <- bind_scope(key_tree(q$book, q$each), q$asked$where_now)
  check_names(q$book, q$each, q$names)
  q$rivals <- node("within", arg = key, set = node("set", values = q$names))
  q$only_before <- q$asked$only
  q$asked$only <- and_also(q$asked$only, q$rivals)
  q$asked$where_now <- and_also(q$asked$where_now, q$rivals)
  q
}

# Matrices of every metric: a row for each name of `by`, a column for each name compared.
versus_cells <- function(q) {
  keys <- c(q$by, q$each)
  fold <- fold_question(q, keys, list(q$each, character()))
  total <- fold$totals[[2]]
  s <- list(q = q, total = as.list(total$values[1, , drop = FALSE]), exact = total$exact,
            counted = sum(fold$lines))
  by <- named_keys(fold$keys[q$by])[[1]]
  rival <- match(fold$keys[[q$each]], q$names)
  first <- fold$values[[1]]
  sums <- vapply(split(first, factor(by, unique(by))), sum, 0, na.rm = TRUE)
  s$rows <- natural_order(q$book, q$by, unique(by), sums)
  s$cells <- lapply(stats::setNames(names(fold$values), names(fold$values)), function(name) {
    m <- q$metrics[[name]]
    cells <- matrix(if (m$zero) 0 else NA_real_, length(s$rows), length(q$names))
    cells[cbind(match(by, s$rows), rival)] <- fold$values[[name]]
    cells
  })
  s$lines <- matrix(0, length(s$rows), length(q$names))
  s$lines[cbind(match(by, s$rows), rival)] <- fold$lines
  whole <- fold$totals[[1]]
  s$whole <- lapply(q$metrics, function(m) {
    value <- whole$values[[m$name]][match(q$names, whole$keys[[1]])]
    if (m$zero) value[is.na(value)] <- 0
    value
  })
  s$weights <- versus_weights(q, by, rival, s)
  s$overall <- data.frame(metric = rep(names(q$metrics), each = length(q$names)),
                          name = rep(q$names, length(q$metrics)),
                          value = unlist(s$whole, use.names = FALSE))
  s$contest <- versus_contest(s)
  if (!is.null(q$top) && length(s$rows) > q$top) s <- versus_rest(s)
  s
}

# For a quotient, how much of its denominator each name has in each row: what a reversal of the
# whole against the parts is owed to.
versus_weights <- function(q, by, rival, s) {
  tree <- q$first$tree
  if (tree$kind != "op" || tree$op != "/") return(NULL)
  below <- list(list(name = "below", tree = tree$args[[2]], against = FALSE))
  names(below) <- "below"
  fold <- fold_metrics(q$book, c(q$by, q$each), below, q$asked$where_now)
  cells <- matrix(0, length(s$rows), length(q$names))
  cells[cbind(match(named_keys(fold$keys[q$by])[[1]], s$rows),
              match(fold$keys[[q$each]], q$names))] <- fold$values$below
  cells[is.na(cells)] <- 0
  sweep(cells, 2, colSums(cells), "/")
}

# The rows beyond `top` as one, folded again.
versus_rest <- function(s) {
  q <- s$q
  named <- s$rows != "(none)"
  sums <- rowSums(s$cells[[1]], na.rm = TRUE)
  best <- order(!named, -sums)[seq_len(q$top)]
  kept <- s$rows[sort(best)]
  key <- bind_scope(key_tree(q$book, q$by), q$asked$where_now)
  others <- unmet(node("within", arg = key, set = node("set", values = kept)))
  fold <- fold_question(q, q$each, where = and_also(q$asked$where_now, others))
  at <- match(q$names, fold$keys[[1]])
  for (name in names(s$cells)) {
    value <- fold$values[[name]][at]
    if (q$metrics[[name]]$zero) value[is.na(value)] <- 0
    s$cells[[name]] <- rbind(s$cells[[name]][match(kept, s$rows), , drop = FALSE], value)
  }
  lines <- fold$lines[at]
  s$lines <- rbind(s$lines[match(kept, s$rows), , drop = FALSE], or_zero(lines))
  s$rows <- c(kept, paste0("everyone else (", count_text(length(s$rows) - length(kept)), ")"))
  s
}
