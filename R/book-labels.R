# Labels: the field of a dimension's register that names each of its codes, so that a label may be
# typed where a code is asked for.

# As c(account = "account_name"): the field that the person gave, or the first text that is there,
# and different, for nearly each name of the register.
naming_fields <- function(book, specs) {
  given <- lapply(stats::setNames(specs, guarded(names(specs))), `[[`, "label")
  for (dimension in names(Filter(Negate(is.null), given)))
    check_label(book, dimension, given[[dimension]])
  unlist(lapply(stats::setNames(nm = names(book$registers)), function(dimension) {
    given[[dimension]] %||% naming_field(book$registers[[dimension]])
  }))
}

nearly_each <- .95

naming_field <- function(register) {
  n <- length(register$names)
  for (field in if (n) names(register$table)) {
    text <- register$table[[field]]
    if (!is.character(text)) next
    text <- text[!is_blank(text)]
    if (length(text) >= nearly_each * n && length(unique(text)) >= nearly_each * n) return(field)
  }
  NULL
}

check_label <- function(book, dimension, label) {
  fields <- names(book$registers[[dimension]]$table)
  if (is.null(fields))
    ll_abort(c(paste0("The label of ", quoted(dimension), " needs a register of it."),
               i = paste0("For example registers = list(", dimension, " = \"names.csv\").")),
             "argument")
  if (!is.character(label) || length(label) != 1 || !label %in% fields)
    ll_abort(c(paste0("The label of ", quoted(dimension), " must be a field of its register."),
               x = paste0("It is ", shown(label), "."), offer(as.character(label)[1], fields,
                                                              "Fields")), "word")
}

# The labels of a register's names, in their order; NULL where it has none.
register_labels <- function(book, dimension) {
  if (!dimension %in% names(book$label_fields)) return(NULL)
  book$registers[[dimension]]$table[[book$label_fields[[dimension]]]]
}

# Names typed by a person as codes: what is no name but one's label stands for that one.
codes_of <- function(book, dimension, names, known) {
  labels <- register_labels(book, dimension)
  if (is.null(labels)) return(names)
  for (i in which(!names %in% known)) {
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

# What is offered for a name that nobody bears: labels with their codes, then names.
offered_names <- function(book, dimension, known) {
  labels <- register_labels(book, dimension)
  c(known, if (!is.null(labels)) labels[!is_blank(labels)])
}
