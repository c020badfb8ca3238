# Heads over two rows: a year or a group stands once above several columns, each named below it.

# `rows` are the cells of the first rows of a table, texts with "" for none; `at` is the row that was
# taken for the header. Gives list(names, last, above): the names of the columns, the row of the head
# that lines follow, and how many of its rows stand above `at`; NULL where one row is the head.
double_head <- function(rows, at) {
  for (upper in c(at - 1L, at)) {
    if (upper < 1 || upper + 2 > length(rows)) next
    top <- rows[[upper]]
    low <- rows[[upper + 1]]
    width <- length(low)
    if (length(top) > width) next
    top <- c(top, rep("", width - length(top)))
    if (is_upper_head(top, low) && are_lines_of(rows[-seq_len(upper + 1)], low))
      return(list(names = joined_heads(top, low), last = upper + 1L, above = as.integer(at - upper)))
  }
}

# A row above the names of the columns leaves some cells blank, those that its groups go on over; what
# both leave blank has no name.
is_upper_head <- function(top, low) {
  held <- nzchar(top)
  # One alone is a title, unless it is a year.
  year <- sum(held) == 1 && !held[1] && grepl("^(19|20)[0-9]{2}$", top[held])
  if (sum(held) < 2 && !year && !anyDuplicated(low[nzchar(low)]) || all(held) || !any(held))
    return(FALSE)
  # A title and a page number stand above what names itself well enough.
  if (held[1] && nzchar(low[1]) && !anyDuplicated(low[nzchar(low)])) return(FALSE)
  all(held | nzchar(low)) && sum(nzchar(low)) >= 2 && any(nzchar(low) & !held)
}

# Whether lines follow a row of names: below some of them stand numbers, and none of them is one but
# for years.
are_lines_of <- function(rows, low) {
  rows <- utils::head(Filter(function(row) length(row) == length(low), rows), 20)
  number <- function(x) grepl("[0-9]", x) & grepl("^[-+(]?[0-9., '\u2019\u00a0\u202f]+[-)]?$", x)
  named <- nzchar(low)
  if (!length(rows) || any(number(low[named]) & !grepl("^(19|20)[0-9]{2}$", low[named]))) return(FALSE)
  # Lines may bear a currency.
  amount <- function(x) number(trimmed(gsub("(^|[-( ])[A-Z]{3}\\b|[\u20ac$\u00a3]|[A-Z]{3}\\)?$", "", x)))
  any(vapply(rows, function(row) any(amount(row[named])), NA))
}

# A group's name goes on to the columns without one beside it, as far as they are named below it.
joined_heads <- function(top, low) {
  for (k in seq_along(top)[-1]) if (!nzchar(top[k]) && nzchar(low[k]) && nzchar(low[k - 1]))
    top[k] <- top[k - 1]
  trimmed(ifelse(top == low, low, paste(top, low)))
}
