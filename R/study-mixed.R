# Questions over lines in several currencies.

# A question that would add up several currencies.
refuse_mixed <- function(question) {
  mixed <- question$book$currencies
  if (is.null(mixed)) return(invisible())
  money <- Filter(adds_money, question$metrics)
  if (!length(money)) return(invisible())
  fold <- source_fold(question$book$source, mixed$field, list(), question$asked$where_now)
  codes <- fold$keys[[1]][fold$lines > 0 & !is.na(fold$keys[[1]])]
  if (length(codes) < 2) return(invisible())
  lines <- fold$lines[match(codes, fold$keys[[1]])]
  only <- codes[which.max(lines)]
  ll_abort(c(paste0(capital(spoken(names(money)[1])), " would add up ", plural(length(codes), "currency"),
                    ": ", and_list(paste0(codes, " on ", vapply(lines, plural, "", "line"))), "."),
             i = paste0("Count one: --currency ", only, " (currency: ", only, " in a brief); each ",
                        "apart: --only ", shell_quoted(paste0(unguarded(mixed$field), "=", only)),
                        "; converted: --currency ", only, " --exchange-rates FILE, a table of date, currency ",
                        "and rate; or --currency any adds them as they stand.")), "data")
}

# Metrics that add up amounts, and no quantities.
adds_money <- function(metric) {
  fields <- unlist(lapply(nodes_where(metric$tree, function(t) {
    t$kind == "aggregate" && t$fn %in% c("sum", "mean", "min", "max", "median", "quantile")
  }), names_in))
  length(fields) > 0 && !all(named_like_quantity(fields))
}
