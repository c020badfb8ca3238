# Tiers, continued: the question and what is found.

near_bound <- .05   # within this part of a bound a name is near to it

tiers_question <- function(book, args) {
  if (is.null(args$tiers) == is.null(args$groups))
    ll_abort(c("Give 'tiers' with their lower bounds, or a number of 'groups'.",
               i = "For example Copper=0,Brass=5000,Silver=20000."), "argument")
  if (!is.null(args$tiers)) args$table <- band_table("tiers", c(args$tiers,
                                                                list(below = args$below)))
  q <- refuse_compared(ask_book(book, args, "each"), "tiers")
  refuse_several(q, "'tiers' sorts by")
  q
}

# Names best first with their tier; labels and bounds of the tiers, lowest first.
tiers_names <- function(q) {
  s <- c(list(q = q), placed_names(q, q$asked$where_now, TRUE))
  before <- if (!is.null(q$asked$before)) placed_names(q, q$asked$where_before, TRUE)
  s <- tier_of_names(s)
  s$held <- tiers_held(s)
  if (!is.null(before)) {
    before <- tier_of_names(c(list(q = q), before))
    at <- match_keys(s$keys, before$keys)
    s$value_before <- before$value[at]
    if (q$first$zero) s$value_before[is.na(at)] <- 0
    s$tier_before <- ifelse(is.na(at), "no lines", before$tier[at])
    gone <- before$tier[is.na(match_keys(before$keys, s$keys))]
    s$moves <- group_moves(c(s$tier_before, gone), c(s$tier, rep("no lines", length(gone))),
                           c(s$held$tier, "no lines"), "tier")
  }
  s
}

tier_of_names <- function(s) {
  q <- s$q
  if (!is.null(q$groups)) return(groups_of_names(s))
  exact <- s$exact[[1]]
  s$bounds <- q$table$bounds
  s$labels <- q$table$labels
  number <- tier_number(s$value, s$bounds, exact, q$at_bound == "in")
  s$floor <- c(-Inf, s$bounds)
  # Nobody below the first bound: that tier is none.
  if (!any(number == 0) && is.null(q$below)) {
    s$labels <- s$labels[-1]
    s$floor <- s$bounds
  }
  s$tier <- q$table$labels[number + 1]
  s$to_next <- exact_change(c(s$bounds, NA)[number + 1], s$value)
  s$to_fall <- exact_change(s$value, c(NA, s$bounds)[number + 1])
  s
}

# Equal numbers of names by place; tied names go with the first of them. Group 1 is best.
groups_of_names <- function(s) {
  n <- length(s$value)
  k <- s$q$groups
  # Where they cannot be equal the first ones have one more, as NTILE in SQL has it.
  group <- rep(seq_len(k), n %/% k + (seq_len(k) <= n %% k))
  first <- match(s$place, s$place)
  number <- group[first]
  s$labels <- paste("group", rev(seq_len(k)))
  s$tier <- rev(s$labels)[number]
  lowest <- vapply(seq_len(k), function(g) {
    mine <- s$value[number == g]
    if (length(mine)) mine[length(mine)] else NA_real_
  }, 0)
  s$floor <- rev(lowest)
  s$to_next <- abs(exact_change(c(NA, lowest)[number], s$value))
  s$to_fall <- rep(NA_real_, n)
  s
}

# Each tier's bound, names, value and share, best first.
tiers_held <- function(s) {
  # Best first: with a metric of which less is better the lowest bound is the best tier.
  turned <- if (is.null(s$q$groups) && s$q$first$better == "low") identity else rev
  labels <- turned(s$labels)
  at <- factor(s$tier, labels)
  value <- if (s$q$first$adds_up) unname(vapply(split(s$value, at), exact_total, 0)) else
    rep(NA_real_, length(labels))
  positive <- sum(s$value[s$value > 0])
  data.frame(tier = labels, from = turned(s$floor), names = tabulate(at, length(labels)),
             value = value, share = if (positive > 0) value / positive else NA_real_)
}
