# The lines of two periods laid out for segments, and which segments drove the change of a rate;
# those of an amount are found by core-where.R.
#
# A segment is a conjunction of names of up to three dimensions. Every line carries its part of the
# rate's change and a weight w; a segment's excess is e = B - A - d w, with A then, B now and d the
# rest's change for each unit of weight.
#
# Score. The excess is tested against a variance of these parts:
#   squares of order totals, QB + QA: lines of one order come together, so they count once
#     (self-normalised sums: Efron 1969, Student's t-test under symmetry conditions; Shao 1997);
#   drift, t^2 A B over the groups (accounts) of the segment and over its items: names change from
#     period to period for reasons of their own. t^2 is fitted to all of them by Huber's proposal 2
#     (Huber 1964, Robust estimation of a location parameter), so that those that moved for a cause
#     weigh little, with a prior of three names;
#   what the rest's change wavers by itself.
# The score is -log p of a normal tail, less the log of how many segments of such dimensions there
# are (Bonferroni, weighted as in Genovese, Roeder and Wasserman 2006, False discovery control with
# p-value weighting): every name that exists is paid for, so greedy search needs no correction, and
# many values buy nothing.
#
# Search. From all marginal tables the best name of each dimension; the best of these are crossed
# with every other dimension, the best pairs once more; the highest score wins, whatever its depth
# (scan statistics: Kulldorff 1997). What is named is excluded and the rest searched again (cover:
# Friedman and Fisher 1999, Bump hunting in high-dimensional data); with two causes each is found
# again without the other.

drill_beam <- c(4, 3)       # names, then pairs, that are crossed with other dimensions
drill_along <- 12           # on a fixed path, names followed at each level
drill_orders <- 4           # fewest orders of a segment
drill_prior <- c(group = .03, item = .01)   # drift variances before any name is seen

drill_columns <- c("a", "b", "va", "vb", "wa", "wb", "qa", "qb", "ab", "na", "nb")

# lines: an external pointer of kernel_segments(); levels: number of names of each dimension,
# named. A search is an environment of these and its settings.
# `by_order` tells which dimensions stay the same within orders, `group` by which of them the lines
# are laid out; `barred` dimensions serve for drift and are not named themselves; with a `path` each
# level looks at its dimension alone.
new_drill <- function(lines, levels, by_order, group = NULL, depth = 3, share = .01, path = NULL,
                      barred = NULL) {
  search <- list2env(list(lines = lines, levels = levels, names = names(levels), depth = depth,
                          share = share, path = path, group = group, by_order = by_order,
                          open = setdiff(names(levels), barred)), parent = emptyenv())
  search$fixes <- kernel_segment_fixes(lines, levels)
  dimnames(search$fixes) <- list(search$names, search$names)
  # Items: the most names among dimensions that differ within orders; without any, among those
  # that groups neither fix nor are fixed by.
  free <- if (all(by_order) && !is.null(group))
    !search$fixes[group, ] & !search$fixes[, group] & search$names != group else !by_order
  free <- free & levels > 1
  search$item <- if (any(free)) search$names[free][which.max(levels[free])]
  search
}

# Which dimensions stay the same within orders; a few orders entered under two names do not make a
# dimension of lines. `codes` of dimensions and `order` of some lines.
drill_by_order <- function(codes, order) {
  first <- match(order, order)
  vapply(codes, function(code) mean(code[first] != code) < .001, NA)
}

# Customers: the most names among dimensions that stay the same within orders.
drill_group <- function(by_order, levels) {
  fixed <- by_order & levels > 1
  if (any(fixed)) names(levels)[fixed][which.max(levels[fixed])]
}

# Tables of dimensions over rows, as matrices with named columns.
drill_tables <- function(search, rows, dims) {
  out <- kernel_segment_tables(search$lines, rows, match(dims, search$names), search$levels[dims])
  stats::setNames(lapply(out, function(table) {
    colnames(table) <- drill_columns
    table
  }), dims)
}

# What holds for all rows of one search: totals, drift, how concentrated coarser names are.
drill_whole <- function(search, roots) {
  base <- roots[[search$group %||% search$names[1]]]
  whole <- as.list(colSums(base))
  whole$group_drift <- drill_drift(search, roots[[search$group %||% ""]], drill_prior[["group"]])
  whole$item_drift <- drill_drift(search, roots[[search$item %||% ""]], drill_prior[["item"]])
  whole$variance <- whole$qb + whole$qa + whole$group_drift * max(whole$ab, 0)
  whole$roots <- roots
  whole
}

# Excess of each row of a table over the change of all other lines, in columns `a` then and `b` now.
# list(e, part): part is the row's weight beside the others'.
drill_excess <- function(table, whole, a, b) {
  w <- (table[, "wa"] + table[, "wb"]) / 2
  rest <- pmax((whole$wa + whole$wb) / 2 - w, 1e-9)
  shift <- ((whole[[b]] - table[, b]) - (whole[[a]] - table[, a])) / rest
  list(e = table[, b] - table[, a] - shift * w, part = w / rest)
}

# Drift of the names of a table: Huber's proposal 2 on the squared excesses over
# their variance, weighted by how much each tells of the drift.
drill_drift <- function(search, table, prior) {
  if (is.null(table)) return(0)
  w <- (table[, "wa"] + table[, "wb"]) / 2
  moved <- table[, "vb"] - table[, "va"]
  shift <- weighted_median(moved / pmax(w, 1e-12), w)
  e <- moved - shift * w
  m2 <- table[, "wa"] * table[, "wb"]
  whole <- sum(table[, "vb"]) - sum(table[, "va"])
  prior <- prior * (abs(whole) + stats::sd(e / pmax(w, 1e-12)) / 10)^2
  huber_drift(e, table[, "qb"] + table[, "qa"], m2, prior)
}

# The drift variance t2 of names whose excesses e have the variances q + t2 m2: Huber's proposal 2,
# each weighted by how much it tells of the drift, with a prior of three names.
huber_drift <- function(e, q, m2, prior) {
  weight <- 3
  ok <- m2 > 0 & q > 0
  if (sum(ok) < 5) return(prior)
  e2 <- e[ok]^2
  q <- q[ok]
  m2 <- m2[ok]
  t2 <- max(prior, 1e-300)
  for (step in 1:30) {
    w <- (t2 * m2 / (q + t2 * m2))^2
    seen <- pmin(e2 / (q + t2 * m2), 4) / huber_mean
    ratio <- (sum(w * seen) + weight) / (sum(w) + weight)
    t2 <- t2 * ratio
    if (abs(ratio - 1) < 1e-3) break
  }
  t2
}

# The mean of min(z^2, 4) for a standard normal z.
huber_mean <- stats::pchisq(4, 3) + 4 * stats::pchisq(4, 1, lower.tail = FALSE)

weighted_median <- function(x, w) {
  at <- order(x)
  x[at][which(cumsum(w[at]) >= sum(w) / 2)[1]]
}

# Scores of every name of a table of dimension `v` under the names already fixed.
drill_scores <- function(search, table, whole, v, named, codes) {
  money <- drill_excess(table, whole, "a", "b")$e
  x <- drill_excess(table, whole, "va", "vb")
  orders <- table[, "qb"] + table[, "qa"]
  group <- whole$group_drift * pmax(table[, "ab"], 0)
  item <- whole$item_drift * pmax(table[, "wa"] * table[, "wb"], 0) *
    drill_items(search, whole, v, named, codes)
  v2 <- orders + group + item + x$part^2 * pmax(whole$variance - orders - group, 0)
  z <- ifelse(v2 > 0, x$e / sqrt(v2), 0)
  score <- -(stats::pnorm(-abs(z), log.p = TRUE) + log(2)) - drill_penalty(search, c(named, v))
  enough <- table[, "na"] + table[, "nb"] >= drill_orders & sign(money) == sign(x$e) &
    abs(money) >= search$share * drill_scale(whole)
  score[!enough] <- -Inf
  data.frame(score = score, excess = money)
}

# What an excess has to be material beside.
drill_scale <- function(whole) max(abs(whole$b - whole$a), 1e-4) * 5

# How much of the drift of items a segment has: all of it where it names one, for coarser names of
# items the sum of their squared shares, else none, since all segments share it.
drill_items <- function(search, whole, v, named, codes) {
  if (is.null(search$item)) return(0)
  if (search$item %in% c(v, named)) return(1)
  of_items <- function(dim) search$fixes[search$item, dim]
  if (of_items(v)) return(drill_squares(search, whole$roots[[search$item]], v))
  coarse <- named[vapply(named, of_items, NA)]
  if (!length(coarse)) return(0)
  drill_squares(search, whole$roots[[search$item]], coarse[1])[codes[[coarse[1]]] + 1]
}

# Sums of squared shares of items, whose table is `items`, for each name of a dimension that they
# fix.
drill_squares <- function(search, items, dim) {
  key <- paste0("squares_", dim)
  if (is.null(search[[key]]))
    search[[key]] <- kernel_segment_links(search$lines, match(search$item, search$names),
                                          match(dim, search$names), search$levels[[search$item]])
  size <- pmax(items[, "va"] + items[, "vb"], 0)
  group <- factor(search[[key]], 0:search$levels[[dim]])
  sums <- tapply(size, group, sum, default = 0)
  squares <- tapply(size^2, group, sum, default = 0)
  as.vector(ifelse(sums > 0, squares / sums^2, 0))
}

# The log of how many segments of such dimensions there are.
drill_penalty <- function(search, dims) {
  lchoose(length(search$open), length(dims)) + sum(log(pmax(search$levels[dims], 1)))
}

# The best segment among `rows` (NULL for all): list(dims, codes, score, excess), and with
# `others` the best of each table; NULL where none is admissible.
drill_best <- function(search, rows = NULL) {
  first <- if (is.null(search$path)) search$open else search$path[1]
  roots <- drill_tables(search, rows, search$names)
  whole <- drill_whole(search, roots)
  found <- list()
  look <- function(parent, tables) {
    for (v in names(tables)) {
      # Lines without a name are no segment of their own.
      scores <- drill_scores(search, tables[[v]], whole, v, parent$dims, parent$codes)
      scores$score[1] <- -Inf
      best <- first_few(order(-scores$score), if (is.null(search$path)) 1 else drill_along)
      for (k in best[scores$score[best] > -Inf]) found[[length(found) + 1]] <<- list(
        dims = c(parent$dims, v), codes = c(parent$codes, stats::setNames(list(k - 1L), v)),
        score = scores$score[k], excess = scores$excess[k])
    }
  }
  look(list(), roots[first])
  fresh <- found
  held <- list()
  for (level in seq_len(search$depth - 1)) {
    fresh <- fresh[order(-vapply(fresh, `[[`, 0, "score"))]
    fresh <- first_few(fresh, if (is.null(search$path)) drill_beam[level] else drill_along)
    before <- length(found)
    for (parent in fresh) {
      dims <- drill_open(search, parent$dims, level + 1)
      if (!length(dims)) next
      # The rows of a pair are among those of its first name.
      first <- held[[segment_key(parent, level - 1)]]
      mine <- kernel_segment_rows(search$lines, first %||% rows, match(parent$dims, search$names),
                                  unlist(parent$codes), FALSE)
      held[[segment_key(parent, level)]] <- mine
      look(parent, drill_tables(search, mine, dims))
    }
    fresh <- found[seq_along(found) > before]
    key <- vapply(fresh, function(f) {
      at <- order(f$dims)
      paste(f$dims[at], unlist(f$codes)[at], collapse = "\r")
    }, "")
    fresh <- fresh[!duplicated(key)]
    if (!length(fresh)) break
  }
  if (!length(found)) return(NULL)
  best <- found[[drill_first(found)]]
  best$others <- found
  best
}

# The first conditions of a segment as one text.
segment_key <- function(segment, n) {
  paste(n, paste(segment$dims[seq_len(n)], unlist(segment$codes)[seq_len(n)], collapse = "\r"))
}

first_few <- function(x, n) x[seq_len(min(n, length(x)))]

# Dimensions that tell something under those named: neither fixed by one, nor fixing one.
drill_open <- function(search, dims, level) {
  if (!is.null(search$path)) return(if (level <= length(search$path)) search$path[level])
  tied <- vapply(search$names, function(v) any(search$fixes[dims, v]) || any(search$fixes[v, dims]),
                 NA)
  setdiff(intersect(search$names[!tied], search$open), dims)
}

# The highest score; ties by fewer conditions, larger excess, name.
drill_first <- function(found) {
  score <- vapply(found, `[[`, 0, "score")
  excess <- vapply(found, function(f) abs(f$excess), 0)
  depth <- vapply(found, function(f) length(f$dims), 0L)
  key <- vapply(found, function(f) paste(f$dims, unlist(f$codes), collapse = " "), "")
  order(-score, depth, -excess, key)[1]
}

# The rows that none of these segments has, each of which may have several codes of a dimension.
drill_rows <- function(search, segments, rows = NULL) {
  for (segment in segments) {
    each <- expand.grid(segment$codes[segment$dims], KEEP.OUT.ATTRS = FALSE)
    for (i in seq_len(nrow(each)))
      rows <- kernel_segment_rows(search$lines, rows, match(segment$dims, search$names),
                                  as.integer(unlist(each[i, ])), TRUE)
  }
  rows
}

# Amounts then and now of some rows.
drill_amounts <- function(search, rows) {
  table <- drill_tables(search, rows, search$names[1])[[1]]
  colSums(table[, c("a", "b"), drop = FALSE])
}

# Every segment that stands out by more than `least` (in nats), most firmly first. Where one alone
# explains the change the search ends; else each of a pair is sought again without the other.
drill_segments <- function(search, least, most = 4) {
  seek <- function(leaves) {
    found <- drill_best(search, drill_rows(search, leaves))
    if (!is.null(found) && found$score >= least) found
  }
  first <- seek(list())
  if (is.null(first)) return(list())
  second <- if (most > 1) seek(list(first))
  if (is.null(second)) return(list(first))
  starts <- list(first)
  opposite <- Filter(function(f) f$score >= least && sign(f$excess) != sign(first$excess),
                     first$others)
  if (length(opposite)) starts <- c(starts, opposite[drill_first(opposite)])
  best <- list(first, second)
  best_score <- first$score
  for (i in seq_along(starts)) {
    partner <- if (i == 1) second else seek(starts[i])
    again <- if (!is.null(partner)) seek(list(partner))
    if (is.null(again)) next
    if (again$score + partner$score > best_score) {
      best_score <- again$score + partner$score
      best <- list(again, partner)
    }
  }
  while (length(best) < most) {
    further <- seek(best)
    if (is.null(further)) break
    best <- c(best, list(further))
  }
  best[order(-vapply(best, `[[`, 0, "score"))]
}
