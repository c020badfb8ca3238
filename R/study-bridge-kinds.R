# Bridge, continued: rates, names, prices, factors.

# Segments of a rate: effects of their own rates and of mix.
bridge_rate <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  parts <- rate_parts(question)
  found <- period_totals(question, parts$fold)
  rows <- rate_rows(question, parts)
  rows <- rows[step_order(rows$change, rows$name), ]
  found$negative <- any(parts$d$before < 0 | parts$d$now < 0)
  found$moves <- gross_moves(rows$change)
  found$rows <- rows
  picked <- top_steps(rows$change, args$top)
  rest <- rows[setdiff(seq_len(nrow(rows)), picked), ]
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change <= 0)
  groups <- groups[vapply(groups, any, NA)]
  labels <- sprintf("%s (%d)", names(groups), vapply(groups, sum, 0L))
  gathered <- do.call(rbind, lapply(groups, function(g) gathered_rate(rest[g, ], parts)))
  total <- gathered_rate(rows, parts)
  total[c("before", "now")] <- c(found$then, found$now)
  found$table <- rate_table(question, rows[picked, ], rows$name[picked])
  foot <- rate_table(question, rbind(gathered, total), c(labels, "total"))
  found$parts <- list(foot = foot)
  units <- c("text", "percent", "percent", metric$unit, metric$unit,
             rep(change_unit(metric$unit), 3))
  digits <- c(NA, 1, 1, rep(if (metric$unit == "percent") 2 else NA, 5))
  found$columns <- new_columns(names(found$table), units, digits = digits)
  found$effects <- c(rate = sum(rows$rate), mix = sum(rows$mix))
  found$steps <- with_gathered(rows[picked, ], labels, gathered$change)
  found
}

# list(fold, n, d): both periods by segment, and what the rate divides in each.
rate_parts <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  trees <- c(stats::setNames(list(metric$tree), metric$name),
             list(.n = args$ratio$n, .d = args$ratio$d))
  fold <- both_periods(question, args$by, trees)
  for (side in c("before", "now")) for (part in c(".n", ".d"))
    if (!adds_up(trees[[part]]))
      refuse_overlap(question, or_zero(fold[[side]][[part]]),
                     fold[[paste0("total_", side)]][[part]], paste("what", metric$name, "divides"))
  side <- function(part) lapply(fold[c("before", "now")], function(v) or_zero(v[[part]]))
  list(fold = fold, n = side(".n"), d = side(".d"))
}

# Every segment's weight, rate, and what both brought to the change.
rate_rows <- function(question, parts) {
  n <- parts$n
  d <- parts$d
  name <- first_metric(question)$name
  effect <- split_rate(n$before, d$before, n$now, d$now)
  data.frame(name = named_keys(parts$fold$keys)[[1]], mix_before = d$before / sum(d$before),
             mix_now = d$now / sum(d$now), before = parts$fold$before[[name]],
             now = parts$fold$now[[name]], rate = effect$rate, mix = effect$mix,
             change = effect$rate + effect$mix)
}

# Several segments as one: the rate is their parts over their weights.
gathered_rate <- function(rows, parts) {
  at <- match(rows$name, named_keys(parts$fold$keys)[[1]])
  rate <- function(side) {
    weight <- sum(parts$d[[side]][at])
    if (weight != 0) sum(parts$n[[side]][at]) / weight else NA_real_
  }
  data.frame(mix_before = sum(rows$mix_before), mix_now = sum(rows$mix_now),
             before = rate("before"), now = rate("now"), rate = sum(rows$rate),
             mix = sum(rows$mix), change = sum(rows$change))
}

rate_table <- function(question, rows, label) {
  as <- function(ending) paste0(first_metric(question)$name, ending)
  out <- data.frame(label, rows$mix_before, rows$mix_now, rows$before, rows$now, rows$rate,
                    rows$mix, rows$change)
  stats::setNames(out, c(question$args$by, "mix_before", "mix_now", as("_before"), as(""),
                         as("_rate_effect"), as("_mix_effect"), as("_effect")))
}

# Names by what became of them.
bridge_names <- function(question) {
  metric <- first_metric(question)
  fold <- added_names(question)
  found <- period_totals(question, fold)
  names <- fold$keys[[1]]
  rows <- cbind(name = named_keys(fold$keys)[[1]], period_changes(question, fold))
  rows$step <- what_became(question, names, rows)
  found$rows <- rows
  found$moves <- gross_moves(rows$change)
  order <- intersect(c("new", "returned", "grown", "unchanged", "shrunk", "gone", "(none)"),
                     rows$step)
  at <- match(rows$step, order)
  sums <- data.frame(lapply(rows[c("before", "now", "change")], function(v) {
    vapply(split(v, factor(at, seq_along(order))), exact_total, 0)
  }), row.names = NULL)
  table <- change_table(question, found, sums, list(step = order,
                                                    name_count = tabulate(at, length(order))))
  found$table <- table
  found$columns <- rbind(new_columns(c("step", "name_count"), c("text", "count")),
                         change_columns(metric))
  found$steps <- data.frame(step = order, change = sums$change)
  found$steps <- found$steps[found$steps$change != 0 | found$steps$step != "unchanged", ]
  total <- change_table(question, found, data.frame(before = found$then, now = found$now,
                                                    change = exact_change(found$now, found$then)),
                        list(step = "total", name_count = nrow(rows)))
  total$gross_share <- NA
  same <- rows$presence == "stayed" & !is.na(names)
  alike <- data.frame(name_count = sum(same), before = exact_total(rows$before[same]),
                      now = exact_total(rows$now[same]))
  alike$change <- exact_change(alike$now, alike$before)
  alike$growth <- growth_of(alike$now, alike$before)
  list_names <- rows[step_order(rows$change, rows$name), ]
  every <- change_table(question, found, list_names,
                        stats::setNames(list(list_names$name), question$args$by))
  found$parts <- list(names = cbind(every[1], step = list_names$step, every[-1]),
                      like_for_like = alike, foot = total)
  found
}

# A name is new without lines before the period now, returned with such lines but none then.
what_became <- function(question, names, rows) {
  out <- ifelse(rows$change > 0, "grown", ifelse(rows$change < 0, "shrunk", "unchanged"))
  out[rows$presence == "gone"] <- "gone"
  fresh <- rows$presence == "new"
  early <- node("compare", op = "<", type = "date",
                args = list(node("name", name = question$book$date),
                            node("date", value = as.numeric(question$asked$now$from))))
  known <- source_fold(question$book$source, key_trees(question$book, question$args$by,
                                                       question$asked$where_now), list(),
                       and_also(question$asked$where_ever, early))$keys[[1]]
  out[fresh] <- ifelse(names[fresh] %in% known, "returned", "new")
  out[is.na(names)] <- "(none)"
  out
}

# The quantity, and the dimension within which it is shared.
price_question <- function(question) {
  # Distinct orders overlap between products, and so between lines with a quantity and without.
  if (!first_metric(question)$adds_up)
    ll_abort(c(paste0("Price and quantity are of a metric that adds up, and ",
                      quoted(first_metric(question)$name), " does not."),
               i = "Take one such as sum(net)."), "argument")
  book <- question$book
  args <- question$args
  fields <- book$fields[book$fields$role == "measure" & book$fields$from == "lines", ]
  asked <- args$quantity
  guessed <- NULL
  if (is.null(asked)) {
    asked <- fields$name[grepl("^(qty|quantity|quantities|units?|pieces)$", tolower(fields$name))]
    if (length(asked) != 1)
      ll_abort(c("'quantity' must be given: which measure counts units.",
                 offer_all("Measures", fields$name)), "argument")
    guessed <- asked
  }
  known <- real_name(book, asked)
  tree <- if (known %in% fields$name) {
    node("aggregate", fn = "sum", arg = node("name", name = known), where = NULL)
  } else {
    asked <- known_metric(asked, book)
    book$metrics[[asked]]$tree
  }
  if (tree$kind != "aggregate" || tree$fn != "sum" || tree$arg$kind == "per")
    ll_abort(paste0("The quantity must be one sum over lines, such as sum(quantity); ",
                    quoted(asked), " is not."), "argument")
  question <- with_args(question, quantity = known, quantity_tree = tree, guessed = guessed)
  if (is.null(args$alike) || args$alike == "all") return(question)
  made <- pick_dimensions(book, args$alike, "alike")
  with_args(altered(question, book = made$book), alike = made$names)
}

# Lines that have a quantity.
counted_lines <- function(question) {
  arg <- question$args$quantity_tree$arg
  nothing <- node("logic", op = "|", args = list(
    node("missing", arg = arg),
    node("compare", op = "==", type = "number", args = list(arg, node("number", value = 0)))))
  and_also(unmet(nothing), question$args$quantity_tree$where)
}

bridge_price <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  trees <- c(stats::setNames(list(metric$tree), metric$name), list(.q = args$quantity_tree))
  keys <- c(args$by, setdiff(args$alike, c("all", args$by)))
  has <- counted_lines(question)
  all <- both_periods(question, character(), trees[1])
  found <- period_totals(question, all)
  fold <- both_periods(question, keys, trees, has)
  bare <- both_periods(question, character(), trees[1], unmet(has))
  value <- period_changes(question, fold)
  q0 <- or_zero(fold$before$.q) / args$days[["before"]]
  q1 <- or_zero(fold$now$.q) / args$days[["now"]]
  kind <- value$presence
  kind[kind == "stayed" & (q0 <= 0 | q1 <= 0)] <- "no price"
  priced <- kind == "stayed"
  group <- if (!is.null(args$alike)) {
    if (identical(args$alike, "all")) rep(1L, sum(priced)) else
      match(fold$keys[[args$alike]][priced], unique(fold$keys[[args$alike]]))
  }
  split <- split_prices(value$before[priced], q0[priced], value$now[priced], q1[priced], group)
  none <- period_changes(question, bare)
  found$bare <- none
  step <- c(vapply(split, sum, 0), vapply(c("new", "gone", "no price"), function(one) {
    exact_total(value$change[kind == one])
  }, 0), sum(none$change))
  found$counts <- c(stayed = sum(priced), table(factor(kind, c("new", "gone", "no price"))))
  words <- c(names(split), "new products", "products gone", "products without a price",
             "amounts without a quantity")
  held <- c(rep(TRUE, length(split)), found$counts[c("new", "gone", "no price")] > 0,
            any(none$before != 0 | none$now != 0))
  found$steps <- data.frame(step = words[held], change = unname(step[held]))
  found$moves <- gross_moves(found$steps$change)
  table <- data.frame(step = found$steps$step, change = found$steps$change)
  names(table)[2] <- paste0(metric$name, "_change")
  found$table <- cbind(table, move_shares(found, found$steps$change))
  found$columns <- new_columns(names(found$table), c("text", change_unit(metric$unit), "percent",
                                                     "percent"),
                               digits = c(NA, NA, 1, 1))
  foot <- found$table[NA_integer_, ][1, ]
  foot[1:2] <- list("total", exact_change(found$now, found$then))
  found$parts <- list(products = price_products(question, fold, value, q0, q1, kind, split),
                      foot = foot)
  found
}

# Every product with its price and quantity then and now, largest change first.
price_products <- function(question, fold, value, q0, q1, kind, split) {
  metric <- first_metric(question)$name
  out <- as.data.frame(named_keys(fold$keys), optional = TRUE)
  out$presence <- kind
  price <- function(r, n) ifelse(n > 0, r / n, NA_real_)
  out[paste0(metric, c("_before", "", "_change"))] <- value[c("before", "now", "change")]
  out$quantity_before <- q0
  out$quantity <- q1
  out$price_before <- price(value$before, q0)
  out$price <- price(value$now, q1)
  for (one in names(split)) {
    effect <- rep(NA_real_, nrow(out))
    effect[kind == "stayed"] <- split[[one]]
    out[[paste0(one, "_effect")]] <- effect
  }
  out <- out[order(-abs(value$change), out[[1]], method = "radix"), ]
  rownames(out) <- NULL
  out
}

factors_question <- function(question) {
  asked <- question$args$factors
  if (is.null(asked))
    ll_abort(c("'factors' must be given: metrics whose product is the metric.",
               i = "For revenue: customers, orders per customer, revenue per order."), "argument")
  made <- pick_metrics(question$book, asked)
  if (length(made$metrics) < 2 || length(made$metrics) > 8)
    ll_abort("'factors' takes two to eight metrics.", "argument")
  with_args(altered(question, book = made$book), factors = made$metrics)
}

bridge_factors <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  trees <- c(stats::setNames(list(metric$tree), metric$name), lapply(args$factors, `[[`, "tree"))
  trees <- trees[!duplicated(names(trees))]
  fold <- both_periods(question, character(), trees)
  found <- period_totals(question, fold)
  value <- function(total) vapply(names(args$factors), function(name) total[[name]], 0)
  was <- value(fold$total_before)
  now <- value(fold$total_now)
  # A factor without a value, such as orders per customer where there are none, is left where it
  # was: another factor is zero there and tells the whole change.
  found$factors <- list(before = ifelse(is.na(was), now, was), now = ifelse(is.na(now), was, now))
  check_factors(question, found)
  split <- if (args$in_order) ordered_product else shapley_product
  effect <- split(unname(found$factors$before), unname(found$factors$now))
  units <- unname(vapply(args$factors, `[[`, "", "unit"))
  found$steps <- data.frame(step = spoken(names(args$factors)), change = effect)
  found$moves <- gross_moves(effect)
  as <- function(step, before, now, unit, effect) {
    out <- data.frame(step = step, before = before, now = now, growth = growth_of(now, before),
                      unit = unit, effect = effect)
    names(out)[6] <- paste0(metric$name, "_effect")
    out
  }
  found$table <- as(names(args$factors), unname(was), unname(now), units, effect)
  found$columns <- rbind(new_columns(c("step", "before", "now", "growth"),
                                     c("text", "own", "own", "percent")),
                         new_columns("unit", "text", FALSE),
                         new_columns(paste0(metric$name, "_effect"), change_unit(metric$unit)))
  foot <- found$table[NA_integer_, ][1, ]
  foot$step <- metric$name
  foot$growth <- growth_of(found$now, found$then)
  foot[[6]] <- found$now - found$then
  found$parts <- list(foot = foot)
  found
}

# The product of the factors must be the metric, in both periods.
check_factors <- function(question, found) {
  metric <- first_metric(question)
  for (side in c("before", "now")) {
    product <- prod(found$factors[[side]])
    want <- if (side == "now") found$now else found$then
    if (is.na(product) || abs(product - want) > 1e-9 * max(abs(product), abs(want)))
      ll_abort(c(paste0("The product of ", and_list(names(question$args$factors)), " is not ",
                        metric$name, "."),
                 x = paste0(if (side == "now") "Now" else "Then", " it is ",
                            format_number(product), ", and ", metric$name, " ",
                            format_number(want), "."),
                 i = "Each factor has to cancel what the next divides by."), "argument")
  }
}
