# What the person says of fields: role, column, other names, spellings, fills, formulas.



# A named list of specs, each with its keys; checked by itself, not yet against the columns.
check_fields <- function(fields) {
  if (is.null(fields)) return(list())
  if (is.null(names(fields)) || any(!nzchar(names(fields))))
    ll_abort("'fields' must be named: c(account = \"dimension\").", "argument")
  twice <- names(fields)[duplicated(names(fields))]
  if (length(twice))
    ll_abort(paste0("The field ", quoted(twice[1]), " is described twice."), "argument")
  thunks <- lapply(names(fields), function(name) function() check_field(name, fields[[name]]))
  stats::setNames(do.call(together, thunks), names(fields))
}

check_field <- function(name, spec) {
  spec <- as_field_spec(spec)
  known <- book_keys("fields")
  unknown <- setdiff(names(spec), known)
  if (length(unknown))
    ll_abort(c(paste0("The field ", quoted(name), " has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Keys")), "word")
  choose <- function(key, choices) {
    if (!is.null(spec[[key]]))
      spec[[key]] <<- check_choice(spec[[key]], paste0(key, " of ", name), list(choices = choices))
  }
  if (!is.null(spec$role) && !(is.character(spec$role) && spec$role %in% roles))
    ll_abort(c(paste0("The role of ", quoted(name), " must be ",
                      and_list(quoted(roles), last = "or"), "."),
               x = paste0("It is ", shown(spec$role), "."),
               if (is.character(spec$role)) near_only(spec$role, roles)), "word")
  choose("form", field_forms)
  for (key in intersect(c("plural", "label"), names(spec)))
    spec[[key]] <- check_words(spec[[key]], paste(key, "of", name), one = TRUE)
  further <- setdiff(names(spec), c("is", "also", "role", "plural"))
  if (!is.null(spec$is) && length(further))
    ll_abort(c(paste0("The computed field ", quoted(name),
                      " takes only 'is', 'also', 'plural' and 'role'."),
               x = paste0("It also has ", and_list(quoted(further)), ".")), "argument")
  spec
}

# A word alone is a role, or how the field is written.
as_field_spec <- function(spec) {
  if (inherits(spec, "formula")) return(list(is = spec))
  if (is.list(spec)) return(spec)
  if (length(spec) == 1 && spec %in% field_forms) list(form = spec) else list(role = spec)
}

computed_specs <- function(specs) Filter(function(spec) !is.null(spec$is), specs)

column_specs <- function(specs) Filter(function(spec) is.null(spec$is), specs)

# Columns under the names that the person gave them; every spec must have its column.
rename_columns <- function(data, specs, where) {
  specs <- column_specs(specs)
  thunks <- lapply(names(specs), function(name) {
    function() {
      column <- specs[[name]]$column %||% name
      if (!column %in% names(data)) column <- same_word(column, names(data)) %||% column
      if (!column %in% names(data))
        ll_abort(c(paste0("There is no column ", quoted(column), " in ", where, "."),
                   offer(column, names(data), "Columns")), "word")
      column
    }
  })
  if (length(thunks)) {
    columns <- unlist(do.call(together, thunks))
    names(data)[match(columns, names(data))] <- names(specs)
  }
  check_duplicate_names(names(data), capital(where), "data")
  data
}

# One key of the fields' specs, as c(account = "accounts"), of those that have it.
spec_values <- function(specs, key) {
  unlist(lapply(stats::setNames(specs, guarded(names(specs))), `[[`, key))
}

# A field as people speak of one of its names, and of several.
field_noun <- function(book, field) {
  if (field %in% names(book$plurals)) return(noun(spoken(field), book$plurals[[field]]))
  word <- bare_noun(book, field, spoken(field))
  if (is_countable(word)) return(noun(word))
  # Another name of the field is a word where its own is none.
  also <- names(book$also)[book$also == field]
  noun(c(Filter(is_countable, spoken(also)), word)[1])
}

# "household" of household id: what names are numbers or codes of, unless another field bears it.
bare_noun <- function(book, field, word) {
  bare <- sub("[ _-]+(id|ids|no|nr|num|number|code|key|name)$", "", word, ignore.case = TRUE, perl = TRUE)
  if (nzchar(bare) && !bare %in% spoken(setdiff(book$fields$name, field))) bare else word
}

# Other names of fields, as c(client = "account").
other_names <- function(specs, fields) {
  also <- unlist(lapply(names(specs), function(name) {
    words <- unlist(specs[[name]]$also)
    if (length(words)) stats::setNames(rep(guarded(name), length(words)), as.character(words))
  }))
  clash <- intersect(names(also), unguarded(fields$name))
  if (length(clash))
    ll_abort(paste0("The other name ", quoted(clash[1]), " is a field itself."), "word")
  twice <- names(also)[duplicated(names(also))]
  if (length(twice))
    ll_abort(paste0("The other name ", quoted(twice[1]), " is given to two fields."), "word")
  also
}

# The fields of the lines, then those of the registers.
all_fields <- function(rows, registers) {
  taken <- vapply(rows, `[[`, "", "name")
  more <- list()
  for (dimension in names(registers)) {
    made <- register_fields(dimension, registers[[dimension]], taken)
    more <- c(more, made)
    taken <- c(taken, unlist(lapply(made, `[[`, "name")))
  }
  stack_rows(c(rows, more))
}

# Rows of the field table for a register's fields: always as dimension.field, and under the plain
# name where no other field bears it.
register_fields <- function(dimension, register, taken) {
  lapply(names(register$table), function(field) {
    free <- !guarded(field) %in% taken
    x <- register$table[[field]]
    row <- describe_column(x, field)
    # Numbers in a register belong to the name, not to the line: they are read, never added up.
    if (row$role == "identifier") row$role <- "dimension"
    row$why <- paste0("register of ", dimension)
    known <- register_name(dimension, field)
    field_rows(if (free) c(guarded(field), known) else known, field, dimension, row)
  })
}

# Rows of the field table for a column, one for each of its names, with its facts as
# describe_column() gives them. (A thousand columns are a thousand of these: data.frame() takes its
# time.)
field_rows <- function(name, column, from, facts) {
  columns <- c(list(name = name, column = column, from = from), facts)
  list2DF(lapply(columns, rep_len, length(name)))
}

# Tables of the same columns, one below the other.
stack_rows <- function(rows) {
  if (!length(rows)) return(NULL)
  columns <- stats::setNames(nm = names(rows[[1]]))
  list2DF(lapply(columns, function(column) unlist(lapply(rows, `[[`, column), use.names = FALSE)))
}

register_name <- function(dimension, field) guarded(paste0(unguarded(dimension), ".", field))
