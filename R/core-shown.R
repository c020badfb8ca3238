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
