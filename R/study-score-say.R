# Score, continued: the table, its parts, its sentences, notes and proof.

score_table <- function(question, found) {
  args <- question$args
  n <- length(found$score)
  names <- names(question$metrics)
  table <- data.frame(named_keys(found$keys), rank = found$rank, score = found$score,
                      check.names = FALSE)
  names(table)[seq_along(args$each)] <- args$each
  if (!is.null(found$drawn)) {
    table$rank_p5 <- found$drawn$low
    table$rank_p95 <- found$drawn$high
    table$in_top <- found$drawn$inside
  }
  for (name in names) table[[name]] <- in_unit(found$value[, name], question$metrics[[name]])
  points <- score_points(question, found)
  if (!is.null(points)) for (name in names) table[[paste0(name, "_points")]] <- points[, name]
  if (!is.null(found$not_dominated)) table$not_dominated <- ifelse(found$not_dominated, "yes", "no")
  columns <- rbind(
    new_columns("rank", "rank"), new_columns(args$each, "text"),
    new_columns("score", "number", TRUE, if (args$scaling == "z") 2 else 1),
    if (!is.null(found$drawn)) new_columns(c("rank_p5", "rank_p95", "in_top"),
                                           c("rank", "rank", "percent"), TRUE, c(NA, NA, 0)),
    new_columns(names, vapply(question$metrics, `[[`, "", "unit")),
    if (!is.null(points)) new_columns(paste0(names, "_points"), rep("number", length(names)), TRUE,
                                      if (args$scaling == "z") 2 else 1),
    if (!is.null(found$not_dominated)) new_columns("not_dominated", "text"))
  made <- with_resamples(list(table = table, columns = columns), found$resamples)
  c(made, list(parts = score_parts(question, found)))
}

# What each metric adds to the score; a product has no such parts.
score_points <- function(question, found) {
  args <- question$args
  if (args$combine != "sum") return(NULL)
  known <- !is.na(found$scaled)
  part <- drop(known %*% args$weights)
  # Where nothing is missing the weights are those given, to the last bit.
  part[rowSums(known) == ncol(known)] <- 1
  out <- sweep(found$scaled, 2, args$weights, `*`) / part * if (args$scaling == "z") 1 else 100
  out[!known] <- 0
  out
}

score_parts <- function(question, found) {
  args <- question$args
  keys <- data.frame(found$keys, check.names = FALSE)
  names(keys) <- args$each
  weights <- data.frame(metric = names(question$metrics), weight = unname(args$weights),
                        better = ifelse(args$turned, "low", "high"),
                        clipped = unname(found$clipped))
  if (!is.null(args$goals)) weights$goal <- unname(args$goals)
  list(
    weights = weights, correlations = found$correlations,
    without = if (!is.null(found$without)) data.frame(keys, rank = found$rank, found$without,
                                                      check.names = FALSE),
    scaled = data.frame(keys, found$scaled, check.names = FALSE))
}

score_settings <- function(question, found) {
  args <- question$args
  metrics <- question$metrics
  for (name in names(metrics)[args$turned]) metrics[[name]]$better <- "low"
  question_settings(altered(question, metrics = metrics), each = args$each,
                    weights = unname(args$weights), scaling = args$scaling,
                    goals = unname(args$goals),
                    cap = if (args$scaling == "goal") args$cap, combine = args$combine,
                    clip = args$clip, missing = args$missing, draws = args$draws,
                    concentration = args$concentration, seed = args$seed, in_top = args$in_top,
                    min_orders = args$min_orders)
}

score_name <- function(question, found, i) told_as_keys(question, found$keys, i)

score_finding <- function(question, found) {
  n <- length(found$score)
  what <- each_word(question)
  if (!n) return(paste0("No ", what, " has all of ", and_list(spoken(names(question$metrics))),
                        " here."))
  best <- which(found$rank == 1)
  text <- paste0(and_list(score_name(question, found, best), 3),
                 verb(length(best), " scores highest, "),
                 score_text(found$score[1], question), if (length(best) > 1) " each" else
                   unsure_words(found$resamples$ahead[1]))
  after <- which(found$rank == min(found$rank[found$rank > 1], Inf))
  if (length(after)) text <- paste0(
    text, "; ", next_words(score_name(question, found, after),
                           level_words(question)), " with ",
    score_plain(found$score[after[1]], question), if (length(after) > 1) " each")
  if (length(best) == 1 && length(found$score) > 1) text <- paste0(text, weights_words(found))
  paste0(text, ".")
}

# How far the lead hangs on the weights: first by every metric, or in so many of the draws.
weights_words <- function(found) {
  if (leads_all(found)) return("; the leader is first by every metric, and so under any weights")
  if (is.null(found$drawn)) return(NULL)
  paste0("; under nearby weights the leader stays first in ", draws_share(found$drawn$first[1]),
         " of draws", rest_of_draws(found))
}

leads_all <- function(found) {
  !anyNA(found$scaled) && all(found$scaled[1, ] >= apply(found$scaled, 2, max))
}

# ", else second", where it is second in all others.
rest_of_draws <- function(found) {
  first <- found$drawn$first[1]
  if (first == 1) return(NULL)
  if (abs(first + found$drawn$second[1] - 1) < 1e-9) ", else second"
}

# A share that was counted: all of them and none are said only where it is so.
draws_share <- function(share) {
  if (share == 1) return("100 %")
  text <- format_number(share, "percent", 0)
  if (text == "100 %") "more than 99 %" else if (text == "0 %" && share > 0) "fewer than 1 %" else
    text
}

score_text <- function(score, question) {
  paste0(score_plain(score, question), if (question$args$scaling != "z") " of 100")
}

score_plain <- function(score, question) {
  format_number(score, digits = if (question$args$scaling == "z") 2 else 1)
}

score_reading <- function(question, found) {
  args <- question$args
  parts <- paste0(format_number(args$weights, "percent", 0), " ", spoken(names(question$metrics)),
                  ifelse(args$turned, " (less is better)", ""))
  if (!is.null(args$goals)) parts <- paste0(parts, " to ",
                                            vapply(seq_along(args$goals), function(i) {
    said(args$goals[i], question$metrics[[i]])
  }, ""))
  how <- switch(args$scaling, rank = "scaled by rank",
                range = "scaled from the lowest to the highest",
                z = "in standard deviations from the mean", best = "scaled to the best",
                goal = paste0("scaled to the goal, at most ", format_plain(args$cap), " times"))
  missing <- switch(args$missing, drop = NULL, worst = "missing values count as the worst",
                    reweight = "where a value is missing the other weights are raised")
  paste0(each_words(question), " scored by ", and_list(parts, 12), "; ", how,
    if (args$combine == "product") ", multiplied" else ", added",
    if (!is.null(args$clip)) paste0("; values beyond the ", format_plain(args$clip[1] * 100),
                                    " and ", format_plain(args$clip[2] * 100),
                                    " percent points put on them"),
    if (!is.null(missing)) paste0("; ", missing),
    if (!is.null(found$drawn)) paste0("; ranks at 5 and 95 % of ",
                                      count_text(found$draws), " random weightings (concentration ",
                                      format_plain(args$concentration), ", seed ", args$seed, ")"),
         "; ",
    reading_tail(question, few_reading(question), resamples_reading(question, found$resamples)))
}

score_notes <- function(question, found) {
  args <- question$args
  pairs <- if (length(found$score))
    found$correlations[which(abs(found$correlations$correlation) >= twice_counted), ]
  twice <- if (NROW(pairs)) paste0(
    spoken(pairs$metric), " and ", spoken(pairs$with), " go together (rank correlation ",
    format_number(pairs$correlation, digits = 2), ifelse(
      pairs$correlation > 0, "): what they share counts twice.",
      "): they work against each other."))
  flat <- names(which(found$constant))
  clipped <- found$clipped[found$clipped > 0]
  rbind(note("twice", if (length(twice)) capital(twice)),
        note("constant", if (length(flat)) paste0(
          capital(and_list(spoken(flat))), verb(length(flat), " is"),
          " the same for all and decides nothing.")),
        note("turned", other_leaders(question, found)), note("lead", lead_note(question, found)),
        note("not_dominated", if (!is.null(found$not_dominated) &&
                             length(found$score) > 1) not_dominated_words(question, found)),
        note("clipped", if (length(clipped)) paste0("Clipped: ", and_list(paste0(
          plural_each(clipped), " of ", spoken(names(clipped)))), ".")),
        note("missing", if (found$dropped) paste0(
          plural(found$dropped, each_word(question)), " without ",
                                                  if (args$missing == "drop") "one" else "any",
          " of the values left out.")),
        note("missing", if (found$patched) paste0(
          plural(found$patched, each_word(question)), " without one of the values: ",
          if (args$missing == "worst") "the worst taken." else "the other weights raised.")),
        few_note(question, found$few),
        resamples_notes(question, found$resamples),
        note("none", if (found$nameless) "Lines without a name are not ranked."),
        note("draws", if (is.null(args$draws) && length(found$score) > names_for_draws) paste0(
          "No random weightings for more than ", count_text(names_for_draws),
          " names, unless 'draws' asks for them.")),
        question_notes(question))
}

plural_each <- function(n) vapply(n, plural, "", word = "value")

# Who would lead without one of the metrics.
other_leaders <- function(question, found) {
  if (is.null(found$without) || length(found$score) < 2) return(NULL)
  text <- unlist(lapply(colnames(found$without), function(metric) {
    rank <- found$without[, metric]
    if (all(is.na(rank)) || isTRUE(rank[1] == 1)) return(NULL)
    first <- score_name(question, found, which(rank == 1))
    paste0("without ", spoken(metric), ", ", if (length(first) > 3)
      paste(count_text(length(first)), level_words(question)) else and_list(first))
  }))
  if (length(text)) paste0("The lead depends on the choice of metrics: ", and_list(text, 6),
                           " would be first.")
}

# A lead that random weights often turn round.
lead_note <- function(question, found) {
  if (is.null(found$drawn) || length(found$score) < 2 || found$drawn$first[1] >= often_first)
    return(NULL)
  paste0("The first rank hangs on the weights: with weights drawn around those given ",
         score_name(question, found, 1), " is first in ",
         draws_share(found$drawn$first[1]), " of ", count_text(found$draws),
         " draws.")
}

often_first <- .95   # first in fewer of the draws hangs on the weights

not_dominated_words <- function(question, found) {
  n <- sum(found$not_dominated)
  paste0(plural(n, each_word(question)), verb(n, " is"),
         " not dominated, with nobody as good on every metric and better on one",
         if (n <= 6)
           paste0(": ", and_list(score_name(question, found, which(found$not_dominated)))), ".")
}

score_proof <- function(question, found) {
  points <- score_points(question, found)
  rbind(prove_question(question, found$counted, found$total, found$exact),
        proof_line("weights add up to 1", 1, sum(question$args$weights), FALSE),
        proof_line("names = ranked + left out", found$named,
                   length(found$score) + found$dropped + found$few),
        if (!is.null(points))
          proof_line("points of the metrics add up to the score, over all names", sum(found$score),
                     sum(points), FALSE,
                     holds = all(abs(rowSums(points) - found$score) <=
                                   1e-9 * pmax(1, abs(found$score)))))
}

score_behind <- function(question, found) rows_of_names(question$args$each)
