# The fold as statements: SELECT keys, parts ... GROUP BY keys. One statement holds all parts that
# an engine can add up side by side; what is made within each order first, or needs its lines in
# order, is asked for by a statement of its own over the same groups.

# list(main, further): statements, each with the keys, the parts it answers and how to read them.
fold_statements <- function(source, keys, parts, where) {
  coarse <- all(vapply(parts, adds_over_groups, NA))
  kind <- vapply(parts, part_kind, "", dialect = source$dialect)
  side <- kind == "side"
  per <- vapply(parts[kind == "per"], function(p) tree_text(p$arg$by), "")
  c(list(fold_main(source, keys, parts[side], where, coarse)),
    unname(lapply(split(parts[kind == "per"], factor(per, unique(per))), fold_within,
                  source = source, keys = keys, where = where, coarse = coarse)),
    lapply(names(parts)[kind == "ordered"], function(name) {
      fold_ordered(source, keys, parts[name], where, coarse)
    }))
}

part_kind <- function(part, dialect) {
  if (!is.null(part$arg) && part$arg$kind == "per") return("per")
  ordered <- part$fn == "quantile" && is.null(dialect$quantile("x", .5)) &&
    is.null(dialect$order_statistics) ||
    part$fn == "moments" && is.null(dialect$variance("x"))
  if (ordered) "ordered" else "side"
}

# The lines of a source as FROM and WHERE; `keys` written beforehand, since they may need joins.
from_where <- function(writer, where) {
  test <- and_also(writer$source$only, where)
  text <- if (!is.null(test)) sql_where(writer, test)
  paste0("FROM ", writer$source$from, paste0(" ", writer$joins,
                                             collapse = "")[length(writer$joins) > 0],
         if (!is.null(text)) paste0("\nWHERE ", text))
}

# The same with further tests, pieces of SQL.
from_where_also <- function(writer, where, tests) {
  narrow <- !is.null(and_also(writer$source$only, where))
  paste0(from_where(writer, where), if (length(tests))
    paste0(if (narrow) "\n  AND " else "\nWHERE ", paste(tests, collapse = "\n  AND ")))
}

fold_main <- function(source, keys, parts, where, coarse) {
  writer <- sql_writer(source)
  keyed <- lapply(keys, sql_key, w = writer, coarse = coarse)
  made <- lapply(parts, sql_part, w = writer)
  by <- key_columns(keyed)
  select <- c(by$select, "COUNT(*) AS ll_lines", part_columns(made))
  lines <- paste(from_where(writer, where), by$group, having_lines(source, keys), sep = "")
  list(sql = paste0("SELECT ", paste(select, collapse = ",\n       "), "\n", lines),
       keys = keyed, parts = made)
}

# Only groups of at least so many lines, where the source says so.
having_lines <- function(source, keys) {
  if (is.null(source$least) || !length(keys)) "" else
    paste0("\nHAVING COUNT(*) >= ", source$least)
}

key_columns <- function(keyed) {
  alias <- sprintf("ll_k%d", seq_along(keyed))
  sql <- vapply(keyed, `[[`, "", "sql")
  list(alias = alias, select = if (length(keyed)) paste(sql, "AS", alias),
       group = if (length(keyed)) paste0("\nGROUP BY ", paste(alias, collapse = ", ")) else "")
}

part_columns <- function(made) {
  unlist(lapply(seq_along(made), function(i) {
    columns <- made[[i]]$columns
    paste0(columns, " AS ll_p", i, "_", names(columns))
  }))
}

# A value where the part's condition holds, else missing.
sql_where_met <- function(writer, expr, where) {
  if (is.null(where)) return(expr)
  paste0("CASE WHEN ", sql_where(writer, where), " THEN ", expr, " END")
}

# One part side by side with others: the columns it needs, and the part they make.
sql_part <- function(writer, part) {
  only <- part$where
  if (is.null(part$arg)) {
    columns <- c(v = if (is.null(only)) "COUNT(*)" else
      paste0("COUNT(", sql_where_met(writer, "1", only), ")"))
    return(list(columns = columns, read = function(c) folded("lines", count_of(c$v))))
  }
  x <- sql_argument(writer, part)
  value <- sql_where_met(writer, x$sql, only)
  seen <- if (is.null(only)) "COUNT(*)" else paste0("COUNT(", sql_where_met(writer, "1", only), ")")
  sql_aggregate(writer, part, x, value, seen)
}

# What is aggregated: for counts of names the name itself, as it is grouped by.
sql_argument <- function(writer, part) {
  if (part$fn == "distinct") {
    key <- sql_key(writer, part$arg, coarse = FALSE)
    return(expression_of(key$sql, "text"))
  }
  if (part$fn == "count") return(expression_of(sql_bare(writer, part$arg), "text"))
  sql_row(writer, part$arg)
}

sql_aggregate <- function(writer, part, expr, value, seen) {
  dialect <- writer$dialect
  counted <- paste0("COUNT(", sql_where_met(writer, expr$raw %||% expr$sql, part$where), ")")
  exact <- is_exact(expr)
  switch(part$fn,
         count = list(columns = c(v = counted), read = function(c) folded("count", count_of(c$v))),
         distinct = list(columns = c(v = dialect$distinct(value)),
                         read = function(c) folded("distinct", count_of(c$v))),
         sum = {
           # Whole numbers are added as such while no sum can leave 64 bits.
           whole <- exact && sum_bound(writer, expr) < 2^63
           if (exact && !whole) value <- sql_where_met(writer, as_double(writer, expr), part$where)
           list(columns = c(v = dialect$sum(value, whole), n = counted, seen = seen),
                read = function(c) read_sum(c, if (whole) expr$decimals else NA))
         },
         min = , max = list(
           columns = c(v = dialect$double(paste0(toupper(part$fn), "(", value, ")")), n = counted),
           # Of no values an engine may say 0.
           read = function(c) {
             folded(part$fn, scaled(ifelse(c$n == 0, NA, c$v), expr$decimals, expr$largest))
           }),
         moments = {
           double <- sql_where_met(writer, as_double(writer, expr), part$where)
           list(columns = c(n = counted, mean = paste0("AVG(", double, ")"),
                            var = dialect$variance(double)), read = read_moments)
         },
         quantile = sql_quantile(writer, part, as_double(writer, expr)))
}

# What no sum of an expression over any of the lines exceeds. Values that are sums themselves add up
# to no more than they were made of.
sum_bound <- function(writer, x) x$total %||% (x$largest * source_size(writer$source))

read_sum <- function(c, decimals) {
  v <- as.double(c$v)
  v[c$n == 0] <- ifelse(c$seen[c$n == 0] > 0, NA, 0)
  largest <- max(abs(v), 0, na.rm = TRUE)
  value <- if (is.na(decimals)) scaled(v) else if (largest < whole_limit)
    scaled(v, as.integer(decimals), largest) else scaled(v / 10^decimals)
  folded("sum", value, n = c$n, seen = c$seen)
}

read_moments <- function(c) {
  n <- c$n
  var <- ifelse(n > 1, as.double(c$var), 0)
  folded("moments", scaled(as.double(c$mean)), n = n, mean = as.double(c$mean),
         m2 = ifelse(n > 1, var * (n - 1), 0))
}

sql_quantile <- function(writer, part, double) {
  dialect <- writer$dialect
  prob <- part$prob$value
  value <- sql_where_met(writer, double, part$where)
  if (!is.null(dialect$order_statistics))
    return(list(columns = dialect$order_statistics(value, prob), read = function(c) {
      folded("quantile", scaled(between_order_statistics(c, prob)))
    }))
  list(columns = c(v = dialect$quantile(value, prob)),
       read = function(c) folded("quantile", scaled(as.double(c$v))))
}

# Linear interpolation between two neighbours of `n` sorted values; type 7 of Hyndman and Fan 1996.
between_order_statistics <- function(c, prob) {
  at <- (c$n - 1) * prob
  part <- at - floor(at + 4e-15 * at)
  part <- ifelse(part < 1e-12, 0, part)
  low <- as.double(c$low)
  out <- low + part * (as.double(c$high) - low)
  ifelse(c$n == 0, NA, ifelse(part == 0, low, out))
}

# Parts that are made within each name of another field first: all of one field together.
fold_within <- function(parts, source, keys, where, coarse) {
  writer <- sql_writer(source)
  keyed <- lapply(keys, sql_key, w = writer, coarse = coarse)
  by <- key_columns(keyed)
  name <- sql_key(writer, parts[[1]]$arg$by, coarse = FALSE)$sql
  inner <- lapply(parts, function(part) sql_metric(writer, part$arg$inner))
  made <- Map(function(part, x, i) {
    v <- sql_writer(source)
    x$sql <- paste0("ll_it", i)
    v$it <- x
    part$arg <- node("name", name = "it", inner = TRUE)
    sql_part(v, part)
  }, parts, inner, seq_along(parts))
  columns <- paste0(vapply(inner, `[[`, "", "sql"), " AS ll_it", seq_along(inner))
  within <- paste0("SELECT ", paste(c(by$select, paste(name, "AS ll_by"), columns),
                                    collapse = ",\n       "),
                   "\n", from_where(writer, where), "\nGROUP BY ",
                   paste(c(by$alias, "ll_by"), collapse = ", "))
  fold_over(paste0("(", within, ") AS ll_within\nWHERE ll_by IS NOT NULL"), by, keyed, made)
}

# The parts folded once more from an inner statement that has the keys under their aliases.
fold_over <- function(from, by, keyed, made) {
  select <- paste(c(by$alias, "COUNT(*) AS ll_lines", part_columns(made)), collapse = ", ")
  list(sql = paste0("SELECT ", select, "\nFROM ", from, by$group), keys = keyed, parts = made)
}

# The value of a metric within a group, in the statement itself.
sql_metric <- function(writer, tree) {
  tree <- expand(tree)
  switch(tree$kind,
         number = sql_number(writer, tree$value),
         date = expression_of(number_literal(tree$value), "date", 0L, abs(tree$value)),
         op = sql_op(writer, tree$op, lapply(tree$args, sql_metric, w = writer)),
         aggregate = sql_metric_part(writer, tree),
         moment = {
           if (is.null(writer$dialect$variance("x"))) no_sql("deviations inside per()")
           x <- as_double(writer, sql_row(writer, tree$part$arg))
           var <- writer$dialect$variance(sql_where_met(writer, x, tree$part$where))
           expression_of(if (tree$of == "sd") paste0("SQRT(", var, ")") else var, "number")
         },
         no_sql("such a metric inside per()"))
}

sql_metric_part <- function(writer, part) {
  size <- source_size(writer$source)
  if (is.null(part$arg))
    return(expression_of(sql_part(writer, part)$columns[["v"]], "number", 0L, size, total = size))
  x <- sql_argument(writer, part)
  value <- sql_where_met(writer, x$sql, part$where)
  type <- if (identical(part$type, "date")) "date" else "number"
  switch(part$fn,
         count = expression_of(paste0("COUNT(", value, ")"), "number", 0L, size, total = size),
         distinct = expression_of(writer$dialect$distinct(value), "number", 0L, size, total = size),
         min = , max = expression_of(paste0(toupper(part$fn), "(", value, ")"), type, x$decimals,
                                     x$largest),
         sum = {
           largest <- sum_bound(writer, x)
           if (!is_exact(x) || largest >= 2^63) {
             x <- as_inexact(writer, x)
             value <- sql_where_met(writer, x$sql, part$where)
           }
           total <- paste0("SUM(", value, ")")
           if (is_exact(x)) total <- writer$dialect$whole(total)
           # Where the condition leaves no line the sum is nothing, not missing.
           if (!is.null(part$where))
             total <- paste0("CASE WHEN COUNT(", sql_where_met(writer, "1", part$where),
                             ") = 0 THEN 0 ELSE ", total, " END")
           expression_of(total, "number", x$decimals, if (is_exact(x)) largest else Inf,
                         total = largest)
         },
         quantile = {
           at <- writer$dialect$quantile(sql_where_met(writer, as_double(writer, x), part$where),
                                         part$prob$value)
           if (is.null(at)) no_sql("medians inside per()")
           expression_of(at, "number")
         },
         no_sql(part$fn, "() inside per()"))
}

# A part that needs the lines of each group in order, or their mean beforehand, by window functions.
fold_ordered <- function(source, keys, parts, where, coarse) {
  if (!source$dialect$windows) no_sql(parts[[1]]$fn)
  writer <- sql_writer(source)
  part <- parts[[1]]
  keyed <- lapply(keys, sql_key, w = writer, coarse = coarse)
  by <- key_columns(keyed)
  x <- sql_where_met(writer, as_double(writer, sql_row(writer, part$arg)), part$where)
  lines <- paste0("SELECT ", paste(c(by$select, paste(x, "AS ll_x")), collapse = ", "), "\n",
                  from_where(writer, where))
  over <- if (length(keyed)) paste0("PARTITION BY ", paste(by$alias, collapse = ", ")) else ""
  prob <- part$prob$value
  quantile <- part$fn == "quantile"
  window <- if (quantile)
    paste0("ROW_NUMBER() OVER (", over, " ORDER BY ll_x) AS ll_at, COUNT(*) OVER (", over,
           ") AS ll_n") else paste0("AVG(ll_x) OVER (", over, ") AS ll_mean")
  low <- paste0("CAST((ll_n - 1) * ", double_literal(prob), " + 4e-15 AS INTEGER)")
  columns <- if (quantile)
    c(n = "MAX(ll_n)", low = paste0("MAX(CASE WHEN ll_at = ", low, " + 1 THEN ll_x END)"),
      high = paste0("MAX(CASE WHEN ll_at = ", low, " + 2 THEN ll_x END)")) else
        c(n = "COUNT(ll_x)", mean = "MAX(ll_mean)",
          var = "SUM((ll_x - ll_mean) * (ll_x - ll_mean)) / (COUNT(ll_x) - 1)")
  made <- list(list(columns = columns, read = if (!quantile) read_moments else function(c) {
    folded("quantile", scaled(between_order_statistics(c, prob)))
  }))
  names(made) <- names(parts)
  fold_over(paste0("(SELECT ", paste(c(by$alias, "ll_x", window), collapse = ", "), "\nFROM (",
                   lines, ") AS ll_values\nWHERE ll_x IS NOT NULL) AS ll_windows"), by, keyed, made)
}

# The rows of several statements over the same groups as one folded table: list(keys, parts,
# lines), the keys as coded columns.
read_fold <- function(answers, statements, parts) {
  main <- answers[[1]]
  rows <- lapply(seq_along(statements), function(i) {
    raw_keys(answers[[i]], length(statements[[i]]$keys))
  })
  read <- list()
  for (i in seq_along(statements)) {
    made <- statements[[i]]$parts
    at <- if (i > 1) {
      if (length(rows[[1]])) match_keys(rows[[1]], rows[[i]]) else
        if (nrow(answers[[i]])) 1L else NA_integer_
    }
    for (j in seq_along(made)) {
      value <- made[[j]]$read(part_answer(answers[[i]], j))
      read[[names(made)[j]]] <- if (is.null(at)) value else spread_part(value, at)
    }
  }
  list(keys = Map(function(key, x) key$coded(x), statements[[1]]$keys, rows[[1]]),
       parts = read[names(parts)], lines = as.double(main$ll_lines))
}

raw_keys <- function(answer, n) unname(as.list(answer[sprintf("ll_k%d", seq_len(n))]))

part_answer <- function(answer, j) {
  mine <- grep(paste0("^ll_p", j, "_"), names(answer), value = TRUE)
  stats::setNames(lapply(answer[mine], as.double), sub("^ll_p[0-9]+_", "", mine))
}
