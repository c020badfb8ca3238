# Conditions that a study makes itself: these names, all but these, the names of a row.

# The condition of every name of a dimension but these, as shown, lines without one left out.
all_but <- function(question, field, names) {
  names <- own_names(names)
  key <- bind_scope(key_tree(question$book, field), question$asked$where_now)
  unmet(node("logic", op = "|", args = list(
    node("within", arg = key, set = node("set", values = names)), node("missing", arg = key))))
}

# The condition of some rows of names of `each`.
these_names <- function(question, keys) {
  one_of_rows(keys, unname(key_trees(question$book, names(keys), question$asked$where_now)))
}

# A condition that holds for lines whose keys (trees) are one of these rows of names, a missing one
# for lines without.
one_of_rows <- function(keys, trees) {
  one_key <- function(values) {
    key <- trees[[1]]
    none <- is.na(values)
    named <- node("within", arg = key, set = node("set", values = values[!none]))
    or_all(c(if (any(none)) list(node("missing", arg = key)), if (!all(none) || !length(none))
      list(named)))
  }
  # No rows at all: a condition that no line meets.
  if (length(keys) == 1 || !length(keys[[1]])) return(one_key(unique(keys[[1]])))
  or_all(lapply(unique(keys[[1]]), function(value) {
    mine <- keys[[1]] %in% value
    and_also(one_key(value), one_of_rows(lapply(keys[-1], `[`, mine), trees[-1]))
  }))
}

name_condition <- function(question, field, name, kept) {
  if (name == "(all)") return(NULL)
  if (!is.null(kept) && grepl("^everyone else [(]", name)) return(all_but(question, field, kept))
  key <- bind_scope(key_tree(question$book, field), question$asked$where_now)
  if (name == "(none)") node("missing", arg = key) else
    node("within", arg = key, set = node("set", values = own_names(name)))
}

column_condition <- function(behind, column) {
  if (is.null(column)) return(NULL)
  known <- names(behind$columns)
  if (!column %in% known)
    ll_abort(c(paste0("'column' ", shown(column), " stands for no lines of its own."),
               offer(column, known, "Columns")), "word")
  behind$columns[[column]]
}
