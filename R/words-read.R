# From text, or a one-sided formula, to a tree of allowed nodes. R's parser splits the words; what
# it gives is read node by node (rows, metrics, conditions each in a file of their own) and never
# evaluated. Anything not listed is refused.
#
# Nodes, all lists with `kind`:
#   number(value)  text(value)  name(name)  set(values), or set(name) of a saved set
#   date(value)                  days since 1970, made from text that is compared with a date
#   as_of                        the book's date
#   op(op, args)                 + - * / and one-sided -, abs, pmin, pmax
#   choose(test, args)           ifelse
#   bucket(part, arg)            a part of a date as a name: month(day)
#   aggregate(fn, arg, where, prob)  arg is NULL for count(); prob is quantile's
#   per(by, inner)               inside an aggregate: a metric of each name of a field
#   versus(fn, arg)              change and growth of a metric against the other period
#   compare(op, args)            == != < <= > >=
#   within(arg, set)             %in%
#   match(fn, arg, text)         contains, startsWith
#   logic(op, args)              & | !
#   missing(arg)                 is.na
# and, put in place of names when they are resolved against a book:
#   computed(name, tree, type)   a computed field
#   since(arg, date, names, from)  lines of a name on or after its own day
#   mapped(name, arg, map)         a word for each name; map holds names and to
#   band(name, arg, bounds, labels)            a band of a row formula
#   banded(name, each, metric, scope, bounds, labels)  a band of the metric of a name
#
# `context` is list(text, label): what the person typed and what it is, for messages.

arithmetic <- c("+", "-", "*", "/")
row_functions <- c("abs", "pmin", "pmax", "ifelse", "as_of")
date_parts <- c("day", "week", "month", "quarter", "year", "fiscal_month", "fiscal_quarter",
                "fiscal_year", "weekday", "hour", "part_of_day")
aggregates <- c("sum", "mean", "min", "max", "median", "quantile", "sd", "var", "count", "distinct")
comparisons <- c("==", "!=", "<", "<=", ">", ">=")

node <- function(kind, ...) list(kind = kind, ...)

read_tree <- function(x, label, reader) {
  context <- list(label = label, text = if (inherits(x, "formula")) formula_text(x) else as_utf8(x))
  reader(r_expression(x, context), context)
}

formula_text <- function(x) paste(deparse(x[[length(x)]], width.cutoff = 500), collapse = " ")

r_expression <- function(x, context) {
  if (inherits(x, "formula")) {
    if (length(x) != 2) refuse(context, "a formula must be one-sided, as in ~ sum(net)")
    return(not_too_deep(x[[2]], context))
  }
  if (!is.character(x) || length(x) != 1 || is.na(x) || !nzchar(trimmed(x)))
    ll_abort(c(paste0("The ", context$label, " must be one text or a one-sided formula."),
               x = paste0("It is ", shown(x), ".")), "formula")
  read <- tryCatch(parse(text = as_utf8(x), keep.source = FALSE), error = function(e) {
    why <- sub("^<text>:", "line and character ", strsplit(conditionMessage(e), "\n")[[1]][1])
    refuse(context, paste0("it cannot be read (", why, ")"),
           c(hint_single_equals(x), hint_blank_names(x)))
  })
  if (length(read) != 1) refuse(context, "it must be one expression")
  not_too_deep(read[[1]], context)
}

most_nested <- 60

# Refuses what is nested deeper than anybody reads; a row of terms with one sign between them is as
# deep as one, since it is read as a row (see chain_terms).
not_too_deep <- function(x, context) {
  waiting <- list(list(x, 0L))
  while (length(waiting)) {
    last <- waiting[[length(waiting)]]
    waiting[[length(waiting)]] <- NULL
    call <- last[[1]]
    if (!is.call(call)) next
    if (last[[2]] > most_nested)
      refuse(context, paste("it is nested more than", most_nested, "deep"))
    chain <- called(call) %in% c(arithmetic, "&", "|", "!")
    # The first side of a chain is walked along; what is nested on the other counts.
    sides <- as.list(call)[-1]
    deep <- last[[2]] + c(if (chain) 0L else 1L, rep(1L, max(length(sides) - 1, 0)))
    if (is.call(call[[1]])) waiting <- c(waiting, list(list(call[[1]], last[[2]] + 1L)))
    for (i in seq_along(sides)) if (is.call(sides[[i]]))
      waiting[[length(waiting) + 1]] <- list(sides[[i]], deep[i])
  }
  x
}

# The terms of a row such as a + b - c, which R reads as ((a + b) - c): list(terms, signs), the sign
# before each.
chain_terms <- function(x, signs) {
  terms <- list()
  before <- character()
  while (called(x) %in% signs && length(x) == 3) {
    terms[[length(terms) + 1]] <- x[[3]]
    before[length(terms)] <- called(x)
    x <- x[[2]]
  }
  list(terms = rev(c(terms, list(x))), signs = rev(c(before, signs[1])))
}

# From this many terms on a row is put together by halves, so that thousands are no deeper than a
# dozen. Shorter ones stay in the order of the text, which tells how they are rounded.
long_chain <- 30

# `join` makes one of two neighbours.
halves <- function(nodes, join) {
  while (length(nodes) > 1) {
    odd <- if (length(nodes) %% 2) nodes[length(nodes)]
    pairs <- seq(1, length(nodes) - 1, 2)
    nodes <- c(lapply(pairs, function(i) join(nodes[[i]], nodes[[i + 1]])), odd)
  }
  nodes[[1]]
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

# Names of several words stand in backticks.
hint_blank_names <- function(text) {
  at <- regmatches(text, regexpr("[[:alpha:]][[:alnum:]_.%]*( +[[:alpha:]][[:alnum:]_.%]*)+", text))
  if (length(at) && !grepl("[`\"']", text))
    c(i = paste0("A name of several words stands in backticks: ",
                 sub(at, paste0("`", at, "`"), text, fixed = TRUE)))
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
  # A column of TRUE and FALSE is held as those two names.
  if (is.logical(x) && length(x) == 1 && !is.na(x)) return(node("text", value = as.character(x)))
  refuse(context, paste0(shown(x), " is no field, number or text"))
}

# Every child of a node, so that walks need not know the kinds.
children <- function(tree) {
  switch(tree$kind, op = , compare = , logic = tree$args,
         choose = c(list(tree$test), tree$args), computed = list(tree$tree),
         aggregate = Filter(Negate(is.null), list(tree$arg, tree$where)),
         per = list(tree$by, tree$inner), banded = list(tree$each, tree$metric),
         within = , missing = , bucket = , match = , versus = , band = , mapped = ,
         since = list(tree$arg), list())
}

# A tree with each child seen to by f.
with_children <- function(tree, f) {
  switch(tree$kind,
         op = , compare = , logic = tree$args <- lapply(tree$args, f),
         choose = {
           tree$test <- f(tree$test)
           tree$args <- lapply(tree$args, f)
         },
         computed = tree$tree <- f(tree$tree),
         aggregate = {
           if (!is.null(tree$arg)) tree$arg <- f(tree$arg)
           if (!is.null(tree$where)) tree$where <- f(tree$where)
         },
         per = {
           tree$by <- f(tree$by)
           tree$inner <- f(tree$inner)
         },
         banded = {
           tree$each <- f(tree$each)
           tree$metric <- f(tree$metric)
         },
         within = , missing = , bucket = , match = , versus = , band = , mapped = ,
         since = tree$arg <- f(tree$arg))
  tree
}

# What a tree comes to when the metrics and fields that it names are written out in their places:
# c(parts, deep), the number of its nodes and how deep they are nested. `named` tells the same of a
# name, NULL of what stands for itself.
written_out <- function(tree, named) {
  if (tree$kind == "name") return(named(tree$name) %||% c(1, 1))
  inner <- vapply(children(tree), written_out, c(0, 0), named)
  if (!length(inner)) return(c(1, 1))
  c(1 + sum(inner[1, ]), 1 + max(inner[2, ]))
}

most_parts <- 4000
deepest <- 2 * most_nested

overgrown <- function(size, most = most_parts) {
  !is.null(size) && (size[1] > most || size[2] > deepest)
}

# Formulas that name others twice, which do the same, grow without measure.
refuse_overgrown <- function(size, context, most = most_parts) {
  if (!overgrown(size, most)) return(invisible())
  many <- size[1] > most
  refuse(context, paste0("with what it names written out it ", if (many)
    paste0("comes to ", count_text(size[1]), " parts, and ", count_text(most), " are") else
      paste0("is nested more than ", deepest, " deep, which is"),
    " the most"))
}

# Every node of a tree for which `is` holds.
nodes_where <- function(tree, is) {
  if (is.null(tree)) return(list())
  c(if (is(tree)) list(tree), unlist(lapply(children(tree), nodes_where, is), recursive = FALSE))
}

has_kind <- function(tree, kind) length(nodes_where(tree, function(t) t$kind == kind)) > 0

# Names of fields used anywhere in a tree. The inner value of per() is no field.
names_in <- function(tree) {
  if (is.null(tree)) return(character())
  named <- nodes_where(tree, function(t) t$kind == "name" && !isTRUE(t$inner))
  unique(vapply(named, `[[`, "", "name"))
}
