# Crosstab, continued: the question and what is found.

crosstab_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("rows", "columns")), "crosstab")
  for (side in c("rows", "columns")) if (length(question$args[[side]]) > 2)
    ll_abort(paste0("'", side, "' takes one dimension or two."), "argument")
  twice <- intersect(question$args$rows, question$args$columns)
  if (length(twice))
    ll_abort(paste0("The dimension ", quoted(twice[1]), " cannot be rows and columns at once."),
             "argument")
  if (is.null(args$share_of)) return(question)
  metric <- first_metric(question)
  if (!metric$adds_up)
    ll_abort(c(paste0("'share_of' needs a metric that adds up, and ", quoted(metric$name),
                      " does not."), i = "Sums and counts of lines do."), "argument")
  altered(question, metrics = question$metrics[1])
}

# The sets of one side's dimensions at which there are totals: all of them, the outer one, none.
side_levels <- function(fields) lapply(seq(length(fields), 0), function(n) fields[seq_len(n)])

crosstab_folds <- function(question) {
  args <- question$args
  sets <- list()
  for (down in side_levels(args$rows)) for (across in side_levels(args$columns))
    sets <- c(sets, list(list(down = down, across = across)))
  keys <- c(args$rows, args$columns)
  fold <- fold_question(question, keys, lapply(sets, function(set) c(set$down, set$across)))
  folds <- Map(function(set, total) {
    total$keys <- named_keys(total$keys)
    c(set, total)
  }, sets, fold$totals)
  list(folds = folds, lines = sum(fold$lines))
}

fold_at <- function(found, down, across) {
  Filter(function(f) length(f$down) == down && length(f$across) == across, found$folds)[[1]]
}

# The heads of one side: a row for each name, for each outer total and (last) for all, in order.
side_heads <- function(question, found, fields, side) {
  n <- length(fields)
  all <- as.data.frame(stats::setNames(rep(list("(all)"), n), fields), optional = TRUE)
  if (!n) return(data.frame(level = 0))
  at <- function(depth) if (side == "down") fold_at(found, depth, 0) else fold_at(found, 0, depth)
  names_at <- function(fold, field, rows) {
    value <- fold$values[[1]][rows] * if (first_metric(question)$better == "low") -1 else 1
    natural_order(question$book, field, fold$keys[[field]][rows], value)
  }
  outer <- at(1)
  names <- names_at(outer, fields[1], seq_along(outer$lines))
  if (n == 1) {
    out <- stats::setNames(data.frame(names), fields)
    out$level <- rep(1, length(names))
    return(rbind(out, cbind(all, level = 0)))
  }
  inner <- at(2)
  blocks <- lapply(names, function(name) {
    own <- names_at(inner, fields[2], which(inner$keys[[fields[1]]] == name))
    block <- stats::setNames(data.frame(name, c(own, "(all)")), fields)
    cbind(block, level = c(rep(2, length(own)), 1))
  })
  rbind(do.call(rbind, blocks), cbind(all, level = 0))
}

# A matrix of every metric over the heads, NA where there are no lines; names beyond `top` gathered.
crosstab_cells <- function(question, found) {
  args <- question$args
  found$down <- side_heads(question, found, args$rows, "down")
  found$across <- side_heads(question, found, args$columns, "across")
  blank <- matrix(NA_real_, nrow(found$down), nrow(found$across))
  found$values <- lapply(question$metrics, function(m) blank)
  found$count <- blank
  for (fold in found$folds) found <- fill_cells(found, fold, seq_len(nrow(found$down)))
  if (!is.null(args$top)) found <- gather_rows(question, found)
  found$long <- long_cells(question, found)
  found
}

# Puts a fold's values at the heads they belong to; `rows` are those it may fill.
fill_cells <- function(found, fold, rows) {
  at_level <- function(heads, fields, among) {
    mine <- among[heads$level[among] == length(fields)]
    if (!length(fields)) return(rep(mine[1], length(fold$lines)))
    mine[match_keys(fold$keys[fields], lapply(heads[fields], `[`, mine))]
  }
  i <- at_level(found$down, fold$down, rows)
  j <- at_level(found$across, fold$across, seq_len(nrow(found$across)))
  ok <- !is.na(i) & !is.na(j)
  at <- cbind(i, j)[ok, , drop = FALSE]
  for (name in names(found$values)) found$values[[name]][at] <- fold$values[[name]][ok]
  found$count[at] <- fold$lines[ok]
  found
}

gather_rows <- function(question, found) {
  args <- question$args
  field <- args$rows[1]
  outer <- setdiff(unique(found$down[[field]]), c("(all)", "(none)"))
  if (length(outer) <= args$top) return(found)
  total <- fold_at(found, 1, 0)
  value <- total$values[[1]][match(outer, total$keys[[field]])]
  best <- outer[best_order(value, first_metric(question)$better == "high")]
  found$kept <- best[seq_len(args$top)]
  found$gathered <- length(outer) - args$top
  stay <- found$down[[field]] %in% c(found$kept, "(none)", "(all)")
  # The rest stands before lines without a name and the total.
  first <- which(stay & found$down[[field]] %in% c("(none)", "(all)"))[1]
  rest <- found$down[1, , drop = FALSE]
  rest[args$rows] <- c(list(paste0("everyone else (", count_text(found$gathered), ")")),
                       rep(list("(all)"), length(args$rows) - 1))
  rest$level <- -1
  before <- which(stay & seq_along(stay) < first)
  after <- which(stay & seq_along(stay) >= first)
  pick <- function(m) rbind(m[before, , drop = FALSE], NA, m[after, , drop = FALSE])
  found$values <- lapply(found$values, pick)
  found$count <- pick(found$count)
  found$down <- rbind(found$down[before, ], rest, found$down[after, ])
  fill_rest(question, found, length(before) + 1)
}

# The gathered row is recalculated from its lines, at every level of the columns.
fill_rest <- function(question, found, row) {
  args <- question$args
  where <- and_also(question$asked$where_now, all_but(question, args$rows[1], found$kept))
  for (across in side_levels(args$columns)) {
    fold <- fold_question(question, across, where = where)
    fold$keys <- named_keys(fold$keys)
    fold$down <- character()
    fold$across <- across
    found$down$level[row] <- 0
    found <- fill_cells(found, fold, row)
    found$down$level[row] <- -1
  }
  found
}

# One row for each cell between names, outer totals left out.
long_cells <- function(question, found) {
  rows <- which(found$down$level == length(question$args$rows) | found$down$level == -1)
  columns <- which(found$across$level == length(question$args$columns))
  at <- expand.grid(i = rows, j = columns)
  cells <- c(lapply(found$down[question$args$rows], `[`, at$i),
             lapply(found$across[question$args$columns], `[`, at$j),
             lapply(found$values, function(m) m[as.matrix(at)]))
  lines <- found$count[as.matrix(at)]
  out <- data.frame(cells, lines = or_zero(lines), check.names = FALSE)
  out[order(at$i, at$j), , drop = FALSE]
}

crosstab_found <- found_of(
  "crosstab", common = list(),
  folds = holds("list", NULL, "a fold for each set of dimensions with a total"),
  lines = holds("count", "one", "lines counted"),
  down = holds("table", "row", "the heads of the rows and their level; 0 is the total"),
  across = holds("table", NULL, "the heads of the columns, likewise"),
  values = holds("list", NULL, "a matrix for each metric, rows by columns; missing without lines"),
  count = holds("matrix", "row", "lines of each cell", missing = "where there are none"),
  long = holds("table", NULL, "a row for each cell between names"),
  kept = holds("text", NULL, "the names of the first dimension that have rows of their own",
               absent = "where none are gathered"))

crosstab_work <- function(question) {
  found <- crosstab_cells(question, crosstab_folds(question))
  do.call(crosstab_found, without(found, "gathered"))
}
