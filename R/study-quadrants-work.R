# Quadrants, continued: the question and what is found.

near_line_part <- .05   # nearer to a line than this part of the interquartile range is doubtful

quadrants_question <- function(book, args) {
  refuse_at_least(book, args)
  if (length(args$forward) && !(length(args$forward) == 2 &&
                                  all(args$forward %in% c("high", "low"))))
    ll_abort(c("'forward' must be two of high and low: of the first metric, then of the second.",
               i = "For example high,low."), "argument")
  q <- ask_book(book, args, "each")
  if (!length(q$metrics) %in% 2:3)
    ll_abort(c("'quadrants' takes two metrics, and a third to band the names.",
               x = paste0("There ", if (length(q$metrics) == 1) "is 1." else
                 paste0("are ", length(q$metrics), "."))), "argument")
  q$x <- q$first
  q$y <- q$metrics[[2]]
  if (length(q$metrics) == 3) q$third <- q$metrics[[3]]
  if (!is.null(q$bands) && is.null(q$third))
    ll_abort("'bands' are of a third metric; give it in 'metrics'.", "argument")
  if (!is.null(q$bands)) q$table <- band_table("bands", q$bands)
  if (!is.null(q$third) && q$third$against && q$over == "book")
    ll_abort(paste0("'over' book: the whole book has no other period for ",
                    quoted(q$third$name), "."), "argument")
  q$shown <- q$metrics
  q$held <- held_metric(q)
  if (!is.null(q$held)) q$metrics[[q$held$name]] <- q$held
  q$x_line <- line_wanted(q$x, q$x_line, "x_line")
  q$y_line <- line_wanted(q$y, q$y_line, "y_line")
  q$compares <- !is.null(q$asked$before) && !q$x$against && !q$y$against
  q
}

# What the quadrants hold is told in a metric that adds up: one of those asked for, else the book's.
held_metric <- function(q) {
  can <- Filter(function(m) m$adds_up && !m$against, c(q$metrics, q$book$metrics))
  if (length(can)) can[[1]]
}

line_wanted <- function(metric, line, argument) {
  if (is.null(line)) return(if (averages(metric$tree)) "total" else "mean")
  if (identical(line, "total") && !averages(metric$tree))
    ll_abort(c(paste0("'", argument, "': the total of ", quoted(metric$name),
                      " is no line for single names; all would lie below it."),
               i = "Use mean, median or a number."), "argument")
  line
}

# Names by place with their values, quadrant and band; lines; what each quadrant holds.
quadrants_names <- function(q) {
  s <- quadrants_fold(q, q$asked$where_now)
  s <- c(list(q = q), s)
  s$labels <- quadrant_labels(q)
  s$quadrant <- quadrants_of(s, s$x_line, s$y_line)
  s$near <- near_lines(s)
  s <- band_names(s)
  s$held <- quadrants_held(s)
  if (q$compares) s <- crossings(s)
  s
}

# The names placed under a condition: keys, x, y, third and held values, lines; those left out.
quadrants_fold <- function(q, where) {
  fold <- fold_each(q, where = where)
  value <- fold$values
  none <- fold$none
  known <- is.finite(value[[q$x$name]]) & is.finite(value[[q$y$name]])
  shown <- which(!none & known & !fold$few)
  at <- shown[best_order(value[[q$x$name]][shown], q$x$better == "high")]
  out <- list(counted = sum(fold$lines), exact = fold$exact[names(q$metrics)],
              total = fold$total,
              valueless = sum(!none & !known), few = sum(!none & known & fold$few),
              keys = lapply(fold$keys, `[`, at), all = value[names(q$metrics)],
              values = value[at, names(q$metrics), drop = FALSE], none = none)
  out$x <- out$values[[q$x$name]]
  out$y <- out$values[[q$y$name]]
  out$place <- sorted_places(out$x, fold$exact[[q$x$name]])
  # The metric of all that is shown together: lines of names left out do not count.
  out$together <- if (length(at) == fold$rows) out$total else
    if ("total" %in% c(q$x_line, q$y_line)) as.list(fold_question(
      q, character(), where = and_also(where, these_names(q, out$keys)))$values[1, ])
  out$x_line <- line_over(q$x_line, out$x, out$together[[q$x$name]], q$x, "x_line")
  out$y_line <- line_over(q$y_line, out$y, out$together[[q$y$name]], q$y, "y_line")
  out
}

line_over <- function(wanted, value, together, metric, argument) {
  if (is.numeric(wanted)) return(wanted)
  if (!length(value)) return(NA_real_)
  if (wanted == "total" && is.na(together))
    ll_abort(c(paste0("All names together have no ", spoken(metric$name),
                      " (a division by zero), so there is no line."),
               i = paste0("Give '", argument, "' as mean, median or a number.")), "data")
  switch(wanted, mean = mean(value), median = stats::median(value), total = together)
}

# High both, high first, high second, low both: best first by what is better of each.
quadrant_labels <- function(q) {
  side <- function(metric, high) paste(if (high) "high" else "low", spoken(metric$name))
  good <- c(TRUE, FALSE)
  x <- good == (q$x$better == "high")
  y <- good == (q$y$better == "high")
  data.frame(x = x[c(1, 1, 2, 2)], y = y[c(1, 2, 1, 2)],
             label = paste0(vapply(x, side, "", metric = q$x)[c(1, 1, 2, 2)], ", ",
                            vapply(y, side, "", metric = q$y)[c(1, 2, 1, 2)]))
}

quadrants_of <- function(s, x_line, y_line) {
  side <- function(x, y) 1 + x + 2 * y
  high <- side(above_line(s$x, x_line, s$exact[[s$q$x$name]]),
               above_line(s$y, y_line, s$exact[[s$q$y$name]]))
  s$labels$label[match(high, side(s$labels$x, s$labels$y))]
}

# On the line is above. A mean of exact values is a quotient, hence the second part.
above_line <- function(value, line, exact) {
  slack <- if (exact) 5e-8 + 4 * .Machine$double.eps * abs(line) else 1e-9 * abs(line)
  value >= line - slack
}

# The third metric's band of each name.
band_names <- function(s) {
  q <- s$q
  if (is.null(q$third)) return(s)
  over <- list(value = s$values[[q$third$name]], exact = s$exact[[q$third$name]])
  all <- over$value
  if (q$over == "book") {
    fold <- fold_metrics(q$book, q$each, q$metrics[q$third$name], kept_lines(q$book))
    over <- list(value = fold$values[[1]][match_keys(s$keys, fold$keys)], exact = fold$exact[[1]])
    all <- fold$values[[1]][!Reduce(`|`, lapply(fold$keys, is.na))]
    s$values[[q$third$name]] <- over$value
  }
  table <- q$table %||% thirds(all)
  number <- tier_number(over$value, table$bounds, over$exact)
  s$band <- ifelse(is.na(number), "no value", table$labels[number + 1])
  s$bands <- data.frame(band = table$labels, from = c(-Inf, table$bounds),
                        names = tabulate(match(s$band, table$labels), length(table$labels)))
  # Thirds have nobody below the first one's bound, and often nor have bounds given.
  if (!s$bands$names[1]) s$bands <- s$bands[-1, ]
  rownames(s$bands) <- NULL
  s
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
quadrants_held <- function(s) {
  at <- factor(s$quadrant, s$labels$label)
  names <- tabulate(at, 4)
  out <- data.frame(quadrant = s$labels$label, names = names,
                    names_share = if (sum(names)) names / sum(names) else NA_real_)
  if (is.null(s$q$held)) return(out)
  value <- s$values[[s$q$held$name]]
  value[is.na(value)] <- 0
  positive <- sum(value[value > 0])
  out$value <- unname(vapply(split(value, at), exact_total, 0))
  out$value_share <- if (positive > 0) out$value / positive else NA_real_
  out
}

# The quadrants of the period before, by its own lines; and who would be elsewhere by today's.
crossings <- function(s) {
  q <- s$q
  before <- c(list(q = q, labels = s$labels), quadrants_fold(q, q$asked$where_before))
  then <- quadrants_of(before, before$x_line, before$y_line)
  by_now <- quadrants_of(before, s$x_line, s$y_line)
  at <- match_keys(s$keys, before$keys)
  s$quadrant_before <- ifelse(is.na(at), "not placed", then[at])
  crossed <- !is.na(at) & s$quadrant_before != s$quadrant
  s$line_moved <- sum(crossed & by_now[at] == s$quadrant)
  s$crossed <- sum(crossed)
  gone <- then[is.na(match_keys(before$keys, s$keys))]
  s$moves <- group_moves(c(s$quadrant_before, gone),
                         c(s$quadrant, rep("not placed", length(gone))),
                         c(s$labels$label, "not placed"), "quadrant")
  s
}

# Which line each name is nearer to than the spread of the names makes sure.
near_lines <- function(s) {
  near <- function(value, line) {
    if (length(value) < 4) return(logical(length(value)))
    abs(value - line) < near_line_part * stats::IQR(value)
  }
  x <- near(s$x, s$x_line)
  y <- near(s$y, s$y_line)
  c("", spoken(s$q$x$name), spoken(s$q$y$name), "both")[1 + x + 2 * y]
}
