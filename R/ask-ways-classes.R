# Ways of questions that put names into an order or a class by figures: scores, payouts, benchmarks,
# distributions, quadrants, Pareto cuts, tiers.

way_score <- function(x) {
  if (!x$has("score")) return(NULL)
  each <- subject_of(x)
  metrics <- asked_metrics(x)
  if (is.null(each) || length(metrics) < 2) return(NULL)
  x$take("size")
  refuse_fields(x, each, call_of("score", each = each, metrics = metrics, where = asked_where(x),
                                 when = asked_when(x), min_orders = asked_min_orders(x)))
}

way_payout <- function(x) {
  if (!x$has("payout")) return(NULL)
  each <- subject_of(x) %||% x$book$people
  percents <- x$take("percents")
  bounds <- x$take("bounds")
  if (is.null(each) || !length(percents) && !length(bounds) || length(percents) > 1) return(NULL)
  rates <- if (length(bounds)) paste0(bounds, "=", names(bounds), collapse = ",") else
    paste0("0=", full_number_text(percents), "%")
  x$has("target")
  refuse_fields(x, each, call_of("payout", each = each, rates = rates, metrics = asked_metrics(x),
                                 where = asked_where(x), when = asked_when(x)))
}

way_benchmark <- function(x) {
  target <- x$has("target")
  if (!x$has("benchmark") && !target) return(NULL)
  each <- subject_of(x)
  if (is.null(each)) return(NULL)
  plan <- if (target) plan_field(x, each)
  if (target && is.null(plan)) return(NULL)
  best <- x$take("n")
  if (!is.null(x$take("size")) && is.null(best)) best <- 1
  refuse_fields(x, each, call_of("benchmark", each = each, metrics = asked_metrics(x),
                                 best = if (!target) best, plan = plan, where = asked_where(x),
                                 when = asked_when(x), min_orders = asked_min_orders(x)))
}

# The register's field of what was meant to happen.
plan_field <- function(x, each) {
  fields <- names(x$book$registers[[each]]$table)
  hit <- fields[grepl("quota|target|plan|budget", tolower(fields))]
  if (length(hit)) hit[1]
}

way_distribution <- function(x) {
  if (!x$has("distribution")) return(NULL)
  metrics <- asked_metrics(x)
  orders <- trade_metric(x$book, "orders")
  fields <- fields_with(x, c("subject", "by"))
  # "how large are our orders": of single orders.
  single <- c(orders, trade_metric(x$book, "average_order"))
  if (!length(fields) && length(metrics) == 1 && metrics %in% single && !is.null(x$book$order)) {
    fields <- x$book$order
    metrics <- NULL
  }
  x$take("size")
  if (length(fields) > 1) return(NULL)
  call_of("distribution", each = if (length(fields)) fields, metrics = metrics,
          where = asked_where(x), when = asked_when(x))
}

way_quadrants <- function(x) {
  above <- x$has("above_average")
  below <- x$has("below_average")
  highs <- c("high", "low")[c(x$has("high"), x$has("low"))]
  plain <- x$has("quadrants")
  x$has("but")
  x$has("average")
  if (!plain && !above && !below && !length(highs)) return(NULL)
  each <- subject_of(x, "always")
  metrics <- asked_metrics(x)
  if (is.null(each) || length(metrics) != 2) return(NULL)
  light <- if (above && below) return(NULL) else if (above) c("high", "high") else
    if (below) c("low", "low") else if (length(highs)) high_low(x)
  mean <- if (above || below) "mean"
  refuse_fields(x, each, call_of("quadrants", each = each, metrics = metrics, x_divide = mean,
                                 y_divide = mean, highlight = light, where = asked_where(x),
                                 when = asked_when(x), against = x$take("against"),
                                 min_orders = asked_min_orders(x)))
}

# The word before each metric tells its side.
high_low <- function(x) {
  cues <- x$raw$cues[intersect(names(x$raw$cues), c("high", "low"))]
  if (length(cues) == 1) return(rep(names(cues), 2))
  at <- vapply(cues, function(cue) as.double(cue$at), 0)
  names(cues)[order(at)]
}

way_pareto <- function(x) {
  plain <- x$has("pareto")
  make <- x$has("make_up") || !is.null(x$raw$deal) && length(x$raw$percents)
  percents <- x$take("percents")
  if (!plain && !(make && length(percents))) return(NULL)
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  if (grepl("^abc", plain_words(x$raw$cues$pareto$text %||% ""))) percents <- c(percents, 80, 95)
  x$take("counting")
  for (cue in c("share", "make_up")) x$has(cue)
  cut <- if (length(percents)) paste0(full_number_text(percents), "%")
  refuse_fields(x, each, call_of("pareto", each = each, metrics = asked_metrics(x), cut = cut,
                                 where = asked_where(x), when = asked_when(x),
                                 against = x$take("against")))
}

way_tiers <- function(x) {
  groups <- x$take("groups")
  bounds <- x$take("bounds")
  plain <- x$has("tiers")
  if (is.null(groups) && !(plain && length(bounds))) return(NULL)
  each <- subject_of(x)
  if (is.null(each)) return(NULL)
  refuse_fields(x, each, call_of(
    "tiers", each = each, groups = groups,
    tiers = if (length(bounds)) paste0(names(bounds), "=", bounds, collapse = ","),
    metrics = asked_metrics(x), where = asked_where(x), when = asked_when(x),
    against = x$take("against")))
}
