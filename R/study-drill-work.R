# Drill, continued: the question and what is found.

drill_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("by", "not_by", "path")), "drill")
  refuse_several(question, "'drill' explains")
  question <- ask_two_periods(question)
  now <- question$asked$now
  before <- question$asked$before
  if (now$from <= before$to && before$from <= now$to)
    ll_abort("'when' and 'against' overlap: a line cannot be both then and now.", "argument")
  metric <- first_metric(question)
  ratio <- ratio_parts(metric$tree)
  rate <- !is.null(ratio) && adds_up(ratio$n) && adds_up(ratio$d)
  if (!metric$adds_up && !rate)
    ll_abort(c(paste0(capital(spoken(metric$name)), " (", one_line(metric$text),
                      ") neither adds up nor is a rate of two that do."),
               i = paste0("Take sums, counts of lines or their ratios; for distinct counts ",
                          "bridge into = \"names\" or its factors.")), "argument")
  drill_dimensions(with_args(question, rate = rate, ratio = if (!metric$adds_up) ratio))
}

# Dimensions looked in, and further ones that only tell how names waver.
drill_dimensions <- function(question) {
  args <- question$args
  all <- drill_causes(question)
  if (length(args$path) > 3) ll_abort("'path' takes one to three dimensions.", "argument")
  asked <- args$by %||% if (is.null(args$path)) all
  dims <- setdiff(unique(c(args$path, asked)), args$not_by)
  if (!length(dims))
    ll_abort("No dimension is left to look in.", "argument")
  if (length(dims) > 20)
    ll_abort(paste0("'drill' looks in twenty dimensions at most; the book has ", length(dims),
                    ". Name them with 'by'."), "argument")
  # Every other dimension may be the one by which names waver.
  others <- setdiff(unique(c(args$not_by, all)), dims)
  if (length(dims) + length(others) > 20) others <- args$not_by
  with_args(question, by = dims, others = others)
}

# The dimensions that may stand as causes where none are asked for: no bands of the metric itself,
# which move with it, and no fields that tell most names of a register from each other.
drill_causes <- function(question) {
  book <- question$book
  metric <- names_in(first_metric(question)$tree)
  Filter(function(field) {
    tree <- key_tree(book, field)
    if (tree$kind == "computed") tree <- tree$tree
    if (tree$kind %in% c("band", "banded"))
      return(!any(names_in(tree$metric %||% tree$arg) %in% metric))
    row <- book$fields[match(field, book$fields$name), ]
    register <- book$registers[[row$from]]
    is.null(register) || length(unique(register$table[[row$column]])) < length(register$names) / 2
  }, telling_dimensions(book, NULL))
}

# The lines of all periods, which tell how much segments waver; of both alone for a rate, and where
# more of them would have to be brought than may be.
drill_source <- function(question) {
  args <- question$args
  bring <- function(where) {
    lines_here(question, c(args$by, args$others, question$book$order, question$book$date), where)
  }
  both <- either(question$asked$where_before, question$asked$where_now)
  if (args$rate) return(bring(both))
  tryCatch(bring(question$asked$where_ever), ll_error_data = function(e) bring(both))
}

# The lines laid out for the search.
drill_lines <- function(question) {
  args <- question$args
  source <- drill_source(question)
  masks <- list(line_mask(source, question$asked$where_before),
                line_mask(source, question$asked$where_now))
  period <- masks[[1]] + 2L * masks[[2]]
  trees <- key_trees(question$book, c(args$by, args$others), question$asked$where_now)
  columns <- lapply(trees, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(trees, function(tree) length(source_names(question$book$source, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  order <- if (!is.null(question$book$order))
    order_codes(coded_field(source, question$book$order)$codes)
  # Some thousand orders tell which dimensions stay the same within them.
  some <- if (!is.null(order)) which(order <= max(1e3, max(order) * 2e5 / source$n))
  by_order <- if (length(some)) drill_by_order(lapply(codes, `[`, some), order[some]) else
    levels >= 0
  group <- drill_group(by_order, levels)
  values <- drill_values(question, source, period)
  lay <- function(period) {
    kernel_segments(codes, period, values$amount, values$weight, order,
                    if (!is.null(group)) codes[[group]], FALSE)
  }
  # Every line of the book but those now tells how large the orders of a segment are by themselves.
  earlier <- masks[[2]] == 0
  if (!is.null(question$asked$where_ever))
    earlier <- earlier & line_mask(source, question$asked$where_ever)
  list(lines = lay(period), past = if (!args$rate) lay(as.integer(earlier)), levels = levels,
       names = lapply(columns, `[[`, "levels"), group = group, by_order = by_order,
       decimals = values$decimals, beyond = any(earlier & masks[[1]] == 0))
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
drill_values <- function(question, source, period) {
  args <- question$args
  metric <- first_metric(question)
  if (!args$rate) {
    v <- metric_lines(source, metric$tree)
    return(list(amount = v$v, weight = NULL, decimals = if (is_exact(v)) v$decimals else 0L))
  }
  n <- scaled_value(metric_lines(source, args$ratio$n))
  search <- scaled_value(metric_lines(source, args$ratio$d))
  whole <- function(x) c(sum(x[period == 1]), sum(x[period == 2]))
  wholes <- whole(search)
  if (any(wholes <= 0))
    ll_abort(paste0("What ", spoken(metric$name), " divides by is not above zero in ",
                    span_text(question$asked$before$from, question$asked$before$to), " or ",
                    span_text(question$asked$now$from, question$asked$now$to), "."), "data")
  middle <- mean(whole(n) / wholes)
  of <- wholes[pmax(period, 1)]
  list(amount = (n - middle * search) / of, weight = search / of, decimals = 0L)
}

drill_found <- found_of(
  "drill", common = found_change,
  laid = holds("list", NULL, "the lines laid out for the search, names by dimension, places"),
  search = holds("any", NULL, "the search, as new_drill() makes it"),
  leaves = holds("list", "segment", "dims, codes, amount, score, all of each segment"),
  named = holds("list", "segment", "their names by dimension"),
  conditions = holds("list", "segment", "their conditions, as trees"),
  trees = holds("list", "segment", "the same without the segments found before"),
  rest_tree = holds("tree", NULL, "the condition of everything else", absent = "without segments"),
  parts = holds("table", NULL, "before, now, change, excess: segments, then everything else",
                missing = "a rate of nothing"),
  chance = holds("share", "segment", "how likely such a book does as much by itself"),
  customers = holds("number", "segment", "customers behind each", missing = "for a rate"),
  others = holds("table", NULL, "the next candidates: excess, chance"),
  others_named = holds("list", NULL, "their names by dimension"),
  least = holds("number", "one", "the smallest excess that would have been unusual",
                missing = "for a rate"),
  inside = holds("table", NULL, "who moved most within each segment"),
  growth = holds("number", "one", "everything else now, a multiple of then; of a rate its change"),
  uniform = holds("metric", "one", "the whole change, had all grown like everything else"))

# Everything that is found.
drill_work <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  laid <- drill_lines(question)
  deep <- min(args$depth, if (!is.null(args$path)) length(args$path) else 3)
  search <- new_drill(laid$lines, laid$levels, laid$by_order, laid$group, deep,
                      args$min_impact, args$path, args$others)
  whole <- both_periods(question, character(), stats::setNames(list(metric$tree), metric$name))
  found <- c(period_totals(question, whole), list(laid = laid, search = search))
  if (!args$rate && found$then <= 0)
    ll_abort(c(paste0(capital(spoken(metric$name)), " then is ", said(found$then, metric),
                      "; growth needs a total above zero."),
               i = "Give another period with 'against', or look with bridge."), "data")
  search$least <- args$min_impact * max(found$then, found$now) * 10^laid$decimals
  seen <- if (args$rate)
    list(segments = drill_segments(search, -log(1 - args$confidence), args$max_segments)) else
      where_segments(search, args$max_segments)
  found$leaves <- seen$segments
  found <- merge_leaves(question, found, measure_leaves(found))
  found <- drill_measured(question, found)
  found <- drill_judged(question, found, seen$others)
  do.call(drill_found, drill_sorted(found))
}

# How unusual each segment is, the next candidates, and what could have been found.
drill_judged <- function(question, found, others) {
  scale <- 10^found$laid$decimals
  if (question$args$rate) {
    found$chance <- vapply(found$leaves, function(l) min(1, exp(-l$score)), 0)
    found$customers <- rep(NA_real_, length(found$leaves))
    found$others <- data.frame(excess = numeric(), chance = numeric())
    found$others_named <- list()
    found$least <- NA_real_
    found$inside <- empty_inside()
    return(found)
  }
  past <- list2env(as.list(found$search), parent = emptyenv())
  past$lines <- found$laid$past
  judged <- where_chances(found$search, past, found$leaves)
  found$chance <- judged$chances$chance
  found$customers <- judged$chances$customers
  others <- first_few(others, drill_others)
  next_to <- where_candidates(found$search, past, others, judged)
  found$others <- data.frame(excess = next_to$excess / scale, chance = next_to$chance)
  found$others_named <- lapply(others, leaf_names, found = found)
  found$least <- where_least(found$search, drill_twentieth, question$args$confidence) / scale
  found$inside <- drill_inside(found)
  found
}

drill_others <- 8        # candidates told
drill_twentieth <- .05   # the part of the money for which the smallest excess is told

empty_inside <- function() {
  data.frame(leaf = integer(), dimension = character(), name = character(), before = numeric(),
             now = numeric(), change = numeric())
}

# Within each segment the names that moved most, of the dimensions it leaves open.
drill_inside <- function(found) {
  search <- found$search
  one <- function(i) {
    leaf <- found$leaves[[i]]
    dims <- drill_open(search, leaf$dims, length(leaf$dims) + 1)
    if (!is.null(search$path)) dims <- setdiff(search$open, leaf$dims)
    if (!length(dims)) return(NULL)
    tables <- drill_tables(search, where_rows(search, leaf), dims)
    do.call(rbind, lapply(dims, function(v) {
      money <- tables[[v]][-1, c("a", "b"), drop = FALSE] / 10^found$laid$decimals
      change <- money[, "b"] - money[, "a"]
      at <- first_few(order(-abs(change)), 3)
      at <- at[change[at] != 0]
      data.frame(leaf = rep(i, length(at)), dimension = rep(v, length(at)),
                 name = found$laid$names[[v]][at], before = money[at, "a"], now = money[at, "b"],
                 change = change[at], row.names = NULL)
    }))
  }
  do.call(rbind, lapply(seq_along(found$leaves), one)) %||% empty_inside()
}

# The segments in the order of their money, everything else last.
drill_sorted <- function(found) {
  n <- length(found$leaves)
  if (n < 2) return(found)
  at <- order(-abs(found$parts$excess[seq_len(n)]))
  for (what in c("leaves", "named", "conditions", "trees", "chance", "customers"))
    found[[what]] <- found[[what]][at]
  found$parts <- found$parts[c(at, n + 1), ]
  rownames(found$parts) <- NULL
  found$inside <- found$inside[order(match(found$inside$leaf, at)), ]
  found$inside$leaf <- match(found$inside$leaf, at)
  rownames(found$inside) <- NULL
  found
}

# Amounts of each leaf; a line belongs to the first that it fits.
measure_leaves <- function(found) {
  search <- found$search
  rows <- NULL
  for (i in seq_along(found$leaves)) {
    leaf <- found$leaves[[i]]
    mine <- where_rows(search, leaf, rows)
    leaf$all <- i == 1 || length(where_rows(search, leaf)) == length(mine)
    leaf$amount <- drill_amounts(search, mine) / 10^found$laid$decimals
    if (i < length(found$leaves)) rows <- drill_rows_left(search, list(leaf), rows)
    found$leaves[[i]] <- leaf
  }
  found$leaves
}

# Neighbours that differ in one dimension, went the same way and changed alike are one: "Fen or
# Moor".
merge_leaves <- function(question, found, leaves) {
  most <- if (question$args$rate) Inf else where_most * (found$then + found$now)
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
  found$leaves <- leaves
  # A line of both may have been counted elsewhere.
  found$leaves <- measure_leaves(found)
  found
}

# The one dimension in which two leaves differ, where they changed alike and hold no more than
# `most` together.
alike_but_one <- function(a, b, rate, most) {
  if (!setequal(a$dims, b$dims) || sign(a$excess) != sign(b$excess)) return(NULL)
  differ <- a$dims[!vapply(a$dims, function(v) setequal(a$codes[[v]], b$codes[[v]]), NA)]
  near <- function(x, y) x == y || x > 0 && y > 0 && abs(log(x / y)) < .5
  ratio <- function(x) if (x$amount[["a"]] != 0) x$amount[["b"]] / x$amount[["a"]] else Inf
  if (length(differ) == 1 && sum(a$amount, b$amount) <= most &&
        (rate || near(ratio(a), ratio(b)))) differ
}

joined_leaves <- function(a, b, differ) {
  a$codes[[differ]] <- sort(c(a$codes[[differ]], b$codes[[differ]]))
  a$amount <- a$amount + b$amount
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
