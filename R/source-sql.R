# Trees of the languages as SQL text: formulas over lines. A writer holds the source, its dialect
# and the joins that a statement needs; what cannot be written is refused with `no_sql`, and the
# lines are brought instead.
#
# An expression is list(sql, type, decimals, largest): type number, text, date or empty. Numbers
# with `decimals` are whole numbers of 10^-decimals, as in core-scaled.R, none larger than
# `largest`; dates are days since 1970, with `date` the same as the engine's date where there is
# one. Text that the engine keeps as numbers is marked `numeric`.

# `plain` writes the second route: numbers as the engine has them, not as whole numbers.
sql_writer <- function(source, plain = FALSE) {
  writer <- new.env(parent = emptyenv())
  writer$source <- source
  writer$dialect <- source$dialect
  writer$plain <- plain
  writer$joins <- character()
  writer
}

no_sql <- function(...) {
  stop(structure(class = c("no_sql", "error", "condition"),
                 list(message = paste0(...), call = NULL)))
}

expression_of <- function(sql, type, decimals = NA_integer_, largest = Inf, ...) {
  list(sql = sql, type = type, decimals = decimals, largest = largest, ...)
}

sql_row <- function(writer, tree) {
  switch(tree$kind,
         number = sql_number(writer, tree$value),
         date = expression_of(number_literal(tree$value), "date", 0L, abs(tree$value)),
         text = expression_of(quoted_text(writer, tree$value), "text"),
         name = if (isTRUE(tree$inner)) writer$it else sql_field(writer, tree$name),
         computed = sql_row(writer, tree$tree),
         op = sql_op(writer, tree$op, lapply(tree$args, sql_row, w = writer)),
         choose = sql_choice(writer, tree),
         sql_names(writer, tree))
}

sql_number <- function(writer, value) {
  exact <- scaled_number(value)
  if (!is_exact(exact) || writer$plain) return(expression_of(double_literal(value), "number"))
  expression_of(number_literal(exact$v), "number", exact$decimals, exact$largest)
}

sql_field <- function(writer, name) {
  field <- field_at(writer$source, name)
  if (field$from != "lines") return(sql_register(writer, field))
  sql_column(writer, writer$source$columns[[field$column]], field$type)
}

sql_column <- function(writer, column, type) {
  dialect <- writer$dialect
  x <- quoted_name(writer$source$con, column$name)
  switch(type,
         number = sql_measure(writer, column, x),
         date = {
           days <- column$storage == "days"
           date <- dialect$date(column_text(writer, column, x), column$storage, writer$source$zone)
           # Days that are numbers are compared as such.
           expression_of(if (days) dialect$whole(x) else dialect$day_number(date), "date", 0L, 4e6,
                         date = date, days = days,
                         hour = function() dialect$hour(x, column$storage, writer$source$zone))
         },
         empty = expression_of(dialect$text("NULL"), "empty"),
         text = switch(column$storage,
                       text = expression_of(column_text(writer, column, dialect$binary(x)), "text"),
                       flag = expression_of(paste0("CASE WHEN ", x, " THEN 'TRUE' WHEN NOT ", x,
                                                   " THEN 'FALSE' END"), "text"),
                       whole = , decimal = , double = {
                         out <- sql_measure(writer, column, x)
                         out$type <- "text"
                         out$numeric <- TRUE
                         out
                       },
                       expression_of(dialect$text(dialect$date(x, column$storage,
                                                               writer$source$zone)),
                                     "text")))
}

# Blank text is missing text.
column_text <- function(writer, column, x) {
  if (!isTRUE(column$blank)) return(x)
  paste0("CASE WHEN ", writer$dialect$bare(x), " = '' THEN NULL ELSE ", x, " END")
}

sql_measure <- function(writer, column, expr) {
  dialect <- writer$dialect
  if (isTRUE(column$nan)) expr <- paste0("CASE WHEN ", dialect$is_nan(expr), " THEN NULL ELSE ",
                                         expr, " END")
  if (is.na(column$decimals) || writer$plain)
    return(expression_of(dialect$double(expr), "number", raw = expr))
  scaled <- switch(column$storage, whole = expr,
                   decimal = paste0(expr, power_text(column$decimals)),
                   paste0("ROUND(", expr, power_text(column$decimals, "e0"), ")"))
  expression_of(dialect$whole(scaled), "number", column$decimals, column$largest, raw = expr)
}

power_text <- function(decimals, ending = "") {
  if (decimals) paste0(" * ", sprintf("%.0f", 10^decimals), ending) else ""
}

# A register's field for each line: looked up by its key.
sql_register <- function(writer, field) {
  map <- name_map(writer$source, node("name", name = field$name))
  sql_through(writer, map, if (field$type == "date") "date" else field$type)
}

# The values of a map of names, for each line, as an expression.
sql_through <- function(writer, map, type) {
  base <- sql_row(writer, map$arg)
  if (type == "empty") return(expression_of(writer$dialect$text("NULL"), "empty"))
  if (type == "text") {
    values <- plain_key(map$values)
    known <- !is_blank(values)
    return(expression_of(sql_lookup(writer, base, map$names[known],
                                    quoted_text(writer, values[known]), TRUE), "text"))
  }
  values <- scale_column(as.numeric(map$values))
  known <- !is.na(values$v)
  if (writer$plain) values <- scaled(scaled_value(values))
  literals <- if (is_exact(values)) number_literal(values$v[known]) else
    double_literal(values$v[known])
  expression_of(sql_lookup(writer, base, map$names[known], literals, FALSE), type, values$decimals,
                if (is_exact(values)) values$largest else Inf)
}

# The literal of each name's value; missing for other names.
sql_lookup <- function(writer, base, names, literals, text) {
  literal <- name_literals(writer, base, names)
  names <- literal$sql
  literals <- literals[literal$known]
  if (!length(names)) return(if (text) writer$dialect$text("NULL") else
                             writer$dialect$double("NULL"))
  if (length(unique(literals)) <= 12) return(sql_cases(base$sql, names, literals))
  if (!is.null(writer$dialect$transform))
    return(writer$dialect$transform(base, names, literals, text))
  alias <- paste0("ll_j", length(writer$joins) + 1)
  table <- writer$dialect$lookup(alias, names, literals)
  writer$joins <- c(writer$joins,
                    paste0("LEFT JOIN ", table, " ON ", alias, "_n = ", base$sql))
  paste0(alias, "_v")
}

# Few values of many names.
sql_cases <- function(base, names, literals) {
  groups <- split(names, factor(literals, unique(literals)))
  paste0("CASE ", paste0("WHEN ", base, " IN (", vapply(groups, paste, "", collapse = ", "),
                         ") THEN ", base::names(groups), collapse = " "), " END")
}

# Names as the engine keeps them: list(sql, known), known telling those that it can hold.
name_literals <- function(writer, base, names) {
  if (!isTRUE(base$numeric)) {
    if (base$type == "date") {
      days <- as.numeric(as_iso_date(names))
      known <- !is.na(days)
      return(list(sql = number_literal(days[known]), known = known))
    }
    return(list(sql = quoted_text(writer, names), known = rep(TRUE, length(names))))
  }
  value <- suppressWarnings(as.numeric(names))
  known <- !is.na(value) & format_plain(ifelse(is.na(value), 0, value)) == names
  if (is.na(base$decimals)) return(list(sql = double_literal(value[known]), known = known))
  whole <- whole_limits(value[known], base$decimals)
  fits <- whole == round(whole)
  known[known] <- fits
  list(sql = number_literal(whole[fits]), known = known)
}

# Names made of names, dates or numbers: as text.
sql_names <- function(writer, tree) {
  if (tree$kind == "band")
    return(expression_of(sql_band(writer, tree, quoted_text(writer, tree$labels)), "text"))
  if (tree$kind == "bucket") return(sql_bucket_names(writer, tree))
  map <- name_map(writer$source, tree)
  if (is.null(map)) no_sql("a formula of the kind ", tree$kind)
  sql_through(writer, map, "text")
}

# The name of each line's part of a date or time, looked up by its hour or its day.
sql_bucket_names <- function(writer, tree) {
  if (tree$arg$kind != "name") no_sql("parts of computed dates as text")
  if (tree$part %in% time_parts)
    return(expression_of(sql_cases(sql_bucket(writer, tree)$sql, as.character(0:23),
                                   quoted_text(writer, time_labels[[tree$part]])), "text"))
  days <- source_days(writer$source, tree$arg$name)
  labels <- bucket_labels(as.numeric(days), tree$part, writer$source$calendar)
  expression_of(sql_lookup(writer, sql_row(writer, tree$arg), format(days),
                           quoted_text(writer, labels), TRUE),
                "text")
}

# The number of bounds that each value has reached, or a literal for each number from 0.
sql_band <- function(writer, tree, literals = seq_along(tree$labels) - 1) {
  x <- sql_row(writer, tree$arg)
  exact <- is_exact(x)
  bounds <- if (exact) number_literal(whole_limits(tree$bounds, x$decimals)) else
    double_literal(tree$bounds)
  value <- if (exact) x$sql else paste0("(", x$sql, " + abs(", x$sql, ") * 1e-9)")
  paste0("CASE ", paste0("WHEN ", value, " >= ", rev(bounds), " THEN ",
                         rev(literals[-1]), collapse = " "),
         " WHEN ", x$sql, " IS NOT NULL THEN ", literals[1], " END")
}

sql_choice <- function(writer, tree) {
  test <- sql_where(writer, tree$test)
  sides <- lapply(tree$args, sql_row, w = writer)
  sides <- if (tree$type == "text") lapply(sides, as_text_expression, w = writer) else
    sql_same_decimals(writer, sides[[1]], sides[[2]])
  out <- sides[[1]]
  expression_of(paste0("CASE WHEN ", test, " THEN ", out$sql, " ELSE ", sides[[2]]$sql, " END"),
                tree$type, out$decimals, max(out$largest, sides[[2]]$largest))
}

# Numbers that are names, as the text that people would type.
as_text_expression <- function(expr, writer) {
  if (!isTRUE(expr$numeric)) return(expr)
  if (is.na(expr$decimals) || expr$decimals > 0) no_sql("names that are numbers with decimals")
  expression_of(writer$dialect$text(expr$sql), "text")
}

sql_op <- function(writer, op, args) {
  type <- arithmetic_type(op, vapply(args, `[[`, "", "type"))
  a <- args[[1]]
  if (op == "abs")
    return(expression_of(paste0("abs(", a$sql, ")"), type, a$decimals, a$largest))
  if (length(args) == 1)
    return(expression_of(paste0("-(", a$sql, ")"), type, a$decimals, a$largest))
  b <- args[[2]]
  out <- switch(op, `+` = , `-` = sql_add(writer, op, a, b), `*` = sql_multiply(writer, a, b),
                `/` = expression_of(paste0("(", as_double(writer, a), ") / NULLIF(",
                                           as_double(writer, b), ", 0)"), "number"),
                pmin = , pmax = sql_pick(writer, op, a, b))
  out$type <- type
  out$sql <- paste0("(", out$sql, ")")
  out
}

# The value itself, as a double.
as_double <- function(writer, expr) {
  if (!is_exact(expr)) return(expr$sql)
  paste0(writer$dialect$double(expr$sql),
         if (expr$decimals) paste0(" / ", sprintf("%.0f", 10^expr$decimals), "e0"))
}

as_inexact <- function(writer, expr) expression_of(as_double(writer, expr), expr$type)

# Two expressions at the same decimals; at none where they would not fit.
sql_same_decimals <- function(writer, a, b) {
  if (is_exact(a) && is_exact(b)) {
    decimals <- max(a$decimals, b$decimals)
    up <- function(x) {
      step <- decimals - x$decimals
      if (!step) return(x)
      expression_of(paste0("(", x$sql, ")", power_text(step)), x$type, decimals,
                    x$largest * 10^step)
    }
    up <- list(up(a), up(b))
    if (max(up[[1]]$largest, up[[2]]$largest) < whole_limit) return(up)
  }
  list(as_inexact(writer, a), as_inexact(writer, b))
}

sql_add <- function(writer, op, a, b) {
  both <- sql_same_decimals(writer, a, b)
  largest <- both[[1]]$largest + both[[2]]$largest
  if (is_exact(both[[1]]) && largest >= whole_limit)
    both <- list(as_inexact(writer, a), as_inexact(writer, b))
  expression_of(paste0(both[[1]]$sql, " ", op, " ", both[[2]]$sql), "number", both[[1]]$decimals,
                if (is_exact(both[[1]])) largest else Inf)
}

sql_multiply <- function(writer, a, b) {
  if (is_exact(a) && is_exact(b)) {
    largest <- a$largest * b$largest
    decimals <- a$decimals + b$decimals
    if (largest < whole_limit && decimals <= 2 * most_decimals)
      return(expression_of(paste0(a$sql, " * ", b$sql), "number", decimals, largest))
  }
  expression_of(paste0(as_double(writer, a), " * ", as_double(writer, b)), "number")
}

# The smaller or larger; missing where either is.
sql_pick <- function(writer, op, a, b) {
  both <- sql_same_decimals(writer, a, b)
  x <- both[[1]]$sql
  y <- both[[2]]$sql
  sign <- if (op == "pmax") c(" >= ", " > ") else c(" <= ", " < ")
  expression_of(paste0("CASE WHEN ", x, sign[1], y, " THEN ", x, " WHEN ", y, sign[2], x, " THEN ",
                       y, " END"), "number", both[[1]]$decimals,
                max(both[[1]]$largest, both[[2]]$largest))
}

# A part of a date as a number: its first day, its month, or the weekday or hour itself.
sql_bucket <- function(writer, tree) {
  x <- sql_row(writer, tree$arg)
  calendar <- writer$source$calendar
  part <- tree$part
  if (part %in% time_parts) {
    if (is.null(x$hour)) no_sql("hours of computed times")
    return(list(sql = x$hour(), part = part, coarse = part != "hour"))
  }
  weekday <- paste0("((", x$sql, " + 3) % 7 + 7) % 7")
  if (part == "weekday") return(list(sql = paste0(weekday, " + 1"), part = part))
  if (part == "week") return(list(sql = paste0(x$sql, " - ", weekday), part = part))
  fiscal <- startsWith(part, "fiscal")
  if (part == "day" || fiscal && !is.null(calendar$weeks))
    return(list(sql = x$sql, part = part, coarse = part != "day"))
  date <- x$date %||% writer$dialect$from_day_number(x$sql)
  months <- writer$dialect$month_number(date)
  by <- if (grepl("month$", part)) 1 else if (grepl("quarter$", part)) 3 else 12
  shift <- if (fiscal) calendar$fiscal_start - 1 else 0
  if (by > 1) months <- writer$dialect$divide_whole(
    if (shift) paste0(months, " - ", shift) else months, by)
  list(sql = months, part = part, by = by, shift = shift)
}

sql_bucket_key <- function(writer, tree, coarse) {
  key <- sql_bucket(writer, tree)
  calendar <- writer$source$calendar
  if (isTRUE(key$coarse) && !coarse) {
    x <- sql_names(writer, tree)
    return(list(sql = x$sql, coarse = FALSE, coded = coder_of(x)))
  }
  list(sql = key$sql, coarse = isTRUE(key$coarse), coded = function(v) {
    v <- as.numeric(v)
    if (key$part == "weekday") return(code_labels(v - 1, weekday_levels))
    if (key$part %in% time_parts) return(code_time(v * 3600, key$part))
    if (!is.null(key$by)) {
      month <- v * key$by + if (key$by > 1) key$shift else 0
      known <- !is.na(month)
      v[known] <- first_of_month(month[known] %/% 12, month[known] %% 12 + 1)
    }
    code_bucket(v, key$part, calendar)
  })
}
