# Formulas and conditions over the lines in memory: trees to coded columns, scaled columns, and
# TRUE or FALSE for each line.

# Whether a row tree gives names rather than numbers.
is_text <- function(source, tree) {
  switch(tree$kind, name = field_at(source, tree$name)$type %in% c("text", "empty"),
         text = , bucket = , band = , banded = , mapped = TRUE,
         computed = , choose = tree$type == "text", FALSE)
}

# A tree that gives names, as a coded column. What is made from others is kept for the next
# question; a few such columns at most, since each is as long as the lines.
coded_tree <- function(source, tree) {
  if (tree$kind == "name") return(coded_field(source, tree$name))
  if (tree$kind == "computed") return(coded_tree(source, tree$tree))
  if (!is.null(source$whole)) return(take_codes(coded_tree(source$whole, tree), source$rows))
  # Kept with its map, which is the question's own.
  if (tree$kind == "mapped") {
    if (is.null(tree$map$coded)) tree$map$coded <- code_mapped(source, tree)
    return(tree$map$coded)
  }
  key <- deparse_whole(tree)
  if (is.null(source$made[[key]])) {
    if (length(source$made) >= 24) source$made <- source$made[-1]
    source$made[[key]] <- with_lines(make_codes(source, tree))
  }
  source$made[[key]]
}

make_codes <- function(source, tree) {
  switch(tree$kind,
         text = list(codes = rep(1L, source$n), levels = tree$value),
         bucket = if (tree$part %in% time_parts)
           code_time(as.numeric(raw_field(source, tree$arg$name)), tree$part) else
             code_bucket(whole_days(row_values(source, tree$arg)), tree$part, source$calendar),
         band = code_bands(row_values(source, tree$arg), tree$bounds, tree$labels),
         banded = code_banded(source, tree), choose = code_choice(source, tree),
         code_column(scaled_value(row_values(source, tree))))
}

whole_days <- function(x) if (is.integer(x$v) && x$decimals == 0) x$v else scaled_value(x)

# Each name's metric, over the whole book or the lines shown, gives its band.
code_banded <- function(source, tree) {
  base <- coded_tree(source, tree$each)
  # Lines that were brought from elsewhere may be a part of the book's.
  fold <- source_fold(source$origin %||% source, list(each = tree$each),
                      parts_of(list(tree$metric)), tree$scope)
  value <- metric_value(tree$metric, fold$parts)
  value$v <- rep_len(value$v, length(fold$lines))
  band <- code_bands(value, tree$bounds, tree$labels)
  to <- band$codes[match(base$levels, fold$keys$each)]
  to[is.na(to)] <- 0L
  list(codes = kernel_recode(base$codes, to), levels = band$levels)
}

# Names seen through a word for each.
code_mapped <- function(source, tree) {
  base <- coded_tree(source, tree$arg)
  levels <- sort(unique(tree$map$to), method = "radix")
  to <- match(tree$map$to[match(base$levels, tree$map$names)], levels, nomatch = 0L)
  list(codes = kernel_recode(base$codes, to), levels = levels)
}

code_choice <- function(source, tree) {
  test <- line_mask(source, tree$test)
  sides <- lapply(tree$args, coded_tree, source = source)
  levels <- sort(unique(c(sides[[1]]$levels, sides[[2]]$levels)), method = "radix")
  codes <- lapply(sides, function(side) kernel_recode(side$codes, match(side$levels, levels)))
  list(codes = ifelse(test, codes[[1]], codes[[2]]), levels = levels)
}

# A formula over lines as a scaled vector, one value for each line.
row_values <- function(source, tree) {
  out <- formula_values(source, tree)
  out$v <- of_all_lines(out$v, source$n)
  out
}

# Within a formula a number stays a single value.
formula_values <- function(source, tree) {
  of <- function(tree) formula_values(source, tree)
  switch(tree$kind,
         number = , date = scaled_number(tree$value), name = scaled_field(source, tree$name),
         computed = of(tree$tree),
         choose = scaled_choose(line_mask(source, tree$test), of(tree$args[[1]]),
                                of(tree$args[[2]])),
         op = scaled_op(tree$op, lapply(tree$args, of)))
}

# What each line adds to a metric that adds up, as a scaled vector; missing amounts add nothing.
metric_lines <- function(source, tree) {
  out <- switch(tree$kind, number = scaled_number(tree$value),
                op = scaled_op(tree$op, lapply(tree$args, metric_lines, source = source)),
                aggregate = aggregate_lines(source, tree))
  out$v <- of_all_lines(as.double(out$v), source$n)
  out$v[is.na(out$v)] <- 0
  if (!is.null(tree$where)) out$v[!line_mask(source, tree$where)] <- 0
  out
}

aggregate_lines <- function(source, tree) {
  if (is.null(tree$arg)) return(scaled_number(1))
  if (tree$arg$kind == "per") return(metric_lines(source, tree$arg$inner))
  if (tree$fn == "sum") return(row_values(source, tree$arg))
  text <- is_text(source, tree$arg)
  scaled_number(as.double(if (text) coded_tree(source, tree$arg)$codes > 0L else
    !is.na(row_values(source, tree$arg)$v)))
}

# A condition as TRUE or FALSE for each line; NULL when there is none. A comparison with a missing
# value is FALSE. The folds of a question share their conditions, so the last few are kept.
line_mask <- function(source, tree) {
  if (is.null(tree)) return(NULL)
  for (made in source$masks) if (identical(made$tree, tree)) return(made$mask)
  mask <- mask_of(source, tree)
  source$masks <- utils::head(c(list(list(tree = tree, mask = mask)), source$masks), 3)
  mask
}

mask_of <- function(source, tree) kernel_meet(source$n, condition_steps(source, tree))

# The steps of kernel_meet(): the tests of a tree, each before what puts it together with others.
condition_steps <- function(source, tree) {
  if (tree$kind != "logic")
    return(list(switch(tree$kind, missing = missing_step(source, tree$arg),
                       within = within_step(source, tree), match = match_step(source, tree),
                       compare = compare_step(source, tree), since = since_step(source, tree))))
  c(unlist(lapply(tree$args, condition_steps, source = source), recursive = FALSE),
    list(list(op = tree$op)))
}

# A test of names is made once for each name, then carried to the lines by their codes.
step_by_level <- function(column, passes, missing = FALSE) {
  list(codes = column$codes, passes = c(missing, passes))
}

step_by_value <- function(source, v, op, limit = 0) {
  list(values = of_all_lines(v, source$n), op = op, limit = limit)
}

step_ready <- function(source, meets) list(ready = of_all_lines(meets, source$n))

# A single value stands for all lines.
of_all_lines <- function(v, n) if (length(v) == n) v else rep_len(v, n)

missing_step <- function(source, arg) {
  if (!is_text(source, arg)) return(step_by_value(source, row_values(source, arg)$v, "missing"))
  column <- coded_tree(source, arg)
  step_by_level(column, logical(length(column$levels)), missing = TRUE)
}

within_step <- function(source, tree) {
  if (!is_text(source, tree$arg)) {
    a <- row_values(source, tree$arg)
    slack <- row_slack(tree$arg)
    equal <- function(value) compare_scaled("==", a, scaled_number(value), slack)
    return(step_ready(source, if (is_exact(a) || !slack)
      scaled_value(a) %in% tree$set$values else
        Reduce(`|`, lapply(stats::na.omit(tree$set$values), equal), FALSE)))
  }
  column <- coded_tree(source, tree$arg)
  step_by_level(column, is_named(column$levels, set_values(tree$set)))
}

match_step <- function(source, tree) {
  column <- coded_tree(source, tree$arg)
  step_by_level(column, if (tree$fn == "startsWith") startsWith(column$levels, tree$text) else
    grepl(tree$text, column$levels, fixed = TRUE))
}

# Lines on or after a day of each name's own; of other names none.
since_step <- function(source, tree) {
  column <- coded_tree(source, tree$arg)
  from <- tree$from[match(column$levels, tree$names)]
  from[is.na(from)] <- Inf
  step_ready(source, scaled_value(row_values(source, tree$date)) >= c(Inf, from)[column$codes + 1L])
}

compare_step <- function(source, tree) {
  left <- tree$args[[1]]
  right <- tree$args[[2]]
  if (tree$type %in% c("text", "empty")) return(compare_names(source, tree))
  a <- formula_values(source, left)
  if (is_exact(a) && right$kind %in% c("number", "date"))
    return(step_by_value(source, a$v, tree$op, whole_limits(right$value, a$decimals)))
  step_ready(source, compare_scaled(tree$op, a, formula_values(source, right), row_slack(tree)))
}

compare_names <- function(source, tree) {
  right <- tree$args[[2]]
  column <- coded_tree(source, tree$args[[1]])
  if (right$kind == "text" && tree$op %in% c("==", "!="))
    return(step_by_level(column, is_named(column$levels, right$value) == (tree$op == "==")))
  if (right$kind == "text")
    return(step_by_level(column, in_order(tree$op, column$levels, right$value)))
  other <- coded_tree(source, right)
  # Names of both sides in one order of bytes, so that codes compare as the names do.
  levels <- sort(unique(c(column$levels, other$levels)), method = "radix")
  code <- function(x) c(NA, match(x$levels, levels))[x$codes + 1L]
  step_ready(source, do.call(tree$op, list(code(column), code(other))))
}

# Names against a literal, by bytes.
in_order <- function(op, names, literal) {
  sorted <- sort(unique(c(names, literal)), method = "radix")
  do.call(op, list(match(names, sorted), match(literal, sorted)))
}

# Exact decimals are compared as such, other numbers within a relative `slack`.
compare_scaled <- function(op, a, b, slack = 1e-9) {
  gap <- scaled_add(a, b, -1)
  v <- gap$v
  if (!is_exact(gap) && slack) {
    near <- abs(v) <= slack * pmax(abs(scaled_value(a)), abs(scaled_value(b)))
    v[!is.na(near) & near] <- 0
  }
  out <- switch(op, `==` = v == 0, `!=` = v != 0, `<` = v < 0, `<=` = v <= 0, `>` = v > 0,
                `>=` = v >= 0)
  out & !is.na(out)
}
