# Benchmark, continued: the question and what is found.

benchmark_question <- function(book, args) {
  refuse_min_orders(book, args)
  kinds <- c("best", "fixed", "percentile", "plan")
  asked <- kinds[!vapply(args[kinds], is.null, NA)]
  if (length(asked) > 1)
    ll_abort(paste0("One target at a time: ", and_list(quoted(asked)), " are given."), "argument")
  if (!length(asked)) args <- altered(args, best = 3)
  args <- altered(args, bands = args$bands %||% c(.5, .8, 1),
                  kind = if (length(asked)) asked else "best")
  question <- refuse_compared(ask_book(book, args, "each"), "benchmark")
  refuse_several(question, "'benchmark' sets a target for")
  metric <- first_metric(question)
  if (metric$unit == "date")
    ll_abort(paste0("A date is no percentage of another: ", quoted(metric$name),
                    " has no benchmark."), "argument")
  with_args(question, plans = if (args$kind == "plan") read_plan(question))
}

benchmark_found <- found_of(
  "benchmark", common = found_ranked[names(found_ranked) != "rank"],
  rank = holds("rank", "name", "their ranks, ties sharing one",
               missing = "against plans, without a percentage"),
  orders = holds("count", "name", "their orders", absent = "where nothing asks for them"),
  few = holds("count", "one", "names with too few orders"),
  left = holds("metric", "one", "what these hold"),
  line = holds("metric", "name", "what each is measured by", missing = "without a plan"),
  of = holds("share", "name", "the value as a share of the target", missing = "where it is none"),
  labels = holds("text", NULL, "the bands, lowest first"),
  band = holds("text", "name", "the band of each, or no percentage"),
  held = holds("table", NULL, "band, from, names, value: highest first"),
  shared_line = holds("metric", "one", "the one line of all", missing = "without names",
                 absent = "with plans"),
  best = holds("table", NULL, "the names that the target is drawn from",
               absent = "where it is not drawn from the best"),
  idle = holds("count", "one", "names with a plan and without lines", absent = "without plans"),
  resamples = holds("list", NULL, "ranges of ranks, see resampled_ranks()",
                    absent = "without resamples"))

benchmark_work <- function(question) {
  args <- question$args
  metric <- first_metric(question)
  found <- benchmark_fold(question)
  found <- if (args$kind == "plan") plan_lines(question, found) else own_line(question, found)
  low <- metric$better == "low"
  above <- found$line > 0 & (!low | found$value > 0)
  found$of <- ifelse(!is.na(above) & above, if (low) found$line / found$value else
                     found$value / found$line, NA)
  if (args$kind == "plan") found <- by_attainment(found)
  found$labels <- percent_bands(args$bands)
  number <- findInterval(found$of + 1e-9, args$bands)
  found$band <- ifelse(is.na(found$of), "no percentage", found$labels[number + 1])
  found$held <- benchmark_bands(question, found)
  if (!is.null(args$resamples))
    found$resamples <- resampled_ranks(question, found$keys, question$metrics,
                                       question$asked$where_now, args$resamples, args$seed,
                                       metric_scores(metric))
  do.call(benchmark_found, without(found, "unvalued"))
}

# Against plans names stand by how far each has come, those without a percentage last and not
# ranked.
by_attainment <- function(found) {
  at <- order(-found$of, na.last = TRUE)
  found$keys <- lapply(found$keys, `[`, at)
  for (one in intersect(c("value", "orders", "line", "of"), names(found)))
    found[[one]] <- found[[one]][at]
  found$rank <- ranks(found$of, exact = FALSE)
  found
}

# Names best first, those with too few orders left out.
benchmark_fold <- function(question) {
  fold <- fold_each(question, orders = wants_orders(question))
  none <- fold$none
  few <- fold$few
  value <- fold$values[[1]]
  shown <- which(!none & !few & !is.na(value))
  at <- shown[best_order(value[shown], first_metric(question)$better == "high")]
  list(keys = lapply(fold$keys, `[`, at), value = value[at], none = value[none],
       orders = fold$orders[at], few = sum(few & !none),
       left = exact_total(value[few & !none]),
       valueless = sum(!none & !few & is.na(value)),
       unvalued = fold$keys[[1]][!none & !few & is.na(value)],
       rank = sorted_ranks(value[at], fold$exact[[1]]),
       total = fold$total,
       exact = fold$exact[names(question$metrics)], counted = sum(fold$lines))
}

# One target for all.
own_line <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  found$line <- switch(args$kind, fixed = args$fixed, best = line_of_best(question, found),
                       percentile = if (length(found$value)) stats::quantile(
                     found$value, if (metric$better == "low") 1 - args$percentile / 100 else
                       args$percentile / 100, names = FALSE) else NA_real_)
  if (args$kind == "best") {
    first <- which(found$rank <= args$best)
    found$best <- data.frame(lapply(found$keys, `[`, first), found$value[first],
                             check.names = FALSE)
    names(found$best) <- c(args$each, metric$name)
  }
  found$shared_line <- found$line
  found$line <- rep(found$line, length(found$value))
  found
}

line_of_best <- function(question, found) {
  args <- question$args
  first <- which(found$rank <= args$best)
  if (!length(first)) return(NA_real_)
  if (args$level == "median") return(stats::median(found$value[first]))
  if (args$level == "lowest") return(found$value[first[length(first)]])
  if (!averages(first_metric(question)$tree)) return(mean(found$value[first]))
  where <- and_also(question$asked$where_now, these_names(question, lapply(found$keys, `[`, first)))
  fold_question(question, character(), where = where)$values[[1]][1]
}

percent_bands <- function(bounds) {
  text <- vapply(bounds, percent_words, "")
  n <- length(bounds)
  number <- sub(" %", "", text, fixed = TRUE)
  c(paste("below", text[1]), if (n > 1) paste(number[-n], "to", text[-1]),
    paste(text[n], "and above"))
}

benchmark_bands <- function(question, found) {
  labels <- c(rev(found$labels), if (any(found$band == "no percentage")) "no percentage")
  at <- factor(found$band, labels)
  sums <- unname(vapply(split(found$value, at), exact_total, 0))
  value <- if (first_metric(question)$adds_up) sums else NA_real_
  data.frame(band = labels, from = c(rev(question$args$bands), NA, NA)[seq_along(labels)],
             names = tabulate(at, length(labels)), value = value)
}
