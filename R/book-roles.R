# What each column is: identifier, date, dimension or measure, guessed from names, types and how
# many distinct values there are, with the reason.

id_words <- "(^|[^a-z])(no|nr|num|number|id|code|key|ref|reference|sku|ean|barcode)$"
order_words <- "order|invoice|document|receipt|ticket|transaction|shipment|delivery"
part_words <- "^(year|month|quarter|week|day|weekday|hour|period|postcode|zip)$"
people_words <- paste0("^(sales_?)?(reps?|representative|person|man|seller|agent|employee|clerk|",
                       "adviser|advisor|consultant)(_?name)?$")

# One row of the field table per column: role, type, why, missing, distinct.
describe_column <- function(x, name, role = NULL, is_key = FALSE, coded = NULL) {
  type <- column_type(x)
  if (type == "text" && is.null(coded)) coded <- code_column(x)
  guess <- if (is.null(role)) guess_role(x, name, type, is_key, coded) else list(role, "given")
  data.frame(role = guess[[1]], type = if (guess[[1]] == "identifier" && type == "number") "text"
             else if (guess[[1]] == "dimension" && type == "number") "text" else type,
             why = guess[[2]],
             missing = if (is.null(coded)) sum(is.na(x)) else sum(coded$codes == 0L),
             timed = inherits(x, "POSIXct"), numeric = is.numeric(x))
}

column_type <- function(x) {
  if (inherits(x, c("Date", "POSIXct"))) return("date")
  if (is.logical(x)) return(if (all(is.na(x))) "empty" else "text")
  if (is.factor(x) || is.character(x)) return(if (all(is.na(x))) "empty" else "text")
  if (is.numeric(x)) return(if (all(is.na(x))) "empty" else "number")
  "other"
}

# A column's name as lower case words joined by underscores.
column_word <- function(name) {
  tolower(gsub("[^[:alnum:]]+", "_", gsub("([a-z])([A-Z])", "\\1_\\2", name)))
}

guess_role <- function(x, name, type, is_key, coded) {
  word <- column_word(name)
  if (type == "date") return(list("date", "it holds dates"))
  if (is_key) return(list("dimension", "a register is keyed by it"))
  if (type == "empty") return(list("dimension", "it holds no values"))
  if (type == "text") return(guess_text(coded, word))
  guess_number(x, word)
}

guess_text <- function(coded, word) {
  known <- sum(coded$codes > 0L)
  distinct <- length(coded$levels)
  share <- distinct / max(known, 1)
  if (grepl(paste0("^(", order_words, ")$"), word) ||
        grepl(id_words, word) && (grepl(order_words, word) || share > .2))
    return(list("identifier", paste0("named like a number, ", distinct_text(distinct))))
  if (share > .5 && known >= 100)
    return(list("identifier", paste0("text, ", distinct_text(distinct))))
  list("dimension", paste0("text, ", distinct_text(distinct)))
}

guess_number <- function(x, word) {
  known <- x[!is.na(x)]
  whole <- is.integer(known) || all(known == round(known))
  if (!whole) return(list("measure", "numbers with decimals"))
  if (grepl(part_words, word)) return(list("dimension", "named like a part of a date or place"))
  if (grepl(id_words, word)) {
    distinct <- length(unique(known))
    if (grepl(order_words, word) || distinct / length(known) > .2)
      return(list("identifier", paste0("named like a number, ", distinct_text(distinct))))
    return(list("dimension", paste0("named like a number, ", distinct_text(distinct))))
  }
  if (grepl("^(account|customer|client|item|product|article|material|store|outlet)$", word))
    return(list("dimension", "numbers that name things"))
  if (length(known) >= 100 && !is.unsorted(known, strictly = TRUE) && !anyNA(x))
    return(list("identifier", "whole numbers that rise with every line"))
  list("measure", "whole numbers")
}

distinct_text <- function(n) paste(count_text(n), "distinct")
