# Formulas over one line: arithmetic between its fields, choices, parts of its dates.

# A computed field.
read_row <- function(x, label) read_tree(x, label, row_node)

# Shared by rows and metrics: arithmetic over what `inner` reads.
arithmetic_node <- function(x, context, inner) {
  fn <- called(x)
  if (fn == "(") return(inner(x[[2]], context))
  row <- if (fn %in% arithmetic)
    chain_terms(x, if (fn %in% c("+", "-")) c("+", "-") else c("*", "/"))
  if (length(row$terms) > long_chain) return(arithmetic_chain(row, context, inner))
  if (signs_before(x) > 1) return(signed_node(x, context, inner))
  one_sided <- fn %in% c("-", "+") && length(x) == 2
  args <- lapply(call_args(x, context, if (one_sided || fn == "abs") 1 else 2), inner,
                 context = context)
  if (one_sided && fn == "+") return(args[[1]])
  # A literal with its sign is one number.
  if (one_sided && args[[1]]$kind == "number") return(node("number", value = -args[[1]]$value))
  node("op", op = fn, args = args)
}

# Many terms put together by halves. Each half keeps the sign that stood before it: of two that are
# taken away the sum is.
arithmetic_chain <- function(row, context, inner) {
  plain <- row$signs[1]
  parts <- Map(function(x, sign) list(node = inner(x, context), plain = sign == plain), row$terms,
               row$signs)
  turned <- setdiff(row$signs, plain)
  join <- function(a, b) {
    sides <- if (a$plain || !b$plain) list(a$node, b$node) else list(b$node, a$node)
    op <- if (a$plain == b$plain) plain else turned
    list(node = node("op", op = op, args = sides), plain = a$plain || b$plain)
  }
  halves(parts, join)$node
}

# How many minus signs stand before a term, up to two.
signs_before <- function(x) {
  one <- function(x) called(x) == "-" && length(x) == 2
  if (!one(x)) 0 else if (one(x[[2]])) 2 else 1
}

# Several signs before a term: two are none.
signed_node <- function(x, context, inner) {
  while (signs_before(x) > 1) x <- x[[2]][[2]]
  inner(x, context)
}

plain_functions <- c(arithmetic, "(", "abs", "pmin", "pmax")

row_node <- function(x, context) {
  if (!is.call(x)) return(literal_node(x, context))
  fn <- called(x)
  if (fn %in% plain_functions) return(arithmetic_node(x, context, row_node))
  if (fn == "ifelse") return(choose_node(x, context))
  if (fn == "as_of") return(as_of_node(x, context))
  if (fn %in% date_parts)
    return(node("bucket", part = fn, arg = row_node(call_args(x, context, 1)[[1]], context)))
  if (fn %in% aggregates)
    refuse(context, paste0(fn, "() cannot stand inside another aggregate or a condition on lines"),
           c(i = "per(order_no, sum(net)) adds up within each order first."), word = fn)
  refuse_call(x, context, c(arithmetic, row_functions, date_parts), "a formula over lines")
}

choose_node <- function(x, context) {
  args <- call_args(x, context, 3)
  node("choose", test = condition_node(args[[1]], context),
       args = lapply(args[2:3], row_node, context = context))
}

as_of_node <- function(x, context) {
  call_args(x, context, 0)
  node("as_of")
}

# How far numbers that are no exact decimals may be apart and still be equal, relative: quotients,
# and what was added up within per(), 1e-9, as said in the reference; other arithmetic what doubles
# lose; fields and literals as they stand nothing.
row_slack <- function(tree) {
  made <- nodes_where(tree, function(t) t$kind == "op" || isTRUE(t$inner))
  ops <- vapply(made, function(t) t$op %||% "per", "")
  if (any(c("/", "per") %in% ops)) 1e-9 else if (length(ops)) 1e-13 else 0
}
