# Where a change is: the fewest disjoint segments that account for most of it beyond the general
# growth, and how unusual each of them is for this book.
#
# A segment is a conjunction of names of up to three dimensions. With A then and B now, and g the
# growth B / A of all other lines, its excess is e = B - g A.
#
# Score, in nats. Segments are chosen by money and simplicity: the deviance of the money now from
# what the growth of the rest would make of it, over the size of orders, less a price,
#
#   s = [a log(a / E) + b log(b / E)] / (size + steady^2 E / 2) - log(names) - log choose(D, k),
#
# with a = g A, b = B, E = (a + b) / 2. `size` is the geometric mean over the two periods of squared
# order totals over money, each drawn towards the book's own (phi) by five orders: a rise by a
# factor and a fall by it score alike. `names` is the product of how many names its k dimensions of
# D have (Bonferroni, weighted: Genovese, Roeder and Wasserman 2006), so that each further condition
# has its stated price, log(names) + the change of log choose(D, k), and hundreds of values buy
# nothing. Only excesses of at least `least` of the larger total count.
#
# Search. Every name and every pair of names that occurs is looked at (whole tables), triples inside
# the twenty best pairs; the highest score wins (scan statistics: Kulldorff 1997). A child that
# holds four fifths of its parent's excess at nearly its score stands for it. What is named is left
# out and the rest is looked at again (cover: Friedman and Fisher 1999), up to `most` times, as
# long as the score is above nothing.
#
# Chance. z = e / sqrt(V), V = size_p (a + b) + (A / A_rest)^2 phi (A_all + B_all) + phi^2 / 4 +
# drift, where size_p is squared order totals over money of the segment in all periods but now,
# drawn towards phi by five orders: a rise of now does not widen its own noise. Drift is t^2 g times
# the sum over its customers of money then by money now, and the same of items (of coarser names by
# the squared shares of their items), since names buy more or less for reasons of their own; t^2 is
# fitted to all of them by Huber's proposal 2, see core-drill.R. The chance that a book such as this
# does as much by itself is 1 - (1 - p)^N, N the number of names of as many conditions
# that hold at least half a per cent of the money. Fewer than ten customers have heavier tails (on
# the demo z beyond 2.58 in .037 and beyond 3.29 in .008 of such segments): p is that of a t with 9
# degrees of freedom.

where_steady <- .02    # drift that any segment may have
where_orders <- 5      # orders by which a segment's size is drawn towards the book's
where_kept <- 20       # cells kept of each table; pairs whose triples are looked at
where_share <- .8      # the part of its parent's excess at which a child stands for it
where_most <- .5       # part of the money that a segment may hold
where_left <- .3       # part of the money that is left as everything else
where_give <- 2        # nats that this may cost
where_few <- 9         # degrees of freedom of the tails of fewer than ten customers
where_large <- .005    # part of the money from which on a name could have been named

# `search` is one of new_drill(), with the `least` excess as an amount. What is left of the rows
# (NULL for all): totals, and the size of orders of the whole.
where_whole <- function(search, rows = NULL, table = NULL) {
  if (is.null(table))
    table <- drill_tables(search, rows, search$group %||% search$names[1])[[1]]
  whole <- as.list(colSums(table))
  g <- if (whole$a > 0) max(whole$b, 0) / whole$a else 1
  whole$phi <- max((g^2 * whole$qa + whole$qb) / max(g * whole$a + whole$b, 1e-9), 1e-9)
  whole
}

# The growth of all lines but each row's.
where_growth <- function(table, whole) {
  pmax(whole$b - table[, "b"], 0) / pmax(whole$a - table[, "a"], 1e-9)
}

where_scores <- function(search, table, whole, dims) {
  g <- where_growth(table, whole)
  a <- pmax(g * table[, "a"], 0)
  b <- pmax(table[, "b"], 0)
  middle <- (a + b) / 2
  part <- function(x) ifelse(x > 0, x * log(x / middle), 0)
  drawn <- where_orders * whole$phi
  size <- sqrt((g^2 * table[, "qa"] + drawn * whole$phi) / (a + drawn) *
                 (table[, "qb"] + drawn * whole$phi) / (b + drawn))
  score <- (part(a) + part(b)) / (size + where_steady^2 * middle / 2) -
    drill_penalty(search, dims)
  excess <- table[, "b"] - g * table[, "a"]
  few <- table[, "na"] + table[, "nb"] < drill_orders | abs(excess) < search$least |
    where_part(search, table[, "a"], table[, "b"]) > where_room(search, whole)
  score[few | !is.finite(score)] <- -Inf
  list(score = score, excess = excess)
}

# The part of the money that a segment may have: the general growth is that of what is left, which
# would tell nothing where that is little.
where_room <- function(search, whole) {
  min(where_most, where_part(search, whole$a, whole$b) - where_left)
}

# The part of all money, in the period in which it is less.
where_part <- function(search, a, b) {
  pmin(a / search$all[["a"]], b / max(search$all[["b"]], 1e-9))
}

# The best cells of a table, as candidates; `codes` is a matrix of the codes of `dims`.
where_cells <- function(search, table, whole, dims, codes) {
  made <- where_scores(search, table, whole, dims)
  # Lines without a name are no segment of their own.
  made$score[rowSums(codes == 0) > 0] <- -Inf
  at <- order(-made$score)[seq_len(min(where_kept, nrow(table)))]
  at <- at[made$score[at] > -Inf]
  lapply(at, function(k) {
    list(dims = dims, codes = stats::setNames(as.list(as.integer(codes[k, ])), dims),
         score = made$score[k], excess = made$excess[k])
  })
}

# Pairs of dimensions that tell something together.
where_pairs <- function(search) {
  if (search$depth < 2) return(list())
  if (!is.null(search$path))
    return(if (length(search$path) > 1) list(search$path[1:2]) else list())
  pairs <- if (length(search$open) > 1) two_of(search$open) else list()
  Filter(function(pair) !search$fixes[pair[1], pair[2]] && !search$fixes[pair[2], pair[1]], pairs)
}

two_of <- function(x) {
  unlist(lapply(seq_along(x)[-1], function(j) {
    lapply(seq_len(j - 1), function(i) c(x[i], x[j]))
  }), recursive = FALSE)
}

# The tables of all names and pairs over some rows, with that of the customers.
where_tables <- function(search, rows = NULL) {
  first <- if (is.null(search$path)) search$open else search$path[1]
  list(base = drill_tables(search, rows, search$group %||% search$names[1])[[1]],
       singles = drill_tables(search, rows, first),
       pairs = where_pair_tables(search, rows, where_pairs(search)))
}

# The tables of what is left without rows that split no order, from the tables of those.
tables_without <- function(all, part) {
  all$base <- all$base - part$base
  all$singles <- Map(`-`, all$singles, part$singles)
  all$pairs <- Map(function(a, b) {
    at <- match_keys(list(b[, "first"], b[, "second"]), list(a[, "first"], a[, "second"]))
    a[at, -(1:2)] <- a[at, -(1:2)] - b[, -(1:2)]
    a
  }, all$pairs, part$pairs)
  all
}

# Every candidate among some rows, best first; `tables` are those of the rows.
where_look <- function(search, rows = NULL, tables = where_tables(search, rows)) {
  whole <- where_whole(search, rows, tables$base)
  if (whole$a <= 0) return(list())
  if (is.null(search$all)) search$all <- c(a = whole$a, b = whole$b)
  found <- unlist(Map(function(v, table) {
    where_cells(search, table, whole, v, cbind(seq_len(nrow(table)) - 1))
  }, names(tables$singles), tables$singles), recursive = FALSE, use.names = FALSE)
  double <- unlist(Map(function(pair, table) {
    where_cells(search, table[, -(1:2), drop = FALSE], whole, pair, table[, 1:2, drop = FALSE])
  }, where_pairs(search), tables$pairs), recursive = FALSE, use.names = FALSE)
  if (is.null(search$large)) where_count(search, whole, tables$singles, tables$pairs)
  triple <- if (search$depth > 2) unlist(lapply(first_few(by_score(double), where_kept),
                                                function(pair) {
    where_children(search, rows, pair, whole)
  }), recursive = FALSE)
  by_score(once_each(c(found, double, triple)))
}

where_pair_tables <- function(search, rows, pairs) {
  if (!length(pairs)) return(list())
  at <- matrix(match(unlist(pairs), search$names), 2)
  lapply(kernel_segment_pairs(search$lines, rows, at, search$levels), function(table) {
    colnames(table) <- c("first", "second", drill_columns)
    table
  })
}

# A segment with one condition more, each a candidate.
where_children <- function(search, rows, segment, whole) {
  dims <- drill_open(search, segment$dims, length(segment$dims) + 1)
  if (!length(dims)) return(list())
  mine <- kernel_segment_rows(search$lines, rows, match(segment$dims, search$names),
                              unlist(segment$codes), FALSE)
  tables <- drill_tables(search, mine, dims)
  unlist(lapply(dims, function(v) {
    table <- tables[[v]]
    held <- matrix(rep(unlist(segment$codes), each = nrow(table)), nrow(table))
    where_cells(search, table, whole, c(segment$dims, v), cbind(held, seq_len(nrow(table)) - 1))
  }), recursive = FALSE)
}

# How many names hold enough money to have been named, of one and of two conditions.
where_count <- function(search, whole, singles, pairs) {
  enough <- where_large * (whole$a + whole$b)
  count <- function(tables) {
    sum(vapply(tables, function(t) sum(t[, "a"] + t[, "b"] >= enough), 0))
  }
  search$large <- c(count(singles), count(pairs))
  # Of three as many for each pair as there are pairs for each name: an estimate, since not all are
  # looked at.
  ratio <- search$large[2] / max(search$large[1], 1)
  search$large <- cumsum(c(search$large, search$large[2] * max(ratio, 1)))
}

by_score <- function(found) found[order(-vapply(found, `[[`, 0, "score"))]

once_each <- function(found) {
  key <- vapply(found, function(one) {
    at <- order(one$dims)
    paste(one$dims[at], unlist(one$codes)[at], collapse = "\r")
  }, "")
  found[!duplicated(key)]
}

# A child that holds most of its parent's excess stands for it.
where_narrowed <- function(search, rows, best) {
  whole <- where_whole(search, rows)
  while (length(best$dims) < search$depth && is.null(search$path)) {
    near <- Filter(function(child) {
      sign(child$excess) == sign(best$excess) && child$score > best$score - where_give &&
        abs(child$excess) >= where_share * abs(best$excess)
    }, where_children(search, rows, best, whole))
    if (!length(near)) break
    best <- by_score(near)[[1]]
  }
  best
}

# list(segments, others): up to `most` disjoint segments, and what was next to them.
where_segments <- function(search, most) {
  out <- list()
  rows <- NULL
  tables <- where_tables(search)
  repeat {
    seen <- where_look(search, rows, tables)
    if (!length(seen) || length(out) == most || length(out) && seen[[1]]$score <= 0) break
    best <- where_narrowed(search, rows, seen[[1]])
    out[[length(out) + 1]] <- best
    mine <- where_rows(search, best, rows)
    rows <- drill_rows(search, list(best), rows)
    tables <- if (all(search$by_order[best$dims]))
      tables_without(tables, where_tables(search, mine)) else where_tables(search, rows)
  }
  list(segments = out, others = apart(seen))
}

# Of candidates, best first, those of which none lies within one before it, nor the other way round.
apart <- function(found) {
  kept <- list()
  for (one in found) {
    if (length(kept) == where_kept) break
    if (!any(vapply(kept, touches, NA, one))) kept[[length(kept) + 1]] <- one
  }
  kept
}

touches <- function(a, b) {
  within <- function(x, y) {
    all(x$dims %in% y$dims) && all(unlist(y$codes[x$dims]) == unlist(x$codes[x$dims]))
  }
  within(a, b) || within(b, a)
}

# Chances of disjoint segments, each list(dims, codes), that the book does as much by itself; a line
# belongs to the first that it fits. Each is held against everything else, what no segment has.
# `past` is a search over all lines but those now. Gives list(chances, rest, rows): chances a data
# frame of excess, z, customers, chance; rest what where_whole() says of everything else; rows those
# of it, here and in the past.
where_chances <- function(search, past, segments) {
  rows <- list(here = NULL, past = NULL)
  seen <- lapply(segments, function(segment) {
    mine <- where_amounts(search, past, segment, rows)
    rows <<- list(here = drill_rows(search, list(segment), rows$here),
                  past = drill_rows(past, list(segment), rows$past))
    mine
  })
  rest <- where_whole(search, rows$here)
  # Fitted to all lines: what was named for a cause weighs little.
  rest$drift <- where_drifts(search)
  chances <- lapply(seen, function(mine) {
    where_chance(list(a = rest$a + mine$now[["a"]], b = rest$b + mine$now[["b"]], phi = rest$phi,
                      drift = rest$drift), mine, search$large)
  })
  list(chances = do.call(rbind, chances) %||% no_chances, rest = rest, rows = rows)
}

no_chances <- data.frame(excess = numeric(), z = numeric(), customers = numeric(),
                         chance = numeric())

# The same of candidates, each by itself among the rows of everything else.
where_candidates <- function(search, past, segments, judged) {
  out <- lapply(segments, function(segment) {
    where_chance(judged$rest, where_amounts(search, past, segment, judged$rows), search$large)
  })
  do.call(rbind, out) %||% no_chances
}

# What a segment amounts to now and then, in the past, and how many customers are behind it.
where_amounts <- function(search, past, segment, rows) {
  base <- search$group %||% search$names[1]
  of <- function(one, rows) drill_tables(one, where_rows(one, segment, rows), base)[[1]]
  here <- of(search, rows$here)
  now <- colSums(here)
  list(now = now, past = colSums(of(past, rows$past)), k = length(segment$dims),
       items = where_items(search, segment),
       customers = if (is.null(search$group)) sum(now[c("na", "nb")]) else
         sum(here[, "na"] + here[, "nb"] > 0))
}

# The drift of customers and of items between the two periods.
where_drifts <- function(search) {
  of <- function(dim, prior) {
    if (is.null(dim)) return(0)
    table <- drill_tables(search, NULL, dim)[[1]]
    g <- weighted_median(table[, "b"] / pmax(table[, "a"], 1e-9), pmax(table[, "a"], 0) +
                           pmax(table[, "b"], 0))
    t2 <- huber_drift(table[, "b"] - g * table[, "a"], table[, "qb"] + g^2 * table[, "qa"],
                      g * table[, "a"] * table[, "b"], prior)
    min(1, t2)
  }
  c(group = of(search$group, drill_prior[["group"]]), item = of(search$item, drill_prior[["item"]]))
}

# How much of the drift of items a segment has: all where it names one, else by how concentrated its
# items are.
where_items <- function(search, segment) {
  if (is.null(search$item)) return(0)
  if (search$item %in% segment$dims) return(1)
  coarse <- segment$dims[vapply(segment$dims, function(dim) search$fixes[search$item, dim], NA)]
  if (!length(coarse)) return(0)
  if (is.null(search$items)) search$items <- drill_tables(search, NULL, search$item)[[1]]
  squares <- drill_squares(search, search$items, coarse[1])
  mean(squares[unlist(segment$codes[[coarse[1]]]) + 1])
}

where_rows <- function(search, segment, rows = NULL) {
  for (v in segment$dims) rows <- rows_with(search, rows, v, segment$codes[[v]])
  rows
}

# The rows that bear one of these codes of a dimension.
rows_with <- function(search, rows, dim, codes) {
  found <- lapply(codes, function(code) {
    kernel_segment_rows(search$lines, rows, match(dim, search$names), code, FALSE)
  })
  if (length(found) == 1) found[[1]] else sort(unlist(found))
}

# `large` is how many names of one, two and three conditions could have been named.
where_chance <- function(whole, mine, large) {
  now <- mine$now
  customers <- mine$customers
  rest <- max(whole$a - now[["a"]], 1e-9)
  g <- max(whole$b - now[["b"]], 0) / rest
  a <- max(g * now[["a"]], 0)
  b <- max(now[["b"]], 0)
  drawn <- where_orders * whole$phi
  size <- (mine$past[["qa"]] + drawn * whole$phi) / (max(mine$past[["a"]], 0) + drawn)
  drift <- whole$drift[["group"]] * g * max(now[["ab"]], 0) +
    whole$drift[["item"]] * a * b * mine$items
  v <- size * (a + b) + (now[["a"]] / rest)^2 * whole$phi * (whole$a + whole$b) + whole$phi^2 / 4 +
    drift
  excess <- now[["b"]] - g * now[["a"]]
  z <- excess / sqrt(v)
  tail <- if (customers < 10) stats::pt(-abs(z), where_few) else stats::pnorm(-abs(z))
  data.frame(excess = excess, z = z, customers = customers,
             chance = book_chance(2 * tail, large[mine$k]))
}

# The chance that one of so many names does by itself what one does with chance p.
book_chance <- function(p, names) -expm1(max(names, 1) * log1p(-pmin(p, 1 - 1e-12)))

# The smallest excess that would have been beyond the ordinary, of a segment with this part of the
# money.
where_least <- function(search, share, confidence) {
  whole <- where_whole(search)
  g <- max(whole$b, 0) / whole$a
  p <- -expm1(log(confidence) / max(search$large[1], 1))
  v <- whole$phi * share * (g * whole$a + whole$b) + share^2 * whole$phi * (whole$a + whole$b) +
    whole$phi^2 / 4
  stats::qnorm(p / 2, lower.tail = FALSE) * sqrt(v)
}
