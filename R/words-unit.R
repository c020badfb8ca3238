# The unit of a metric from how it is made: money, count, percent, number or date; `money` names
# the fields that hold money.

unit_of <- function(tree, money) {
  switch(tree$kind,
         aggregate = aggregate_unit(tree, money),
         date = "date",
         versus = if (tree$fn == "growth") "percent" else change_unit(unit_of(tree$arg, money)),
         op = {
           # By the units of its parts, each looked at once: a type asked at every depth would be
           # asked of all below it again.
           units <- vapply(tree$args, unit_of, "", money = money)
           types <- ifelse(units == "date", "date", "number")
           if (arithmetic_type(tree$op, types) == "date") return("date")
           if (is_share(tree)) return("percent")
           if (tree$op == "/") return(ratio_unit(units))
           if (tree$op == "-" && all(units == "percent")) "points" else combined_unit(units)
         }, "number")
}

aggregate_unit <- function(tree, money) {
  if (tree$fn %in% c("count", "distinct")) return("count")
  if (identical(tree$type, "date")) return("date")
  unit <- if (tree$arg$kind == "per") unit_of(tree$arg$inner, money) else row_unit(tree$arg, money)
  # The mean number of lines is no whole number, and squared money is no money.
  if (tree$fn == "var" || unit == "count" && !tree$fn %in% c("sum", "min", "max")) "number" else
    unit
}

row_unit <- function(tree, money) {
  switch(tree$kind,
         name = if (tree$name %in% money) "money" else "number",
         computed = row_unit(tree$tree, money),
         choose = combined_unit(vapply(tree$args, row_unit, "", money = money)),
         op = {
           units <- vapply(tree$args, row_unit, "", money = money)
           if (tree$op == "/") ratio_unit(units) else combined_unit(units)
         }, "number")
}

ratio_unit <- function(units) {
  if (units[1] == "money" && units[2] == "money") return("percent")
  if (units[1] == "count" && units[2] == "count") return("number")
  if (units[1] == "money") "money" else if (units[1] == "percent") "percent" else "number"
}

combined_unit <- function(units) {
  known <- setdiff(units, c("number", "date"))
  if ("money" %in% units) "money" else if (length(known)) known[1] else "number"
}

# Whether a quotient is of a part by its whole: some of the lines, orders or amounts of which the
# divisor has all.
is_share <- function(tree) {
  sides <- tree$args
  if (tree$op != "/" || !all(vapply(sides, function(t) t$kind == "aggregate", NA))) return(FALSE)
  part <- sides[[1]]
  whole <- sides[[2]]
  if (part$fn != whole$fn || !part$fn %in% c("sum", "count", "distinct") || !is.null(whole$where))
    return(FALSE)
  alike <- identical(part$arg, whole$arg)
  alike && !is.null(part$where) || part$fn == "count" && is.null(whole$arg) && !is.null(part$arg) &&
    part$arg$kind != "per"
}
