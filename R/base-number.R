# Numbers for people, in one place. `unit` is money, count, number, percent, points (the difference
# of two percentages), date or rank.

format_number <- function(x, unit = "number", digits = NULL) {
  if (unit == "date") {
    out <- format(as_day(x))
    out[is.na(x)] <- "-"
    return(out)
  }
  if (is.null(digits)) digits <- fitting_digits(x, unit)
  shown <- if (unit %in% c("percent", "points")) x * 100 else x
  # A value that rounds to nothing is not minus nothing.
  shown <- round(shown, digits)
  shown[!is.na(shown) & shown == 0] <- 0
  out <- formatC(shown, format = "f", digits = digits, big.mark = ",")
  far <- is.finite(shown) & abs(shown) >= 1e15
  out[far] <- formatC(shown[far], format = "e", digits = 3)
  if (unit == "percent") out <- paste0(out, " %")
  if (unit == "points") out <- paste0(out, " points")
  if (unit == "rank") out <- sub("\\.0$", "", out)
  out[is.na(x)] <- "-"
  out
}

# The decimal that a percentage stands for: 41.7 is .417, which 41.7 / 100 misses in its last bit.
of_hundred <- function(x) {
  plain <- format(x, digits = 15, trim = TRUE, scientific = FALSE)
  text <- ifelse(is.finite(x), paste0(plain, "e-2"), as.character(x))
  as.numeric(text)
}

# The fewest decimals that people expect, or more where different values would read the same.
fitting_digits <- function(x, unit) {
  if (unit == "date") return(0L)
  x <- x[is.finite(x)]
  if (!length(x) || unit == "count") return(0L)
  if (unit == "rank") return(if (all(x == round(x))) 0L else 1L)
  choices <- switch(unit, money = c(if (max(abs(x)) >= 1000) 0L, 2L),
                    percent = , points = c(1L, 2L),
                    c(if (all(x == round(x)) || max(abs(x)) >= 1000) 0L, 2L, 4L))
  if (unit %in% c("percent", "points")) x <- x * 100
  different <- length(unique(signif(x, 12)))
  for (digits in choices)
    if (length(unique(round(x, digits))) == different) return(digits)
  choices[min(2L, length(choices))]
}

# The unit of a difference: of dates days, of percentages points.
change_unit <- function(unit) switch(unit, date = "number", percent = "points", unit)

# Short for the ends of bars: 1.24 m, 35.6 k; all in one format, in full where the smallest would be
# lost in it.
format_short <- function(x, unit = "number") {
  if (unit %in% c("percent", "points", "rank", "date")) return(format_number(x, unit))
  size <- abs(x[is.finite(x) & x != 0])
  most <- max(0, size)
  least <- min(Inf, size)
  by <- function(size, digits, mark) {
    paste0(formatC(x / size, format = "f", digits = digits), mark)
  }
  out <- if (most >= 1e9 && least >= 1e7) by(1e9, 2, " bn") else
    if (most >= 1e6 && least >= 1e4) by(1e6, 2, " m") else
      if (most >= 1e4 && least >= 100) by(1e3, 1, " k") else format_number(x, unit)
  out[is.na(x)] <- "-"
  out[x %in% 0] <- "0"
  out
}

# As it is typed: 200000, never 2e+05.
plain_number <- function(x) if (is.numeric(x)) format(x, scientific = FALSE, digits = 15) else x

# Nothing where a number is missing.
or_zero <- function(x) ifelse(is.na(x), 0, x)

percent_words <- function(share) {
  whole <- abs(share * 100 - round(share * 100)) < 1e-7
  format_number(share, "percent", if (whole) 0 else 1)
}

# Bytes in the unit that suits them: 1.2 GB.
size_text <- function(bytes) {
  units <- c("bytes", "KB", "MB", "GB", "TB")
  at <- min(max(floor(log(max(bytes, 1), 1000)), 0), 4)
  paste(format(signif(bytes / 1000^at, 3), trim = TRUE, scientific = FALSE), units[at + 1])
}
