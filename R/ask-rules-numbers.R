# Rules for numbers: what is compared with them, how many are asked for, shares, groups, bounds.

ask_compares <- c(above = ">", no_less = ">=", below = "<", at_most = "<=")

# over 1,000 net; at least 20 orders; revenue below 500
rule_compare <- function(p) {
  kind <- Filter(function(k) is_kind(seg(p), k), names(ask_compares))
  if (!length(kind)) return(0L)
  at <- ahead(p, 1L)
  number <- as_number(p, seg(p, at))
  value <- compared_number(number)
  if (is.null(value)) return(0L)
  after <- ahead(p, at + 1L, "of")
  what <- compared_thing(p, seg(p, after))
  n <- after + 1L
  # "more than 30 times": in so many orders.
  orders <- trade_metric(p$book, "orders")
  if (is.null(what) && is_kind(seg(p, at + 1L), "times") && !is.null(orders)) {
    what <- list(type = "metric", name = orders)
    n <- at + 2L
  }
  # "more than 5 items": how many names there are is no metric of the book.
  if (is.null(what) && length(field_meant(p, seg(p, after)))) return(0L)
  if (is.null(what)) {
    n <- at + 1L
    what <- compared_before(p, number)
    if (is.null(what)) return(0L)
  }
  if (number$kind == "percent") what <- as_rate(p, what, seg(p, at))
  with <- identical(seg(p, -1L)$low, "with") || identical(seg(p, -1L)$low, "having")
  p$frame$compares <- c(p$frame$compares, list(c(what, list(op = ask_compares[[kind[1]]],
                                                            value = value, with = with,
                                                            parameter = number$parameter))))
  noted(p, n, "condition", paste(spoken(what$name), ask_compares[[kind[1]]],
                                 if (is.null(number$parameter)) full_number_text(value) else
                                   paste0(spoken(number$parameter), ", ", full_number_text(value))))
}

# The value of what stands there; NULL where it is no number. "2024" is one, too.
compared_number <- function(number) {
  if (is.null(number) || !number$kind %in% c("number", "percent", "period")) return(NULL)
  value <- if (number$kind == "period") suppressWarnings(as.numeric(number$low)) else number$value
  if (is.na(value)) return(NULL)
  if (number$kind == "percent") of_hundred(value) else value
}

# The metric or measure just before, which is then no figure of the answer; where none was said and
# somebody bought, or names are asked for ("accounts over 5,000"), what is counted first.
compared_before <- function(p, number) {
  what <- p$frame$last_thing
  whom <- any(vapply(p$frame$fields, function(one) one$role == "subject", NA))
  if (is.null(what) && (!is.null(p$frame$deal) || whom) && length(p$book$metrics) &&
        number$kind != "percent")
    what <- list(type = "metric", name = names(p$book$metrics)[1])
  if (identical(what$type, "metric")) p$frame$metrics <- setdiff(p$frame$metrics, what$name)
  if (identical(what$type, "field")) p$frame$measures <- setdiff(p$frame$measures, what$name)
  what
}

# What a percentage is compared with is a rate: of the profit its share of revenue, where the book
# has that; of other amounts it is none.
as_rate <- function(p, what, number) {
  unit <- if (what$type == "metric") p$book$metrics[[what$name]]$unit else "percent"
  if (identical(unit, "percent")) return(what)
  rate <- if (identical(what$name, trade_metric(p$book, "profit")))
    trade_metric(p$book, "profit_rate")
  if (!is.null(rate)) return(list(type = "metric", name = rate))
  rates <- Filter(function(name) identical(p$book$metrics[[name]]$unit, "percent"),
                  names(p$book$metrics))
  refuse_question(p$text, paste0(quoted(number$text), " is compared with ", spoken(what$name),
                                 ", which is no percentage"), c(
    i = paste0("Give an amount", if (length(rates))
      paste0(", or say it of ", and_list(quoted(spoken(rates)), 4)), ".")))
}

# A number, or a parameter of the book in its place: "over the big order".
as_number <- function(p, one) {
  own <- means_of(one, "parameter")
  if (!length(own)) return(one)
  list(kind = "number", value = p$book$parameters[[own[[1]]$name]], parameter = own[[1]]$name)
}

# The number of a comparison as it stands in a condition.
compared_with <- function(one) {
  if (is.null(one$parameter)) full_number_text(one$value) else name_text(one$parameter)
}

# A metric, or a measure of the lines, that a number is compared with.
compared_thing <- function(p, one) {
  if (is.null(one)) return(NULL)
  metric <- metric_meant(p, one)
  if (!is.null(metric)) return(list(type = "metric", name = metric))
  field <- Filter(function(m) m$role == "measure", means_of(one, "field"))
  if (length(field)) list(type = "field", name = field[[1]]$name)
}

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
  if (is_kind(following, "decline", "growth") && !is_of_book(following)) {
    # "the lowest growth" is last by it; the smallest falls are asked in no way.
    low <- !is_kind(one, "best", "top", "first_names")
    if (low && is_kind(following, "decline")) return(0L)
    return(growth_cue(p, ahead(p, n) + 1L, number, following,
                      following$low %in% c("growth", "growth rate"), low))
  }
  p$frame$size <- if (is_kind(one, "best", "top", "first_names")) "top" else "bottom"
  p$frame$size_word <- if (is_kind(one, "best", "worst")) "by goodness" else "by value"
  p$frame$n <- number %||% p$frame$n
  # "who buys most hives": who it is about is said before.
  p$frame$subject_next <- !isTRUE(p$frame$who)
  # "the largest order" is a single one, "most orders" are counted.
  if (is.null(number) && one$low != "first" && any(seg(p, n)$low %in% one_order(p$book)))
    p$frame$cues$holds <- list(at = p$i, text = one$text)
  noted(p, n, paste(p$frame$size, "ranks"), if (is.null(number)) "" else
    paste(p$frame$size, full_number_text(number)))
}

# What one order is called.
one_order <- function(book) {
  c("order", if (!is.null(book$order)) plain_words(field_noun(book, book$order)))
}

# fastest growing, biggest decliners, fell the most
growth_cue <- function(p, n, number, word, relative, low = FALSE) {
  p$frame$grows <- list(down = low || is_kind(word, "decline"), relative = relative)
  p$frame$n <- number %||% p$frame$n
  p$frame$subject_next <- TRUE
  told <- if (low) "lowest rises" else if (is_kind(word, "decline")) "largest falls"
  noted(p, n, "change", told %||% "largest rises")
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
  p$frame$counting_word <- seg(p)$low
  p$frame$subject_next <- TRUE
  noted(p, 1L, "how many", "")
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
