# Names in a tree against what the book knows. `known` is
#   list(fields = data frame(name, role, type), metrics = list of trees, parameters = numbers).
# Metrics and parameters are put in place of their names; fields stay names, checked for use.

resolve_metric <- function(tree, known, context, trail = character()) {
  switch(tree$kind,
         number = tree,
         text = refuse(context, "a text is no metric"),
         name = resolve_metric_name(tree$name, known, context, trail),
         aggregate = resolve_aggregate(tree, known, context),
         op = {
           tree$args <- lapply(tree$args, resolve_metric, known = known, context = context,
                               trail = trail)
           tree
         })
}

resolve_metric_name <- function(name, known, context, trail) {
  if (name %in% trail)
    refuse(context, paste0("metrics refer to each other in a circle: ",
                           paste(c(trail, name), collapse = ", ")), word = name)
  if (name %in% names(known$parameters))
    return(node("number", value = known$parameters[[name]]))
  if (name %in% names(known$metrics))
    return(resolve_metric(known$metrics[[name]], known,
                          list(label = paste0("metric ", quoted(name)),
                               text = tree_text(known$metrics[[name]])), c(trail, name)))
  if (name %in% known$fields$name)
    refuse(context, paste0(quoted(name), " is a field; say how its lines add up"),
           c(i = paste0("For example sum(", name_text(name), ") or count(", name_text(name), ").")),
           word = name)
  refuse(context, paste0("there is no metric, parameter or field called ", quoted(name)),
         offer(name, c(names(known$metrics), names(known$parameters), known$fields$name)),
         word = name)
}

resolve_aggregate <- function(tree, known, context) {
  if (!is.null(tree$where)) tree$where <- resolve_condition(tree$where, known, context)
  if (is.null(tree$arg)) return(tree)
  tree$arg <- resolve_row(tree$arg, known, context, fn = tree$fn)
  if (tree$fn %in% c("sum", "mean")) {
    type <- row_type(tree$arg, known)
    if (type == "empty")
      refuse(context, paste0("every value of ", quoted(tree_text(tree$arg)), " is missing"),
             word = tree$fn)
    if (type != "number")
      refuse(context, paste0(tree$fn, "() needs numbers and ", quoted(tree_text(tree$arg)),
                             " holds ",
                             if (type == "date") "dates" else "text"),
             c(i = paste0("count(", tree_text(tree$arg), ") and distinct(", tree_text(tree$arg),
                          ") work on any field.")), word = tree$fn)
  }
  tree
}

# Fields and parameters in a formula over lines. `fn` is the aggregate around it, if any.
resolve_row <- function(tree, known, context, fn = NULL) {
  if (tree$kind == "op") {
    tree$args <- lapply(tree$args, resolve_row, known = known, context = context,
                        fn = if (is.null(fn)) "arithmetic" else fn)
    return(tree)
  }
  if (tree$kind != "name") return(tree)
  name <- tree$name
  if (name %in% known$fields$name) {
    refuse_added_identifier(name, known, context, fn)
    return(tree)
  }
  if (name %in% names(known$parameters))
    return(node("number", value = known$parameters[[name]]))
  if (name %in% names(known$metrics))
    refuse(context, paste0(quoted(name), " is a metric; only fields can stand here"),
           c(i = "Divide or add metrics outside the aggregates, as in revenue / orders."),
           word = name)
  refuse(context, paste0("there is no field called ", quoted(name)),
         offer(name, c(known$fields$name, names(known$parameters)), "Fields"), word = name)
}

refuse_added_identifier <- function(name, known, context, fn) {
  field <- known$fields[match(name, known$fields$name), ]
  if (is.null(fn) || !fn %in% c("sum", "mean", "arithmetic")) return(invisible())
  if (field$role == "identifier")
    refuse(context, paste0(quoted(name), " is an identifier: it is counted, never added up"),
           c(i = paste0("distinct(", name_text(name), ") counts them; if it is an amount, ",
                        "give it the role measure.")), word = name)
  if (field$role == "dimension" && field$type == "number")
    refuse(context, paste0(quoted(name), " is a dimension: its numbers are names"),
           c(i = "If it is an amount, give it the role measure."), word = name)
  if (field$from != "lines" && field$type == "number")
    refuse(context, paste0(quoted(name), " stands in the register of ", field$from,
                           ", once for each name; on the lines it would be added again and again"),
           word = name)
}

# number, text or date
row_type <- function(tree, known) {
  switch(tree$kind, number = "number", text = "text", date = "date",
         name = known$fields$type[match(tree$name, known$fields$name)],
         op = {
           types <- vapply(tree$args, row_type, "", known = known)
           if (all(types == "number")) "number" else types[types != "number"][1]
         })
}

resolve_condition <- function(tree, known, context) {
  switch(tree$kind,
         logic = {
           tree$args <- lapply(tree$args, resolve_condition, known = known, context = context)
           tree
         },
         missing = {
           tree$arg <- resolve_row(tree$arg, known, context)
           tree
         },
         within = {
           tree$arg <- resolve_row(tree$arg, known, context)
           tree$set$values <- as_type_of(tree$arg, tree$set$values, known, context)
           tree$set$dates <- row_type(tree$arg, known) == "date"
           tree
         },
         compare = resolve_compare(tree, known, context))
}

resolve_compare <- function(tree, known, context) {
  # A literal on the left is turned to the right, so that later steps see one form.
  if (tree$args[[1]]$kind %in% c("number", "text") &&
        !tree$args[[2]]$kind %in% c("number", "text"))
    tree <- node("compare", op = turned(tree$op), args = rev(tree$args))
  tree$args <- lapply(tree$args, resolve_row, known = known, context = context)
  types <- vapply(tree$args, row_type, "", known = known)
  if (types[1] == "text" && !tree$op %in% c("==", "!="))
    refuse(context, "text is compared with == or !=, it has no order", word = tree$op)
  right <- tree$args[[2]]
  if (right$kind %in% c("number", "text")) {
    value <- as_type_of(tree$args[[1]], right$value, known, context)
    tree$args[[2]] <- node(if (types[1] == "date") "date" else right$kind, value = value)
    tree$type <- types[1]
    return(tree)
  }
  if (types[1] != types[2])
    refuse(context, paste0("a ", types[1], " and a ", types[2], " cannot be compared"),
           word = tree$op)
  tree$type <- types[1]
  tree
}

turned <- function(op) {
  switch(op, `<` = ">", `<=` = ">=", `>` = "<", `>=` = "<=", op)
}

# Literals as the left side needs them; says how to write them where they do not fit.
as_type_of <- function(left, values, known, context) {
  type <- row_type(left, known)
  name <- tree_text(left)
  if (type == "number" && !is.numeric(values))
    refuse(context, paste0(quoted(name), " holds numbers and ", shown(values[1]), " is text"))
  if (type == "text" && is.numeric(values))
    refuse(context, paste0(quoted(name), " holds text and ", format_plain(values[1]),
                           " is a number; put it in quotes"))
  if (type != "date") return(values)
  dates <- as_iso_date(as.character(values))
  if (anyNA(dates))
    refuse(context, paste0(quoted(name), " holds dates and ", shown(values[is.na(dates)][1]),
                           " is none; write them as \"2026-03-31\""))
  values <- as.numeric(dates)
  values
}

# ISO dates as text; NA where it is none.
as_iso_date <- function(x) {
  ok <- grepl("^[0-9]{4}-[0-9]{1,2}-[0-9]{1,2}$", x)
  out <- as.Date(rep(NA_character_, length(x)))
  out[ok] <- as.Date(x[ok], format = "%Y-%m-%d")
  out
}

# Literals that a condition compares with text fields: list of list(field, values), so that the
# book can look whether such names exist.
literals_in <- function(tree) {
  if (is.null(tree)) return(list())
  own <- list()
  if (tree$kind == "within" && tree$arg$kind == "name" && is.character(tree$set$values))
    own <- list(list(field = tree$arg$name, values = tree$set$values))
  if (tree$kind == "compare" && tree$op %in% c("==", "!=") && tree$args[[1]]$kind == "name" &&
        tree$args[[2]]$kind == "text")
    own <- list(list(field = tree$args[[1]]$name, values = tree$args[[2]]$value))
  c(own, unlist(lapply(children(tree), literals_in), recursive = FALSE))
}
