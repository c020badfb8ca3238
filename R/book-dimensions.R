# Dimensions and fields as they are asked for by name.

# Fields may be called by their other names.
real_name <- function(book, name) field_called(name, book) %||% name

known_field <- function(book, field, what) {
  if (field %in% book$fields$name) return(invisible(field))
  hint <- if (guarded(field) %in% names(book$metrics))
    c(i = paste0(quoted(field), " is a metric: it can be ranked by, not sliced by."))
  ll_abort(c(paste0("There is no field called ", quoted(field), " (in ", quoted(what), ")."), hint,
             offer(field, c(setdiff(named_once(book$fields)$name, book$made), names(book$also)),
                   "Fields",
                   list(metric = names(book$metrics)))), "word")
}

# Fields that a person names, under their own names.
named_fields <- function(book, fields, what) {
  vapply(fields, function(field) {
    field <- real_name(book, field)
    known_field(book, field, what)
    field
  }, "", USE.NAMES = FALSE)
}

# Fields whose names can be ranked or sliced by; gives the field's own name.
check_dimension <- function(book, field, what) {
  field <- real_name(book, field)
  known_field(book, field, what)
  row <- book$fields[match(field, book$fields$name), ]
  if (row$role == "measure" || row$type == "number")
    ll_abort(c(paste0(quoted(field), " is a measure; ", quoted(what), " needs a dimension."),
               offer_all("Dimensions", dimensions_of(book))), "word")
  if (row$role == "date")
    ll_abort(c(paste0(quoted(field), " is a date; ", quoted(what), " needs a dimension."),
               i = paste0("Give a period with 'when', or rank a part of it: month(", field, ").")),
             "word")
  field
}

# The dimensions of a question. A part of a date, such as month(order_date), serves without being
# declared: it becomes a field order_date_month of the book it gives back.
pick_dimensions <- function(book, asked, what) {
  names <- character()
  twice <- asked[duplicated(asked)]
  if (length(twice)) ll_abort(paste0("'", what, "' names ", shown(twice[1]), " twice."), "argument")
  for (one in asked) {
    if (grepl("^[a-z_]+\\(.*\\)$", one)) {
      made <- add_date_part(book, one, what)
      book <- made$book
      one <- made$name
    }
    names <- c(names, check_dimension(book, one, what))
  }
  list(book = book, names = unique(names))
}

add_date_part <- function(book, text, what) {
  context <- list(label = quoted(what), text = text)
  tree <- resolve_row(read_row(text, quoted(what)), known_to(book), context)
  if (tree$kind != "bucket")
    refuse(context, "a dimension or a part of a date belongs here",
           c(i = "For example month(order_date); other formulas are computed fields."))
  name <- guarded(gsub("[^[:alnum:]]+", "_", paste0(tree_text(tree$arg), "_", tree$part)))
  if (!name %in% names(book$computed)) {
    book <- put_field(book, name, node("computed", name = name, tree = tree, type = "text"),
                      "dimension", "text", text)
    # It serves this question, and is nothing that a person would know of.
    book$made <- c(book$made, name)
  }
  list(book = book, name = name)
}

dimensions_of <- function(book) {
  fields <- named_once(book$fields)
  setdiff(fields$name[fields$role == "dimension"], book$made)
}

# Fields by their plain names: a register's are known as dimension.field too, and only so where
# another field bears the name, which is then looked at in its stead.
named_once <- function(fields) {
  fields[fields$name != register_name(fields$from, fields$column), ]
}

# Names that a register's field shares with a field of the lines, with what tells them apart; NULL
# where there are none.
shared_names <- function(book) {
  fields <- book$fields
  shared <- fields$from != "lines" & guarded(fields$column) %in% fields$name[fields$from == "lines"]
  if (!any(shared)) return(NULL)
  paste0(and_list(fields$column[shared], 3), if (sum(shared) == 1) " is" else " are",
         " that of the lines; the register's is ", and_list(fields$name[shared], 3))
}

# What is sold, and who buys, by the words of their fields; NULL where none tells.
product_field <- function(book) {
  kind_of_field(book, product_words)
}

customer_field <- function(book) {
  kind_of_field(book, customer_words)
}

kind_of_field <- function(book, words) {
  fields <- dimensions_of(book)
  own <- book$fields$from[match(fields, book$fields$name)]
  hit <- columns_named(fields[own %in% c("lines", "computed")], words)
  if (length(hit)) hit[1]
}
