# Ways of questions that are left when nothing else is asked: ranks, splits, totals and counts.

# How many names, of how many lines.
way_counting <- function(x) {
  if (!isTRUE(x$take("counting"))) return(NULL)
  each <- subject_of(x)
  metrics <- asked_metrics(x)
  by <- setdiff(fields_with(x, "by"), each)
  if (length(x$raw$compares)) return(NULL)
  # "how often was it hired": in how many orders; "how many bought hives": customers.
  orders <- trade_metric(x$book, "orders")
  if (is.null(each) && !length(metrics) && identical(x$raw$deal, "deal") &&
        !identical(x$raw$counting_word, "how often")) each <- who_asked(x)
  if (!length(metrics) && (identical(each, x$book$order) && !is.null(orders) ||
                             is.null(each) && !is.null(x$raw$deal) && !length(x$raw$fields))) {
    return(if (!is.null(orders)) call_of("total", metrics = orders, where = asked_where(x),
                                         when = asked_when(x)))
  }
  if (!is.null(each) && !length(metrics)) {
    metrics <- units_meant(x, each) %||% count_of_names(x, each)
    if (length(by)) return(refuse_fields(x, c(each, by), call_of(
      "standings", each = by[1], metrics = metrics, where = asked_where(x), when = asked_when(x))))
    return(refuse_fields(x, each, call_of("total", metrics = metrics, where = asked_where(x),
                                          when = asked_when(x))))
  }
  NULL
}

# "how many hives did we sell" is of units where the book counts them, and no number of names; where
# nothing is said of selling that is asked back.
units_meant <- function(x, each) {
  different <- x$has("different")
  units <- trade_metric(x$book, "units")
  if (is.null(units) || different || !identical(each, product_field(x$book))) return(NULL)
  if (!is.null(x$raw$deal)) return(units)
  units <- spoken(units)
  names <- paste("different", plural_word(field_noun(x$book, each)))
  ask_back(x$text, paste("Whether", units, "or", names, "are counted is not said"),
           stats::setNames(paste0("\"", c(units, paste("how many", names)), "\""), c(units, names)))
}

# What a plain question gives: whom, by what, which lines, which size.
plain_question <- function(x) {
  for (cue in c("how_much", "rank", "change")) x$has(cue)
  # Of one figure what was before is told anyway.
  if (!length(x$raw$fields)) for (cue in c("rise", "fall")) {
    bare <- (x$raw$cues[[cue]]$text %||% "") %in% c("more", "less")
    if (!bare || length(x$raw$whens) || !is.null(x$raw$against)) x$has(cue)
  }
  # "how much did we make", "how many orders": the metric is what is counted.
  if (plain_words(x$raw$cues$make_up$text %||% "") %in% c("make", "makes", "bring", "brings"))
    x$has("make_up")
  if (length(x$raw$metrics)) x$take("counting")
  leads <- x$has("leads")
  q <- list(within = fields_with(x, "within"), by = fields_with(x, "by"),
            subject = plain_subject(x), size = asked_size(x))
  if (leads && is.null(q$subject)) q$subject <- subject_of(x, "always")
  if (leads && !length(q$size)) q$size <- asked_default(x)
  q$metrics <- asked_metrics(x)
  q$when <- asked_when(x)
  q$against <- x$take("against") %||% x$env$against
  if (!is.null(q$against) && is.null(q$when)) q$when <- "this year to date"
  q$where <- asked_where(x)
  q
}

# "what did schools buy": of products; "what did schools spend" is a total.
plain_subject <- function(x) {
  money <- grepl("^(spen|sell|sold|bring|brought|tak|took)", x$raw$deal_word %||% "") &&
    !grepl("\\b(sell|sold) to\\b", plain_words(x$text))
  bought <- asks_what(x$text) && !is.null(x$raw$deal) && (length(x$raw$size) || !money) &&
    !length(fields_with(x, "subject")) && !length(x$raw$metrics)
  if (bought) product_field(x$book) else subject_of(x)
}

# "which month": parts of the date.
way_parts <- function(x) {
  if (!length(x$raw$parts)) return(NULL)
  q <- plain_question(x)
  parts <- x$take("parts")
  if (length(c(q$by, q$subject, q$within)) || length(parts) > 1) return(NULL)
  size <- size_of_metric(x, q$size, q$metrics[1] %||% names(x$book$metrics)[1])
  list(study = "standings", args = c(list(each = parts, metrics = q$metrics, where = q$where,
                                          when = q$when), size))
}

# "customers per rep": how many of them.
way_per <- function(x) {
  if (!isTRUE(x$raw$per) || length(x$raw$metrics)) return(NULL)
  q <- plain_question(x)
  if (length(q$by) != 1 || is.null(q$subject) || identical(q$by, q$subject) ||
        length(c(q$size, q$within))) return(NULL)
  call_of("standings", each = q$by, metrics = count_of_names(x, q$subject), where = q$where,
          when = q$when, against = q$against)
}

# c(accounts = "distinct(account)")
count_of_names <- function(x, field) {
  plural <- gsub(" ", "_", plain_words(plural_word(field_noun(x$book, field))))
  stats::setNames(paste0("distinct(", name_text(field), ")"), plural)
}

# Top and bottom, leaders, one dimension by itself.
way_ranks <- function(x) {
  q <- plain_question(x)
  fields <- unique(c(q$subject, q$by))
  # The best rep of each territory: whom, within what.
  other <- setdiff(q$by, q$subject)
  if (length(q$size) && length(other) == 1 && !is.null(q$subject) && !length(q$within)) {
    q$within <- other
    fields <- q$subject
  }
  if (length(q$size) && !length(fields)) whom_back(x)
  if (!length(fields) || length(q$within) > 1 || length(fields) > 1 && !length(q$size))
    return(NULL)
  size <- size_of_metric(x, q$size, q$metrics[1] %||% names(x$book$metrics)[1])
  # The best of each is one.
  if (length(size) && length(q$within) && is.null(x$raw$n)) {
    size[[1]] <- 1
    x$env$taken <- setdiff(x$env$taken, "ten shown")
  }
  refuse_fields(x, c(fields[1], q$within), list(study = "standings", args = c(list(
    each = fields[1], metrics = q$metrics, within = if (length(q$within)) q$within,
    where = q$where, when = q$when, against = q$against, min_orders = asked_min_orders(x)), size)))
}

# "list orders of Quarry Combe": each of them, not how many there are.
way_orders <- function(x) {
  listed <- grepl("^(please )?list (me )?(all )?(of )?(the |our |their )?orders\\b",
                  plain_words(x$text))
  if (!listed || is.null(x$book$order) || length(x$raw$size)) return(NULL)
  orders <- trade_metric(x$book, "orders")
  metrics <- setdiff(asked_metrics(x), orders)
  refuse_fields(x, x$book$order, call_of(
    "standings", each = x$book$order, metrics = if (length(metrics)) metrics,
    where = asked_where(x), when = asked_when(x)))
}

# Two dimensions, or none: a table, or one figure.
way_totals <- function(x) {
  q <- plain_question(x)
  fields <- unique(c(q$subject, q$by))
  if (length(q$size) || length(q$within)) return(NULL)
  if (length(fields) == 2 && is.null(q$against))
    return(call_of("crosstab", rows = fields[1], columns = fields[2], metrics = q$metrics,
                   where = q$where, when = q$when))
  if (length(fields)) return(NULL)
  # A name, or a period, alone asks for nothing.
  asks <- !is.null(q$metrics) || !is.null(x$raw$deal) || !length(x$raw$names) && !is.null(q$when) ||
    of_orders(x) && !is.null(x$raw$cues$how_much)
  if (asks) call_of("total", metrics = q$metrics, where = q$where, when = q$when,
                    against = q$against)
}

asked_default <- function(x) {
  assumed(x, "ten shown")
  list(top = default_top)
}

# "top 10 by revenue": of whom?
whom_back <- function(x) {
  fields <- utils::head(dimensions_of(x$book), 9)
  plural <- vapply(fields, function(field) plural_word(field_noun(x$book, field)), "")
  ask_back(x$text, "Of whom is not said", stats::setNames(paste0("\"", plural, "\""), plural))
}
