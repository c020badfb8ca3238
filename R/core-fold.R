# The fold: aggregates per group over coded columns, in one pass a part.
#
# keys   list of coded columns (see core-code.R), named
# parts  list of list(fn, column, keep): fn is "lines", "count", "sum" or "distinct"; column is
#        a scaled vector or a coded column; keep is the part's own condition (logical) or NULL
# keep   logical, the lines that count, or NULL for all
# n      number of lines
#
# Gives list(keys, parts, lines): per group the code of each key, the scaled value of each part
# and how many lines it holds; groups without lines are left out, in the order of their keys.

fold_columns <- function(keys, parts, keep, n) {
  groups <- group_lines(keys, keep, n)
  lines <- kernel_count(n, groups$group, groups$size, groups$keep)
  full <- which(lines > 0)
  if (!length(keys)) full <- 1L
  list(keys = lapply(groups$codes, function(codes) codes[full]),
       parts = lapply(parts, function(part) take(fold_part(part, groups, n), full)),
       lines = lines[full])
}

take <- function(x, rows) {
  x$v <- x$v[rows]
  x
}

# The group of each line. One key needs no work: its codes are the groups.
group_lines <- function(keys, keep, n) {
  if (!length(keys)) return(list(group = NULL, size = 1L, keep = keep, codes = list()))
  first <- keys[[1]]
  size <- length(first$levels) + 1L
  codes <- list(seq_len(size) - 1L)
  group <- first$codes
  for (key in keys[-1]) {
    made <- kernel_combine(group, size, key$codes, length(key$levels), keep)
    codes <- c(lapply(codes, function(old) old[made$parent + 1L]), list(made$code))
    group <- made$group
    size <- length(made$code)
    # From here on a line that is out bears group -1.
    keep <- NULL
  }
  list(group = group, size = size, keep = keep, codes = stats::setNames(codes, names(keys)))
}

fold_part <- function(part, groups, n) {
  keep <- both(groups$keep, part$keep)
  switch(part$fn,
         lines = count_of(kernel_count(n, groups$group, groups$size, keep)),
         count = fold_count(part$column, groups, keep, n),
         distinct = count_of(kernel_distinct(part$column$codes, length(part$column$levels),
                                             groups$group, groups$size, keep)),
         sum = fold_sum(part$column, groups, keep))
}

both <- function(a, b) {
  if (is.null(a)) return(b)
  if (is.null(b)) return(a)
  a & b
}

count_of <- function(n) scaled(n, 0L, max(n, 0))

# Lines whose value is not missing.
fold_count <- function(column, groups, keep, n) {
  if (!is.null(column$codes))
    return(count_of(kernel_count(n, groups$group, groups$size, both(keep, column$codes > 0L))))
  count_of(kernel_sum(column$v, is.integer(column$v), groups$group, groups$size, keep)$n)
}

# Whole numbers are added in 64 bits while the largest times their count cannot overflow. Where a
# group has lines and none of them a value, the sum is missing; where the part's condition leaves no
# line, it is 0.
fold_sum <- function(column, groups, keep) {
  exact <- is_exact(column) && column$largest * length(column$v) < 2^63
  if (is_exact(column) && !exact) column <- scaled(scaled_value(column))
  out <- kernel_sum(column$v, exact, groups$group, groups$size, keep)
  if (any(out$n == 0)) {
    lines <- kernel_count(length(column$v), groups$group, groups$size, keep)
    out$sum[out$n == 0 & lines > 0] <- NA
  }
  if (!exact) return(scaled(out$sum))
  largest <- max(abs(out$sum), 0, na.rm = TRUE)
  if (largest >= whole_limit) return(scaled(out$sum / 10^column$places))
  scaled(out$sum, column$places, largest)
}
