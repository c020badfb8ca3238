# Rows that pages of a printed list repeat: the head of one row or two, and the titles above it.

# Places of rows of `data` that repeat the head. `heads` are the rows of the file down to the last
# of its head, as texts; without them the head is the names of the columns.
repeated_heads <- function(data, heads = NULL) {
  texts <- names(data)[vapply(data, function(x) is.character(x) || is.factor(x), NA)]
  # Where a header stands among the lines no column was read as numbers.
  if (length(texts) < 2 || any(vapply(data, is.numeric, NA))) return(integer())
  low <- names(data)
  if (length(heads) && length(heads[[length(heads)]]) == length(data)) low <- heads[[length(heads)]]
  at <- which(nzchar(low) & names(data) %in% texts)
  hit <- which(trimmed(as.character(data[[at[1]]])) == low[at[1]])
  for (k in at[-1]) {
    if (!length(hit)) return(hit)
    cells <- as.character(data[[k]][hit])
    hit <- hit[is_blank(cells) | trimmed(cells) == low[k]]
  }
  union(hit, rows_above(data, hit, utils::head(heads, -1)))
}

# Of the rows above each repeated head those that stand above the first as well; pages may be
# numbered.
rows_above <- function(data, hit, above) {
  out <- integer()
  plain <- function(cells) paste(gsub("[0-9]+", "0", cells[nzchar(cells)]), collapse = "\n")
  titles <- vapply(above, plain, "")
  for (row in hit) for (k in rev(seq_along(titles))) {
    upper <- row - (length(titles) - k + 1)
    if (upper < 1) break
    cells <- vapply(data, function(x) trimmed(as.character(x[upper])), "")
    cells[is.na(cells)] <- ""
    if (plain(cells) != titles[k]) break
    out <- c(out, upper)
  }
  out
}
