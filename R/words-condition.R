# Conditions on lines: two-valued, so that a line is either in or out.

read_condition <- function(x, label = "condition") {
  tree <- read_tree(x, label, condition_node)
  # Each comparison is looked at by itself, and again for the proof.
  refuse_overgrown(written_out(tree, function(name) NULL), list(label = label, text = x),
                   most_parts / 2)
  tree
}

# Conditions in words as one that holds where all of them do; NULL of none. Each is read by itself
# before, so that no "or", bracket or remark of one reaches into the next.
all_hold <- function(texts) {
  if (length(texts) < 2) return(if (length(texts)) texts)
  paste(vapply(texts, function(text) {
    read <- r_expression(text, list(label = "condition", text = text))
    if (grepl("#", text, fixed = TRUE))
      text <- paste(deparse(read, width.cutoff = 500), collapse = " ")
    if (called(read) == "|") paste0("(", text, ")") else text
  }, ""), collapse = " & ")
}

# Conditions that held before, without those that others say anew: where names of a field were said
# ("only Moor") the later ones hold ("only Heath"), since no line has both. What was typed otherwise
# than words write it stays as it is.
still_hold <- function(before, texts) {
  parts <- function(text) {
    terms <- chain_terms(r_expression(text, list(label = "condition", text = text)), "&")$terms
    data.frame(text = vapply(terms, function(term) paste(deparse(term, 500), collapse = " "), ""),
               field = vapply(terms, function(term) {
                 names <- called(term) == "==" && is.character(term[[3]]) ||
                   called(term) == "%in%" && called(term[[3]]) == "c"
                 if (names && is.name(term[[2]])) as.character(term[[2]]) else NA_character_
               }, ""))
  }
  said <- function(text, own) {
    found <- vapply(own$text, grepl, NA, x = text, fixed = TRUE) & !grepl("#", text, fixed = TRUE)
    ifelse(found, own$field, NA)
  }
  anew <- unlist(lapply(texts, function(text) said(text, parts(text))))
  unlist(lapply(before, function(text) {
    own <- parts(text)
    gone <- said(text, own) %in% anew[!is.na(anew)]
    if (any(gone)) all_hold(own$text[!gone]) else text
  }))
}

condition_node <- function(x, context) {
  fn <- called(x)
  if (fn == "(") return(condition_node(x[[2]], context))
  if (fn %in% c("&", "|")) {
    terms <- chain_terms(x, fn)$terms
    if (length(terms) > long_chain)
      return(halves(lapply(terms, condition_node, context = context),
                    function(a, b) node("logic", op = fn, args = list(a, b))))
  }
  if (fn == "!" && called(x[[2]]) == "!") return(condition_node(without_pairs(x), context))
  if (fn %in% c("&", "|", "!")) {
    args <- call_args(x, context, if (fn == "!") 1 else 2)
    return(node("logic", op = fn, args = lapply(args, condition_node, context = context)))
  }
  if (fn %in% comparisons) {
    args <- lapply(call_args(x, context, 2), row_node, context = context)
    return(node("compare", op = fn, args = args))
  }
  switch(fn,
         "%in%" = {
           args <- call_args(x, context, 2)
           node("within", arg = row_node(args[[1]], context), set = set_node(args[[2]], context))
         },
         is.na = node("missing", arg = row_node(call_args(x, context, 1)[[1]], context)),
         contains = , startsWith = match_node(x, context),
         between = between_node(x, context), no_condition(x, context))
}

# Not not is nothing.
without_pairs <- function(x) {
  while (called(x) == "!" && called(x[[2]]) == "!") x <- x[[2]][[2]]
  x
}

no_condition <- function(x, context) {
  if (!is.call(x))
    refuse(context, paste0(shown_word(x), " is no condition"),
           c(i = "A condition compares, as in territory == \"Moor\"."))
  refuse_call(x, context, c(comparisons, "%in%", "&", "|", "!", "is.na", "contains", "startsWith",
                            "between"), "a condition")
}

match_node <- function(x, context) {
  args <- call_args(x, context, 2)
  text <- literal_node(args[[2]], context)
  if (text$kind != "text" || !nzchar(text$value))
    refuse(context, paste0(called(x), "() looks for a text in quotes"), word = called(x))
  node("match", fn = called(x), arg = row_node(args[[1]], context), text = text$value)
}

# Both ends in.
between_node <- function(x, context) {
  args <- lapply(call_args(x, context, 3), row_node, context = context)
  side <- function(op, end) node("compare", op = op, args = list(args[[1]], end))
  node("logic", op = "&", args = list(side(">=", args[[2]]), side("<=", args[[3]])))
}

shown_word <- function(x) quoted(fit_text(one_line(paste(deparse(x), collapse = " ")), 40))

set_node <- function(x, context) {
  # The name of a saved set.
  if (is.name(x)) return(node("set", name = enc2utf8(as.character(x))))
  items <- if (called(x) == "c") lapply(as.list(x)[-1], set_item, context = context) else
    list(set_item(x, context))
  kinds <- unique(vapply(items, function(i) i$kind, ""))
  if (length(kinds) != 1 || kinds == "name")
    refuse(context, paste0("%in% needs a set of texts or of numbers, as in c(\"Moor\", \"Fen\"), ",
                           "or the name of a saved set"), word = "%in%")
  node("set", values = unlist(lapply(items, function(i) i$value)))
}

set_item <- function(x, context) {
  if (called(x) == "-" && length(x) == 2 && is.numeric(x[[2]]))
    return(node("number", value = -as.double(x[[2]])))
  literal_node(x, context)
}

# Conditions joined; NULL is none.
and_also <- function(a, b) {
  if (is.null(a)) return(b)
  if (is.null(b)) return(a)
  node("logic", op = "&", args = list(a, b))
}

# Lines that do not meet a condition, those of which it cannot be told among them.
unmet <- function(condition) node("logic", op = "!", args = list(condition))

either <- function(a, b) {
  if (is.null(a) || is.null(b)) return(NULL)
  node("logic", op = "|", args = list(a, b))
}

# Halved each time, so that many conditions nest no deeper than their logarithm.
or_all <- function(trees) {
  if (length(trees) == 1) return(trees[[1]])
  half <- length(trees) %/% 2
  node("logic", op = "|", args = list(or_all(trees[seq_len(half)]), or_all(trees[-seq_len(half)])))
}
