# The lines of two periods, as a search for segments asks them. A segment is a conjunction of names
# of up to three dimensions: list(dims, codes), codes by dimension.
#
# `lines` is a list of functions, which know where the lines are:
#   tables(asked, floor, orders)  for each of `asked`, made by segment_ask(), a list of tables of
#                                 the rows that the segment has (all, without one), one for each of
#                                 `of`: the names of no dimension (the whole), of one or of two.
#                                 Where lines are taken from tables, `orders` "whole" asks for all
#                                 lines of orders that have one of the segment's, "less" for those
#                                 that are not the segment's
#   lacking(rows, segment)        the rows that the segment does not have
#   fixes(), links(fine, coarse)  [i, j] where every name of i has one name of j; for each name of
#                                 `fine`, from none on, that of `coarse`
# `rows` is whatever lacking() gives, NULL for all. A table is a matrix with a row for each name or
# pair of names that has lines, in their order, of at least so many orders and so much held then
# and now together: their codes (first, second), then segment_columns. `subtracts` tells whether a
# table is had sooner as the difference of two.

segment_columns <- c("a", "b", "wa", "wb", "qa", "qb", "ab", "na", "nb", "ng")

# Amounts then and now (a, b), weights (wa, wb), squares of order totals (qa, qb), the product of
# both periods within groups (ab), orders (na, nb), groups (ng).
named_table <- function(table) {
  colnames(table) <- c(c("first", "second")[seq_len(ncol(table) - length(segment_columns))],
                       segment_columns)
  table
}

# Lines in memory, laid out by kernel_segments(); levels: the number of names of each dimension.
# Rows are masks, a byte for each line; NULL are `all`.
segment_lines <- function(pointer, levels, all = NULL) {
  force(pointer)
  at <- function(dims) match(dims, names(levels))
  codes <- function(segment) lapply(segment$codes[segment$dims], as.integer)
  list(
    pointer = pointer,
    tables = function(asked, floor = 0, orders = 0) {
      lapply(asked, function(ask) {
        made <- kernel_segment_tables(pointer, ask$rows %||% all, at(ask$segment$dims),
                                      codes(ask$segment), ask$orders, lapply(ask$of, at), levels,
                                      floor, orders)
        lapply(made, named_table)
      })
    },
    lacking = function(rows, segment) {
      kernel_segment_lacking(pointer, rows %||% all, at(segment$dims), codes(segment))
    },
    fixes = function() kernel_segment_fixes(pointer, levels),
    links = function(fine, coarse) {
      kernel_segment_links(pointer, at(fine), at(coarse), levels[[fine]])
    },
    subtracts = TRUE)
}

# A search is an environment of the lines and what is looked for.
#
# measure: how excesses are judged, core-excess.R or core-excess-rate.R; `by_order` tells which
# dimensions stay the same within orders, `group` by which of them the lines are laid out; `barred`
# dimensions serve for drift and are not named themselves; with a `path` each level looks at its
# dimension alone.
new_search <- function(lines, levels, by_order, measure, group = NULL, depth = 3, path = NULL,
                       barred = NULL) {
  search <- list2env(list(lines = lines, levels = levels, names = names(levels), depth = depth,
                          path = path, group = group, by_order = by_order, measure = measure,
                          floor = 0, open = setdiff(names(levels), barred)), parent = emptyenv())
  search$fixes <- lines$fixes()
  dimnames(search$fixes) <- list(search$names, search$names)
  # Items: the most names among dimensions that differ within orders; without any, among those
  # that groups neither fix nor are fixed by.
  free <- if (all(by_order) && !is.null(group))
    !search$fixes[group, ] & !search$fixes[, group] & search$names != group else !by_order
  free <- free & levels > 1
  search$item <- if (any(free)) search$names[free][which.max(levels[free])]
  search
}

# The same search among other lines, which tell so many earlier pairs of like periods.
search_among <- function(search, lines, pairs = 0) {
  other <- list2env(as.list(search), parent = emptyenv())
  other$lines <- lines
  other$pairs <- pairs
  other
}

# Customers: the most names among dimensions that stay the same within orders.
search_group <- function(by_order, levels) {
  fixed <- by_order & levels > 1
  if (any(fixed)) names(levels)[fixed][which.max(levels[fixed])]
}

# What is asked of the lines; see above.
segment_ask <- function(of, segment = NULL, rows = NULL, orders = "own") {
  list(rows = rows, segment = segment, of = of, orders = orders)
}

# The totals of the rows of each ask, whatever it asks of them.
wholes_of <- function(search, asked) {
  asked <- lapply(asked, function(ask) segment_ask(list(character()), ask$segment, ask$rows))
  lapply(search$lines$tables(asked), function(t) t[[1]][1, segment_columns])
}

# The table of one dimension over all rows.
table_of <- function(search, dim) search$lines$tables(list(segment_ask(list(dim))))[[1]][[1]]

# Dimensions that tell something under those named: neither fixed by one, nor fixing one.
open_under <- function(search, dims) {
  if (!is.null(search$path)) {
    level <- length(dims) + 1
    return(if (level <= length(search$path)) search$path[level])
  }
  tied <- vapply(search$names, function(v) any(search$fixes[dims, v]) || any(search$fixes[v, dims]),
                 NA)
  setdiff(intersect(search$names[!tied], search$open), dims)
}

# The log of how many segments of such dimensions there are: the price of a segment.
segment_price <- function(search, dims) {
  lchoose(length(search$open), length(dims)) + sum(log(pmax(search$levels[dims], 1)))
}
