# What every source of lines answers, wherever the lines are: in memory (frame_source) or in a
# database (database_source). Keys and values are trees of the languages, `where` a resolved
# condition or NULL for all lines.

# A new question begins: what was asked for the one before is asked again.
source_begin <- function(source) UseMethod("source_begin")

# What is worked out once for the lines of a source and a key, since they never change.
once <- function(source, key, make) {
  if (!exists(key, envir = once_room(source), inherits = FALSE))
    assign(key, make, envir = once_room(source))
  get(key, envir = once_room(source), inherits = FALSE)
}

once_room <- function(source) {
  if (is.null(source$once)) source$once <- new.env(parent = emptyenv())
  source$once
}

# How many lines there are.
source_size <- function(source) UseMethod("source_size")

# The days on which there are lines, in order.
source_days <- function(source, date) UseMethod("source_days")

# The names that a tree gives on all lines, in their order.
source_names <- function(source, tree) UseMethod("source_names")

# Those of `names`, which the tree gives on some lines, that have more than one spelling; as lists.
source_similar_names <- function(source, tree, names) UseMethod("source_similar_names")

# keys: names of fields, or named trees that give names; parts: aggregate nodes; totals: subsets of
# the keys' names whose subtotals are wanted too. Gives list(keys, parts, lines, totals).
source_fold <- function(source, keys, parts, where = NULL, totals = list()) {
  UseMethod("source_fold")
}

# The same with the keys as codes, and the names they stand for as `levels`.
source_pairs <- function(source, keys, parts, where = NULL, totals = list()) {
  UseMethod("source_pairs")
}

# The distinct values of a row formula and how often each occurs, within each name of `by`:
# list(group, value, times, missing), missing being the lines without a value.
source_counted <- function(source, value, by = NULL, where = NULL) UseMethod("source_counted")

# The days on which each name has lines: list(name, days, first, last, median, longest), see
# core-gaps.R.
source_gaps <- function(source, key, date, where = NULL) UseMethod("source_gaps")

# The latest lines of each name, by their order where there is no date: list(name, line, source),
# the source being one in memory that knows the trees `fields` for those lines.
source_latest <- function(source, key, date, where, fields) UseMethod("source_latest")

# The lines that meet a condition as a source of their own, for questions that fold a few of many
# lines several times.
source_narrowed <- function(source, where) UseMethod("source_narrowed")

# The lines that agree with another in all these fields, as a source of their own.
source_alike <- function(source, fields, where = NULL) UseMethod("source_alike")

# A source in memory that holds every line that meets `where`, perhaps others too, with the fields
# that `trees` and `where` need. `first` is list(by, highest, n) where only so many are wanted.
source_here <- function(source, trees, where = NULL, first = NULL) UseMethod("source_here")

# The same of lines that hold, in each group of names of `keys`, one of the two most extreme values.
source_extremes <- function(source, trees, keys, value, where, highest) UseMethod("source_extremes")

# Of lines with a value, whole orders, until there are about `most` lines, by spread_evenly():
# list(source, of, missing), `of` how many lines there were and how many had no value; NULL where
# nothing was left out.
source_sampled <- function(source, trees, order, value, where, most, seed) {
  UseMethod("source_sampled")
}

# The second route: totals again, ungrouped, with code that the fold does not use. Lines are picked
# first (`keep`: a pick, or NULL for all).

# How many lines are excluded, outside the conditions and outside the period, and the pick of
# those that count.
second_lines <- function(source, aside, only, period) UseMethod("second_lines")

# The lines that meet a condition.
second_pick <- function(source, tree) UseMethod("second_pick")

# Metrics of the lines; `before` are those of the other period.
second_metrics <- function(source, trees, keep, before = NULL) UseMethod("second_metrics")

second_metric <- function(source, tree, keep) second_metrics(source, list(tree), keep)

# The names that the lines have.
second_held <- function(source, tree, keep) UseMethod("second_held")

# The metric of every pair of names: a frame of each, product, value.
second_sums <- function(source, each, product, tree, keep) UseMethod("second_sums")

# How many lines have a value in each field.
second_cells <- function(source, names) UseMethod("second_cells")

# Picks are TRUE or FALSE for each line, or a condition where the lines are not here.
pick_both <- function(a, b) {
  if (is.null(a)) return(b)
  if (is.logical(a) && is.logical(b)) a & b else and_also(a, b)
}

pick_not <- function(a) if (is.logical(a)) !a else unmet(a)
