# What a resolved metric asks of the fold, and its value from what the fold gives back.

# The parts behind an aggregate: mean(x) is sum(x) / count(x), which roll up; a deviation and a
# variance come from the same moments.
expand <- function(tree) {
  if (tree$kind == "aggregate" && tree$fn == "mean") {
    part <- function(fn) {
      tree$fn <- fn
      tree
    }
    return(node("op", op = "/", args = list(part("sum"), part("count"))))
  }
  if (tree$kind == "aggregate" && tree$fn %in% c("sd", "var")) {
    of <- tree$fn
    tree$fn <- "moments"
    return(node("moment", of = of, part = tree))
  }
  if (tree$kind == "aggregate" && tree$fn == "median") {
    tree$fn <- "quantile"
    tree$prob <- node("number", value = .5)
  }
  if (tree$kind %in% c("op", "versus")) tree <- with_children(tree, expand)
  tree
}

# The aggregates of several metrics, each once, named by their text.
parts_of <- function(trees) {
  found <- list()
  walk <- function(tree) {
    if (tree$kind == "moment") tree <- tree$part
    if (tree$kind == "aggregate") found[[tree_text(tree)]] <<- tree else
      lapply(children(tree), walk)
  }
  lapply(lapply(trees, expand), walk)
  found
}

# The value of a metric, a scaled vector, from the scaled vectors of its parts; `before` are the
# same parts of the other period, for change() and growth().
metric_value <- function(tree, parts, before = NULL) value_of(expand(tree), parts, before)

value_of <- function(tree, parts, before) {
  switch(tree$kind,
         number = , date = scaled_number(tree$value),
         aggregate = parts[[tree_text(tree)]],
         moment = moment_value(parts[[tree_text(tree$part)]], tree$of),
         versus = versus_value(tree, parts, before),
         op = scaled_op(tree$op, lapply(tree$args, value_of, parts = parts, before = before)))
}

versus_value <- function(tree, parts, before) {
  now <- value_of(tree$arg, parts, NULL)
  if (is.null(before)) return(scaled(rep(NA_real_, length(now$v))))
  was <- value_of(tree$arg, before, NULL)
  if (tree$fn == "change") return(scaled_arithmetic("-", now, was))
  scaled(growth_of(scaled_value(now), scaled_value(was)))
}

# Whether a metric's values over the parts of a whole add up to its value over the whole: sums and
# counts, added, subtracted, or multiplied by numbers. An order may stand in two groups, so what is
# made per order does not add up.
adds_up <- function(tree) {
  switch(tree$kind,
         aggregate = tree$fn %in% c("sum", "count") &&
           (is.null(tree$arg) || tree$arg$kind != "per" || adds_up_per(tree)),
         versus = tree$fn == "change" && adds_up(tree$arg),
         op = switch(tree$op,
                     `+` = , `-` = all(vapply(tree$args, adds_up, TRUE)),
                     `*` = sum(vapply(tree$args, adds_up, TRUE)) == 1 &&
                       any(vapply(tree$args, is_constant, TRUE)),
                     `/` = adds_up(tree$args[[1]]) && is_constant(tree$args[[2]]), FALSE), FALSE)
}

# A sum of sums is a sum however it is cut.
adds_up_per <- function(tree) tree$fn == "sum" && is.null(tree$where) && adds_up(tree$arg$inner)

# The sum of a formula over lines, of all of them.
is_plain_sum <- function(tree) {
  tree$kind == "aggregate" && tree$fn == "sum" && is.null(tree$where) && tree$arg$kind != "per"
}

# The field that a metric is the plain sum of; NULL of others.
summed_field <- function(tree) if (is_plain_sum(tree) && tree$arg$kind == "name") tree$arg$name

is_constant <- function(tree) {
  tree$kind %in% c("number", "date") ||
    tree$kind == "op" && all(vapply(tree$args, is_constant, TRUE))
}

# Whether every part of a metric can be had from the parts of a finer table.
rolls_up <- function(tree) all(vapply(parts_of(list(tree)), adds_over_groups, NA))

# Parts that groups of groups can be made of.
adds_over_groups <- function(part) {
  part$fn %in% c("sum", "count", "min", "max", "moments") &&
    (is.null(part$arg) || part$arg$kind != "per")
}

# Whether a metric counts distinct names and nothing else: such parts overlap.
counts_distinct <- function(tree) {
  tree$kind == "aggregate" && (tree$fn == "distinct" || counts_per(tree) && is.null(tree$where))
}

counts_per <- function(tree) {
  tree$kind == "aggregate" && tree$fn == "count" && !is.null(tree$arg) && tree$arg$kind == "per"
}

# Whether a metric is 0, not missing, where there are no lines.
zero_without_lines <- function(tree) adds_up(tree) || counts_distinct(tree) || counts_per(tree)

needs_against <- function(tree) has_kind(tree, "versus")

# The mean of a quotient of lines: a ratio of totals is usually meant.
averages_ratios <- function(tree) {
  means <- nodes_where(tree, function(t) t$kind == "aggregate" && t$fn == "mean")
  divides <- function(t) t$kind == "op" && t$op == "/" && length(names_in(t$args[[2]])) > 0
  any(vapply(means, function(m) length(nodes_where(m$arg, divides)) > 0, TRUE))
}

# Whether a metric averages or divides, so that its value may rest on very little.
averages <- function(tree) {
  length(nodes_where(tree, function(t) {
    t$kind == "op" && t$op == "/" && has_kind(t$args[[2]], "aggregate") ||
      t$kind == "versus" && t$fn == "growth" ||
      t$kind == "aggregate" && t$fn %in% c("mean", "median", "quantile", "sd", "var")
  })) > 0
}
