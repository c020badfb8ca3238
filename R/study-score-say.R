# Score, continued: the table, its parts, its sentences, notes and proof.

score_table <- function(s) {
  q <- s$q
  n <- length(s$score)
  names <- names(q$metrics)
  table <- data.frame(named_keys(s$keys), place = s$place, score = s$score, check.names = FALSE)
  names(table)[seq_along(q$each)] <- q$each
  if (!is.null(s$drawn)) {
    table$place_5 <- s$drawn$low
    table$place_95 <- s$drawn$high
    table$in_top <- s$drawn$inside
  }
  for (name in names) table[[name]] <- in_unit(s$value[, name], q$metrics[[name]])
  points <- score_points(s)
  if (!is.null(points)) for (name in names) table[[paste0(name, "_points")]] <- points[, name]
  if (!is.null(s$unbeaten)) table$unbeaten <- ifelse(s$unbeaten, "yes", "no")
  columns <- rbind(
    new_columns("place", "place"), new_columns(q$each, rep("text", length(q$each))),
    new_columns("score", "number", TRUE, if (q$scaling == "z") 2 else 1),
    if (!is.null(s$drawn)) new_columns(c("place_5", "place_95", "in_top"),
                                       c("place", "place", "percent"), TRUE, c(NA, NA, 0)),
    new_columns(names, vapply(q$metrics, `[[`, "", "unit")),
    if (!is.null(points)) new_columns(paste0(names, "_points"), rep("number", length(names)), TRUE,
                                      if (q$scaling == "z") 2 else 1),
    if (!is.null(s$unbeaten)) new_columns("unbeaten", "text"))
  with_certainty(list(table = table, columns = columns), s$certainty)
}

# What each metric adds to the score; a product has no such parts.
score_points <- function(s) {
  q <- s$q
  if (q$combine != "sum") return(NULL)
  known <- !is.na(s$scaled)
  part <- drop(known %*% q$weights)
  # Where nothing is missing the weights are those given, to the last bit.
  part[rowSums(known) == ncol(known)] <- 1
  out <- sweep(s$scaled, 2, q$weights, `*`) / part * if (q$scaling == "z") 1 else 100
  out[!known] <- 0
  out
}

score_parts <- function(s) {
  q <- s$q
  keys <- data.frame(s$keys, check.names = FALSE)
  names(keys) <- q$each
  weights <- data.frame(metric = names(q$metrics), weight = unname(q$weights),
                        better = ifelse(q$turned, "low", "high"), clipped = unname(s$clipped))
  if (!is.null(q$goals)) weights$goal <- unname(q$goals)
  Filter(Negate(is.null), list(
    weights = weights, correlations = s$correlations,
    without = if (!is.null(s$without)) data.frame(keys, place = s$place, s$without,
                                                  check.names = FALSE),
    scaled = data.frame(keys, s$scaled, check.names = FALSE)))
}

score_settings <- function(q) {
  for (name in names(q$metrics)[q$turned]) q$metrics[[name]]$better <- "low"
  question_settings(q, each = q$each, weights = unname(q$weights), scaling = q$scaling,
                    goals = unname(q$goals), cap = if (q$scaling == "goal") q$cap,
                    combine = q$combine, clip = q$clip, missing = q$missing, draws = q$draws,
                    concentration = q$concentration, seed = q$seed, in_top = q$in_top,
                    at_least = q$at_least)
}

score_name <- function(s, i) {
  joined_names(lapply(s$keys, `[`, i))
}

score_finding <- function(s) {
  q <- s$q
  n <- length(s$score)
  what <- each_word(q)
  if (!n) return(paste0("No ", what, " has all of ", and_list(spoken(names(q$metrics))), " here."))
  best <- which(s$place == 1)
  text <- paste0(and_list(vapply(best, function(i) score_name(s, i), ""), 3),
                 if (length(best) == 1) " scores highest, " else " score highest, ",
                 score_text(s$score[1], q), if (length(best) > 1) " each" else
                   unsure_words(s$certainty$ahead[1]))
  after <- which(s$place == min(s$place[s$place > 1], Inf))
  if (length(after)) text <- paste0(
    text, "; ", next_words(vapply(after, score_name, "", s = s), level_words(q)), " with ",
    score_text(s$score[after[1]], q), if (length(after) > 1) " each")
  if (!is.null(s$drawn)) {
    firm <- s$drawn$high[1] == 1
    text <- paste0(text, "; with weights drawn around these ", score_name(s, 1), if (firm)
      " stays first in 19 of 20 draws" else paste0(
        " is ", place_range(s$drawn$low[1], s$drawn$high[1]), " in 9 of 10 draws"))
  }
  paste0(text, ".")
}

score_text <- function(score, q) {
  paste0(format_number(score, digits = if (q$scaling == "z") 2 else 1),
         if (q$scaling != "z") " of 100")
}

place_range <- function(from, to) {
  if (from == to) paste("on place", from) else paste0("on places ", from, " to ", to)
}

score_reading <- function(s) {
  q <- s$q
  parts <- paste0(format_number(q$weights, "percent", 0), " ", spoken(names(q$metrics)),
                  ifelse(q$turned, " (less is better)", ""))
  if (!is.null(q$goals)) parts <- paste0(parts, " to ", vapply(seq_along(q$goals), function(i) {
    said(q$goals[i], q$metrics[[i]])
  }, ""))
  how <- switch(q$scaling, rank = "scaled by rank", range = "scaled from the lowest to the highest",
                z = "in standard deviations from the mean", best = "scaled to the best",
                goal = paste0("scaled to the goal, at most ", format_plain(q$cap), " times"))
  missing <- switch(q$missing, drop = NULL, worst = "missing values count as the worst",
                    reweight = "where a value is missing the other weights are raised")
  paste0(each_words(q), " scored by ", and_list(parts, 12), "; ", how,
    if (q$combine == "product") ", multiplied" else ", added",
    if (!is.null(q$clip)) paste0("; values beyond the ", format_plain(q$clip[1] * 100), " and ",
                                 format_plain(q$clip[2] * 100), " percent points put on them"),
    if (!is.null(missing)) paste0("; ", missing),
    if (!is.null(s$drawn)) paste0("; ", count_text(s$draws), " random weightings (concentration ",
                                  format_plain(q$concentration), ", seed ", q$seed, ")"), "; ",
    reading_tail(q, few_reading(q), certainty_reading(s$certainty)))
}

score_notes <- function(s) {
  q <- s$q
  pairs <- if (length(s$score))
    s$correlations[which(abs(s$correlations$correlation) >= twice_counted), ]
  twice <- if (NROW(pairs)) paste0(
    spoken(pairs$metric), " and ", spoken(pairs$with), " go together (rank correlation ",
    format_number(pairs$correlation, digits = 2), ifelse(
      pairs$correlation > 0, "): what they share counts twice.",
      "): they work against each other."))
  flat <- names(which(s$constant))
  clipped <- s$clipped[s$clipped > 0]
  rbind(note("twice", if (length(twice)) capital(twice)),
        note("constant", if (length(flat)) paste0(
          capital(and_list(spoken(flat))), if (length(flat) == 1) " is" else " are",
          " the same for all and decides nothing.")),
        note("turned", other_leaders(s)), note("lead", lead_note(s)),
        note("unbeaten", if (!is.null(s$unbeaten) && length(s$score) > 1) unbeaten_words(s)),
        note("clipped", if (length(clipped)) paste0("Clipped: ", and_list(paste0(
          plural_each(clipped), " of ", spoken(names(clipped)))), ".")),
        note("missing", if (s$dropped) paste0(
          plural(s$dropped, "name"), " without ", if (q$missing == "drop") "one" else "any",
          " of the values left out.")),
        note("missing", if (s$patched) paste0(
          plural(s$patched, "name"), " without one of the values: ", if (q$missing == "worst")
            "the worst taken." else "the other weights raised.")),
        few_note(q, s$few),
        certainty_notes(s$certainty),
        note("none", if (s$nameless) "Lines without a name are not placed."),
        note("draws", if (is.null(q$draws) && length(s$score) > names_for_draws) paste0(
          "No random weightings for more than ", count_text(names_for_draws),
          " names, unless 'draws' asks for them.")),
        question_notes(q))
}

plural_each <- function(n) vapply(n, plural, "", word = "value")

# Who would lead without one of the metrics.
other_leaders <- function(s) {
  if (is.null(s$without) || length(s$score) < 2) return(NULL)
  text <- unlist(lapply(colnames(s$without), function(metric) {
    place <- s$without[, metric]
    if (all(is.na(place)) || isTRUE(place[1] == 1)) return(NULL)
    first <- vapply(which(place == 1), score_name, "", s = s)
    paste0("without ", spoken(metric), ", ", if (length(first) > 3)
      paste(count_text(length(first)), level_words(s$q)) else and_list(first))
  }))
  if (length(text)) paste0("The lead depends on the choice of metrics: ", and_list(text, 6),
                           " would be first.")
}

# A lead that random weights often turn round.
lead_note <- function(s) {
  if (is.null(s$drawn) || length(s$score) < 2 || s$drawn$high[1] == 1) return(NULL)
  paste0("The first place hangs on the weights: with weights drawn around those given ",
         score_name(s, 1), " is on places ", s$drawn$low[1], " to ", s$drawn$high[1],
         " in 9 of 10 draws.")
}

unbeaten_words <- function(s) {
  n <- sum(s$unbeaten)
  paste0(plural(n, "name"), if (n == 1) " is" else " are",
         " beaten by nobody on every metric at once",
         if (n <= 6) paste0(": ", and_list(vapply(which(s$unbeaten), score_name, "", s = s))), ".")
}

score_proof <- function(s) {
  q <- s$q
  points <- score_points(s)
  rbind(prove_question(q, s$counted, s$total, s$exact),
        proof_line("weights add up to 1", 1, sum(q$weights), FALSE),
        proof_line("names = placed + left out", s$named, length(s$score) + s$dropped + s$few),
        if (!is.null(points))
          proof_line("points of the metrics add up to the score, over all names", sum(s$score),
                     sum(points), FALSE,
                     holds = all(abs(rowSums(points) - s$score) <= 1e-9 * pmax(1, abs(s$score)))))
}
