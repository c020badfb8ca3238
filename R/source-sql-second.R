# The second route to a total where the lines are in a database: statements without groups over the
# numbers as the engine has them, not over whole numbers. Picks of lines are conditions.

second_route <- "a total by the second route"

#' @export
second_lines.database_source <- function(source, aside, only, period) {
  source_unchanged(source)
  writer <- sql_writer(source, plain = TRUE)
  asked <- Filter(Negate(is.null), list(aside = aside, only = only, period = period))
  out <- list(keep = NULL, exclude = 0, outside_conditions = 0, outside_period = 0)
  if (!length(asked)) return(out)
  # What each step leaves; the difference is what it puts outside.
  if (!is.null(aside)) asked$aside <- pick_not(aside)
  left <- Reduce(and_also, asked, accumulate = TRUE)
  tests <- vapply(left, sql_where, "", w = writer)
  columns <- paste0("COUNT(CASE WHEN ", tests, " THEN 1 END) AS ll_n", seq_along(tests))
  select <- paste(c("COUNT(*) AS ll_n0", columns), collapse = ",\n       ")
  answer <- ask(source, paste0("SELECT ", select, "\n", from_where(writer, NULL)), second_route)
  n <- as.double(unlist(answer[paste0("ll_n", seq(0, length(tests)))]))
  outside <- stats::setNames(-diff(n), names(asked))
  for (step in names(asked))
    out[[c(aside = "exclude", only = "outside_conditions", period = "outside_period")[[step]]]] <-
      outside[[step]]
  out$keep <- left[[length(left)]]
  out
}

#' @export
second_pick.database_source <- function(source, tree) tree

#' @export
second_metrics.database_source <- function(source, trees, keep, before = NULL) {
  one <- function(tree) {
    now <- second_values(source, tree, keep)
    second_total(tree, now, if (!is.null(before)) second_values(source, tree, before))
  }
  brought <- function(tree) {
    here <- source_here(source, list(tree), if (!is.null(before)) either(keep, before) else keep)
    mask <- function(pick) if (!is.null(pick)) second_condition(here, pick)
    second_metrics(here, list(tree), mask(keep), mask(before))
  }
  vapply(trees, function(tree) tryCatch(one(tree), no_sql = function(e) brought(tree)), 0)
}

# The aggregates of a metric in one statement, for each row of `keys` where there are any: a
# function that gives the value of each.
second_values <- function(source, tree, keep, keys = NULL,
                          writer = sql_writer(source, plain = TRUE)) {
  aggregates <- nodes_where(tree, function(t) t$kind == "aggregate")
  columns <- unlist(lapply(seq_along(aggregates), function(i) {
    t <- aggregates[[i]]
    paste0(c(second_aggregate_sql(writer, t), second_seen_sql(writer, t),
             second_held_sql(writer, t)), " AS ll_",
           c("v", "seen", "held"), i)
  }))
  by <- key_columns(keys)
  answer <- ask(source, paste0("SELECT ", paste(c(by$select, columns), collapse = ", "), "\n",
                               from_where(writer, keep), by$group), second_route, length(keys) > 0)
  value <- function(t) {
    i <- which(vapply(aggregates, identical, NA, t))[1]
    part <- function(what) as.double(answer[[paste0("ll_", what, i)]])
    second_answer(t, part("v"), part("seen"), part("held"))
  }
  structure(value, answer = answer)
}

second_aggregate_sql <- function(writer, tree) {
  if (is.null(tree$arg)) return(paste0("COUNT(", sql_where_met(writer, "1", tree$where), ")"))
  if (tree$arg$kind == "per" || tree$fn %in% c("median", "quantile", "sd", "var"))
    no_sql(tree$fn, "() by a second route")
  x <- sql_where_met(writer, sql_argument(writer, tree)$sql, tree$where)
  switch(tree$fn, count = paste0("COUNT(", x, ")"), distinct = writer$dialect$distinct(x),
         mean = paste0("AVG(", x, ")"), paste0(toupper(tree$fn), "(", x, ")"))
}

second_seen_sql <- function(writer, tree) {
  paste0("COUNT(", sql_where_met(writer, "1", tree$where), ")")
}

second_held_sql <- function(writer, tree) {
  if (is.null(tree$arg)) return(second_seen_sql(writer, tree))
  paste0("COUNT(", sql_where_met(writer, sql_argument(writer, tree)$sql, tree$where), ")")
}

# Of lines none of which has a value the sum is missing; of no lines it is nothing.
second_answer <- function(tree, v, seen, held) {
  if (tree$fn %in% c("count", "distinct")) return(v)
  ifelse(held > 0, v, ifelse(tree$fn == "sum" & seen == 0, 0, NA))
}

#' @export
second_held.database_source <- function(source, tree, keep) {
  writer <- sql_writer(source, plain = TRUE)
  key <- sql_key(writer, tree, coarse = FALSE)
  answer <- ask(source, paste0("SELECT DISTINCT ", key$sql, " AS ll_k1\n",
                               from_where(writer, keep)),
                second_route, guard = TRUE)
  coded <- key$coded(answer$ll_k1)
  names <- names_at(coded$codes, coded$levels)
  names[!is.na(names)]
}

#' @export
second_sums.database_source <- function(source, each, product, tree, keep) {
  tryCatch({
    writer <- sql_writer(source, plain = TRUE)
    keys <- lapply(list(each, product), sql_key, w = writer, coarse = FALSE)
    value <- second_values(source, tree, keep, keys, writer)
    answer <- attr(value, "answer")
    named <- function(key, x) {
      coded <- key$coded(x)
      names_at(coded$codes, coded$levels)
    }
    out <- data.frame(each = named(keys[[1]], answer$ll_k1),
                      product = named(keys[[2]], answer$ll_k2),
                      value = rep_len(second_total(tree, value), nrow(answer)))
    out[!is.na(out$each) & !is.na(out$product), ]
  }, no_sql = function(e) {
    here <- source_here(source, list(each, product, tree), keep)
    second_sums(here, each, product, tree, if (!is.null(keep)) second_condition(here, keep))
  })
}

#' @export
second_cells.database_source <- function(source, names) {
  writer <- sql_writer(source, plain = TRUE)
  columns <- vapply(names, function(name) {
    x <- sql_field(writer, name)
    paste0("COUNT(", x$raw %||% x$sql, ")")
  }, "")
  select <- paste0(columns, " AS ll_n", seq_along(columns), collapse = ",\n       ")
  answer <- ask(source, paste0("SELECT ", select, "\n", from_where(writer, NULL)), second_route)
  stats::setNames(as.double(unlist(answer[paste0("ll_n", seq_along(columns))])), names)
}
