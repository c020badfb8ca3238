# Cohorts: names by the period of their first day.
#
# first: each name's first day (days since 1970); since: a day before which it is known to be there,
# missing where unknown, or NULL; opening: the book's first day. In the opening period nobody can
# tell who is new, unless `since` does. Gives list(label, order): the cohort of each name, and the
# cohorts in their order.

cohorts_of <- function(first, since, part, calendar, opening) {
  label <- bucket_labels(first, part, calendar)
  opens <- bucket_labels(opening, part, calendar)
  known <- if (is.null(since)) logical(length(first)) else !is.na(since)
  before <- known
  before[known] <- bucket_labels(since[known], part, calendar) < opens
  unknown <- label == opens & !known
  words <- c(before = paste("before", opens), unknown = paste(opens, "or before"))
  label[before] <- words[["before"]]
  label[unknown] <- words[["unknown"]]
  list(label = label, before = words[["before"]], unknown = words[["unknown"]], opens = opens,
       order = c(intersect(words, label), sort(setdiff(unique(label), words), method = "radix")))
}
