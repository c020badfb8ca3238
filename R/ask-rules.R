# What segments of a question mean one after the other. Each rule looks at the place where the
# reader stands, notes in the frame what it took the words for, and tells how many segments it took;
# the first rule that takes any has them. A frame is what a question asks for, before it is known
# which study answers: see ask-call.R.

new_frame <- function() {
  list2env(list(cues = list(), metrics = character(), fields = list(), names = list(),
                compares = list(), asides = list(), said = list(), whens = list()),
           parent = emptyenv())
}

# Reads all segments into a frame; p holds the reader's place.
read_frame <- function(read, book, words, frame = new_frame()) {
  p <- list2env(list(segments = read$segments, i = 1L, frame = frame, book = book, words = words,
                     text = read$text), parent = emptyenv())
  while (p$i <= length(p$segments)) {
    used <- 0L
    for (rule in ask_rules) {
      used <- rule(p)
      if (used > 0L) break
    }
    if (used < 1L) refuse_segment(p)
    p$i <- p$i + used
  }
  frame
}

refuse_segment <- function(p) {
  one <- p$segments[[p$i]]
  refuse_question(p$text, paste0("What ", quoted(one$text), " belongs to is not clear"), c(
    i = "Say it by a field, a metric, a name or a period of this book, or in fewer words."))
}

# The segment so many places on; NULL beyond the ends.
seg <- function(p, at = 0L) {
  i <- p$i + at
  if (i >= 1L && i <= length(p$segments)) p$segments[[i]]
}

# Whether a segment is a word of one of these kinds.
is_kind <- function(one, ...) {
  if (is.null(one)) return(FALSE)
  kinds <- c(...)
  for (m in one$means) if (m$type == "word" && m$kind %in% kinds) return(TRUE)
  FALSE
}

means_of <- function(one, type) Filter(function(m) m$type == type, one$means)

is_of_book <- function(one) {
  any(vapply(one$means, function(m) m$type %in% c("field", "metric", "name", "set"), NA))
}

# Notes what words were taken for: `n` segments from here.
noted <- function(p, n, taken, value = "", from = 0L) {
  first <- p$segments[[p$i + from]]
  last <- p$segments[[p$i + from + n - 1L]]
  at <- length(p$frame$said) + 1L
  p$frame$said[[at]] <- list(from = first$from, to = last$to, taken = taken, value = value,
                             segments = seq(p$i + from, length.out = n))
  n
}

add_cue <- function(p, n, cue, taken = "what is asked") {
  p$frame$cues[[cue]] <- list(at = p$i, text = p$segments[[p$i]]$text)
  noted(p, n, taken, "")
}

# Places on over words without a meaning of their own and those that join.
ahead <- function(p, at, ...) {
  kinds <- c("filler", ...)
  repeat {
    one <- seg(p, at)
    if (is.null(one) || is_of_book(one) || one$kind != "phrase" || !is_kind(one, kinds)) return(at)
    at <- at + 1L
  }
}

# --- the rules ------------------------------------------------------------------------------------

rule_comma <- function(p) if (seg(p)$kind == "comma") 1L else 0L

# A study by its name and a colon, with every argument by its own.
rule_study <- function(p) {
  if (seg(p)$kind != "study") return(0L)
  p$frame$study <- seg(p)$low
  noted(p, if (is.null(seg(p, 1L))) 1L else 2L, "study", seg(p)$low)
}

# with <argument> "value" and "value": any argument of any study, as typed.
rule_argument <- function(p) {
  if (seg(p)$kind != "argument") return(0L)
  values <- character()
  n <- 1L
  repeat {
    values <- c(values, seg(p, n)$value)
    n <- n + 1L
    if (!is_kind(seg(p, n), "and") || !identical(seg(p, n + 1L)$kind, "quoted")) break
    n <- n + 1L
  }
  p$frame$given[[seg(p)$name]] <- values
  noted(p, n, "argument", paste0(seg(p)$name, " = ", paste(values, collapse = ", ")))
}

# A condition of the language of conditions: where "net > 5".
rule_condition <- function(p) {
  if (!identical(seg(p)$low, "where") || !identical(seg(p, 1L)$kind, "quoted")) return(0L)
  p$frame$conditions <- c(p$frame$conditions, seg(p, 1L)$value)
  noted(p, 2L, "condition", seg(p, 1L)$value)
}

rule_period <- function(p) {
  one <- seg(p)
  if (one$kind != "period") return(0L)
  add_period(p, one, 0L)
  noted(p, 1L, "period", period_said(p$book, one$period))
}

# A period by its days, or by its name where that says them.
period_said <- function(book, text) {
  found <- tryCatch(read_period(text, book_dates(book, "when")), ll_error = function(e) NULL)
  if (is.null(found) || anyNA(c(found$from, found$to))) return(text)
  if (grepl("/", text, fixed = TRUE)) span_text(found$from, found$to) else found$words
}

add_period <- function(p, one, at) {
  value <- p$segments[[p$i + at]]
  if (!is.null(value$doubt)) {
    choices <- vapply(value$doubt, function(text) fixed_period(text)$words, "")
    ask_back(p$text, paste0(quoted(value$text), " is of no year"),
             stats::setNames(paste0("\"", choices, "\""), choices), word = value$text)
  }
  p$frame$whens <- c(p$frame$whens, list(list(text = value$period, season = value$season,
                                              words = value$text)))
}

# against last year, versus 2024, compared with the previous quarter; against their quota; names.
rule_against <- function(p) {
  if (!is_kind(seg(p), "against") || is_of_book(seg(p))) return(0L)
  at <- ahead(p, 1L, "of")
  one <- seg(p, at)
  before <- against_words_at(p, at)
  if (!is.null(before)) {
    p$frame$against <- before$text
    return(noted(p, at + before$n, "compared with", before$text))
  }
  if (!is.null(one) && is_kind(one, "target")) return(add_cue(p, at + 1L, "target"))
  if (!is.null(one) && is_kind(one, "existing")) return(add_cue(p, at + 1L, "existing"))
  if (!is.null(one) && length(means_of(one, "name"))) return(add_cue(p, at, "versus"))
  0L
}

against_words_at <- function(p, at) {
  one <- seg(p, at)
  if (is.null(one)) return(NULL)
  if (one$kind == "period" && is.null(one$doubt)) {
    text <- one$period
    text <- switch(text, "last year" = "year before", "last quarter" = , "last month" = "previous",
                   text)
    return(list(text = text, n = 1L))
  }
  if (is_kind(one, "year_before")) return(list(text = "year before", n = 1L))
  if (is_kind(one, "previous")) list(text = "previous", n = 1L)
}

rule_year_on_year <- function(p) {
  if (!is_kind(seg(p), "year_on_year", "year_before")) return(0L)
  p$frame$against <- "year before"
  noted(p, 1L, "compared with", "year before")
}

# not Moor, without the web, excluding returns, have not ordered, not in 2025
rule_not <- function(p) {
  if (!is_kind(seg(p), "not")) return(0L)
  at <- ahead(p, 1L, "of")
  one <- seg(p, at)
  if (is.null(one)) return(0L)
  if (is_kind(one, "returns") && length(returns_condition(p$book)) &&
        !length(means_of(one, "name"))) {
    p$frame$conditions <- c(p$frame$conditions, paste0("!(", returns_condition(p$book), ")"))
    return(noted(p, at + 1L, "condition", paste0("!(", returns_condition(p$book), ")")))
  }
  if (one$kind == "period" && is.null(one$doubt)) {
    p$frame$not_when <- one$period
    return(noted(p, at + 1L, "not in the period", one$period))
  }
  if (length(means_of(one, "name"))) {
    n <- take_names(p, at, negative = TRUE)
    return(if (n) noted(p, at + n, "not", names_said(p)) else 0L)
  }
  # "not territory Moor"
  if (length(means_of(one, "field"))) quote_names(p, at + 1L, means_of(one, "field")[[1]]$name)
  if (length(means_of(one, "field")) && length(means_of(seg(p, at + 1L), "name"))) {
    n <- take_names(p, at + 1L, negative = TRUE, field = means_of(one, "field")[[1]]$name)
    return(if (n) noted(p, at + 1L + n, "not", names_said(p)) else 0L)
  }
  if (is_kind(one, "deal", "sell")) {
    p$frame$not_deal <- TRUE
    p$frame$deal_at <- p$i + at
    return(noted(p, at + 1L, "did not buy", ""))
  }
  0L
}

# Returned goods are lines below zero of a quantity, or of the first measure that has any.
returns_condition <- function(book) {
  own <- book$fields$name[book$fields$role == "measure" & book$fields$from == "lines"]
  hit <- own[grepl("^(qty|quantity|units|pieces)", tolower(own))]
  if (length(hit)) paste(name_text(hit[1]), "< 0")
}

ask_compares <- c(above = ">", no_less = ">=", below = "<", at_most = "<=")

# over 1,000 net; at least 20 orders; revenue below 500
rule_compare <- function(p) {
  kind <- Filter(function(k) is_kind(seg(p), k), names(ask_compares))
  if (!length(kind)) return(0L)
  at <- ahead(p, 1L)
  number <- seg(p, at)
  if (is.null(number) || !number$kind %in% c("number", "percent", "period")) return(0L)
  value <- if (number$kind == "period") suppressWarnings(as.numeric(number$low)) else number$value
  if (is.na(value)) return(0L)
  if (number$kind == "percent") value <- value / 100
  after <- ahead(p, at + 1L, "of")
  what <- compared_thing(p, seg(p, after))
  n <- after + 1L
  # "more than 5 items": how many names there are is no metric of the book.
  if (is.null(what) && length(field_meant(p, seg(p, after)))) return(0L)
  if (is.null(what)) {
    # The metric or measure just before.
    n <- at + 1L
    what <- p$frame$last_thing
    # "spent more than 10k": of what is counted first.
    if (is.null(what) && !is.null(p$frame$deal) && length(p$book$metrics))
      what <- list(type = "metric", name = names(p$book$metrics)[1])
    if (is.null(what)) return(0L)
    if (what$type == "metric") p$frame$metrics <- setdiff(p$frame$metrics, what$name)
    if (what$type == "field") p$frame$measures <- setdiff(p$frame$measures, what$name)
  }
  with <- identical(seg(p, -1L)$low, "with") || identical(seg(p, -1L)$low, "having")
  p$frame$compares <- c(p$frame$compares, list(c(what, list(op = ask_compares[[kind[1]]],
                                                            value = value, with = with))))
  noted(p, n, "condition", paste(spoken(what$name), ask_compares[[kind[1]]],
                                 full_number_text(value)))
}

# A metric, or a measure of the lines, that a number is compared with.
compared_thing <- function(p, one) {
  if (is.null(one)) return(NULL)
  metric <- metric_meant(p, one)
  if (!is.null(metric)) return(list(type = "metric", name = metric))
  field <- Filter(function(m) m$role == "measure", means_of(one, "field"))
  if (length(field)) list(type = "field", name = field[[1]]$name)
}

ask_sizes <- c("best", "worst", "top", "bottom", "first_names")

# top 10, the 3 largest, ten smallest, best
rule_size <- function(p) {
  one <- seg(p)
  number <- NULL
  at <- 0L
  sized <- is_kind(seg(p, 1L), ask_sizes, "busiest") && !is_of_book(seg(p, 1L))
  if (one$kind == "number" && sized) {
    number <- one$value
    at <- 1L
    one <- seg(p, 1L)
  }
  busy <- trade_metric(p$book, "orders")
  if (is_kind(one, "busiest") && !is.null(busy)) {
    p$frame$metrics <- unique(c(p$frame$metrics, busy))
    p$frame$size <- "top"
    p$frame$size_word <- "by value"
    p$frame$subject_next <- TRUE
    return(noted(p, at + 1L, "top ranks, by metric", busy))
  }
  if (is_kind(one, "fastest") && is_kind(seg(p, at + 1L), "growth", "decline"))
    return(growth_cue(p, at + 2L, number, seg(p, at + 1L), TRUE))
  if (!is_kind(one, ask_sizes) || is_of_book(one)) return(0L)
  n <- at + 1L
  # "the first week of June" is no rank.
  if (identical(one$low, "first") && is_kind(seg(p, n), "part_of_date")) return(0L)
  if (is.null(number) && identical(seg(p, n)$kind, "number")) {
    number <- seg(p, n)$value
    n <- n + 1L
  }
  if (!is.null(number) && (number < 1 || number != round(number))) return(0L)
  following <- seg(p, ahead(p, n))
  if (is_kind(following, "decline", "growth") && !is_of_book(following))
    return(growth_cue(p, ahead(p, n) + 1L, number, following, FALSE))
  p$frame$size <- if (is_kind(one, "best", "top", "first_names")) "top" else "bottom"
  p$frame$size_word <- if (is_kind(one, "best", "worst")) "by goodness" else "by value"
  p$frame$n <- number %||% p$frame$n
  p$frame$subject_next <- TRUE
  if (is_kind(one, "first_names")) p$frame$sellers <- TRUE
  noted(p, n, paste(p$frame$size, "ranks"), if (is.null(number)) "" else
    paste(p$frame$size, full_number_text(number)))
}

# fastest growing, biggest decliners, fell the most
growth_cue <- function(p, n, number, word, relative) {
  p$frame$grows <- list(down = is_kind(word, "decline"), relative = relative)
  p$frame$n <- number %||% p$frame$n
  p$frame$subject_next <- TRUE
  noted(p, n, "change", if (is_kind(word, "decline")) "largest falls" else "largest rises")
}

rule_growth <- function(p) {
  one <- seg(p)
  if (is_of_book(one) || !is_kind(one, "growth", "decline")) return(0L)
  down <- is_kind(one, "decline")
  if (down && is_kind(one, "stopped") && !length(means_of(seg(p, ahead(p, 1L)), "metric")) &&
        !is_kind(seg(p, ahead(p, 1L)), "top")) return(0L)
  if (!is.null(p$frame$grows) && p$frame$grows$down != down) return(0L)
  why <- any(c("why", "rise", "fall") %in% names(p$frame$cues))
  if (why) return(noted(p, 1L, "change", if (down) "fall" else "rise"))
  at <- ahead(p, 1L)
  most <- is_kind(seg(p, at), "top") && !is_of_book(seg(p, at))
  fast <- is_kind(seg(p, at), "fastest")
  # "growth in margin" is the growth of a metric; a verb in between tells who.
  p$frame$grows <- list(down = down, relative = fast || identical(one$low, "growth") ||
                          identical(one$low, "growth rate"), plain = !most && !fast)
  noted(p, if (most || fast) at + 1L else 1L, "change", if (down) "falls" else "rises")
}

# 80 %, half
rule_percent <- function(p) {
  one <- seg(p)
  if (one$kind == "percent") {
    p$frame$percents <- c(p$frame$percents, one$value)
    return(noted(p, 1L, "percent", paste(full_number_text(one$value), "%")))
  }
  if (is_kind(one, "half") && !is_of_book(one)) {
    p$frame$percents <- c(p$frame$percents, 50)
    return(noted(p, 1L, "percent", "50 %"))
  }
  0L
}

# four groups, groups of
rule_groups <- function(p) {
  one <- seg(p)
  equal <- c(quartiles = 4, quintiles = 5, deciles = 10, thirds = 3)
  kind <- Filter(function(k) is_kind(one, k), names(equal))
  if (length(kind) && !is_of_book(one)) {
    p$frame$groups <- equal[[kind[1]]]
    return(noted(p, 1L, "equal groups", full_number_text(p$frame$groups)))
  }
  if (one$kind == "number" && is_kind(seg(p, 1L), "groups")) {
    p$frame$groups <- one$value
    p$frame$subject_next <- TRUE
    return(noted(p, 2L, "equal groups", full_number_text(one$value)))
  }
  0L
}

rule_how_many <- function(p) {
  if (!is_kind(seg(p), "how_many")) return(0L)
  p$frame$counting <- TRUE
  p$frame$subject_next <- TRUE
  noted(p, 1L, "how many", "")
}

ask_every <- c(by_day = "day", by_week = "week", by_month = "month", by_quarter = "quarter",
               by_year = "year")

rule_every <- function(p) {
  one <- seg(p)
  kind <- Filter(function(k) is_kind(one, k), names(ask_every))
  if (length(kind)) {
    p$frame$every <- ask_every[[kind[1]]]
    return(noted(p, 1L, "every", p$frame$every))
  }
  if (is_kind(one, "by_weekday")) {
    p$frame$parts <- c(p$frame$parts, paste0("weekday(", name_text(p$book$date), ")"))
    return(noted(p, 1L, "by", "weekday"))
  }
  # by year and territory: the unit alone after "by".
  unit <- sub("s$", "", one$low %||% "")
  by <- is_kind(seg(p, -1L), "by", "and") && isTRUE(p$frame$after_by == p$i)
  if (by && unit %in% ask_every && !is_of_book(one)) {
    p$frame$every <- unit
    p$frame$after_by <- p$i + 1L
    return(noted(p, 1L, "every", unit))
  }
  0L
}

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
  orders <- trade_metric(p$book, "orders")
  each_order <- identical(one$low, "by") && !length(p$frame$fields) && !length(p$frame$size) &&
    !is.null(orders) && identical(metric_meant(p, after), orders)
  if ((identical(one$low, "per") || each_order) && is_quotient(p, after))
    return(take_quotient(p, at))
  fields <- within && length(field_meant(p, after))
  if (within && !fields) return(0L)
  p$frame$role <- if (within) "within" else "by"
  if (identical(one$low, "per")) p$frame$per <- TRUE
  p$frame$after_by <- p$i + at
  measure <- Filter(function(m) m$role == "measure", means_of(after, "field"))
  if (length(measure) && !length(metric_meant(p, after))) {
    p$frame$sort_by <- measure[[1]]$name
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

# "revenue per order": another metric, and no two.
is_quotient <- function(p, after) {
  identical(p$frame$last_thing$type, "metric") && !is.null(metric_meant(p, after)) &&
    (is.null(field_meant(p, after)) || is_kind(after, "order"))
}

take_quotient <- function(p, at) {
  last <- p$frame$last_thing$name
  other <- metric_meant(p, seg(p, at))
  average <- trade_metric(p$book, "average_order")
  known <- identical(last, trade_metric(p$book, "revenue")) &&
    identical(other, trade_metric(p$book, "orders"))
  if (is.null(average) || !known)
    refuse_question(p$text, paste0("The book has no ", spoken(last), " per ", spoken(other)), c(
      i = paste0("Define it: --define 'each=", name_text(last), " / ", name_text(other), "'.")))
  p$frame$metrics <- c(setdiff(p$frame$metrics, last), average)
  noted(p, at + 1L, "metric, by the trade's word", spoken(average))
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

rule_metric <- function(p) {
  one <- seg(p)
  name <- metric_meant(p, one)
  if (is.null(name)) return(0L)
  # A word that is a dimension too is one after "by" or a number of names.
  field <- field_meant(p, one)
  if (is_verb(p, one)) return(0L)
  counted_orders <- isTRUE(p$frame$counting) && identical(p$frame$counted, NULL)
  if (!is.null(field) && isTRUE(p$frame$subject_next) && !counted_orders &&
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
    p$frame$last_thing <- list(type = "field", name = measure[[1]]$name)
    p$frame$measures <- c(p$frame$measures, measure[[1]]$name)
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
  following <- seg(p, after)
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
  p$frame$fields <- c(p$frame$fields, list(list(name = name, role = role, at = p$i,
                                                next_to = isTRUE(p$frame$subject_next))))
  p$frame$subject_next <- FALSE
  noted(p, 1L, if (role == "subject") "whom" else role,
        if (role == "subject") plural_word(field_noun(p$book, name)) else spoken(name))
}

# Texts in quotes after a field are names of it, just as they stand there.
quote_names <- function(p, at, field) {
  while (identical(seg(p, at)$kind, "quoted") && !length(seg(p, at)$means)) {
    value <- seg(p, at)$value
    known <- known_names(p$book, field)
    if (!value %in% known) value <- tryCatch(codes_of(p$book, field, value, known),
                                             ll_error = function(e) value)
    if (!value %in% known) return(invisible())
    p$segments[[p$i + at]]$means <- list(list(
      type = "name", field = field, value = value,
      from = p$book$fields$from[match(field, p$book$fields$name)]))
    at <- at + 1L
    while (identical(seg(p, at)$kind, "comma") || is_kind(seg(p, at), "and", "or")) at <- at + 1L
  }
}

# Names, several joined by commas and words, of one field where that is possible.
rule_names <- function(p) {
  one <- seg(p)
  if (!length(means_of(one, "name")) && one$kind != "quoted") return(0L)
  if (one$kind == "quoted") {
    one$means <- names_called(p$words, plain_words(one$value))
    if (!length(one$means)) return(0L)
    p$segments[[p$i]] <- one
  }
  n <- take_names(p, 0L)
  if (!n) return(0L)
  # "recycled paper": the field said after its name.
  field <- p$frame$names[[length(p$frame$names)]]$field
  own <- vapply(means_of(seg(p, n), "field"), function(m) m$name == field, NA)
  noted(p, if (any(own)) n + 1L else n, "only", names_said(p))
}

# The names taken last: "type garden centre", "not territory Moor or Fen".
names_said <- function(p) {
  last <- p$frame$names[[length(p$frame$names)]]
  mine <- Filter(function(one) one$at == last$at && one$field == last$field, p$frame$names)
  values <- vapply(mine, `[[`, "", "value")
  paste0(if (last$negative) "not ", spoken(last$field), " ",
         and_list(with_labels_of(p$book, last$field, values), 6, "or"))
}

take_names <- function(p, at, negative = FALSE, field = NULL) {
  first <- at
  values <- list()
  repeat {
    one <- seg(p, at)
    found <- means_of(one, "name")
    if (!is.null(field)) {
      own <- Filter(function(m) m$field == field, found)
      if (length(own)) found <- own
    }
    if (!length(found)) break
    values <- c(values, list(list(found = found, segment = one)))
    # on to the next name over a comma, "and", "or"
    next_at <- at + 1L
    both <- is_kind(seg(p, next_at), "and")
    while (!is.null(seg(p, next_at)) && (identical(seg(p, next_at)$kind, "comma") ||
             is_kind(seg(p, next_at), "and", "or"))) next_at <- next_at + 1L
    following <- seg(p, next_at)
    # "Downs Vale": one after the other.
    beside <- next_at == at + 1L && !is.null(one_named_field(one)) &&
      identical(one_named_field(following), one_named_field(one))
    if (next_at == at + 1L && !beside || !length(means_of(following, "name")) ||
          length(means_of(following, "metric"))) {
      at <- at + 1L
      break
    }
    if (both) p$frame$both <- TRUE
    at <- next_at
  }
  if (!length(values)) return(0L)
  chosen <- choose_names(p, values, field)
  before <- seg(p, first - 1L)
  loose <- is.null(before) || !is_kind(before, "of", "not", "only", "by")
  loose <- loose && !length(p$frame$metrics) &&
    !any(vapply(p$frame$fields, function(f) f$role == "subject", NA))
  for (one in chosen) p$frame$names <- c(p$frame$names, list(c(one, list(
    negative = negative, subject = isTRUE(p$frame$subject_next) && !negative,
    loose = loose && !negative, at = p$i + first))))
  p$frame$subject_next <- FALSE
  at - first
}

# The one field that a segment is a name of and nothing else.
one_named_field <- function(one) {
  field <- unique(vapply(means_of(one, "name"), `[[`, "", "field"))
  if (length(field) == 1 && !is_kind(one, names(ask_words()))) field
}

# One meaning for each: of one field for all where there is one, else a question back.
choose_names <- function(p, values, field = NULL) {
  fields <- lapply(values, function(v) unique(vapply(v$found, `[[`, "", "field")))
  common <- Reduce(intersect, fields)
  # Of two fields of a name the one that was asked by is meant.
  asked <- vapply(p$frame$fields, `[[`, "", "name")
  if (length(common) > 1 && any(common %in% asked)) common <- common[common %in% asked]
  lapply(values, function(v) {
    found <- v$found
    if (length(common) == 1) found <- Filter(function(m) m$field == common, found)
    # Just as it was typed, before in the singular or plural.
    exact <- Filter(function(m) plain_words(m$value) == v$segment$low, found)
    if (length(exact)) found <- exact
    distinct <- unique(vapply(found, function(m) paste(m$field, m$value), ""))
    if (length(distinct) > 1) ambiguous_name(p, v$segment, found)
    c(found[[1]][c("field", "value", "from")], list(words = v$segment$text,
                                                    part = isTRUE(v$segment$part)))
  })
}

ambiguous_name <- function(p, segment, found) {
  labels <- vapply(found, function(m) {
    paste(spoken(m$field), with_labels_of(p$book, m$field, m$value))
  }, "")
  typed <- vapply(found, function(m) paste0(spoken(m$field), " \"", one_line(m$value), "\""), "")
  ask_back(p$text, paste0(quoted(segment$text), " may be one of ", length(found)),
           stats::setNames(typed, labels), word = segment$text)
}

# Who, which, whose: what follows, or the verb, tells whom.
rule_who <- function(p) {
  one <- seg(p)
  if (is_of_book(one)) return(0L)
  if (is_kind(one, "who")) {
    p$frame$who <- TRUE
    return(noted(p, 1L, "who", ""))
  }
  if (is_kind(one, "which")) {
    following <- seg(p, ahead(p, 1L))
    if (length(field_meant(p, following)) || length(means_of(following, "name")) ||
          is_kind(following, "part_of_date")) {
      p$frame$which <- TRUE
      p$frame$subject_next <- TRUE
      return(noted(p, 1L, "which", ""))
    }
    if (identical(one$low, "which") && is_kind(following, "of")) return(1L)
  }
  0L
}

rule_deal <- function(p) {
  one <- seg(p)
  if (length(means_of(one, "metric")) && !is_verb(p, one) || length(means_of(one, "name")))
    return(0L)
  kind <- Filter(function(k) is_kind(one, k), c("deal", "sell"))
  if (!length(kind)) return(0L)
  p$frame$deal <- p$frame$deal %||% kind[1]
  p$frame$deal_at <- p$frame$deal_at %||% p$i
  p$frame$deal_word <- p$frame$deal_word %||% one$low
  # "schools that bought": whom it is about.
  before <- seg(p, -1L)
  if (identical(before$low, "that") || is_kind(before, "which", "who")) p$frame$whose <- TRUE
  noted(p, 1L, "what is counted", "")
}

# Words that tell what is asked.
ask_cue_kinds <- c(
  "rank", "leads", "trend", "compare", "beside", "new", "existing", "retention", "stopped", "never",
  "back", "gap", "active", "share", "along_rows", "along_columns", "pareto", "make_up",
  "above_average", "below_average", "high", "low", "quadrants", "tiers", "payout", "score",
  "benchmark", "target", "distribution", "why", "change", "rise", "fall", "into_names",
  "into_price", "bridge", "replaced", "space", "could", "similar", "goes_with", "fields", "lines",
  "latest", "portrait", "check", "holds", "average", "how_much")

rule_cue <- function(p) {
  one <- seg(p)
  if (one$kind != "phrase" || length(means_of(one, "name"))) return(0L)
  for (kind in ask_cue_kinds) if (is_kind(one, kind)) {
    # "ahead of last year" is no lead among names.
    if (kind == "leads" && identical(seg(p, ahead(p, 1L, "of"))$kind, "period") &&
          is.null(p$frame$who) && is.null(p$frame$which)) return(0L)
    if (kind %in% c("could", "how_much") && is_kind(one, "filler")) next
    # "rate" of a metric is no score.
    if (kind == "replaced" && identical(one$low, "what replaced")) p$frame$asks_what <- TRUE
    if (kind == "stopped" || kind == "never") p$frame$subject_next <- TRUE
    # "the new hive" is no new customer.
    things <- if (kind == "new") Filter(function(m) !identical(m$from, customer_field(p$book)),
                                        means_of(seg(p, 1L), "name"))
    if (length(things)) p$frame$new_thing <- TRUE
    return(add_cue(p, 1L, kind))
  }
  0L
}

rule_only <- function(p) {
  if (!is_kind(seg(p), "only") || is_of_book(seg(p))) return(0L)
  p$frame$only <- list(at = p$i, text = seg(p)$text)
  # "bought only feed": and nothing else.
  if (is_kind(seg(p, -1L), "deal", "sell") || is_kind(seg(p, 1L), "deal", "sell"))
    p$frame$nothing_else <- TRUE
  noted(p, 1L, "only", "")
}

# "which month", "best weekday": parts of the date are ranked.
rule_part_of_date <- function(p) {
  one <- seg(p)
  asked <- isTRUE(p$frame$subject_next) || is_kind(seg(p, -1L), "which")
  if (!is_kind(one, "part_of_date") || is_of_book(one) || is.null(p$book$date) || !asked)
    return(0L)
  part <- if (grepl("week", one$low) && grepl("day", one$low)) "weekday" else sub("s$", "", one$low)
  p$frame$parts <- c(p$frame$parts, paste0(part, "(", name_text(p$book$date), ")"))
  p$frame$subject_next <- FALSE
  noted(p, 1L, "whom", paste0(part, "s"))
}

# A number of its own: of lines to show, of the best to compare with.
rule_number <- function(p) {
  one <- seg(p)
  if (one$kind != "number") return(0L)
  if (is_kind(seg(p, 1L), "lines", "order") || length(field_meant(p, seg(p, 1L))) ||
        any(vapply(means_of(seg(p, 1L), "name"), function(m) m$from != "lines", NA))) {
    p$frame$n <- one$value
    p$frame$subject_next <- TRUE
    return(noted(p, 1L, "how many", full_number_text(one$value)))
  }
  0L
}

# Tier=bound, in words: Copper from 0, Brass from 100000; 2% from 100000
rule_bounds <- function(p) {
  if (is.null(p$frame$cues$tiers) && is.null(p$frame$cues$payout)) return(0L)
  one <- seg(p)
  label <- if (one$kind == "percent") paste0(full_number_text(one$value), "%") else
    if (one$kind == "bound_label") one$text
  if (is.null(label)) return(0L)
  from <- seg(p, 1L)
  number <- seg(p, 2L)
  value <- number$value %||% suppressWarnings(as.numeric(number$low %||% NA))
  if (!identical(from$low, "from") || is.null(number) || !isTRUE(is.finite(value))) return(0L)
  p$frame$bounds <- c(p$frame$bounds, stats::setNames(full_number_text(value), label))
  noted(p, 3L, "bound", paste0(label, " from ", full_number_text(value)))
}

rule_set <- function(p) {
  found <- means_of(seg(p), "set")
  if (!length(found)) return(0L)
  p$frame$conditions <- c(p$frame$conditions, paste(name_text(found[[1]]$field), "%in%",
                                                    name_text(found[[1]]$name)))
  noted(p, 1L, "set", found[[1]]$name)
}

# Fillers, and words that join; one that joins nothing after another is no question.
rule_filler <- function(p) {
  one <- seg(p)
  joins <- function(x) !is.null(x) && is_kind(x, "of", "by") && !is_kind(x, "filler")
  if (joins(one) && joins(seg(p, 1L)) && identical(one$low, seg(p, 1L)$low)) return(0L)
  if (is_kind(one, "filler", "of", "and", "or", "which", "who", "order", "data", "but", "could",
              "how_much", "where") && !is_of_book(one)) return(1L)
  0L
}

ask_rules <- list(rule_study, rule_comma, rule_argument, rule_condition, rule_bounds, rule_period,
                  rule_against, rule_year_on_year, rule_not, rule_compare, rule_groups, rule_size,
                  rule_growth, rule_percent, rule_how_many, rule_every, rule_by, rule_who, rule_set,
                  rule_part_of_date, rule_metric, rule_field, rule_names, rule_only, rule_number,
                  rule_deal, rule_cue, rule_filler)
