# Rules for metrics and dimensions: of what, by what, within what.

# by territory and channel; per rep; in each territory; by revenue
rule_by <- function(p) {
  one <- seg(p)
  within <- is_kind(one, "within")
  if (!within && !is_kind(one, "by") && !is_kind(one, "split")) return(0L)
  if (is_of_book(one)) return(0L)
  if (is_kind(one, "split")) {
    p$frame$cues$split <- list(at = p$i, text = one$text)
    return(noted(p, 1L, "split", ""))
  }
  at <- ahead(p, 1L, "by", "of", "how_many")
  after <- seg(p, at)
  if (is.null(after)) return(0L)
  # "by growth in revenue": the growth tells.
  if (is_kind(after, "growth", "decline") && !is_of_book(after)) return(noted(p, at, "by", ""))
  if (is_kind(after, "change") && !is_of_book(after)) {
    p$frame$grows <- list(down = FALSE, relative = FALSE, plain = TRUE)
    return(noted(p, at + 1L, "change", "by the change"))
  }
  orders <- trade_metric(p$book, "orders")
  each_order <- identical(one$low, "by") && !length(p$frame$fields) && !length(p$frame$size) &&
    !is.null(orders) && identical(metric_meant(p, after), orders)
  if ((identical(one$low, "per") || each_order) && is_quotient(p, after))
    return(take_quotient(p, at))
  each <- if (identical(one$low, "per")) each_divisor(p, after, at)
  if (!is.null(each)) return(take_quotient(p, at, each))
  fields <- within && length(field_meant(p, after))
  if (within && !fields) return(0L)
  p$frame$role <- if (within) "within" else "by"
  if (identical(one$low, "per")) p$frame$per <- TRUE
  p$frame$after_by <- p$i + at
  measure <- Filter(function(m) m$role == "measure", means_of(after, "field"))
  if (length(measure) && !length(metric_meant(p, after))) {
    p$frame$sort_by <- measure[[1]]$name
    p$frame$measure_text <- after$text
    return(noted(p, at + 1L, "sorted by", measure[[1]]$name))
  }
  if (length(metric_meant(p, after))) p$frame$by_metric <- TRUE
  if (!length(metric_meant(p, after)) && !length(field_meant(p, after)) &&
        !sub("s$", "", after$low %||% "") %in% ask_every) {
    # "by rep Maren Holt": the name tells.
    if (!length(means_of(after, "name"))) return(0L)
  }
  noted(p, at, p$frame$role, "")
}

# "order 10234" is one of them.
rule_order <- function(p) {
  if (!is_kind(seg(p), "order") || is.null(p$book$order)) return(0L)
  quote_names(p, 1L, p$book$order)
  if (!is_name_of(seg(p, 1L), p$book$order)) return(0L)
  n <- take_names(p, 1L, field = p$book$order)
  noted(p, n + 1L, "only", names_said(p))
}

rule_metric <- function(p) {
  one <- seg(p)
  name <- metric_meant(p, one)
  if (is.null(name)) return(0L)
  # A word that is a dimension too is one after "by" or a number of names.
  field <- field_meant(p, one)
  if (is_verb(p, one)) return(0L)
  if (!is.null(field) && isTRUE(p$frame$subject_next) && !isTRUE(p$frame$counting) &&
        !length(means_of(one, "metric"))) return(0L)
  p$frame$metrics <- unique(c(p$frame$metrics, name))
  p$frame$last_thing <- list(type = "metric", name = name)
  p$frame$subject_next <- FALSE
  own <- if (length(means_of(one, "metric"))) "metric" else "metric, by the trade's word"
  noted(p, 1L, own, spoken(name))
}

# As what a field is named: after "by", joined to one that is, or by itself.
field_role <- function(p) {
  if (isTRUE(p$frame$after_by == p$i)) return(p$frame$role)
  joined <- is_kind(seg(p, -1L), "and", "or") || identical(seg(p, -1L)$kind, "comma")
  if (joined && isTRUE(p$frame$after_by == p$i - 1L)) p$frame$role else "subject"
}

rule_field <- function(p) {
  one <- seg(p)
  name <- field_meant(p, one)
  if (is.null(name)) {
    measure <- Filter(function(m) m$role %in% c("measure", "date"), means_of(one, "field"))
    if (!length(measure)) return(0L)
    if (!is.null(p$frame$cues$average) && measure[[1]]$role == "measure")
      return(take_average(p, measure[[1]]$name))
    p$frame$last_thing <- list(type = "field", name = measure[[1]]$name)
    p$frame$measures <- c(p$frame$measures, measure[[1]]$name)
    p$frame$measure_text <- one$text
    return(noted(p, 1L, "field", measure[[1]]$name))
  }
  # "account type": the field of the register, said in full.
  inner <- Filter(function(m) identical(m$from, name), means_of(seg(p, 1L), "field"))
  if (length(inner) && length(field_meant(p, seg(p, 1L)))) {
    if (isTRUE(p$frame$after_by == p$i)) p$frame$after_by <- p$i + 1L
    return(noted(p, 1L, "whose field follows", ""))
  }
  # "territory Moor": the field of the name that follows.
  after <- ahead(p, 1L)
  quote_names(p, after, name)
  following <- seg(p, after)
  own <- Filter(function(m) m$field == name, means_of(following, "name"))
  if (length(own) && after == 1L && !isTRUE(p$frame$role == "by" && p$frame$after_by == p$i)) {
    n <- take_names(p, 1L, field = name)
    if (n) return(noted(p, n + 1L, "only", names_said(p)))
  }
  role <- field_role(p)
  if (role %in% c("by", "within")) {
    p$frame$after_by <- p$i + 1L
    joins <- seg(p, 1L)
    if (is_kind(joins, "and") || identical(joins$kind, "comma")) p$frame$after_by <- p$i + 2L
  }
  p$frame$fields <- c(p$frame$fields, list(list(name = name, role = role, at = p$i)))
  p$frame$subject_next <- FALSE
  noted(p, 1L, if (role == "subject") "whom" else role,
        if (role == "subject") plural_word(field_noun(p$book, name)) else spoken(name))
}
