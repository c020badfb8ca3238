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

# What stands above columns whose names say too little to a reader: c(column = heading). Columns of
# the metrics' and fields' own names keep them.
plain_headings <- function(question) {
  whose <- arg_or_null(question, "each") %||% arg_or_null(question, "by")
  names <- if (is.null(whose)) "names" else plural_word(nouns_of(question, whose))
  c(names = names, name_count = names, names_new = paste("new", names),
    net_share = "share of net change", gross_share = "share of gross change",
    rank_p5 = "rank from", rank_p95 = "rank to",
    at_stake = paste(c(spoken(names(question$metrics)[1]), "at stake"), collapse = " "),
    benchmark = "target",
    of_benchmark = "of target", to_benchmark = "to target", lead = "ahead by",
    peers = paste("of other", names), buyers = "buyers", common = "share buying",
    typical_share = "usual share", typical = "usual amount")
}

with_plain_headings <- function(question, columns) {
  known <- plain_headings(question)
  plain <- is.na(columns$heading) & columns$name %in% names(known)
  columns$heading[plain] <- known[columns$name[plain]]
  columns
}
