# Currencies that the cells of amounts tell themselves ("EUR 12.50", "$ 8").

# The headers of columns that tell currencies.
currency_header <- paste0("(^|_)(currency|curr|ccy|cur|waers|w\u00e4hrung|waehrung|devise|moneda|",
                          "valuta|waluta|moeda|\u0432\u0430\u043b\u044e\u0442\u0430|",
                          "\u5e01\u79cd)(_|$)|w\u00e4hrung$")

# Where cells tell several and no column does, the code of each line as a field of its own:
# list(name, codes, fixes); where they tell one, list(code). `looked` is what was read of the texts
# of each column.
cell_currencies <- function(data, looked, specs, where) {
  telling <- Filter(function(name) {
    is.null(specs[[name]]$currency) && !all(is.na(looked[[name]]$currency))
  }, names(looked))
  if (!length(telling) || any(grepl(currency_header, column_word(names(data))))) return(NULL)
  code <- function(name) {
    looked[[name]]$currency[match(as.character(data[[name]]), looked[[name]]$text)]
  }
  codes <- code(telling[1])
  for (name in telling[-1]) {
    own <- code(name)
    apart <- which(own != codes)
    if (length(apart))
      ll_abort(c(paste0(telling[1], " and ", name, " tell different currencies of one line (", where,
                        ")."),
                 x = paste0(line_word(apart[1], where), " says ",
                            shown(data[[telling[1]]][apart[1]]), " and ",
                            shown(data[[name]][apart[1]]), "."),
                 i = paste0("Say for one of them which counts: fields: {", name, ": {currency: ",
                            own[apart[1]], "}} in a brief, fields = list(", name_text(name),
                            " = list(currency = \"", own[apart[1]], "\")) in R.")), "data")
    codes <- ifelse(is.na(codes), own, codes)
  }
  held <- sort(table(codes), decreasing = TRUE)
  if (length(held) < 2) return(list(code = names(held)))
  counts <- list(codes = names(held), lines = c(held))
  list(name = cell_field, codes = codes, fixes = fix("currency", cell_field, sum(held), paste0(
    "the currencies told by cells of ", and_list(telling, 3), " kept as the field ", cell_field, " (",
    currency_counts(counts), ")")))
}

# The field that they are kept as: its name is free where no column is called a currency.
cell_field <- "currency"

# "EUR on 412 lines, USD on 88 lines"
currency_counts <- function(found) {
  and_list(paste(ifelse(is.na(found$codes), "none", found$codes), "on",
                 vapply(found$lines, plural, "", "line")), 4)
}

# Tables of several files, each with the currencies of its cells where the files tell several.
with_currencies <- function(tables) {
  codes <- unique(unlist(lapply(tables, `[[`, "code")))
  several <- any(vapply(tables, function(t) cell_field %in% names(t$data), NA))
  if (!several && length(codes) < 2) return(tables)
  lapply(tables, function(t) {
    if (!is.null(t$code)) t$data[[cell_field]] <- rep(t$code, length(t$data[[1]]))
    t
  })
}
