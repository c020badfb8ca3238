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
  rate <- !is.null(ratio) && adds_up(ratio$n) && adds_up(ratio$d)
  if (!metric$adds_up && !rate)
    ll_abort(c(paste0(capital(spoken(metric$name)), " (", one_line(metric$text),
                      ") neither adds up nor is a rate of two that do."),
               i = paste0("Take sums, counts of lines or their ratios; for distinct counts ",
                          "bridge into = \"names\" or its factors.")), "argument")
  drill_dimensions(with_args(question, rate = rate, ratio = if (!metric$adds_up) ratio))
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
# which move with it, and no fields that tell most names of a register from each other.
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
  }, telling_dimensions(book, NULL))
}

# The lines of all periods, which tell how much segments waver; of both alone for a rate, and where
# more of them would have to be brought than may be.
drill_source <- function(question) {
  args <- question$args
  bring <- function(where) {
    lines_here(question, c(args$by, args$others, question$book$order, question$book$date), where)
  }
  both <- either(question$asked$where_before, question$asked$where_now)
  if (args$rate) return(bring(both))
  tryCatch(bring(question$asked$where_ever), ll_error_data = function(e) bring(both))
}

# The lines laid out for the search.
drill_lines <- function(question) {
  args <- question$args
  source <- drill_source(question)
  masks <- list(line_mask(source, question$asked$where_before),
                line_mask(source, question$asked$where_now))
  period <- masks[[1]] + 2L * masks[[2]]
  trees <- key_trees(question$book, c(args$by, args$others), question$asked$where_now)
  columns <- lapply(trees, coded_tree, source = source)
  # Every name of the book counts among those that might have been named.
  levels <- vapply(trees, function(tree) length(source_names(question$book$source, tree)), 0L)
  codes <- lapply(columns, `[[`, "codes")
  order <- if (!is.null(question$book$order))
    order_codes(coded_field(source, question$book$order)$codes)
  # Some thousand orders tell which dimensions stay the same within them.
  some <- if (!is.null(order)) which(order <= max(1e3, max(order) * 2e5 / source$n))
  by_order <- if (length(some)) drill_by_order(lapply(codes, `[`, some), order[some]) else
    levels >= 0
  group <- drill_group(by_order, levels)
  values <- drill_values(question, source, period)
  lay <- function(period) {
    kernel_segments(codes, period, values$amount, values$weight, order,
                    if (!is.null(group)) codes[[group]], FALSE)
  }
  # Every line of the book but those now tells how large the orders of a segment are by themselves.
  earlier <- masks[[2]] == 0
  if (!is.null(question$asked$where_ever))
    earlier <- earlier & line_mask(source, question$asked$where_ever)
  list(lines = lay(period), past = if (!args$rate) lay(as.integer(earlier)), levels = levels,
       names = lapply(columns, `[[`, "levels"), group = group, by_order = by_order,
       decimals = values$decimals, beyond = any(earlier & masks[[1]] == 0))
}

# Lines without an order are one each.
order_codes <- function(codes) {
  if (min(codes) > 0L) return(codes)
  none <- which(codes == 0L)
  codes[none] <- max(codes) + seq_along(none)
  codes
}

# What each line adds: amounts as whole numbers of 10^-places where they are decimals; for a rate
# its part of the rate's change and its weight.
drill_values <- function(question, source, period) {
  args <- question$args
  metric <- first_metric(question)
  if (!args$rate) {
    v <- metric_lines(source, metric$tree)
    return(list(amount = v$v, weight = NULL, decimals = if (is_exact(v)) v$decimals else 0L))
  }
  n <- scaled_value(metric_lines(source, args$ratio$n))
  search <- scaled_value(metric_lines(source, args$ratio$d))
  whole <- function(x) c(sum(x[period == 1]), sum(x[period == 2]))
  wholes <- whole(search)
  if (any(wholes <= 0))
    ll_abort(paste0("What ", spoken(metric$name), " divides by is not above zero in ",
                    span_text(question$asked$before$from, question$asked$before$to), " or ",
                    span_text(question$asked$now$from, question$asked$now$to), "."), "data")
  middle <- mean(whole(n) / wholes)
  of <- wholes[pmax(period, 1)]
  list(amount = (n - middle * search) / of, weight = search / of, decimals = 0L)
}

drill_found <- found_of(
  "drill", common = found_change,
  laid = holds("list", NULL, "the lines laid out for the search, names by dimension, places"),
  search = holds("any", NULL, "the search, as new_drill() makes it"),
  leaves = holds("list", "segment", "dims, codes, amount, score, all of each segment"),
  named = holds("list", "segment", "their names by dimension"),
  conditions = holds("list", "segment", "their conditions, as trees"),
  trees = holds("list", "segment", "the same without the segments found before"),
  rest_tree = holds("tree", NULL, "the condition of everything else", absent = "without segments"),
  parts = holds("table", NULL, "before, now, change, excess: segments, then everything else",
                missing = "a rate of nothing"),
  chance = holds("share", "segment", "how likely such a book does as much by itself"),
  customers = holds("number", "segment", "customers behind each", missing = "for a rate"),
  others = holds("table", NULL, "the next candidates: excess, chance"),
  others_named = holds("list", NULL, "their names by dimension"),
  least = holds("number", "one", "the smallest excess that would have been unusual",
                missing = "for a rate"),
  inside = holds("table", NULL, "who moved most within each segment"),
  growth = holds("number", "one", "everything else now, a multiple of then; of a rate its change"),
  uniform = holds("metric", "one", "the whole change, had all grown like everything else"))

# Everything that is found.
drill_work <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  laid <- drill_lines(question)
  deep <- min(args$depth, if (!is.null(args$path)) length(args$path) else 3)
  search <- new_drill(laid$lines, laid$levels, laid$by_order, laid$group, deep,
                      args$min_impact, args$path, args$others)
  whole <- both_periods(question, character(), stats::setNames(list(metric$tree), metric$name))
  found <- c(period_totals(question, whole), list(laid = laid, search = search))
  if (!args$rate && found$then <= 0)
    ll_abort(c(paste0(capital(spoken(metric$name)), " then is ", said(found$then, metric),
                      "; growth needs a total above zero."),
               i = "Give another period with 'against', or look with bridge."), "data")
  search$least <- args$min_impact * max(found$then, found$now) * 10^laid$decimals
  seen <- if (args$rate)
    list(segments = drill_segments(search, -log(1 - args$confidence), args$max_segments)) else
      where_segments(search, args$max_segments)
  found$leaves <- seen$segments
  found <- merge_leaves(question, found, measure_leaves(found))
  found <- drill_measured(question, found)
  found <- drill_judged(question, found, seen$others)
  do.call(drill_found, drill_sorted(found))
}
