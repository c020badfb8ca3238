# Score, continued: the question and what is found.

draws_most <- 65000      # the kernel counts draws in 16 bits
names_for_draws <- 1e5   # beyond so many names draws are made only when asked for
twice_counted <- .9      # rank correlation from which two metrics count twice

score_question <- function(book, args) {
  refuse_at_least(book, args)
  if (!is.null(args$clip) && length(args$clip) != 2)
    ll_abort("'clip' must be two percentiles, such as 5%,95%.", "argument")
  q <- refuse_compared(ask_book(book, args, "each"), "score")
  names <- names(q$metrics)
  q["low"] <- list(guarded(q$low))
  if (length(names) < 2)
    ll_abort(c("'score' puts several metrics together; give two or more in 'metrics'.",
               i = "To place by one, ask for standings."), "argument")
  unknown <- setdiff(q$low, names)
  if (length(unknown))
    ll_abort(c(paste0("'low' names ", quoted(unknown[1]), ", which is not among the metrics."),
               offer(unknown[1], names, "Metrics")), "word")
  q$turned <- vapply(q$metrics, function(m) m$better == "low", NA) | names %in% q$low
  q$weights <- read_weights(q$weights, names)
  q$goals <- read_goals(q, names)
  if (q$combine == "product" && q$scaling %in% c("range", "z"))
    ll_abort(c(paste0("A product needs values above zero, and ", quoted(q$scaling),
                      " gives zero or less."),
               i = "Use rank, best or goal with it."), "argument")
  q
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

read_goals <- function(q, names) {
  if (q$scaling != "goal") {
    if (!is.null(q$goals)) ll_abort("'goals' need scaling = \"goal\".", "argument")
    return(NULL)
  }
  if (is.null(q$goals))
    ll_abort("Scaling by goal needs 'goals', one for each metric.", "argument")
  value <- values_of(q$goals, names, "goals")
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

# Names with all they need, scaled values, score and place, best first.
score_names <- function(q) {
  f <- fold_each(q)
  none <- f$none
  few <- f$few
  names <- names(q$metrics)
  value <- as.matrix(f$values[names])
  holes <- rowSums(is.na(value))
  out <- if (q$missing == "drop") holes > 0 else holes == length(names)
  at <- which(!none & !few & !out)
  # By name, so that names with one score stand in that order.
  at <- at[do.call(order, c(unname(lapply(f$keys, `[`, at)), list(method = "radix")))]
  s <- list(q = q, keys = lapply(f$keys, `[`, at), value = value[at, , drop = FALSE],
            exact = f$exact[names], counted = sum(f$lines), few = sum(few & !none),
            dropped = sum(!none & !few & out), patched = sum(holes[at] > 0), nameless = any(none),
            named = sum(!none), total = f$total)
  made <- scale_all(q, s$value, s$exact)
  check_scaled(q, s$value, made$scaled)
  s[c("scaled", "clipped", "constant")] <- made[c("scaled", "clipped", "constant")]
  s$score <- combine_score(q, s$scaled)
  s$place <- places(s$score, exact = FALSE)
  best <- order(s$place, seq_along(s$place))
  s$keys <- lapply(s$keys, `[`, best)
  for (one in c("score", "place")) s[[one]] <- s[[one]][best]
  for (one in c("value", "scaled")) s[[one]] <- s[[one]][best, , drop = FALSE]
  s
}

# Scaled columns, and how many values of each were clipped.
scale_all <- function(q, value, exact) {
  names <- names(q$metrics)
  clipped <- stats::setNames(numeric(length(names)), names)
  constant <- stats::setNames(logical(length(names)), names)
  scaled <- value
  for (name in names) {
    x <- value[, name]
    if (!is.null(q$clip) && any(!is.na(x))) {
      made <- clip_outliers(x, q$clip)
      x <- made$x
      clipped[name] <- made$clipped
    }
    known <- x[!is.na(x)]
    constant[name] <- length(known) > 1 && max(known) - min(known) <= 1e-9 * max(abs(known))
    low <- q$turned[[match(name, names)]]
    scaled[, name] <- scale_metric(x, q$scaling, low, q$goals[[name]], q$cap, exact[[name]])
    if (q$missing == "worst" && length(known))
      scaled[is.na(x), name] <- min(scaled[, name], na.rm = TRUE)
  }
  list(scaled = scaled, clipped = clipped, constant = constant)
}

# On the lines as they are; a resample may give a small name nothing.
check_scaled <- function(q, value, scaled) {
  for (i in seq_along(q$metrics)) if (q$scaling == "best")
    check_best(q, names(q$metrics)[i], value[!is.na(value[, i]), i], q$turned[[i]])
  if (q$combine == "product") check_product(scaled)
}

check_best <- function(q, name, known, low) {
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
                      " that ", if (nrow(bad) == 1) "is" else "are", " not."),
               i = "Use combine = \"sum\", or scaling = \"rank\"."), "data")
}

combine_score <- function(q, scaled) {
  times <- if (q$scaling == "z") 1 else 100
  times * if (q$combine == "sum") weighted_score(scaled, q$weights) else
    geometric_score(scaled, q$weights)
}

# How far places depend on the weights, which metrics say the same, who is beaten on everything.
score_strength <- function(s) {
  q <- s$q
  n <- length(s$score)
  s$draws <- q$draws %||% if (n > names_for_draws) 0 else 2000
  if (n > 1 && s$draws > 0) {
    kernel_threads(thread_count())
    x <- if (q$combine == "sum") s$scaled else log(s$scaled)
    s$drawn <- kernel_weight_draws(unname(x), q$concentration * unname(q$weights), s$draws, q$seed,
                                   q$in_top, .05, .95)
  }
  if (!is.null(q$certainty))
    s$certainty <- resampled_places(q, s$keys, q$metrics, q$asked$where_now, q$certainty, q$seed,
                                    resampled_scores(s))
  s$unbeaten <- if (n && n <= names_for_draws) kernel_unbeaten(unname(missing_lowest(s$scaled)))
  s$without <- if (n) places_without(s$scaled, q$weights, if (q$combine == "sum")
    weighted_score else geometric_score)
  s$correlations <- if (n) rank_correlations(s$scaled)
  s
}

# In each resample the metrics are scaled again, as the score itself was.
resampled_scores <- function(s) {
  function(values, n) {
    values <- as.matrix(values)
    vapply(seq_len(nrow(values) / n), function(b) {
      rows <- (b - 1) * n + seq_len(n)
      combine_score(s$q, scale_all(s$q, values[rows, , drop = FALSE], s$exact)$scaled)
    }, numeric(n))
  }
}

# A missing value beats nobody.
missing_lowest <- function(scaled) {
  scaled[is.na(scaled)] <- -Inf
  scaled
}
