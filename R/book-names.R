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
  unknown <- not_among(names, known)
  if (length(unknown)) refuse_name(book, field, unknown[1], known)
  names
}

refuse_name <- function(book, field, name, known) {
  ll_abort(c(paste0("No ", spoken(field), " is called ", shown(name), "."),
             offer_names(book, field, name, known)), "word")
}

# The line of an error that offers names, codes with what they are called: "Nearest: 'Hale Farm'
# (01)."
offer_names <- function(book, field, name, known) {
  table <- label_table(book, field)
  near <- nearest(name, if (length(table$labels)) c(known, table$labels) else known)
  if (!length(near)) return(offer_all("Known", with_labels_of(book, field, known)))
  codes <- unique(ifelse(name_places(known, near) > 0, near,
                         table$names[match(near, table$labels)]))
  labels <- labels_of(book, field, codes)
  told <- ifelse(is.na(labels), quoted(codes), paste0(quoted(labels), " (", one_line(codes), ")"))
  c(i = paste0("Nearest: ", and_list(told, last = "or"), "."))
}

# Every name a dimension may take: those on lines, in its register, and of bands.
known_names <- function(book, field) {
  tree <- key_tree(book, field)
  if (tree$kind %in% c("band", "banded")) return(tree$labels)
  if (tree$kind == "computed") return(source_names(book$source, tree))
  lines <- names_of(book, field)
  further <- not_among(book$registers[[field]]$names, lines)
  if (length(further)) c(lines, further) else lines
}

# A name that neither the lines nor a register know is an error; one that just has no lines is not.
# Gives the condition with codes for labels, which it is told in words by.
check_condition_names <- function(book, tree) {
  if (length(unknown_names(book, tree))) {
    tree <- with_codes(book, tree)
    for (one in unknown_names(book, tree)) refuse_name(book, one$field, one$name, one$known)
  }
  if (length(labelled(book))) with_labels(book, tree) else tree
}

# A condition whose names are codes.
with_codes <- function(book, tree) {
  change_names(tree, function(field, set) {
    table <- label_table(book, field)
    if (!is.null(table) && !all(set$values %in% table$names))
      set$values <- codes_of(book, field, set$values, known_names(book, field))
    set
  })
}

# A condition whose codes know what they are called.
with_labels <- function(book, tree) {
  change_names(tree, function(field, set) {
    labels <- labels_of(book, field, set$values)
    if (!all(is.na(labels))) set$labels <- labels
    set
  })
}

# A condition with the names of each field changed: change() takes the field and a list of values.
change_names <- function(tree, change) {
  if (names_literals(tree)) {
    if (tree$kind == "within") {
      tree$set <- change(tree$arg$name, tree$set)
    } else {
      made <- change(tree$args[[1]]$name, list(values = tree$args[[2]]$value))
      tree$args[[2]][c("value", "label")] <- list(made$values, made$labels)
    }
  }
  with_children(tree, function(child) change_names(child, change))
}

# The names in a tree's conditions that neither the lines nor a register know: a list of list(field,
# name, known).
unknown_names <- function(book, tree) {
  out <- lapply(literals_in(tree), function(one) {
    field <- book$fields[match(one$field, book$fields$name), ]
    if (is.na(field$type) || field$type != "text") return(NULL)
    lines <- names_of(book, one$field)
    others <- c(book$registers[[one$field]]$names, if (!field$from %in% c("lines", "computed"))
      plain_key(book$registers[[field$from]]$table[[field$column]]))
    unknown <- setdiff(not_among(one$values, lines), others)
    if (length(unknown)) list(field = one$field, name = unknown[1],
                              known = if (length(others)) union(lines, others) else lines)
  })
  Filter(Negate(is.null), out)
}
