# One way for each kind of question: a frame's study and arguments, or NULL where another way is
# meant.

way_check <- function(x) {
  if (!x$has("check")) return(NULL)
  x$has("gap")
  x$has("lines")
  call_of("check", metrics = asked_metrics(x))
}

way_portrait <- function(x) {
  if (!x$has("portrait")) return(NULL)
  names <- x$take("names")
  if (length(names) != 1 || names[[1]]$negative) return(NULL)
  one <- names[[1]]
  call <- call_of("portrait", each = one$field, name = one$value, metrics = asked_metrics(x),
                  when = asked_when(x))
  refuse_fields(x, one$field, call)
}

way_lines <- function(x) {
  if (!x$has("lines") && !order_alone(x)) return(NULL)
  x$has("latest")
  sort <- x$take("sort_by")
  if (is.null(sort) && !is.null(x$raw$size) && length(x$raw$measures) == 1)
    sort <- x$take("measures")
  if (!is.null(sort)) x$take("size")
  metrics <- x$take("metrics")
  returns <- length(metrics) == 1 && identical(trade_metric(x$book, "returns"), metrics)
  where <- all_hold(c(asked_where(x), if (returns) returns_condition(x$book)))
  last <- !is.null(sort) && identical(x$raw$size, "bottom")
  call_of("detail", sort_by = sort, first = if (last) "lowest",
          top = x$take("n"), where = where,
          metrics = if (!returns && length(metrics)) metrics, when = asked_when(x))
}

way_why <- function(x) {
  price <- x$has("into_price")
  names <- x$has("into_names")
  bridge <- x$has("bridge")
  why <- x$has("why")
  if (bridge && (x$has("new") || x$has("stopped"))) {
    names <- TRUE
    for (cue in c("new", "stopped", "grown")) x$has(cue)
  }
  if (!why && !price && !names && !bridge) return(NULL)
  x$take("grows")
  for (cue in c("change", "rise", "fall", "how_much", "goes_with", "new")) x$has(cue)
  by <- fields_with(x, c("by", "subject"))
  if (length(by) > 1) return(NULL)
  when <- asked_when(x)
  args <- list(metrics = asked_metrics(x), where = asked_where(x), when = when,
               against = x$take("against"))
  if (!is.null(args$metrics) && length(args$metrics) > 1) return(NULL)
  if (price) return(list(study = "bridge", args = c(args, list(by = if (length(by)) by else
    product_field(x$book), into = "price"))))
  if (names) return(list(study = "bridge", args = c(args, list(by = if (length(by)) by else
    customer_field(x$book), into = "names"))))
  if (length(by)) return(list(study = "bridge", args = c(args, list(by = by))))
  if (bridge) return(list(study = "bridge", args = c(args, list(by = few_names_dimension(x$book)))))
  list(study = "drill", args = args)
}

way_replaced <- function(x) {
  if (!x$has("replaced")) return(NULL)
  at <- x$raw$cues$replaced$at
  names <- Filter(function(one) !one$negative, x$raw$names)
  before <- Filter(function(one) one$at < at, names)
  after <- Filter(function(one) one$at > at, names)
  fields <- unique(c(vapply(c(before, after), `[[`, "", "field"),
                     fields_with(x, c("subject", "by"))))
  customer <- customer_field(x$book)
  if (is.null(customer) || customer %in% fields) return(NULL)
  if (!length(fields)) return(NULL)
  # "did HV-018 replace other items": the items are those of the name.
  product <- if (length(c(before, after))) c(before, after)[[1]]$field else fields[1]
  if (length(setdiff(fields, product))) return(NULL)
  of <- function(group) if (length(group)) vapply(group, `[[`, "", "value")
  part_names(x, c(before, after))
  call_of("substitution", each = customer, product = product, old = of(after), new = of(before),
          metrics = asked_metrics(x), where = asked_where(x, c(before, after)),
          when = asked_when(x), against = x$take("against"))
}

part_names <- function(x, names) {
  for (one in names) if (one$part)
    assumed(x, quoted(one$words), " is taken for ", with_labels_of(x$book, one$field, one$value))
}

way_space <- function(x) {
  if (!x$has("space")) {
    buys <- x$has("could") && !is.null(x$raw$deal)
    if (!buys) return(NULL)
  }
  x$has("could")
  if (x$has("similar")) return(NULL)
  customer <- customer_field(x$book)
  if (is.null(customer)) return(NULL)
  who <- Filter(function(one) one$field == customer && !one$negative, x$raw$names)
  fields <- setdiff(fields_with(x, c("subject", "by")), customer)
  product <- if (length(fields) == 1) fields else if (!length(fields)) product_field(x$book)
  if (is.null(product)) return(NULL)
  part_names(x, who)
  call_of("whitespace", each = customer, product = product,
          name = if (length(who)) vapply(who, `[[`, "", "value"), metrics = asked_metrics(x),
          where = asked_where(x, who), when = asked_when(x))
}

way_goes <- function(x) {
  fields <- x$has("fields")
  if (!x$has("goes_with") && !(fields && x$has("why"))) return(NULL)
  x$take("size")
  if (length(fields_with(x, c("subject", "by")))) return(NULL)
  call_of("associations", metrics = first_asked_metric(x), where = asked_where(x),
          when = asked_when(x))
}

way_cohorts <- function(x) {
  kept <- x$has("retention")
  both <- x$has("existing") && x$has("new")
  amount <- x$has("new") && (length(x$raw$metrics) || !is.null(x$raw$cues$how_much)) &&
    is.null(x$raw$which) && is.null(x$raw$who)
  much <- amount && isTRUE(asks_how_much(x))
  if (!kept && !both && !much) return(NULL)
  x$has("share")
  each <- subject_of(x) %||% customer_field(x$book)
  if (is.null(each)) return(NULL)
  refuse_fields(x, each, call_of("cohorts", each = each, metrics = asked_metrics(x),
                                 every = x$take("every"), where = asked_where(x),
                                 when = asked_when(x)))
}

asks_how_much <- function(x) {
  grepl("how much|how many|share|percent", tolower(x$text)) || length(x$raw$metrics) > 0
}

way_versus <- function(x) {
  compare <- any(c(x$has("compare"), x$has("versus"), x$has("beside")))
  if (!compare) return(NULL)
  names <- Filter(function(one) !one$negative, x$raw$names)
  fields <- table(vapply(names, `[[`, "", "field"))
  several <- names(fields)[fields >= 2]
  if (length(several) != 1) return(NULL)
  mine <- Filter(function(one) one$field == several, names)
  by <- setdiff(fields_with(x, c("by", "subject")), several)
  if (length(by) > 1) return(NULL)
  if (!length(by)) {
    by <- few_names_dimension(x$book, several)
    if (!length(by)) return(NULL)
    assumed(x, "across ", plural_word(field_noun(x$book, by)))
  }
  part_names(x, mine)
  refuse_fields(x, c(several, by), call_of(
    "versus", each = several, names = unique(vapply(mine, `[[`, "", "value")), by = by,
    metrics = asked_metrics(x), where = asked_where(x, mine), when = asked_when(x)))
}

# "what share of accounts bought jars in 2025": of all who bought.
way_part_of <- function(x) {
  subject <- Filter(function(one) one$role == "subject", x$raw$fields)
  if (is.null(x$raw$cues$share) || is.null(x$raw$deal) || length(x$raw$metrics) ||
        length(subject) != 1 || length(x$raw$fields) != 1) return(NULL)
  x$has("share")
  field <- fields_with(x, "subject")
  x$has("how_much")
  names <- Filter(function(one) !one$negative, x$raw$names)
  what <- Filter(function(one) one$at > (x$raw$deal_at %||% 0), names)
  if (!length(what) || !same_field(what))
    refuse_question(x$text, "What the share is of is not clear", c(
      i = paste0("Say what they bought, or ask how many ", plural_word(field_noun(x$book, field)),
                 " there are of each.")))
  count <- function(condition) paste0("distinct(", name_text(field), condition, ")")
  formula <- paste0(count(paste0("[", all_hold(name_conditions(x, what)), "]")), " / ", count(""))
  call_of("total", metrics = c(share = formula), where = asked_where(x, what), when = asked_when(x))
}

way_share <- function(x) {
  if (!x$has("share")) return(NULL)
  by <- fields_with(x, "by")
  subject <- fields_with(x, "subject")
  direction <- if (x$has("along_rows")) "row" else if (x$has("along_columns")) "column" else "all"
  x$has("how_much")
  metric <- first_asked_metric(x)
  fields <- c(by, subject)
  # "web share by territory": the web's in each, or each one's of the web?
  before <- vapply(x$raw$names, function(one) abs(one$at - x$raw$cues$share$at) == 1, NA)
  if (any(before) && length(fields))
    refuse_question(x$text, "What the share is of is not clear", c(
      i = paste0("Say it by both: share of ", spoken(metric), " by ", spoken(fields[1]), " and ",
                 spoken(x$raw$names[[which(before)[1]]]$field), " along rows.")))
  if (length(fields) %in% 1:2)
    return(call_of("crosstab", rows = fields[1], columns = if (length(fields) == 2) fields[2],
                   metrics = metric, share_of = direction, where = asked_where(x),
                   when = asked_when(x)))
  # What share Moor has: of the metric over the lines of all.
  names <- Filter(function(one) !one$negative, x$raw$names)
  if (length(fields) || !length(names)) return(NULL)
  # "what share is silk in Harwick": of all, or of Harwick's?
  if (!same_field(names))
    refuse_question(x$text, "What the share is of is not clear", c(
      i = paste0("Narrow the whole first, or ask for it by each: share of ", spoken(metric), " by ",
                 spoken(names[[1]]$field), ".")))
  tree <- x$book$metrics[[metric]]$tree
  if (is.null(tree) || tree$kind != "aggregate" || !tree$fn %in% c("sum", "count") ||
        !is.null(tree$where) || is.null(tree$arg) || tree$arg$kind == "per")
    refuse_question(x$text, paste0("A share of ", spoken(metric), " cannot be told by names"), c(
      i = paste0("Ask for it by each: share of ", spoken(metric), " by ",
                 spoken(names[[1]]$field), ".")))
  condition <- all_hold(name_conditions(x, names))
  arg <- tree_text(tree$arg)
  if (tree$arg$kind == "op") arg <- paste0("(", arg, ")")
  formula <- paste0(tree$fn, "(", arg, "[", condition, "]) / ", name_text(metric))
  call_of("total", metrics = c(share = formula), where = asked_where(x, names),
          when = asked_when(x))
}

way_holds <- function(x) {
  if (!x$has("holds")) return(NULL)
  within <- fields_with(x, "within")
  by <- fields_with(x, "by")
  fields <- setdiff(c(fields_with(x, "subject"), by), within)
  metrics <- asked_metrics(x)
  # "which account has the largest order": orders are looked at, accounts told beside them.
  beside <- NULL
  orders <- trade_metric(x$book, "orders")
  if (!is.null(x$book$order) && length(orders) && orders %in% metrics) {
    # "by rep": the largest of each.
    if (!length(within)) within <- by
    beside <- setdiff(fields, c(x$book$order, within))
    fields <- x$book$order
    metrics <- if (length(metrics) > 1) setdiff(metrics, orders)
  }
  size <- x$take("size")
  if (!is.null(x$take("n"))) return(NULL)
  if (length(fields) > 1 || length(within) > 1) return(NULL)
  x$has("rank")
  call_of("holders", each = if (length(fields)) fields, metrics = metrics,
          which = if (identical(size, "bottom")) "lowest", within = if (length(within)) within,
          with_fields = if (length(beside)) beside, where = asked_where(x), when = asked_when(x))
}

# "territories where revenue rose", "the biggest drop by family": of whom a change is told; NULL
# where it is of no field, or is no change, as "better".
moved <- function(x) {
  cues <- x$raw$cues[c("rise", "fall")]
  cues <- cues[lengths(cues) > 0]
  whom <- length(x$raw$fields) || !is.null(x$raw$who)
  if (length(cues) != 1 || !whom || !is.null(x$raw$cues$why)) return(NULL)
  told <- plain_words(cues[[1]]$text)
  if (grepl("better|higher|worse|lower", told) ||
        told %in% c("more", "less") && is.null(x$raw$against)) return(NULL)
  x$has(names(cues))
  list(down = names(cues) == "fall", relative = FALSE, plain = is.null(x$raw$size))
}

# Fastest growing, largest falls, growth by each: ranks of change.
way_growth <- function(x) {
  grows <- x$take("grows") %||% moved(x)
  if (is.null(grows) || !is.null(x$raw$cues$trend) || !is.null(x$raw$every)) return(NULL)
  for (cue in c("rise", "fall", "change", "how_much")) x$has(cue)
  metric <- first_asked_metric(x)
  each <- subject_of(x)
  when <- asked_when(x) %||% "this year to date"
  against <- x$take("against") %||% "year before"
  formula <- if (grows$relative) c(growth = paste0("growth(", name_text(metric), ")")) else
    c(change = paste0("change(", name_text(metric), ")"))
  if (is.null(each)) return(call_of("total", metrics = metric, where = asked_where(x), when = when,
                                    against = against))
  # "bottom 5 by change"
  if (identical(x$take("size"), "bottom")) grows$down <- TRUE
  n <- x$take("n")
  if (is.null(n) && (!isTRUE(grows$plain) || grows$down)) {
    n <- default_top
    assumed(x, "ten shown")
  }
  size <- if (!is.null(n)) stats::setNames(list(n), if (grows$down) "bottom" else "top")
  refuse_fields(x, each, list(study = "standings", args = c(list(
    each = each, metrics = formula, where = asked_where(x), when = when, against = against,
    min_orders = asked_min_orders(x)), size)))
}

way_trend <- function(x) {
  every <- x$take("every")
  if (!x$has("trend") && is.null(every)) return(NULL)
  for (cue in c("how_much", "change", "rise", "fall")) x$has(cue)
  by <- fields_with(x, c("by", "subject"))
  if (length(by) > 1) return(NULL)
  # "how are we doing against last year": two figures, no course.
  if (is.null(every) && !length(by) && !is.null(x$raw$against))
    return(call_of("total", metrics = asked_metrics(x), where = asked_where(x),
                   when = asked_when(x) %||% "this year to date", against = x$take("against")))
  # "orders by month": the word is the metric.
  call_of("trend", metrics = asked_metrics(x), every = every, by = if (length(by)) by,
          where = asked_where(x), when = asked_when(x))
}

ask_ways <- list(way_check, way_portrait, way_lines, way_replaced, way_space, way_goes, way_why,
                 way_score, way_payout, way_benchmark, way_distribution, way_quadrants, way_pareto,
                 way_tiers, way_cohorts, way_back, way_new, way_two_periods, way_bought,
                 way_not_bought, way_never, way_lapsed, way_having, way_versus, way_part_of,
                 way_share, way_holds, way_growth, way_trend, way_orders, way_counting, way_parts,
                 way_per, way_ranks, way_totals)
