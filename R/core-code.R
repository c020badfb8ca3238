# Coded columns: list(codes, levels). Codes run from 1 in the order of the levels, 0 is missing;
# levels are sorted by bytes, so they do not depend on the order of the lines or the locale.

code_column <- function(x) {
  if (is.factor(x)) return(code_factor(x))
  if (!is.character(x)) return(code_values(x))
  # One encoding for all, so that equal names are one pooled string; repairs are made on the names.
  x <- enc2utf8(x)
  seen <- kernel_code_text(x)
  sort_levels(seen$codes, as_utf8(x[seen$first]))
}

# Numbers, dates and logicals: the distinct values become text, not every line.
code_values <- function(x) {
  distinct <- unique(x[!is.na(x)])
  codes <- match(x, distinct, nomatch = 0L)
  codes[is.na(x)] <- 0L
  sort_levels(codes, plain_text(distinct))
}

code_factor <- function(x) {
  codes <- as.integer(x)
  codes[is.na(codes)] <- 0L
  sort_levels(codes, as_utf8(levels(x)), used = tabulate(codes, nlevels(x)) > 0)
}

# Blank names are no names; equal texts of a factor fall together.
sort_levels <- function(codes, names, used = rep(TRUE, length(names))) {
  named <- used & !is_blank(names)
  levels <- sort(unique(names[named]), method = "radix")
  to <- match(names, levels, nomatch = 0L)
  to[!named] <- 0L
  list(codes = kernel_recode(codes, to), levels = levels)
}

# Numbers, dates and logicals as the text that people would type.
plain_text <- function(x) {
  if (inherits(x, "Date")) return(format(x))
  if (is.numeric(x)) {
    out <- rep(NA_character_, length(x))
    known <- !is.na(x)
    distinct <- unique(x[known])
    out[known] <- format_plain(distinct)[match(x[known], distinct)]
    return(out)
  }
  as.character(x)
}

format_plain <- function(x) {
  text <- trimws(formatC(x, digits = 15, width = 1, format = "fg", flag = "#"))
  ifelse(x == round(x) & abs(x) < 1e15, sprintf("%.0f", x), sub("\\.?0+$", "", text))
}

# A column seen through a register: codes of the register's field for each line.
code_through <- function(codes, levels, register_names, register_values) {
  field <- code_column(register_values)
  at <- match(levels, register_names)
  to <- field$codes[at]
  to[is.na(to)] <- 0L
  list(codes = kernel_recode(codes, to), levels = field$levels)
}

# Rows of keys among those of a table, both lists of columns.
match_keys <- function(keys, table) {
  if (length(keys) == 1) return(match(keys[[1]], table[[1]]))
  code <- function(column, levels) match(column, levels)
  levels <- lapply(table, unique)
  size <- lengths(levels)
  if (prod(size) < 2^53) {
    # One number for each row, exact in a double.
    step <- c(1, cumprod(as.double(size)))[seq_along(size)]
    part <- function(column, level, by) by * code(column, level)
    number <- function(x) Reduce(`+`, Map(part, unname(x), unname(levels), step))
    return(match(number(keys), number(table), incomparables = NA))
  }
  # Codes joined by a mark that no number holds stay apart whatever the names hold.
  text <- function(x) do.call(paste, c(unname(Map(code, x, levels)), sep = ":"))
  match(text(keys), text(table))
}
