# Quotients over like lines: where a line lacks what one side of a quotient adds up, the other side
# leaves it out too. Else sales that are not known would count as given away.

# Every quotient of a resolved metric over the lines that have all that it adds up; `lacking` are
# the
# fields that some lines lack.
over_like_lines <- function(tree, lacking) {
  if (!length(lacking)) return(tree)
  if (tree$kind == "op" && tree$op == "/") {
    fields <- intersect(summed_fields(tree), lacking)
    if (length(fields) && has_kind(tree$args[[2]], "aggregate") && !has_quotient(tree$args))
      return(with_children(tree, function(side) only_with(side, fields)))
  }
  if (tree$kind %in% c("op", "versus"))
    return(with_children(tree, function(part) over_like_lines(part, lacking)))
  tree
}

# The fields without which the formulas that are added up or averaged have no value, but for those
# of
# per() and for those that a formula itself asks to be there.
summed_fields <- function(tree) {
  sums <- nodes_where(tree, function(t) {
    t$kind == "aggregate" && t$fn %in% c("sum", "mean") && !identical(t$arg$kind, "per")
  })
  unique(unlist(lapply(sums, function(t) {
    asked <- nodes_where(t$arg, function(part) part$kind == "missing")
    setdiff(value_fields(t$arg), unlist(lapply(asked, names_in)))
  })))
}

# Fields that give a formula its value; those that a choice only tests do not.
value_fields <- function(tree) {
  if (tree$kind == "name") return(tree$name)
  parts <- if (tree$kind == "choose") tree$args else children(tree)
  unlist(lapply(parts, value_fields))
}

has_quotient <- function(trees) {
  any(vapply(trees, function(tree) length(nodes_where(tree, function(t) {
    t$kind == "op" && t$op == "/" && has_kind(t$args[[2]], "aggregate")
  })) > 0, NA))
}

# Sums, means and counts of lines over those that have all of these fields. Names that are counted
# stay: an order is one whatever its lines lack.
only_with <- function(tree, fields) {
  if (tree$kind == "aggregate") {
    if (!tree$fn %in% c("sum", "mean", "count") || identical(tree$arg$kind, "per")) return(tree)
    # A sum leaves out by itself what its own formula lacks.
    own <- if (tree$fn != "count" && identical(tree$arg$kind, "name")) tree$arg$name
    for (field in setdiff(fields, own))
      tree$where <- and_also(tree$where, unmet(node("missing", arg = node("name", name = field))))
    return(tree)
  }
  if (tree$kind == "op") with_children(tree, function(part) only_with(part, fields)) else tree
}
