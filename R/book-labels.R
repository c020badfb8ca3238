# Labels: the field of a dimension's register that names each of its codes. A label may be typed
# where a code is asked for.

# The labels that the person gave, as c(account = "account_name"), each a field of the register.
given_labels <- function(book, specs) {
  labels <- spec_values(specs, "label")
  for (dimension in names(labels)) check_label(book, dimension, labels[[dimension]])
  labels
}

check_label <- function(book, dimension, label) {
  fields <- names(book$registers[[dimension]]$table)
  if (is.null(fields))
    ll_abort(c(paste0("The label of ", quoted(dimension), " needs a register of it."),
               i = paste0("For example registers = list(", dimension, " = \"names.csv\").")),
             "argument")
  if (!label %in% fields)
    ll_abort(c(paste0("The label of ", quoted(dimension), " must be a field of its register."),
               x = paste0("It is ", shown(label), "."), offer(label, fields, "Fields")), "word")
}

# The columns of a register whose texts tell (nearly) every name from every other.
naming_columns <- function(register) {
  tells <- vapply(register$table, function(x) {
    is.character(x) && length(unique(x)) >= .9 * length(x)
  }, NA)
  names(register$table)[tells]
}

# The labels of a register's names, in their order: those of the field given, or of the first that
# does for (nearly) each; NULL where there is none.
register_labels <- function(book, dimension) {
  register <- book$registers[[dimension]]
  column <- label_column(book, dimension)
  if (!is.na(column)) register$table[[column]]
}

label_column <- function(book, dimension) {
  if (dimension %in% names(book$labels)) book$labels[[dimension]] else
    c(naming_columns(book$registers[[dimension]]), NA)[1]
}

# What names of a dimension are called; missing where nothing tells.
labels_of <- function(book, dimension, names) {
  labels <- register_labels(book, dimension) %||% NA_character_
  labels[match(names, book$registers[[dimension]]$names)]
}

# Names typed by a person as codes: what is no name but one's label stands for that one.
codes_of <- function(book, dimension, names, known) {
  unknown <- which(!names %in% known)
  labels <- if (length(unknown)) register_labels(book, dimension)
  for (i in if (!is.null(labels)) unknown) {
    codes <- book$registers[[dimension]]$names[labels %in% names[i]]
    if (length(codes) > 1)
      ll_abort(c(paste0(quoted(names[i]), " is the name of ",
                        plural(length(codes), field_noun(book, dimension)), ": ",
                        and_list(codes, 6), "."), i = "Give the code of the one that is meant."),
               "word")
    if (length(codes)) names[i] <- codes
  }
  names
}
