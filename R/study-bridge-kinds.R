# Bridge, continued: rates, names, prices, factors.

# Segments of a rate: effects of their own rates and of mix.
bridge_rate <- function(question) {
  parts <- rate_parts(question)
  found <- period_totals(question, parts$fold)
  rows <- rate_rows(question, parts)
  rows <- rows[step_order(rows$change, rows$name), ]
  found$rows <- rows
  found$negative <- any(parts$d$before < 0 | parts$d$now < 0)
  found$moves <- gross_moves(rows$change)
  found$effects <- c(rate = sum(rows$rate), mix = sum(rows$mix))
  found$picked <- top_steps(rows$change, question$args$top)
  rest <- rows[-found$picked, ]
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change <= 0)
  groups <- groups[vapply(groups, any, NA)]
  found$gathered <- do.call(rbind, lapply(names(groups), function(group) {
    some <- rest[groups[[group]], ]
    cbind(name = sprintf("%s (%d)", group, nrow(some)), gathered_rate(some, parts))
  }))
  found$whole <- cbind(name = "total", gathered_rate(rows, parts))
  found$whole[c("before", "now")] <- c(found$then, found$now)
  found$steps <- with_gathered(rows[found$picked, ], found$gathered)
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

# Names by what became of them.
bridge_names <- function(question) {
  fold <- added_names(question)
  found <- period_totals(question, fold)
  names <- fold$keys[[1]]
  rows <- cbind(name = named_keys(fold$keys)[[1]], period_changes(question, fold))
  rows$step <- what_became(question, names, rows)
  found$rows <- rows
  found$moves <- gross_moves(rows$change)
  found$groups <- names_by_step(rows)
  found$steps <- found$groups[c("step", "change")]
  found$steps <- found$steps[found$steps$change != 0 | found$steps$step != "unchanged", ]
  same <- rows$presence == "stayed" & !is.na(names)
  found$like_for_like <- data.frame(name_count = sum(same), before = exact_total(rows$before[same]),
                                    now = exact_total(rows$now[same]))
  found$like_for_like$change <- exact_change(found$like_for_like$now, found$like_for_like$before)
  found$like_for_like$growth <- growth_of(found$like_for_like$now, found$like_for_like$before)
  found
}

became_steps <- c("new", "new since", "returned", "from elsewhere", "grown", "unchanged",
                  "shrunk", "elsewhere", "gone", "(none)")

# The names of each step as one.
names_by_step <- function(rows) {
  order <- intersect(became_steps, rows$step)
  at <- match(rows$step, order)
  sums <- lapply(rows[c("before", "now", "change")], function(v) {
    vapply(split(v, factor(at, seq_along(order))), exact_total, 0)
  })
  data.frame(step = order, name_count = tabulate(at, length(order)), sums, row.names = NULL)
}

# What became of each name, by the lines of the whole book: new without any before the period now,
# new since with a first one between the periods, returned with lines before the period then and
# none in it; from elsewhere and elsewhere where the conditions leave out its lines of that period.
what_became <- function(question, names, rows) {
  asked <- question$asked
  out <- ifelse(rows$change > 0, "grown", ifelse(rows$change < 0, "shrunk", "unchanged"))
  away <- function(which, period) {
    elsewhere_of(question, stats::setNames(list(names[which]), question$args$by), period)$held
  }
  gone <- which(rows$presence == "gone")
  out[gone] <- ifelse(away(gone, asked$period_now), "elsewhere", "gone")
  fresh <- which(rows$presence == "new")
  first <- first_days(question, names[fresh])
  out[fresh] <- ifelse(first < asked$before$from, "returned",
                       ifelse(first < asked$now$from, "new since", "new"))
  out[fresh][away(fresh, asked$period_before)] <- "from elsewhere"
  out[is.na(names)] <- "(none)"
  out
}

# The first day of each name's lines in the whole book.
first_days <- function(question, names) {
  by <- question$args$by
  fold <- fold_metrics(question$book, by, list(), kept_lines(question$book),
                       extra = list(.day = extreme_day(question$book, "min")))
  as_day(fold$values$.day[match(names, fold$keys[[by]])])
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
  found <- period_totals(question, both_periods(question, character(), trees[1]))
  fold <- both_periods(question, keys, trees, has)
  found$bare <- period_changes(question, both_periods(question, character(), trees[1], unmet(has)))
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
  found$counts <- c(stayed = sum(priced), table(factor(kind, c("new", "gone", "no price"))))
  found$inside <- price_inside(question, sum(split$price), has)
  found$listed <- list_price_kept(question, keys, fold$keys, value, priced, has)
  found$steps <- price_steps(question, found, value, kind, split)
  found$moves <- gross_moves(found$steps$change)
  found$products <- price_products(question, fold, value, q0, q1, kind, split)
  found
}

# What the step of prices is called: the mix of products is in it where names are no single ones,
# and
# where list prices stayed it is what a unit brought of them.
price_word <- function(question, found) {
  by <- plural_word(noun_of(question, question$args$by))
  if (!is.null(found$inside)) return(paste("price and mix within", by))
  if (isTRUE(found$listed$kept)) "what a unit brought" else "price"
}

# Where the names are no single products: what is owed to the prices of products themselves, and to
# the mix of them within the names, new and gone ones among them. NULL for single products; missing
# where the book does not tell products.
price_inside <- function(question, price, has) {
  by <- question$args$by
  product <- product_field(question$book)
  if (identical(by, product) || is_product_word(by)) return(NULL)
  if (is.null(product))
    return(if (grepl(group_words, column_word(by))) c(price = NA_real_, mix = NA_real_))
  metric <- first_metric(question)
  trees <- c(stats::setNames(list(metric$tree), metric$name),
             list(.q = question$args$quantity_tree))
  fold <- both_periods(question, unique(c(by, product)), trees, has)
  value <- period_changes(question, fold)
  q0 <- or_zero(fold$before$.q) / question$args$days[["before"]]
  q1 <- or_zero(fold$now$.q) / question$args$days[["now"]]
  at <- value$presence == "stayed" & q0 > 0 & q1 > 0
  own <- sum(split_prices(value$before[at], q0[at], value$now[at], q1[at])$price)
  c(price = own, mix = price - own)
}

group_words <- paste0("(famil|categor|group|brand|class|range|department|segment|territor|region|",
                      "channel|warengruppe|sortiment|rubrique|gamme|marca)")

is_product_word <- function(field) {
  grepl(paste0("^(", product_words, ")(_?(id|no|nr|num|code|name|key))?$"), column_word(field))
}

# Whether the list price of (nearly) all that is sold in both periods stayed the same: list(field,
# kept); NULL where no list price is known.
list_price_kept <- function(question, keys, names, value, priced, has) {
  fields <- question$book$fields
  field <- fields$name[fields$role == "measure" & fields$from == "lines" &
                         grepl(list_words, tolower(fields$name))]
  if (length(field) != 1 || !any(priced)) return(NULL)
  of <- function(fn) node("aggregate", fn = fn, arg = node("name", name = field), where = NULL)
  fold <- both_periods(question, keys, list(low = of("min"), high = of("max")), has)
  at <- match_keys(names, fold$keys)[priced]
  low <- pmin(fold$before$low[at], fold$now$low[at])
  high <- pmax(fold$before$high[at], fold$now$high[at])
  same <- !is.na(low) & !is.na(high) & high - low <= 1e-3 * abs(high)
  money <- abs(value$now[priced])
  list(field = field, kept = sum(money[same]) >= list_share * sum(money))
}

list_words <- "^(unit_?)?(list|catalogue|catalog|tariff|gross)_?(unit_?)?price$|^listenpreis$"
list_share <- .99   # of the money, whose list prices have to have stayed

# The effects of prices and quantities, then what has no price in both periods, where there is any.
price_steps <- function(question, found, value, kind, split) {
  without <- c("new products" = "new", "products gone" = "gone",
               "products without a price" = "no price")
  change <- c(vapply(split, sum, 0), vapply(without, function(one) {
    exact_total(value$change[kind == one])
  }, 0), "amounts without a quantity" = sum(found$bare$change))
  names(change)[1] <- price_word(question, found)
  if (!is.null(found$inside)) names(change) <- sub("^mix$", paste(
    "mix between", plural_word(noun_of(question, question$args$by))), names(change))
  if (!is.null(question$asked$only))
    names(change) <- sub("^new products$", "products new here",
                         sub("^products gone$", "products gone from here", names(change)))
  held <- c(rep(TRUE, length(split)), found$counts[without] > 0,
            any(found$bare$before != 0 | found$bare$now != 0))
  data.frame(step = names(change)[held], change = unname(change[held]))
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
  found$valued <- list(before = was, now = now)
  found$factors <- list(before = ifelse(is.na(was), now, was), now = ifelse(is.na(now), was, now))
  check_factors(question, found)
  split <- if (args$in_order) ordered_product else shapley_product
  effect <- split(unname(found$factors$before), unname(found$factors$now))
  found$steps <- data.frame(step = spoken(names(args$factors)), change = effect)
  found$moves <- gross_moves(effect)
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
