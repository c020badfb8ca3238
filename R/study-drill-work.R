# Drill, continued: the question and what is found.

drill_question <- function(book, args) {
  q <- refuse_compared(ask_book(book, args, c("dims", "barred", "path")), "drill")
  refuse_several(q, "'drill' explains")
  q <- ask_two_periods(q)
  if (q$asked$now$from <= q$asked$before$to && q$asked$before$from <= q$asked$now$to)
    ll_abort("'when' and 'against' overlap: a line cannot be both then and now.", "argument")
  q$ratio <- ratio_parts(q$first$tree)
  rate <- !is.null(q$ratio) && adds_up(q$ratio$n) && adds_up(q$ratio$d)
  if (!q$first$adds_up && !rate)
    ll_abort(c(paste0(capital(spoken(q$first$name)), " (", one_line(q$first$text),
                      ") neither adds up nor is a rate of two that do."),
               i = paste0("Take sums, counts of lines or their ratios; for distinct counts ",
                          "bridge into = \"names\" or its factors.")), "argument")
  q$rate <- rate
  if (q$first$adds_up) q$ratio <- NULL
  drill_dimensions(q)
}

# Dimensions looked in, and further ones that only tell how names waver.
drill_dimensions <- function(q) {
  all <- telling_dimensions(q$book, NULL)
  if (length(q$path) > 3) ll_abort("'path' takes one to three dimensions.", "argument")
  q$dims <- unique(c(q$path, if (is.null(q$dims)) if (is.null(q$path)) all else NULL else q$dims))
  q$dims <- setdiff(q$dims, q$barred)
  if (!length(q$dims))
    ll_abort("No dimension is left to look in.", "argument")
  if (length(q$dims) > 20)
    ll_abort(paste0("'drill' looks in twenty dimensions at most; the book has ", length(q$dims),
                    ". Name them with 'dims'."), "argument")
  # Every other dimension may be the one by which names waver.
  q$others <- setdiff(unique(c(q$barred, all)), q$dims)
  if (length(q$dims) + length(q$others) > 20) q$others <- q$barred
  q
}

# The lines of both periods laid out for the search.
drill_lines <- function(q) {
  both <- either(q$asked$where_before, q$asked$where_now)
  source <- lines_here(q, c(q$dims, q$others, q$book$order), both)
  masks <- list(line_mask(source, q$asked$where_before), line_mask(source, q$asked$where_now))
  period <- masks[[1]] + 2L * masks[[2]]
  trees <- key_trees(q$book, c(q$dims, q$others), q$asked$where_now)
  columns <- lapply(trees, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(trees, function(tree) length(source_names(q$book$source, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  order <- if (!is.null(q$book$order)) order_codes(coded_field(source, q$book$order)$codes)
  # Some thousand orders tell which dimensions stay the same within them.
  some <- if (!is.null(order)) which(order <= max(1e3, max(order) * 2e5 / source$n))
  by_order <- if (length(some)) drill_by_order(lapply(codes, `[`, some), order[some]) else
    levels >= 0
  group <- drill_group(by_order, levels)
  values <- drill_values(q, source, period)
  lines <- kernel_segments(codes, period, values$amount, values$weight, order,
                           if (!is.null(group)) codes[[group]], !q$rate)
  list(lines = lines, levels = levels, names = lapply(columns, `[[`, "levels"), group = group,
       by_order = by_order, places = values$places)
}

# Lines without an order are one each.
order_codes <- function(codes) {
  if (min(codes) > 0L) return(codes)
  none <- which(codes == 0L)
  codes[none] <- max(codes) + seq_along(none)
  codes
}

# What each line adds: amounts as whole numbers of 10^-places where they are decimals; for a rate
# its part of the rate's change and its weight.
drill_values <- function(q, source, period) {
  if (!q$rate) {
    v <- metric_lines(source, q$first$tree)
    return(list(amount = v$v, weight = NULL, places = if (is_exact(v)) v$places else 0L))
  }
  n <- scaled_value(metric_lines(source, q$ratio$n))
  d <- scaled_value(metric_lines(source, q$ratio$d))
  whole <- function(x) c(sum(x[period == 1]), sum(x[period == 2]))
  wholes <- whole(d)
  if (any(wholes <= 0))
    ll_abort(paste0("What ", spoken(q$first$name), " divides by is not above zero in ",
                    span_text(q$asked$before$from, q$asked$before$to), " or ",
                    span_text(q$asked$now$from, q$asked$now$to), "."), "data")
  middle <- mean(whole(n) / wholes)
  of <- wholes[pmax(period, 1)]
  list(amount = (n - middle * d) / of, weight = d / of, places = 0L)
}

# Everything that is found.
drill_found <- function(q) {
  laid <- drill_lines(q)
  deep <- min(q$depth, if (!is.null(q$path)) length(q$path) else 3)
  d <- new_drill(laid$lines, laid$levels, q$rate, laid$by_order, laid$group, deep, q$material,
                 q$path, q$others)
  whole <- both_periods(q, character(), stats::setNames(list(q$first$tree), q$first$name))
  s <- c(period_totals(q, whole), list(laid = laid, search = d))
  if (!q$rate && s$then <= 0)
    ll_abort(c(paste0(capital(spoken(q$first$name)), " then is ", said(s$then, q$first),
                      "; growth needs a total above zero."),
               i = "Give another period with 'against', or look with bridge."), "data")
  s$leaves <- drill_segments(d, -log(1 - q$sure), q$most)
  drill_measured(merge_leaves(s, measure_leaves(s)))
}

# Amounts of each leaf; a line belongs to the first that it fits.
measure_leaves <- function(s) {
  d <- s$search
  rows <- NULL
  for (i in seq_along(s$leaves)) {
    leaf <- s$leaves[[i]]
    mine <- drill_rows(d, list(leaf), rows, FALSE)
    leaf$all <- i == 1 || length(drill_rows(d, list(leaf), NULL, FALSE)) == length(mine)
    leaf$amount <- drill_amounts(d, mine) / 10^s$laid$places
    if (i < length(s$leaves)) rows <- drill_rows(d, list(leaf), rows)
    s$leaves[[i]] <- leaf
  }
  s$leaves
}

# Neighbours that differ in one dimension, went the same way and changed alike are one: "Fen or
# Moor".
merge_leaves <- function(s, leaves) {
  alike <- function(a, b) {
    if (!setequal(a$dims, b$dims) || sign(a$excess) != sign(b$excess)) return(NULL)
    differ <- a$dims[!vapply(a$dims, function(v) setequal(a$codes[[v]], b$codes[[v]]), NA)]
    near <- function(x, y) x == y || x > 0 && y > 0 && abs(log(x / y)) < .5
    ratio <- function(x) if (x$amount[["a"]] != 0) x$amount[["b"]] / x$amount[["a"]] else Inf
    if (length(differ) == 1 && (s$q$rate || near(ratio(a), ratio(b)))) differ
  }
  i <- 1
  while (i < length(leaves)) {
    found <- FALSE
    for (j in seq(i + 1, length(leaves))) {
      differ <- alike(leaves[[i]], leaves[[j]])
      if (is.null(differ)) next
      a <- leaves[[i]]
      b <- leaves[[j]]
      a$codes[[differ]] <- sort(c(a$codes[[differ]], b$codes[[differ]]))
      a$amount <- a$amount + b$amount
      # The less firm of the two.
      a$score <- min(a$score, b$score)
      a$all <- a$all && b$all
      leaves[[i]] <- a
      leaves <- leaves[-j]
      found <- TRUE
      break
    }
    if (!found) i <- i + 1
  }
  s$leaves <- leaves
  s
}

# Excess of every leaf over the growth of everything else; together with that growth the change.
drill_measured <- function(s) {
  q <- s$q
  s$named <- lapply(s$leaves, leaf_names, s = s)
  s$conditions <- lapply(s$named, leaf_condition, q = q)
  before <- NULL
  s$trees <- lapply(s$conditions, function(tree) {
    out <- if (is.null(before)) tree else
      and_also(tree, unmet(before))
    before <<- if (is.null(before)) tree else or_all(list(before, tree))
    out
  })
  s$rest_tree <- if (!is.null(before)) unmet(before)
  a <- vapply(s$leaves, function(l) l$amount[["a"]], 0)
  b <- vapply(s$leaves, function(l) l$amount[["b"]], 0)
  if (q$rate) return(drill_rates(s))
  rest <- c(s$then - sum(a), s$now - sum(b))
  s$growth <- if (length(a) == 0 || rest[1] > 0) rest[2] / rest[1] else 1
  s$parts <- data.frame(before = c(a, rest[1]), now = c(b, rest[2]))
  s$parts$change <- exact_change(s$parts$now, s$parts$before)
  s$parts$excess <- s$parts$now - s$growth * s$parts$before
  s$parts$excess[nrow(s$parts)] <- if (rest[1] > 0) 0 else rest[2] - rest[1]
  s$uniform <- (s$growth - 1) * s$then
  s
}

# The rates of the leaves, and what each brought to the change of the whole's rate.
drill_rates <- function(s) {
  q <- s$q
  trees <- list(n = q$ratio$n, d = q$ratio$d, r = q$first$tree)
  folded <- lapply(c(s$trees, list(s$rest_tree)), function(tree) {
    both_periods(q, character(), trees, tree)
  })
  take_one <- function(side, what) {
    vapply(folded, function(f) {
      x <- f[[paste0("total_", side)]][[what]]
      if (is.na(x) && what != "r") 0 else x
    }, 0)
  }
  n <- list(take_one("before", "n"), take_one("now", "n"))
  d <- list(take_one("before", "d"), take_one("now", "d"))
  whole <- lapply(d, sum)
  middle <- (sum(n[[1]]) / whole[[1]] + sum(n[[2]]) / whole[[2]]) / 2
  moved <- (n[[2]] - middle * d[[2]]) / whole[[2]] - (n[[1]] - middle * d[[1]]) / whole[[1]]
  weight <- (d[[1]] / whole[[1]] + d[[2]] / whole[[2]]) / 2
  last <- length(moved)
  s$growth <- if (weight[last] > 0) moved[last] / weight[last] else 0
  s$parts <- data.frame(before = take_one("before", "r"), now = take_one("now", "r"),
                        change = moved, excess = moved - s$growth * weight)
  s$parts$excess[last] <- 0
  s$uniform <- s$growth
  s
}

# A leaf's names by dimension.
leaf_names <- function(s, leaf) {
  lapply(stats::setNames(nm = leaf$dims), function(v) s$laid$names[[v]][leaf$codes[[v]]])
}

leaf_condition <- function(q, names) {
  Reduce(and_also, lapply(names(names), function(field) {
    node("within", arg = bind_scope(key_tree(q$book, field), q$asked$where_now),
         set = node("set", values = names[[field]]))
  }))
}
