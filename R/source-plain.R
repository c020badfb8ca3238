# The second route to a total: plain base R over the raw columns, with no grouping, no codes and no
# scaled numbers. It shares no code with the fold, so that the proof can hold one against the other.

# Which lines meet the conditions, the period, and both.
plain_lines <- function(source, only, period) {
  all <- rep(TRUE, source$n)
  only <- if (is.null(only)) all else plain_condition(source, only)
  period <- if (is.null(period)) all else plain_condition(source, period)
  list(keep = only & period, outside_conditions = sum(!only), outside_period = sum(only & !period))
}

plain_metric <- function(source, tree, keep) {
  switch(tree$kind,
         number = tree$value,
         op = {
           args <- vapply(tree$args, plain_metric, 0, source = source, keep = keep)
           if (length(args) == 1) return(if (tree$op == "abs") abs(args) else -args)
           if (tree$op == "/" && isTRUE(args[2] == 0)) return(NA_real_)
           switch(tree$op, `+` = args[1] + args[2], `-` = args[1] - args[2],
                  `*` = args[1] * args[2], `/` = args[1] / args[2])
         },
         aggregate = {
           if (!is.null(tree$where)) keep <- keep & plain_condition(source, tree$where)
           if (is.null(tree$arg)) return(as.double(sum(keep)))
           values <- plain_row(source, tree$arg)[keep]
           empty <- length(values) > 0 && all(is.na(values))
           values <- values[!is.na(values)]
           as.double(switch(tree$fn, sum = if (empty) NA else sum(as.double(values)),
                            count = length(values),
                            distinct = length(unique(values)),
                            mean = if (length(values)) mean(values) else NA))
         })
}

plain_row <- function(source, tree) {
  switch(tree$kind,
         number = , text = , date = tree$value,
         name = plain_field(source, tree$name),
         op = {
           args <- lapply(tree$args, plain_row, source = source)
           if (length(args) == 1) return(if (tree$op == "abs") abs(args[[1]]) else -args[[1]])
           if (tree$op == "/") args[[2]][!is.na(args[[2]]) & args[[2]] == 0] <- NA
           switch(tree$op, `+` = args[[1]] + args[[2]], `-` = args[[1]] - args[[2]],
                  `*` = args[[1]] * args[[2]], `/` = args[[1]] / args[[2]])
         })
}

plain_field <- function(source, name) {
  field <- field_at(source, name)
  values <- raw_field(source, field)
  if (field$type == "number") return(as.double(values))
  if (field$type == "date") return(as.numeric(values))
  if (is.numeric(values)) return(plain_text(values))
  values <- as.character(values)
  distinct <- unique(values)
  blank <- distinct[grepl("^[[:space:]]*$", distinct)]
  if (length(blank)) values[values %in% blank] <- NA
  values
}

plain_condition <- function(source, tree) {
  out <- switch(tree$kind,
                logic = {
                  args <- lapply(tree$args, plain_condition, source = source)
                  switch(tree$op, `!` = !args[[1]], `&` = args[[1]] & args[[2]],
                         `|` = args[[1]] | args[[2]])
                },
                missing = is.na(plain_row(source, tree$arg)),
                within = plain_row(source, tree$arg) %in% tree$set$values,
                compare = plain_compare(tree$op, plain_row(source, tree$args[[1]]),
                                        plain_row(source, tree$args[[2]]),
                                        computed = any(vapply(tree$args,
                                                              function(a) a$kind == "op", TRUE))))
  !is.na(out) & out
}

# Computed numbers that agree within a relative 1e-9 are equal, so that 0.1 + 0.2 is at most 0.3.
plain_compare <- function(op, a, b, computed) {
  if (!computed)
    return(switch(op, `==` = a == b, `!=` = a != b, `<` = a < b, `>` = a > b, `<=` = a <= b,
                  `>=` = a >= b))
  if (is.numeric(a) && is.numeric(b)) {
    near <- abs(a - b) <= 1e-9 * pmax(abs(a), abs(b))
    return(switch(op, `==` = near, `!=` = !near, `<` = a < b & !near, `>` = a > b & !near,
                  `<=` = a < b | near, `>=` = a > b | near))
  }
}
