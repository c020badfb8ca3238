# Score, continued: the question and what is found.

draws_most <- 65000      # the kernel counts draws in 16 bits
names_for_draws <- 1e5   # beyond so many names draws are made only when asked for
twice_counted <- .9      # rank correlation from which two metrics count twice

score_question <- function(book, args) {
  refuse_min_orders(book, args)
  if (!is.null(args$clip) && length(args$clip) != 2)
    ll_abort("'clip' must be two percentiles, such as 5%,95%.", "argument")
  question <- refuse_compared(ask_book(book, args, "each"), "score")
  names <- names(question$metrics)
  low <- guarded(args$low)
  if (length(names) < 2)
    ll_abort(c("'score' puts several metrics together; give two or more in 'metrics'.",
               i = "To rank by one, ask for standings."), "argument")
  unknown <- setdiff(low, names)
  if (length(unknown))
    ll_abort(c(paste0("'low' names ", quoted(unknown[1]), ", which is not among the metrics."),
               offer(unknown[1], names, "Metrics")), "word")
  weights <- read_weights(args$weights, names)
  goals <- read_goals(question, names)
  if (args$combine == "product" && args$scaling %in% c("range", "z"))
    ll_abort(c(paste0("A product needs values above zero, and ", quoted(args$scaling),
                      " gives zero or less."), i = "Use rank, best or goal with it."), "argument")
  turned <- vapply(question$metrics, function(m) m$better == "low", NA) | names %in% low
  with_args(question, low = low, turned = turned, weights = weights, goals = goals)
}

read_weights <- function(given, names) {
  if (is.null(given)) return(stats::setNames(rep(1 / length(names), length(names)), names))
  value <- values_of(given, names, "weights")
  bad <- which(value < 0)[1]
  if (!is.na(bad))
    ll_abort(paste0("Weights may not be negative: ", names[bad], " has ", format_plain(value[bad]),
                    ". For less is better use 'low'."), "argument")
  if (sum(value) == 0) ll_abort("The weights are all 0.", "argument")
  value / sum(value)
}

read_goals <- function(question, names) {
  args <- question$args
  if (args$scaling != "goal") {
    if (!is.null(args$goals)) ll_abort("'goals' need scaling = \"goal\".", "argument")
    return(NULL)
  }
  if (is.null(args$goals))
    ll_abort("Scaling by goal needs 'goals', one for each metric.", "argument")
  value <- values_of(args$goals, names, "goals")
  bad <- which(value <= 0)[1]
  if (!is.na(bad))
    ll_abort(paste0("Goals must be above zero: that of ", names[bad], " is ",
                    format_plain(value[bad]), "."), "argument")
  value
}

# One number for each metric, by name or in their order.
values_of <- function(given, names, argument) {
  if (is.null(names(given)) || !any(nzchar(names(given)))) {
    if (length(given) != length(names))
      ll_abort(paste0("'", argument, "' must be ", plural(length(names), "number"), ", one for ",
                      "each metric; there ", if (length(given) == 1) "is 1." else
                        paste0("are ", length(given), ".")), "argument")
    return(stats::setNames(given, names))
  }
  names(given) <- guarded(names(given))
  unknown <- setdiff(names(given), names)
  if (length(unknown))
    ll_abort(c(paste0("'", argument, "' names ", quoted(unknown[1]),
                      ", which is not among the metrics."),
               offer(unknown[1], names, "Metrics")), "word")
  lacking <- setdiff(names, names(given))
  if (length(lacking))
    ll_abort(paste0("'", argument, "' says nothing of ", and_list(quoted(lacking)), "."),
             "argument")
  given[names]
}

# Names with all they need, scaled values, score and rank, best first.
score_names <- function(question) {
  fold <- fold_each(question)
  none <- fold$none
  few <- fold$few
  names <- names(question$metrics)
  value <- as.matrix(fold$values[names])
  holes <- rowSums(is.na(value))
  out <- if (question$args$missing == "drop") holes > 0 else holes == length(names)
  at <- which(!none & !few & !out)
  # By name, so that names with one score stand in that order.
  at <- at[do.call(order, c(unname(lapply(fold$keys, `[`, at)), list(method = "radix")))]
  found <- list(keys = lapply(fold$keys, `[`, at),
                value = value[at, , drop = FALSE], exact = fold$exact[names],
                counted = sum(fold$lines), few = sum(few & !none),
                dropped = sum(!none & !few & out), patched = sum(holes[at] > 0),
                nameless = any(none), named = sum(!none), total = fold$total)
  made <- scale_all(question, found$value, found$exact)
  check_scaled(question, found$value, made$scaled)
  found[c("scaled", "clipped", "constant")] <- made[c("scaled", "clipped", "constant")]
  found$score <- combine_score(question, found$scaled)
  found$rank <- ranks(found$score, exact = FALSE)
  best <- order(found$rank, seq_along(found$rank))
  found$keys <- lapply(found$keys, `[`, best)
  for (one in c("score", "rank")) found[[one]] <- found[[one]][best]
  for (one in c("value", "scaled")) found[[one]] <- found[[one]][best, , drop = FALSE]
  found
}

# Scaled columns, and how many values of each were clipped.
scale_all <- function(question, value, exact) {
  args <- question$args
  names <- names(question$metrics)
  clipped <- stats::setNames(numeric(length(names)), names)
  constant <- stats::setNames(logical(length(names)), names)
  scaled <- value
  for (name in names) {
    x <- value[, name]
    if (!is.null(args$clip) && any(!is.na(x))) {
      made <- clip_outliers(x, args$clip)
      x <- made$x
      clipped[name] <- made$clipped
    }
    known <- x[!is.na(x)]
    constant[name] <- length(known) > 1 && max(known) - min(known) <= 1e-9 * max(abs(known))
    low <- args$turned[[match(name, names)]]
    scaled[, name] <- scale_metric(x, args$scaling, low, args$goals[[name]], args$cap,
                                   exact[[name]])
    if (args$missing == "worst" && length(known))
      scaled[is.na(x), name] <- min(scaled[, name], na.rm = TRUE)
  }
  list(scaled = scaled, clipped = clipped, constant = constant)
}

# On the lines as they are; a resample may give a small name nothing.
check_scaled <- function(question, value, scaled) {
  args <- question$args
  for (i in seq_along(question$metrics)) if (args$scaling == "best")
    check_best(names(question$metrics)[i], value[!is.na(value[, i]), i], args$turned[[i]])
  if (args$combine == "product") check_product(scaled)
}

check_best <- function(name, known, low) {
  if (!length(known)) return(invisible())
  if (low && any(known < 0) || !low && max(known) <= 0)
    ll_abort(c(paste0("Scaling to the best needs ", if (low) "no value of " else
      "a value of ", quoted(name), if (low) " below zero." else " above zero."),
      i = "Use rank, range or z."), "data")
}

check_product <- function(scaled) {
  bad <- which(!is.na(scaled) & scaled <= 0, arr.ind = TRUE)
  if (NROW(bad))
    ll_abort(c(paste0("A product needs values above zero, and ",
                      quoted(colnames(scaled)[bad[1, 2]]), " has ", plural(nrow(bad), "value"),
                      " that ", verb(nrow(bad), "is"), " not."),
               i = "Use combine = \"sum\", or scaling = \"rank\"."), "data")
}

combine_score <- function(question, scaled) {
  args <- question$args
  times <- if (args$scaling == "z") 1 else 100
  times * if (args$combine == "sum") weighted_score(scaled, args$weights) else
    geometric_score(scaled, args$weights)
}

# How far ranks depend on the weights, which metrics say the same, who is dominated.
score_strength <- function(question, found) {
  args <- question$args
  n <- length(found$score)
  found$draws <- args$draws %||% if (n > names_for_draws) 0 else 2000
  if (n > 1 && found$draws > 0) {
    kernel_threads(thread_count())
    x <- if (args$combine == "sum") found$scaled else log(found$scaled)
    found$drawn <- kernel_weight_draws(unname(x), args$concentration * unname(args$weights),
                                       found$draws, args$seed, args$in_top, .05, .95)
  }
  if (!is.null(args$resamples))
    found$resamples <- resampled_ranks(question, found$keys, question$metrics,
                                       question$asked$where_now, args$resamples, args$seed,
                                       resampled_scores(question, found))
  found$not_dominated <- if (n &&
                        n <= names_for_draws) kernel_not_dominated(unname(missing_lowest(found$scaled)))
  found$without <- if (n) ranks_without(found$scaled, args$weights, if (args$combine == "sum")
    weighted_score else geometric_score)
  found$correlations <- if (n) rank_correlations(found$scaled)
  found
}

# In each resample the metrics are scaled again, as the score itself was.
resampled_scores <- function(question, found) {
  function(values, n) {
    values <- as.matrix(values)
    vapply(seq_len(nrow(values) / n), function(b) {
      rows <- (b - 1) * n + seq_len(n)
      combine_score(question, scale_all(question, values[rows, , drop = FALSE], found$exact)$scaled)
    }, numeric(n))
  }
}

# A missing value beats nobody.
missing_lowest <- function(scaled) {
  scaled[is.na(scaled)] <- -Inf
  scaled
}

score_found <- found_of(
  "score",
  keys = holds("keys", "name", "the names scored, best first"),
  value = holds("matrix", "name", "their metrics", missing = "where a name has no value"),
  scaled = holds("matrix", "name", "the metrics scaled", missing = "likewise"),
  score = holds("number", "name", "their scores", missing = "where all metrics are"),
  rank = holds("rank", "name", "their ranks", missing = "without a score"),
  clipped = holds("count", "metric", "values clipped"),
  constant = holds("flag", "metric", "whether all names have the same"),
  few = holds("count", "one", "names with too few orders"),
  dropped = holds("count", "one", "names left out for missing values"),
  patched = holds("count", "one", "names scored without one of the values"),
  nameless = holds("flag", "one", "whether there are lines without a name"),
  named = holds("count", "one", "names in all"),
  draws = holds("count", "one", "random weightings asked for"),
  drawn = holds("list", NULL, "low, high, inside: ranks under random weightings",
                absent = "without draws"),
  not_dominated = holds("flag", "name", "whether nobody is as good on every metric and better on one",
                   absent = "without names, or with too many"),
  without = holds("matrix", "name", "ranks without each metric",
                  missing = "where a name has no other", absent = "without names"),
  correlations = holds("table", NULL, "metric, with, correlation", absent = "without names"),
  resamples = holds("list", NULL, "ranges of ranks, see resampled_ranks()",
                    absent = "without resamples"))

score_work <- function(question) {
  do.call(score_found, score_strength(question, score_names(question)))
}
