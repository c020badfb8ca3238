# What leaves a study has no marks on names (see base-guard.R). Where a field or metric and a column
# of the study's own bear the same name in one table, the study's own steps aside: `pareto_class`,
# and a note says so. Pictures and the lines behind a row are made from the result as the study made
# it, which is kept.

without_guards <- function(result) {
  facts <- facts(result)
  marked <- c(facts$book$fields$name, names(facts$book$metrics))
  marked <- marked[endsWith(marked, guard_mark)]
  if (!length(marked)) return(result)
  table <- bare_table(plain_frame(result), facts$study, marked)
  parts <- lapply(facts$parts, bare_table, facts$study, marked)
  aside <- unlist(unname(c(list(table$moved), lapply(parts, `[[`, "moved"))))
  out <- list(
    study = facts$study, asked = facts$asked, title = facts$title, book = facts$book,
    only = facts$only, behind = facts$behind,
    settings = bare_texts(facts$settings), finding = unguarded(facts$finding),
    reading = unguarded(facts$reading), notes = bare_texts(facts$notes),
    proof = bare_texts(facts$proof),
    columns = bare_columns(facts$columns, table), parts = lapply(parts, `[[`, "table"),
    further = Map(function(columns, name) bare_columns(columns, parts[[name]]), facts$further,
                  names(facts$further)), inner = result)
  if (length(aside)) out$notes <- rbind(out$notes, aside_note(names(aside), aside, facts$study))
  structure(table$table, class = class(result), ll = out)
}

# What is said of columns that stepped aside for fields or metrics.
aside_note <- function(names, moved, study) {
  names <- unique(names)
  new_notes("names", paste0(
    "Here ", and_list(quoted(names)), if (length(names) == 1)
      " is the field or metric of that name" else " are the fields or metrics of these names",
    "; what ", study, " says itself stands in ", and_list(quoted(unique(moved))), "."))
}

# list(table, names, moved): the table without marks; `names` the new name of each old one, `moved`
# those of the study's own that stepped aside, by their old names.
bare_table <- function(table, study, marked) {
  if (!is.data.frame(table)) return(list(table = bare_texts(table)))
  old <- names(table)
  plain <- unguarded(old)
  own <- old == plain & plain %in% plain[old != plain]
  moved <- if (any(own)) paste0(study, "_", plain[own]) else character()
  while (any(moved %in% plain)) moved <- paste0(moved, "_")
  names(table) <- replace(plain, own, moved)
  # Names of fields and metrics stand in cells too.
  if (nrow(table) <= 5000) for (i in which(vapply(table, is.character, NA))) {
    hit <- table[[i]] %in% marked
    table[[i]][hit] <- unguarded(table[[i]][hit])
  }
  list(table = table, names = stats::setNames(names(table), old),
       moved = stats::setNames(moved, plain[own]))
}

bare_columns <- function(columns, made) {
  known <- columns$name %in% names(made$names)
  columns$name[known] <- made$names[columns$name[known]]
  columns$name <- unguarded(columns$name)
  told <- columns$label %in% names(made$names)
  columns$label[told] <- made$names[columns$label[told]]
  columns
}

# Texts and names of a list or table.
bare_texts <- function(x) {
  if (is.list(x)) {
    x[] <- lapply(x, bare_texts)
    if (!is.null(names(x))) names(x) <- unguarded(names(x))
    return(x)
  }
  if (!is.null(names(x))) names(x) <- unguarded(names(x))
  unguarded(x)
}

# The result as its study made it.
inner_result <- function(x) facts(x)$inner %||% x

# columns: data frame of name, unit (money, count, number, percent, rank, text, moved) shown
# (whether print shows it) and digits (NA for as many as fit). parts: named further tables.
# book: the book that was asked; only: the conditions, as a tree. further: columns, as above, of
# the parts that are printed too, named; the unit "own" stands row by row in the part's column
# `unit`. behind: which lines a row or cell stands for, see study-detail-behind.R.
new_result <- function(...) without_guards(bare_result(...))
