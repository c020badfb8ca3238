# Quadrants, continued: the question and what is found.

near_divide_part <- .05   # nearer to a line than this part of the interquartile range is doubtful

quadrants_question <- function(book, args) {
  refuse_min_orders(book, args)
  if (length(args$highlight) && !(length(args$highlight) == 2 &&
                                  all(args$highlight %in% c("high", "low"))))
    ll_abort(c("'highlight' must be two of high and low: of the first metric, then of the second.",
               i = "For example high,low."), "argument")
  question <- ask_book(book, args, "each")
  shown <- question$metrics
  if (!length(shown) %in% 2:3)
    ll_abort(c("'quadrants' takes two metrics, and a third to band the names.",
               x = paste0("There ", if (length(shown) == 1) "is 1." else
                 paste0("are ", length(shown), "."))), "argument")
  third <- if (length(shown) == 3) shown[[3]]
  if (!is.null(args$bands) && is.null(third))
    ll_abort("'bands' are of a third metric; give it in 'metrics'.", "argument")
  bounds <- if (!is.null(args$bands)) band_table("bands", args$bands)
  if (!is.null(third) && third$against && args$over == "book")
    ll_abort(paste0("'over' book: the whole book has no other period for ", quoted(third$name),
                    "."), "argument")
  held <- held_metric(question)
  if (!is.null(held)) {
    metrics <- shown
    metrics[[held$name]] <- held
    question <- altered(question, metrics = metrics)
  }
  x <- shown[[1]]
  y <- shown[[2]]
  with_args(question, x = x, y = y, third = third, bounds = bounds, shown = shown, held = held,
            x_divide = line_wanted(x, args$x_divide, "x_divide"),
            y_divide = line_wanted(y, args$y_divide, "y_divide"),
            compares = !is.null(question$asked$before) && !x$against && !y$against)
}

# What the quadrants hold is told in a metric that adds up: one of those asked for, else the book's.
held_metric <- function(question) {
  can <- Filter(function(m) m$adds_up && !m$against, c(question$metrics, question$book$metrics))
  if (length(can)) can[[1]]
}

line_wanted <- function(metric, line, argument) {
  if (is.null(line)) return(if (averages(metric$tree)) "total" else "mean")
  if (identical(line, "total") && !averages(metric$tree))
    ll_abort(c(paste0("'", argument, "': the total of ", quoted(metric$name),
                      " is no dividing value for single names; all would lie below it."),
               i = "Use mean, median or a number."), "argument")
  line
}

quadrants_found <- found_of(
  "quadrants",
  keys = holds("keys", "name", "the names ranked, best by the first metric first"),
  values = holds("table", "name", "their metrics, and the one that the quadrants hold"),
  x = holds("metric", "name", "the first metric"),
  y = holds("number", "name", "the second metric, in its unit"),
  rank = holds("rank", "name", "ranks by the first metric"),
  all = holds("table", "row", "the metrics of all names and of lines without one"),
  none = holds("flag", "row", "which of these rows have no name"),
  valueless = holds("count", "one", "names without a value of both metrics"),
  few = holds("count", "one", "names with too few orders"),
  x_divide = holds("metric", "one", "where the first metric divides", missing = "without names"),
  y_divide = holds("number", "one", "where the second metric divides", missing = "without names"),
  labels = holds("table", NULL, "x, y (above the line), label: the four quadrants, best first"),
  quadrant = holds("text", "name", "the label of each name's quadrant"),
  near = holds("text", "name", "the metric whose line is near, both, or nothing"),
  held = holds("table", NULL, "quadrant, names, names_share, value, value_share"),
  band = holds("text", "name", "the third metric's band, or no value",
               absent = "without a third metric"),
  bands = holds("table", NULL, "band, from, names", absent = "without a third metric"),
  quadrant_before = holds("text", "name", "their quadrants then, or not ranked",
                          absent = "without a period compared with"),
  crossed = holds("count", "one", "names that changed their quadrant",
                  absent = "without a period compared with"),
  line_moved = holds("count", "one", "those of them that by today's lines would not have",
                     absent = "without a period compared with"),
  moves = holds("table", NULL, "quadrant_before, quadrant, names",
                absent = "without a period compared with"))

# Names by rank with their values, quadrant and band; lines; what each quadrant holds.
quadrants_work <- function(question) {
  found <- quadrants_fold(question, question$asked$where_now)
  found$together <- NULL
  found$labels <- quadrant_labels(question)
  found$quadrant <- quadrants_of(question, found, found$labels, found$x_divide, found$y_divide)
  found$near <- near_lines(question, found)
  found <- band_names(question, found)
  found$held <- quadrants_held(question, found)
  if (question$args$compares) found <- crossings(question, found)
  do.call(quadrants_found, found)
}

# The names ranked under a condition: keys, x, y, third and held values, lines; those left out.
quadrants_fold <- function(question, where) {
  args <- question$args
  fold <- fold_each(question, where = where)
  value <- fold$values
  none <- fold$none
  known <- is.finite(value[[args$x$name]]) & is.finite(value[[args$y$name]])
  shown <- which(!none & known & !fold$few)
  at <- shown[best_order(value[[args$x$name]][shown], args$x$better == "high")]
  out <- list(counted = sum(fold$lines), exact = fold$exact[names(question$metrics)],
              total = fold$total,
              valueless = sum(!none & !known), few = sum(!none & known & fold$few),
              keys = lapply(fold$keys, `[`, at), all = value[names(question$metrics)],
              values = value[at, names(question$metrics), drop = FALSE], none = none)
  out$x <- out$values[[args$x$name]]
  out$y <- out$values[[args$y$name]]
  out$rank <- sorted_ranks(out$x, fold$exact[[args$x$name]])
  # The metric of all that is shown together: lines of names left out do not count.
  out$together <- if (length(at) == fold$rows) out$total else
    if ("total" %in% c(args$x_divide, args$y_divide)) as.list(fold_question(
      question, character(), where = and_also(where, these_names(question, out$keys)))$values[1, ])
  out$x_divide <- line_over(args$x_divide, out$x, out$together[[args$x$name]], args$x, "x_divide")
  out$y_divide <- line_over(args$y_divide, out$y, out$together[[args$y$name]], args$y, "y_divide")
  out
}

line_over <- function(wanted, value, together, metric, argument) {
  if (is.numeric(wanted)) return(wanted)
  if (!length(value)) return(NA_real_)
  if (wanted == "total" && is.na(together))
    ll_abort(c(paste0("All names together have no ", spoken(metric$name),
                      " (a division by zero), so there is no dividing value."),
               i = paste0("Give '", argument, "' as mean, median or a number.")), "data")
  switch(wanted, mean = mean(value), median = stats::median(value), total = together)
}

# High both, high first, high second, low both: best first by what is better of each.
quadrant_labels <- function(question) {
  args <- question$args
  side <- function(metric, high) paste(if (high) "high" else "low", spoken(metric$name))
  good <- c(TRUE, FALSE)
  x <- good == (args$x$better == "high")
  y <- good == (args$y$better == "high")
  data.frame(x = x[c(1, 1, 2, 2)], y = y[c(1, 2, 1, 2)],
             label = paste0(vapply(x, side, "", metric = args$x)[c(1, 1, 2, 2)], ", ",
                            vapply(y, side, "", metric = args$y)[c(1, 2, 1, 2)]))
}

quadrants_of <- function(question, found, labels, x_divide, y_divide) {
  side <- function(x, y) 1 + x + 2 * y
  high <- side(above_line(found$x, x_divide, found$exact[[question$args$x$name]]),
               above_line(found$y, y_divide, found$exact[[question$args$y$name]]))
  labels$label[match(high, side(labels$x, labels$y))]
}

# On the line is above. A mean of exact values is a quotient, hence the second part.
above_line <- function(value, line, exact) {
  slack <- if (exact) 5e-8 + 4 * .Machine$double.eps * abs(line) else 1e-9 * abs(line)
  value >= line - slack
}

# The third metric's band of each name.
band_names <- function(question, found) {
  args <- question$args
  if (is.null(args$third)) return(found)
  over <- list(value = found$values[[args$third$name]], exact = found$exact[[args$third$name]])
  all <- over$value
  if (args$over == "book") {
    fold <- fold_metrics(question$book, args$each, question$metrics[args$third$name],
                         kept_lines(question$book))
    over <- list(value = fold$values[[1]][match_keys(found$keys, fold$keys)],
                 exact = fold$exact[[1]])
    all <- fold$values[[1]][!Reduce(`|`, lapply(fold$keys, is.na))]
    found$values[[args$third$name]] <- over$value
  }
  table <- args$bounds %||% thirds(all)
  number <- tier_number(over$value, table$bounds, over$exact)
  found$band <- ifelse(is.na(number), "no value", table$labels[number + 1])
  found$bands <- data.frame(band = table$labels, from = c(-Inf, table$bounds),
                            names = tabulate(match(found$band, table$labels), length(table$labels)))
  # Thirds have nobody below the first one's bound, and often nor have bounds given.
  if (!found$bands$names[1]) found$bands <- found$bands[-1, ]
  rownames(found$bands) <- NULL
  found
}

# Bounds that part the values into three of equal numbers, as far as ties allow.
thirds <- function(value) {
  value <- sort(value[is.finite(value)])
  n <- length(value)
  from <- value[unique(pmin(1 + floor(n * 0:2 / 3), n))]
  words <- paste(c("lowest", "middle", "highest"), "third")[seq_along(from)]
  keep <- !duplicated(from)
  if (!n) return(list(bounds = 0, labels = c("below", "all")))
  list(bounds = from[keep], labels = c("below", words[keep]))
}

# What each quadrant holds.
quadrants_held <- function(question, found) {
  at <- factor(found$quadrant, found$labels$label)
  names <- tabulate(at, 4)
  out <- data.frame(quadrant = found$labels$label, names = names,
                    names_share = if (sum(names)) names / sum(names) else NA_real_)
  if (is.null(question$args$held)) return(out)
  value <- found$values[[question$args$held$name]]
  value[is.na(value)] <- 0
  positive <- sum(value[value > 0])
  out$value <- unname(vapply(split(value, at), exact_total, 0))
  out$value_share <- if (positive > 0) out$value / positive else NA_real_
  out
}

# The quadrants of the period before, by its own lines; and who would be elsewhere by today's.
crossings <- function(question, found) {
  then <- quadrants_fold(question, question$asked$where_before)
  ranked <- function(x_divide, y_divide) {
    quadrants_of(question, then, found$labels, x_divide, y_divide)
  }
  by_now <- ranked(found$x_divide, found$y_divide)
  moved <- moves_between(question, list(keys = found$keys, group = found$quadrant),
                         list(keys = then$keys, group = ranked(then$x_divide, then$y_divide)),
                         found$labels$label, "not ranked", "quadrant")
  crossed <- !is.na(moved$at) & moved$was != found$quadrant
  found$quadrant_before <- moved$was
  found$line_moved <- sum(crossed & by_now[moved$at] == found$quadrant)
  found$crossed <- sum(crossed)
  found$moves <- moved$moves
  found
}

# Which line each name is nearer to than the spread of the names makes sure.
near_lines <- function(question, found) {
  near <- function(value, line) {
    if (length(value) < 4) return(logical(length(value)))
    abs(value - line) < near_divide_part * stats::IQR(value)
  }
  x <- near(found$x, found$x_divide)
  y <- near(found$y, found$y_divide)
  c("", spoken(question$args$x$name), spoken(question$args$y$name), "both")[1 + x + 2 * y]
}
