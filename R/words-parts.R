# What a resolved metric asks of the fold, and its value from what the fold gives back.

# mean(x) is sum(x) / count(x): a mean then rolls up from its two parts.
expand_means <- function(tree) {
  if (tree$kind == "aggregate" && tree$fn == "mean") {
    part <- function(fn) node("aggregate", fn = fn, arg = tree$arg, where = tree$where)
    return(node("op", op = "/", args = list(part("sum"), part("count"))))
  }
  if (tree$kind == "op") tree$args <- lapply(tree$args, expand_means)
  tree
}

# The aggregates of several metrics, each once, named by their text.
parts_of <- function(trees) {
  found <- list()
  walk <- function(tree) {
    if (tree$kind == "aggregate") found[[tree_text(tree)]] <<- tree else lapply(children(tree),
                                                                                walk)
  }
  lapply(lapply(trees, expand_means), walk)
  found
}

# The value of a metric, a scaled vector, from the scaled vectors of its parts.
metric_value <- function(tree, parts) value_of(expand_means(tree), parts)

value_of <- function(tree, parts) {
  switch(tree$kind,
         number = scaled_number(tree$value),
         aggregate = parts[[tree_text(tree)]],
         op = {
           args <- lapply(tree$args, value_of, parts = parts)
           if (length(args) == 2) scaled_arithmetic(tree$op, args[[1]], args[[2]])
           else if (tree$op == "abs") scaled_absolute(args[[1]])
           else scaled_negate(args[[1]])
         })
}

scaled_absolute <- function(x) {
  x$v <- abs(x$v)
  x
}

# Whether a metric's values over the parts of a whole add up to its value over the whole: sums and
# counts, added, subtracted, or multiplied by numbers.
adds_up <- function(tree) {
  switch(tree$kind,
         number = FALSE,
         aggregate = tree$fn %in% c("sum", "count"),
         op = switch(tree$op,
                     `+` = all(vapply(tree$args, adds_up, TRUE)),
                     `-` = all(vapply(tree$args, adds_up, TRUE)),
                     `*` = sum(vapply(tree$args, adds_up, TRUE)) == 1 &&
                       any(vapply(tree$args, is_constant, TRUE)),
                     `/` = adds_up(tree$args[[1]]) && is_constant(tree$args[[2]]), FALSE))
}

is_constant <- function(tree) {
  tree$kind == "number" ||
    tree$kind == "op" && all(vapply(tree$args, is_constant, TRUE))
}

# Whether any part of a metric counts distinct names, and so cannot be rolled up.
has_distinct <- function(tree) {
  counts_distinct(tree) || any(vapply(children(tree), has_distinct, TRUE))
}

# Whether a metric counts distinct names and nothing else: such parts overlap.
counts_distinct <- function(tree) tree$kind == "aggregate" && tree$fn == "distinct"

# money, count, percent or number, from how the metric is made; `money` names the fields that hold
# money.
unit_of <- function(tree, money) {
  switch(tree$kind,
         number = "number",
         aggregate = if (tree$fn %in% c("count", "distinct")) "count" else
           row_unit(tree$arg, money),
         op = {
           units <- vapply(tree$args, unit_of, "", money = money)
           if (tree$op == "/") ratio_unit(units) else combined_unit(units)
         })
}

row_unit <- function(tree, money) {
  switch(tree$kind,
         name = if (tree$name %in% money) "money" else "number",
         op = combined_unit(vapply(tree$args, row_unit, "", money = money)), "number")
}

ratio_unit <- function(units) {
  if (units[1] == "money" && units[2] == "money") return("percent")
  if (units[1] == "count" && units[2] == "count") return("number")
  if (units[1] == "money") "money" else if (units[1] == "percent") "percent" else "number"
}

combined_unit <- function(units) {
  known <- setdiff(units, "number")
  if ("money" %in% units) "money" else if (length(known)) known[1] else "number"
}
