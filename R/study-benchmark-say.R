# Benchmark, continued: the table, its sentences, notes and proof.

benchmark_table <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  table <- data.frame(named_keys(found$keys), rank = found$rank, found$value,
                      benchmark = found$line, of_benchmark = found$of,
                      to_benchmark = found$line - found$value, band = found$band,
                      check.names = FALSE)
  names(table)[seq_along(args$each)] <- args$each
  names(table)[length(args$each) + 2] <- metric$name
  own <- args$kind == "plan"
  columns <- rbind(new_columns("rank", "rank"), new_columns(args$each, "text"),
                   new_columns(c(metric$name, "benchmark", "of_benchmark", "to_benchmark", "band"),
                               c(metric$unit, metric$unit, "percent", change_unit(metric$unit),
                                 "text"),
                               c(TRUE, own, TRUE, TRUE, TRUE), c(NA, NA, 1, NA, NA)))
  made <- with_resamples(list(table = table, columns = columns), found$resamples)
  c(made, list(parts = list(foot = benchmark_foot(question, found, made$table),
                            bands = found$held, best = found$best)))
}

benchmark_foot <- function(question, found, table) {
  args <- question$args
  metric <- first_metric(question)
  row <- function(label, value = NA_real_, line = NA_real_) {
    out <- foot_row(table, args$each, label)
    out[[metric$name]] <- value
    out$benchmark <- line
    if (!is.na(line) && line > 0) out$of_benchmark <- value / line
    out
  }
  held <- lapply(which(found$held$names > 0), function(i) {
    row(paste0(found$held$band[i], " (", count_text(found$held$names[i]), ")"), found$held$value[i])
  })
  none <- if (length(found$none) && metric$adds_up)
    list(row("(none)", exact_total(found$none)))
  left <- if (found$few && metric$adds_up)
    list(row(paste0("left out (", count_text(found$few), ")"), found$left))
  known <- !is.na(found$line)
  planned <- if (args$kind == "plan" && metric$adds_up)
    list(row("with a plan", exact_total(found$value[known]), exact_total(found$line[known])))
  out <- do.call(rbind, c(held, planned, left, none, list(row("total", found$total[[1]]))))
  rownames(out) <- NULL
  out
}

benchmark_settings <- function(question, found) {
  args <- question$args
  question_settings(question, each = args$each, line = args$kind, benchmark = found$shared_line,
                    best = args$best, level = if (args$kind == "best") args$level,
                    percentile = args$percentile, plan = if (args$kind == "plan") args$plans$from,
                    bands = args$bands, min_orders = args$min_orders)
}

benchmark_finding <- function(question, found) {
  metric <- first_metric(question)
  what <- each_word(question)
  n <- length(found$value)
  if (!n) return(paste0("No ", what, " has ", spoken(metric$name), " here."))
  if (question$args$kind == "plan") return(plan_finding(question, found, what))
  lowest <- found$held[found$held$band == found$labels[1], ]
  reach <- sum(found$of >= 1 - 1e-9, na.rm = TRUE)
  paste0(line_words(question, found), "; ", count_text(reach), " of ", plural(n, what),
         verb(reach, " reaches it"),
         if (lowest$names) paste0(", ", count_text(lowest$names),
                                  verb(lowest$names, " is "), lowest$band,
                                  " of it"), ".")
}

line_words <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  line <- said(found$shared_line, metric)
  if (args$kind == "fixed") return(paste0("The target is ", line, " of ", spoken(metric$name)))
  if (args$kind == "percentile")
    return(paste0("The ", format_plain(args$percentile), " percent point of ", spoken(metric$name),
                  " is ", line))
  n <- nrow(found$best)
  who <- and_list(told_as_keys(question, found$best[args$each]), 4)
  how <- switch(args$level, mean = if (averages(metric$tree)) "together have" else "average",
                median = "have a median of", lowest = "all reach")
  paste0("The best ", if (n == 1) "one" else count_text(n), " by ", spoken(metric$name), " (", who,
         ") ", if (n == 1) "has" else how, " ", line)
}

plan_finding <- function(question, found, what) {
  planned <- !is.na(found$line)
  if (!any(planned)) return(paste0("No ", what, " has a plan here."))
  reach <- sum(found$of >= 1 - 1e-9, na.rm = TRUE)
  whole <- sum(found$line, na.rm = TRUE)
  ends <- order(-found$of, na.last = NA)
  end <- function(worst, words) {
    of <- found$of[if (worst) utils::tail(ends, 1) else ends[1]]
    level <- which(!is.na(found$of) & abs(found$of - of) <= 1e-9 * abs(of))
    paste0(if (length(level) > 3) paste(count_text(length(level)), level_words(question)) else
      and_list(told_as_keys(question, found$keys, level)), " (", format_number(of, "percent"),
      if (length(level) > 1) " each) are " else ") is ", words)
  }
  ends <- ends[!is.na(found$of[ends])]
  paste0(count_text(reach), " of ", plural(sum(planned), what),
         if (reach == 1) " reaches its plan" else " reach their plan",
         if (first_metric(question)$adds_up && whole > 0) paste0(
           "; together they have ", format_number(sum(found$value[planned]) / whole, "percent"),
           " of it"),
         if (length(ends) > 1 && found$of[ends[1]] > found$of[utils::tail(ends, 1)])
           paste0("; ", end(FALSE, "farthest ahead"), ", ", end(TRUE, "farthest behind")), ".")
}

benchmark_reading <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  mean_of <- if (averages(metric$tree)) "all of them together" else "their mean"
  line <- switch(args$kind, fixed = paste("a fixed target,", said(found$shared_line, metric)),
                 percentile = paste0(
                   "the target is the ", format_plain(args$percentile),
                   " percent point of the names, ", said(found$shared_line, metric)),
                 plan = paste("each one's target is the plan,", args$plans$from),
                 best = paste0("the target is the level of the best ", args$best, ", ",
                               switch(args$level, mean = mean_of, median = "their median",
                                      lowest = "the lowest of them"), ", ",
                               said(found$shared_line, metric)))
  paste0(each_words(question), " by ", if (args$kind == "plan") "what they reached of their plan in ",
    metric_words(metric), "; ", line,
    if (metric$better == "low") ", and the percentage is the target over the value", "; ",
    reading_tail(question, few_reading(question), resamples_reading(question, found$resamples)))
}

benchmark_notes <- function(question, found) {
  args <- question$args
  extra <- if (is.null(found$best)) 0 else nrow(found$best) - min(args$best, length(found$value))
  thin <- if (is.null(found$orders) || is.null(found$best)) 0 else
    sum(found$orders[seq_len(nrow(found$best))] < few_orders)
  flat <- sum(is.na(found$of) & !is.na(found$line))
  rbind(note("ties", if (extra > 0) paste0(
          "A tie at rank ", args$best, ": the target is made of ", nrow(found$best), " names.")),
        note("few_orders", if (thin) paste0(
          plural(thin, each_word(question)), " of the best ", verb(thin, "has"),
          " fewer than ", few_orders, " ", plural_word(order_word(question$book)),
          "; 'min_orders' asks for more.")),
        note("no_percentage", if (flat) paste0(
          "Where the target or the value is not above zero there is no percentage: ",
          plural(flat, each_word(question)), ".")),
        few_note(question, found$few, "left"),
        if (args$kind == "plan") plan_notes(question, found),
        resamples_notes(question, found$resamples),
        nameless_note(question, found$none), valueless_note(question, found$valueless),
        question_notes(question))
}

plan_notes <- function(question, found) {
  plan <- question$args$plans
  without <- sum(is.na(found$line))
  rbind(note("plan", if (without) paste0(plural(without, each_word(question)), " without a plan: ",
                                         and_list(
          told_as_keys(question, found$keys, is.na(found$line)), 4), ".")),
        note("idle", if (found$idle) paste0(plural(found$idle, each_word(question)),
                                            " with a plan and without lines.")),
        note("plan_period", if (plan$outside) paste0(
          plural(plan$outside, "row"), " of the plan ", verb(plan$outside, "lies"),
          " outside the period.")),
        note("plan_period", if (plan$partly) paste0(
          "Periods of the plan that lie partly in the question count by their days.")),
        note("plan_period", if (plan$unbound) paste0(
          "The plan names no period; it is held against ", question$asked$now$text,
          ", whatever that covers.")),
        note("plan_whole", plan_part_words(question)),
        note("plan_where", if (!is.null(question$asked$only)) paste0(
          "The conditions narrow the lines, not the plan.")))
}

# A plan that names no period is taken whole, and the lines may not go to the period's end.
plan_part_words <- function(question) {
  now <- question$asked$now
  if (!question$args$plans$unbound || is.null(now)) return(NULL)
  covered <- covered_part(now, question$book)
  if (is.null(covered)) return(NULL)
  paste0("The plan is taken whole, and the lines cover ", plural(period_days(covered), "day"), " of ",
         count_text(period_days(now)), " of ", period_name(now) %||% short_span(now), ", ",
         format_number(period_days(covered) / period_days(now), "percent", 0), " of them.")
}

benchmark_proof <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  plain <- raw_lines(question)
  proof <- rbind(prove_question(question, found$counted, found$total, found$exact, plain),
                 prove_parts(question$metrics,
                             stats::setNames(list(c(found$value, found$left, found$none)),
                                             metric$name), found$total, found$exact, "names"),
                 proof_line("names = names of all bands", length(found$value),
                            sum(found$held$names)))
  pooled <- args$kind == "best" && args$level == "mean" && averages(metric$tree) &&
    length(args$each) == 1
  if (!pooled || !length(found$value)) return(proof)
  best <- second_pick(question$book$source, node("within", arg = key_tree(question$book, args$each),
                                                 set = node("set", values = found$best[[1]])))
  keep <- pick_both(best, plain$keep)
  rbind(proof, proof_line("the target = the lines of the best by a second route",
                          second_metric(question$book$source, metric$tree, keep), found$shared_line,
                          FALSE))
}

benchmark_behind <- function(question, found) rows_of_names(question$args$each)
