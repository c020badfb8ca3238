# Whom a filter takes away: names that have no lines among those asked for and do have lines in the
# rest of the book. Whether a name is new, gone or elsewhere is a fact of the whole book; studies
# ask
# here and none decides by itself.

# Of each row of names (keys of the fields `each`) what it has within a period (a condition, or NULL
# for all dates) outside the question's conditions: a data frame of `held` (whether there are
# lines), `where` (names of the fields that the conditions are of, most lines first), `since` (the
# first day), `value` (the first metric, where it adds up).
elsewhere_of <- function(question, keys, period, each = names(keys)) {
  n <- length(keys[[1]])
  none <- rep(NA_real_, n)
  out <- data.frame(held = logical(n), where = as.character(none), since = as_day(none),
                    value = none)
  outside <- outside_lines(question, period)
  if (!n || is.null(outside)) return(out)
  fields <- where_fields(question, each)
  names(keys) <- each
  if (n <= few_away) outside <- and_also(outside, these_names(question, keys))
  metric <- first_metric(question)
  metric <- if (metric$adds_up && !metric$against) stats::setNames(list(metric), metric$name)
  fold <- fold_metrics(question$book, c(each, fields), metric, outside,
                       extra = list(.day = extreme_day(question$book, "min")))
  row <- match_keys(lapply(fold$keys[each], identity), keys)
  known <- which(!is.na(row))
  at <- factor(row[known], seq_len(n))
  out$held <- tabulate(at, n) > 0 & !Reduce(`|`, lapply(keys, is.na))
  out$since <- as_day(as.numeric(tapply(fold$values$.day[known], at, min)))
  if (length(metric))
    out$value <- as.numeric(tapply(fold$values[[metric[[1]]$name]][known], at, exact_total))
  if (length(fields)) out$where <- where_words(question, fold, known, at, fields[1])
  out
}

few_away <- 5000   # so many names are looked for by themselves, more among all

# The lines within a period that the conditions leave out; NULL where there are no conditions.
outside_lines <- function(question, period) {
  if (is.null(question$asked$only)) return(NULL)
  and_also(kept_lines(question$book), and_also(period, unmet(question$asked$only)))
}

# The dimensions that the conditions are of; those of the names themselves tell no place.
where_fields <- function(question, each) {
  used <- unique(names_in(question$asked$only))
  fields <- question$book$fields
  own <- fields$name[fields$from %in% each]
  utils::head(setdiff(used[used %in% dimensions_of(question$book)], c(each, own)), 1)
}

# "Lotte Fane and 2 more"
where_words <- function(question, fold, known, at, field) {
  name <- fold$keys[[field]][known]
  lines <- fold$lines[known]
  vapply(split(seq_along(known), at), function(rows) {
    if (!length(rows)) return(NA_character_)
    rows <- rows[order(-lines[rows], name[rows], method = "radix")]
    told <- told_as(question, field, shown_names(name[rows[1]]))
    more <- length(rows) - 1
    paste0(told, if (more) paste(" and", count_text(more), "more"))
  }, "", USE.NAMES = FALSE)
}

# Names that are in a group of one period and in none of the other: `none`, or "elsewhere" where
# only the rest of the book has lines of them in that period.
absent_states <- function(question, keys, period, none = "no lines") {
  away <- elsewhere_of(question, keys, period)$held
  if (any(away)) {
    here <- fold_metrics(question$book, names(keys), list(),
                         and_also(question$asked$where_ever, period))$keys
    away <- away & is.na(match_keys(keys, here))
  }
  ifelse(away, "elsewhere", none)
}
