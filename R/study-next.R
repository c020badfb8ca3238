# The next question: which questions make sense after an answer and after each of its rows, as calls
# of studies. A study's declaration names them by key, in `next_answer` and `next_row`; here stands
# what each key comes to. What does not fit the book or the row is left out.
#
# A maker takes what the answer tells (see next_context()) and gives list(study, args), or NULL.

#' The next questions
#'
#' After an answer, and after each of its rows, some questions make sense: why did it change, who is
#' inside, the lines, the year before. Each is a call of a study on the same book.
#'
#' @param result (`ll_result`) what a study returned; its book must still be open.
#' @param row (whole number) a row of it; without one, the questions that follow the whole answer.
#' @return A data frame, a row for each question: `words` (what to say for it), `question`, `study`,
#'   `command` (the study and its options, as the command takes them), and `args`, a list of the
#'   arguments of each, for `do.call()` on the study's function.
#' @section Errors: `ll_error_argument` for what is no result, a row that it has not, or a book that
#' is no longer open.
#' @examples
#' book <- ll_demo()
#' top <- ll_standings(book, each = "rep", top = 5, when = "2026-Q2")
#' ll_next(top)[c("words", "command")]
#' ll_next(top, row = 1)[c("words", "command")]
#' @export
ll_next <- function(result, row = NULL) {
  told <- facts(result)
  if (!is.null(row)) row <- check_whole(row, "row", list(from = 1, to = nrow(result)))
  declared <- declaration_of(told$study)
  keys <- if (is.null(row)) declared$next_answer else declared$next_row
  next_of(next_context(result, row), keys)
}

# The best few for the foot of an answer: two after the whole, one after the first row.
first_next <- function(result, most = 3) {
  declared <- declaration_of(facts(result)$study)
  whole <- next_of(next_context(result, NULL), declared$next_answer, most)
  rows <- nrow(result) > 0 && length(declared$next_row)
  first <- if (rows) next_of(next_context(result, 1), declared$next_row, 1)
  kept <- utils::head(whole, most - NROW(first))
  out <- rbind(kept, first[!first$command %in% kept$command, ])
  utils::head(rbind(out, whole[!whole$command %in% out$command, ]), most)
}

next_of <- function(x, keys, most = Inf) {
  out <- list()
  for (key in keys) {
    if (length(out) >= most) break
    made <- next_makers[[key]]$call(x)
    if (is.null(made) || !fits_book(x$book, made)) next
    made$words <- next_makers[[key]]$words
    made$question <- next_makers[[key]]$question(x)
    out <- c(out, list(made))
  }
  next_table(out)
}

next_table <- function(calls) {
  of <- function(part) vapply(calls, `[[`, "", part)
  out <- data.frame(words = of("words"), question = of("question"), study = of("study"),
                    command = vapply(calls, function(one) call_command(one$study, one$args), ""))
  out$args <- lapply(calls, `[[`, "args")
  out[!duplicated(out$command), ]
}

# Whether the study would take the question: what is refused is not proposed.
fits_book <- function(book, call) {
  tryCatch({
    question_of(call$study, book, call$args)
    TRUE
  }, ll_error = function(e) FALSE)
}

# The question that a call puts to a book; an error where the study refuses it.
question_of <- function(study, book, args) {
  room <- get(paste0(study, "_question"), envir = topenv(), mode = "function")
  room(book, check_args(declaration_of(study), args))
}

# What a next question starts from: the call that was answered (study, args), its book and question,
# and of a row the fields and names it stands for, with the condition of its lines as text.
next_context <- function(result, row) {
  book <- book_of(result)
  told <- facts(inner_result(result))
  asked <- told$asked
  question <- question_of(told$study, book, asked)
  x <- list(study = told$study, args = asked, book = book, question = question,
            settings = told$settings, metric = told$settings$metrics[1], when = asked$when,
            where = condition_text(asked$where), n = nrow(result))
  each <- unlist(arg_or_null(question, "each"))
  x$each <- if (length(each) == 1 && !each %in% question$book$made) each
  if (is.null(row)) x else next_row(x, inner_result(result), row)
}

condition_text <- function(where) if (inherits(where, "formula")) formula_text(where) else where

# The row's own part: NULL where it stands for no lines that can be asked for again.
next_row <- function(x, result, row) {
  behind <- facts(result)$behind
  x$row <- row
  x$table <- plain_frame(result)
  cells <- plain_frame(result)[row, , drop = FALSE]
  if (!is.null(behind$rows)) {
    tree <- behind$rows[[row]]
    x$here <- if (!is.null(tree)) asked_text(tree)
    return(x)
  }
  keys <- behind$keys
  if (!is.null(behind$of)) keys[] <- cells[[behind$of]]
  texts <- character()
  for (column in names(keys)) {
    field <- keys[[column]]
    name <- as.character(cells[[column]])
    part <- date_part_of(x$question$book, field)
    if (!is.null(part) && identical(part, x$book$date) && !name %in% c("(none)", "(all)")) {
      x$when <- name
      next
    }
    tree <- name_condition(x$question, field, name, behind$kept[[field]])
    if (is.null(tree)) next
    texts <- c(texts, asked_text(tree))
    # A name of its own, and no gathered row.
    if (tree$kind == "within" && length(tree$set$values) == 1) {
      x$names[field] <- tree$set$values
      x$columns[field] <- column
    }
  }
  x$here <- all_hold(texts)
  x
}

# The date that a field is a part of, as in order_date_month.
date_part_of <- function(book, field) {
  tree <- book$computed[[field]]$tree
  if (identical(tree$kind, "bucket") && tree$arg$kind == "name") tree$arg$name
}

# A condition as it can be typed: one name is told by ==.
asked_text <- function(tree) {
  if (tree$kind == "logic" && tree$op == "&")
    return(paste(vapply(tree$args, asked_text, ""), collapse = " & "))
  if (tree$kind == "within" && is.null(tree$set$name) && is.character(tree$set$values) &&
        length(tree$set$values) == 1)
    return(paste(asked_text(tree$arg), "==", encodeString(tree$set$values, quote = "\"")))
  if (tree$kind == "missing") return(paste0("is.na(", asked_text(tree$arg), ")"))
  # Parts of dates serve without being fields.
  if (tree$kind == "computed" && tree$tree$kind == "bucket") return(tree_text(tree$tree))
  if (tree$kind == "logic" && tree$op == "|")
    return(paste0("(", paste(vapply(tree$args, asked_text, ""), collapse = " | "), ")"))
  tree_text(tree)
}

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

# A period to explain or compare needs dates.
compared_when <- function(x) {
  if (is.null(x$book$date)) return(NULL)
  when <- x$when %||% "this year to date"
  if (identical(when, "all")) "this year to date" else when
}

# The dimension with fewest names but those given, which people split by first.
few_names_dimension <- function(book, but = NULL) {
  fields <- telling_dimensions(book, but, setdiff(names(book$registers), but))
  sizes <- vapply(fields, function(field) as.double(length(known_names(book, field))), 0)
  bands <- vapply(fields, function(field) {
    tree <- key_tree(book, field)
    (if (tree$kind == "computed") tree$tree else tree)$kind %in% c("band", "banded")
  }, NA)
  fields <- fields[sizes >= 2 & !bands]
  if (length(fields)) fields[which.min(sizes[sizes >= 2 & !bands])]
}

# What is sold, and who buys, by the words of their fields; NULL where none tells.
product_field <- function(book, of_row = NULL) {
  kind_of_field(book, "^(item|items|product|products|article|sku|machine|material|title)(_.*)?$")
}

customer_field <- function(book) {
  kind_of_field(book, "^(account|customer|client|buyer|company|member|patient|outlet)s?(_.*)?$")
}

kind_of_field <- function(book, pattern) {
  fields <- dimensions_of(book)
  own <- book$fields$from[match(fields, book$fields$name)]
  hit <- fields[grepl(pattern, tolower(fields)) & own %in% c("lines", "computed")]
  if (length(hit)) hit[1]
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
      args <- carried(x, against = if (takes(x, "against")) x$args$against)
      if (is.null(x$here) || had_before(x, args)) list(study = "drill", args = args)
    }),
  names = next_maker(
    "who", function(x) "which names made the change?",
    function(x) {
      x$when <- compared_when(x)
      by <- customer_field(x$book) %||% few_names_dimension(x$book)
      if (!is.null(x$when) && length(by)) list(study = "bridge", args = carried(
        x, by = by, into = "names", against = if (takes(x, "against")) x$args$against))
    }),
  steps = next_maker(
    "by each", function(x) "what made the change, name by name?",
    function(x) {
      x$when <- compared_when(x)
      by <- x$each %||% few_names_dimension(x$book)
      if (!is.null(x$when) && length(by)) list(study = "bridge", args = carried(
        x, by = by, against = if (takes(x, "against")) x$args$against))
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
      if (is.null(x$each) || !is.null(x$row)) return(list(study = "standings",
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
      args <- carried(x, each = each, never = "leave")
      args$when <- NULL
      if (!is.null(each)) list(study = "lapsed", args = args)
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
