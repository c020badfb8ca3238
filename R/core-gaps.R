# The days on which names have lines, and the gaps between them.

# column: a coded column; days: days since 1970 (missing where unknown); keep: the lines that count.
# Gives list(days, first, last, median, longest), one for each level.
gaps_by_name <- function(column, days, keep) {
  days <- as.integer(floor(days))
  out <- kernel_gaps(days, column$codes, length(column$levels) + 1L, both(keep, !is.na(days)))
  # The first group is that of lines without a name.
  lapply(out, `[`, -1)
}

# The usual interval of each name: its own median from three days up, else the median of those; NA
# where nobody has one. list(gap, own)
usual_gaps <- function(gaps) {
  own <- gaps$days >= 3
  all <- if (any(own)) stats::median(gaps$median[own]) else NA_real_
  list(gap = ifelse(own, gaps$median, all), own = own, all = all)
}

# What the days since a last line mean: "waiting" up to `overdue_after` usual intervals; beyond
# those
# "overdue" when the name was away as long before, else "gone" (two days of lines have one gap).
status_of <- function(since, gap, longest, overdue_after) {
  over <- is.na(gap) | since > overdue_after * gap
  before <- !is.na(longest) & since <= longest
  out <- rep("waiting", length(since))
  out[over] <- "gone"
  out[over & before] <- "overdue"
  out
}
