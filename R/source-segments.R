# The lines of two periods laid out for a search of segments; see core-segments.R.

# `keys` are the dimensions, by name; `value` what each line adds, list(tree), or of a rate
# list(n, d, middle, of): its part (n - middle d) / of in the change of the rate n / d, and its
# weight d / of, `of` being d of both periods; without d that is the number of orders. `order` is a
# field or NULL; then, now and ever are conditions: both periods, and all lines that tell how orders
# waver by themselves.
#
# `tiles` tells the earlier pairs of like periods: list(date, later, earlier), the field and, for
# the later and the earlier periods of the pairs, their first days and the day after the last,
# ascending; the first pair is the latest. `past` has them as the dimensions "later" and "earlier".
#
# list(lines, past, levels, names, group, by_order, whole_orders, decimals, beyond, pairs): past are
# all lines but those now, for their totals (NULL for a rate), names those of each dimension,
# whole_orders whether no order has several of them, amounts whole numbers of 10^-decimals,
# `beyond` whether there are lines in neither period, pairs how many earlier pairs there are.
source_segments <- function(source, keys, value, order, then, now, ever, tiles = NULL) {
  UseMethod("source_segments")
}

#' @export
source_segments.frame_source <- function(source, keys, value, order, then, now, ever,
                                         tiles = NULL) {
  asked <- list(keys, value, order, then, now, ever, tiles)
  if (identical(source$laid$asked, asked) && laid_size(source$laid$out)) return(source$laid$out)
  source$laid <- NULL
  out <- lay_segments(source, source, keys, value, order, then, now, ever, tiles)
  trees <- c(keys, value[c("tree", "n", "d")], list(then, now, ever))
  if (told_by_text(trees) && laid_size(out) <= laid_room())
    source$laid <- list(asked = asked, out = out)
  out
}

# Lines laid out last are kept: the next question is often the same with other
# limits.
laid_room <- function() getOption("longladder.kept_lines", 2^30)

laid_size <- function(out) {
  kernel_segment_bytes(out$lines$pointer) +
    if (is.null(out$past)) 0 else kernel_segment_bytes(out$past$pointer)
}

# `book` has all names, `source` the lines.
lay_segments <- function(book, source, keys, value, order, then, now, ever, tiles) {
  in_now <- line_mask(source, now)
  in_then <- line_mask(source, then)
  period <- in_then + 2L * in_now
  columns <- lapply(keys, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(keys, function(tree) length(source_names(book, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  of_order <- if (!is.null(order)) order_codes(coded_field(source, order)$codes)
  split <- if (is.null(order)) 0 * levels else split_orders(codes, of_order, period > 0)
  by_order <- split < few_split
  group <- search_group(by_order, levels)
  added <- segment_values(source, value, period,
                          if (!is.null(order)) coded_field(source, order)$codes)
  lay <- function(group, beside, all = NULL, more = list()) {
    segment_lines(kernel_segments(c(codes, more), period, added$amount, added$weight, of_order,
                                  group, beside), c(levels, tile_levels(tiles)[names(more)]), all)
  }
  earlier <- !in_now
  if (!is.null(ever)) earlier <- earlier & line_mask(source, ever)
  list(lines = lay(match(group %||% "", names(keys), nomatch = 0L), FALSE),
       past = if (!is.null(value$tree)) lay(0L, TRUE, as.raw(earlier),
                                       tile_codes(source, tiles)), levels = levels,
       names = lapply(columns, `[[`, "levels"), group = group, by_order = by_order,
       whole_orders = split == 0,
       decimals = added$decimals, beyond = any(earlier & !in_then),
       pairs = max(0L, tile_levels(tiles)))
}

tile_levels <- function(tiles) {
  if (!is.null(tiles)) c(later = length(tiles$later) - 1L, earlier = length(tiles$earlier) - 1L)
}

# The number of each line's pair, 0 where it is in none.
tile_codes <- function(source, tiles) {
  if (is.null(tiles)) return(list())
  days <- as.integer(floor(scaled_value(row_values(source, node("name", name = tiles$date)))))
  of <- range(days, na.rm = TRUE)
  lapply(tiles[c("later", "earlier")], function(from) {
    at <- findInterval(of[1]:of[2], from)
    pair <- ifelse(at > 0 & at < length(from), length(from) - at, 0L)
    out <- as.integer(pair)[days - of[1] + 1L]
    out[is.na(out)] <- 0L
    out
  })
}

# Lines without an order are one each.
order_codes <- function(codes) {
  if (min(codes) > 0L) return(codes)
  none <- which(codes == 0L)
  codes[none] <- max(codes) + seq_along(none)
  codes
}

few_split <- .001   # orders entered under two names do not make a dimension of lines

# The share of the orders of both periods that have several names of each dimension.
split_orders <- function(codes, order, keep) {
  if (!all(keep)) {
    codes <- lapply(codes, `[`, keep)
    order <- order[keep]
  }
  counted <- kernel_orders_split(codes, order, max(order, 0L))
  of <- length(counted)
  stats::setNames(counted[-of] / max(counted[of], 1), names(codes))
}

# Each line's part of its order in its period; lines without an order are none.
parts_of_orders <- function(order, period) {
  out <- numeric(length(order))
  for (k in 1:2) {
    at <- period == k & order > 0L
    out[at] <- 1 / tabulate(order[at], max(order, 0L))[order[at]]
  }
  out
}

# Amounts as whole numbers of 10^-decimals where they are decimals.
segment_values <- function(source, value, period, order) {
  if (!is.null(value$tree)) {
    v <- metric_lines(source, value$tree)
    return(list(amount = v$v, weight = NULL, decimals = if (is_exact(v)) v$decimals else 0L))
  }
  n <- scaled_value(metric_lines(source, value$n))
  d <- if (is.null(value$d)) parts_of_orders(order, period) else
    scaled_value(metric_lines(source, value$d))
  of <- value$of[pmax(period, 1)]
  list(amount = (n - value$middle * d) / of, weight = d / of, decimals = 0L)
}
