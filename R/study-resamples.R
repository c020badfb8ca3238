# Ranks under resampled orders, an option of standings, benchmark and score: how far a rank is
# owed to which orders happened to come in.
#
# Each order counts 0, 1, 2, ... times, a Poisson number of mean 1 (Poisson bootstrap: Hanley and
# MacGibbon 2006, doi:10.1016/j.cmpb.2006.04.006; Efron 1979, doi:10.1214/aos/1176344552), for reps
# each of their customers with all its orders, since orders of one customer go together.

resample_least <- 10      # names with fewer orders (or customers) get no range
sure_lead <- .8           # ahead of the next in fewer of the resamples is no lead to rely on
resamples_cells <- 5e7    # names times resamples that are held at once

# What is resampled: customers for those who sell, orders for all others.
resample_unit <- function(question) {
  args <- question$args
  if (!is.null(question$book$people) && question$book$people %in% args$each) {
    own <- question$book$fields$name[question$book$fields$from == "lines" &
                                     question$book$fields$role %in% c("dimension", "identifier")]
    customers <- columns_named(own, paste0(customer_words, "|shops?|stores?"))
    if (length(customers)) return(customers[1])
  }
  if (is.null(question$book$order) || question$book$grain == "summed")
    ll_abort(c(paste("'resamples' resamples orders, and the book does not know which lines are",
                     "one order."),
               i = "Name the order's field: order = \"order_no\" in R, --order on the command."),
             "data")
  if (question$book$order %in% args$each)
    ll_abort("'resamples' resamples the orders of each name; orders have none.", "argument")
  question$book$order
}

# Metrics whose value over several orders comes from sums over each.
refuse_uncertain <- function(question, metrics, unit) {
  for (metric in metrics) for (part in parts_of(list(metric$tree))) {
    inner <- if (is.null(part$arg)) NULL else if (part$arg$kind == "per") part$arg$by else
      if (part$fn == "distinct") part$arg
    whole <- is.null(inner) || inner$kind == "name" && inner$name %in% c(unit, question$book$order)
    if (metric$against || !part$fn %in% c("sum", "count", "distinct") || !whole)
      ll_abort(c(paste0("'resamples' works with sums, counts, counts of orders and their ",
                        "quotients; ", quoted(metric$name), " is none."),
                 i = "Leave 'resamples' out, or rank by another metric."), "argument")
  }
}

# Ranges of ranks of the names in `keys`, in the order of their ranks. `scores` makes of a data
# frame of metric values (names times resamples, one after another) a number each, higher better.
# Gives list(from, to, ahead, unit, resamples, thin): the first three missing for names with too few
# units, of which there are `thin`.
resampled_ranks <- function(question, keys, metrics, where, resamples, seed, scores) {
  unit <- resample_unit(question)
  refuse_uncertain(question, metrics, unit)
  n <- length(keys[[1]])
  told <- list(unit = unit, resamples = resamples)
  none <- numeric()
  if (!n) return(c(list(from = none, to = none, ahead = none), told, list(thin = 0)))
  if (n * resamples > resamples_cells)
    ll_abort(c(paste0("'resamples' of ", plural(n, each_word(question)), " times ",
                      count_text(resamples), " resamples is too much to hold."),
               i = "Ask for fewer resamples, or for names with at least so many orders."),
             "argument")
  fold <- fold_metrics(question$book, c(question$args$each, unit), metrics, where)
  drawn <- resampled_units(fold, question$args$each, unit, keys)
  values <- resampled_values(fold, drawn, metrics, n, resamples, seed, scores)
  found <- kernel_rank_ranges(values, .05, .95)
  thin <- tabulate(drawn$name, n) < resample_least
  cut <- function(x) ifelse(thin, NA_real_, x)
  ahead <- ifelse(thin | c(thin[-1], TRUE), NA_real_, found$ahead)
  c(list(from = cut(found$low), to = cut(found$high), ahead = ahead), told,
    list(thin = sum(thin)))
}

# list(parts, name, unit): what each unit (an order, a customer) of each name adds to the parts of
# the metrics; lines without a unit stand each name's for one.
resampled_units <- function(fold, each, unit, keys) {
  name <- match_keys(fold$keys[each], keys)
  mine <- which(!is.na(name))
  name <- name[mine]
  label <- fold$keys[[unit]][mine]
  label[is.na(label)] <- paste("none of", name[is.na(label)])
  parts <- vapply(fold$parts, function(part) {
    value <- scaled_value(part)[mine]
    value[is.na(value)] <- 0
    value
  }, numeric(length(mine)))
  list(parts = matrix(parts, length(mine)), name = name, unit = match(label, unique(label)))
}

# Scores of n names (rows) in each resample (columns), some resamples at a time.
resampled_values <- function(fold, drawn, metrics, n, resamples, seed, scores) {
  kernel_threads(thread_count())
  out <- matrix(NA_real_, n, resamples)
  step <- max(1, min(resamples, floor(2e6 / max(n, 1))))
  for (first in seq(1, resamples, by = step)) {
    count <- min(step, resamples - first + 1)
    sums <- kernel_resample(drawn$parts, drawn$name - 1L, drawn$unit - 1L, n,
                            max(drawn$unit, 0L), first - 1L, count, seed)
    made <- lapply(seq_along(fold$parts), function(j) scaled(sums[, j]))
    names(made) <- names(fold$parts)
    values <- lapply(metrics, function(metric) scaled_value(metric_value(metric$tree, made)))
    values <- as.data.frame(lapply(values, rep_len, n * count), optional = TRUE)
    names(values) <- names(metrics)
    out[, first + seq_len(count) - 1] <- scores(values, n)
  }
  out
}

# By one metric.
metric_scores <- function(metric) {
  function(values, n) if (metric$better == "low") -values[[metric$name]] else values[[metric$name]]
}

resamples_reading <- function(question, ranges) {
  if (!is.null(ranges)) paste0(count_text(ranges$resamples), " resamples of ",
                               plural_word(unit_noun(question, ranges$unit)))
}

unit_noun <- function(question, unit) {
  if (identical(unit, question$book$order)) "order" else noun_of(question, unit)
}

# The lead itself, where the resamples do not bear it out.
unsure_words <- function(ahead) {
  if (isTRUE(ahead < sure_lead))
    paste0(", yet is ahead of the next in only ", format_number(ahead, "percent", 0),
           " of the resamples")
}

resamples_notes <- function(question, ranges) {
  if (is.null(ranges)) return(NULL)
  close <- which(ranges$ahead < sure_lead)
  rbind(note("resampled", if (ranges$thin) paste0(
          plural(ranges$thin, each_word(question)), " with fewer than ",
          plural(resample_least, unit_noun(question, ranges$unit)),
          verb(ranges$thin, " gets"), " no range of ranks.")),
        note("resampled", if (length(close)) paste0(
          "Of neighbours, ", count_text(length(close)), " of ",
          count_text(sum(!is.na(ranges$ahead))),
          verb(length(close), " is"),
          " ahead of the next in fewer than 80 % of the resamples: not an order to rely on.")))
}

# list(table, columns) with the columns of `resamples`, where it was asked for.
with_resamples <- function(made, ranges) {
  resamples_columns(ranges, function(name, unit, values) {
    made$table[[name]] <<- values
    made$columns <<- rbind(made$columns, new_columns(name, unit))
  })
  made
}

# Columns for the table, at the rows where the names stand; `add` takes name, unit and values.
resamples_columns <- function(ranges, add) {
  if (is.null(ranges)) return(invisible())
  add("resampled_from", "rank", ranges$from)
  add("resampled_to", "rank", ranges$to)
  add("ahead_of_next", "percent", ranges$ahead)
}
