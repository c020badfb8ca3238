# What the languages are told of a book: its fields, metrics, parameters and sets.

# What formulas may name: see words-resolve.R.
known_to <- function(book, trees = lapply(book$metrics, `[[`, "typed")) {
  list(fields = book$fields, also = book$also, computed = book$computed, metrics = trees,
       parameters = book$parameters, grain = book$grain, sets = book$sets,
       set_names = book$set_names, date = book$date, unit = book$unit,
       as_of = if (!is.null(book_day(book))) as.numeric(book_day(book)))
}

# Measures with two decimals, or named like amounts, are money.
money_fields <- function(book) {
  own <- book$fields[book$fields$role == "measure" & book$fields$from == "lines", ]
  named <- grepl("net|gross|price|cost|amount|revenue|sales|value|margin|freight|tax|fee",
                 tolower(own$name))
  own$name[named]
}
