# Labels in tables: beside each column of a dimension's codes one of what they are called
# (`account`, `account_label`). Where tables are read, the two are shown as one.

# What a room says as its table, with the labels of all its tables. `coded` there tells columns of
# codes that do not bear their dimension's name, as c(old = "item").
with_label_columns <- function(book, made) {
  dimensions <- labelled(book)
  if (!length(dimensions)) return(made)
  coded <- c(made$coded, stats::setNames(nm = dimensions))
  coded <- coded[coded %in% dimensions]
  add <- function(table) if (is.data.frame(table)) add_labels(book, table, coded) else table
  made$columns <- add_label_rows(book, made$columns, made$table, coded)
  for (part in names(made$further))
    made$further[[part]] <- add_label_rows(book, made$further[[part]], made$parts[[part]], coded)
  made$table <- add(made$table)
  made$parts <- lapply(made$parts, add)
  made
}

# The columns of a table that hold codes: c(column = dimension).
coded_columns <- function(table, coded) {
  here <- coded[names(coded) %in% names(table)]
  here[vapply(names(here), function(column) is.character(table[[column]]), NA)]
}

# The name of the column of labels; another where that is taken.
label_name <- function(table, column) {
  name <- paste0(unguarded(column), "_label")
  while (name %in% names(table)) name <- paste0(name, "_")
  name
}

add_labels <- function(book, table, coded) {
  here <- coded_columns(table, coded)
  for (column in names(here)) {
    label <- list(labels_of(book, here[[column]], own_names(table[[column]])))
    names(label) <- label_name(table, column)
    at <- match(column, names(table))
    after <- seq_along(table) > at
    table <- cbind(table[!after], as.data.frame(label, optional = TRUE), table[after])
  }
  table
}

add_label_rows <- function(book, columns, table, coded) {
  here <- coded_columns(table, coded)
  for (column in names(here)) {
    at <- match(column, columns$name)
    if (is.na(at)) next
    name <- label_name(table, column)
    # Where the field of the labels is shown itself, once is enough.
    if (!label_table(book, here[[column]])$column %in% columns$name[columns$shown])
      columns$label[at] <- name
    after <- seq_len(nrow(columns)) > at
    columns <- rbind(columns[!after, ], new_columns(name, "text", FALSE), columns[after, ])
  }
  columns
}
