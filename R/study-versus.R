# Versus: two to five names side by side across a dimension, on one scale.

declared_versus <- declare(
  "versus", "Set two to five names side by side across a dimension, on one scale",
  args = list(
    each = arg("words", "the dimension the names are of", required = TRUE),
    names = arg("words", "two to five of its names", required = TRUE),
    by = arg("words", "the dimension across which they are compared", required = TRUE),
    metrics = arg_metrics("metrics; the first is compared across 'by' (default: the book's first)"),
    top = arg("whole", "only the first so many names of 'by', the rest gathered"),
    where = arg_where, when = arg_when),
  examples = c(
    "--each territory --names Moor,Fen --by family",
    "--each rep --names 'Maren Holt,Lotte Fane' --by territory --metrics revenue,orders",
    "--each channel --names web,field --by type --metrics margin_rate"),
  bare = "--each channel --names web,field --by territory --top 5")

#' Versus: names side by side
#'
#' Compares two to five names of a dimension across another one. Names without lines in a cell count
#' 0 for metrics that add up or count; every total is folded again.
#'
#' @param book (`ll_book`) the book.
#' @param each (text) the dimension the names are of.
#' @param names (text) two to five of its names; the first is compared with the others.
#' @param by (text) the dimension across which they are compared; parts of dates serve.
#' @param metrics (text) as in [ll_standings()]; the first is compared across `by`, all of them in
#'   the part `overall`.
#' @param top (whole number) only the first so many names of `by` by the sum of the names compared;
#'   the rest is gathered.
#' @param where,when as in [ll_standings()].
#'
#' @return A data frame of class `ll_result_versus`, a row for each name of `by`: `by`'s own name, a
#'   column for each name compared, `difference` and `ratio` of the first against the second, and
#'   `leader`. Parts: `foot` (each name as a whole), `overall` (each metric of each name), `whole`
#'   (the same, a row for each metric and a column for each name; printed where there are several).
#' @section Notes given:
#' A name that leads as a whole but not in most parts, with the weights that explain it.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for fewer than two names, more than
#' five, or the same name twice.
#' @examples
#' ll_versus(ll_demo(), each = "territory", names = c("Moor", "Fen"), by = "family")
#' @export
ll_versus <- function(book, each, names, by, metrics = NULL, top = NULL, where = NULL,
                      when = NULL) {
  check_book(book)
  given <- list(each = if (missing(each)) NULL else each,
                names = if (missing(names)) NULL else names, by = if (missing(by)) NULL else by,
                metrics = metrics, top = top, where = where, when = when)
  q <- versus_question(book, check_args(declared_versus, given))
  s <- versus_cells(q)
  table <- versus_table(s)
  new_answer(q, "versus", table$table, versus_settings(q), table$columns, versus_finding(s),
             versus_reading(s), versus_notes(s), versus_proof(s),
             parts = list(foot = table$foot, overall = s$overall, whole = table$whole),
             behind = versus_behind(s, table$label), where = q$only_before,
             further = if (length(q$metrics) > 1) list(whole = table$whole_columns) else list())
}

versus_behind <- function(s, label) {
  q <- s$q
  list(keys = stats::setNames(nm = q$by),
       columns = stats::setNames(lapply(shown_names(q$names), name_condition, q = q, field = q$each,
                                        kept = NULL), label),
       kept = if (!is.null(q$top)) stats::setNames(list(s$rows), q$by))
}

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
