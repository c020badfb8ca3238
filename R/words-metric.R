# Metrics: arithmetic between aggregates, metrics, parameters and numbers.

read_metric <- function(x, label) read_tree(x, label, metric_node)

metric_node <- function(x, context) {
  if (!is.call(x)) return(literal_node(x, context))
  fn <- called(x)
  if (fn %in% aggregates) return(aggregate_node(x, context))
  if (fn %in% plain_functions) return(arithmetic_node(x, context, metric_node))
  if (fn %in% c("change", "growth"))
    return(node("versus", fn = fn, arg = metric_node(call_args(x, context, 1)[[1]], context)))
  if (fn == "as_of") return(as_of_node(x, context))
  if (fn == "per")
    refuse(context, "per() stands inside an aggregate",
           c(i = "For example max(per(order_no, sum(net))), the largest order."), word = "per")
  refuse_call(x, context, c(aggregates, "per", arithmetic, "abs", "pmin", "pmax", "change",
                            "growth", "as_of"), "a metric")
}

aggregate_node <- function(x, context) {
  fn <- called(x)
  args <- call_args(x, context, switch(fn, count = 0, quantile = 2, 1), if (fn == "quantile") 2
                    else 1)
  if (!length(args)) return(node("aggregate", fn = fn, arg = NULL, where = NULL, prob = NULL))
  prob <- if (fn == "quantile") literal_node(args[[2]], context)
  inside <- args[[1]]
  where <- NULL
  if (called(inside) == "[") {
    parts <- call_args(inside, context, 2)
    where <- condition_node(parts[[2]], context)
    inside <- parts[[1]]
  }
  per <- called(inside) == "per"
  arg <- if (per) per_node(inside, context) else row_node(inside, context)
  if (arg$kind %in% c("number", "text"))
    refuse(context, paste0(fn, "() needs a field"), c(i = "count() counts lines."), word = fn)
  if (fn == "distinct" && !arg$kind %in% c("name", "bucket"))
    refuse(context, "distinct() counts the names of one field", word = fn)
  node("aggregate", fn = fn, arg = arg, where = where, prob = prob)
}

# per(field, aggregate): the metric of each name of the field.
per_node <- function(x, context) {
  args <- call_args(x, context, 2)
  by <- row_node(args[[1]], context)
  if (by$kind != "name")
    refuse(context, "per() adds up within each name of a field",
           c(i = "For example per(order_no, sum(net))."), word = "per")
  node("per", by = by, inner = metric_node(args[[2]], context))
}
