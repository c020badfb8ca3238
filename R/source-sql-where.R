# Conditions as SQL. They are two-valued: a comparison with a missing value is false, and what is
# not that is true. Where a condition looks at names through a table held here (a register, bands of
# a metric, cohorts), it is judged here for each name and written as a list of names.

sql_where <- function(w, tree) {
  switch(tree$kind,
         logic = sql_logic(w, tree), missing = sql_missing(w, tree$arg),
         within = sql_within(w, tree$arg, set_values(tree$set)),
         match = sql_match(w, tree), compare = sql_compare(w, tree), since = sql_since(w, tree),
         no_sql("a condition of the kind ", tree$kind))
}

sql_logic <- function(w, tree) {
  tests <- vapply(tree$args, sql_where, "", w = w)
  switch(tree$op, `!` = paste0("NOT ", w$dialect$sure(tests)),
         paste0("(", tests[1], if (tree$op == "&") " AND " else " OR ", tests[2], ")"))
}

never <- "1 = 0"
ever <- "1 = 1"

# The map of names behind a tree that gives names, and which of its values pass; NULL where the
# engine has the values itself.
sql_judged <- function(w, tree, passes, others = FALSE) {
  if (tree$kind == "band" && !others) {
    hit <- which(passes(tree$labels)) - 1
    if (!length(hit)) return(never)
    return(paste0(sql_band(w, tree), " IN (", paste(hit, collapse = ", "), ")"))
  }
  map <- if (tree$kind %in% c("mapped", "banded", "name")) name_map(w$source, tree)
  if (is.null(map)) return(NULL)
  base <- sql_row(w, map$arg)
  hit <- passes(map$values)
  hit <- hit & !is.na(hit)
  if (!others) return(sql_among(w, base, map$names[hit]))
  # Names that the map does not hold pass too, and lines without a name.
  out <- setdiff(map$names, map$names[hit])
  if (!length(out)) return(ever)
  paste0("NOT ", w$dialect$sure(sql_among(w, base, out)))
}

# Whether an expression is one of these names.
sql_among <- function(w, x, names) {
  literals <- name_literals(w, x, names)$sql
  if (!length(literals)) return(never)
  if (length(literals) == 1) return(paste0(x$sql, " = ", literals))
  paste0(x$sql, " IN (", paste(literals, collapse = ", "), ")")
}

sql_missing <- function(w, arg) {
  gap <- function(values) if (is.character(values)) is_blank(values) else is.na(values)
  sql_judged(w, arg, gap, others = TRUE) %||% paste0(sql_bare(w, arg), " IS NULL")
}

# What has a value where the tree has one.
sql_bare <- function(w, tree) {
  x <- sql_row(w, tree)
  x$raw %||% x$sql
}

sql_within <- function(w, arg, values) {
  if (is.character(values)) {
    through <- sql_judged(w, arg, function(v) plain_key(v) %in% values)
    if (!is.null(through)) return(through)
    part <- sql_of_days(w, arg, function(labels) labels %in% values)
    if (!is.null(part)) return(part)
  }
  x <- sql_row(w, arg)
  if (x$type == "empty") return(never)
  if (x$type == "text") return(sql_among(w, x, values))
  if (is_exact(x)) {
    values <- whole_limits(values, x$places)
    values <- values[values == round(values)]
  }
  if (!length(values)) return(never)
  if (!is_exact(x) && row_slack(arg)) {
    equal <- function(value) sql_compare_numbers(w, "==", arg, node("number", value = value), x)
    return(paste0("(", paste(vapply(values, equal, ""), collapse = " OR "), ")"))
  }
  literals <- if (is_exact(x)) number_literal(values) else double_literal(values)
  paste0(x$sql, " IN (", paste(literals, collapse = ", "), ")")
}

sql_match <- function(w, tree) {
  passes <- function(v) {
    v <- plain_key(v)
    if (tree$fn == "startsWith") startsWith(v, tree$text) else grepl(tree$text, v, fixed = TRUE)
  }
  through <- sql_judged(w, tree$arg, passes) %||% sql_of_days(w, tree$arg, passes)
  if (!is.null(through)) return(through)
  x <- as_text_expression(sql_row(w, tree$arg), w)
  if (x$type == "empty") return(never)
  literal <- quoted_text(w, tree$text)
  if (!nzchar(tree$text)) return(paste0(x$sql, " IS NOT NULL"))
  if (tree$fn == "contains") w$dialect$holds(x$sql, literal) else
    w$dialect$starts(x$sql, literal, nchar(tree$text))
}

# Lines on or after a day of each name's own; of other names none.
sql_since <- function(w, tree) {
  known <- !is.na(tree$from)
  from <- sql_lookup(w, sql_row(w, tree$arg), tree$names[known],
                     number_literal(as.numeric(tree$from[known])), FALSE)
  paste0(sql_row(w, tree$date)$sql, " >= ", from)
}

sql_compare <- function(w, tree) {
  left <- tree$args[[1]]
  right <- tree$args[[2]]
  if (tree$type %in% c("text", "empty")) return(sql_compare_names(w, tree$op, left, right))
  if (right$kind %in% c("number", "date")) {
    through <- sql_judged(w, left, function(v) do.call(tree$op, list(as.numeric(v), right$value)))
    if (!is.null(through)) return(through)
  }
  a <- sql_row(w, left)
  if (right$kind == "date" && !is.null(a$date) && !isTRUE(a$days) && !is.na(right$value))
    return(paste(a$date, sql_sign(tree$op), w$dialect$literal_date(right$value)))
  if (right$kind == "number" && is_exact(a))
    return(paste(a$sql, sql_sign(tree$op), number_literal(whole_limits(right$value, a$places))))
  sql_compare_numbers(w, tree$op, left, right, a)
}

sql_sign <- function(op) switch(op, `==` = "=", `!=` = "<>", op)

# Exact decimals are compared as such, other numbers within a relative slack. The second route has
# doubles throughout: where they stand for exact decimals they are rounded to whole numbers of
# these.
sql_compare_numbers <- function(w, op, left, right, a = sql_row(w, left)) {
  slack <- row_slack(node("compare", args = list(left, right)))
  both <- sql_alike(w, a, sql_row(w, right))
  x <- both[[1]]$sql
  y <- both[[2]]$sql
  if (is_exact(both[[1]]) || !slack) return(paste(x, sql_sign(op), y))
  exact <- sql_writer(w$source)
  places <- if (w$plain) sql_alike(exact, sql_row(exact, left), sql_row(exact, right))[[1]]$places
            else NA
  if (!is.na(places)) {
    whole <- paste0("ROUND((", c(x, y), ")", power_text(places, "e0"), ")")
    return(paste(whole[1], sql_sign(op), whole[2]))
  }
  near <- paste0("abs(", x, " - ", y, ") <= ", slack, " * CASE WHEN abs(", x, ") > abs(", y,
                 ") THEN abs(", x, ") ELSE abs(", y, ") END")
  switch(op, `==` = near, `!=` = paste0("NOT ", near),
         `<` = , `>` = paste0("(", x, " ", op, " ", y, " AND NOT ", near, ")"),
         paste0("(", x, " ", op, " ", y, " OR ", near, ")"))
}

sql_compare_names <- function(w, op, left, right) {
  if (right$kind == "text") {
    passes <- function(v) in_order(op, plain_key(v), right$value)
    through <- sql_judged(w, left, passes) %||% sql_of_days(w, left, passes)
    if (!is.null(through)) return(through)
    x <- sql_row(w, left)
    if (x$type == "empty") return(never)
    test <- sql_among(w, x, right$value)
    if (op == "==") return(test)
    return(paste0("(", x$sql, " IS NOT NULL AND NOT ", w$dialect$sure(test), ")"))
  }
  sides <- lapply(lapply(list(left, right), sql_row, w = w), as_text_expression, w = w)
  if (any(vapply(sides, `[[`, "", "type") == "empty")) return(never)
  paste(w$dialect$by_bytes(sides[[1]]$sql), sql_sign(op), sides[[2]]$sql)
}

# A part of a date field: judged here for each of its days, written as stretches of days. NULL for
# other trees.
sql_of_days <- function(w, tree, passes) {
  if (tree$kind == "computed") tree <- tree$tree
  if (tree$kind != "bucket") return(NULL)
  x <- sql_row(w, tree$arg)
  if (tree$part == "hour") {
    hours <- which(passes(sprintf("%02d", 0:23))) - 1
    if (!length(hours)) return(never)
    return(paste0(x$hour(), " IN (", paste(hours, collapse = ", "), ")"))
  }
  if (tree$part == "weekday") {
    days <- which(passes(weekday_levels))
    if (!length(days)) return(never)
    return(paste0(sql_bucket(w, tree)$sql, " IN (", paste(days, collapse = ", "), ")"))
  }
  if (tree$arg$kind != "name" || is.null(x$date)) no_sql("parts of computed dates")
  days <- as.numeric(source_days(w$source, tree$arg$name))
  hit <- passes(bucket_labels(days, tree$part, w$source$calendar))
  if (!any(hit)) return(never)
  runs <- rle(hit)
  ends <- cumsum(runs$lengths)[runs$values]
  starts <- ends - runs$lengths[runs$values] + 1
  literal <- function(at) vapply(days[at], w$dialect$literal_date, "")
  paste0("(", paste0(x$date, " BETWEEN ", literal(starts), " AND ", literal(ends),
                     collapse = " OR "), ")")
}
