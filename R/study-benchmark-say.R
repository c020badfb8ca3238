# Benchmark, continued: the table, its sentences, notes and proof.

benchmark_table <- function(s) {
  q <- s$q
  m <- q$first
  table <- data.frame(named_keys(s$keys), place = s$place, s$value, benchmark = s$line,
                      of_benchmark = s$of, to_benchmark = s$line - s$value, band = s$band,
                      check.names = FALSE)
  names(table)[seq_along(q$each)] <- q$each
  names(table)[length(q$each) + 2] <- m$name
  own <- q$kind == "plan"
  columns <- rbind(new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
                   new_columns(c(m$name, "benchmark", "of_benchmark", "to_benchmark", "band"),
                               c(m$unit, m$unit, "percent", change_unit(m$unit), "text"),
                               c(TRUE, own, TRUE, TRUE, TRUE), c(NA, NA, 1, NA, NA)))
  made <- with_certainty(list(table = table, columns = columns), s$certainty)
  c(made, list(foot = benchmark_foot(s, made$table)))
}

benchmark_foot <- function(s, table) {
  q <- s$q
  m <- q$first
  row <- function(label, value = NA_real_, line = NA_real_) {
    out <- foot_row(table, q$each, label)
    out[[m$name]] <- value
    out$benchmark <- line
    if (!is.na(line) && line > 0) out$of_benchmark <- value / line
    out
  }
  held <- lapply(which(s$held$names > 0), function(i) {
    row(paste0(s$held$band[i], " (", count_text(s$held$names[i]), ")"), s$held$value[i])
  })
  none <- if (length(s$none) && m$adds_up)
    list(row("(none)", exact_total(s$none)))
  left <- if (s$few && m$adds_up) list(row(paste0("left out (", count_text(s$few), ")"), s$left))
  planned <- if (q$kind == "plan" && m$adds_up) list(row(
    "with a plan", exact_total(s$value[!is.na(s$line)]), exact_total(s$line[!is.na(s$line)])))
  out <- do.call(rbind, c(held, planned, left, none, list(row("total", s$total[[1]]))))
  rownames(out) <- NULL
  out
}

benchmark_settings <- function(s) {
  q <- s$q
  question_settings(q, each = q$each, line = q$kind, benchmark = s$common, best = q$best,
                    level = if (q$kind == "best") q$level, percentile = q$percentile,
                    plan = if (q$kind == "plan") q$plans$from, bands = q$bands,
                    at_least = q$at_least)
}

benchmark_finding <- function(s) {
  q <- s$q
  m <- q$first
  what <- each_word(q)
  n <- length(s$value)
  if (!n) return(paste0("No ", what, " has ", spoken(m$name), " here."))
  if (q$kind == "plan") return(plan_finding(s, what))
  lowest <- s$held[s$held$band == s$labels[1], ]
  reach <- sum(s$of >= 1 - 1e-9, na.rm = TRUE)
  paste0(line_words(s), "; ", count_text(reach), " of ", plural(n, what),
         if (reach == 1) " reaches it" else " reach it",
         if (lowest$names) paste0(", ", count_text(lowest$names),
                                  if (lowest$names == 1) " is " else " are ", lowest$band,
                                  " of it"), ".")
}

line_words <- function(s) {
  q <- s$q
  m <- q$first
  line <- said(s$common, m)
  if (q$kind == "fixed") return(paste0("The line is ", line, " of ", spoken(m$name)))
  if (q$kind == "percentile")
    return(paste0("The ", format_plain(q$percentile), " percent point of ", spoken(m$name), " is ",
                  line))
  n <- nrow(s$best)
  who <- and_list(joined_names(s$best[q$each]), 4)
  how <- switch(q$level, mean = if (averages(m$tree)) "together have" else "average",
                median = "have a median of", lowest = "all reach")
  paste0("The best ", if (n == 1) "one" else count_text(n), " by ", spoken(m$name), " (", who,
         ") ", if (n == 1) "has" else how, " ", line)
}

plan_finding <- function(s, what) {
  q <- s$q
  planned <- !is.na(s$line)
  if (!any(planned)) return(paste0("No ", what, " has a plan here."))
  reach <- sum(s$of >= 1 - 1e-9, na.rm = TRUE)
  whole <- sum(s$line, na.rm = TRUE)
  ends <- order(-s$of, na.last = NA)
  end <- function(worst, words) {
    of <- s$of[if (worst) utils::tail(ends, 1) else ends[1]]
    level <- which(!is.na(s$of) & abs(s$of - of) <= 1e-9 * abs(of))
    paste0(if (length(level) > 3) paste(count_text(length(level)), level_words(q)) else
      and_list(one_line(s$keys[[1]][level])), " (", format_number(of, "percent"),
      if (length(level) > 1) " each) are " else ") is ", words)
  }
  ends <- ends[!is.na(s$of[ends])]
  paste0(count_text(reach), " of ", plural(sum(planned), what),
         if (reach == 1) " reaches its plan" else " reach their plan",
         if (q$first$adds_up && whole > 0) paste0("; together they have ", format_number(
           sum(s$value[planned]) / whole, "percent"), " of it"),
         if (length(ends) > 1 && s$of[ends[1]] > s$of[utils::tail(ends, 1)])
           paste0("; ", end(FALSE, "farthest ahead"), ", ", end(TRUE, "farthest behind")), ".")
}

benchmark_reading <- function(s) {
  q <- s$q
  m <- q$first
  mean_of <- if (averages(m$tree)) "all of them together" else "their mean"
  line <- switch(q$kind, fixed = paste("a fixed line,", said(s$common, m)),
                 percentile = paste0("the line is the ", format_plain(q$percentile),
                                     " percent point of the names, ", said(s$common, m)),
                 plan = paste("each one's line is the plan,", q$plans$from),
                 best = paste0("the line is the level of the best ", q$best, ", ",
                               switch(q$level, mean = mean_of, median = "their median",
                                      lowest = "the lowest of them"), ", ", said(s$common, m)))
  paste0(each_words(q), " by ", metric_words(m), "; ", line,
    if (m$better == "low") ", and the percentage is the line over the value", "; ",
    reading_tail(q, few_reading(q), certainty_reading(s$certainty)))
}

benchmark_notes <- function(s) {
  q <- s$q
  extra <- if (is.null(s$best)) 0 else nrow(s$best) - min(q$best, length(s$value))
  thin <- if (is.null(s$orders) || is.null(s$best)) 0 else
    sum(s$orders[seq_len(nrow(s$best))] < few_orders)
  flat <- sum(is.na(s$of) & !is.na(s$line))
  rbind(note("ties", if (extra > 0) paste0(
          "A tie at place ", q$best, ": the line is made of ", nrow(s$best), " names.")),
        note("few_orders", if (thin) paste0(
          plural(thin, "name"), " of the best ", if (thin == 1) "has" else "have",
          " fewer than ", few_orders, " ", plural_word(order_word(s$q$book)),
          "; 'at_least' asks for more.")),
        note("no_percentage", if (flat) paste0(
          "Where the line or the value is not above zero there is no percentage: ",
          plural(flat, "name"), ".")),
        few_note(q, s$few, "left"),
        if (q$kind == "plan") plan_notes(s), certainty_notes(s$certainty),
        nameless_note(q, s$none), valueless_note(s$valueless),
        question_notes(q))
}

plan_notes <- function(s) {
  q <- s$q
  plan <- q$plans
  without <- sum(is.na(s$line))
  rbind(note("plan", if (without) paste0(plural(without, "name"), " without a plan: ", and_list(
          one_line(s$keys[[1]][is.na(s$line)]), 4), ".")),
        note("idle", if (s$idle) paste0(plural(s$idle, "name"), " with a plan and without lines.")),
        note("plan_period", if (plan$outside) paste0(
          plural(plan$outside, "row"), " of the plan ", if (plan$outside == 1) "lies" else "lie",
          " outside the period.")),
        note("plan_period", if (plan$partly) paste0(
          "Periods of the plan that lie partly in the question count by their days.")),
        note("plan_period", if (plan$unbound) paste0(
          "The plan names no period; it is held against ", q$asked$now$text,
          ", whatever that covers.")),
        note("plan_where", if (!is.null(q$asked$only)) paste0(
          "The conditions narrow the lines, not the plan.")))
}

benchmark_proof <- function(s) {
  q <- s$q
  m <- q$first
  plain <- raw_lines(q)
  proof <- rbind(prove_question(q, s$counted, s$total, s$exact, plain),
                 prove_parts(q$metrics, stats::setNames(list(c(s$value, s$left, s$none)), m$name),
                             s$total, s$exact, "names"),
                 proof_line("names = names of all bands", length(s$value), sum(s$held$names)))
  pooled <- q$kind == "best" && q$level == "mean" && averages(m$tree) && length(q$each) == 1
  if (!pooled || !length(s$value)) return(proof)
  best <- plain_pick(q$book$source, node("within", arg = key_tree(q$book, q$each),
                                         set = node("set", values = s$best[[1]])))
  keep <- pick_both(best, plain$keep)
  rbind(proof, proof_line("the line = the lines of the best by a second route",
                          plain_metric(q$book$source, m$tree, keep), s$common, FALSE))
}
