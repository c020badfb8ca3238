# Conditions as SQL. They are two-valued: a comparison with a missing value is false, and what is
# not that is true. Where a condition looks at names through a table held here (a register, bands of
# a metric, cohorts), it is judged here for each name and written as a list of names.

sql_where <- function(writer, tree) {
  switch(tree$kind,
         logic = sql_logic(writer, tree), missing = sql_missing(writer, tree$arg),
         within = sql_within(writer, tree$arg, set_values(tree$set)),
         match = sql_match(writer, tree), compare = sql_compare(writer, tree),
         since = sql_since(writer, tree), no_sql("a condition of the kind ", tree$kind))
}

sql_logic <- function(writer, tree) {
  tests <- vapply(tree$args, sql_where, "", w = writer)
  switch(tree$op, `!` = paste0("NOT ", writer$dialect$sure(tests)),
         paste0("(", tests[1], if (tree$op == "&") " AND " else " OR ", tests[2], ")"))
}

never <- "1 = 0"
ever <- "1 = 1"

# The map of names behind a tree that gives names, and which of its values pass; NULL where the
# engine has the values itself.
sql_judged <- function(writer, tree, passes, others = FALSE) {
  if (tree$kind == "band" && !others) {
    hit <- which(passes(tree$labels)) - 1
    if (!length(hit)) return(never)
    return(paste0(sql_band(writer, tree), " IN (", paste(hit, collapse = ", "), ")"))
  }
  map <- if (tree$kind %in% c("mapped", "banded", "name")) name_map(writer$source, tree)
  if (is.null(map)) return(NULL)
  base <- sql_row(writer, map$arg)
  hit <- passes(map$values)
  hit <- hit & !is.na(hit)
  if (!others) return(sql_among(writer, base, map$names[hit]))
  # Names that the map does not hold pass too, and lines without a name.
  out <- setdiff(map$names, map$names[hit])
  if (!length(out)) return(ever)
  paste0("NOT ", writer$dialect$sure(sql_among(writer, base, out)))
}

# Whether an expression is one of these names.
sql_among <- function(writer, expr, names) {
  literals <- name_literals(writer, expr, names)$sql
  if (!length(literals)) return(never)
  if (length(literals) == 1) return(paste0(expr$sql, " = ", literals))
  paste0(expr$sql, " IN (", paste(literals, collapse = ", "), ")")
}

sql_missing <- function(writer, arg) {
  gap <- function(values) if (is.character(values)) is_blank(values) else is.na(values)
  sql_judged(writer, arg, gap, others = TRUE) %||% paste0(sql_bare(writer, arg), " IS NULL")
}

# What has a value where the tree has one.
sql_bare <- function(writer, tree) {
  x <- sql_row(writer, tree)
  x$raw %||% x$sql
}

sql_within <- function(writer, arg, values) {
  if (is.character(values)) {
    through <- sql_judged(writer, arg, function(v) plain_key(v) %in% values)
    if (!is.null(through)) return(through)
    part <- sql_of_days(writer, arg, function(labels) labels %in% values)
    if (!is.null(part)) return(part)
  }
  x <- sql_row(writer, arg)
  if (x$type == "empty") return(never)
  if (x$type == "text") return(sql_among(writer, x, values))
  if (is_exact(x)) {
    values <- whole_limits(values, x$decimals)
    values <- values[values == round(values)]
  }
  if (!length(values)) return(never)
  if (!is_exact(x) && row_slack(arg)) {
    equal <- function(value) {
      sql_compare_numbers(writer, "==", arg, node("number", value = value), x)
    }
    return(paste0("(", paste(vapply(values, equal, ""), collapse = " OR "), ")"))
  }
  literals <- if (is_exact(x)) number_literal(values) else double_literal(values)
  paste0(x$sql, " IN (", paste(literals, collapse = ", "), ")")
}

sql_match <- function(writer, tree) {
  passes <- function(v) {
    v <- plain_key(v)
    if (tree$fn == "startsWith") startsWith(v, tree$text) else grepl(tree$text, v, fixed = TRUE)
  }
  through <- sql_judged(writer, tree$arg, passes) %||% sql_of_days(writer, tree$arg, passes)
  if (!is.null(through)) return(through)
  x <- as_text_expression(sql_row(writer, tree$arg), writer)
  if (x$type == "empty") return(never)
  literal <- quoted_text(writer, tree$text)
  if (!nzchar(tree$text)) return(paste0(x$sql, " IS NOT NULL"))
  if (tree$fn == "contains") writer$dialect$holds(x$sql, literal) else
    writer$dialect$starts(x$sql, literal, nchar(tree$text))
}

# Lines on or after a day of each name's own; of other names none.
sql_since <- function(writer, tree) {
  known <- !is.na(tree$from)
  from <- sql_lookup(writer, sql_row(writer, tree$arg), tree$names[known],
                     number_literal(as.numeric(tree$from[known])), FALSE)
  paste0(sql_row(writer, tree$date)$sql, " >= ", from)
}

sql_compare <- function(writer, tree) {
  left <- tree$args[[1]]
  right <- tree$args[[2]]
  if (tree$type %in% c("text", "empty")) return(sql_compare_names(writer, tree$op, left, right))
  if (right$kind %in% c("number", "date")) {
    meets <- function(value) do.call(tree$op, list(as.numeric(value), right$value))
    through <- sql_judged(writer, left, meets)
    if (!is.null(through)) return(through)
  }
  a <- sql_row(writer, left)
  if (right$kind == "date" && !is.null(a$date) && !isTRUE(a$days) && !is.na(right$value))
    return(paste(a$date, sql_sign(tree$op), writer$dialect$literal_date(right$value)))
  if (right$kind == "number" && is_exact(a))
    return(paste(a$sql, sql_sign(tree$op), number_literal(whole_limits(right$value, a$decimals))))
  sql_compare_numbers(writer, tree$op, left, right, a)
}

sql_sign <- function(op) switch(op, `==` = "=", `!=` = "<>", op)

# Exact decimals are compared as such, other numbers within a relative slack. The second route has
# doubles throughout: where they stand for exact decimals they are rounded to whole numbers of
# these.
sql_compare_numbers <- function(writer, op, left, right, a = sql_row(writer, left)) {
  slack <- row_slack(node("compare", args = list(left, right)))
  both <- sql_same_decimals(writer, a, sql_row(writer, right))
  x <- both[[1]]$sql
  y <- both[[2]]$sql
  if (is_exact(both[[1]]) || !slack) return(paste(x, sql_sign(op), y))
  exact <- sql_writer(writer$source)
  decimals <- if (writer$plain) sql_same_decimals(exact, sql_row(exact, left),
                                                  sql_row(exact, right))[[1]]$decimals
            else NA
  if (!is.na(decimals)) {
    whole <- paste0("ROUND((", c(x, y), ")", power_text(decimals, "e0"), ")")
    return(paste(whole[1], sql_sign(op), whole[2]))
  }
  near <- paste0("abs(", x, " - ", y, ") <= ", slack, " * CASE WHEN abs(", x, ") > abs(", y,
                 ") THEN abs(", x, ") ELSE abs(", y, ") END")
  switch(op, `==` = near, `!=` = paste0("NOT ", near),
         `<` = , `>` = paste0("(", x, " ", op, " ", y, " AND NOT ", near, ")"),
         paste0("(", x, " ", op, " ", y, " OR ", near, ")"))
}

sql_compare_names <- function(writer, op, left, right) {
  if (right$kind == "text") {
    passes <- function(v) in_order(op, plain_key(v), right$value)
    through <- sql_judged(writer, left, passes) %||% sql_of_days(writer, left, passes)
    if (!is.null(through)) return(through)
    x <- sql_row(writer, left)
    if (x$type == "empty") return(never)
    test <- sql_among(writer, x, right$value)
    if (op == "==") return(test)
    return(paste0("(", x$sql, " IS NOT NULL AND NOT ", writer$dialect$sure(test), ")"))
  }
  sides <- lapply(lapply(list(left, right), sql_row, w = writer), as_text_expression, w = writer)
  if (any(vapply(sides, `[[`, "", "type") == "empty")) return(never)
  paste(writer$dialect$by_bytes(sides[[1]]$sql), sql_sign(op), sides[[2]]$sql)
}

# A part of a date field: judged here for each of its days, written as stretches of days. NULL for
# other trees.
sql_of_days <- function(writer, tree, passes) {
  if (tree$kind == "computed") tree <- tree$tree
  if (tree$kind != "bucket") return(NULL)
  x <- sql_row(writer, tree$arg)
  if (tree$part %in% time_parts) {
    hours <- which(passes(time_labels[[tree$part]])) - 1
    if (!length(hours)) return(never)
    return(paste0(x$hour(), " IN (", paste(hours, collapse = ", "), ")"))
  }
  if (tree$part == "weekday") {
    days <- which(passes(weekday_levels))
    if (!length(days)) return(never)
    return(paste0(sql_bucket(writer, tree)$sql, " IN (", paste(days, collapse = ", "), ")"))
  }
  if (tree$arg$kind != "name" || is.null(x$date)) no_sql("parts of computed dates")
  days <- as.numeric(source_days(writer$source, tree$arg$name))
  hit <- passes(bucket_labels(days, tree$part, writer$source$calendar))
  if (!any(hit)) return(never)
  runs <- rle(hit)
  ends <- cumsum(runs$lengths)[runs$values]
  starts <- ends - runs$lengths[runs$values] + 1
  literal <- function(at) vapply(days[at], writer$dialect$literal_date, "")
  paste0("(", paste0(x$date, " BETWEEN ", literal(starts), " AND ", literal(ends),
                     collapse = " OR "), ")")
}
