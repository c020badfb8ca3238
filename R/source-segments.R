# The lines of two periods laid out for a search of segments; see core-segments.R.

# `keys` are the dimensions, by name; `value` what each line adds, list(tree), or of a rate
# list(n, d, middle, of): its part (n - middle d) / of in the change of the rate n / d, and its
# weight d / of, `of` being d of both periods. `order` is a field or NULL; then, now and ever are
# conditions: both periods, and all lines that tell how orders waver by themselves.
#
# list(lines, past, levels, names, group, by_order, decimals, beyond): past are all lines but those
# now, for their totals (NULL for a rate), names those of each dimension, amounts whole numbers of
# 10^-decimals, `beyond` whether there are lines in neither period.
source_segments <- function(source, keys, value, order, then, now, ever) {
  UseMethod("source_segments")
}

#' @export
source_segments.frame_source <- function(source, keys, value, order, then, now, ever) {
  lay_segments(source, source, keys, value, order, then, now, ever)
}

# `book` has all names, `source` the lines.
lay_segments <- function(book, source, keys, value, order, then, now, ever) {
  in_now <- line_mask(source, now)
  in_then <- line_mask(source, then)
  period <- in_then + 2L * in_now
  columns <- lapply(keys, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(keys, function(tree) length(source_names(book, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  of_order <- if (!is.null(order)) order_codes(coded_field(source, order)$codes)
  by_order <- if (is.null(order)) levels >= 0 else stays_by_order(codes, of_order, period > 0)
  group <- search_group(by_order, levels)
  added <- segment_values(source, value, period)
  lay <- function(group, beside, all = NULL) {
    segment_lines(kernel_segments(codes, period, added$amount, added$weight, of_order, group,
                                  beside), levels, all)
  }
  earlier <- !in_now
  if (!is.null(ever)) earlier <- earlier & line_mask(source, ever)
  list(lines = lay(if (!is.null(group)) codes[[group]], FALSE),
       past = if (is.null(value$d)) lay(NULL, TRUE, as.raw(earlier)), levels = levels,
       names = lapply(columns, `[[`, "levels"), group = group, by_order = by_order,
       decimals = added$decimals, beyond = any(earlier & !in_then))
}

# Lines without an order are one each.
order_codes <- function(codes) {
  if (min(codes) > 0L) return(codes)
  none <- which(codes == 0L)
  codes[none] <- max(codes) + seq_along(none)
  codes
}

few_split <- .001   # orders entered under two names do not make a dimension of lines

# Which dimensions stay the same within the orders of both periods.
stays_by_order <- function(codes, order, keep) {
  if (!all(keep)) {
    codes <- lapply(codes, `[`, keep)
    order <- order[keep]
  }
  counted <- kernel_orders_split(codes, order, max(order, 0L))
  of <- length(counted)
  stats::setNames(counted[-of] < few_split * counted[of], names(codes))
}

# Amounts as whole numbers of 10^-decimals where they are decimals.
segment_values <- function(source, value, period) {
  if (is.null(value$d)) {
    v <- metric_lines(source, value$tree)
    return(list(amount = v$v, weight = NULL, decimals = if (is_exact(v)) v$decimals else 0L))
  }
  n <- scaled_value(metric_lines(source, value$n))
  d <- scaled_value(metric_lines(source, value$d))
  of <- value$of[pmax(period, 1)]
  list(amount = (n - value$middle * d) / of, weight = d / of, decimals = 0L)
}
