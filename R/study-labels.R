# Names as tables show them. Lines without a name are the row "(none)", the rest is "everyone else",
# the whole "total"; a real name that reads like one of these, or like one in quotes, is shown in
# quotes, so that the two are told apart. Until a table is made, no name is a missing one.

label_pattern <- paste0("^'*(\\(none\\)|\\(all\\)|total|all gains|all losses|",
                        "everyone else( \\([0-9,]+\\))?)'*$")

# Of a million names few begin with one of these signs; only these are looked at as a whole.
reads_like_label <- function(x) {
  out <- logical(length(x))
  open <- kernel_texts_begin(x, "'(tae", FALSE)
  out[open] <- grepl(label_pattern, x[open])
  out
}

shown_names <- function(x) {
  if (!is.character(x)) return(x)
  hit <- reads_like_label(x)
  if (any(hit)) x[hit] <- quoted(x[hit])
  x[is.na(x)] <- "(none)"
  x
}

# The names behind: missing for "(none)".
own_names <- function(x) {
  if (!is.character(x)) return(x)
  x[x %in% "(none)"] <- NA
  hit <- reads_like_label(x) & startsWith(x, "'")
  if (any(hit)) x[hit] <- substr(x[hit], 2, nchar(x[hit]) - 1)
  x
}

# Names as sentences call them: "Quarry Combe Garden Centre (03085)".
told_as <- function(question, field, names) {
  with_labels_of(question$book, field, names, own_names(names))
}

# The same of rows of keys, several dimensions joined by a dot; of more than three rows without the
# codes, where no two are called alike.
told_as_keys <- function(question, keys, rows = seq_along(keys[[1]])) {
  tell <- if (length(keys[[1]][rows]) > 3) short_names else told_as
  one <- function(field) tell(question, field, keys[[field]][rows])
  do.call(paste, c(lapply(names(keys), one), sep = " \u00b7 "))
}

# The same where they were told before: what they are called alone, if no two are called alike.
short_names <- function(question, field, names) {
  labels <- labels_of(question$book, field, own_names(names))
  first <- labels[!duplicated(names)]
  alone <- !is.na(labels) & !labels %in% first[duplicated(first)]
  ifelse(alone, one_line(labels), told_as(question, field, names))
}

# Keys with "(none)" for lines without a name.
named_keys <- function(keys) lapply(keys, shown_names)

own_keys <- function(keys) lapply(keys, own_names)
