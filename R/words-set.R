# Sets of names: who was active in a period, who is at the top, who stands in the register, joined
# by | (either), & (both) and - (the first without the second).
#
# Nodes:
#   active(when, where)                      names with lines
#   having(metric, op, value, when, where)   names whose metric compares so with a number
#   first(which, metric, count, when, where) the top or bottom so many by a metric
#   registered(where)                        names of the register
#   listed(names)                            names typed
#   saved(name)                              a set of the book or of the question
#   joined(op, args)
# `when` is a period as text or NULL, `where` a condition or NULL. Once resolved against a book,
# saved sets are put in place of their names.

set_functions <- c("active", "having", "top", "bottom", "registered", "c")
set_operators <- c("|", "&", "-")

read_set <- function(x, label) read_tree(x, label, names_node)

names_node <- function(x, context) {
  fn <- called(x)
  if (fn == "(") return(names_node(x[[2]], context))
  if (is.name(x)) return(node("saved", name = enc2utf8(as.character(x))))
  if (is.character(x)) return(node("listed", names = literal_node(x, context)$value))
  if (fn %in% set_operators)
    return(node("joined", op = fn,
                args = lapply(call_args(x, context, 2), names_node, context = context)))
  switch(fn,
         active = period_set_node(x, context, "active"),
         registered = period_set_node(x, context, "registered"),
         having = having_node(x, context), top = , bottom = first_node(x, context),
         c = listed_node(x, context), no_set(x, context))
}

no_set <- function(x, context) {
  if (called(x) == "!")
    refuse(context, "a set has no opposite by itself",
           c(i = "Take it from another: registered() - active(\"2026\")."), word = "!")
  if (called(x) == "+")
    refuse(context, "sets are joined by |, & and -", c(i = "Either of two is written a | b."),
           word = "+")
  refuse_call(x, context, c(set_functions, set_operators), "a set of names")
}

# The arguments of a set's function: list(plain, when, where).
set_arguments <- function(x, context, plain, named = c("when", "where")) {
  fn <- called(x)
  args <- as.list(x)[-1]
  labels <- names(args) %||% rep("", length(args))
  unknown <- setdiff(labels[nzchar(labels)], named)
  if (length(unknown))
    refuse(context, paste0(fn, "() has no argument ", quoted(unknown[1])),
           offer(unknown[1], named, "Arguments"), word = unknown[1])
  own <- args[!nzchar(labels)]
  empty <- vapply(args, function(a) is.name(a) && !nzchar(as.character(a)), TRUE)
  if (!length(own) %in% plain || any(empty) || anyDuplicated(labels[nzchar(labels)]))
    refuse(context, paste0(fn, "() cannot be read"), c(i = set_sample(fn)), word = fn)
  list(plain = own, when = period_text(args$when, context, fn),
       where = if (!is.null(args$where)) condition_node(args$where, context))
}

set_sample <- function(fn) {
  paste0("For example ", switch(fn, active = "active(\"2026\", item == \"HV-001\")",
                                registered = "registered(), registered(type == \"school\")",
                                having = "having(revenue >= 5000, when = \"2025\")",
                                paste0(fn, "(revenue, 50, when = \"2025\")")), ".")
}

period_text <- function(x, context, fn) {
  if (is.null(x)) return(NULL)
  if (is.numeric(x) && length(x) == 1) x <- format_plain(x)
  if (!is.character(x) || length(x) != 1 || is.na(x))
    refuse(context, "a period is a text in quotes", c(i = set_sample(fn)), word = fn)
  as_utf8(x)
}

# active(period, condition) and registered(condition); either may be left out.
period_set_node <- function(x, context, kind) {
  args <- set_arguments(x, context, if (kind == "active") 0:2 else 0:1,
                        if (kind == "active") c("when", "where") else "where")
  for (one in args$plain) {
    is_period <- kind == "active" && !is.call(one) && !is.name(one)
    what <- if (is_period) "when" else "where"
    if (!is.null(args[[what]]))
      refuse(context, paste0(kind, "() takes one period and one condition"), word = kind)
    args[[what]] <- if (is_period) period_text(one, context, kind) else
      condition_node(one, context)
  }
  if (kind == "active") node("active", when = args$when, where = args$where) else
    node("registered", where = args$where)
}

having_node <- function(x, context) {
  args <- set_arguments(x, context, 1)
  test <- args$plain[[1]]
  if (!called(test) %in% comparisons)
    refuse(context, "having() compares a metric with a number", c(i = set_sample("having")),
           word = "having")
  sides <- call_args(test, context, 2)
  node("having", metric = metric_node(sides[[1]], context), op = called(test),
       value = set_number(sides[[2]], context, "having"), when = args$when, where = args$where)
}

# A number, or the name of a parameter.
set_number <- function(x, context, fn) {
  out <- if (called(x) == "-" && length(x) == 2) set_item(x, context) else literal_node(x, context)
  if (!out$kind %in% c("number", "name"))
    refuse(context, paste0(fn, "() needs a number"), c(i = set_sample(fn)), word = fn)
  out
}

first_node <- function(x, context) {
  fn <- called(x)
  args <- set_arguments(x, context, 2)
  node("first", which = fn, metric = metric_node(args$plain[[1]], context),
       count = set_number(args$plain[[2]], context, fn), when = args$when, where = args$where)
}

listed_node <- function(x, context) {
  items <- lapply(as.list(x)[-1], literal_node, context = context)
  if (!length(items) || any(vapply(items, `[[`, "", "kind") != "text"))
    refuse(context, "c() lists names in quotes", c(i = "For example c(\"03085\", \"04893\")."),
           word = "c")
  node("listed", names = vapply(items, `[[`, "", "value"))
}

# Every function of a set, in the order of the text.
set_leaves <- function(tree) {
  if (tree$kind == "joined") return(unlist(lapply(tree$args, set_leaves), recursive = FALSE))
  list(tree)
}

# A set as it can be typed again.
names_text <- function(tree) {
  if (tree$kind == "joined") {
    inner <- Map(function(a, i) {
      text <- names_text(a)
      if (a$kind == "joined" && (a$op != tree$op || i == 2)) paste0("(", text, ")") else text
    }, tree$args, seq_along(tree$args))
    return(paste(inner, collapse = paste0(" ", tree$op, " ")))
  }
  bare <- tree$kind %in% c("active", "registered")
  further <- c(if (!is.null(tree$when)) paste0(if (!bare) "when = ",
                                               text_literal(tree$when)),
               if (!is.null(tree$where)) paste0(if (!bare) "where = ", tree_text(tree$where)))
  call <- function(fn, ...) paste0(fn, "(", paste(c(..., further), collapse = ", "), ")")
  switch(tree$kind,
         saved = name_text(tree$name), listed = set_text(tree$names), active = call("active"),
         registered = call("registered"),
         having = call("having", paste(tree$text %||% tree_text(tree$metric), tree$op,
                                       tree_text(tree$value))),
         first = call(tree$which, tree$text %||% tree_text(tree$metric), tree_text(tree$count)))
}

# The names that a condition's set holds; those of a saved set are looked up once, when asked for.
set_values <- function(set) if (is.null(set$lazy)) set$values else set$lazy$names()

# The saved sets that a resolved tree (condition, metric, row or set) looks into.
sets_in <- function(tree) {
  if (is.null(tree)) return(character())
  if (tree$kind %in% c("active", "having", "first", "registered"))
    return(unique(c(sets_in(tree$metric), sets_in(tree$where))))
  if (tree$kind == "joined") return(unique(unlist(lapply(tree$args, sets_in))))
  if (tree$kind %in% c("saved", "listed")) return(tree$from)
  used <- nodes_where(tree, function(t) t$kind == "within" && !is.null(t$set$name))
  unique(vapply(used, function(t) t$set$name, ""))
}
