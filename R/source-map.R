# Names of a database's own as the book has them: tables of one to the other.

# Names told by a table held here: list(arg, names, values, labels): the tree of the names it hangs
# on, those names, the value of each, and for bands their labels in order. NULL for other trees.
name_map <- function(source, tree) {
  if (tree$kind == "mapped")
    return(list(arg = tree$arg, names = tree$map$names, values = tree$map$to))
  if (tree$kind == "banded") return(banded_map(source, tree))
  if (tree$kind != "name" || isTRUE(tree$inner)) return(NULL)
  field <- field_at(source, tree$name)
  if (field$from %in% c("lines", NA)) return(NULL)
  register <- source$registers[[field$from]]
  values <- register$table[[field$column]]
  if (!is.numeric(values) && field$type == "text") {
    values <- plain_key(values)
    values[is_blank(values)] <- NA
  }
  map <- list(arg = node("name", name = field$from), names = register$names, values = values)
  # A register may be keyed by a field of another.
  under <- name_map(source, map$arg)
  if (is.null(under)) return(map)
  list(arg = under$arg, names = under$names,
       values = map$values[match(plain_key(under$values), map$names)])
}

banded_map <- function(source, tree) {
  text <- deparse_whole(tree)
  if (is.null(source$maps[[text]])) {
    fold <- source_fold(source$origin %||% source, list(each = tree$each),
                        parts_of(list(tree$metric)), tree$scope)
    value <- metric_value(tree$metric, fold$parts)
    value$v <- rep_len(value$v, length(fold$lines))
    band <- code_bands(value, tree$bounds, tree$labels)
    named <- !is.na(fold$keys$each)
    source$maps[[text]] <- list(arg = tree$each, names = fold$keys$each[named],
                                values = names_at(band$codes, band$levels)[named],
                                labels = tree$labels)
  }
  source$maps[[text]]
}

# How values of an expression become a coded column.
coder_of <- function(x) {
  decimals <- x$decimals
  if (x$type == "date") return(function(v) code_column(as_day(as.numeric(v))))
  if (x$type == "number" || isTRUE(x$numeric))
    return(function(v) code_column(scaled_value(scaled(as.numeric(v), decimals))))
  function(v) code_column(as_utf8(as.character(v)))
}

# Positions among labels, from 0.
code_labels <- function(at, labels) {
  at <- as.integer(at)
  present <- sort(unique(at[!is.na(at)]))
  list(codes = match(at, present, nomatch = 0L), levels = labels[present + 1L])
}
