# Numbers as ledgers and exports write them: (45.00), 45.00-, 1,234.56, 1.234,56, 12.5 %, EUR 12,
# 45.00 CR.

currency_codes <- c("EUR", "USD", "GBP", "CHF", "JPY", "CNY", "INR", "AUD", "CAD", "NZD", "SEK",
                    "NOK", "DKK", "PLN", "CZK", "HUF", "RON", "BGN", "TRY", "ZAR", "BRL", "MXN",
                    "SGD", "HKD", "KRW", "THB", "ILS", "AED", "SAR", "ISK", "RUB", "UAH", "KZT")
# Longer marks come before those that end them.
currency_marks <- c("US$" = "USD", "R$" = "BRL", "CA$" = "CAD", "C$" = "CAD", "AU$" = "AUD",
                    "A$" = "AUD", "NZ$" = "NZD", "HK$" = "HKD", "S$" = "SGD", "\u20ac" = "EUR",
                    "$" = "USD", "\u00a3" = "GBP", "\u00a5" = "JPY", "\u20b9" = "INR", "kr" = "kr", "z\u0142" = "PLN", "K\u010d" = "CZK",
                    "Fr." = "CHF", "\u20bd" = "RUB", "\u0440\u0443\u0431." = "RUB",
                    "\u0440\u0443\u0431" = "RUB", "\u20b4" = "UAH", "Ft" = "HUF", "\u5186" = "JPY",
                    "\u20a9" = "KRW")
# Currencies that are written without decimals, so that a mark in their amounts is one of grouping.
whole_currencies <- c("JPY", "KRW", "ISK")
no_value_texts <- c("-", "--", "n/a", "#n/a", "na", "n.a.", "null", "none", ".")

# Reads texts as numbers. `decimal` is the mark, "." or ","; when NULL it is found from the texts
# themselves, and `fallback` serves where they leave it open. Gives list(value, odd, currency,
# decimal, doubt, forms): odd tells texts that are no plain numbers, currency the mark of each,
# doubt the texts that would read otherwise with the other mark when nothing decided, decimal_told
# the mark where the texts decide it, forms what kinds of writing were met. `units` takes a unit off
# that all cells bear; percents tells whether all have a percent sign.
read_numbers <- function(text, decimal = NULL, fallback = ".", units = FALSE) {
  bare <- trimmed(gsub("[\u00a0\u202f\u2009]", " ", text))
  none <- is.na(bare) | !nzchar(bare) | tolower(bare) %in% no_value_texts
  unit <- if (units) common_unit(bare[!none])
  body <- if (is.null(unit)) bare else sub(unit_end, "\\1", bare, perl = TRUE)
  parts <- number_parts(ifelse(none, NA, body))
  kinds <- decimal_kind(parts$body)
  whole <- kinds %in% "open" & parts$currency %in% whole_currencies
  kinds[whole] <- ifelse(grepl(",", parts$body[whole], fixed = TRUE), ".", ",")
  found <- setdiff(unique(kinds), c("open", NA))
  conflict <- is.null(decimal) && length(found) > 1
  if (is.null(decimal)) decimal <- if (length(found) == 1) found else fallback
  value <- clean_number(parts$body, decimal)
  if (conflict) value[] <- NA
  value <- value * ifelse(parts$negative, -1, 1) / ifelse(parts$percent, 100, 1)
  plain <- grepl("^-?[0-9]+(\\.[0-9]+)?([eE][-+]?[0-9]+)?$", bare)
  value[plain & !conflict & decimal == "."] <- as.numeric(bare[plain & !conflict & decimal == "."])
  list(value = value, none = none, percents = any(parts$percent) && all(parts$percent[!none]), odd = !plain & !none, currency = parts$currency,
       decimal = decimal, decimal_told = if (length(found) == 1) found, conflict = conflict,
       doubt = if (!length(found)) unique(text[!none & kinds %in% "open"]) else character(),
       forms = c(number_forms(parts, decimal), if (!is.null(unit)) paste("the unit", unit)))
}

unit_end <- "(*UCP)^([-+(]?[0-9][0-9 .,'\u2019]*\\)?-?)\\s*[[:alpha:]\u00b2\u00b3]{1,8}\\.?$"

# The one unit that cells bear, such as pcs of "12 pcs"; several are several kinds of numbers.
common_unit <- function(text) {
  text <- text[!is.na(text)]
  bears <- grepl(unit_end, text, perl = TRUE)
  if (!any(bears) || mean(bears) < .5) return(NULL)
  unit <- tolower(sub("(*UCP)^.*?([[:alpha:]\u00b2\u00b3]{1,8}\\.?)$", "\\1", text[bears], perl = TRUE))
  unit <- unique(unit)
  # A piece is one of several.
  if (length(unit) > 1) unit <- unique(sub("s$", "", unit))
  if (length(unit) == 1 && !toupper(unit) %in% c(currency_codes, "CR", "DR")) unit
}

number_forms <- function(parts, decimal) {
  used <- function(is) any(is, na.rm = TRUE)
  c(if (used(parts$ledger)) "negatives in ledger form",
    if (used(parts$percent)) "percent signs", if (used(!is.na(parts$currency))) "currency marks",
    if (decimal == ",") "decimal commas",
    if (used(grepl(paste0("[0-9][", if (decimal == ",") "." else ",", " '\u2019][0-9]"),
                   parts$body))) "grouping marks")
}

# Sign, currency and percent taken off, what is left is the body.
number_parts <- function(text) {
  n <- length(text)
  out <- list(negative = logical(n), ledger = logical(n), percent = logical(n),
              currency = rep(NA_character_, n))
  body <- gsub("\u2212", "-", text)
  strip <- function(pattern) {
    hit <- grepl(pattern, body, perl = TRUE) & !is.na(body)
    body[hit] <<- trimmed(sub(pattern, "", body[hit], perl = TRUE))
    hit
  }
  brackets <- grepl("^[^0-9(]*\\(.*\\)[^0-9)]*$", body)
  body[brackets] <- gsub("[()]", "", body[brackets])
  # A minus may stand after the mark, the number or the percent sign.
  late <- logical(n)
  strip_late <- function() late <<- late | strip("\\s*-$")
  strip_late()
  marks <- c(currency_marks, stats::setNames(currency_codes, currency_codes))
  for (mark in names(marks)) {
    if (!any(grepl(mark, body, fixed = TRUE))) next
    safe <- paste0("\\Q", mark, "\\E")
    hit <- strip(paste0("^(?=[^0-9]*[0-9])(-?)\\s*", safe, "\\s*")) | strip(paste0("\\s*", safe,
                                                                               "\\s*$"))
    # A minus before the mark was taken with it.
    out$negative[hit] <- out$negative[hit] | grepl("^[^0-9]*-", text[hit])
    out$currency[hit] <- marks[[mark]]
  }
  credit <- strip("\\s*CR$")
  strip("\\s*DR$")
  strip_late()
  leading <- strip("^-\\s*")
  strip("^\\+\\s*")
  out$percent <- strip("\\s*%$")
  strip_late()
  out$ledger <- brackets | credit | late
  out$negative <- out$negative | brackets | credit | late | leading
  body[!grepl("^([0-9][0-9 .,'\u2019]*|[.,][0-9]+)$", body)] <- NA
  c(out, list(body = trimmed(body)))
}

# What each body says of the decimal mark: ".", ",", "open" (it may be either), or NA.
decimal_kind <- function(body) {
  dots <- nchar(gsub("[^.]", "", body))
  commas <- nchar(gsub("[^,]", "", body))
  out <- rep(NA_character_, length(body))
  both <- dots > 0 & commas > 0 & !is.na(body)
  out[both] <- ifelse(regexpr(",[^,]*$", body[both]) > regexpr("\\.[^.]*$", body[both]), ",", ".")
  for (mark in c(".", ",")) {
    count <- if (mark == ".") dots else commas
    other <- if (mark == ".") "," else "."
    alone <- !both & !is.na(body) & count > 0
    many <- alone & count > 1
    out[many] <- other
    after <- sub(paste0("^.*[", mark, "]"), "", body)
    before <- sub(paste0("[", mark, "].*$"), "", body)
    one <- alone & count == 1
    open <- nchar(after) == 3 & nchar(gsub("[^0-9]", "", before)) %in% 1:3 & before != "0" &
      !grepl("[ '\u2019]", body)
    out[one] <- ifelse(open[one], "open", mark)
  }
  out
}

# Grouping marks must stand in threes, or as in India in twos before the last three (1,23,456.78);
# else it is no number.
clean_number <- function(body, decimal) {
  group <- if (decimal == ",") "[. '\u2019]" else "[, '\u2019]"
  mark <- if (decimal == ",") "," else "[.]"
  lakh <- if (decimal == ".") "|[0-9]{1,2}(,[0-9]{2})+,[0-9]{3}"
  shape <- paste0("^([0-9]+|[0-9]{1,3}(", group, "[0-9]{3})+", lakh, ")?(", mark, "[0-9]*)?$")
  ok <- !is.na(body) & nzchar(body) & grepl(shape, body) & grepl("[0-9]", body)
  out <- rep(NA_real_, length(body))
  plain <- gsub(group, "", body[ok])
  out[ok] <- as.numeric(if (decimal == ",") sub(",", ".", plain, fixed = TRUE) else plain)
  out
}

# Whole numbers in an order that is spread evenly over them, whatever the order of the file: by the
# fraction of each times the golden ratio. The smallest are taken first.
spread_evenly <- function(number, seed) ((number + seed) * ((sqrt(5) - 1) / 2)) %% 1
