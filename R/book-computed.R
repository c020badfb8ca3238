# Fields made from others: row formulas, and bands of a field or of a name's metric.

# Adds the computed fields and bands to the book's field table, each resolved against what is
# there, in whatever order they are given.
add_computed <- function(book, specs, bands) {
  book$computed <- list()
  names(specs) <- guarded(names(specs))
  names(bands) <- guarded(names(bands))
  typed <- lapply(computed_specs(specs), `[[`, "is")
  made <- c(names(typed), names(bands))
  check_made_names(made, book)
  trees <- lapply(names(typed), function(name) {
    function() read_row(typed[[name]], paste0("field ", quoted(name)))
  })
  trees <- stats::setNames(do.call(together, trees), names(typed))
  tables <- check_bands(bands)
  thunks <- lapply(made, function(name) {
    function() book <<- add_one(book, name, trees, tables, specs, character())
  })
  do.call(together, thunks)
  book
}

check_made_names <- function(made, book) {
  clash <- c(intersect(made, c(book$fields$name, names(book$parameters))), made[duplicated(made)])
  if (length(clash))
    ll_abort(c(paste0("There is already a field or parameter called ", quoted(clash[1]), "."),
               i = "Give the computed field or band another name."), "word")
}

# Those that a formula needs are added first; a circle is refused.
add_one <- function(book, name, trees, tables, specs, trail) {
  if (name %in% names(book$computed)) return(book)
  label <- if (name %in% names(trees)) "field " else "band "
  text <- if (name %in% names(trees)) tree_text(trees[[name]]) else tables[[name]]$of_text
  context <- list(label = paste0(label, quoted(name)), text = text)
  if (name %in% trail)
    refuse(context, paste0("fields refer to each other in a circle: ",
                           paste(c(trail, name), collapse = ", ")), word = name)
  uses <- guarded(names_in(trees[[name]] %||% tables[[name]]$tree))
  for (other in intersect(uses, c(names(trees), names(tables))))
    book <- add_one(book, other, trees, tables, specs, c(trail, name))
  if (name %in% names(trees)) add_row_field(book, name, trees[[name]], specs[[name]], context) else
    add_band(book, name, tables[[name]], context)
}

add_row_field <- function(book, name, tree, spec, context) {
  known <- known_to(book)
  size <- written_out(tree, function(n) known$computed[[field_called(n, known) %||% n]]$size)
  refuse_overgrown(size, context)
  tree <- with_codes(book, resolve_row(tree, known, context))
  if (!length(names_in(tree)))
    refuse(context, "a field must be made from other fields")
  type <- row_type(tree, known)
  if (type == "empty") type <- "text"
  role <- spec$role %||% switch(type, number = "measure", date = "date", text = "dimension")
  fits <- switch(role, measure = type == "number", date = type == "date", TRUE)
  if (!fits) refuse(context, paste0("it gives ", type, "s, which cannot be a ", role))
  put_field(book, name, node("computed", name = name, tree = tree, type = type, size = size + 1),
            role, type, paste("made from", and_list(names_in(tree), 3)))
}
