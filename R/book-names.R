# The names that a dimension has, on the lines and in its register, and those that are asked for.

# All names of a field that the lines of the whole book know.
names_of <- function(book, field) {
  source_names(book$source, node("name", name = field))
}

# Names given by a person, against those the dimension may take; gives them as codes, see
# book-labels.R.
check_names <- function(book, field, names) {
  known <- known_names(book, field)
  names <- codes_of(book, field, names, known)
  unknown <- setdiff(names, known)
  if (length(unknown)) refuse_name(book, field, unknown[1], known)
  names
}

refuse_name <- function(book, field, name, known) {
  ll_abort(c(paste0("No ", spoken(field), " is called ", shown(name), "."),
             offer(name, c(known, register_labels(book, field)), "Known")), "word")
}

# Every name a dimension may take: those on lines, in its register, and of bands.
known_names <- function(book, field) {
  tree <- key_tree(book, field)
  if (tree$kind %in% c("band", "banded")) return(tree$labels)
  if (tree$kind == "computed") return(source_names(book$source, tree))
  union(names_of(book, field), book$registers[[field]]$names)
}

# A name that neither the lines nor a register know is an error; one that just has no lines is not.
# Gives the condition with codes for labels.
check_condition_names <- function(book, tree) {
  unknown <- unknown_names(book, tree)
  if (!length(unknown)) return(tree)
  tree <- with_codes(book, tree)
  for (one in unknown_names(book, tree)) refuse_name(book, one$field, one$name, one$known)
  tree
}

# A condition whose names are codes.
with_codes <- function(book, tree) {
  code <- function(field, names) {
    if (field %in% names(book$registers))
      codes_of(book, field, names, known_names(book, field)) else names
  }
  if (names_literals(tree)) {
    if (tree$kind == "within") tree$set$values <- code(tree$arg$name, tree$set$values) else
      tree$args[[2]]$value <- code(tree$args[[1]]$name, tree$args[[2]]$value)
  }
  with_children(tree, function(child) with_codes(book, child))
}

# The names in a tree's conditions that neither the lines nor a register know: a list of list(field,
# name, known).
unknown_names <- function(book, tree) {
  out <- lapply(literals_in(tree), function(one) {
    field <- book$fields[match(one$field, book$fields$name), ]
    if (is.na(field$type) || field$type != "text") return(NULL)
    known <- names_of(book, one$field)
    if (one$field %in% names(book$registers)) known <- c(known, book$registers[[one$field]]$names)
    if (!field$from %in% c("lines", "computed"))
      known <- c(known, plain_key(book$registers[[field$from]]$table[[field$column]]))
    unknown <- setdiff(one$values, known)
    if (length(unknown)) list(field = one$field, name = unknown[1], known = unique(known))
  })
  Filter(Negate(is.null), out)
}
