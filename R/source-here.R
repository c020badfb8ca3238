# Lines brought into memory from where they are: for what cannot be told from folded rows.

# Brought lines have no numbers in the book; `origin` is the source that they came from.
line_numbers <- function(source, lines) {
  if (is.null(source$origin)) lines else rep(NA_integer_, length(lines))
}

# Whether only the first of the lines were brought.
is_partial <- function(source) isTRUE(source$partial)
