# What each key of `next_answer` and `next_row` comes to. A maker takes what the answer tells (see
# next_context()) and gives list(study, args), or NULL where it makes no sense.

# The conditions of the answer and of the row, or of all but the row.
narrowed_by <- function(x, but = FALSE) {
  here <- x$here
  if (but && !is.null(here)) here <- paste0("!(", here, ")")
  all_hold(c(x$where, here))
}

# Arguments that carry over: which lines, and the first metric.
carried <- function(x, ..., metrics = x$args$metrics[1], against = NULL) {
  Filter(Negate(is.null), list(..., metrics = metrics, where = narrowed_by(x), when = x$when,
                               against = against))
}

# The call itself with some arguments otherwise.
same_call <- function(x, ...) {
  args <- utils::modifyList(x$args, list(...))
  list(study = x$study, args = args)
}

takes <- function(x, name) name %in% names(declaration_of(x$study)$args)

# What had nothing in the period compared with has no growth to be explained.
had_before <- function(x, args) {
  question <- tryCatch(question_of("drill", x$book, args), ll_error = function(e) NULL)
  if (is.null(question)) return(FALSE)
  before <- fold_question(question, character(), where = question$asked$where_before)$values[[1]]
  isTRUE(before > 0)
}

# The period in which a row has lines: what is gone now has them in the period compared with.
when_there <- function(x) {
  before <- x$question$asked$before
  if (is.null(before) || is.null(x$here)) return(x$when)
  question <- tryCatch(question_of("total", x$book, carried(x)), ll_error = function(e) NULL)
  if (is.null(question)) return(x$when)
  if (sum(fold_question(question, character())$lines) > 0) return(x$when)
  paste0(before$from, "/", before$to)
}

# A period to explain or compare needs dates.
compared_when <- function(x) {
  if (is.null(x$book$date)) return(NULL)
  when <- x$when %||% "this year to date"
  if (identical(when, "all")) "this year to date" else when
}

identifiers_of_book <- function(book) book$fields$name[book$fields$role == "identifier"]

# The dimension with fewest names but those given, which people split by first.
few_names_dimension <- function(book, but = NULL) {
  fields <- setdiff(telling_dimensions(book, but, setdiff(names(book$registers), but)),
                    book$currencies$field)
  sizes <- vapply(fields, function(field) as.double(length(known_names(book, field))), 0)
  bands <- vapply(fields, function(field) {
    tree <- key_tree(book, field)
    (if (tree$kind == "computed") tree$tree else tree)$kind %in% c("band", "banded")
  }, NA)
  fields <- fields[sizes >= 2 & !bands]
  if (length(fields)) fields[which.min(sizes[sizes >= 2 & !bands])]
}

# Of a row with one name, the dimension that people look into next: what it bought, who bought it.
inner_field <- function(x) {
  field <- names(x$names)[1]
  customer <- customer_field(x$book)
  product <- product_field(x$book)
  used <- c(names(x$names), x$args$each)
  wanted <- if (identical(field, customer)) product else customer
  setdiff(c(wanted, product, few_names_dimension(x$book, used)), used)[1]
}

# The names of a field that the answer's rows show.
shown_beside <- function(x, field) {
  names <- as.character(x$table[[x$columns[[field]]]])
  gathered <- "^(\\(none\\)$|\\(all\\)$|everyone else \\()"
  unique(own_names(names[!is.na(names) & !grepl(gathered, names)]))
}

one_name <- function(x) length(x$names) == 1 && !names(x$names) %in% x$question$book$made

about_row <- function(x) {
  if (is.null(x$here) && is.null(x$when)) return("")
  # A segment is called by its conditions.
  segment <- x$table$segment[x$row]
  if (length(segment)) return(paste(" of", one_line(segment)))
  if (!length(x$names)) return(if (!is.null(x$here)) " of this row" else "")
  said <- vapply(names(x$names), function(field) {
    with_labels_of(x$book, field, x$names[[field]])
  }, "")
  paste(" of", and_list(said))
}

asked_of <- function(x, before, after) paste0(before, sub("^ of", "", about_row(x)), after)

next_maker <- function(words, question, call) list(words = words, question = question, call = call)

metric_said <- function(x) spoken(x$metric %||% names(x$book$metrics)[1] %||% "it")

next_makers <- list(
  why = next_maker(
    "why", function(x) paste0("why did ", metric_said(x), about_row(x), " change?"),
    function(x) {
      x$when <- compared_when(x)
      if (is.null(x$when)) return(NULL)
      args <- carried(x, against = x$args$against)
      if (is.null(x$here) || had_before(x, args)) list(study = "drill", args = args)
    }),
  names = next_maker(
    "who", function(x) "which names made the change?",
    function(x) {
      x$when <- compared_when(x)
      by <- customer_field(x$book) %||% few_names_dimension(x$book)
      if (!is.null(x$when) && length(by)) list(study = "bridge", args = carried(
        x, by = by, into = "names", against = x$args$against))
    }),
  steps = next_maker(
    "by each", function(x) "what made the change, name by name?",
    function(x) {
      x$when <- compared_when(x)
      by <- x$each %||% few_names_dimension(x$book)
      if (!is.null(x$when) && length(by)) list(study = "bridge", args = carried(
        x, by = by, against = x$args$against))
    }),
  year_before = next_maker(
    "the year before", function(x) "how was it the year before?",
    function(x) {
      if (!takes(x, "against") || !is.null(x$args$against) || is.null(x$when)) return(NULL)
      same_call(x, when = x$when, against = "year before")
    }),
  over_time = next_maker(
    "over time", function(x) paste0("how did ", metric_said(x), about_row(x), " run?"),
    function(x) {
      if (is.null(x$book$date)) return(NULL)
      x$when <- if (is.null(x$here)) x$args$when
      list(study = "trend", args = carried(x))
    }),
  split = next_maker(
    "split", function(x) "how does it split?",
    function(x) {
      by <- few_names_dimension(x$book, c(x$each, names(x$names)))
      if (!length(by)) return(NULL)
      # Orders and other numbers are no rows of a table.
      single <- x$each %in% identifiers_of_book(x$book)
      if (is.null(x$each) || !is.null(x$row) || single) return(list(study = "standings",
                                                          args = carried(x, each = by)))
      list(study = "crosstab", args = carried(x, rows = x$each, columns = by))
    }),
  share = next_maker(
    "80 %", function(x) "which few make up most of it?",
    function(x) if (!is.null(x$each)) list(study = "pareto", args = carried(x, each = x$each))),
  all = next_maker(
    "all", function(x) "all of them?",
    function(x) {
      if (is.null(x$args$top) && is.null(x$args$bottom)) return(NULL)
      out <- same_call(x)
      out$args[c("top", "bottom")] <- NULL
      out
    }),
  gone = next_maker(
    "who stopped", function(x) "who has stopped?",
    function(x) {
      each <- x$each %||% customer_field(x$book)
      if (is.null(each)) return(NULL)
      args <- carried(x, each = each, never = "leave")
      args$when <- NULL
      # Of two periods: who was there in the one and is not in the other.
      spans <- x$question$asked[c("before", "now")]
      if (!is.null(spans$before) && !is.null(spans$now) && !anyNA(c(spans$now$from, spans$now$to)))
        args[c("active", "inactive")] <- lapply(spans, function(p) paste0(p$from, "/", p$to))
      list(study = "lapsed", args = args)
    }),
  new = next_maker(
    "who is new", function(x) "how much comes from new ones?",
    function(x) {
      each <- x$each %||% customer_field(x$book)
      args <- carried(x, each = each)
      args$when <- NULL
      if (!is.null(each)) list(study = "cohorts", args = args)
    }),
  health = next_maker("what is wrong", function(x) "what is wrong with the data?",
                      function(x) list(study = "check", args = list())),
  inside = next_maker(
    "who is inside", function(x) paste0("what is inside", sub("^ of", "", about_row(x)), "?"),
    function(x) {
      if (is.null(x$here)) return(NULL)
      each <- inner_field(x)
      x$when <- when_there(x)
      if (length(each) && !is.na(each)) list(study = "standings", args = carried(
        x, each = each, top = 10, against = if (takes(x, "against") && !is.null(x$when))
          x$args$against))
    }),
  only = next_maker(
    "only this", function(x) paste0("the same", about_row(x), " alone?"),
    function(x) {
      if (is.null(x$here) || !takes(x, "where") || any(names(x$names) %in% x$args$each))
        return(NULL)
      out <- same_call(x)
      out$args$where <- narrowed_by(x)
      if (takes(x, "when") && !is.null(x$when)) out$args$when <- x$when
      out
    }),
  without = next_maker(
    "without this", function(x) "the same without it?",
    function(x) {
      if (is.null(x$here) || !takes(x, "where") || isTRUE(x$n < 2)) return(NULL)
      out <- same_call(x)
      out$args$where <- narrowed_by(x, but = TRUE)
      out
    }),
  full = next_maker(
    "in full", function(x) asked_of(x, "what is there to know about", "?"),
    function(x) {
      if (!one_name(x)) return(NULL)
      args <- carried(x, each = names(x$names), name = x$names[[1]])
      # The name is the condition.
      args$where <- x$where
      list(study = "portrait", args = args)
    }),
  beside = next_maker(
    "side by side", function(x) "how does it compare with another one?",
    function(x) {
      if (!one_name(x)) return(NULL)
      field <- names(x$names)
      other <- setdiff(shown_beside(x, field), x$names)
      by <- few_names_dimension(x$book, field)
      if (!length(other) || !length(by)) return(NULL)
      args <- carried(x, each = field, names = c(x$names[[1]], other[1]), by = by)
      args$where <- x$where
      list(study = "versus", args = args)
    }),
  lines = next_maker(
    "the lines", function(x) "which lines are behind it?",
    function(x) {
      if (is.null(x$row)) return(list(study = "detail", args = c(carried(x), list(top = 20))))
      x$when <- when_there(x)
      if (!is.null(x$here) || !is.null(x$when))
        list(study = "detail", args = c(carried(x), list(top = 20)))
    }),
  replaced = next_maker(
    "what replaced it", function(x) paste0("what replaced", sub("^ of", "", about_row(x)), "?"),
    function(x) {
      customer <- customer_field(x$book)
      if (!one_name(x) || is.null(customer) || identical(names(x$names), customer)) return(NULL)
      x$when <- compared_when(x)
      args <- carried(x, each = customer, product = names(x$names), old = x$names[[1]])
      args["where"] <- list(x$where)
      args <- Filter(Negate(is.null), args)
      if (!is.null(x$when)) list(study = "substitution", args = args)
    }),
  could_buy = next_maker(
    "what else could they buy", function(x) asked_of(x, "what else could", " buy?"),
    function(x) {
      product <- product_field(x$book)
      if (!one_name(x) || !identical(names(x$names), customer_field(x$book)) || is.null(product))
        return(NULL)
      args <- carried(x, each = names(x$names), product = product, name = x$names[[1]])
      args["where"] <- list(x$where)
      list(study = "whitespace", args = Filter(Negate(is.null), args))
    }))
