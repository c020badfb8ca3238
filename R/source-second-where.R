# Conditions on the second route, in base R over the raw columns; see source-second.R.

second_condition <- function(source, tree) {
  few <- second_few(source, tree)
  if (!is.null(few)) {
    out <- few$passes[if (few$before) few$at - few$before else few$at]
    if (anyNA(out)) out[is.na(out)] <- FALSE
    return(out)
  }
  row <- function(t) second_row(source, t)
  out <- switch(tree$kind,
                logic = {
                  args <- lapply(tree$args, second_condition, source = source)
                  switch(tree$op, `!` = !args[[1]], `&` = args[[1]] & args[[2]],
                         `|` = args[[1]] | args[[2]])
                },
                missing = is.na(row(tree$arg)),
                within = second_within(source, tree$arg, stats::na.omit(set_values(tree$set))),
                since = {
                  of <- second_names(source, tree$arg)
                  row(tree$date) >= tree$from[match(of$names, tree$names)][of$at]
                },
                match = second_match(tree, row(tree$arg)),
                compare = second_compare(tree$op, row(tree$args[[1]]), row(tree$args[[2]]),
                                 second_slack(source, tree)))
  if (anyNA(out)) out[is.na(out)] <- FALSE
  for_lines(source, out)
}

# A condition that is judged for each day or name of one field: list(at, before, passes), the place
# of each line among them beyond `before`. NULL for others.
second_few <- function(source, tree) {
  date <- only_date(source, tree)
  if (!is.null(date)) {
    of <- second_days(source, date)
    return(list(at = of$at, before = of$before,
                passes = second_condition(day_source(source, date, of$days), tree)))
  }
  if (tree$kind == "compare" && is_name_field(source, tree$args[[1]]) &&
        tree$args[[2]]$kind == "text") {
    of <- second_names(source, tree$args[[1]])
    value <- tree$args[[2]]$value
    return(list(at = of$at, before = 0L, passes = switch(
      tree$op, `==` = second_named(source, of$names, value),
      `!=` = !second_named(source, of$names, value), second_compare(tree$op, of$names, value))))
  }
  if (tree$kind == "match" && is_name_field(source, tree$arg)) {
    of <- second_names(source, tree$arg)
    return(list(at = of$at, before = 0L, passes = second_match(tree, of$names)))
  }
  raw <- if (tree$kind == "within" && tree$arg$kind == "name") raw_field(source, tree$arg$name)
  if (!is.factor(raw)) return(NULL)
  values <- stats::na.omit(set_values(tree$set))
  list(at = raw, before = 0L, passes = second_named(source, levels(raw), values[!is_blank(values)]))
}

second_match <- function(tree, text) {
  if (tree$fn == "contains") regexpr(tree$text, text, fixed = TRUE) > 0 else
    substr(text, 1, nchar(tree$text)) == tree$text
}

# Whether names are among some values; a few are looked for sooner than many names are hashed.
second_named <- function(source, names, values) {
  if (second_loops(source) && length(values) <= 8)
    return(kernel_second_named(names, as_utf8(values)))
  names %in% values
}

# Which of the lines that are `left` (all for NULL) meet a condition, and how many: list(keep,
# count).
second_meets <- function(source, tree, left) {
  few <- if (second_loops(source)) second_few(source, tree)
  if (!is.null(few)) return(kernel_second_meets(few$at, few$before, few$passes, left))
  if (second_loops(source) && tree$kind == "logic" && tree$op == "&") {
    for (arg in tree$args) {
      out <- second_meets(source, arg, left)
      left <- out$keep
    }
    return(out)
  }
  keep <- second_condition(source, tree)
  if (!is.null(left)) keep <- left & keep
  list(keep = keep, count = sum(keep))
}

# The date field that a comparison is about and nothing else; such are judged once for each day.
only_date <- function(source, tree) {
  if (!tree$kind %in% c("compare", "logic") || isTRUE(source$by_day)) return(NULL)
  names <- names_in(tree)
  if (length(names) != 1 || field_at(source, names)$type != "date" ||
      length(nodes_where(tree, function(t) t$kind == "bucket"))) return(NULL)
  names
}

# Days as a source of their own.
day_source <- function(source, name, days) {
  out <- new_frame_source(list(days), data.frame(name = name, column = 1, from = "lines",
                                                 type = "date"), calendar = source$calendar)
  out$by_day <- TRUE
  out
}

# Many names are looked up once for each name; one value is compared sooner than looked up.
second_within <- function(source, arg, values) {
  if (is.numeric(values)) {
    row <- second_row(source, arg)
    slack <- second_slack(source, arg, values)
    if (identical(slack, list(relative = 0))) return(row %in% values)
    return(Reduce(`|`, lapply(values, second_compare, op = "==", a = row, slack = slack), FALSE))
  }
  if (length(values) == 1) return(second_row(source, arg) == values)
  of <- second_names(source, arg)
  (of$names %in% values)[of$at]
}

# How computed numbers are compared, with each other or with `values`: list(places) where they are
# decimals, which doubles hold to a fraction of the last place; else list(relative), how far apart
# they may be and still be equal: for quotients 1e-9, as said in the reference; for other arithmetic
# what doubles lose.
second_slack <- function(source, tree, values = NULL) {
  made <- nodes_where(tree, function(t) t$kind == "op" || isTRUE(t$inner))
  if (!length(made)) return(list(relative = 0))
  sides <- if (tree$kind == "compare") tree$args else list(tree)
  decimals <- lapply(sides, second_decimals, source = source)
  if (length(values)) decimals <- c(decimals, list(decimals_of(values)))
  if (!any(vapply(decimals, is.null, NA)))
    return(list(decimals = max(vapply(decimals, `[[`, 0, "decimals"))))
  ops <- vapply(made, function(t) t$op %||% "/", "")
  list(relative = if ("/" %in% ops) 1e-9 else 1e-13)
}

# list(places, most): the decimal places of a row formula's values and the largest there may be, in
# units of the last place; NULL where they are no decimals that doubles hold apart.
second_decimals <- function(source, tree) {
  fits <- function(decimals, most) {
    if (most < 2^53 && decimals <= 12) list(decimals = decimals, most = most)
  }
  if (tree$kind %in% c("number", "date")) return(decimals_of(tree$value))
  if (tree$kind == "computed") return(second_decimals(source, tree$tree))
  if (tree$kind == "name") {
    if (isTRUE(tree$inner)) return(source$inner)
    if (is.null(source$decimals[[tree$name]]))
      source$decimals[[tree$name]] <- list(decimals_of(second_field(source, tree$name)))
    return(source$decimals[[tree$name]][[1]])
  }
  if (!tree$kind %in% c("op", "choose") || identical(tree$op, "/")) return(NULL)
  args <- lapply(tree$args, second_decimals, source = source)
  if (any(vapply(args, is.null, NA))) return(NULL)
  if (length(args) == 1) return(args[[1]])
  decimals <- vapply(args, `[[`, 0, "decimals")
  most <- vapply(args, `[[`, 0, "most")
  if (identical(tree$op, "*")) return(fits(sum(decimals), prod(most)))
  up <- most * 10^(max(decimals) - decimals)
  fits(max(decimals), if (tree$op %||% "" %in% c("+", "-")) sum(up) else max(up))
}

# The same of values at hand; six places at most.
decimals_of <- function(x) {
  x <- x[!is.na(x)]
  for (decimals in 0:6) {
    whole <- round(x * 10^decimals)
    if (all(whole / 10^decimals == x)) {
      most <- max(abs(whole), 0)
      return(if (most < 2^53) list(decimals = decimals, most = most))
    }
  }
  NULL
}

# Text has the order of its bytes.
second_compare <- function(op, a, b, slack = list(relative = 0)) {
  if (is.character(a) || is.character(b)) {
    if (op %in% c("==", "!=")) return(do.call(op, list(a, b)))
    order <- sort(unique(c(a, b)), method = "radix")
    return(do.call(op, list(match(a, order), match(b, order))))
  }
  if (!is.null(slack$decimals))
    return(do.call(op, list(round(a * 10^slack$decimals), round(b * 10^slack$decimals))))
  if (!slack$relative) return(do.call(op, list(a, b)))
  near <- a == b | abs(a - b) <= slack$relative * pmax(abs(a), abs(b))
  switch(op, `==` = near, `!=` = !near, `<` = a < b & !near, `>` = a > b & !near,
         `<=` = a < b | near, `>=` = a > b | near)
}
