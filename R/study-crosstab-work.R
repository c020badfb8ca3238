# Crosstab, continued: the question and what is found.

crosstab_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("rows", "columns")), "crosstab")
  for (side in c("rows", "columns")) if (length(q[[side]]) > 2)
    ll_abort(paste0("'", side, "' takes one dimension or two."), "argument")
  twice <- intersect(q$rows, q$columns)
  if (length(twice))
    ll_abort(paste0("The dimension ", quoted(twice[1]), " cannot be rows and columns at once."),
             "argument")
  if (!is.null(q$share_of) && !q$first$adds_up)
    ll_abort(c(paste0("'share_of' needs a metric that adds up, and ", quoted(q$first$name),
                      " does not."), i = "Sums and counts of lines do."), "argument")
  if (!is.null(q$share_of)) q$metrics <- q$metrics[1]
  q
}

# The sets of one side's dimensions at which there are totals: all of them, the outer one, none.
side_levels <- function(fields) lapply(seq(length(fields), 0), function(n) fields[seq_len(n)])

crosstab_folds <- function(q) {
  sets <- list()
  for (down in side_levels(q$rows)) for (across in side_levels(q$columns))
    sets <- c(sets, list(list(down = down, across = across)))
  keys <- c(q$rows, q$columns)
  fold <- fold_question(q, keys, lapply(sets, function(set) c(set$down, set$across)))
  folds <- Map(function(set, total) {
    total$keys <- named_keys(total$keys)
    c(set, total)
  }, sets, fold$totals)
  list(q = q, folds = folds, lines = sum(fold$lines))
}

fold_at <- function(s, down, across) {
  Filter(function(f) length(f$down) == down && length(f$across) == across, s$folds)[[1]]
}

# The heads of one side: a row for each name, for each outer total and (last) for all, in order.
side_heads <- function(s, fields, side) {
  n <- length(fields)
  all <- as.data.frame(stats::setNames(rep(list("(all)"), n), fields), optional = TRUE)
  if (!n) return(data.frame(level = 0))
  at <- function(depth) if (side == "down") fold_at(s, depth, 0) else fold_at(s, 0, depth)
  names_at <- function(fold, field, rows) {
    value <- fold$values[[1]][rows] * if (s$q$first$better == "low") -1 else 1
    natural_order(s$q$book, field, fold$keys[[field]][rows], value)
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
crosstab_cells <- function(s) {
  q <- s$q
  s$down <- side_heads(s, q$rows, "down")
  s$across <- side_heads(s, q$columns, "across")
  blank <- matrix(NA_real_, nrow(s$down), nrow(s$across))
  s$values <- lapply(q$metrics, function(m) blank)
  s$count <- blank
  for (fold in s$folds) s <- fill_cells(s, fold, seq_len(nrow(s$down)))
  if (!is.null(q$top)) s <- gather_rows(s)
  s$long <- long_cells(s)
  s
}

# Puts a fold's values at the heads they belong to; `rows` are those it may fill.
fill_cells <- function(s, fold, rows) {
  at_level <- function(heads, fields, among) {
    mine <- among[heads$level[among] == length(fields)]
    if (!length(fields)) return(rep(mine[1], length(fold$lines)))
    mine[match_keys(fold$keys[fields], lapply(heads[fields], `[`, mine))]
  }
  i <- at_level(s$down, fold$down, rows)
  j <- at_level(s$across, fold$across, seq_len(nrow(s$across)))
  ok <- !is.na(i) & !is.na(j)
  at <- cbind(i, j)[ok, , drop = FALSE]
  for (name in names(s$values)) s$values[[name]][at] <- fold$values[[name]][ok]
  s$count[at] <- fold$lines[ok]
  s
}

gather_rows <- function(s) {
  q <- s$q
  field <- q$rows[1]
  outer <- setdiff(unique(s$down[[field]]), c("(all)", "(none)"))
  if (length(outer) <= q$top) return(s)
  total <- fold_at(s, 1, 0)
  value <- total$values[[1]][match(outer, total$keys[[field]])]
  best <- outer[best_order(value, q$first$better == "high")]
  s$kept <- best[seq_len(q$top)]
  s$gathered <- length(outer) - q$top
  stay <- s$down[[field]] %in% c(s$kept, "(none)", "(all)")
  # The rest stands before lines without a name and the total.
  first <- which(stay & s$down[[field]] %in% c("(none)", "(all)"))[1]
  rest <- s$down[1, , drop = FALSE]
  rest[q$rows] <- c(list(paste0("everyone else (", count_text(s$gathered), ")")),
                    rep(list("(all)"), length(q$rows) - 1))
  rest$level <- -1
  before <- which(stay & seq_along(stay) < first)
  after <- which(stay & seq_along(stay) >= first)
  pick <- function(m) rbind(m[before, , drop = FALSE], NA, m[after, , drop = FALSE])
  s$values <- lapply(s$values, pick)
  s$count <- pick(s$count)
  s$down <- rbind(s$down[before, ], rest, s$down[after, ])
  fill_rest(s, length(before) + 1)
}

# The gathered row is folded again from its lines, at every level of the columns.
fill_rest <- function(s, row) {
  q <- s$q
  where <- and_also(q$asked$where_now, all_but(q, q$rows[1], s$kept))
  for (across in side_levels(q$columns)) {
    fold <- fold_question(q, across, where = where)
    fold$keys <- named_keys(fold$keys)
    fold$down <- character()
    fold$across <- across
    s$down$level[row] <- 0
    s <- fill_cells(s, fold, row)
    s$down$level[row] <- -1
  }
  s
}

# One row for each cell between names, outer totals left out.
long_cells <- function(s) {
  rows <- which(s$down$level == length(s$q$rows) | s$down$level == -1)
  columns <- which(s$across$level == length(s$q$columns))
  at <- expand.grid(i = rows, j = columns)
  cells <- c(lapply(s$down[s$q$rows], `[`, at$i), lapply(s$across[s$q$columns], `[`, at$j),
             lapply(s$values, function(m) m[as.matrix(at)]))
  lines <- s$count[as.matrix(at)]
  out <- data.frame(cells, lines = or_zero(lines), check.names = FALSE)
  out[order(at$i, at$j), , drop = FALSE]
}
