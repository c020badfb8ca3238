# Bridge, continued: the question and what is found.

bridge_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, "by"), "bridge")
  refuse_several(q, "'bridge' explains")
  check_bridge_words(book, q)
  q <- ask_two_periods(q)
  q$ratio <- ratio_parts(q$first$tree)
  check_added(q)
  if (!is.null(q$per_day)) q$days <- c(now = trading_days(book, q$asked$now, q$per_day),
                                       before = trading_days(book, q$asked$before, q$per_day))
  switch(q$into, price = price_question(q), factors = factors_question(q), q)
}

# Arguments that go together.
check_bridge_words <- function(book, q) {
  if (length(q$by) > 1) ll_abort("'by' takes one dimension.", "argument")
  if (is.null(q$by) && q$into != "factors")
    ll_abort(c("'by' must be given: the dimension whose names are the steps.",
               offer_all("Dimensions", dimensions_of(book))), "argument")
  unused <- c(quantity = "price", alike = "price", factors = "factors")
  for (one in names(unused)) if (!is.null(q[[one]]) && q$into != unused[[one]])
    ll_abort(paste0(quoted(one), " serves into = \"", unused[[one]], "\" only."), "argument")
}

# Whether the metric adds up over the steps.
check_added <- function(q) {
  adds <- counted_up(q$first$tree)
  rate <- q$into == "segments" && !is.null(q$ratio)
  if (q$into != "factors" && !adds && !rate) ll_abort(not_added(q), "argument")
  if (!is.null(q$per_day) && (q$into == "factors" || !adds))
    ll_abort("'per_day' is for metrics that add up, over segments, names or products.", "argument")
}

not_added <- function(q) {
  c(paste0(capital(spoken(q$first$name)), " (", one_line(q$first$text),
           ") does not add up over ", if (q$into == "segments") "segments" else q$into, "."),
    i = if (is.null(q$ratio)) paste0(
      "Metrics that do: sums, counts, ratios of two such (over segments), or a product of ",
      "factors (into = \"factors\").") else
        "For a rate use into = \"segments\", or its factors.")
}

# The segments of a metric that adds up.
bridge_segments <- function(q) {
  m <- q$first
  f <- added_names(q)
  s <- period_totals(q, f)
  rows <- cbind(name = named_keys(f$keys)[[1]], period_changes(q, f))
  rows <- rows[step_order(rows$change, rows$name), ]
  s$moves <- gross_moves(rows$change)
  s$rows <- rows
  picked <- top_steps(rows$change, q$top)
  table <- change_table(s, rows[picked, ], stats::setNames(list(rows$name[picked]), q$by))
  table$presence <- rows$presence[picked]
  s$table <- table[c(q$by, "presence", setdiff(names(table), c(q$by, "presence")))]
  s$columns <- rbind(new_columns(c(q$by, "presence"), "text"), change_columns(m))
  gathered <- gathered_steps(s, rows, picked)
  s$parts <- list(foot = bridge_foot(s, gathered, q$by))
  s$steps <- with_gathered(rows[picked, ], gathered$label, gathered$change)
  s
}

# The others, gains, losses and those without a change apart.
gathered_steps <- function(s, rows, picked) {
  rest <- rows[setdiff(seq_len(nrow(rows)), picked), ]
  groups <- list("other gains" = rest$change > 0, "other losses" = rest$change < 0,
                 "no change" = rest$change == 0)
  groups <- groups[vapply(groups, any, NA)]
  sums <- function(column) vapply(groups, function(g) exact_total(rest[[column]][g]), 0)
  data.frame(label = sprintf("%s (%s)", names(groups), vapply(groups, function(g) {
    count_text(sum(g))
  }, "")), before = sums("before"), now = sums("now"), change = sums("change"),
  row.names = NULL)
}

# Gathered steps, then all gains, all losses and the whole.
bridge_foot <- function(s, gathered, label) {
  rows <- s$rows
  sums <- function(which) {
    data.frame(before = exact_total(rows$before[which]), now = exact_total(rows$now[which]),
               change = exact_total(rows$change[which]))
  }
  gain <- rows$change > 0
  loss <- rows$change < 0
  all <- rbind(gathered[-1], if (any(gain) && any(loss)) rbind(sums(gain), sums(loss)),
               data.frame(before = s$then, now = s$now, change = exact_change(s$now, s$then)))
  labels <- c(gathered$label, if (any(gain) && any(loss)) c("all gains", "all losses"), "total")
  foot <- change_table(s, all, stats::setNames(list(labels), label))
  foot$gross_share[nrow(foot)] <- NA
  blank <- setdiff(names(s$table), names(foot))
  foot[blank] <- rep(list(""), length(blank))
  foot[names(s$table)]
}

# Steps with where each begins and ends.
running_steps <- function(s) {
  ends <- s$then + cumsum(s$steps$change)
  data.frame(step = s$steps$step, change = s$steps$change, from = c(s$then, ends)[seq_along(ends)],
             to = ends)
}
