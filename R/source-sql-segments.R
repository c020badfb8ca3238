# Tables of segments in a database: folded rows travel, no lines. What an order comes to within each
# name is added up first, then what each group's orders do, then the name's: three GROUP BY, one
# within the other. Tables that are asked for together are one statement, over lines that are
# picked once where the engine can keep them meanwhile.

#' @export
source_segments.database_source <- function(source, keys, value, order, then, now, ever,
                                            tiles = NULL) {
  tryCatch(
    sql_segments(source, keys, value, order, then, now, ever, tiles),
    no_sql = function(e) {
      tell(paste0("not in SQL: ", conditionMessage(e), "; the lines are brought"), "debug")
      trees <- c(keys, value[intersect(c("tree", "n", "d"), names(value))],
                 if (!is.null(order)) list(node("name", name = order)),
                 if (!is.null(tiles)) list(node("name", name = tiles$date)))
      # A rate goes by the lines of both periods alone.
      here <- source_here(source, c(trees, list(then, now)),
                          if (!is.null(value$tree)) ever else either(then, now))
      lay_segments(source, here, keys, value, order, then, now, ever, tiles)
    })
}

sql_segments <- function(source, keys, value, order, then, now, ever, tiles) {
  names <- lapply(keys, source_names, source = source)
  levels <- lengths(names)
  before <- and_also(ever, unmet(now))
  relation <- function(keys, where, now) {
    made <- segment_relation(source, keys, value, order, where, now)
    made$alone <- lines_alone(made, order)
    made
  }
  both <- relation(keys, either(then, now), now)
  split <- if (is.null(order)) 0 * levels else orders_split(both, names(keys))
  by_order <- split < few_split
  group <- search_group(by_order, levels)
  beyond <- ask_count(source, and_also(before, unmet(then))) > 0
  both$group <- group
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
# whether now ll_n, amount ll_v and weight ll_w; `scale` by period what the sums of a rate are to be
# divided by.
segment_relation <- function(source, keys, value, order, where, now) {
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
               ll_n = if (is.null(now)) "0" else
                 paste0("CASE WHEN ", sql_where(writer, now), " THEN 1 ELSE 0 END"),
               ll_v = amount$sql, ll_w = weight$sql)
  list(source = source, writer = writer, keyed = keyed, columns = columns, where = where,
       decimals = amount$decimals, scale = value$of %||% c(1, 1),
       per_order = if (!is.null(value$n) && is.null(value$d)) value$middle)
}

# How many lines have no order.
lines_alone <- function(relation, order) {
  if (is.null(order)) return(0)
  none <- node("missing", arg = node("name", name = order))
  ask_count(relation$source, and_also(relation$where, none))
}

# A condition more.
and_where <- function(from, test) {
  paste0(from, if (grepl("(^|\n| )WHERE ", from)) "\n  AND " else "\nWHERE ", test)
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

# The relation with its lines picked once, where the engine keeps such; else each use picks its own.
# `flags` are conditions, as columns ll_r1 and on.
picked_lines <- function(relation, flags = list()) {
  writer <- relation$writer
  columns <- relation$columns
  tests <- vapply(flags, sql_where, "", w = writer)
  kept <- !is.null(writer$dialect$keeps)
  if (kept) columns <- c(columns, stats::setNames(
    paste0("CASE WHEN ", tests, " THEN 1 ELSE 0 END")[seq_along(tests)],
    sprintf("ll_r%d", seq_along(tests))))
  lines <- from_where(writer, relation$where)
  if (!kept) return(list(with = "", column = function(name) columns[[name]], from = function(flag) {
    if (flag) and_where(lines, tests[flag]) else lines
  }))
  list(with = paste0(writer$dialect$keeps("ll_few", paste0(
    "SELECT ", paste(columns, "AS", names(columns), collapse = ",\n       "), "\n", lines)), "\n"),
    column = identity, from = function(flag) {
      paste0("FROM ll_few", if (flag) paste0(" WHERE ll_r", flag, " = 1"))
    })
}

asked_segments <- "tables of segments"
tables_at_once <- 60   # tables of one statement

# The functions of core-segments.R; rows are conditions.
segment_folds <- function(relation, keys, names) {
  condition <- function(rows, segment) {
    for (dim in segment$dims)
      rows <- and_also(rows, among_names(keys[[dim]], names[[dim]][segment$codes[[dim]]]))
    rows
  }
  list(
    tables = function(asked, floor = 0, orders = 0) {
      if (!length(asked)) return(list())
      rows <- lapply(asked, function(ask) condition(ask$rows, ask$segment))
      wanted <- data.frame(ask = rep(seq_along(asked), lengths(lapply(asked, `[[`, "of"))))
      wanted$of <- unlist(lapply(asked, `[[`, "of"), recursive = FALSE)
      made <- lapply(split(wanted, (seq_len(nrow(wanted)) - 1) %/% tables_at_once), function(few) {
        ask_segments(relation, rows, few$ask, few$of, names, floor, orders)
      })
      unname(split(unlist(made, recursive = FALSE, use.names = FALSE),
                   factor(wanted$ask, seq_along(asked))))
    },
    lacking = function(rows, segment) and_also(rows, unmet(condition(NULL, segment))),
    fixes = function() fixed_names(relation, names(keys)),
    links = function(fine, coarse) linked_names(relation, keys, names, fine, coarse),
    subtracts = FALSE)
}

among_names <- function(tree, names) {
  node("within", arg = tree, set = node("set", values = names))
}

# Tables of `of`, each over the rows of its ask, which are conditions.
ask_segments <- function(relation, rows, ask, of, names, floor, orders) {
  source <- relation$source
  asks <- unique(ask)
  narrow <- asks[lengths(rows[asks]) > 0]
  flags <- rows[narrow]
  # Lines that none of the tables is of are not picked.
  if (length(narrow) == length(asks)) relation$where <- and_also(relation$where, or_all(flags))
  if (length(asks) == 1) {
    flags <- list()
    narrow <- integer()
  }
  picked <- picked_lines(relation, flags)
  one <- function(k) {
    at <- match(of[[k]], names(names))
    sql_segment_table(relation, picked, k, at, match(ask[k], narrow, nomatch = 0L),
                      if (length(at)) floor else 0, if (length(at)) orders else 0)
  }
  all <- paste(vapply(seq_along(of), one, ""), collapse = "\nUNION ALL\n")
  answer <- ask(source, paste0(picked$with, "SELECT * FROM (\n", all, "\n) AS ll_tables"),
                asked_segments, guard = TRUE)
  rows_of <- split(seq_len(nrow(answer)), factor(answer$ll_set, seq_along(of)))
  Map(function(dims, rows) read_segment_table(relation, names, dims, answer[rows, , drop = FALSE]),
      of, rows_of)
}

# One table as SQL, its names as text.
sql_segment_table <- function(relation, picked, set, at, flag, floor, orders) {
  dialect <- relation$writer$dialect
  column <- picked$column
  has <- function(name) name %in% names(relation$columns)
  keys <- sprintf("ll_k%d", at)
  side <- function(x, now, else_value = "0") {
    paste0("CASE WHEN ", column("ll_n"), " = ", now, " THEN ", x, " ELSE ", else_value, " END")
  }
  group <- if (!is.null(relation$group))
    column(sprintf("ll_k%d", match(relation$group, names(relation$keyed)))) else
      if (has("ll_o")) column("ll_o")
  whole <- !is.na(relation$decimals)
  # Each order's lines within each name; lines without an order are one each.
  entries <- function(alone) {
    total <- function(x) if (alone) dialect$double(x) else dialect$sum(x, whole)
    most <- function(x) if (alone) x else paste0("MAX(", x, ")")
    # Lines without an order are none of the orders that are counted.
    weigh <- function(now) {
      if (is.null(relation$per_order)) return(total(side(column("ll_w"), now)))
      dialect$double(if (alone) "0" else most(side("1", now)))
    }
    weighed <- if (has("ll_w")) c(ll_wa = weigh(0), ll_wb = weigh(1))
    amount <- function(now) {
      sum <- total(side(column("ll_v"), now))
      if (is.null(relation$per_order)) return(sum)
      paste0(sum, " - ", double_literal(relation$per_order), " * ", weigh(now))
    }
    select <- c(stats::setNames(vapply(keys, column, ""), keys),
                if (!is.null(group)) c(ll_g = if (alone) group else paste0("MIN(", group, ")")),
                ll_a = amount(0), ll_b = amount(1),
                ll_na = most(side("1", 0)), ll_nb = most(side("1", 1)), weighed)
    from <- picked$from(flag)
    if (has("ll_o") && !identical(relation$alone, 0))
      from <- and_where(from, paste(column("ll_o"), if (alone) "IS NULL" else "IS NOT NULL"))
    by <- if (!alone) paste0("\nGROUP BY ", paste(c(keys, column("ll_o")), collapse = ", "))
    paste0("SELECT ", paste(select, "AS", names(select), collapse = ", "), "\n", from, by)
  }
  first <- if (!has("ll_o")) entries(TRUE) else if (identical(relation$alone, 0))
    entries(FALSE) else paste0(entries(FALSE), "\nUNION ALL\n", entries(TRUE))
  w <- if (has("ll_w")) c("ll_wa", "ll_wb") else c("ll_a", "ll_b")
  by_group <- c(keys, if (!is.null(group)) "ll_g")
  second <- paste0(
    "SELECT ", paste(c(by_group, sprintf(
      "SUM(%s) AS %s", c("ll_a", "ll_b", "ll_a * ll_a", "ll_b * ll_b", "ll_na", "ll_nb", w),
      c("ll_ga", "ll_gb", "ll_gqa", "ll_gqb", "ll_gna", "ll_gnb", "ll_gwa", "ll_gwb"))),
      collapse = ", "), "\nFROM (\n", first, "\n) AS ll_entries",
    if (length(by_group)) paste0("\nGROUP BY ", paste(by_group, collapse = ", ")))
  sums <- c(a = "ll_ga", b = "ll_gb", wa = "ll_gwa", wb = "ll_gwb", qa = "ll_gqa", qb = "ll_gqb",
            ab = "ll_gwa * ll_gwb", na = "ll_gna", nb = "ll_gnb")
  named <- function(i) if (i > length(keys)) "''" else dialect$text(keys[i])
  having <- c(
    if (floor > 0) paste0(sql_held(relation, sums), " >= ", double_literal(floor)),
    if (orders > 0) paste0("SUM(ll_gna) + SUM(ll_gnb) >= ", orders))
  paste0("SELECT ", set, " AS ll_set, ", named(1), " AS ll_first, ", named(2), " AS ll_second, ",
         paste0("SUM(", sums, ") AS ll_s", names(sums), collapse = ", "),
         ", COUNT(*) AS ll_sng\nFROM (\n", second, "\n) AS ll_groups",
         if (length(keys)) paste0("\nGROUP BY ", paste(keys, collapse = ", ")),
         if (length(having)) paste0("\nHAVING ", paste(having, collapse = " AND ")))
}

# What a name holds, then and now together, by the scale of each period.
sql_held <- function(relation, sums) {
  of <- function(side, k) {
    paste0("abs(SUM(", sums[[side]], "))", if (relation$scale[k] != 1)
      paste0(" / ", double_literal(relation$scale[k])))
  }
  sides <- c(of("a", 1), of("b", 2), if ("ll_w" %in% names(relation$columns))
    c(of("wa", 1), of("wb", 2)))
  paste(sides, collapse = " + ")
}

read_segment_table <- function(relation, names, dims, answer) {
  sums <- matrix(as.double(unlist(answer[paste0("ll_s", segment_columns)])), nrow(answer),
                 length(segment_columns),
                 dimnames = list(NULL, segment_columns))
  sums[is.na(sums)] <- 0
  s <- relation$scale
  by <- c(a = s[1], b = s[2], wa = s[1], wb = s[2], qa = s[1]^2, qb = s[2]^2, ab = s[1] * s[2])
  for (name in names(by)) sums[, name] <- sums[, name] / by[[name]]
  if (!length(dims)) return(sums)
  codes <- Map(function(dim, text) {
    coded <- relation$keyed[[dim]]$coded(text)
    c(0L, match(coded$levels, names[[dim]], nomatch = 0L))[coded$codes + 1L]
  }, dims, list(answer$ll_first, answer$ll_second)[seq_along(dims)])
  at <- do.call(order, unname(codes))
  codes <- do.call(cbind, lapply(codes, as.double))
  named_table(cbind(unname(codes), sums)[at, , drop = FALSE])
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
                and_where(picked$from(0), paste(order, "IS NOT NULL")), "\nGROUP BY ", order,
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
           picked$from(0), "\nGROUP BY ", paste(keys, collapse = ", "), "\n) AS ll_names")
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

# For each name of `fine`, from none on, that of `coarse`, which it fixes.
linked_names <- function(relation, keys, names, fine, coarse) {
  folded <- source_fold(relation$source, keys[c(fine, coarse)], list(), relation$where)$keys
  at <- function(dim) match(folded[[dim]], names[[dim]], nomatch = 0L)
  out <- integer(length(names[[fine]]) + 1)
  out[at(fine) + 1] <- at(coarse)
  out
}
