# Tiers, continued: the question and what is found.

tiers_question <- function(book, args) {
  if (is.null(args$tiers) == is.null(args$groups))
    ll_abort(c("Give 'tiers' with their lower bounds, or a number of 'groups'.",
               i = "For example Copper=0,Brass=5000,Silver=20000."), "argument")
  table <- if (!is.null(args$tiers)) band_table("tiers", c(args$tiers, list(below = args$below)))
  question <- refuse_compared(ask_book(book, args, "each"), "tiers")
  refuse_several(question, "'tiers' sorts by")
  with_args(question, table = table)
}

tiers_found <- found_of(
  "tiers", common = found_ranked,
  tier = holds("text", "name", "their tiers"),
  to_next = holds("metric", "name", "how much more lifts it into the next tier",
                  missing = "in the last tier"),
  to_fall = holds("metric", "name", "how much less takes it to the bound of its own",
                  missing = "in the first tier, and for groups of equal size"),
  held = holds("table", NULL, "tier, from, names, value, share: a row for each tier, best first"),
  value_before = holds("metric", "name", "their values then",
                       missing = "without lines then, where the metric is not 0 without lines",
                       absent = "without a period compared with"),
  tier_before = holds("text", "name", "their tiers then, or no lines",
                      absent = "without a period compared with"),
  moves = holds("table", NULL, "tier_before, tier, names: who went from which to which",
                absent = "without a period compared with"),
  like_moves = holds("table", NULL, "the same on the same days of both periods",
                     absent = "where the periods are alike"))

# Names best first with their tier; labels and bounds of the tiers, lowest first.
tiers_work <- function(question) {
  found <- tier_of_names(question, ranked_names(question, question$asked$where_now, TRUE))
  found$held <- tiers_held(question, found)
  if (!is.null(question$asked$before)) {
    then <- tier_of_names(question, ranked_names(question, question$asked$where_before, TRUE))
    moved <- moves_between(question, list(keys = found$keys, group = found$tier),
                           list(keys = then$keys, group = then$tier),
                           tier_order(question, found), "no lines", "tier")
    found$value_before <- then$value[moved$at]
    if (first_metric(question)$zero) found$value_before[is.na(moved$at)] <- 0
    found$tier_before <- moved$was
    found$moves <- moved$moves
    found$like_moves <- like_tier_moves(on_like_days(question))
  }
  do.call(tiers_found, without(found, "labels", "floor", "bounds"))
}

# Who rose and fell on the same days of both periods, where those asked for are unlike.
like_tier_moves <- function(question) {
  if (is.null(question)) return(NULL)
  one <- function(where) tier_of_names(question, ranked_names(question, where, TRUE))
  now <- one(question$asked$where_now)
  then <- one(question$asked$where_before)
  now$held <- tiers_held(question, now)
  moves_between(question, list(keys = now$keys, group = now$tier),
                list(keys = then$keys, group = then$tier), tier_order(question, now), "no lines",
                "tier")$moves
}

# All tiers best first, also those in which nobody is now.
tier_order <- function(question, found) {
  if (!is.null(question$args$groups)) return(found$held$tier)
  labels <- question$args$table$labels
  if (first_metric(question)$better == "low") labels else rev(labels)
}

tier_of_names <- function(question, found) {
  args <- question$args
  if (!is.null(args$groups)) return(groups_of_names(question, found))
  exact <- found$exact[[1]]
  found$bounds <- args$table$bounds
  found$labels <- args$table$labels
  number <- tier_number(found$value, found$bounds, exact, args$at_bound == "in")
  found$floor <- c(-Inf, found$bounds)
  # Nobody below the first bound: that tier is none.
  if (!any(number == 0) && is.null(args$below)) {
    found$labels <- found$labels[-1]
    found$floor <- found$bounds
  }
  found$tier <- args$table$labels[number + 1]
  found$to_next <- exact_change(c(found$bounds, NA)[number + 1], found$value)
  found$to_fall <- exact_change(found$value, c(NA, found$bounds)[number + 1])
  found
}

# Equal numbers of names by rank; tied names go with the first of them. Group 1 is best.
groups_of_names <- function(question, found) {
  n <- length(found$value)
  k <- question$args$groups
  # Where they cannot be equal the first ones have one more, as NTILE in SQL has it.
  group <- rep(seq_len(k), n %/% k + (seq_len(k) <= n %% k))
  first <- match(found$rank, found$rank)
  number <- group[first]
  found$labels <- paste("group", rev(seq_len(k)))
  found$tier <- rev(found$labels)[number]
  lowest <- vapply(seq_len(k), function(g) {
    mine <- found$value[number == g]
    if (length(mine)) mine[length(mine)] else NA_real_
  }, 0)
  found$floor <- rev(lowest)
  found$to_next <- abs(exact_change(c(NA, lowest)[number], found$value))
  found$to_fall <- rep(NA_real_, n)
  found
}

# Each tier's bound, names, value and share, best first.
tiers_held <- function(question, found) {
  metric <- first_metric(question)
  # Best first: with a metric of which less is better the lowest bound is the best tier.
  turned <- if (is.null(question$args$groups) && metric$better == "low") identity else rev
  labels <- turned(found$labels)
  at <- factor(found$tier, labels)
  value <- if (metric$adds_up) unname(vapply(split(found$value, at), exact_total, 0)) else
    rep(NA_real_, length(labels))
  positive <- sum(found$value[found$value > 0])
  data.frame(tier = labels, from = turned(found$floor), names = tabulate(at, length(labels)),
             value = value, share = if (positive > 0) value / positive else NA_real_)
}
