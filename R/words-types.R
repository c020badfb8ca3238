# The types of formulas: what can be added to what, and the book's date.

as_of_date <- function(known, context) {
  if (is.null(known$as_of))
    refuse(context, "as_of() needs a book with a date field", word = "as_of")
  node("date", value = known$as_of)
}

# Days are added to dates, and the difference of two dates is days.
arithmetic_type <- function(op, types) {
  dates <- sum(types == "date")
  if (op %in% c("pmin", "pmax")) return(types[1])
  if (dates == 1 && op %in% c("+", "-")) "date" else "number"
}

check_arithmetic <- function(op, types, context) {
  other <- setdiff(types, c("number", "date"))
  if (length(other))
    refuse(context, paste0("there is no arithmetic with ", if ("empty" %in% other)
      "a field that holds no values" else "text"), word = op)
  dates <- types == "date"
  if (!any(dates)) return(invisible())
  ok <- switch(op, `-` = length(types) == 2 && dates[1], `+` = sum(dates) == 1,
               pmin = , pmax = all(dates), FALSE)
  if (!ok)
    refuse(context, "dates may be subtracted, which gives days, or moved by days", word = op)
}
