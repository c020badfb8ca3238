# Benchmark, continued: the question and what is found.

benchmark_question <- function(book, args) {
  refuse_at_least(book, args)
  kinds <- c("best", "fixed", "percentile", "plan")
  asked <- kinds[!vapply(args[kinds], is.null, NA)]
  if (length(asked) > 1)
    ll_abort(paste0("One line at a time: ", and_list(quoted(asked)), " are given."), "argument")
  if (!length(asked)) args$best <- 3
  if (is.null(args$bands)) args$bands <- c(.5, .8, 1)
  args$kind <- if (length(asked)) asked else "best"
  q <- refuse_compared(ask_book(book, args, "each"), "benchmark")
  refuse_several(q, "'benchmark' draws a line for")
  if (q$first$unit == "date")
    ll_abort(paste0("A date is no percentage of another: ", quoted(q$first$name),
                    " has no benchmark."), "argument")
  if (q$kind == "plan") q <- c(q, list(plans = read_plan(q)))
  q
}

benchmark_names <- function(q) {
  s <- benchmark_fold(q)
  s <- c(list(q = q), s)
  s <- if (q$kind == "plan") plan_lines(s) else own_line(s)
  low <- q$first$better == "low"
  above <- s$line > 0 & (!low | s$value > 0)
  s$of <- ifelse(!is.na(above) & above, if (low) s$line / s$value else s$value / s$line, NA)
  s$labels <- percent_bands(q$bands)
  number <- findInterval(s$of + 1e-9, q$bands)
  s$band <- ifelse(is.na(s$of), "no percentage", s$labels[number + 1])
  s$held <- benchmark_bands(s)
  if (!is.null(q$certainty))
    s$certainty <- resampled_places(q, s$keys, q$metrics, q$asked$where_now, q$certainty, q$seed,
                                    metric_scores(q$first))
  s
}

# Names best first, those with too few orders left out.
benchmark_fold <- function(q) {
  f <- fold_each(q, orders = wants_orders(q))
  none <- f$none
  few <- f$few
  value <- f$values[[1]]
  shown <- which(!none & !few & !is.na(value))
  at <- shown[best_order(value[shown], q$first$better == "high")]
  list(keys = lapply(f$keys, `[`, at), value = value[at], none = value[none],
       orders = f$orders[at], few = sum(few & !none),
       left = exact_total(value[few & !none]),
       valueless = sum(!none & !few & is.na(value)),
       unvalued = f$keys[[1]][!none & !few & is.na(value)],
       place = sorted_places(value[at], f$exact[[1]]),
       total = f$total,
       exact = f$exact[names(q$metrics)], counted = sum(f$lines))
}

# One line for all.
own_line <- function(s) {
  q <- s$q
  s$line <- switch(q$kind, fixed = q$fixed, best = line_of_best(s),
                   percentile = if (length(s$value)) stats::quantile(
                     s$value, if (q$first$better == "low") 1 - q$percentile / 100 else
                       q$percentile / 100, names = FALSE) else NA_real_)
  if (q$kind == "best") {
    first <- which(s$place <= q$best)
    s$best <- data.frame(lapply(s$keys, `[`, first), s$value[first], check.names = FALSE)
    names(s$best) <- c(q$each, q$first$name)
  }
  s$common <- s$line
  s$line <- rep(s$line, length(s$value))
  s
}

line_of_best <- function(s) {
  q <- s$q
  first <- which(s$place <= q$best)
  if (!length(first)) return(NA_real_)
  if (q$level == "median") return(stats::median(s$value[first]))
  if (q$level == "lowest") return(s$value[first[length(first)]])
  if (!averages(q$first$tree)) return(mean(s$value[first]))
  where <- and_also(q$asked$where_now, these_names(q, lapply(s$keys, `[`, first)))
  fold_question(q, character(), where = where)$values[[1]][1]
}

percent_bands <- function(bounds) {
  text <- vapply(bounds, percent_words, "")
  n <- length(bounds)
  number <- sub(" %", "", text, fixed = TRUE)
  c(paste("below", text[1]), if (n > 1) paste(number[-n], "to", text[-1]),
    paste(text[n], "and above"))
}

benchmark_bands <- function(s) {
  labels <- c(rev(s$labels), if (any(s$band == "no percentage")) "no percentage")
  at <- factor(s$band, labels)
  value <- if (s$q$first$adds_up) unname(vapply(split(s$value, at), exact_total, 0)) else NA_real_
  data.frame(band = labels, from = c(rev(s$q$bands), NA, NA)[seq_along(labels)],
             names = tabulate(at, length(labels)), value = value)
}
