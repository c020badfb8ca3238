# Columns that studies share: values in their unit, own columns beside a metric of their name.

in_unit <- function(x, metric) if (metric$unit == "date") as_day(x) else x

# A study's own column of a word that many books have as a metric (orders, month): it steps aside
# where that is asked for. Other words are seen to in result-guard.R.
own_column <- function(word, question, study) {
  if (word %in% names(question$metrics)) paste0(study, "_", word) else word
}

own_column_note <- function(word, question, study) {
  if (word %in% names(question$metrics)) aside_note(word, own_column(word, question, study), study)
}

# An empty row of a table for its foot, with a label where the names stand.
foot_row <- function(table, each, label) {
  out <- table[NA_integer_, , drop = FALSE][1, ]
  out[each] <- c(list(label), rep(list(""), length(each) - 1))
  out
}

# Rows that stand for the lines of the names in these columns, as X_behind() tells it.
rows_of_names <- function(fields) list(keys = stats::setNames(nm = fields))
