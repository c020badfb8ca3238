# A question put to a book: its arguments checked against it, all problems together.

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

# Every tree of a question: its dimensions, condition (checked when it was read) and metrics.
question_trees <- function(q, condition = TRUE) {
  c(lapply(q$dimensions, key_tree, book = q$book), if (condition) list(q$asked$only),
    lapply(q$metrics, `[[`, "tree"))
}

# Every field that a question uses.
names_used <- function(q) unique(unlist(lapply(question_trees(q), names_in)))
