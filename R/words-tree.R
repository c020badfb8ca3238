# From text, or a one-sided formula, to a tree of allowed nodes. R's parser splits the words; what
# it gives is read here node by node and never evaluated. Anything not listed is refused.
#
# Nodes, all lists with `kind`:
#   number(value)  text(value)  name(name)  set(values)
#   date(value)                  days since 1970, made from text that is compared with a date
#   op(op, args)                 + - * / and one-sided -, abs
#   aggregate(fn, arg, where)    sum mean count distinct; arg is NULL for count()
#   compare(op, args)            == != < <= > >=
#   within(arg, set)             %in%
#   logic(op, args)              & | !
#   missing(arg)                 is.na
#
# `context` is list(text, label): what the person typed and what it is, for messages.

arithmetic <- c("+", "-", "*", "/")
aggregates <- c("sum", "mean", "count", "distinct")
comparisons <- c("==", "!=", "<", "<=", ">", ">=")

node <- function(kind, ...) list(kind = kind, ...)

# A metric: arithmetic between aggregates, metrics, parameters and numbers.
read_metric <- function(x, label) read_tree(x, label, metric_node)

# A condition on lines.
read_condition <- function(x, label = "condition") read_tree(x, label, condition_node)

read_tree <- function(x, label, reader) {
  context <- list(label = label, text = if (inherits(x, "formula")) formula_text(x) else x)
  reader(r_expression(x, context), context)
}

formula_text <- function(x) paste(deparse(x[[length(x)]], width.cutoff = 500), collapse = " ")

r_expression <- function(x, context) {
  if (inherits(x, "formula")) {
    if (length(x) != 2) refuse(context, "a formula must be one-sided, as in ~ sum(net)")
    return(x[[2]])
  }
  if (!is.character(x) || length(x) != 1 || is.na(x) || !nzchar(trimws(x)))
    ll_abort(c(paste0("The ", context$label, " must be one text or a one-sided formula."),
               x = paste0("It is ", shown(x), ".")), "formula")
  read <- tryCatch(parse(text = x, keep.source = FALSE), error = function(e) {
    why <- sub("^<text>:", "line and character ", strsplit(conditionMessage(e), "\n")[[1]][1])
    refuse(context, paste0("it cannot be read (", why, ")"), hint_single_equals(x))
  })
  if (length(read) != 1) refuse(context, "it must be one expression")
  read[[1]]
}

# The one funnel for what a formula may not hold.
refuse <- function(context, why, ..., word = NULL) {
  at <- if (is.null(word)) NA else regexpr(word, context$text, fixed = TRUE)[[1]]
  where <- if (!is.na(at) && at > 0) paste0(" (character ", at, ")") else ""
  ll_abort(c(paste0("In the ", context$label, ": ", why, where, "."),
             x = fit_text(one_line(context$text), 200), ...), "formula")
}

hint_single_equals <- function(text) {
  if (grepl("(^|[^=!<>])=([^=]|$)",
            text)) c(i = "Equality is written ==, as in territory == \"Moor\".")
}

# The name of the called function, "" where it is no plain name.
called <- function(x) if (is.call(x) && is.name(x[[1]])) as.character(x[[1]]) else ""

call_args <- function(x, context, from, to = from) {
  args <- as.list(x)[-1]
  fn <- called(x)
  if (!is.null(names(args)) && any(nzchar(names(args))))
    refuse(context, paste0(fn, "() takes no named arguments"), word = fn)
  empty <- vapply(args, function(a) is.name(a) && !nzchar(as.character(a)), TRUE)
  if (length(args) < from || length(args) > to || any(empty))
    refuse(context, paste0(quoted(fn), " takes ", if (to == 0) "nothing" else
      plural(to, if (fn %in% c(arithmetic, comparisons)) "side" else "argument")), word = fn)
  args
}

refuse_call <- function(x, context, allowed, what) {
  fn <- called(x)
  if (fn %in% c("=", "<-")) refuse(context, "nothing can be assigned here", hint_single_equals("="))
  if (fn %in% c("&&", "||")) refuse(context, paste0("write ", substr(fn, 1, 1), " for ", fn),
                                    word = fn)
  if (!nzchar(fn)) fn <- fit_text(one_line(paste(deparse(x), collapse = " ")), 40)
  refuse(context, paste0(quoted(fn), " is not allowed in ", what),
         offer(fn, allowed, "Allowed"), word = fn)
}

literal_node <- function(x, context) {
  if (is.name(x)) return(node("name", name = enc2utf8(as.character(x))))
  if (is.numeric(x) && length(x) == 1 && is.finite(x)) return(node("number", value = as.double(x)))
  if (is.character(x) && length(x) == 1 && !is.na(x)) return(node("text", value = as_utf8(x)))
  refuse(context, paste0(shown(x), " is no field, number or text"))
}

# Shared by rows and metrics: arithmetic over what `inner` reads.
arithmetic_node <- function(x, context, inner) {
  fn <- called(x)
  if (fn == "(") return(inner(x[[2]], context))
  one_sided <- fn %in% c("-", "+") && length(x) == 2
  args <- lapply(call_args(x, context, if (one_sided || fn == "abs") 1 else 2), inner,
                 context = context)
  if (one_sided && fn == "+") return(args[[1]])
  node("op", op = fn, args = args)
}

row_node <- function(x, context) {
  if (!is.call(x)) return(literal_node(x, context))
  fn <- called(x)
  if (fn %in% c(arithmetic, "(", "abs")) return(arithmetic_node(x, context, row_node))
  if (fn %in% aggregates)
    refuse(context, paste0(fn, "() cannot stand inside another aggregate or a condition on lines"),
           word = fn)
  refuse_call(x, context, c(arithmetic, "abs"), "a formula over lines")
}

metric_node <- function(x, context) {
  if (!is.call(x)) return(literal_node(x, context))
  fn <- called(x)
  if (fn %in% aggregates) return(aggregate_node(x, context))
  if (fn %in% c(arithmetic, "(", "abs")) return(arithmetic_node(x, context, metric_node))
  refuse_call(x, context, c(aggregates, arithmetic, "abs"), "a metric")
}

aggregate_node <- function(x, context) {
  fn <- called(x)
  args <- call_args(x, context, if (fn == "count") 0 else 1, 1)
  if (!length(args)) return(node("aggregate", fn = fn, arg = NULL, where = NULL))
  inside <- args[[1]]
  where <- NULL
  if (called(inside) == "[") {
    parts <- call_args(inside, context, 2)
    where <- condition_node(parts[[2]], context)
    inside <- parts[[1]]
  }
  arg <- row_node(inside, context)
  if (arg$kind %in% c("number", "text"))
    refuse(context, paste0(fn, "() needs a field"), c(i = "count() counts lines."), word = fn)
  if (fn == "distinct" && arg$kind != "name")
    refuse(context, "distinct() counts the names of one field", word = fn)
  node("aggregate", fn = fn, arg = arg, where = where)
}

condition_node <- function(x, context) {
  fn <- called(x)
  if (fn == "(") return(condition_node(x[[2]], context))
  if (fn %in% c("&", "|", "!")) {
    args <- call_args(x, context, if (fn == "!") 1 else 2)
    return(node("logic", op = fn, args = lapply(args, condition_node, context = context)))
  }
  if (fn == "%in%") {
    args <- call_args(x, context, 2)
    return(node("within", arg = row_node(args[[1]], context), set = set_node(args[[2]], context)))
  }
  if (fn == "is.na")
    return(node("missing", arg = row_node(call_args(x, context, 1)[[1]], context)))
  if (fn %in% comparisons) {
    args <- lapply(call_args(x, context, 2), row_node, context = context)
    return(node("compare", op = fn, args = args))
  }
  if (!is.call(x))
    refuse(context, paste0(shown_word(x), " is no condition"),
           c(i = "A condition compares, as in territory == \"Moor\"."))
  refuse_call(x, context, c(comparisons, "%in%", "&", "|", "!", "is.na"), "a condition")
}

shown_word <- function(x) quoted(fit_text(one_line(paste(deparse(x), collapse = " ")), 40))

set_node <- function(x, context) {
  items <- if (called(x) == "c") lapply(as.list(x)[-1], literal_node, context = context) else
    list(literal_node(x, context))
  kinds <- unique(vapply(items, function(i) i$kind, ""))
  if (length(kinds) != 1 || kinds == "name")
    refuse(context, "%in% needs a set of texts or of numbers, as in c(\"Moor\", \"Fen\")",
           word = "%in%")
  node("set", values = unlist(lapply(items, function(i) i$value)))
}

# Every child of a node, so that walks need not know the kinds.
children <- function(tree) {
  switch(tree$kind, op = , compare = , logic = tree$args,
         aggregate = Filter(Negate(is.null), list(tree$arg, tree$where)),
         within = , missing = list(tree$arg), list())
}

# Names used anywhere in a tree.
names_in <- function(tree) {
  if (is.null(tree)) return(character())
  if (tree$kind == "name") return(tree$name)
  unique(unlist(lapply(children(tree), names_in), use.names = FALSE))
}
