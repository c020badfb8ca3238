# Tables of segments in a database: folded rows travel, no lines, unless there are few. What an
# order comes to within each name is added up first, then, where that is asked, what each group's
# orders do, then the name's: GROUP BY within GROUP BY. Tables that are asked for together are one
# statement, over lines that are picked once where the engine can keep them meanwhile.

#' @export
source_segments.database_source <- function(source, keys, value, order, then, now, ever,
                                            tiles = NULL) {
  # A few lines are brought sooner than they are folded a hundred times.
  few <- source_size(source$origin %||% source) <= min(getOption("longladder.few_lines", 2e6),
                                                       most_brought())
  made <- if (!few) tryCatch(
    sql_segments(source, keys, value, order, then, now, ever, tiles),
    no_sql = function(e) {
      tell(paste0("not in SQL: ", conditionMessage(e), "; the lines are brought"), "debug")
      NULL
    })
  if (!is.null(made)) return(made)
  trees <- c(keys, value[intersect(c("tree", "n", "d"), names(value))],
             lapply(c(order, tiles$date), function(name) node("name", name = name)))
  # A rate goes by the lines of both periods alone.
  here <- source_here(source, c(trees, list(then, now)),
                      if (!is.null(value$tree)) ever else either(then, now))
  lay_segments(source, here, keys, value, order, then, now, ever, tiles)
}

sql_segments <- function(source, keys, value, order, then, now, ever, tiles) {
  names <- lapply(keys, source_names, source = source)
  levels <- lengths(names)
  before <- and_also(ever, unmet(now))
  # Names as the engine has them, as text, by dimension and code.
  raw <- list2env(lapply(levels, rep, x = NA_character_), parent = emptyenv())
  relation <- function(keys, where, now) {
    made <- segment_relation(source, keys, value, order, where, now, raw)
    made$alone <- lines_alone(made, order)
    made
  }
  both <- relation(keys, either(then, now), now)
  split <- if (is.null(order)) 0 * levels else orders_split(both, names(keys))
  by_order <- split < few_split
  group <- search_group(by_order, levels)
  beyond <- ask_count(source, and_also(before, unmet(then))) > 0
  both$few <- ask_count(source, both$where) <= few_lines
  both$group <- group
  both$whole_group <- if (!is.null(group) && split[[group]] == 0) group
  past <- if (!is.null(value$tree)) {
    more <- tile_keys(tiles)
    segment_folds(relation(c(keys, more), before, NULL), c(keys, more),
                  c(names, lapply(tile_levels(tiles), function(n) as.character(seq_len(n)))))
  }
  list(lines = segment_folds(both, keys, names),
       past = past, levels = levels, names = names, group = group, by_order = by_order,
       whole_orders = split == 0,
       decimals = if (is.na(both$decimals)) 0L else both$decimals, beyond = beyond,
       pairs = max(0L, tile_levels(tiles)))
}

# The pairs of earlier periods as bands of the date.
tile_keys <- function(tiles) {
  if (is.null(tiles)) return(list())
  lapply(tiles[c("later", "earlier")], function(from) {
    n <- length(from) - 1
    node("band", name = "tile", arg = node("name", name = tiles$date), bounds = from,
         labels = c("none before", rev(seq_len(n)), "none after"))
  })
}

# The lines that tables are made of: `columns` of them, with the keys ll_k1 and on, the order ll_o,
# whether now ll_n, amount ll_v and weight ll_w; `raw` the names as read so far; `scale` by period
# what the sums of a rate are to be divided by; `per_order` the middle rate where orders are
# counted.
segment_relation <- function(source, keys, value, order, where, now, raw) {
  writer <- sql_writer(source)
  keyed <- lapply(keys, sql_key, w = writer, coarse = FALSE)
  amount <- sql_line_value(writer, value$tree %||% value$n)
  weight <- NULL
  if (!is.null(value$d)) {
    d <- as_double(writer, sql_line_value(writer, value$d))
    amount <- expression_of(paste0("(", as_double(writer, amount), " - ",
                                   double_literal(value$middle), " * ", d, ")"), "number")
    weight <- expression_of(d, "number")
  } else if (!is.null(value$n)) {
    # Orders are counted where they are added up.
    amount <- as_inexact(writer, amount)
    weight <- expression_of("1", "number")
  } else {
    if (is_exact(amount) && sum_bound(writer, amount) >= 2^53) amount <- as_inexact(writer, amount)
  }
  columns <- c(stats::setNames(vapply(keyed, `[[`, "", "sql"), sprintf("ll_k%d", seq_along(keys))),
               ll_o = if (!is.null(order))
                 sql_key(writer, node("name", name = order), coarse = FALSE)$sql,
               ll_n = if (!is.null(now))
                 paste0("CASE WHEN ", sql_where(writer, now), " THEN 1 ELSE 0 END"),
               ll_v = amount$sql, ll_w = weight$sql)
  list(source = source, writer = writer, keyed = keyed, columns = columns, where = where,
       decimals = amount$decimals, scale = value$of %||% c(1, 1), raw = raw,
       per_order = if (!is.null(value$n) && is.null(value$d)) value$middle)
}

# How many lines have no order.
lines_alone <- function(relation, order) {
  if (is.null(order)) return(0)
  none <- node("missing", arg = node("name", name = order))
  ask_count(relation$source, and_also(relation$where, none))
}

# What a line adds to a metric that adds up; see metric_lines().
sql_line_value <- function(writer, tree) {
  out <- switch(tree$kind, number = sql_number(writer, tree$value),
                op = sql_op(writer, tree$op, lapply(tree$args, sql_line_value, w = writer)),
                aggregate = sql_line_part(writer, tree), no_sql("lines of ", tree$kind))
  out$sql <- paste0("COALESCE(", sql_where_met(writer, out$sql, tree$where), ", 0)")
  out
}

sql_line_part <- function(writer, tree) {
  if (is.null(tree$arg)) return(expression_of("1", "number", 0L, 1))
  if (tree$arg$kind == "per") return(sql_line_value(writer, tree$arg$inner))
  if (tree$fn == "sum") return(sql_row(writer, tree$arg))
  expression_of(paste0("CASE WHEN ", sql_bare(writer, tree$arg), " IS NOT NULL THEN 1 ELSE 0 END"),
                "number", 0L, 1)
}

tables_at_once <- 60   # tables of one statement

# The functions of core-segments.R; rows are lists of the segments that they lack. Tables of names
# that groups fix are added up here from the groups', where no order is of several groups: far fewer
# tables are asked for.
segment_folds <- function(relation, keys, names) {
  known <- list2env(list(fixes = NULL, linked = list()), parent = emptyenv())
  fixes <- function() {
    if (is.null(known$fixes)) known$fixes <- fixed_names(relation, names(keys))
    known$fixes
  }
  links <- function(fine, coarse) {
    if (is.null(known$linked[[fine]]))
      known$linked[[fine]] <- linked_names(relation, names, fine,
                                           names(keys)[fixes()[match(fine, names(keys)), ]])
    known$linked[[fine]][[coarse]]
  }
  finer <- function(dim) {
    group <- relation$whole_group
    if (is.null(group)) return(dim)
    if (fixes()[match(group, names(keys)), match(dim, names(keys))]) group else dim
  }
  list(
    tables = function(asked, floor = 0, orders = 0) {
      if (!length(asked)) return(list())
      planned <- lapply(asked, function(ask) plan_tables(ask$of, finer, lengths(names)))
      # Tables that others are had from by subtraction are whole.
      if (asked[[1]]$orders != "own") floor <- orders <- 0
      of <- unlist(lapply(planned, `[[`, "base"), recursive = FALSE)
      ask <- rep(seq_along(asked), vapply(planned, function(p) length(p$base), 0L))
      whole <- unlist(lapply(planned, `[[`, "complete"))
      run <- (seq_along(of) - 1) %/% tables_at_once
      made <- unlist(lapply(split(seq_along(of), run), function(few) {
        ask_segments(relation, asked, ask[few], of[few], names, ifelse(whole[few], 0, floor),
                     ifelse(whole[few], 0, orders))
      }), recursive = FALSE, use.names = FALSE)
      made <- split(made, factor(ask, seq_along(asked)))
      unname(Map(function(plan, ask, made) {
        Map(function(dims, from, at) {
          table <- made[[at]]
          if (!identical(dims, from)) table <- rolled_table(table, dims, from, links)
          if (length(dims)) held_enough(relation, table, floor, orders) else table
        }, ask$of, plan$from, plan$at)
      }, planned, asked, made))
    },
    lacking = function(rows, segment) c(rows, list(segment[c("dims", "codes")])),
    fixes = fixes, links = links, subtracts = relation$few)
}

few_lines <- 1e6    # of so many lines all names of what is taken off may travel

most_cells <- 1e5   # cells of a table from which others are added up

# What tables are made from: list(base, complete, from, at), base being the tables to ask for, whole
# where others are added up from them; for each of `of` the dimensions it is made from and which
# base.
plan_tables <- function(of, finer, levels) {
  fits <- function(a, b) prod(levels[c(a, b)] + 1) <= most_cells
  from <- lapply(of, function(dims) {
    if (!length(dims)) return(dims)
    fine <- vapply(dims, finer, "", USE.NAMES = FALSE)
    if (length(dims) == 1 || fine[1] == fine[2]) return(fine)
    if (fine[1] != dims[1] && fits(fine[1], dims[2])) return(c(fine[1], dims[2]))
    if (fine[2] != dims[2] && fits(dims[1], fine[2])) return(c(dims[1], fine[2]))
    dims
  })
  made <- lapply(from, unique)
  base <- unique(made)
  at <- match(made, base)
  rolled <- !mapply(identical, of, from)
  list(base = base, complete = seq_along(base) %in% at[rolled], from = from, at = at)
}

# A table added up to coarser names; `from` are the dimensions that it has, in the places of `dims`.
rolled_table <- function(table, dims, from, links) {
  codes <- lapply(seq_along(dims), function(k) {
    own <- table[, if (k == 2 && from[2] != from[1]) "second" else "first"]
    if (dims[k] == from[k]) own else links(from[k], dims[k])[own + 1]
  })
  key <- codes[[1]]
  most <- 1
  if (length(codes) == 2) {
    most <- max(codes[[2]], 0) + 1
    key <- key * most + codes[[2]]
  }
  sums <- rowsum(table[, segment_columns, drop = FALSE], key)
  key <- as.numeric(rownames(sums))
  rownames(sums) <- NULL
  names <- if (length(codes) == 2) cbind(key %/% most, key %% most) else cbind(key)
  named_table(cbind(unname(names), sums))
}

# The names with so many orders that hold so much.
held_enough <- function(relation, table, floor, orders) {
  held <- abs(table[, "a"]) + abs(table[, "b"])
  if ("ll_w" %in% names(relation$columns)) held <- held + abs(table[, "wa"]) + abs(table[, "wb"])
  table[held >= floor & table[, "na"] + table[, "nb"] >= orders, , drop = FALSE]
}

# The share of orders that have several names of each dimension.
orders_split <- function(relation, dims) {
  picked <- picked_lines(relation)
  at <- seq_along(dims)
  x <- vapply(sprintf("ll_k%d", at), picked$column, "")
  of_order <- paste0("MIN(", x, ") AS ll_x", at, ", MAX(", x, ") AS ll_y", at, ", COUNT(", x,
                     ") AS ll_z", at)
  split <- sprintf(paste0("SUM(CASE WHEN ll_x%1$d <> ll_y%1$d OR ll_z%1$d > 0 AND ll_z%1$d < ll_m ",
                          "THEN 1 ELSE 0 END) AS ll_s%1$d"), at)
  order <- picked$column("ll_o")
  sql <- paste0(picked$with, "SELECT COUNT(*) AS ll_n, ", paste(split, collapse = ", "),
                "\nFROM (\nSELECT ", paste(c(of_order, "COUNT(*) AS ll_m"), collapse = ", "), "\n",
                and_test(picked$from, paste(order, "IS NOT NULL")), "\nGROUP BY ", order,
                "\n) AS ll_orders")
  answer <- ask(relation$source, sql, "which dimensions stay the same within orders")
  split <- as.double(unlist(answer[paste0("ll_s", at)]))
  split[is.na(split)] <- 0
  stats::setNames(split / max(as.double(answer$ll_n) + relation$alone, 1), dims)
}

# [i, j] where every name of i has one name of j, no name counting as one.
fixed_names <- function(relation, dims) {
  picked <- picked_lines(relation)
  pairs <- c(lapply(seq_along(dims), identity), if (length(dims) > 1) two_of(seq_along(dims)))
  one <- function(k) {
    keys <- sprintf("ll_k%d", pairs[[k]])
    paste0("SELECT ", k, " AS ll_set, COUNT(*) AS ll_n\nFROM (\nSELECT ",
           paste(vapply(keys, picked$column, ""), "AS", keys, collapse = ", "), "\n",
           picked$from, "\nGROUP BY ", paste(keys, collapse = ", "), "\n) AS ll_names")
  }
  n <- numeric(length(pairs))
  for (few in split(seq_along(pairs), (seq_along(pairs) - 1) %/% tables_at_once)) {
    all <- paste(vapply(few, one, ""), collapse = "\nUNION ALL\n")
    answer <- ask(relation$source, paste0(picked$with, "SELECT * FROM (\n", all,
                                          "\n) AS ll_tables"), "which dimensions fix which")
    n[answer$ll_set] <- as.double(answer$ll_n)
  }
  out <- matrix(FALSE, length(dims), length(dims))
  for (k in seq_along(pairs)) if (length(pairs[[k]]) == 2) {
    i <- pairs[[k]][1]
    j <- pairs[[k]][2]
    out[i, j] <- n[k] == n[i]
    out[j, i] <- n[k] == n[j]
  }
  out
}

# For each name of `fine`, from none on, those of the dimensions `coarse`, which it fixes.
linked_names <- function(relation, names, fine, coarse) {
  picked <- picked_lines(relation)
  column <- function(dim) picked$column(sprintf("ll_k%d", match(dim, names(names))))
  alias <- sprintf("ll_c%d", seq_along(coarse))
  text <- relation$writer$dialect$text
  of <- paste0(text(paste0("MIN(", vapply(coarse, column, ""), ")")), " AS ",
               alias)[seq_along(coarse)]
  answer <- ask(relation$source, paste0(
    picked$with, "SELECT ", paste(c(paste(text(column(fine)), "AS ll_fine"), of),
                                  collapse = ", "), "\n", picked$from, "\nGROUP BY ", column(fine)),
    "the names that others are of", guard = TRUE)
  at <- coded_names(relation, names, fine, answer$ll_fine) + 1
  out <- lapply(seq_along(coarse), function(k) {
    to <- integer(length(names[[fine]]) + 1)
    to[at] <- coded_names(relation, names, coarse[k], answer[[alias[k]]])
    to
  })
  stats::setNames(out, coarse)
}
