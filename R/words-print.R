# From a tree back to text: as it can be typed again, and in words for a reading.

tree_text <- function(tree) {
  switch(tree$kind,
         number = format_plain(tree$value), text = encodeString(tree$value, quote = "\""),
         name = name_text(tree$name), set = set_text(tree$values, isTRUE(tree$dates)),
         date = paste0("\"", day_of(tree$value), "\""),
         op = op_text(tree), aggregate = aggregate_text(tree),
         compare = paste(tree_text(tree$args[[1]]), tree$op, tree_text(tree$args[[2]])),
         within = paste(tree_text(tree$arg), "%in%", tree_text(tree$set)),
         missing = paste0("is.na(", tree_text(tree$arg), ")"),
         logic = logic_text(tree))
}

name_text <- function(name) {
  if (make.names(name) == name) name else paste0("`", gsub("([`\\\\])", "\\\\\\1", name), "`")
}

day_of <- function(days) format(as.Date(days, origin = "1970-01-01"))

set_text <- function(values, dates = FALSE) {
  if (dates) values <- day_of(values)
  items <- if (is.character(values)) encodeString(values, quote = "\"") else format_plain(values)
  paste0("c(", paste(items, collapse = ", "), ")")
}

op_text <- function(tree) {
  if (tree$op == "abs") return(paste0("abs(", tree_text(tree$args[[1]]), ")"))
  inner <- vapply(tree$args, function(a) {
    text <- tree_text(a)
    if (a$kind == "op" && a$op != "abs" || a$kind == "number" && a$value < 0)
      paste0("(", text, ")") else text
  }, "")
  if (length(inner) == 1) paste0(tree$op, inner) else paste(inner[1], tree$op, inner[2])
}

aggregate_text <- function(tree) {
  if (is.null(tree$arg)) return(paste0(tree$fn, "()"))
  arg <- tree_text(tree$arg)
  if (is.null(tree$where)) return(paste0(tree$fn, "(", arg, ")"))
  if (tree$arg$kind != "name") arg <- paste0("(", arg, ")")
  paste0(tree$fn, "(", arg, "[", tree_text(tree$where), "])")
}

logic_text <- function(tree) {
  inner <- vapply(tree$args, function(a) {
    text <- tree_text(a)
    if (a$kind == "logic" && a$op != tree$op || tree$op == "!") paste0("(", text, ")") else text
  }, "")
  if (tree$op == "!") paste0("!", inner) else paste(inner, collapse = paste0(" ", tree$op, " "))
}

# "territory is Moor and quantity above 3"
tree_words <- function(tree) {
  switch(tree$kind,
         text = tree$value, name = spoken(tree$name), number = format_plain(tree$value),
         date = date_text(as.Date(tree$value, origin = "1970-01-01")),
         compare = paste(tree_words(tree$args[[1]]), compare_words(tree$op),
                         tree_words(tree$args[[2]])),
         within = paste(tree_words(tree$arg), "is",
                        and_list(set_words(tree$set), 8, "or")),
         missing = paste(tree_words(tree$arg), "is missing"),
         logic = logic_words(tree), tree_text(tree))
}

set_words <- function(set) {
  values <- if (isTRUE(set$dates)) day_of(set$values) else if (is.numeric(set$values))
    format_plain(set$values) else set$values
  fit_text(one_line(values), 40)
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
  if (tree$op == "!") return(paste0("not (", inner, ")"))
  paste(inner, collapse = if (tree$op == "&") " and " else " or ")
}
