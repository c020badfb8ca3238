# Parts of calls out of a frame: metrics, periods, conditions, whom it is about, how many. Each part
# of the frame is marked when it is used, so that nothing is dropped.

# A frame's parts, each marked when it is used.
frame_of <- function(frame, book, text) {
  used <- character()
  take <- function(name) {
    used <<- c(used, name, if (name == "names") paste0("name:", seq_along(frame$names)))
    frame[[name]]
  }
  has <- function(cue) {
    hit <- cue %in% names(frame$cues)
    if (hit) used <<- c(used, paste0("cue:", cue))
    hit
  }
  # Names and comparisons one by one, fields by their role: each is used or left for itself.
  mark <- function(what) used <<- c(used, what)
  left <- function() {
    parts <- frame_parts[vapply(frame_parts, function(x) length(frame[[x]]) > 0, NA)]
    cues <- if (length(frame$cues)) paste0("cue:", names(frame$cues))
    roles <- if (length(frame$fields)) paste0("field:", vapply(frame$fields, `[[`, "", "role"))
    names <- if (length(frame$names)) paste0("name:", seq_along(frame$names))
    compared <- if (length(frame$compares)) paste0("compare:", seq_along(frame$compares))
    setdiff(c(parts, cues, roles, names, compared), c(used, "cue:split"))
  }
  list(take = take, has = has, left = left, mark = mark, raw = frame, book = book, text = text,
       env = new.env())
}

frame_parts <- c("n", "size", "grows", "percents", "groups", "counting", "every", "parts",
                 "against", "not_when", "not_deal", "conditions", "bounds", "measures",
                 "given", "sort_by", "nothing_else", "new_thing", "metrics", "whens")

# Cues that colour a question and ask nothing by themselves.
silent_cues <- paste0("cue:", c("how_much", "leads", "rank", "could", "gap"))

check_content <- function(x) {
  f <- x$raw
  there <- length(f$metrics) + length(f$fields) + length(f$names) + length(f$cues) +
    length(f$compares) + length(f$given) + length(f$grows) + length(f$conditions) +
    length(f$parts) + length(f$measures)
  if (!there && is.null(f$who)) unclear_question(x)
}

unclear_question <- function(x) {
  refuse_question(x$text, "This asks for no figure that this book has", c(
    i = paste0("Say what of whom: ", quoted(paste0(
      names(x$book$metrics)[1] %||% "revenue", " by ", dimensions_of(x$book)[1])), "."),
    i = paste0("Metrics: ", and_list(spoken(names(x$book$metrics)), 12), "; dimensions: ",
               and_list(spoken(dimensions_of(x$book)), 12), ".")))
}

# What found no place: quoted as it was asked.
left_over <- function(x, left, call) {
  field <- unique(c(x$raw$measures, x$raw$sort_by))
  if (all(left %in% c("measures", "sort_by")) && length(field) == 1) which_figure(x, field)
  said <- unique(unlist(lapply(left, function(part) words_of_part(x$raw, part))))
  refuse_question(x$text, paste0(
    "It is not clear what ", and_list(quoted(said[nzchar(said)]), 4), " should do where ",
    call$study, " is asked"), c(i = "Leave it out, or ask in two questions."))
}

# A field that no metric of the book is plainly the figure of: which one is meant.
which_figure <- function(x, field) {
  choices <- spoken(c(metrics_short_for(x$book, field), paste(c("total", "average"), field)))
  ask_back(x$text, paste("Which figure of", quoted(spoken(field)), "is meant is not said"),
           stats::setNames(in_quotes(choices), choices), word = x$raw$measure_text)
}

words_of_part <- function(frame, part) {
  if (startsWith(part, "cue:")) return(frame$cues[[substring(part, 5)]]$text)
  if (startsWith(part, "field:")) {
    hit <- Filter(function(one) one$role == substring(part, 7), frame$fields)
    return(spoken(vapply(hit, `[[`, "", "name")))
  }
  if (startsWith(part, "name:")) return(frame$names[[as.integer(substring(part, 6))]]$words)
  if (startsWith(part, "compare:")) {
    one <- frame$compares[[as.integer(substring(part, 9))]]
    return(paste(spoken(one$name), one$op, compared_with(one)))
  }
  switch(part, n = full_number_text(frame$n), size = frame$size,
         every = paste("every", frame$every), against = frame$against,
         parts = sub("[(].*", "", frame$parts),
         metrics = spoken(frame$metrics),
         percents = paste0(full_number_text(frame$percents), " %"),
         whens = vapply(frame$whens, `[[`, "", "words"), measures = spoken(frame$measures),
         new_thing = "new", counting = "how many", grows = "change", not_deal = "did not buy",
         gsub("_", " ", part))
}

assumed <- function(x, ...) x$env$taken <- c(x$env$taken, paste0(...))

asked_metrics <- function(x) {
  metrics <- x$take("metrics")
  if (length(metrics)) metrics else summed_measures(x)
}

# "cost by family": measures that metrics of the book add up, added up; by the metric that is just
# that where there is one. What nobody adds up, such as a rate, is not, nor what may as well be
# short for a metric ("damage" beside a damage rate), unless it is asked for: "total weight by
# family".
summed_measures <- function(x) {
  measures <- c(x$raw$measures, x$raw$sort_by)
  totals <- lapply(measures, sum_of_measure, book = x$book)
  meant <- mapply(function(field, total) {
    isTRUE(x$raw$added) || !is.null(total$metric) ||
      is_added_up(x$book, field) && !length(metrics_short_for(x$book, field))
  }, measures, totals)
  if (!length(meant) || !all(meant)) return(NULL)
  for (part in c("measures", "sort_by")) x$take(part)
  mapply(function(field, total) {
    own <- total$metric %||% paste0("total_", gsub(" ", "_", plain_words(spoken(field))))
    if (is.null(total$metric)) x$env$quotients[[own]] <- total$formula
    assumed(x, quoted(spoken(field)), " is taken for ", spoken(own))
    own
  }, measures, totals, USE.NAMES = FALSE)
}

# list(metric, formula) of a measure in all, `metric` one of the book that is just that or NULL.
sum_of_measure <- function(book, field) {
  alone <- names(Filter(function(one) identical(summed_field(one$tree), field), book$metrics))
  list(metric = if (length(alone)) alone[1], formula = paste0("sum(", name_text(field), ")"))
}

# Whether some metric of the book adds a field up.
is_added_up <- function(book, field) {
  adds <- function(tree) identical(summed_field(tree), field)
  any(vapply(book$metrics, function(one) length(nodes_where(one$tree, adds)) > 0, NA))
}

# Metrics in whose names a field's is a part.
metrics_short_for <- function(book, field) {
  part <- paste0(" ", plain_words(spoken(field)), " ")
  own <- names(book$metrics)
  own[grepl(part, paste0(" ", plain_words(spoken(own)), " "), fixed = TRUE)]
}

first_asked_metric <- function(x) {
  metrics <- asked_metrics(x)
  if (length(metrics) > 1) left_over(x, "metrics", list(study = "one metric"))
  if (length(metrics)) return(metrics)
  if (!length(x$book$metrics)) unclear_question(x)
  names(x$book$metrics)[1]
}

asked_when <- function(x) {
  whens <- x$take("whens")
  if (!length(whens)) return(NULL)
  texts <- unique(vapply(whens, `[[`, "", "text"))
  # "compare this year with last year"
  if (length(texts) == 2 && !is.null(x$raw$cues$compare) && is.null(x$raw$against)) {
    x$has("compare")
    x$env$against <- if (texts[2] == "last year") "year before" else texts[2]
    texts <- texts[1]
  }
  if (length(texts) > 1)
    refuse_question(x$text, paste0("Two periods are named: ", and_list(quoted(texts), 4)), c(
      i = "Say 'against' before the one that is compared with, or ask in two questions."))
  season <- unlist(lapply(whens, `[[`, "season"))
  if (length(season)) assumed(x, season[1], " is taken as ", texts)
  p <- read_period(texts, book_dates(x$book, "when"))
  if (!is.na(p$from) && (p$from > last_day(x$book) || p$to < first_day(x$book)))
    refuse_question(x$text, paste0("The book has no lines in ", p$words, ": it runs from ",
                                   span_text(first_day(x$book), last_day(x$book))))
  texts
}

# The conditions of the names, comparisons of fields and typed conditions; `but` are names used
# otherwise.
asked_where <- function(x, but = list(), in_all = function(one) FALSE) {
  all_hold(c(name_conditions(x, setdiff_names(x$take("names"), but)), field_compares(x, in_all),
             x$take("conditions")))
}

setdiff_names <- function(names, but) {
  same <- function(one, other) identical(c(one$at, one$value), c(other$at, other$value))
  Filter(function(one) !any(vapply(but, same, NA, one)), names)
}

# Names of one field are one or the other of them.
name_conditions <- function(x, names) {
  if (!length(names)) return(NULL)
  for (one in names) if (one$part)
    assumed(x, quoted(one$words), " is taken for ", with_labels_of(x$book, one$field, one$value))
  key <- vapply(names, function(one) paste(one$field, one$negative), "")
  for (group in split(names, key)) either_or_both(x, group)
  vapply(unname(split(names, factor(key, unique(key)))), function(group) {
    values <- unique(vapply(group, `[[`, "", "value"))
    field <- name_text(group[[1]]$field)
    no <- group[[1]]$negative
    literal <- text_literal(values)
    if (length(values) == 1) return(paste(field, if (no) "!=" else "==", literal))
    text <- paste0(field, " %in% c(", paste(literal, collapse = ", "), ")")
    if (no) paste0("!(", text, ")") else text
  }, "")
}

# Names of one field that stand apart: either of them, or both?
either_or_both <- function(x, group) {
  at <- unique(vapply(group, function(one) as.double(one$at), 0))
  values <- unique(vapply(group, `[[`, "", "value"))
  if (length(at) < 2 || length(values) < 2 || group[[1]]$negative) return(invisible())
  words <- unique(vapply(group, `[[`, "", "words"))
  refuse_question(x$text, paste0("Whether either of ", and_list(quoted(words)), " is meant or ",
                                 "both is not clear"), c(
    i = paste0("For either say ", quoted(paste(words, collapse = " or ")), ".")))
}

# Those that are taken of each name in all are no conditions on lines.
field_compares <- function(x, in_all) {
  of <- compares_of(x, function(one) one$type == "field" && !in_all(one))
  vapply(of, function(one) paste(name_text(one$name), one$op, compared_with(one)), "")
}

metric_compares <- function(x) compares_of(x, function(one) one$type == "metric")

# The comparisons that fit, which are used by that.
compares_of <- function(x, fits) {
  hit <- which(vapply(x$raw$compares, fits, NA))
  x$mark(paste0("compare:", hit))
  x$raw$compares[hit]
}

fields_with <- function(x, role) {
  found <- Filter(function(one) one$role %in% role, x$raw$fields)
  x$mark(paste0("field:", role))
  unique(vapply(found, `[[`, "", "name"))
}

# Whom the question is about: a field said, the customers of a type named, or whoever "who" is.
subject_of <- function(x, who = "customer") {
  own <- fields_with(x, "subject")
  if (length(own)) return(own[1])
  for (one in x$raw$names) if (one$subject && one$from %in% dimensions_of(x$book))
    return(one$from)
  if (isTRUE(x$raw$who)) return(who_asked(x))
  # "garden centres" are accounts where they are ranked, counted or have stopped.
  ranks <- any(lengths(mget(c("size", "by_metric", "grows", "not_deal", "whose", "compares",
                               "groups"), x$raw, ifnotfound = list(NULL))) > 0) ||
    any(c("stopped", "never", "new", "back", "pareto") %in% names(x$raw$cues))
  named <- Filter(function(one) {
    one$loose && ranks && one$at < x$raw$deal_at %||% Inf
  }, x$raw$names)
  for (one in named) if (one$from %in% dimensions_of(x$book)) return(one$from)
  by <- fields_with(x, "by")
  if (length(by) == 1) return(by)
  if (who == "always") who_asked(x)
}

who_asked <- function(x) {
  field <- who_field(x)
  if (!is.null(field)) assumed(x, "asked of ", plural_word(field_noun(x$book, field)))
  field
}

who_field <- function(x) {
  sells <- identical(x$raw$deal, "sell") || any(c("leads") %in% names(x$raw$cues)) ||
    !is.null(x$raw$size) && is.null(x$raw$deal)
  if (sells) x$book$people %||% customer_field(x$book) else
    customer_field(x$book) %||% x$book$people
}

# The call, where its fields are all that were named.
refuse_fields <- function(x, used, call) {
  more <- Filter(function(one) !one$name %in% used, x$raw$fields)
  if (length(more)) left_over(x, paste0("field:", more[[1]]$role), call)
  x$mark(paste0("field:", vapply(x$raw$fields, `[[`, "", "role")))
  call
}

default_top <- 10

asked_size <- function(x) {
  size <- x$take("size")
  n <- x$take("n")
  if (is.null(size) && is.null(n)) return(list())
  if (is.null(n)) {
    n <- default_top
    assumed(x, "ten shown")
  }
  stats::setNames(list(n), size %||% "top")
}

# "lowest" by value is the best where low is better; "worst" is last whatever is better.
size_of_metric <- function(x, size, metric) {
  if (!length(size) || !length(metric)) return(size)
  low <- !is.null(x$book$metrics[[metric]]) && x$book$metrics[[metric]]$better == "low"
  if (low && identical(x$raw$size_word, "by value"))
    names(size) <- if (names(size) == "top") "bottom" else "top"
  size
}

call_of <- function(study, ...) list(study = study, args = list(...))

# Arguments that were typed in full.
with_given <- function(x, call) {
  given <- x$take("given")
  known <- names(declaration_of(call$study)$args)
  unknown <- setdiff(names(given), known)
  if (length(unknown))
    refuse_question(x$text, paste0("The study ", call$study, " has no ", spoken(unknown[1])),
                    offer(unknown[1], known, "It has"))
  specs <- declaration_of(call$study)$args
  for (name in names(given)) call$args[[name]] <- typed_value(given[[name]], specs[[name]])
  call
}

# Values in quotes as the command would have them.
typed_value <- function(values, spec) {
  if (spec$type == "metrics") {
    pairs <- regmatches(values, regexec("^([A-Za-z][A-Za-z0-9_.]*) *=([^=].*)$", values))
    own <- lengths(pairs) == 3
    out <- ifelse(own, vapply(pairs, function(one) one[3], ""), values)
    names(out) <- ifelse(own, vapply(pairs, function(one) one[2], ""), "")
    if (!any(own)) names(out) <- NULL
    return(trimmed_keep(out))
  }
  if (spec$type %in% c("words", "sets", "shares", "percents")) return(values)
  if (length(values) == 1) values else paste(values, collapse = ",")
}

trimmed_keep <- function(x) stats::setNames(trimmed(x), names(x))

# The fewest orders that names must have, where that is what a number of orders is for.
asked_min_orders <- function(x) {
  orders <- trade_metric(x$book, "orders")
  hit <- compares_of(x, function(one) {
    one$type == "metric" && one$op == ">=" && identical(one$name, orders)
  })
  if (length(hit) > 1) left_over(x, "compare:1", list(study = "a ranking"))
  if (length(hit)) hit[[1]]$value
}

same_field <- function(names) length(unique(vapply(names, `[[`, "", "field"))) == 1

# An order by its number and nothing asked of it: what is in it.
order_alone <- function(x) {
  f <- x$raw
  of_orders(x) && !length(c(f$metrics, f$fields, f$size, f$cues, f$parts, f$every)) &&
    !isTRUE(f$counting) && is.null(f$who)
}

of_orders <- function(x) {
  length(x$raw$names) &&
    all(vapply(x$raw$names, `[[`, "", "field") %in% identifiers_of(x$book))
}
