# Dimensions as trees: what a field, a computed field or a band is grouped by.

put_field <- function(book, name, tree, role, type, why) {
  book$computed[[name]] <- tree
  book$fields <- rbind(book$fields, data.frame(
    name = name, column = NA, from = "computed", role = role, type = type, why = why, missing = 0,
    timed = FALSE, numeric = FALSE, rate = FALSE))
  book
}

# The tree that gives the names of a dimension.
key_tree <- function(book, name) book$computed[[name]] %||% node("name", name = name)

# The trees of several keys, named by them; bands over what is shown are measured over `shown`.
key_trees <- function(book, keys, shown) {
  lapply(stats::setNames(keys, keys), function(key) bind_scope(key_tree(book, key), shown))
}

# Bands over what is shown are measured over the lines of the question.
bind_scope <- function(tree, where) {
  if (tree$kind == "banded" && tree$over == "shown") tree["scope"] <- list(where)
  with_children(tree, function(child) bind_scope(child, where))
}
