# Drill, continued: the question and what is found.

drill_question <- function(book, args) {
  question <- refuse_compared(ask_book(book, args, c("by", "not_by", "path")), "drill")
  refuse_several(question, "'drill' explains")
  question <- ask_two_periods(question)
  now <- question$asked$now
  before <- question$asked$before
  if (now$from <= before$to && before$from <= now$to)
    ll_abort("'when' and 'against' overlap: a line cannot be both then and now.", "argument")
  metric <- first_metric(question)
  ratio <- ratio_parts(metric$tree)
  # Orders add up over what stays the same within them.
  per_order <- !is.null(ratio) && counts_orders(ratio$d, book)
  rate <- !is.null(ratio) && adds_up(ratio$n) && (adds_up(ratio$d) || per_order)
  if (!metric$adds_up && !rate)
    ll_abort(c(paste0(capital(spoken(metric$name)), " (", one_line(metric$text),
                      ") neither adds up nor is a rate of two that do."),
               i = paste0("Take sums, counts of lines or their ratios; for distinct counts ",
                          "bridge into = \"names\" or its factors.")), "argument")
  drill_dimensions(with_args(question, rate = rate, per_order = per_order,
                             ratio = if (!metric$adds_up) ratio))
}

# Whether a tree is the number of orders.
counts_orders <- function(tree, book) {
  tree$kind == "aggregate" && tree$fn == "distinct" && is.null(tree$where) &&
    tree$arg$kind == "name" && identical(tree$arg$name, book$order)
}

# Dimensions looked in, and further ones that only tell how names waver.
drill_dimensions <- function(question) {
  args <- question$args
  all <- drill_causes(question)
  if (length(args$path) > 3) ll_abort("'path' takes one to three dimensions.", "argument")
  asked <- args$by %||% if (is.null(args$path)) all
  dims <- setdiff(unique(c(args$path, asked)), args$not_by)
  if (!length(dims))
    ll_abort("No dimension is left to look in.", "argument")
  if (length(dims) > 20)
    ll_abort(paste0("'drill' looks in twenty dimensions at most; the book has ", length(dims),
                    ". Name them with 'by'."), "argument")
  # Every other dimension may be the one by which names waver.
  others <- setdiff(unique(c(args$not_by, all)), dims)
  if (length(dims) + length(others) > 20) others <- args$not_by
  with_args(question, by = dims, others = others)
}

# The dimensions that may stand as causes where none are asked for: no bands of the metric itself,
# which move with it, no numbers of orders, and no fields that tell most names of a register from
# each other.
drill_causes <- function(question) {
  book <- question$book
  metric <- names_in(first_metric(question)$tree)
  Filter(function(field) {
    tree <- key_tree(book, field)
    if (tree$kind == "computed") tree <- tree$tree
    if (tree$kind %in% c("band", "banded"))
      return(!any(names_in(tree$metric %||% tree$arg) %in% metric))
    row <- book$fields[match(field, book$fields$name), ]
    register <- book$registers[[row$from]]
    is.null(register) || length(unique(register$table[[row$column]])) < length(register$names) / 2
  }, setdiff(telling_dimensions(book, NULL), book$order))
}

# The lines laid out for the search, wherever they are.
drill_lines <- function(question) {
  asked <- question$asked
  keys <- key_trees(question$book, c(question$args$by, question$args$others), asked$where_now)
  source_segments(question$book$source, keys, drill_value(question), question$book$order,
                  asked$where_before, asked$where_now, asked$where_ever, drill_tiles(question))
}

most_pairs <- 12   # earlier pairs of periods looked at

# The earlier pairs of like periods: both moved back by their length, as far as there are lines.
# NULL where there are none, or the periods differ in length.
drill_tiles <- function(question) {
  if (question$args$rate || is.null(question$book$date)) return(NULL)
  spans <- list(later = question$asked$now, earlier = question$asked$before)
  length <- vapply(spans, function(span) as.numeric(span$to - span$from) + 1, 0)
  slack <- .05 * max(length)
  if (abs(diff(length)) > slack) return(NULL)
  first <- as.numeric(source_days(question$book$source, question$book$date)[1])
  from <- moved_back(spans, most_pairs)
  many <- sum(from$earlier[-1] >= first - slack)
  if (many) c(list(date = question$book$date), lapply(from, function(x) rev(x[seq_len(many + 1)])))
}

# What each line adds: its amount, or its part of a rate's change and its weight.
drill_value <- function(question) {
  metric <- first_metric(question)
  if (!question$args$rate) return(list(tree = metric$tree))
  parts <- question$args$ratio
  fold <- both_periods(question, character(), list(n = parts$n, d = parts$d))
  of <- function(what) c(fold$total_before[[what]], fold$total_now[[what]])
  if (any(is.na(of("d")) | of("d") <= 0))
    ll_abort(paste0("What ", spoken(metric$name), " divides by is not above zero in ",
                    span_text(question$asked$before$from, question$asked$before$to), " or ",
                    span_text(question$asked$now$from, question$asked$now$to), "."), "data")
  list(n = parts$n, d = if (!question$args$per_order) parts$d, middle = mean(of("n") / of("d")),
       of = of("d"))
}

drill_found <- found_of(
  "drill", common = found_change,
  laid = holds("list", NULL, "the lines laid out for the search, names by dimension, places"),
  search = holds("any", NULL, "the search, as new_search() makes it"),
  leaves = holds("list", "segment", "dims, codes, amount, score, all of each segment"),
  named = holds("list", "segment", "their names by dimension"),
  conditions = holds("list", "segment", "their conditions, as trees"),
  trees = holds("list", "segment", "the same without the segments found before"),
  turn = holds("count", "segment", "the turn in which it was found"),
  split = holds("text", NULL, "dimensions left out since orders have several of their names",
                absent = "unless orders are counted"),
  rest_tree = holds("tree", NULL, "the condition of everything else", absent = "without segments"),
  parts = holds("table", NULL, "before, now, change, excess: segments, then everything else",
                missing = "a rate of nothing"),
  presence = holds("text", NULL, "stayed, new, gone, from elsewhere or elsewhere: as parts"),
  chance = holds("share", "segment", "how likely such a book does as much by itself"),
  customers = holds("number", "segment", "customers behind each"),
  others = holds("table", NULL, "the next candidates: excess, chance"),
  others_named = holds("list", NULL, "their names by dimension"),
  least = holds("number", "one", "the smallest excess that would have been unusual",
                missing = "for a rate"),
  paths = holds("table", NULL, "each segment condition by condition: leaf, level, before, now"),
  inside = holds("table", NULL, "who moved most within each segment"),
  growth = holds("number", "one", "everything else now, a multiple of then; of a rate its change"),
  uniform = holds("metric", "one", "the whole change, had all grown like everything else"))

refuse_split <- function(question, dims) {
  ll_abort(c(paste0("One ", order_word(question$book), " may have several names of ",
                    and_list(spoken(dims), last = "or"), "; ",
                    plural_word(order_word(question$book)), " do not add up over them."),
             i = "Name dimensions that stay the same within orders with 'by'."), "argument")
}

# Everything that is found.
drill_work <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  laid <- drill_lines(question)
  whole <- both_periods(question, character(), stats::setNames(list(metric$tree), metric$name))
  found <- c(period_totals(question, whole), list(laid = laid))
  if (!args$rate && found$then <= 0)
    ll_abort(c(paste0(capital(spoken(metric$name)), " then is ", said(found$then, metric),
                      "; growth needs a total above zero."),
               i = "Give another period with 'against', or look with bridge."), "data")
  measure <- if (args$rate) measure_rate(args$min_impact) else
    measure_amount(args$min_impact * max(found$then, found$now) * 10^laid$decimals)
  barred <- args$others
  if (args$per_order) {
    split <- intersect(args$by, names(which(!laid$whole_orders)))
    barred <- c(barred, split)
    if (length(split) == length(args$by)) refuse_split(question, split)
    found$split <- split
  }
  deep <- min(args$depth, if (!is.null(args$path)) length(args$path) else 3)
  found$search <- new_search(laid$lines, laid$levels, laid$by_order, measure, laid$group, deep,
                             args$path, barred)
  seen <- where_segments(found$search, args$max_segments)
  found$leaves <- seen$segments
  found <- merge_leaves(question, found, measure_leaves(found))
  found <- drill_measured(question, found)
  found <- drill_judged(question, found, seen$others)
  found <- drill_sorted(found)
  found$presence <- drill_presence(question, found)
  found$paths <- drill_paths(found)
  do.call(drill_found, found)
}
