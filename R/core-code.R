# Coded columns: list(codes, levels). Codes run from 1 in the order of the levels, 0 is missing;
# levels are sorted by bytes, so they do not depend on the order of the lines or the locale. Those
# that are kept also tell how many `lines` each code has, from 0.

code_column <- function(x) {
  if (is.factor(x)) return(code_factor(x))
  if (!is.character(x)) return(code_values(x))
  seen <- kernel_code_text(x)
  if (seen$plain) return(seen[c("codes", "levels")])
  # In one encoding, so that equal names fall together; fixes are made on the names.
  sort_levels(seen$codes, as_utf8(seen$levels))
}

# The rank of each name by its bytes; blank ones have 0.
name_ranks <- function(names) kernel_order_names(names, NULL)$to

# Where each of some values stands among names that differ, 0 for none; a kept book's names are
# looked at where they lie.
name_places <- function(names, values) {
  kernel_text_places(names, as_utf8(as.character(values))) %||% match(values, names, nomatch = 0L)
}

# Those of some values that are no names.
not_among <- function(values, names) unique(values[!name_places(names, values)])

# Whether each name is one of these values.
is_named <- function(names, values) {
  out <- logical(length(names))
  out[name_places(names, values)] <- TRUE
  out
}

with_lines <- function(column) {
  column$lines <- kernel_count(length(column$codes), column$codes, length(column$levels) + 1L, NULL)
  column
}

# Numbers, dates and logicals: the distinct values become text, not every line.
code_values <- function(x) {
  if (is.integer(x)) {
    found <- distinct_whole(as.vector(unclass(x)), most = 4 * length(x) + 1e6)
    if (!is.null(found$values)) return(code_whole(found, inherits(x, "Date")))
  }
  distinct <- unique(x[!is.na(x)])
  codes <- match(x, distinct, nomatch = 0L)
  codes[is.na(codes)] <- 0L
  sort_levels(codes, plain_text(distinct))
}

# Whole numbers that lie close together, by their place.
code_whole <- function(found, days) {
  sorted <- kernel_order_names(plain_text(if (days) as_day(found$values) else found$values), NULL)
  list(codes = recode_whole(found, sorted$to), levels = sorted$levels)
}

# The whole numbers that occur, in order: list(values, at), `at` the number of each line. `values`
# is NULL where they span more than `most`.
distinct_whole <- function(at, most = Inf) {
  ends <- kernel_ends(at, NULL)
  if (!ends[["known"]]) return(list(values = integer(), at = at))
  first <- ends[["least"]]
  span <- ends[["most"]] - first + 1
  if (span > most) return(list(values = NULL, at = at))
  list(values = as.integer(first + (which(kernel_seen(at, first, span)) - 1)), at = at)
}

# Each line's code, from those of the numbers that occur.
recode_whole <- function(found, codes) {
  if (!length(found$values)) return(integer(length(found$at)))
  first <- found$values[1]
  to <- integer(found$values[length(found$values)] - as.double(first) + 1)
  to[found$values - first + 1L] <- codes
  kernel_recode_from(found$at, first, to)
}

code_factor <- function(x) {
  codes <- as.integer(x)
  codes[is.na(codes)] <- 0L
  sort_levels(codes, as_utf8(levels(x)), used = tabulate(codes, nlevels(x)) > 0)
}

# Blank names are no names; equal texts of a factor fall together.
sort_levels <- function(codes, names, used = NULL) {
  sorted <- kernel_order_names(names, used)
  list(codes = kernel_recode(codes, sorted$to), levels = sorted$levels)
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

# Whole numbers in full, as far as doubles tell them apart and some way beyond; others by 15 digits.
format_plain <- function(x) {
  whole <- !is.na(x) & x == round(x) & abs(x) < 1e22
  out <- character(length(x))
  out[whole] <- sprintf("%.0f", x[whole])
  text <- formatC(x[!whole], digits = 15, width = 1, format = "fg", flag = "#")
  out[!whole] <- sub("\\.?0*$", "", sub("(\\..*?)0+$", "\\1", trimmed(text), perl = TRUE))
  out
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
