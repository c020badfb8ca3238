# Bridge, continued: the question and what is found.

bridge_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, "by"), "bridge")
  refuse_several(question, "'bridge' explains")
  check_bridge_words(book, question)
  question <- with_args(ask_two_periods(question), quantity_tree = NULL, guessed = NULL,
                        ratio = ratio_parts(first_metric(question)$tree))
  check_added(question)
  if (!is.null(args$per_day)) {
    days <- vapply(question$asked[c("now", "before")], function(period) {
      trading_days(book, period, args$per_day)
    }, 0)
    question <- with_args(question, days = days)
  }
  switch(args$into, price = price_question(question), factors = factors_question(question),
         question)
}

# Arguments that go together.
check_bridge_words <- function(book, question) {
  args <- question$args
  if (length(args$by) > 1) ll_abort("'by' takes one dimension.", "argument")
  if (is.null(args$by) && args$into != "factors")
    ll_abort(c("'by' must be given: the dimension whose names are the steps.",
               offer_all("Dimensions", dimensions_of(book))), "argument")
  unused <- c(quantity = "price", alike = "price", factors = "factors")
  for (one in names(unused)) if (!is.null(args[[one]]) && args$into != unused[[one]])
    ll_abort(paste0(quoted(one), " serves into = \"", unused[[one]], "\" only."), "argument")
}

# Whether the metric adds up over the steps.
check_added <- function(question) {
  args <- question$args
  adds <- counted_up(first_metric(question)$tree)
  rate <- args$into == "segments" && !is.null(args$ratio)
  if (args$into != "factors" && !adds && !rate) ll_abort(not_added(question), "argument")
  if (!is.null(args$per_day) && (args$into == "factors" || !adds))
    ll_abort("'per_day' is for metrics that add up, over segments, names or products.", "argument")
}

not_added <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  c(paste0(capital(spoken(metric$name)), " (", one_line(metric$text),
           ") does not add up over ", if (args$into == "segments") "segments" else args$into, "."),
    i = if (is.null(args$ratio)) paste0(
      "Metrics that do: sums, counts, ratios of two such (over segments), or a product of ",
      "factors (into = \"factors\").") else
        "For a rate use into = \"segments\", or its factors.")
}

# The segments of a metric that adds up.
bridge_segments <- function(question) {
  fold <- added_names(question)
  found <- period_totals(question, fold)
  rows <- cbind(name = named_keys(fold$keys)[[1]], period_changes(question, fold))
  rows$presence <- with_elsewhere(question, fold$keys, rows$presence)
  found$rows <- rows[step_order(rows$change, rows$name), ]
  found$moves <- gross_moves(found$rows$change)
  found$picked <- top_steps(found$rows$change, question$args$top)
  found$gathered <- gathered_steps(found$rows[-found$picked, ])
  found$steps <- with_gathered(found$rows[found$picked, ], found$gathered)
  found
}

# The others, gains, losses and those without a change apart.
gathered_steps <- function(rest) {
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change < 0,
                 "no change" = rest$change == 0)
  groups <- groups[vapply(groups, any, NA)]
  sums <- function(column) vapply(groups, function(g) exact_total(rest[[column]][g]), 0)
  data.frame(name = sprintf("%s (%s)", names(groups), vapply(groups, function(g) {
    count_text(sum(g))
  }, "")), before = sums("before"), now = sums("now"), change = sums("change"),
             row.names = NULL)
}

bridge_found <- found_of(
  "bridge", common = found_change,
  steps = holds("table", NULL, "step, change: in their order, gathered ones included"),
  moves = holds("list", NULL, "gains, losses, net, gross, cancel"),
  rows = holds("table", NULL, "every segment or name with its change",
               absent = "for prices and factors"),
  picked = holds("count", NULL, "the rows that have a step of their own",
                 absent = "but for segments"),
  gathered = holds("table", NULL, "the others as steps: name and what rows have",
                   absent = "but for segments"),
  whole = holds("table", "one", "all segments as one, in the columns of rows",
                absent = "but for segments of a rate"),
  groups = holds("table", NULL, "step, name_count, before, now, change: by what became of them",
                 absent = "but for names"),
  like_for_like = holds("table", "one", "those that stayed: name_count, before, now, growth, ...",
                        absent = "but for names"),
  products = holds("table", NULL, "each with its prices, quantities and effects",
                   absent = "but for prices"),
  effects = holds("metric", NULL, "rate and mix, summed", absent = "but for segments of a rate"),
  negative = holds("flag", "one", "whether a segment has less than zero of what it divides by",
                   absent = "but for segments of a rate"),
  bare = holds("table", NULL, "before, now, change of lines without a quantity",
               absent = "but for prices"),
  inside = holds("metric", NULL, "price and mix within names that are no single products",
                 missing = "where the book does not tell products", absent = "for single products"),
  listed = holds("list", NULL, "field and kept: whether list prices stayed the same",
                 absent = "where no list price is known"),
  counts = holds("count", NULL, "products that stayed, are new, gone, without a price",
                 absent = "but for prices"),
  factors = holds("list", NULL, "before and now: each factor's value, the other's if it has none",
                  absent = "but for factors"),
  valued = holds("list", NULL, "before and now: each factor's value", absent = "but for factors"))

bridge_work <- function(question) {
  args <- question$args
  found <- switch(args$into,
                  segments = if (is.null(args$ratio)) bridge_segments(question) else
                    bridge_rate(question),
                  names = bridge_names(question), price = bridge_price(question),
                  factors = bridge_factors(question))
  do.call(bridge_found, found)
}
