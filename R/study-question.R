# A question put to a book: its arguments checked against it, all problems together.

# book: narrowed and with the fields and metrics of this question; metrics: those asked for, by
# name; asked: which lines, as narrow() tells, and `dimensions`, all that are asked by; args: the
# study's own arguments, read, and what it makes of them.
new_question <- function(book, metrics, asked, args) {
  new_record("ll_question", list(book = book, metrics = metrics,
                                 asked = new_record("ll_asked", asked),
                                 args = new_record("ll_args", args)))
}

# The question with arguments read further, or more of them.
with_args <- function(question, ...) altered(question, args = altered(question$args, ...))

# The question with which lines told otherwise.
with_asked <- function(question, ...) altered(question, asked = altered(question$asked, ...))

# The question of those of its lines that meet a condition, too.
with_condition <- function(question, condition) {
  if (is.null(condition)) return(question)
  condition <- with_labels(question$book, condition)
  with_asked(question, only = and_also(question$asked$only, condition),
             where_now = and_also(question$asked$where_now, condition))
}

# The metric that orders, or the only one.
first_metric <- function(question) question$metrics[[1]]

# An argument that not every study has.
arg_or_null <- function(question, name) field_or_null(question$args, name)

# A question from checked arguments. `dimensions` names the arguments that are dimensions.
ask_book <- function(book, args, dimensions = character(), metrics = args$metrics, mixed = FALSE) {
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
        picked[what] <<- list(if (length(made$names)) made$names)
      }
    },
    function() pick_metrics(book, metrics),
    function() {
      narrow(book, field_or_null(args, "where"), field_or_null(args, "when"),
             field_or_null(args, "against"))
    })
  own <- args[setdiff(names(args), c(dimensions, "metrics", "where", "when", "against"))]
  book <- found[[2]]$book
  book[c("fields", "computed")] <- sliced[c("fields", "computed")]
  asked <- c(found[[3]], list(dimensions = unlist(picked, use.names = FALSE)))
  question <- new_question(book, found[[2]]$metrics, asked, c(own, picked))
  check_compared(question$metrics, question$asked)
  if (!mixed) refuse_mixed(question)
  # A brief outlives a name; what is typed now does not.
  if (is.null(book$read))
    for (tree in question_trees(question, FALSE)) check_condition_names(book, tree)
  question
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
refuse_compared <- function(question, study) {
  needy <- Filter(function(m) m$against, question$metrics)
  if (length(needy))
    ll_abort(paste0("The metric ", quoted(needy[[1]]$name), " compares two periods, which ", study,
                    " does not do; standings does."), "argument")
  question
}

refuse_min_orders <- function(book, args) {
  if (!is.null(args$min_orders) && book$grain == "summed")
    ll_abort("'min_orders' counts orders, and these lines were added up before (grain: summed).",
             "argument")
}

refuse_several <- function(question, what) {
  if (length(question$metrics) > 1)
    ll_abort(paste0(what, " one metric; give one in 'metrics'."), "argument")
}

refuse_pairs <- function(question, what) {
  if (length(question$args$each) > 1)
    ll_abort(paste0(quoted(what), " works with one dimension in 'each'."), "argument")
}

# Single lines have a value where the metric is the sum of a formula.
refuse_no_sum <- function(metric) {
  if (!is_plain_sum(metric$tree))
    ll_abort(c(paste0("Lines have no ", spoken(metric$name), " each: over lines the metric must ",
                      "be the sum of a formula, such as sum(net)."),
               i = "Say what to count: each = \"account\", or the order's field."), "argument")
}

# Every tree of a question: its dimensions, condition (checked when it was read) and metrics.
question_trees <- function(question, condition = TRUE) {
  c(lapply(question$asked$dimensions, key_tree, book = question$book),
    if (condition) list(question$asked$only),
    lapply(question$metrics, `[[`, "tree"))
}

# Every field that a question uses.
names_used <- function(question) unique(unlist(lapply(question_trees(question), names_in)))
