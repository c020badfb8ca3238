# Names in a metric against what the book knows. `known` is
#   fields      data frame of name, role, type, from
#   also        other names of fields: c(client = "account")
#   computed    trees of computed fields and bands, by name
#   metrics     trees of metrics as typed, by name
#   resolved    an environment for trees of metrics that were resolved; none where it is missing
#   parameters  numbers, by name
#   as_of       the book's date, in days
#   grain       "lines", or "summed" where the lines were added up before
# Metrics and parameters are put in place of their names; fields stay names, checked for use.

resolve_metric <- function(tree, known, context, trail = character()) {
  again <- function(t) resolve_metric(t, known, context, trail)
  switch(tree$kind,
         number = tree,
         text = refuse(context, "a text is no metric"),
         as_of = as_of_date(known, context),
         name = resolve_metric_name(tree$name, known, context, trail),
         aggregate = resolve_aggregate(tree, known, context, trail),
         versus = {
           tree$arg <- again(tree$arg)
           if (has_kind(tree$arg, "versus"))
             refuse(context, paste0(tree$fn, "() cannot stand inside another change or growth"),
                    word = tree$fn)
           tree
         },
         op = {
           tree$args <- lapply(tree$args, again)
           check_arithmetic(tree$op, vapply(tree$args, metric_type, ""), context)
           tree
         })
}

resolve_metric_name <- function(name, known, context, trail) {
  if (guarded(name) %in% c(trail, names(known$metrics))) name <- guarded(name)
  if (name %in% trail)
    refuse(context, paste0("metrics refer to each other in a circle: ",
                           paste(c(trail, name), collapse = ", ")), word = name)
  if (name %in% names(known$parameters))
    return(node("number", value = known$parameters[[name]]))
  if (name %in% names(known$metrics)) return(resolve_named(name, known, trail))
  field <- field_called(name, known)
  if (!is.null(field))
    refuse(context, paste0(quoted(name), " is a field; say how its lines add up"),
           c(i = paste0("For example sum(", name_text(name), ") or count(", name_text(name), ").")),
           word = name)
  refuse(context, paste0("there is no metric, parameter or field called ", quoted(name)),
         offer(name, c(names(known$metrics), names(known$parameters), all_names(known))),
         word = name)
}

# One that others name is resolved once where `known` has a place for it.
resolve_named <- function(name, known, trail) {
  done <- known$resolved
  if (!is.null(done[[name]])) return(done[[name]])
  tree <- known$metrics[[name]]
  context <- list(label = paste0("metric ", quoted(name)), text = tree_text(tree))
  found <- resolve_metric(tree, known, context, c(trail, name))
  if (!is.null(done)) assign(name, found, envir = done)
  found
}

resolve_aggregate <- function(tree, known, context, trail = character()) {
  if (!is.null(tree$prob)) tree$prob <- resolve_share(tree$prob, known, context)
  if (!is.null(tree$arg) && tree$arg$kind == "per")
    return(resolve_per(tree, known, context, trail))
  refuse_counts(tree, known, context)
  if (!is.null(tree$where)) tree$where <- resolve_condition(tree$where, known, context)
  if (is.null(tree$arg)) return(tree)
  tree$arg <- resolve_row(tree$arg, known, context, fn = tree$fn)
  if (tree$fn %in% c("count", "distinct")) return(tree)
  type <- row_type(tree$arg, known)
  if (type == "empty")
    refuse(context, paste0("every value of ", quoted(tree_text(tree$arg)), " is missing"),
           word = tree$fn)
  if (type != "number" && !(type == "date" && tree$fn %in% c("min", "max")))
    refuse(context, paste0(tree$fn, "() needs numbers and ", quoted(tree_text(tree$arg)),
                           " holds ", if (type == "date") "dates" else "text"),
           c(i = paste0("count(", tree_text(tree$arg), ") and distinct(", tree_text(tree$arg),
                        ") work on any field.")), word = tree$fn)
  if (type == "date") tree$type <- "date"
  tree
}

resolve_share <- function(tree, known, context) {
  if (tree$kind == "name" && tree$name %in% names(known$parameters))
    tree <- node("number", value = known$parameters[[tree$name]])
  if (tree$kind != "number" || tree$value < 0 || tree$value > 1)
    refuse(context, "quantile() takes a share between 0 and 1 after the field",
           c(i = "For example quantile(net, 0.9)."), word = "quantile")
  tree
}

# A metric of each name of a field, then an aggregate of those.
resolve_per <- function(tree, known, context, trail) {
  if (tree$fn == "distinct")
    refuse(context, "distinct() counts names, and per() gives numbers", word = "distinct")
  per <- tree$arg
  per$by <- resolve_row(per$by, known, context)
  if (!row_type(per$by, known) %in% c("text", "date"))
    refuse(context, paste0("per() adds up within each name of an identifier or dimension, and ",
                           quoted(tree_text(per$by)), " is a measure"), word = "per")
  per$inner <- resolve_metric(per$inner, known, context, trail)
  if (!has_kind(per$inner, "aggregate"))
    refuse(context, "per() needs an aggregate of the lines of each name",
           c(i = "For example per(order_no, sum(net))."), word = "per")
  if (has_kind(per$inner, "per") || has_kind(per$inner, "versus"))
    refuse(context, "per(), change() and growth() cannot stand inside per()", word = "per")
  if (metric_type(per$inner) == "date" && !tree$fn %in% c("min", "max", "count"))
    refuse(context, paste0(tree$fn, "() needs numbers and per() gives dates here"), word = tree$fn)
  tree$arg <- per
  if (metric_type(per$inner) == "date" && tree$fn != "count") tree$type <- "date"
  if (!is.null(tree$where))
    tree$where <- resolve_condition(tree$where, inner_known(known, metric_type(per$inner)),
                                    context)
  tree
}

# Beside [condition] after per(), the only field is `it`, the inner value.
inner_known <- function(known, type) {
  list(fields = data.frame(name = "it", role = "measure", type = type, from = "lines"),
       parameters = known$parameters, as_of = known$as_of, inner = TRUE)
}

# Lines that were added up before cannot be counted again.
refuse_counts <- function(tree, known, context) {
  if (!identical(known$grain, "summed")) return(invisible())
  dates <- tree$fn %in% c("min", "max")
  names <- tree$fn == "distinct" && tree$arg$kind == "name" &&
    identical(known$fields$role[match(tree$arg$name, known$fields$name)], "dimension")
  if (tree$fn == "sum" || dates || names) return(invisible())
  refuse(context, paste0("these lines were added up before (grain: summed), so ", tree$fn,
                         "() would count sums, not orders or lines"),
         c(i = "sum() works, and distinct() of a dimension."), word = tree$fn)
}

# number or date
metric_type <- function(tree) {
  switch(tree$kind,
         date = "date", aggregate = if (identical(tree$type, "date")) "date" else "number",
         op = arithmetic_type(tree$op, vapply(tree$args, metric_type, "")), "number")
}
