# Names, texts and numbers as SQL writes them.

quoted_name <- function(con, name) as.character(DBI::dbQuoteIdentifier(con, name))

quoted_text <- function(w, text) as.character(DBI::dbQuoteString(w$source$con, enc2utf8(text)))

# Numbers as every engine reads them back to the last bit.
number_literal <- function(x) {
  vapply(x, function(one) {
    if (one == round(one) && abs(one) < 2^53) return(sprintf("%.0f", one))
    for (digits in 15:17) {
      text <- formatC(one, digits = digits, format = "g", width = 1)
      if (as.numeric(text) == one) break
    }
    # An exponent makes it a double rather than a decimal.
    if (grepl("e", text, fixed = TRUE)) text else paste0(text, "e0")
  }, "", USE.NAMES = FALSE)
}

# Written so that an engine takes it for a double.
double_literal <- function(x) {
  text <- number_literal(x)
  ifelse(grepl("e", text, fixed = TRUE), text, paste0(text, "e0"))
}

# A table of literals, in rows of names and values.
values_table <- function(names, values) {
  paste0("VALUES ", paste0("(", names, ", ", values, ")", collapse = ", "))
}
