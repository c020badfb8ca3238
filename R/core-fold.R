# The fold: aggregates per group over coded columns.
#
# keys    list of coded columns (see core-code.R), named
# parts   list of list(fn, column, keep): column is a scaled vector or a coded column; keep is the
#         part's own condition (logical) or NULL. fn is
#           distributive  "lines", "count", "sum", "min", "max"
#           algebraic     "moments" (count, mean, second central moment)
#           holistic      "distinct", "quantile" (with prob)
#         A part with `per` is folded within each name of another column first (see fold_per).
# keep    logical, the lines that count, or NULL for all
# n       number of lines
# totals  list of subsets of the keys' names whose subtotals are wanted as well
#
# Gives list(keys, parts, lines): per group the code of each key, the scaled value of each part
# and how many lines it holds; groups without lines are left out, in the order of their keys; and
# totals, a list of the same.

fold_columns <- function(keys, parts, keep, n, totals = list()) {
  out <- fold_once(keys, parts, keep, n)
  out$totals <- lapply(totals, function(subset) {
    fold_subset(keys[subset], out, parts, keep, n)
  })
  out
}

fold_once <- function(keys, parts, keep, n) {
  groups <- group_lines(keys, keep, n)
  added <- add_together(parts, groups)
  lines <- groups$lines(groups$keep)
  full <- if (length(keys)) which(lines > 0) else 1L
  counts <- lines[full]
  # Where every line has a value, a part's counts are those of the lines.
  pick <- function(v) if (identical(v, lines)) counts else v[full]
  list(keys = groups$codes(full), parts = Map(function(part, sum) {
    take_with(fold_part(part, groups, n, sum), pick)
  }, parts, added), lines = counts)
}

# The sums of all parts that are whole numbers without a condition of their own, in one pass, which
# counts the lines too if need be; NULL for other parts.
add_together <- function(parts, groups) {
  added <- vector("list", length(parts))
  together <- which(vapply(parts, function(part) {
    part$fn == "sum" && is.null(part$per) && is.null(part$keep) && adds_whole(part$column) &&
      isTRUE(part$column$full)
  }, NA))
  count <- is.null(groups$counted(groups$keep))
  if (!length(together) || length(together) + count < 2) return(added)
  out <- kernel_sums(lapply(parts[together], function(part) part$column$v), groups$group,
                     groups$size, groups$keep, count)
  if (count) groups$count(groups$keep, out$lines)
  added[together] <- out$sums
  added
}

# Subtotals: rolled up from the finest table where a part can be, recalculated where not.
fold_subset <- function(keys, finest, parts, keep, n) {
  coarse <- coarser_rows(Map(function(key, codes) list(codes = codes, levels = key$levels),
                             keys, finest$keys[names(keys)]), finest$lines)
  again <- NULL
  values <- Map(function(part, name) {
    if (can_roll_up(part)) return(coarse$roll(finest$parts[[name]]))
    again <<- again %||% group_lines(keys, keep, n)
    take(fold_part(part, again, n),
         if (length(keys)) which(again$lines(again$keep) > 0) else 1L)
  }, parts, seq_along(parts))
  list(keys = coarse$keys, parts = values, lines = coarse$lines)
}

# The rows of a folded table over some of its keys, coded columns: list(keys, lines, roll), `roll`
# giving a part at those rows.
coarser_rows <- function(keys, lines) {
  rows <- length(lines)
  groups <- group_lines(keys, NULL, rows)
  group <- groups$group %||% rep(0L, rows)
  lines <- kernel_sum(lines, TRUE, group, groups$size, NULL)$sum
  full <- if (length(keys)) which(lines > 0) else 1L
  list(keys = groups$codes(full), lines = lines[full],
       roll = function(part) take(roll_up(part, group, groups$size), full))
}

can_roll_up <- function(part) {
  is.null(part$per) && part$fn %in% c("lines", "count", "sum", "min", "max", "moments")
}

# A folded part over coarser groups. What is holistic cannot be had from a finer table.
roll_up <- function(part, group, size) {
  switch(part$fn,
         lines = , count = folded("count", count_of(kernel_sum(as.double(part$v), TRUE, group, size,
                                                               NULL)$sum)),
         sum = roll_sum(part, group, size),
         min = , max = {
           best <- kernel_extreme(part$v, part$fn == "max", group, size, NULL)
           folded(part$fn, scaled(best$value, part$decimals, part$largest))
         },
         moments = roll_moments(part, group, size),
         stop("a holistic part cannot be rolled up"))
}

roll_sum <- function(part, group, size) {
  values <- list(v = part$v, decimals = part$decimals, largest = part$largest)
  out <- sum_of(values, group, size, NULL)
  total <- function(x) kernel_sum(as.double(x), TRUE, group, size, NULL)$sum
  n <- total(part$n)
  seen <- total(part$seen)
  out$sum$v[n == 0 & seen > 0] <- NA
  folded("sum", out$sum, n = n, seen = seen)
}

# Moments merge pairwise (Chan, Golub and LeVeque 1983).
roll_moments <- function(part, group, size) {
  total <- function(x) kernel_sum(as.double(x), FALSE, group, size, NULL)$sum
  n <- total(part$n)
  mean <- ifelse(n > 0, total(part$n * ifelse(part$n > 0, part$mean, 0)) / n, NA)
  off <- ifelse(part$n > 0, part$mean - mean[group + 1L], 0)
  m2 <- total(ifelse(part$n > 0, part$m2, 0) + part$n * off^2)
  folded("moments", scaled(mean), n = n, mean = mean, m2 = m2)
}

# A folded part: a scaled vector that knows how it was made, and the counts that rolling up needs.
folded <- function(fn, value, ...) c(value, list(fn = fn), list(...))

take <- function(x, rows) take_with(x, function(v) v[rows])

take_with <- function(x, pick) {
  for (field in intersect(names(x), c("v", "n", "seen", "mean", "m2")))
    x[[field]] <- pick(x[[field]])
  x
}

# A part at other rows; a missing row is a name without lines.
spread_part <- function(part, rows) {
  part <- take(part, rows)
  none <- is.na(rows)
  if (part$fn %in% c("lines", "count", "distinct", "sum")) part$v[none] <- 0
  for (field in intersect(names(part), c("n", "seen"))) part[[field]][none] <- 0
  part
}

# The group of each line: list(group, size, keep), with functions codes(groups), the code of each
# key in groups by number from 1, and lines(keep), how many lines each group holds (counted(keep) if
# that is known, count(keep) finds it). One key needs no work: its codes are the groups. Where few
# groups are possible beside the lines, they are numbered by place value, empty ones too; else one
# key after the other.
group_lines <- function(keys, keep, n) {
  if (!length(keys)) return(grouping(NULL, 1L, keep, n, function(at) list()))
  sizes <- vapply(keys, function(key) length(key$levels), 0L) + 1L
  if (length(keys) == 1)
    return(grouping(keys[[1]]$codes, sizes[[1]], keep, n, function(at) {
      stats::setNames(list(at - 1L), names(keys))
    }, keys[[1]]$lines))
  if (prod(sizes) <= max(n / 2, 4096)) {
    group <- kernel_cross(lapply(keys, `[[`, "codes"), sizes, keep)
    return(grouping(group, as.integer(prod(sizes)), NULL, n, function(at) {
      stats::setNames(kernel_uncross(at, sizes), names(keys))
    }))
  }
  group_in_turn(keys, sizes, keep, n)
}

group_in_turn <- function(keys, sizes, keep, n) {
  codes <- list(seq_len(sizes[[1]]) - 1L)
  group <- keys[[1]]$codes
  for (key in keys[-1]) {
    made <- kernel_combine(group, length(codes[[1]]), key$codes, length(key$levels), keep)
    codes <- c(lapply(codes, function(old) old[made$parent + 1L]), list(made$code))
    group <- made$group
    # From here on a line that is out bears group -1.
    keep <- NULL
  }
  grouping(group, length(codes[[1]]), NULL, n, function(at) {
    stats::setNames(lapply(codes, function(code) code[at]), names(keys))
  })
}

grouping <- function(group, size, keep, n, codes = NULL, lines = NULL) {
  # The parts of one fold mostly share a mask, or have none.
  masks <- if (!is.null(lines)) list(list(mask = NULL, lines = lines))
  counted <- function(mask) {
    for (made in masks) if (identical(made$mask, mask)) return(made$lines)
  }
  count <- function(mask, lines = kernel_count(n, group, size, mask)) {
    if (length(masks) < 3) masks <<- c(masks, list(list(mask = mask, lines = lines)))
    lines
  }
  list(group = group, size = size, keep = keep, codes = codes, counted = counted, count = count,
       lines = function(mask) counted(mask) %||% count(mask))
}

# `added` are the sums of the part if they are made.
fold_part <- function(part, groups, n, added = NULL) {
  if (!is.null(part$per)) return(fold_per(part, groups, n))
  keep <- both(groups$keep, part$keep)
  switch(part$fn,
         lines = folded("lines", count_of(groups$lines(keep))),
         count = folded("count", fold_count(part$column, groups, keep, n)),
         distinct = folded("distinct", count_of(kernel_distinct(
           part$column$codes, length(part$column$levels), groups$group, groups$size, keep))),
         sum = fold_sum(part$column, groups, keep, added),
         min = , max = fold_extreme(part$column, groups, keep, part$fn),
         moments = fold_moments(part$column, groups, keep),
         quantile = fold_quantile(part$column, groups, keep, part$prob))
}

# Inside an aggregate: the metric of each name of `per$column` within each group, then the
# aggregate of those. per$parts are the inner parts, per$value makes the metric of them, per$keep
# (or NULL) says which of its values count. Lines without a name belong to none.
fold_per <- function(part, groups, n) {
  per <- part$per
  pairs <- kernel_combine(groups$group, groups$size, per$column$codes, length(per$column$levels),
                          both(groups$keep, part$keep))
  size <- length(pairs$code)
  inner <- grouping(pairs$group, size, NULL, n)
  it <- per$value(lapply(per$parts, fold_part, inner, n))
  it$v <- rep_len(it$v, size)
  outer <- grouping(pairs$parent, groups$size, both(pairs$code > 0L, per$keep(it)), size)
  fold_part(list(fn = part$fn, column = it, prob = part$prob), outer, size)
}

both <- function(a, b) {
  if (is.null(a)) return(b)
  if (is.null(b)) return(a)
  if (identical(a, b)) return(a)
  kernel_meet(length(a), list(list(ready = a), list(ready = b), list(op = "&")))
}

count_of <- function(n) scaled(n, 0L, max(n, 0))

# Lines whose value is not missing.
fold_count <- function(column, groups, keep, n) {
  if (isTRUE(column$full)) return(count_of(groups$lines(keep)))
  there <- if (!is.null(column$codes)) column$codes > 0L else !is.na(column$v)
  count_of(kernel_count(n, groups$group, groups$size, both(keep, there)))
}

# Where a group has lines and none of them a value, the sum is missing; where the part's condition
# leaves no line, it is 0. `n` are values, `seen` lines.
fold_sum <- function(column, groups, keep, added) {
  out <- sum_of(column, groups$group, groups$size, keep, added)
  seen <- if (is.null(out$n) || any(out$n == 0)) groups$lines(keep) else out$n
  known <- out$n %||% seen
  if (!is.null(out$n)) out$sum$v[known == 0 & seen > 0] <- NA
  folded("sum", out$sum, n = known, seen = seen)
}

# Whether the largest times their count cannot overflow 64 bits.
adds_whole <- function(column) is_exact(column) && column$largest * length(column$v) < 2^63

# Whole numbers are added in 64 bits where they can, wider where not. `n` is left out where every
# line has a value.
sum_of <- function(column, group, size, keep, added = NULL) {
  exact <- is_exact(column)
  small <- adds_whole(column)
  out <- if (!small) kernel_sum(as.double(column$v), FALSE, group, size, keep) else
    if (!isTRUE(column$full)) kernel_sum(column$v, TRUE, group, size, keep) else
      list(sum = added %||% kernel_sums(list(column$v), group, size, keep, FALSE)$sums[[1]])
  if (!exact) return(list(sum = scaled(out$sum), n = out$n))
  largest <- max(out$sum, -min(out$sum, 0, na.rm = TRUE), 0, na.rm = TRUE)
  list(sum = if (largest < whole_limit) scaled(out$sum, column$decimals, largest) else
    scaled(out$sum / 10^column$decimals), n = out$n)
}

fold_extreme <- function(column, groups, keep, fn) {
  best <- kernel_extreme(column$v, fn == "max", groups$group, groups$size, keep)
  folded(fn, scaled(best$value, column$decimals, column$largest))
}

# Squares of deviations beyond 1e150 are larger than any number.
fold_moments <- function(column, groups, keep) {
  v <- scaled_value(column)
  if (any(abs(v) > 1e150, na.rm = TRUE))
    ll_abort("Values beyond 1e150 have no variance or deviation that a number holds.", "data")
  sums <- kernel_sum(v, FALSE, groups$group, groups$size, keep)
  means <- ifelse(sums$n > 0, sums$sum / sums$n, 0)
  out <- kernel_moments(v, means, sums$n, groups$group, groups$size, keep)
  folded("moments", scaled(out$mean), n = sums$n, mean = out$mean, m2 = out$m2)
}

# The sample variance or deviation; missing for fewer than two values.
moment_value <- function(part, of) {
  var <- ifelse(part$n > 1, part$m2 / (part$n - 1), NA_real_)
  scaled(if (of == "sd") sqrt(var) else var)
}

fold_quantile <- function(column, groups, keep, prob) {
  out <- kernel_quantile(column$v, prob, groups$group, groups$size, keep)
  if (is_exact(column)) out <- out / 10^column$decimals
  folded("quantile", scaled(out))
}

# Who holds the extreme: per group the lines (numbers from 1) that bear its highest or lowest
# value, all of them when tied. Equal as among ranks: exactly, or within a relative 1e-9.
fold_holders <- function(keys, column, keep, n, highest = TRUE) {
  groups <- group_lines(keys, keep, n)
  best <- kernel_extreme(column$v, highest, groups$group, groups$size, groups$keep)$value
  lines <- kernel_holders(column$v, best, if (is_exact(column)) 0 else 1e-9, groups$group,
                          groups$keep)
  at <- if (is.null(groups$group)) rep(1L, length(lines)) else groups$group[lines] + 1L
  order <- order(at, lines)
  list(keys = groups$codes(at[order]), lines = lines[order],
       value = scaled(best[at[order]], column$decimals, column$largest))
}
