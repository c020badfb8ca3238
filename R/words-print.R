# From a tree back to text: as it can be typed again, and in words for a reading.

tree_text <- function(tree) {
  switch(tree$kind,
         number = format_plain(tree$value), text = text_literal(tree$value),
         name = if (isTRUE(tree$inner)) "it" else name_text(tree$name),
         set = if (is.null(tree$name)) set_text(tree$values, isTRUE(tree$dates)) else
           name_text(tree$name), as_of = "as_of()",
         date = paste0("\"", day_of(tree$value), "\""),
         computed = , band = , banded = , mapped = name_text(tree$name),
         op = op_text(tree), aggregate = aggregate_text(tree),
         choose = call_text("ifelse", c(list(tree$test), tree$args)),
         bucket = call_text(tree$part, list(tree$arg)),
         per = call_text("per", list(tree$by, tree$inner)),
         versus = call_text(tree$fn, list(tree$arg)),
         match = paste0(tree$fn, "(", tree_text(tree$arg), ", ",
                        text_literal(tree$text), ")"),
         compare = paste(tree_text(tree$args[[1]]), tree$op, tree_text(tree$args[[2]])),
         within = paste(tree_text(tree$arg), "%in%", tree_text(tree$set)),
         since = paste(tree_text(tree$date), "from each one's own day"),
         missing = call_text("is.na", list(tree$arg)), logic = logic_text(tree))
}

call_text <- function(fn, args) {
  paste0(fn, "(", paste(vapply(args, tree_text, ""), collapse = ", "), ")")
}

name_text <- function(name) {
  name <- unguarded(name)
  if (make.names(name) == name) name else paste0("`", gsub("([`\\\\])", "\\\\\\1", name), "`")
}

day_of <- function(days) format(as_day(days))

set_text <- function(values, dates = FALSE) {
  if (dates) values <- day_of(values)
  items <- if (is.character(values)) text_literal(values) else format_plain(values)
  paste0("c(", paste(items, collapse = ", "), ")")
}

named_ops <- c("abs", "pmin", "pmax")

op_text <- function(tree) {
  if (tree$op %in% named_ops) return(call_text(tree$op, tree$args))
  inner <- vapply(tree$args, function(a) {
    text <- tree_text(a)
    if (a$kind == "op" && !a$op %in% named_ops || a$kind == "number" && a$value < 0)
      paste0("(", text, ")") else text
  }, "")
  if (length(inner) == 1) paste0(tree$op, inner) else paste(inner[1], tree$op, inner[2])
}

aggregate_text <- function(tree) {
  # Lines of some kind are counted where a quotient is of those alone, see words-alike.R.
  if (is.null(tree$arg)) return(paste0(tree$fn, "(", if (!is.null(tree$where))
    paste0("[", tree_text(tree$where), "]"), ")"))
  arg <- tree_text(tree$arg)
  if (!is.null(tree$where)) {
    if (tree$arg$kind == "op" && !tree$arg$op %in% named_ops) arg <- paste0("(", arg, ")")
    arg <- paste0(arg, "[", tree_text(tree$where), "]")
  }
  paste0(tree$fn, "(", arg, if (!is.null(tree$prob)) paste0(", ", tree_text(tree$prob)), ")")
}

logic_text <- function(tree) {
  inner <- Map(function(a, i) {
    text <- tree_text(a)
    # R reads a & b & c from the left, so a nested right side keeps its brackets.
    wrap <- a$kind == "logic" && (a$op != tree$op || i == 2) || tree$op == "!"
    if (wrap) paste0("(", text, ")") else text
  }, tree$args, seq_along(tree$args))
  if (tree$op == "!") paste0("!", inner) else paste(inner, collapse = paste0(" ", tree$op, " "))
}

# "territory is Moor and quantity above 3"
tree_words <- function(tree) {
  switch(tree$kind,
         text = labelled_text(tree$value, tree$label %||% NA),
         name = , computed = , band = , banded = , mapped = spoken(tree$name),
         number = format_plain(tree$value), date = date_text(as_day(tree$value)),
         bucket = paste(spoken(tree$part), "of", tree_words(tree$arg)),
         compare = paste(tree_words(tree$args[[1]]), compare_words(tree$op),
                         tree_words(tree$args[[2]])),
         within = paste(tree_words(tree$arg), "is", if (is.null(tree$set$name))
           and_list(set_words(tree$set), 8, "or") else
             paste("in the set", quoted(tree$set$name))),
         match = paste(tree_words(tree$arg),
                       if (tree$fn == "contains") "contains" else "starts with",
                       quoted(tree$text)),
         missing = paste(tree_words(tree$arg), "is missing"),
         logic = logic_words(tree), tree_text(tree))
}

set_words <- function(set) {
  values <- if (isTRUE(set$dates)) day_of(set$values) else if (is.numeric(set$values))
    format_plain(set$values) else labelled_text(set$values, set$labels %||% NA)
  fit_text(one_line(values), 60)
}

compare_words <- function(op) {
  switch(op, `==` = "is", `!=` = "is not", `<` = "below", `<=` = "at most", `>` = "above",
         `>=` = "at least")
}

logic_words <- function(tree) {
  inner <- vapply(tree$args, function(a) {
    text <- tree_words(a)
    if (a$kind == "logic" && a$op == "|" && tree$op != "|") paste0("(", text, ")") else text
  }, "")
  if (tree$op == "!") return(denied_words(tree$args[[1]]) %||% paste0("not (", inner, ")"))
  paste(inner, collapse = if (tree$op == "&") " and " else " or ")
}

# "ship date is not missing", "rep is none of A and B"
denied_words <- function(tree) {
  if (tree$kind == "missing") return(paste(tree_words(tree$arg), "is not missing"))
  if (tree$kind == "match") return(paste(tree_words(tree$arg), if (tree$fn == "contains")
    "does not contain" else "does not start with", quoted(tree$text)))
  if (tree$kind != "within") return(NULL)
  if (!is.null(tree$set$name))
    return(paste(tree_words(tree$arg), "is not in the set", quoted(tree$set$name)))
  paste(tree_words(tree$arg), "is not", and_list(set_words(tree$set), 8, "or"))
}

# A tree in full, to tell it from others. What it holds by reference does not show.
deparse_whole <- function(tree) paste(deparse(tree), collapse = "")
