# What studies share: a question put to a book, its notes and its proof.

# A question: arguments checked against the book, all problems together. `dimensions` names the
# arguments that are dimensions. Gives list(book, metrics, first, asked, and each of those).
ask_book <- function(book, args, dimensions = character(), metrics = args$metrics) {
  # Checked before the thunks below look at them, or each would meet the same error again.
  force(args)
  source_begin(book$source)
  sliced <- book
  picked <- list()
  found <- together(
    function() {
      for (what in dimensions) {
        made <- pick_dimensions(sliced, args[[what]], what)
        sliced <<- made$book
        if (length(made$names)) picked[[what]] <<- made$names
      }
    },
    function() pick_metrics(book, metrics),
    function() narrow(book, args$where, args$when, args$against))
  q <- c(args[setdiff(names(args), c(dimensions, "metrics", "where", "when", "against"))], picked,
         list(metrics = found[[2]]$metrics, asked = found[[3]],
              dimensions = unlist(picked, use.names = FALSE)))
  # detail has an argument of that name.
  q$direction <- q$first
  q$first <- q$metrics[[1]]
  q$book <- found[[2]]$book
  q$book[c("fields", "computed")] <- sliced[c("fields", "computed")]
  check_compared(q$metrics, q$asked)
  # A brief outlives a name; what is typed now does not.
  if (is.null(book$read))
    for (tree in question_trees(q, FALSE)) check_condition_names(q$book, tree)
  q
}

# change() and growth() need the other period.
check_compared <- function(metrics, asked) {
  needy <- Filter(function(m) m$against, metrics)
  if (length(needy) && is.null(asked$before))
    ll_abort(c(paste0("The metric ", quoted(needy[[1]]$name),
                      " compares two periods; say which the other is."),
               i = "For example when = \"2026-Q2\", against = \"year before\"."), "argument")
}

# A study that looks at one period only has no use for change() and growth().
refuse_compared <- function(q, study) {
  needy <- Filter(function(m) m$against, q$metrics)
  if (length(needy))
    ll_abort(paste0("The metric ", quoted(needy[[1]]$name), " compares two periods, which ", study,
                    " does not do; standings does."), "argument")
  q
}

refuse_at_least <- function(book, args) {
  if (!is.null(args$at_least) && book$grain == "summed")
    ll_abort("'at_least' counts orders, and these lines were added up before (grain: summed).",
             "argument")
}

# How many orders a name has, or lines where the book has no orders.
order_count <- function(book) {
  if (is.null(book$order)) node("aggregate", fn = "count") else distinct_names(book$order)
}

# The first ("min") or last ("max") day of lines.
extreme_day <- function(book, fn) {
  node("aggregate", fn = fn, arg = node("name", name = book$date), where = NULL, type = "date")
}

# What order_count() counts.
order_word <- function(book) if (is.null(book$order)) "line" else "order"

distinct_names <- function(field) {
  node("aggregate", fn = "distinct", arg = node("name", name = field), where = NULL)
}

refuse_several <- function(q, what) {
  if (length(q$metrics) > 1)
    ll_abort(paste0(what, " one metric; give one in 'metrics'."), "argument")
}

refuse_pairs <- function(q, what) {
  if (length(q$each) > 1)
    ll_abort(paste0(quoted(what), " works with one dimension in 'each'."), "argument")
}

# Single lines have a value where the metric is the sum of a formula.
refuse_no_sum <- function(metric) {
  tree <- metric$tree
  plain <- tree$kind == "aggregate" && tree$fn == "sum" && is.null(tree$where) &&
    tree$arg$kind != "per"
  if (!plain)
    ll_abort(c(paste0("Lines have no ", spoken(metric$name), " each: over lines the metric must ",
                      "be the sum of a formula, such as sum(net)."),
               i = "Say what to count: each = \"account\", or the order's field."), "argument")
}

# The fold of a question over some of its dimensions; totals as in source_fold().
fold_question <- function(q, keys, totals = list(), extra = list(), where = q$asked$where_now) {
  fold_metrics(q$book, keys, q$metrics, where, extra, q$asked$where_before, q$asked$where_now,
               totals)
}

# A fold by names, with `none` (lines without a name of `each`), `orders` (where asked for), `few`
# (fewer orders than `at_least`) and the total.
fold_each <- function(q, keys = q$each, where = q$asked$where_now, orders = !is.null(q$at_least)) {
  f <- fold_question(q, keys, list(character()),
                     if (orders) list(.orders = order_count(q$book)) else list(), where)
  f$none <- Reduce(`|`, lapply(f$keys[q$each], is.na))
  f$orders <- f$values$.orders
  f$few <- if (is.null(q$at_least)) logical(f$rows) else f$orders < q$at_least
  f$total <- as.list(f$totals[[1]]$values[1, names(q$metrics), drop = FALSE])
  f
}

# A quotient on few orders is pointed out.
wants_orders <- function(q) {
  !is.null(q$at_least) || averages(q$first$tree) && q$book$grain != "summed"
}

# A study's own column of a word that many books have as a metric (orders, month): it steps aside
# where that is asked for. Other words are seen to in result-guard.R.
own_column <- function(word, q, study) {
  if (word %in% names(q$metrics)) paste0(study, "_", word) else word
}

own_column_note <- function(word, q, study) {
  if (word %in% names(q$metrics)) aside_note(word, own_column(word, q, study), study)
}

# Every tree of a question: its dimensions, condition (checked when it was read) and metrics.
question_trees <- function(q, condition = TRUE) {
  c(lapply(q$dimensions, key_tree, book = q$book), if (condition) list(q$asked$only),
    lapply(q$metrics, `[[`, "tree"))
}

# A brief's formulas may name what is no longer there.
unknown_name_notes <- function(q) {
  if (is.null(q$book$read)) return(NULL)
  found <- unlist(lapply(question_trees(q, FALSE), unknown_names, book = q$book), recursive = FALSE)
  text <- unlist(lapply(found, function(one) {
    near <- nearest(one$name, one$known, 1)
    paste0("No ", spoken(one$field), " is called ", shown(one$name),
           if (length(near)) paste0(" (nearest: ", quoted(near), ")"),
           ", which a formula names: it counts no line.")
  }))
  note("unknown_name", unique(text))
}

# The lines of a question in memory, with its fields and those in `more`; lines that were there
# already are all there.
lines_here <- function(q, more = NULL, where = q$asked$where_now, first = NULL) {
  trees <- c(question_trees(q), lapply(more, key_tree, book = q$book))
  source_here(q$book$source, trees, where, first)
}

# Every field that a question uses.
names_used <- function(q) unique(unlist(lapply(question_trees(q), names_in)))

question_notes <- function(q) {
  rbind(part_period_notes(q$book, q$asked),
        missing_notes(q), ratio_notes(q$metrics),
        register_notes(q$book, names_used(q)), no_lines_notes(q$book, q$asked), undated_note(q),
        unknown_name_notes(q),
        opening_notes(q$book))
}

# A question by the periods of the book's date, `every` long; the parts of the date are its
# dimension `period`.
ask_by_period <- function(book, args, study, dimension) {
  dates <- book_dates(book, study)
  check_every(book, args$every)
  args$period <- paste0(args$every, "(", name_text(book$date), ")")
  q <- refuse_compared(ask_book(book, args, c("period", dimension)), study)
  q$calendar <- dates$calendar
  q$dates <- dates
  q
}

# The first and last day of a question that has to lie within the book's.
covered_stretch <- function(q, first, last) {
  q$first_day <- max(first, q$asked$now$from)
  q$last_day <- min(last, q$asked$now$to)
  if (q$first_day > q$last_day)
    ll_abort(paste0("The book has no dates in ", span_text(q$asked$now$from, q$asked$now$to), "."),
             "data")
  q
}

# The raw lines of a question, or of the period it compares with.
raw_lines <- function(q, period = q$asked$period_now) {
  plain_lines(q$book$source, q$book$aside, q$asked$only, period)
}

# Lines accounted for, totals by the second route, registers, the ledger.
prove_question <- function(q, counted, whole, exact, plain = raw_lines(q)) {
  # Only a metric that compares the periods itself needs the other one's lines.
  compares <- any(vapply(q$metrics, function(m) m$against, NA))
  plain_before <- if (compares) raw_lines(q, q$asked$period_before)
  rbind(prove_lines(q$book, q$asked, counted, plain),
        prove_totals(q$book, q$metrics, whole, exact, plain, plain_before),
        prove_registers(q$book, names_used(q)), prove_control(q$book))
}

# The parts of a reading that every study has after its own beginning.
reading_tail <- function(q, ...) {
  parts <- c(period_reading(q$book, q$asked), condition_reading(q$asked),
             if (!is.null(q$asked$before)) paste("against", against_words(q$asked$before)),
             band_reading(question_trees(q)), set_reading(question_trees(q)), ...)
  paste0(paste(parts, collapse = "; "), ".")
}

# The settings every study has; empty ones are left out.
question_settings <- function(q, ...) {
  period <- function(p) if (!is.null(p)) list(from = format(p$from), to = format(p$to))
  Filter(Negate(is.null), list(
    ..., metrics = names(q$metrics), formulas = lapply(q$metrics, `[[`, "text"),
    better = lapply(q$metrics, `[[`, "better"),
    where = if (!is.null(q$asked$only)) tree_text(q$asked$only), when = period(q$asked$now),
    against = period(q$asked$before)))
}

note <- function(kind, ...) {
  text <- paste0(...)
  new_notes(rep(kind, length(text)), text)
}

# The names of a dimension in the order people expect: parts of dates and bands in their own, others
# by the values given, best first; "(none)" last.
natural_order <- function(book, field, names, value = NULL) {
  tree <- key_tree(book, field)
  if (tree$kind == "computed") tree <- tree$tree
  own <- switch(tree$kind, bucket = if (tree$part == "weekday") weekday_levels else
    sort(unique(names), method = "radix"), band = , banded = shown_names(tree$labels))
  if (is.null(own)) {
    by_name <- order(names, method = "radix")
    own <- if (is.null(value)) names[by_name] else
      names[by_name][order(-value[by_name], na.last = TRUE)]
  }
  c(setdiff(own[own %in% names], "(none)"), intersect(names, "(none)"))
}

# The condition of every name of a dimension but these, as shown, lines without one left out.
all_but <- function(q, field, names) {
  names <- own_names(names)
  key <- bind_scope(key_tree(q$book, field), q$asked$where_now)
  unmet(node("logic", op = "|", args = list(
    node("within", arg = key, set = node("set", values = names)), node("missing", arg = key))))
}

# The condition of some rows of names of `each`.
these_names <- function(q, keys) {
  one_of_rows(keys, unname(key_trees(q$book, names(keys), q$asked$where_now)))
}

# A condition that holds for lines whose keys (trees) are one of these rows of names, a missing one
# for lines without.
one_of_rows <- function(keys, trees) {
  one_key <- function(values) {
    key <- trees[[1]]
    none <- is.na(values)
    named <- node("within", arg = key, set = node("set", values = values[!none]))
    or_all(c(if (any(none)) list(node("missing", arg = key)), if (!all(none) || !length(none))
      list(named)))
  }
  # No rows at all: a condition that no line meets.
  if (length(keys) == 1 || !length(keys[[1]])) return(one_key(unique(keys[[1]])))
  or_all(lapply(unique(keys[[1]]), function(value) {
    mine <- keys[[1]] %in% value
    and_also(one_key(value), one_of_rows(lapply(keys[-1], `[`, mine), trees[-1]))
  }))
}

# Halved each time, so that many conditions nest no deeper than their logarithm.
or_all <- function(trees) {
  if (length(trees) == 1) return(trees[[1]])
  half <- length(trees) %/% 2
  node("logic", op = "|", args = list(or_all(trees[seq_len(half)]), or_all(trees[-seq_len(half)])))
}

# All dimensions but those given and fields that only name a register's names once more; of the
# registers in `own` those too are kept.
telling_dimensions <- function(book, but, own = NULL) {
  labels <- unlist(lapply(setdiff(names(book$registers), own), label_fields, book = book))
  setdiff(dimensions_of(book), c(but, labels))
}

# Fields of a register that tell (nearly) every name from every other: the first is its label.
label_fields <- function(book, dimension) {
  table <- book$registers[[dimension]]$table
  unique_to <- vapply(table, function(x) {
    is.character(x) && length(unique(x)) >= .9 * length(x)
  }, NA)
  fields <- named_once(book$fields[book$fields$from == dimension, ])
  fields$name[fields$column %in% names(table)[unique_to]]
}

# "account", "rep and territory"
each_word <- function(q) paste(spoken(q$each), collapse = " and ")

# "Accounts", "Reps by territory": how a reading begins.
each_words <- function(q) {
  paste0(capital(plural_word(spoken(q$each[1]))),
         if (length(q$each) > 1) paste(" by", and_list(spoken(q$each[-1]))))
}

# "line", "order", "account"
level_word <- function(q) {
  if (is.null(q$each)) "line" else if (identical(q$each, q$book$order)) "order" else
    paste(spoken(q$each), collapse = " and ")
}

# "lines", "orders", "accounts", "combinations of rep and account"
level_words <- function(q) {
  if (length(q$each) > 1) paste("combinations of", level_word(q)) else plural_word(level_word(q))
}

# The names of `each` by the first metric, largest first (best first where `by_better`), ties in the
# order of names; lines without a name and names without a value apart.
placed_names <- function(q, where, by_better = FALSE) {
  fold <- fold_metrics(q$book, q$each, q$metrics, where, totals = list(character()))
  out <- list(total = as.list(fold$totals[[1]]$values[1, , drop = FALSE]), exact = fold$exact,
              counted = sum(fold$lines))
  higher <- !by_better || q$first$better == "high"
  value <- fold$values[[1]]
  none <- Reduce(`|`, lapply(fold$keys, is.na))
  out$none <- value[none]
  out$valueless <- sum(is.na(value) & !none)
  named <- which(!none & !is.na(value))
  at <- named[best_order(value[named], higher)]
  out$keys <- lapply(fold$keys, `[`, at)
  out$value <- value[at]
  out$place <- sorted_places(out$value, fold$exact[[1]])
  out
}

# An empty row of a table for its foot, with a label where the names stand.
foot_row <- function(table, each, label) {
  out <- table[NA_integer_, , drop = FALSE][1, ]
  out[each] <- c(list(label), rep(list(""), length(each) - 1))
  out
}

# How many names went from each group to each other.
group_moves <- function(then, now, labels, what) {
  out <- as.data.frame(table(factor(then, labels), factor(now, labels)), responseName = "names",
                       stringsAsFactors = FALSE)
  names(out)[1:2] <- paste0(what, c("_before", ""))
  out <- out[out$names > 0, ]
  rownames(out) <- NULL
  out
}

# "12 from B to A, 3 from A to B": the moves, most first.
move_words <- function(moves, words = identity) {
  moves <- moves[moves[[1]] != moves[[2]], ]
  if (!NROW(moves)) return(NULL)
  moves <- moves[order(-moves$names), ]
  text <- paste0(vapply(moves$names, count_text, ""), " from ", words(moves[[1]]), " to ",
                 words(moves[[2]]))
  if (length(text) < 7) return(and_list(text))
  # Names, not kinds of move, are what is counted.
  paste0(paste(text[1:5], collapse = ", "), " and ", plural(sum(moves$names[-(1:5)]), "more name"),
         " otherwise")
}

nameless_note <- function(q, none) {
  note("none", if (length(none)) paste0(
    "Lines without a name", if (q$first$adds_up)
      paste0(" hold ", said(exact_total(none), q$first), " and"),
    " are not placed."))
}

few_note <- function(q, n, kind = "few_orders", ending = "left out.") {
  note(kind, if (n) paste0(plural(n, "name"), " with fewer than ",
                           plural(q$at_least, order_word(q$book)), " ", ending))
}

few_reading <- function(q) {
  if (!is.null(q$at_least)) paste("of names with at least", plural(q$at_least, order_word(q$book)))
}

# Lines without a date are in no period.
undated_note <- function(q) {
  book <- q$book
  if (is.null(q$asked$now) && is.null(q$period) || is.null(book$date)) return(NULL)
  if (!isTRUE(book$fields$missing[match(book$date, book$fields$name)] > 0)) return(NULL)
  gap <- node("missing", arg = node("name", name = book$date))
  found <- fold_metrics(book, character(), q$metrics[1], and_also(q$asked$where_ever, gap))
  n <- found$lines
  amount <- found$values[[1]]
  note("undated", if (isTRUE(n > 0)) paste0(
    plural(n, "line"), if (n == 1) " has" else " have", " no ", spoken(book$date),
    if (q$first$adds_up && !is.na(amount)) paste0(", with ", said(amount, q$first), " of ",
                                                  spoken(q$first$name)),
    "; ", if (n == 1) "it is" else "they are", " in no period."))
}

valueless_note <- function(n) {
  note("missing", if (n) paste0(plural(n, "name"), " without a value left out."))
}
