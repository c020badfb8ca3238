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
  if (!x$has("lines")) return(NULL)
  x$has("latest")
  sort <- x$take("sort_by")
  if (is.null(sort) && !is.null(x$raw$size) && length(x$raw$measures) == 1)
    sort <- x$take("measures")
  if (!is.null(sort)) x$take("size")
  metrics <- x$take("metrics")
  returns <- length(metrics) == 1 && identical(trade_metric(x$book, "returns"), metrics)
  where <- c(asked_where(x), if (returns) returns_condition(x$book))
  last <- !is.null(sort) && identical(x$raw$size, "bottom")
  call_of("detail", sort_by = sort, first = if (last) "lowest",
          top = x$take("n"), where = if (length(where)) paste(where, collapse = " & "),
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
  if (!length(fields) && identical(metrics, orders) && !is.null(x$book$order)) {
    fields <- x$book$order
    metrics <- NULL
  }
  x$take("size")
  average <- identical(metrics, trade_metric(x$book, "average_order"))
  if (length(fields) > 1 || average && !length(fields)) return(NULL)
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
    if (below) c("low", "low") else if (length(highs)) high_low(x, metrics)
  mean <- if (above || below) "mean"
  refuse_fields(x, each, call_of("quadrants", each = each, metrics = metrics, x_divide = mean,
                                 y_divide = mean, highlight = light, where = asked_where(x),
                                 when = asked_when(x), against = x$take("against"),
                                 min_orders = asked_min_orders(x)))
}

# The word before each metric tells its side.
high_low <- function(x, metrics) {
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
  if (identical(x$raw$cues$pareto$text, "abc analysis of") || grepl(
    "^abc", plain_words(x$raw$cues$pareto$text %||% ""))) percents <- c(percents, 80, 95)
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

# Names that were there in one period and not in another.
way_sets <- function(x) {
  whens <- vapply(x$raw$whens, `[[`, "", "text")
  new <- x$has("new")
  never <- x$has("never")
  no <- isTRUE(x$raw$not_deal)
  names <- x$raw$names
  negative <- Filter(function(one) one$negative, names)
  positive <- Filter(function(one) !one$negative, names)
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  active <- function(when, names) active_text(x, when, names)
  out <- function(text) {
    x$has("active")
    refuse_fields(x, each, call_of("sets", each = each, sets = text, metrics = asked_metrics(x),
                                   top = x$take("n")))
  }
  types <- Filter(function(one) (one$subject || one$loose) && one$from == each, positive)
  things <- setdiff_names(positive, types)
  if (new && !never) {
    if (length(whens) > 1) return(NULL)
    when <- if (length(whens)) asked_when(x) else {
      assumed(x, "new in this year to date")
      "this year to date"
    }
    before <- read_period(when, book_dates(x$book, "when"))$from - 1
    if (before < first_day(x$book)) return(NULL)
    conditions <- where_text(x, names)
    return(out(paste0(active(when, conditions), " - ",
                      active(paste0(first_day(x$book), "/", before), conditions))))
  }
  # in 2024 and 2026 but not in 2025
  if (length(whens) == 2 && length(x$raw$not_when)) {
    x$take("whens")
    gone <- x$take("not_when")
    rest <- where_text(x, names)
    return(out(paste0(active(whens[1], rest), " & ", active(whens[2], rest), " - ",
                      active(gone, rest))))
  }
  # bought only feed; bought frames and jars
  bought <- !is.null(x$raw$deal) && !no && !never && !length(negative) && length(things) &&
    same_field(things) && !length(x$raw$metrics) && !length(x$raw$size) && !isTRUE(x$raw$counting)
  if (bought && (isTRUE(x$raw$nothing_else) || isTRUE(x$raw$both) && things[[1]]$field != each)) {
    if (length(whens) > 1) return(NULL)
    when <- asked_when(x) %||% "all"
    if (isTRUE(x$take("nothing_else"))) {
      other <- lapply(things, function(one) {
        one$negative <- TRUE
        one
      })
      return(out(paste0(active(when, where_text(x, c(types, things))), " - ",
                        active(when, where_text(x, c(types, other))))))
    }
    each_of <- vapply(things, function(one) active(when, where_text(x, c(types, list(one)))), "")
    return(out(paste(each_of, collapse = " & ")))
  }
  # did not buy feed; never bought booklets; bought hives but not frames. What stands before the verb
  # tells who they are.
  told <- Filter(function(one) one$at < x$raw$deal_at %||% 0, things)
  if ((no || never) && identical(each, customer_field(x$book))) {
    types <- c(types, told)
    things <- setdiff_names(things, told)
  }
  denied <- if (no || never) things else negative
  bought_not <- length(negative) && !is.null(x$raw$deal) && length(positive) &&
    same_field(c(negative, things))
  if ((no || never) && length(denied) || bought_not) {
    x$take("not_deal")
    if (length(whens) > 1) return(NULL)
    when <- asked_when(x) %||% "all"
    have <- if (no || never) c(types, negative) else c(types, things)
    return(out(paste0(active(when, where_text(x, have)), " - ",
                      active(when, where_text(x, lapply(denied, function(one) {
                        one$negative <- FALSE
                        one
                      }))))))
  }
  # never ordered: of the register
  if (never && !length(things) && each %in% names(x$book$registers)) {
    if (length(whens) > 1) return(NULL)
    when <- asked_when(x) %||% "all"
    cond <- where_text(x, c(types, negative))
    x$take("not_deal")
    return(out(paste0(if (length(cond)) paste0("registered(", cond, ")") else "registered()", " - ",
                      active(when, NULL))))
  }
  NULL
}

same_field <- function(names) length(unique(vapply(names, `[[`, "", "field"))) == 1

where_text <- function(x, names) {
  same <- function(one) any(vapply(names, function(n) identical(c(n$at, n$value),
                                                                c(one$at, one$value)), NA))
  x$mark(paste0("name:", which(vapply(x$raw$names, same, NA))))
  text <- c(name_conditions(x, names), x$take("conditions"))
  if (length(text)) paste(text, collapse = " & ")
}

active_text <- function(x, when, where) {
  paste0("active(", encodeString(when, quote = "\""), if (length(where)) paste0(", ", where), ")")
}

# The year before a period.
gap_period <- function(x, when) {
  start <- read_period(when[1], book_dates(x$book, "when"))$from
  as.character(as.integer(format(start, "%Y")) - 1L)
}

# Came back: there before a gap and after it, not in it.
way_back <- function(x) {
  if (!x$has("back")) return(NULL)
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  x$has("gap")
  whens <- x$take("whens")
  texts <- vapply(whens, `[[`, "", "text")
  after_gap <- !is.null(x$raw$cues$gap) && length(texts) > 1
  now <- if (length(texts)) texts[1] else "this year to date"
  gap <- x$take("not_when") %||% (if (after_gap) texts[2] else gap_period(x, now))
  if (length(texts) > 2) return(NULL)
  dates <- book_dates(x$book, "when")
  before <- read_period(gap, dates)$from - 1
  if (before < first_day(x$book)) return(NULL)
  whole <- fixed_period(format(before, "%Y"))
  earlier <- if (whole$to == before && whole$from - first_day(x$book) >= -part_days)
    format(before, "%Y") else if (abs(as.integer(first_day(x$book) - whole$from)) <= part_days &&
                                  whole$to == before) format(before, "%Y") else
      paste0(first_day(x$book), "/", before)
  cond <- where_text(x, x$raw$names)
  refuse_fields(x, each, call_of("sets", each = each, sets = paste0(
    active_text(x, earlier, cond), " & ", active_text(x, now, cond), " - ",
    active_text(x, gap, cond)), metrics = asked_metrics(x), top = x$take("n")))
}

way_lapsed <- function(x) {
  whens <- vapply(x$raw$whens, `[[`, "", "text")
  stopped <- x$has("stopped")
  no <- isTRUE(x$raw$not_deal)
  then_not <- length(whens) == 1 && length(x$raw$not_when)
  if (!stopped && !no && !then_not) return(NULL)
  x$take("not_deal")
  x$take("grows")
  # The finding tells how many.
  x$take("counting")
  x$has("active")
  for (cue in c("fall", "never")) x$has(cue)
  each <- subject_of(x, "always")
  if (is.null(each)) return(NULL)
  inactive <- x$take("not_when")
  when <- asked_when(x)
  active <- NULL
  if (!is.null(inactive)) active <- when else inactive <- when
  size <- asked_size(x)
  if (length(size) && names(size) == "bottom") return(NULL)
  refuse_fields(x, each, call_of("lapsed", each = each, active = active, inactive = inactive,
                                 never = "leave", metrics = asked_metrics(x), top = size$top,
                                 where = asked_where(x), min_orders = asked_min_orders(x)))
}

asked_min_orders <- function(x) {
  orders <- trade_metric(x$book, "orders")
  hit <- compares_of(x, function(one) {
    one$type == "metric" && one$op == ">=" && identical(one$name, orders)
  })
  if (length(hit) > 1) left_over(x, "compare:1", list(study = "a ranking"))
  if (length(hit)) hit[[1]]$value
}

# Metrics held against numbers: who is above, below.
way_having <- function(x) {
  compares <- metric_compares(x)
  if (!length(compares)) return(NULL)
  orders <- trade_metric(x$book, "orders")
  ranked <- !is.null(x$raw$size) || length(x$raw$metrics)
  only_orders <- ranked && all(vapply(compares, function(one) identical(one$name, orders) &&
                                        one$op == ">=" && one$with, NA))
  if (only_orders) return(NULL)
  each <- subject_of(x)
  if (is.null(each) || length(x$raw$metrics) || !is.null(x$raw$size)) return(NULL)
  when <- asked_when(x)
  where <- asked_where(x)
  part <- vapply(compares, function(one) paste0(
    "having(", name_text(one$name), " ", one$op, " ", full_number_text(one$value),
    if (!is.null(when)) paste0(", when = ", encodeString(when, quote = "\"")),
    if (!is.null(where)) paste0(", where = ", where), ")"), "")
  refuse_fields(x, each, call_of("sets", each = each, sets = paste(part, collapse = " & ")))
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

way_share <- function(x) {
  if (!x$has("share")) return(NULL)
  by <- fields_with(x, "by")
  subject <- fields_with(x, "subject")
  direction <- if (x$has("along_rows")) "row" else if (x$has("along_columns")) "column" else "all"
  x$has("how_much")
  metric <- first_asked_metric(x)
  if (length(x$raw$metrics) > 1) return(NULL)
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
  condition <- paste(name_conditions(x, names), collapse = " & ")
  arg <- tree_text(tree$arg)
  if (tree$arg$kind == "op") arg <- paste0("(", arg, ")")
  formula <- paste0(tree$fn, "(", arg, "[", condition, "]) / ", name_text(metric))
  call_of("total", metrics = c(share = formula), where = asked_where(x, names),
          when = asked_when(x))
}

way_holds <- function(x) {
  if (!x$has("holds")) return(NULL)
  within <- fields_with(x, "within")
  each <- setdiff(c(fields_with(x, c("subject", "by")), if (identical(
    asked_metrics(x), trade_metric(x$book, "orders"))) x$book$order), within)
  if (identical(each, x$book$order)) metrics <- NULL else metrics <- asked_metrics(x)
  size <- x$take("size")
  if (!is.null(x$take("n"))) return(NULL)
  if (length(each) > 1 || length(within) > 1) return(NULL)
  call_of("holders", each = if (length(each)) each, metrics = metrics,
          which = if (identical(size, "bottom")) "lowest", within = if (length(within)) within,
          where = asked_where(x), when = asked_when(x))
}

# Fastest growing, largest falls, growth by each: ranks of change.
way_growth <- function(x) {
  grows <- x$take("grows")
  if (is.null(grows) || !is.null(x$raw$cues$trend) || !is.null(x$raw$every)) return(NULL)
  for (cue in c("rise", "fall", "change", "how_much")) x$has(cue)
  metric <- first_asked_metric(x)
  if (length(x$raw$metrics) > 1) return(NULL)
  each <- subject_of(x)
  when <- asked_when(x) %||% "this year to date"
  against <- x$take("against") %||% "year before"
  formula <- if (grows$relative) c(growth = paste0("growth(", name_text(metric), ")")) else
    c(change = paste0("change(", name_text(metric), ")"))
  if (is.null(each)) return(call_of("total", metrics = metric, where = asked_where(x), when = when,
                                    against = against))
  x$take("size")
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

# How many names, of how many lines.
way_counting <- function(x) {
  if (!isTRUE(x$take("counting"))) return(NULL)
  each <- subject_of(x)
  metrics <- asked_metrics(x)
  by <- setdiff(fields_with(x, "by"), each)
  if (length(x$raw$compares)) return(NULL)
  # "how often was it hired": in how many orders.
  orders <- trade_metric(x$book, "orders")
  if (!length(metrics) && (identical(each, x$book$order) && !is.null(orders) ||
                             is.null(each) && !is.null(x$raw$deal) && !length(x$raw$fields))) {
    return(if (!is.null(orders)) call_of("total", metrics = orders, where = asked_where(x),
                                         when = asked_when(x)))
  }
  if (!is.null(each) && !length(metrics)) {
    plural <- gsub(" ", "_", plain_words(plural_word(field_noun(x$book, each))))
    metrics <- stats::setNames(paste0("distinct(", name_text(each), ")"), plural)
    if (length(by)) return(refuse_fields(x, c(each, by), call_of(
      "standings", each = by[1], metrics = metrics, where = asked_where(x), when = asked_when(x))))
    return(refuse_fields(x, each, call_of("total", metrics = metrics, where = asked_where(x),
                                          when = asked_when(x))))
  }
  NULL
}

# Ranks, splits and totals: what is left.
way_plain <- function(x) {
  for (cue in c("how_much", "rank", "leads", "change", "rise", "fall")) x$has(cue)
  # "how much did we make", "how many orders": the metric is what is counted.
  if (plain_words(x$raw$cues$make_up$text %||% "") %in% c("make", "makes", "bring", "brings"))
    x$has("make_up")
  if (length(x$raw$metrics)) x$take("counting")
  within <- fields_with(x, "within")
  by <- fields_with(x, "by")
  money <- grepl("^(spen|sell|sold|bring|brought|tak|took)", x$raw$deal_word %||% "")
  bought <- asks_what(x$text) && !is.null(x$raw$deal) && (length(x$raw$size) || !money) &&
    !length(fields_with(x, "subject")) && !length(x$raw$metrics)
  subject <- if (bought) product_field(x$book) else subject_of(x)
  if (bought && is.null(subject)) return(NULL)
  parts <- x$take("parts")
  size <- asked_size(x)
  if (!is.null(x$raw$cues$rank) || !is.null(x$raw$cues$leads)) {
    subject <- subject %||% (if (!is.null(x$raw$cues$leads)) subject_of(x, "always"))
    if (!is.null(x$raw$cues$leads) && !length(size)) size <- asked_default(x)
  }
  metrics <- asked_metrics(x)
  when <- asked_when(x)
  against <- x$take("against") %||% x$env$against
  if (!is.null(against) && is.null(when)) when <- "this year to date"
  where <- asked_where(x)
  if (length(parts)) {
    if (length(c(by, subject)) || length(parts) > 1) return(NULL)
    size <- size_of_metric(x, size, metrics[1] %||% names(x$book$metrics)[1])
    return(list(study = "standings", args = c(list(each = parts, metrics = metrics, where = where,
                                                   when = when), size)))
  }
  # "customers per rep": how many of them.
  if (isTRUE(x$raw$per) && is.null(metrics) && length(by) == 1 && !is.null(subject) &&
        !identical(by, subject) && !length(size) && !length(within)) {
    plural <- gsub(" ", "_", plain_words(plural_word(field_noun(x$book, subject))))
    count <- stats::setNames(paste0("distinct(", name_text(subject), ")"), plural)
    return(call_of("standings", each = by, metrics = count, where = where, when = when,
                   against = against))
  }
  fields <- unique(c(subject, by))
  # The best rep of each territory: whom, within what.
  if (length(size) && length(by) && length(setdiff(by, subject)) == 1 && !is.null(subject) &&
        !length(within)) {
    within <- setdiff(by, subject)
    fields <- subject
  }
  if (length(within) > 1) return(NULL)
  if (!length(fields) && length(within)) return(NULL)
  if (length(size) && !length(fields)) whom_back(x)
  if (length(within) && !length(size)) {
    if (is.null(subject)) return(NULL)
  }
  if (length(fields) == 0) {
    if (is.null(metrics) && is.null(x$raw$deal)) {
      if (length(x$raw$names)) return(NULL)
      if (is.null(against) && is.null(when)) return(NULL)
    }
    return(call_of("total", metrics = metrics, where = where, when = when, against = against))
  }
  first <- metrics[1] %||% names(x$book$metrics)[1]
  size <- size_of_metric(x, size, first)
  singular <- length(size) && length(within) && is.null(x$raw$n)
  if (singular) {
    size[[1]] <- 1
    x$env$taken <- setdiff(x$env$taken, "ten shown")
  }
  least <- asked_min_orders(x)
  if (length(fields) == 1 || length(size))
    return(refuse_fields(x, c(fields[1], within), list(study = "standings", args = c(list(
      each = fields[1], metrics = metrics, within = if (length(within)) within, where = where,
      when = when, against = against, min_orders = least), size))))
  if (length(fields) == 2 && is.null(against) && is.null(least) && !length(within))
    return(call_of("crosstab", rows = fields[1], columns = fields[2], metrics = metrics,
                   where = where, when = when))
  NULL
}

asked_default <- function(x) {
  assumed(x, "ten shown")
  list(top = default_top)
}

# "top 10 by revenue": of whom?
whom_back <- function(x) {
  fields <- utils::head(dimensions_of(x$book), 9)
  plural <- vapply(fields, function(field) plural_word(field_noun(x$book, field)), "")
  ask_back(x$text, "Of whom is not said", stats::setNames(paste0("\"", plural, "\""), plural))
}

ask_ways <- list(way_check, way_portrait, way_lines, way_replaced, way_space, way_goes, way_why,
                 way_score, way_payout, way_benchmark, way_distribution, way_quadrants, way_pareto,
                 way_tiers, way_cohorts, way_back, way_sets, way_lapsed, way_having, way_versus,
                 way_share, way_holds, way_growth, way_trend, way_counting, way_plain)
