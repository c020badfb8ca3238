# What segments of a question mean one after the other. Each rule looks at the place where the
# reader stands, notes in the frame what it took the words for, and tells how many segments it took;
# the first rule that takes any has them. Here are those of what is asked, and the list of all.

# Reads all segments into a frame; p holds the reader's place.
read_frame <- function(read, book, words) {
  frame <- new_frame()
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
  # What follows is bought or sold, and not who is asked for.
  p$frame$subject_next <- FALSE
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
  "latest", "portrait", "check", "holds", "average", "different", "how_much")

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
  # "bought only feed": and nothing else.
  if (is_kind(seg(p, -1L), "deal", "sell") || is_kind(seg(p, 1L), "deal", "sell"))
    p$frame$nothing_else <- TRUE
  noted(p, 1L, "only", "")
}

# Fillers, and words that join; one that joins nothing after another is no question.
rule_filler <- function(p) {
  one <- seg(p)
  joins <- function(x) !is.null(x) && is_kind(x, "of", "by") && !is_kind(x, "filler")
  if (joins(one) && joins(seg(p, 1L)) && identical(one$low, seg(p, 1L)$low)) return(0L)
  if (is_kind(one, "added")) p$frame$added <- TRUE
  if (is_kind(one, "filler", "of", "and", "or", "which", "who", "order", "data", "but", "could",
              "how_much", "where") && !is_of_book(one)) return(1L)
  0L
}

ask_rules <- list(rule_study, rule_comma, rule_argument, rule_condition, rule_bounds, rule_period,
                  rule_against, rule_year_on_year, rule_not, rule_compare, rule_groups, rule_size,
                  rule_growth, rule_percent, rule_how_many, rule_every, rule_by, rule_who,
                  rule_set, rule_part_of_date, rule_order, rule_metric, rule_field, rule_names,
                  rule_only, rule_number, rule_deal, rule_cue, rule_filler)
