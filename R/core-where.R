# Where a change is: the fewest disjoint segments that account for most of it beyond what all else
# did.
#
# A segment's excess is what it did beyond the change of all other lines; how it is scored and how
# likely it is by itself is the measure's, core-excess.R for amounts and core-excess-rate.R for
# rates. Scores are in nats, less a price: the log of how many segments of such dimensions there are
# (Bonferroni, weighted: Genovese, Roeder and Wasserman 2006), so that each further condition has
# its stated price and hundreds of values buy nothing.
#
# Search. Every name and every pair of names that occurs is looked at (whole tables), triples inside
# the twenty best pairs; the highest score wins (scan statistics: Kulldorff 1997). A child that
# holds four fifths of its parent's excess at nearly its score stands for it. What is named is left
# out and the rest is looked at again (cover: Friedman and Fisher 1999), up to `most` times, as
# long as the score is above nothing.

where_kept <- 20       # cells kept of each table; pairs whose triples are looked at
where_share <- .8      # the part of its parent's excess at which a child stands for it
where_give <- 2        # nats that this may cost
where_wide <- .5       # nats that the other way round may cost
where_large <- .005    # part of the whole from which on a name could have been named
where_orders <- 4      # fewest orders of a segment

# The best cells of a table of `dims`, as candidates; `under` is the segment within which.
where_cells <- function(search, table, whole, dims, under = NULL) {
  codes <- table[, seq_along(dims), drop = FALSE]
  # Lines without a name are no segment of their own.
  known <- rowSums(codes == 0) == 0
  table <- table[known, , drop = FALSE]
  codes <- codes[known, , drop = FALSE]
  if (!nrow(table)) return(list())
  made <- search$measure$scores(search, table, whole, dims, under)
  # To ten digits, since databases add up in another order; ties by the order of names.
  at <- order(-signif(made$score, 10))
  at <- first_few(at[made$score[at] > -Inf], where_kept)
  lapply(at, function(k) {
    list(dims = c(under$dims, dims),
         codes = c(under$codes, stats::setNames(as.list(as.integer(codes[k, ])), dims)),
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

first_few <- function(x, n) x[seq_len(min(n, length(x)))]

# The tables of all names and pairs over some rows, with their whole.
where_tables <- function(search, rows = NULL) {
  first <- as.list(if (is.null(search$path)) search$open else search$path[1])
  pairs <- where_pairs(search)
  made <- search$lines$tables(list(segment_ask(c(list(character()), first, pairs), NULL, rows)),
                              search$floor, where_orders)[[1]]
  list(of = c(first, pairs), whole = made[[1]][1, segment_columns], made = made[-1])
}

# The tables of what is left of `rows` without a segment: of the orders that it has a line of, those
# of their lines are taken off and those of their other lines put to. Groups may be of several
# orders; what is told of them is left as it was.
tables_without <- function(search, tables, segment, rows) {
  ask <- function(orders) segment_ask(c(list(character()), tables$of), segment, rows, orders)
  made <- search$lines$tables(list(ask("whole"), ask("less")), search$floor)
  change <- function(a, b, sign) {
    names <- intersect(c("first", "second"), colnames(a))
    keys <- function(x) lapply(names, function(name) x[, name])
    at <- if (length(names)) match_keys(keys(b), keys(a)) else 1L
    held <- !is.na(at)
    a[at[held], segment_columns] <- a[at[held], segment_columns] + sign * b[held, segment_columns]
    a
  }
  all <- Map(function(a, off, to) change(change(a, off, -1), to, 1),
             c(list(rbind(tables$whole)), tables$made), made[[1]], made[[2]])
  list(of = tables$of, whole = all[[1]][1, ], made = all[-1])
}

# Every candidate among some rows, best first; `tables` are those of the rows.
where_look <- function(search, rows = NULL, tables = where_tables(search, rows)) {
  whole <- search$measure$whole(search, tables$whole)
  if (!whole$known) return(list())
  found <- Map(function(table, dims) where_cells(search, table, whole, dims), tables$made,
               tables$of)
  of <- lengths(tables$of)
  if (is.null(search$large)) where_count(search, whole, tables$made, of)
  double <- by_score(unlist(found[of == 2], recursive = FALSE))
  triple <- if (search$depth > 2)
    where_children(search, rows, first_few(double, where_kept), whole)
  by_score(once_each(c(unlist(found, recursive = FALSE), triple)))
}

# Segments with one condition more, each a candidate.
where_children <- function(search, rows, segments, whole) {
  open <- lapply(segments, function(segment) open_under(search, segment$dims))
  segments <- segments[lengths(open) > 0]
  open <- open[lengths(open) > 0]
  if (!length(segments)) return(list())
  asked <- Map(function(segment, dims) segment_ask(as.list(dims), segment, rows), segments, open)
  made <- search$lines$tables(asked, search$floor, where_orders)
  unlist(Map(function(segment, dims, tables) {
    unlist(Map(function(v, table) where_cells(search, table, whole, v, segment), dims, tables),
           recursive = FALSE, use.names = FALSE)
  }, segments, open, made), recursive = FALSE, use.names = FALSE)
}

# How many names hold enough to have been named, of one and of two conditions.
where_count <- function(search, whole, tables, of) {
  large <- vapply(tables, function(t) sum(search$measure$part(t, whole) >= where_large), 0)
  search$large <- c(sum(large[of == 1]), sum(large[of == 2]))
  # Of three as many for each pair as there are pairs for each name: an estimate, since not all are
  # looked at.
  ratio <- search$large[2] / max(search$large[1], 1)
  search$large <- cumsum(c(search$large, search$large[2] * max(ratio, 1)))
}

by_score <- function(found) {
  if (length(found)) found[order(-signif(vapply(found, `[[`, 0, "score"), 10))]
}

once_each <- function(found) {
  key <- vapply(found, function(one) {
    at <- order(one$dims)
    paste(one$dims[at], unlist(one$codes)[at], collapse = "\r")
  }, "")
  found[!duplicated(key)]
}

# A child that holds most of its parent's excess stands for it.
where_narrowed <- function(search, rows, best, whole) {
  while (length(best$dims) < search$depth && is.null(search$path)) {
    near <- Filter(function(child) {
      sign(child$excess) == sign(best$excess) && child$score > best$score - where_give &&
        abs(child$excess) >= where_share * abs(best$excess)
    }, where_children(search, rows, list(best), whole))
    if (!length(near)) break
    best <- by_score(near)[[1]]
  }
  best
}

# A parent of whose excess a child holds less than that stands for the child, if it has the score of
# a further condition but for little.
where_widened <- function(seen, best) {
  repeat {
    near <- Filter(function(parent) {
      length(parent$dims) == length(best$dims) - 1 && all(parent$dims %in% best$dims) &&
        all(unlist(best$codes[parent$dims]) == unlist(parent$codes[parent$dims])) &&
        sign(parent$excess) == sign(best$excess) && parent$score > best$score - where_wide &&
        abs(best$excess) < where_share * abs(parent$excess)
    }, seen)
    if (!length(near)) return(best)
    best <- by_score(near)[[1]]
  }
}

# list(segments, others): up to `most` disjoint segments, and what was next to them.
where_segments <- function(search, most) {
  search$measure$begin(search, wholes_of(search, list(segment_ask(NULL)))[[1]])
  out <- list()
  rows <- NULL
  tables <- where_tables(search)
  repeat {
    # What is left may have no rate at all.
    seen <- Filter(function(one) !is.na(one$score), where_look(search, rows, tables))
    if (!length(seen) || length(out) == most || length(out) && seen[[1]]$score <= 0) break
    whole <- search$measure$whole(search, tables$whole)
    best <- where_narrowed(search, rows, where_widened(seen, seen[[1]]), whole)
    out[[length(out) + 1]] <- best
    before <- rows
    rows <- search$lines$lacking(rows, best)
    tables <- if (search$lines$subtracts && !search$measure$by_group)
      tables_without(search, tables, best, before) else where_tables(search, rows)
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

# What is left beside disjoint segments, here and in the past, and what each of them amounts to. A
# line belongs to the first that it fits. `past` is the same search among all lines but those now,
# or NULL.
where_parted <- function(search, past, segments) {
  rows <- list(here = NULL, past = NULL)
  fitting <- lapply(segments, function(segment) {
    before <- rows
    rows <<- list(here = search$lines$lacking(rows$here, segment),
                  past = if (!is.null(past)) past$lines$lacking(rows$past, segment))
    before
  })
  list(rows = rows, rest = wholes_of(search, list(segment_ask(NULL, NULL, rows$here)))[[1]],
       rest_pairs = if (!is.null(past))
         where_past(past, list(segment_ask(NULL, NULL, rows$past)))[[1]]$pairs,
       parts = where_amounts(search, past, segments, fitting))
}

# What the rows of each ask amounted to in the past: list(whole, pairs), pairs a matrix of a, b and
# orders in the earlier and the later period of each earlier pair of like periods, latest first.
where_past <- function(past, asked) {
  n <- past$pairs
  of <- c(list(character()), if (n) list("earlier", "later"))
  made <- past$lines$tables(lapply(asked, function(ask) segment_ask(of, ask$segment, ask$rows)))
  lapply(made, function(tables) {
    pairs <- matrix(0, n, 4, dimnames = list(NULL, c("a", "b", "na", "nb")))
    for (k in seq_along(tables)[-1]) {
      table <- tables[[k]][tables[[k]][, "first"] > 0, , drop = FALSE]
      pairs[table[, "first"], c("a", "b")[k - 1]] <- table[, "a"]
      pairs[table[, "first"], c("na", "nb")[k - 1]] <- table[, "na"]
    }
    list(whole = tables[[1]][1, segment_columns], pairs = pairs)
  })
}

# What each segment amounts to now and then among its `rows`, in the past, and how many customers
# are behind it.
where_amounts <- function(search, past, segments, rows) {
  asked <- function(side) {
    Map(function(s, r) segment_ask(NULL, s, r[[side]]), segments, rows)
  }
  here <- wholes_of(search, asked("here"))
  before <- if (!is.null(past)) where_past(past, asked("past")) else
    rep(list(NULL), length(segments))
  Map(function(segment, now, past) {
    list(now = now, past = past$whole, pairs = past$pairs, k = length(segment$dims),
         items = where_items(search, segment), customers = now[["ng"]])
  }, segments, here, before)
}

# How much of the drift of items a segment has: all where it names one, else by how concentrated its
# items are.
where_items <- function(search, segment) {
  if (is.null(search$item)) return(0)
  if (search$item %in% segment$dims) return(1)
  coarse <- segment$dims[vapply(segment$dims, function(dim) search$fixes[search$item, dim], NA)]
  if (!length(coarse)) return(0)
  mean(item_squares(search, coarse[1])[unlist(segment$codes[[coarse[1]]]) + 1])
}

# Sums of squared shares of items for each name of a dimension that they fix, from none on.
item_squares <- function(search, dim) {
  key <- paste0("squares_", dim)
  if (is.null(search[[key]])) {
    if (is.null(search$items)) search$items <- table_of(search, search$item)
    items <- search$items
    link <- search$lines$links(search$item, dim)[items[, "first"] + 1]
    size <- pmax(search$measure$size(items), 0)
    group <- factor(link, 0:search$levels[[dim]])
    sums <- tapply(size, group, sum, default = 0)
    squares <- tapply(size^2, group, sum, default = 0)
    search[[key]] <- as.vector(ifelse(sums > 0, squares / sums^2, 0))
  }
  search[[key]]
}

# The chance that one of so many names does by itself what one does with chance p.
book_chance <- function(p, names) -expm1(max(names, 1) * log1p(-pmin(p, 1 - 1e-12)))

# Two-sided tails: of few customers those of a t with few degrees of freedom, which are heavier.
where_tail <- function(z, customers) {
  2 * ifelse(customers < where_customers, stats::pt(-abs(z), where_few), stats::pnorm(-abs(z)))
}
where_customers <- 10  # fewer customers have heavier tails
where_few <- 9         # with so many degrees of freedom
