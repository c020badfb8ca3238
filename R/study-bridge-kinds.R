# Bridge, continued: rates, names, prices, factors.

# Segments of a rate: effects of their own rates and of mix.
bridge_rate <- function(q) {
  m <- q$first
  trees <- c(stats::setNames(list(m$tree), m$name), list(.n = q$ratio$n, .d = q$ratio$d))
  f <- both_periods(q, q$by, trees)
  n <- lapply(f[c("before", "now")], function(v) or_zero(v$.n))
  d <- lapply(f[c("before", "now")], function(v) or_zero(v$.d))
  for (side in c("before", "now")) for (part in c(".n", ".d"))
    if (!adds_up(trees[[part]]))
      refuse_overlap(q, f[[side]][[part]], f[[paste0("total_", side)]][[part]],
                     paste("what", m$name, "divides"))
  s <- period_totals(q, f)
  effect <- split_rate(n$before, d$before, n$now, d$now)
  whole <- lapply(d, sum)
  rows <- data.frame(name = named_keys(f$keys)[[1]], mix_before = d$before / whole$before,
                     mix_now = d$now / whole$now, before = f$before[[m$name]],
                     now = f$now[[m$name]], rate = effect$rate, mix = effect$mix,
                     change = effect$rate + effect$mix)
  s$negative <- any(unlist(d) < 0)
  rows <- rows[step_order(rows$change, rows$name), ]
  s$moves <- gross_moves(rows$change)
  s$rows <- rows
  picked <- top_steps(rows$change, q$top)
  rest <- rows[setdiff(seq_len(nrow(rows)), picked), ]
  as <- function(ending) paste0(m$name, ending)
  laid <- function(r, label) {
    out <- data.frame(label, r$mix_before, r$mix_now, r$before, r$now, r$rate, r$mix, r$change)
    stats::setNames(out, c(q$by, "mix_before", "mix_now", as("_before"), m$name,
                           as("_rate_effect"), as("_mix_effect"), as("_effect")))
  }
  s$table <- laid(rows[picked, ], rows$name[picked])
  # The rate of several segments is their parts over their weights.
  gather <- function(r) {
    rate <- function(side) {
      at <- match(r$name, named_keys(f$keys)[[1]])
      if (sum(d[[side]][at]) != 0) sum(n[[side]][at]) / sum(d[[side]][at]) else NA_real_
    }
    data.frame(mix_before = sum(r$mix_before), mix_now = sum(r$mix_now),
               before = rate("before"), now = rate("now"), rate = sum(r$rate), mix = sum(r$mix),
               change = sum(r$change))
  }
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change <= 0)
  groups <- groups[vapply(groups, any, NA)]
  labels <- sprintf("%s (%d)", names(groups), vapply(groups, sum, 0L))
  gathered <- do.call(rbind, lapply(groups, function(g) gather(rest[g, ])))
  total <- gather(rows)
  total[c("before", "now")] <- c(s$then, s$now)
  s$parts <- list(foot = laid(rbind(gathered, total), c(labels, "total")))
  rownames(s$table) <- rownames(s$parts$foot) <- NULL
  s$columns <- new_columns(names(s$table), c("text", "percent", "percent", m$unit, m$unit,
                                             rep(change_unit(m$unit), 3)),
                           digits = c(NA, 1, 1, rep(if (m$unit == "percent") 2 else NA, 5)))
  s$effects <- c(rate = sum(rows$rate), mix = sum(rows$mix))
  s$steps <- with_gathered(rows[picked, ], labels, gathered$change)
  s
}

# Names by what became of them.
bridge_names <- function(q) {
  m <- q$first
  f <- added_names(q)
  s <- period_totals(q, f)
  names <- f$keys[[1]]
  rows <- cbind(name = named_keys(f$keys)[[1]], period_changes(q, f))
  rows$step <- what_became(q, names, rows)
  s$rows <- rows
  s$moves <- gross_moves(rows$change)
  order <- intersect(c("new", "returned", "grown", "unchanged", "shrunk", "gone", "(none)"),
                     rows$step)
  at <- match(rows$step, order)
  sums <- data.frame(lapply(rows[c("before", "now", "change")], function(v) {
    vapply(split(v, factor(at, seq_along(order))), exact_total, 0)
  }), row.names = NULL)
  table <- change_table(s, sums, list(step = order, name_count = tabulate(at, length(order))))
  s$table <- table
  s$columns <- rbind(new_columns(c("step", "name_count"), c("text", "count")), change_columns(m))
  s$steps <- data.frame(step = order, change = sums$change)
  s$steps <- s$steps[s$steps$change != 0 | s$steps$step != "unchanged", ]
  total <- change_table(s, data.frame(before = s$then, now = s$now,
                                      change = exact_change(s$now, s$then)),
                        list(step = "total", name_count = nrow(rows)))
  total$gross_share <- NA
  same <- rows$presence == "stayed" & !is.na(names)
  alike <- data.frame(name_count = sum(same), before = exact_total(rows$before[same]),
                      now = exact_total(rows$now[same]))
  alike$change <- exact_change(alike$now, alike$before)
  alike$growth <- growth_of(alike$now, alike$before)
  list_names <- rows[step_order(rows$change, rows$name), ]
  every <- change_table(s, list_names, stats::setNames(list(list_names$name), q$by))
  s$parts <- list(names = cbind(every[1], step = list_names$step, every[-1]),
                  like_for_like = alike, foot = total)
  s
}

# A name is new without lines before the period now, returned with such lines but none then.
what_became <- function(q, names, rows) {
  out <- ifelse(rows$change > 0, "grown", ifelse(rows$change < 0, "shrunk", "unchanged"))
  out[rows$presence == "gone"] <- "gone"
  fresh <- rows$presence == "new"
  early <- node("compare", op = "<", type = "date",
                args = list(node("name", name = q$book$date),
                            node("date", value = as.numeric(q$asked$now$from))))
  known <- source_fold(q$book$source, key_trees(q$book, q$by, q$asked$where_now), list(),
                       and_also(q$asked$where_ever, early))$keys[[1]]
  out[fresh] <- ifelse(names[fresh] %in% known, "returned", "new")
  out[is.na(names)] <- "(none)"
  out
}

# The quantity, and the dimension within which it is shared.
price_question <- function(q) {
  # Distinct orders overlap between products, and so between lines with a quantity and without.
  if (!q$first$adds_up)
    ll_abort(c(paste0("Price and quantity are of a metric that adds up, and ",
                      quoted(q$first$name), " does not."),
               i = "Take one such as sum(net)."), "argument")
  book <- q$book
  fields <- book$fields[book$fields$role == "measure" & book$fields$from == "lines", ]
  asked <- q$quantity
  if (is.null(asked)) {
    asked <- fields$name[grepl("^(qty|quantity|quantities|units?|pieces)$", tolower(fields$name))]
    if (length(asked) != 1)
      ll_abort(c("'quantity' must be given: which measure counts units.",
                 offer_all("Measures", fields$name)), "argument")
    q$guessed <- asked
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
  q$quantity <- known
  q$quantity_tree <- tree
  if (!is.null(q$alike) && q$alike != "all") {
    made <- pick_dimensions(book, q$alike, "alike")
    q$book <- made$book
    q$alike <- made$names
  }
  q
}

# Lines that have a quantity.
counted_lines <- function(q) {
  arg <- q$quantity_tree$arg
  nothing <- node("logic", op = "|", args = list(
    node("missing", arg = arg),
    node("compare", op = "==", type = "number", args = list(arg, node("number", value = 0)))))
  and_also(unmet(nothing), q$quantity_tree$where)
}

bridge_price <- function(q) {
  m <- q$first
  trees <- c(stats::setNames(list(m$tree), m$name), list(.q = q$quantity_tree))
  keys <- c(q$by, setdiff(q$alike, c("all", q$by)))
  has <- counted_lines(q)
  all <- both_periods(q, character(), trees[1])
  s <- period_totals(q, all)
  f <- both_periods(q, keys, trees, has)
  bare <- both_periods(q, character(), trees[1], unmet(has))
  value <- period_changes(q, f)
  q0 <- or_zero(f$before$.q) / q$days[["before"]]
  q1 <- or_zero(f$now$.q) / q$days[["now"]]
  kind <- value$presence
  kind[kind == "stayed" & (q0 <= 0 | q1 <= 0)] <- "no price"
  priced <- kind == "stayed"
  group <- if (!is.null(q$alike)) {
    if (identical(q$alike, "all")) rep(1L, sum(priced)) else
      match(f$keys[[q$alike]][priced], unique(f$keys[[q$alike]]))
  }
  split <- split_prices(value$before[priced], q0[priced], value$now[priced], q1[priced], group)
  none <- period_changes(q, bare)
  s$bare <- none
  step <- c(vapply(split, sum, 0), vapply(c("new", "gone", "no price"), function(one) {
    exact_total(value$change[kind == one])
  }, 0), sum(none$change))
  s$counts <- c(stayed = sum(priced), table(factor(kind, c("new", "gone", "no price"))))
  words <- c(names(split), "new products", "products gone", "products without a price",
             "amounts without a quantity")
  held <- c(rep(TRUE, length(split)), s$counts[c("new", "gone", "no price")] > 0,
            any(none$before != 0 | none$now != 0))
  s$steps <- data.frame(step = words[held], change = unname(step[held]))
  s$moves <- gross_moves(s$steps$change)
  table <- data.frame(step = s$steps$step, change = s$steps$change)
  names(table)[2] <- paste0(m$name, "_change")
  s$table <- cbind(table, move_shares(s, s$steps$change))
  s$columns <- new_columns(names(s$table), c("text", change_unit(m$unit), "percent", "percent"),
                           digits = c(NA, NA, 1, 1))
  foot <- s$table[NA_integer_, ][1, ]
  foot[1:2] <- list("total", exact_change(s$now, s$then))
  s$parts <- list(products = price_products(q, f, value, q0, q1, kind, split), foot = foot)
  s
}

# Every product with its price and quantity then and now, largest change first.
price_products <- function(q, f, value, q0, q1, kind, split) {
  m <- q$first$name
  out <- as.data.frame(named_keys(f$keys), optional = TRUE)
  out$presence <- kind
  price <- function(r, n) ifelse(n > 0, r / n, NA_real_)
  out[paste0(m, c("_before", "", "_change"))] <- value[c("before", "now", "change")]
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

factors_question <- function(q) {
  if (is.null(q$factors))
    ll_abort(c("'factors' must be given: metrics whose product is the metric.",
               i = "For revenue: customers, orders per customer, revenue per order."), "argument")
  made <- pick_metrics(q$book, q$factors)
  q$book <- made$book
  q$factors <- made$metrics
  if (length(q$factors) < 2 || length(q$factors) > 8)
    ll_abort("'factors' takes two to eight metrics.", "argument")
  q
}

bridge_factors <- function(q) {
  m <- q$first
  trees <- c(stats::setNames(list(m$tree), m$name), lapply(q$factors, `[[`, "tree"))
  trees <- trees[!duplicated(names(trees))]
  f <- both_periods(q, character(), trees)
  s <- period_totals(q, f)
  value <- function(total) vapply(names(q$factors), function(name) total[[name]], 0)
  was <- value(f$total_before)
  now <- value(f$total_now)
  # A factor without a value, such as orders per customer where there are none, is left where it
  # was: another factor is zero there and tells the whole change.
  s$factors <- list(before = ifelse(is.na(was), now, was), now = ifelse(is.na(now), was, now))
  check_factors(q, s)
  split <- if (q$in_order) ordered_product else shapley_product
  effect <- split(unname(s$factors$before), unname(s$factors$now))
  units <- unname(vapply(q$factors, `[[`, "", "unit"))
  s$steps <- data.frame(step = spoken(names(q$factors)), change = effect)
  s$moves <- gross_moves(effect)
  as <- function(step, before, now, unit, effect) {
    out <- data.frame(step = step, before = before, now = now, growth = growth_of(now, before),
                      unit = unit, effect = effect)
    names(out)[6] <- paste0(m$name, "_effect")
    out
  }
  s$table <- as(names(q$factors), unname(was), unname(now), units, effect)
  s$columns <- rbind(new_columns(c("step", "before", "now", "growth"),
                                 c("text", "own", "own", "percent")),
                     new_columns("unit", "text", FALSE),
                     new_columns(paste0(m$name, "_effect"), change_unit(m$unit)))
  foot <- s$table[NA_integer_, ][1, ]
  foot$step <- m$name
  foot$growth <- growth_of(s$now, s$then)
  foot[[6]] <- s$now - s$then
  s$parts <- list(foot = foot)
  s
}

# The product of the factors must be the metric, in both periods.
check_factors <- function(q, s) {
  for (side in c("before", "now")) {
    product <- prod(s$factors[[side]])
    want <- if (side == "now") s$now else s$then
    if (is.na(product) || abs(product - want) > 1e-9 * max(abs(product), abs(want)))
      ll_abort(c(paste0("The product of ", and_list(names(q$factors)), " is not ",
                        q$first$name, "."),
                 x = paste0(if (side == "now") "Now" else "Then", " it is ",
                            format_number(product), ", and ", q$first$name, " ",
                            format_number(want), "."),
                 i = "Each factor has to cancel what the next divides by."), "argument")
  }
}
