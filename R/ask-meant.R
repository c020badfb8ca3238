# What a segment means in this book: the metric or dimension that it, or the trade's word, names.

# Returned goods are lines below zero of a quantity, or of the first measure that has any.
returns_condition <- function(book) {
  own <- book$fields$name[book$fields$role == "measure" & book$fields$from == "lines"]
  hit <- own[grepl("^(qty|quantity|units|pieces)", tolower(own))]
  if (length(hit)) paste(name_text(hit[1]), "< 0")
}

# "revenue per order": another metric, and no two; also per unit of a measure.
is_quotient <- function(p, after) {
  identical(p$frame$last_thing$type, "metric") && !is.null(divisor_meant(p, after)) &&
    (is.null(field_meant(p, after)) || is_kind(after, "order"))
}

# "revenue per account by territory": for each account, since it is split by something else: what a
# metric is then divided by, as divisor_meant() has it; NULL where it is split by nothing else.
each_divisor <- function(p, after, at) {
  field <- field_meant(p, after)
  if (is.null(field) || !identical(p$frame$last_thing$type, "metric")) return(NULL)
  for (k in at + seq_len(12L)) {
    one <- seg(p, k)
    if (is.null(one)) return(NULL)
    splits <- is_kind(one, "by", "within") && !identical(one$low, "per") && !is_of_book(one)
    other <- if (splits) field_meant(p, seg(p, ahead(p, k + 1L, "by", "of")))
    if (length(other) && !identical(other, field))
      return(list(name = field, formula = paste0("distinct(", name_text(field), ")")))
  }
}

# What a metric is divided by: list(name, formula).
divisor_meant <- function(p, one) {
  metric <- metric_meant(p, one)
  if (!is.null(metric)) return(list(name = metric, formula = name_text(metric)))
  measure <- Filter(function(m) m$role == "measure", means_of(one, "field"))
  if (length(measure)) list(name = measure[[1]]$name,
                            formula = paste0("sum(", name_text(measure[[1]]$name), ")"))
}

# The book's own average order, or a metric of this question alone.
take_quotient <- function(p, at, other = divisor_meant(p, seg(p, at))) {
  last <- p$frame$last_thing$name
  average <- trade_metric(p$book, "average_order")
  p$frame$metrics <- setdiff(p$frame$metrics, last)
  # "average revenue per order": a quotient is an average.
  p$frame$cues$average <- NULL
  known <- identical(last, trade_metric(p$book, "revenue")) &&
    identical(other$name, trade_metric(p$book, "orders"))
  if (known && !is.null(average)) {
    p$frame$metrics <- unique(c(p$frame$metrics, average))
    return(noted(p, at + 1L, "metric, by the trade's word", spoken(average)))
  }
  one <- singular_word(plain_words(spoken(other$name))) %||% plain_words(spoken(other$name))
  name <- paste0(unguarded(last), "_per_", gsub(" ", "_", one))
  formula <- paste(name_text(last), "/", other$formula)
  own_metric(p, at + 1L, name, formula)
}

# A metric of this question alone, said by `n` segments.
own_metric <- function(p, n, name, formula) {
  p$frame$quotients[[name]] <- formula
  p$frame$metrics <- unique(c(p$frame$metrics, name))
  noted(p, n, "metric of this question", formula)
}

# "average quantity": the mean over the lines, a metric of this question alone.
take_average <- function(p, field) {
  name <- paste0("average_", gsub(" ", "_", plain_words(spoken(field))))
  p$frame$cues$average <- NULL
  p$frame$last_thing <- list(type = "metric", name = name)
  own_metric(p, 1L, name, paste0("mean(", name_text(field), ")"))
}

# The metric that a segment names: its own, or that of the trade's word.
metric_meant <- function(p, one) {
  if (is.null(one)) return(NULL)
  own <- means_of(one, "metric")
  if (length(own)) return(own[[1]]$name)
  if (length(means_of(one, "field")) || length(means_of(one, "name"))) return(NULL)
  for (m in means_of(one, "word")) {
    found <- trade_metric(p$book, m$kind)
    if (!is.null(found)) return(found)
  }
  NULL
}

ask_metric_kinds <- list(
  revenue = "^(revenue|sales|turnover|takings|income|net_sales|proceeds|net_revenue)$",
  profit = "^(margin|profit|gross_profit|gross_margin|contribution)$",
  profit_rate = "^(margin_rate|profit_share|profit_rate|margin_percent|gross_margin_rate)$",
  orders = "^(orders|jobs|hires|transactions|invoices|deals)$",
  average_order = "^(average_(order|hire|job|basket|invoice)|order_value|basket)$",
  units = "^(units|quantity|pieces|volume|qty)$", returns = "^(returned|returns)$")

# The book's metric for a word of the trade; NULL where it has none.
trade_metric <- function(book, kind) {
  pattern <- ask_metric_kinds[[kind]]
  if (is.null(pattern)) return(NULL)
  hit <- grep(pattern, tolower(unguarded(names(book$metrics))))
  if (length(hit)) names(book$metrics)[hit[1]]
}

# The dimension that a segment names: a field, or who buys, sells or is sold in the trade's words.
field_meant <- function(p, one) {
  if (is.null(one)) return(NULL)
  own <- Filter(function(m) m$role == "dimension" || m$role == "identifier", means_of(one, "field"))
  if (length(own)) return(own[[1]]$name)
  for (m in means_of(one, "word")) {
    found <- switch(m$kind, customer = customer_field(p$book), product = product_field(p$book),
                    people = p$book$people, order = p$book$order)
    if (!is.null(found) && !length(means_of(one, "metric"))) return(found)
  }
  NULL
}

# "who hires lifts": a word of a metric where it tells what somebody does.
is_verb <- function(p, one) {
  if (!is_kind(one, "deal")) return(FALSE)
  if (!length(means_of(one, "metric"))) return(TRUE)
  before <- seg(p, -1L)
  if (is_kind(before, "by", "and", "how_many", "of")) return(FALSE)
  if (asks_what(p$text) && length(means_of(before, "name"))) return(TRUE)
  is_kind(before, "who", "not", "never", "stopped", "could", "only") ||
    identical(before$low, "that") ||
    any(c("space", "could", "stopped", "never") %in% names(p$frame$cues)) &&
    !length(p$frame$metrics)
}

# "what did they buy": of what.
asks_what <- function(text) grepl("^what (did|do|does) ", plain_words(text))
