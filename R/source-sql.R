# Trees of the languages as SQL text: formulas over lines. A writer holds the source, its dialect
# and the joins that a statement needs; what cannot be written is refused with `no_sql`, and the
# lines are brought instead.
#
# An expression is list(sql, type, places, largest): type number, text, date or empty. Numbers
# with `places` are whole numbers of 10^-places, as in core-scaled.R, none larger than `largest`;
# dates are days since 1970, with `date` the same as the engine's date where there is one. Text that
# the engine keeps as numbers is marked `numeric`.

# `plain` writes the second route: numbers as the engine has them, not as whole numbers.
sql_writer <- function(source, plain = FALSE) {
  w <- new.env(parent = emptyenv())
  w$source <- source
  w$dialect <- source$dialect
  w$plain <- plain
  w$joins <- character()
  w
}

no_sql <- function(...) {
  stop(structure(class = c("no_sql", "error", "condition"),
                 list(message = paste0(...), call = NULL)))
}

expression_of <- function(sql, type, places = NA_integer_, largest = Inf, ...) {
  list(sql = sql, type = type, places = places, largest = largest, ...)
}

sql_row <- function(w, tree) {
  switch(tree$kind,
         number = sql_number(w, tree$value),
         date = expression_of(number_literal(tree$value), "date", 0L, abs(tree$value)),
         text = expression_of(quoted_text(w, tree$value), "text"),
         name = if (isTRUE(tree$inner)) w$it else sql_field(w, tree$name),
         computed = sql_row(w, tree$tree),
         op = sql_op(w, tree$op, lapply(tree$args, sql_row, w = w)),
         choose = sql_choice(w, tree),
         sql_names(w, tree))
}

sql_number <- function(w, value) {
  exact <- scaled_number(value)
  if (!is_exact(exact) || w$plain) return(expression_of(double_literal(value), "number"))
  expression_of(number_literal(exact$v), "number", exact$places, exact$largest)
}

sql_field <- function(w, name) {
  field <- field_at(w$source, name)
  if (field$from != "lines") return(sql_register(w, field))
  sql_column(w, w$source$columns[[field$column]], field$type)
}

sql_column <- function(w, column, type) {
  d <- w$dialect
  x <- quoted_name(w$source$con, column$name)
  switch(type,
         number = sql_measure(w, column, x),
         date = {
           days <- column$storage == "days"
           date <- d$date(column_text(w, column, x), column$storage, w$source$zone)
           # Days that are numbers are compared as such.
           expression_of(if (days) d$whole(x) else d$day_number(date), "date", 0L, 4e6,
                         date = date, days = days,
                         hour = function() d$hour(x, column$storage, w$source$zone))
         },
         empty = expression_of(d$text("NULL"), "empty"),
         text = switch(column$storage,
                       text = expression_of(column_text(w, column, d$binary(x)), "text"),
                       flag = expression_of(paste0("CASE WHEN ", x, " THEN 'TRUE' WHEN NOT ", x,
                                                   " THEN 'FALSE' END"), "text"),
                       whole = , decimal = , double = {
                         out <- sql_measure(w, column, x)
                         out$type <- "text"
                         out$numeric <- TRUE
                         out
                       },
                       expression_of(d$text(d$date(x, column$storage, w$source$zone)), "text")))
}

# Blank text is missing text.
column_text <- function(w, column, x) {
  if (!isTRUE(column$blank)) return(x)
  paste0("CASE WHEN ", w$dialect$bare(x), " = '' THEN NULL ELSE ", x, " END")
}

sql_measure <- function(w, column, x) {
  d <- w$dialect
  if (isTRUE(column$nan)) x <- paste0("CASE WHEN ", d$is_nan(x), " THEN NULL ELSE ", x, " END")
  if (is.na(column$places) || w$plain)
    return(expression_of(d$double(x), "number", raw = x))
  scaled <- switch(column$storage, whole = x, decimal = paste0(x, power_text(column$places)),
                   paste0("ROUND(", x, power_text(column$places, "e0"), ")"))
  expression_of(d$whole(scaled), "number", column$places, column$largest, raw = x)
}

power_text <- function(places, ending = "") {
  if (places) paste0(" * ", sprintf("%.0f", 10^places), ending) else ""
}

# A register's field for each line: looked up by its key.
sql_register <- function(w, field) {
  map <- name_map(w$source, node("name", name = field$name))
  sql_through(w, map, if (field$type == "date") "date" else field$type)
}

# The values of a map of names, for each line, as an expression.
sql_through <- function(w, map, type) {
  base <- sql_row(w, map$arg)
  if (type == "empty") return(expression_of(w$dialect$text("NULL"), "empty"))
  if (type == "text") {
    values <- plain_key(map$values)
    known <- !is_blank(values)
    return(expression_of(sql_lookup(w, base, map$names[known], quoted_text(w, values[known]),
                                    TRUE), "text"))
  }
  values <- scale_column(as.numeric(map$values))
  known <- !is.na(values$v)
  if (w$plain) values <- scaled(scaled_value(values))
  literals <- if (is_exact(values)) number_literal(values$v[known]) else
    double_literal(values$v[known])
  expression_of(sql_lookup(w, base, map$names[known], literals, FALSE), type, values$places,
                if (is_exact(values)) values$largest else Inf)
}

# The literal of each name's value; missing for other names.
sql_lookup <- function(w, base, names, literals, text) {
  literal <- name_literals(w, base, names)
  names <- literal$sql
  literals <- literals[literal$known]
  if (!length(names)) return(if (text) w$dialect$text("NULL") else w$dialect$double("NULL"))
  if (length(unique(literals)) <= 12) return(sql_cases(base$sql, names, literals))
  if (!is.null(w$dialect$transform)) return(w$dialect$transform(base, names, literals, text))
  alias <- paste0("ll_j", length(w$joins) + 1)
  w$joins <- c(w$joins, paste0("LEFT JOIN ", w$dialect$lookup(alias, names, literals), " ON ",
                               alias, "_n = ", base$sql))
  paste0(alias, "_v")
}

# Few values of many names.
sql_cases <- function(base, names, literals) {
  groups <- split(names, factor(literals, unique(literals)))
  paste0("CASE ", paste0("WHEN ", base, " IN (", vapply(groups, paste, "", collapse = ", "),
                         ") THEN ", base::names(groups), collapse = " "), " END")
}

# Names as the engine keeps them: list(sql, known), known telling those that it can hold.
name_literals <- function(w, base, names) {
  if (!isTRUE(base$numeric)) {
    if (base$type == "date") {
      days <- as.numeric(as_iso_date(names))
      known <- !is.na(days)
      return(list(sql = number_literal(days[known]), known = known))
    }
    return(list(sql = quoted_text(w, names), known = rep(TRUE, length(names))))
  }
  value <- suppressWarnings(as.numeric(names))
  known <- !is.na(value) & format_plain(ifelse(is.na(value), 0, value)) == names
  if (is.na(base$places)) return(list(sql = double_literal(value[known]), known = known))
  whole <- whole_limits(value[known], base$places)
  fits <- whole == round(whole)
  known[known] <- fits
  list(sql = number_literal(whole[fits]), known = known)
}

# Names made of names, dates or numbers: as text.
sql_names <- function(w, tree) {
  if (tree$kind == "band")
    return(expression_of(sql_band(w, tree, quoted_text(w, tree$labels)), "text"))
  if (tree$kind == "bucket") return(sql_bucket_names(w, tree))
  map <- name_map(w$source, tree)
  if (is.null(map)) no_sql("a formula of the kind ", tree$kind)
  sql_through(w, map, "text")
}

# The name of each line's part of a date or time, looked up by its hour or its day.
sql_bucket_names <- function(w, tree) {
  if (tree$arg$kind != "name") no_sql("parts of computed dates as text")
  if (tree$part == "hour")
    return(expression_of(sql_cases(sql_bucket(w, tree)$sql, as.character(0:23),
                                   quoted_text(w, sprintf("%02d", 0:23))), "text"))
  days <- source_days(w$source, tree$arg$name)
  labels <- bucket_labels(as.numeric(days), tree$part, w$source$calendar)
  expression_of(sql_lookup(w, sql_row(w, tree$arg), format(days), quoted_text(w, labels), TRUE),
                "text")
}

# The number of bounds that each value has reached, or a literal for each number from 0.
sql_band <- function(w, tree, literals = seq_along(tree$labels) - 1) {
  x <- sql_row(w, tree$arg)
  exact <- is_exact(x)
  bounds <- if (exact) number_literal(whole_limits(tree$bounds, x$places)) else
    double_literal(tree$bounds)
  value <- if (exact) x$sql else paste0("(", x$sql, " + abs(", x$sql, ") * 1e-9)")
  paste0("CASE ", paste0("WHEN ", value, " >= ", rev(bounds), " THEN ",
                         rev(literals[-1]), collapse = " "),
         " WHEN ", x$sql, " IS NOT NULL THEN ", literals[1], " END")
}

sql_choice <- function(w, tree) {
  test <- sql_where(w, tree$test)
  sides <- lapply(tree$args, sql_row, w = w)
  sides <- if (tree$type == "text") lapply(sides, as_text_expression, w = w) else
    sql_alike(w, sides[[1]], sides[[2]])
  out <- sides[[1]]
  expression_of(paste0("CASE WHEN ", test, " THEN ", out$sql, " ELSE ", sides[[2]]$sql, " END"),
                tree$type, out$places, max(out$largest, sides[[2]]$largest))
}

# Numbers that are names, as the text that people would type.
as_text_expression <- function(x, w) {
  if (!isTRUE(x$numeric)) return(x)
  if (is.na(x$places) || x$places > 0) no_sql("names that are numbers with decimals")
  expression_of(w$dialect$text(x$sql), "text")
}

sql_op <- function(w, op, args) {
  type <- arithmetic_type(op, vapply(args, `[[`, "", "type"))
  a <- args[[1]]
  if (op == "abs")
    return(expression_of(paste0("abs(", a$sql, ")"), type, a$places, a$largest))
  if (length(args) == 1)
    return(expression_of(paste0("-(", a$sql, ")"), type, a$places, a$largest))
  b <- args[[2]]
  out <- switch(op, `+` = , `-` = sql_add(w, op, a, b), `*` = sql_multiply(w, a, b),
                `/` = expression_of(paste0("(", as_double(w, a), ") / NULLIF(", as_double(w, b),
                                           ", 0)"), "number"),
                pmin = , pmax = sql_pick(w, op, a, b))
  out$type <- type
  out$sql <- paste0("(", out$sql, ")")
  out
}

# The value itself, as a double.
as_double <- function(w, x) {
  if (!is_exact(x)) return(x$sql)
  paste0(w$dialect$double(x$sql), if (x$places) paste0(" / ", sprintf("%.0f", 10^x$places), "e0"))
}

as_inexact <- function(w, x) expression_of(as_double(w, x), x$type)

# Two expressions at the same places; at none where they would not fit.
sql_alike <- function(w, a, b) {
  if (is_exact(a) && is_exact(b)) {
    places <- max(a$places, b$places)
    up <- function(x) {
      step <- places - x$places
      if (!step) return(x)
      expression_of(paste0("(", x$sql, ")", power_text(step)), x$type, places, x$largest * 10^step)
    }
    up <- list(up(a), up(b))
    if (max(up[[1]]$largest, up[[2]]$largest) < whole_limit) return(up)
  }
  list(as_inexact(w, a), as_inexact(w, b))
}

sql_add <- function(w, op, a, b) {
  both <- sql_alike(w, a, b)
  largest <- both[[1]]$largest + both[[2]]$largest
  if (is_exact(both[[1]]) && largest >= whole_limit)
    both <- list(as_inexact(w, a), as_inexact(w, b))
  expression_of(paste0(both[[1]]$sql, " ", op, " ", both[[2]]$sql), "number", both[[1]]$places,
                if (is_exact(both[[1]])) largest else Inf)
}

sql_multiply <- function(w, a, b) {
  if (is_exact(a) && is_exact(b)) {
    largest <- a$largest * b$largest
    places <- a$places + b$places
    if (largest < whole_limit && places <= 2 * most_places)
      return(expression_of(paste0(a$sql, " * ", b$sql), "number", places, largest))
  }
  expression_of(paste0(as_double(w, a), " * ", as_double(w, b)), "number")
}

# The smaller or larger; missing where either is.
sql_pick <- function(w, op, a, b) {
  both <- sql_alike(w, a, b)
  x <- both[[1]]$sql
  y <- both[[2]]$sql
  sign <- if (op == "pmax") c(" >= ", " > ") else c(" <= ", " < ")
  expression_of(paste0("CASE WHEN ", x, sign[1], y, " THEN ", x, " WHEN ", y, sign[2], x, " THEN ",
                       y, " END"), "number", both[[1]]$places,
                max(both[[1]]$largest, both[[2]]$largest))
}

# A part of a date as a number: its first day, its month, or the weekday or hour itself.
sql_bucket <- function(w, tree) {
  x <- sql_row(w, tree$arg)
  calendar <- w$source$calendar
  part <- tree$part
  if (part == "hour") {
    if (is.null(x$hour)) no_sql("hours of computed times")
    return(list(sql = x$hour(), part = part))
  }
  weekday <- paste0("((", x$sql, " + 3) % 7 + 7) % 7")
  if (part == "weekday") return(list(sql = paste0(weekday, " + 1"), part = part))
  if (part == "week") return(list(sql = paste0(x$sql, " - ", weekday), part = part))
  fiscal <- startsWith(part, "fiscal")
  if (part == "day" || fiscal && !is.null(calendar$weeks))
    return(list(sql = x$sql, part = part, coarse = part != "day"))
  date <- x$date %||% w$dialect$from_day_number(x$sql)
  months <- w$dialect$month_number(date)
  by <- if (grepl("month$", part)) 1 else if (grepl("quarter$", part)) 3 else 12
  shift <- if (fiscal) calendar$fiscal_start - 1 else 0
  if (by > 1) months <- w$dialect$divide_whole(
    if (shift) paste0(months, " - ", shift) else months, by)
  list(sql = months, part = part, by = by, shift = shift)
}

sql_bucket_key <- function(w, tree, coarse) {
  key <- sql_bucket(w, tree)
  calendar <- w$source$calendar
  if (isTRUE(key$coarse) && !coarse) {
    x <- sql_names(w, tree)
    return(list(sql = x$sql, coarse = FALSE, coded = coder_of(x)))
  }
  list(sql = key$sql, coarse = isTRUE(key$coarse), coded = function(v) {
    v <- as.numeric(v)
    if (key$part == "weekday") return(code_labels(v - 1, weekday_levels))
    if (key$part == "hour") return(code_labels(v, sprintf("%02d", 0:23)))
    if (!is.null(key$by)) {
      month <- v * key$by + if (key$by > 1) key$shift else 0
      known <- !is.na(month)
      v[known] <- first_of_month(month[known] %/% 12, month[known] %% 12 + 1)
    }
    code_bucket(v, key$part, calendar)
  })
}
