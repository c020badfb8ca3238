# Drill, continued: the segments that were found, measured, joined, judged and put in order.

# How unusual each segment is, the next candidates, and what could have been found.
drill_judged <- function(question, found, others) {
  search <- found$search
  scale <- 10^found$laid$decimals
  past <- if (!is.null(found$laid$past)) search_among(search, found$laid$past, found$laid$pairs)
  parted <- where_parted(search, past, found$leaves)
  judged <- search$measure$chances(search, parted, parted$parts, FALSE)
  found$chance <- judged$chance
  found$customers <- judged$customers
  others <- first_few(others, drill_others)
  parts <- where_amounts(search, past, others, rep(list(parted$rows), length(others)))
  next_to <- search$measure$chances(search, parted, parts, TRUE)
  found$others <- data.frame(excess = next_to$excess / scale, chance = next_to$chance)
  found$others_named <- lapply(others, leaf_names, found = found)
  found$least <- if (question$args$rate) NA_real_ else
    excess_least(search, drill_twentieth, question$args$confidence) / scale
  found$inside <- drill_inside(question, found)
  found
}

drill_others <- 8        # candidates told
drill_twentieth <- .05   # the part of the money for which the smallest excess is told

empty_inside <- function() {
  data.frame(leaf = integer(), dimension = character(), name = character(), before = numeric(),
             now = numeric(), change = numeric())
}

# Within each segment the names that moved most, of the dimensions it leaves open.
drill_inside <- function(question, found) {
  search <- found$search
  open <- lapply(found$leaves, function(leaf) {
    if (is.null(search$path)) open_under(search, leaf$dims) else setdiff(search$open, leaf$dims)
  })
  # Of a rate what the names brought to its change says little by itself.
  at <- if (question$args$rate) integer() else which(lengths(open) > 0)
  asked <- lapply(at, function(i) segment_ask(as.list(open[[i]]), found$leaves[[i]]))
  made <- search$lines$tables(asked)
  rows <- unlist(Map(function(i, tables) {
    Map(function(v, table) {
      table <- table[table[, "first"] > 0, , drop = FALSE]
      money <- table[, c("a", "b"), drop = FALSE] / 10^found$laid$decimals
      change <- money[, "b"] - money[, "a"]
      at <- first_few(order(-abs(signif(change, 12))), 3)
      at <- at[change[at] != 0]
      data.frame(leaf = rep(i, length(at)), dimension = rep(v, length(at)),
                 name = found$laid$names[[v]][table[at, "first"]], before = money[at, "a"],
                 now = money[at, "b"], change = change[at], row.names = NULL)
    }, open[[i]], tables)
  }, at, made), recursive = FALSE)
  if (length(rows)) do.call(rbind, unname(rows)) else empty_inside()
}

# Every leaf condition by condition, those it shares with other leaves first: leaf, level, the
# dimensions so far, amounts.
drill_paths <- function(found) {
  steps <- unlist(lapply(seq_along(found$leaves), function(i) {
    leaf <- found$leaves[[i]]
    shared <- vapply(leaf$dims, function(v) {
      sum(vapply(found$leaves, function(l) setequal(l$codes[[v]], leaf$codes[[v]]), NA))
    }, 0)
    dims <- leaf$dims[order(-shared, seq_along(leaf$dims))]
    lapply(seq_along(dims), function(k) {
      mine <- dims[seq_len(k)]
      list(leaf = i, level = k, dims = mine, codes = leaf$codes[mine])
    })
  }), recursive = FALSE)
  amounts <- wholes_of(found$search, lapply(steps, function(step) segment_ask(NULL, step)))
  amount <- function(side) vapply(amounts, `[[`, 0, side) / 10^found$laid$decimals
  out <- data.frame(leaf = vapply(steps, `[[`, 0L, "leaf"),
                    level = vapply(steps, `[[`, 0L, "level"), before = amount("a"),
                    now = amount("b"))
  out$dims <- lapply(steps, `[[`, "dims")
  out
}

# Whether each segment stayed, is new or gone; under conditions that leave out its lines of the
# other
# period it is from elsewhere, or elsewhere.
drill_presence <- function(question, found) {
  p <- found$parts
  none <- function(x) if (question$args$rate) is.na(x) else x == 0
  out <- ifelse(none(p$before) & !none(p$now), "new",
                ifelse(none(p$now) & !none(p$before), "gone", "stayed"))
  for (i in seq_along(found$leaves)) {
    if (out[i] == "stayed") next
    side <- if (out[i] == "new") "period_before" else "period_now"
    outside <- outside_lines(question, question$asked[[side]])
    if (is.null(outside)) next
    lines <- source_fold(question$book$source, list(), list(),
                         and_also(outside, found$conditions[[i]]))$lines
    if (sum(lines) > 0) out[i] <- if (out[i] == "new") "from elsewhere" else "elsewhere"
  }
  out
}

# The segments in the order of their money, everything else last.
drill_sorted <- function(found) {
  n <- length(found$leaves)
  found$turn <- seq_len(n)
  if (n < 2) return(found)
  at <- order(-abs(found$parts$excess[seq_len(n)]))
  for (what in c("leaves", "named", "conditions", "trees", "chance", "customers",
                 "turn"))
    found[[what]] <- found[[what]][at]
  found$parts <- found$parts[c(at, n + 1), ]
  rownames(found$parts) <- NULL
  found$inside <- found$inside[order(match(found$inside$leaf, at)), ]
  found$inside$leaf <- match(found$inside$leaf, at)
  rownames(found$inside) <- NULL
  found
}

# Amounts of each leaf; a line belongs to the first that it fits. `all` where none fits another
# before it.
measure_leaves <- function(found) {
  if (!length(found$leaves)) return(list())
  rows <- NULL
  asked <- lapply(found$leaves, function(leaf) {
    before <- rows
    rows <<- found$search$lines$lacking(rows, leaf)
    segment_ask(NULL, leaf, before)
  })
  all <- lapply(found$leaves, function(leaf) segment_ask(NULL, leaf))
  totals <- wholes_of(found$search, c(asked, all))
  n <- length(asked)
  Map(function(leaf, mine, whole) {
    leaf$all <- isTRUE(all.equal(mine, whole, tolerance = 1e-12))
    leaf$amount <- mine[c("a", "b")] / 10^found$laid$decimals
    leaf$weight <- (mine[["wa"]] + mine[["wb"]]) / 2
    leaf
  }, found$leaves, totals[seq_len(n)], totals[n + seq_len(n)])
}

# Neighbours that differ in one dimension, went the same way and changed alike are one: "Fen or
# Moor".
merge_leaves <- function(question, found, leaves) {
  most <- if (question$args$rate) Inf else excess_most * (found$then + found$now)
  i <- 1
  while (i < length(leaves)) {
    after <- seq_along(leaves)[-seq_len(i)]
    differ <- lapply(leaves[after], alike_but_one, a = leaves[[i]], rate = question$args$rate,
                     most = most)
    hit <- which(lengths(differ) > 0)[1]
    if (is.na(hit)) {
      i <- i + 1
    } else {
      leaves[[i]] <- joined_leaves(leaves[[i]], leaves[[after[hit]]], differ[[hit]])
      leaves <- leaves[-after[hit]]
    }
  }
  joined <- length(leaves) < length(found$leaves)
  found$leaves <- leaves
  # A line of both may have been counted elsewhere.
  if (joined) found$leaves <- measure_leaves(found)
  found
}

# The one dimension in which two leaves differ, where they changed alike and hold no more than
# `most` together.
alike_but_one <- function(a, b, rate, most) {
  if (!setequal(a$dims, b$dims) || sign(a$excess) != sign(b$excess)) return(NULL)
  differ <- a$dims[!vapply(a$dims, function(v) setequal(a$codes[[v]], b$codes[[v]]), NA)]
  near <- function(x, y) x == y || x > 0 && y > 0 && abs(log(x / y)) < .5
  # By how much: of a rate for each unit of weight.
  ratio <- function(x) {
    if (rate) return(if (x$weight > 0) abs(x$excess) / x$weight else Inf)
    if (x$amount[["a"]] != 0) x$amount[["b"]] / x$amount[["a"]] else Inf
  }
  if (length(differ) == 1 && sum(a$amount, b$amount) <= most && near(ratio(a), ratio(b))) differ
}

joined_leaves <- function(a, b, differ) {
  a$codes[[differ]] <- sort(c(a$codes[[differ]], b$codes[[differ]]))
  a$amount <- a$amount + b$amount
  a$weight <- a$weight + b$weight
  a$excess <- a$excess + b$excess
  # The less firm of the two.
  a$score <- min(a$score, b$score)
  a
}

# Excess of every leaf over the growth of everything else; together with that growth the change.
drill_measured <- function(question, found) {
  found$named <- lapply(found$leaves, leaf_names, found = found)
  found$conditions <- lapply(found$named, leaf_condition, question = question)
  before <- NULL
  found$trees <- lapply(found$conditions, function(tree) {
    out <- if (is.null(before)) tree else
      and_also(tree, unmet(before))
    before <<- if (is.null(before)) tree else or_all(list(before, tree))
    out
  })
  found$rest_tree <- if (!is.null(before)) unmet(before)
  a <- vapply(found$leaves, function(l) l$amount[["a"]], 0)
  b <- vapply(found$leaves, function(l) l$amount[["b"]], 0)
  if (question$args$rate) return(drill_rates(question, found))
  rest <- c(found$then - sum(a), found$now - sum(b))
  found$growth <- if (length(a) == 0 || rest[1] > 0) rest[2] / rest[1] else 1
  found$parts <- data.frame(before = c(a, rest[1]), now = c(b, rest[2]))
  found$parts$change <- exact_change(found$parts$now, found$parts$before)
  found$parts$excess <- found$parts$now - found$growth * found$parts$before
  found$parts$excess[nrow(found$parts)] <- if (rest[1] > 0) 0 else rest[2] - rest[1]
  found$uniform <- (found$growth - 1) * found$then
  found
}

# The rates of the leaves, and what each brought to the change of the whole's rate.
drill_rates <- function(question, found) {
  args <- question$args
  trees <- list(n = args$ratio$n, d = args$ratio$d, r = first_metric(question)$tree)
  folded <- lapply(c(found$trees, list(found$rest_tree)), function(tree) {
    both_periods(question, character(), trees, tree)
  })
  take_one <- function(side, what) {
    vapply(folded, function(f) {
      x <- f[[paste0("total_", side)]][[what]]
      if (is.na(x) && what != "r") 0 else x
    }, 0)
  }
  n <- list(take_one("before", "n"), take_one("now", "n"))
  search <- list(take_one("before", "d"), take_one("now", "d"))
  whole <- lapply(search, sum)
  middle <- (sum(n[[1]]) / whole[[1]] + sum(n[[2]]) / whole[[2]]) / 2
  moved <- (n[[2]] - middle * search[[2]]) / whole[[2]] - (n[[1]] - middle * search[[1]]) /
    whole[[1]]
  weight <- (search[[1]] / whole[[1]] + search[[2]] / whole[[2]]) / 2
  last <- length(moved)
  found$growth <- if (weight[last] > 0) moved[last] / weight[last] else 0
  found$parts <- data.frame(before = take_one("before", "r"), now = take_one("now", "r"),
                            change = moved, excess = moved - found$growth * weight)
  found$parts$excess[last] <- 0
  found$uniform <- found$growth
  found
}

# A leaf's names by dimension.
leaf_names <- function(found, leaf) {
  lapply(stats::setNames(nm = leaf$dims), function(v) found$laid$names[[v]][leaf$codes[[v]]])
}

leaf_condition <- function(question, names) {
  Reduce(and_also, lapply(names(names), function(field) {
    node("within", arg = bind_scope(key_tree(question$book, field), question$asked$where_now),
         set = node("set", values = names[[field]]))
  }))
}
