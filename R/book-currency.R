# Several currencies in one book: told, never added up until the person says how.

# `currency`: a code, "any", or list(to, rates): the one that counts, that all are added as they
# stand, or into which all are converted by a table of date, currency and rate.
check_currency_key <- function(given) {
  if (is.null(given)) return(NULL)
  if (!is.list(given)) given <- list(to = given)
  unknown <- setdiff(names(given), book_keys("currency"))
  if (length(unknown))
    ll_abort(c(paste0("'currency' has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], book_keys("currency"), "Keys")), "word")
  if (is.null(given$to))
    ll_abort(c("'currency' needs the currency that counts.", i = "For example list(to = \"EUR\")."),
             "argument")
  given$to <- check_words(given$to, "currency", one = TRUE)
  given
}

# The field whose names are currencies, and the codes on the lines; NULL where there are no two.
currencies_of <- function(book) {
  own <- book$fields[book$fields$from == "lines" & book$fields$type == "text" &
                       book$fields$role == "dimension", ]
  for (field in own$name[grepl(currency_header, column_word(unguarded(own$name)))]) {
    codes <- names_of(book, field)
    if (length(codes) > 1 && length(codes) < 200 && all(nchar(codes) <= 12))
      return(list(field = field, codes = codes))
  }
  NULL
}

# The book once it is said, or found out, which currencies count.
settle_currencies <- function(book, currency) {
  found <- currencies_of(book)
  book["currencies"] <- list(NULL)
  if (is.null(found)) return(book)
  if (is.null(currency)) {
    book$currencies <- found
    book$offers <- rbind(book$offers, offer_currencies(book, found))
    return(book)
  }
  if (currency$to == "any" || !is.null(currency$rates)) return(book)
  if (!currency$to %in% found$codes)
    ll_abort(c(paste0("No line is in ", shown(currency$to), "."),
               offer(currency$to, found$codes, "Currencies")), "word")
  others <- node("within", arg = node("name", name = found$field),
                 set = node("set", values = setdiff(found$codes, currency$to)))
  book$aside <- if (is.null(book$aside)) others else
    node("logic", op = "|", args = list(book$aside, others))
  bare <- codes_on_lines(book, found$field)
  bare <- bare$lines[is.na(bare$codes)]
  if (length(bare)) book$fixes <- rbind(book$fixes, fix("currency", found$field, bare, paste0(
    plural(bare, "line"), " without a currency counted as ", currency$to)))
  book
}

# The currencies of lines, the commonest first, those of no currency last: list(codes, lines).
codes_on_lines <- function(book, field, where = NULL) {
  fold <- source_fold(book$source, field, list(), where)
  at <- order(is.na(fold$keys[[1]]), -fold$lines)
  at <- at[fold$lines[at] > 0]
  list(codes = fold$keys[[1]][at], lines = fold$lines[at])
}

offer_currencies <- function(book, found) {
  on <- codes_on_lines(book, found$field)
  option <- paste("--currency", shell_quoted(on$codes[1]))
  an_offer(Inf, paste0(
    "amounts are in several currencies (", currency_counts(on), ") and are shown apart. ", option,
    " counts one (in a brief: currency: ", on$codes[1], "), with --exchange-rates FILE (a table of ",
    "date, currency and rate) it converts the others, --currency any adds them as they stand"), option)
}

# Amounts of all measures of money in one currency: list(data, fixes). By the last rate known on the
# day of each line, rounded half to even to cents.
convert_currencies <- function(data, measures, dates, currency, where) {
  if (is.null(currency$rates)) return(list(data = data))
  field <- names(data)[grepl(currency_header, column_word(names(data)))][1]
  if (is.na(field))
    ll_abort(paste0("'rates' needs a field of currencies, and there is none (", where, ")."), "data")
  rates <- read_rates(currency$rates)
  codes <- plain_key(data[[field]])
  day <- if (length(dates)) as.integer(as.Date(data[[dates[1]]])) else rep(NA_integer_, length(codes))
  rate <- rep(1, length(codes))
  oldest <- 0
  for (code in setdiff(unique(codes[!is.na(codes)]), currency$to)) {
    own <- rates[rates$currency == code, ]
    mine <- which(codes %in% code)
    at <- findInterval(day[mine], own$day)
    at[is.na(at)] <- 0L
    if (!nrow(own) || any(at == 0))
      ll_abort(c(paste0("There is no rate of ", code, " for ", if (!nrow(own)) "any day" else
        paste("the day of", plural(sum(at == 0), "line")), "."),
                 x = if (nrow(own)) paste0("The first of the table is of ",
                                           date_text(as_day(own$day[1])), "."),
                 i = "Add it to the table of rates, or leave those lines out."), "data")
    rate[mine] <- own$rate[at]
    oldest <- max(oldest, day[mine] - own$day[at])
  }
  change <- !is.na(codes) & codes != currency$to
  money <- measures[!named_like_quantity(measures) & !named_like_rate(measures)]
  fixes <- fix("currency", field, sum(change), paste0(
    "amounts of ", plural(sum(change), "line"), " converted into ", currency$to,
    ", each rounded to cents; the oldest rate used is ", plural(oldest, "day"), " old",
    if (anyNA(codes)) paste0("; ", plural(sum(is.na(codes)), "line"),
                             " without a currency counted as ", currency$to)))
  for (name in money) {
    converted <- round(data[[name]] * rate, 2)
    fixes <- rbind(fixes, prove_rounding(name, data[[name]], converted, rate, codes, change))
    data[[name]] <- ifelse(change, converted, data[[name]])
  }
  list(data = data, fixes = fixes)
}

# Amounts by currency and rate, added up and then converted, against the lines as they were
# converted one by one: apart by what rounding each to cents comes to, at most half a cent a line.
prove_rounding <- function(name, amount, converted, rate, codes, change) {
  on <- which(change & !is.na(amount))
  if (!length(on)) return(NULL)
  rounding <- sum(converted[on] - amount[on] * rate[on])
  whole <- vapply(split(on, paste(codes[on], rate[on])), function(at) sum(amount[at]) * rate[at[1]], 0)
  # Beyond half a cent a line it is no rounding, and does not agree.
  told <- if (abs(rounding) <= .005 * length(on) + 1e-6) rounding else 0
  fix("total_check", name, length(on), paste0(
    name, " converted by currency and rate = its lines, less ", format_number(rounding, digits = 4),
    " of rounding"), sum(whole), sum(converted[on]) - told)
}

# The table of rates: date, currency, rate (what one unit of it is worth), sorted by day.
read_rates <- function(rates) {
  table <- if (is.data.frame(rates)) rates else
    read_side_table(check_words(rates, "rates", one = TRUE), "the table of rates")$table
  word <- column_word(names(table))
  place <- function(pattern, what) {
    at <- grep(pattern, word)[1]
    if (is.na(at))
      ll_abort(c(paste0("The table of rates needs a column of ", what, "."),
                 x = paste0("It has ", and_list(quoted(names(table))), ".")), "data")
    table[[at]]
  }
  days <- place("date|datum|day|month|period", "dates")
  days <- if (inherits(days, "Date")) days else
    read_date_column(days, "date", "the table of rates", must = TRUE)$value
  out <- data.frame(day = as.integer(as.Date(days)),
                    currency = as.character(place("curr|ccy|w\u00e4hrung|code", "currencies")),
                    rate = as.numeric(place("rate|kurs|cours|value", "rates")))
  if (anyNA(out))
    ll_abort("The table of rates has empty cells.", "data")
  out[order(out$currency, out$day), ]
}
