# Names of fields and metrics that are also those of columns of results: `class`, `rank`,
# `market_share`. Inside they carry a mark that nobody sees, so that both may stand in one table;
# what leaves a study has no marks (see result-guard.R). Whether a name is marked depends on the
# name alone.

guard_mark <- "\u2060"

# Columns of results beside which fields and metrics of a book may stand.
reserved_names <- c(
  "rank", "rank_overall", "rank_before", "moved", "inside", "class", "quadrant", "near_divide",
  "tier", "to_next", "to_fall", "score", "payout", "payout_rate", "pays", "next_adds", "step",
  "benchmark", "of_benchmark", "to_benchmark", "rank_p5", "rank_p95", "in_top", "not_dominated",
  "in_sets", "status", "names", "names_new", "orders_new", "at_stake", "last_order", "last_line",
  "days_since", "usual_interval", "longest_gap", "gap_of", "order_days", "line_days", "lines_new",
  "resampled_from", "resampled_to", "ahead_of_next", "presence", "name_count", "mix_before",
  "mix_now", "beyond_growth", "chance", "period", "part", "days", "cohort", "size", "age", "from",
  "to",
  "count", "band", "group", "name", "dimension", "index", "lines", "line", "lead", "tied",
  "runner_up", "value", "elsewhere", "elsewhere_since",
  "buyers", "peers", "common", "typical", "worth", "gaps", "together", "like", "last_bought",
  "at_most", "matched", "share", "overall", "difference", "ratio", "leader", "segment",
  "condition", "unusual", "leaf", "level", "bound", "crossed", "move", "gap",
  "label")
reserved_endings <- c("rank", "share", "running_total", "running_share", "before", "change",
                      "growth", "inactive", "new", "existing", "unknown", "effect", "rate_effect",
                      "mix_effect", "points", "rolling", "per_day", "all", "runner_up", "lost",
                      "gained")

reserved_ending <- paste0("_(?:", paste(reserved_endings, collapse = "|"), ")$")

guarded <- function(x) {
  if (is.null(x)) return(NULL)
  hit <- which(x %in% reserved_names | grepl(reserved_ending, x, perl = TRUE))
  x[hit] <- paste0(x[hit], guard_mark)
  x
}

unguarded <- function(x) {
  if (!is.character(x)) return(x)
  hit <- grep(guard_mark, x, fixed = TRUE)
  x[hit] <- gsub(guard_mark, "", x[hit], fixed = TRUE)
  x
}
