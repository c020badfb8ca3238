# Draft, continued: the metrics that lines are likely to have, told from the names of their columns.
# They stand in a first brief, and serve where lines alone are asked in words or on the desk.

# list(revenue = list(is, unit), ...) in the order of a brief; NULL where nothing can be added up.
drafted_metrics <- function(book) {
  own <- book$fields[book$fields$from %in% c("lines", "computed") &
                       book$fields$role == "measure" & book$fields$type == "number", ]
  # A column that is a month, or one side of a ledger, is no metric of all lines.
  own <- own[is.na(header_days(own$column)) & !own$column %in% ledger_pair(own$column), ]
  if (!nrow(own)) return(NULL)
  pick <- function(...) {
    for (pattern in c(...)) {
      hit <- own$name[grepl(pattern, column_word(own$name))]
      if (length(hit)) return(hit[1])
    }
  }
  money <- likely_money(own)
  cost <- setdiff(pick("^(total_)?costs?$", "^cost|(^|_)(cogs|co\u00fbts?|coste|costo|custo|koszt)(_|$)",
                       "cost|kosten|wareneinsatz|\u0441\u0435\u0431\u0435\u0441\u0442\u043e\u0438\u043c"), money)
  quantity <- setdiff(own$name[named_like_pieces(own$name)], money)[1]
  free <- function(name) if (guarded(name) %in% book$fields$name) paste0("total_", name) else name
  revenue <- free("revenue")
  metric <- function(name, is, unit = NULL) stats::setNames(list(list(is = is, unit = unit)), name)
  total <- function(field) paste0("sum(", name_text(field), ")")
  # Without money that was earned, what there is under its own name.
  if (is.null(money)) {
    other <- utils::head(setdiff(own$name[!own$rate %in% TRUE], quantity), 3)
    named <- gsub("(^_+|_+$)", "", gsub("[^[:alnum:]]+", "_", tolower(unguarded(other))))
    return(c(unlist(Map(function(field, name) metric(free(name), total(field), if (
      !named_like_quantity(field)) "money"), other, make.unique(named, "_"), USE.NAMES = FALSE),
      recursive = FALSE),
      if (!is.null(book$order)) metric(free("orders"), paste0("distinct(", name_text(book$order), ")")),
      if (!is.na(quantity)) metric(free("units"), total(quantity))))
  }
  c(metric(revenue, total(money), "money"),
    if (length(cost)) c(
      metric(free("margin"), paste0(revenue, " - ", total(cost)), "money"),
      metric(free("margin_rate"), paste(free("margin"), "/", revenue), "percent")),
    if (!is.null(book$order)) c(
      metric(free("orders"), paste0("distinct(", name_text(book$order), ")")),
      metric(free("average_order"), paste(revenue, "/", free("orders")), "money")),
    if (!is.na(quantity)) metric(free("units"), total(quantity)),
    discount_metric(book, own, money, quantity, revenue, free("discount_rate")))
}

# The rate that each line bears, rolled up as what was taken off the list amounts of all lines: where
# list, rate and net of the lines fit each other. Of a database's lines that is not looked at.
discount_metric <- function(book, own, money, quantity, revenue, name) {
  rates <- own$name[own$rate %in% TRUE]
  listed <- setdiff(own$name[!own$rate %in% TRUE & named_like_list(own$name)], c(money, quantity))
  if (!length(rates) || !length(listed) || !inherits(book$source, "frame_source")) return(NULL)
  lines <- unique(round(seq(1, book$lines, length.out = min(book$lines, 500))))
  quantity <- quantity[!is.na(quantity)]
  x <- source_lines(book$source, lines, c(rates, listed, money, quantity))
  for (rate in rates) for (list in listed) for (times in seq(0, length(quantity))) {
    gross <- x[[list]] * if (times) x[[quantity]] else 1
    fits <- abs(gross * (1 - x[[rate]]) - x[[money]]) <= .006 + 1e-4 * abs(x[[money]])
    if (!any(x[[rate]] > 0, na.rm = TRUE) || !isTRUE(mean(fits, na.rm = TRUE) > .9)) next
    amount <- paste0(name_text(list), if (times) paste0(" * ", name_text(quantity)))
    return(stats::setNames(list(list(is = paste0("1 - ", revenue, " / sum(", amount, ")"),
                                     unit = "percent")), name))
  }
}

# A book that has no metrics, with those of a first brief.
with_drafted <- function(book) {
  if (length(book$metrics)) return(book)
  metrics <- drafted_metrics(book)
  if (is.null(metrics)) book else add_metrics(book, lapply(metrics, Filter, f = Negate(is.null)))
}
