# Few of many lines brought from a database: those that hold an extreme, and samples.

#' @export
source_extremes.database_source <- function(source, trees, keys, value, where, highest) {
  also <- tryCatch(sql_extremes(source, keys, value, where, highest), no_sql = function(e) NULL)
  bring_lines(source, c(trees, keys, list(value)), where, also = also)
}

# A test for lines with one of the two most extreme values of their group; NULL where groups need a
# join. Names made of others are grouped by those: the extremes of theirs are among them.
sql_extremes <- function(source, keys, value, where, highest) {
  writer <- sql_writer(source)
  dialect <- source$dialect
  names <- vapply(keys, function(tree) sql_key(writer, tree, coarse = TRUE)$sql, "")
  x <- sql_row(writer, value)$sql
  if (length(writer$joins)) return(NULL)
  # No name is one too; comparisons with nothing are none.
  names <- paste0("COALESCE(", dialect$text(names), ", '')")[seq_along(names)]
  alias <- sprintf("ll_e%d", seq_along(names))
  most <- function(test) {
    paste0(
      "SELECT ", paste(c(paste(names, "AS", alias)[seq_along(names)],
                         paste0(if (highest) "MAX(" else "MIN(", x, ") AS ll_most")),
                       collapse = ", "), "\n", from_where_also(writer, where, test),
      if (length(alias)) paste0("\nGROUP BY ", paste(alias, collapse = ", ")))
  }
  among <- function(lines) {
    paste0("(", paste(c(names, x), collapse = ", "), ")", dialect$rows_in, "(", lines, ")")
  }
  first <- among(most(NULL))
  paste0("(", first, " OR ", among(most(paste("NOT", dialect$sure(first)))), ")")
}

#' @export
source_sampled.database_source <- function(source, trees, order, value, where, most, seed) {
  whole <- function() list(source = bring_lines(source, trees, where), of = NULL)
  if (is.null(order)) return(whole())
  count <- node("aggregate", fn = "count", arg = value)
  fold <- source_fold(source, list(order = order), list(n = count), where)
  n <- fold$parts$n$v
  # Lines without an order stand alone, and are not told apart.
  if (sum(n) <= most || any(is.na(fold$keys$order) & n > 0)) return(whole())
  block <- match(fold$keys$order, source_names(source, order))
  at <- base::order(spread_evenly(block, seed))
  taken <- at[seq_len(which(cumsum(n[at]) >= most)[1])]
  some <- node("within", arg = order,
               set = node("set", values = fold$keys$order[taken]))
  list(source = bring_lines(source, trees, and_also(where, some)), of = sum(n),
       missing = sum(fold$lines) - sum(n))
}
