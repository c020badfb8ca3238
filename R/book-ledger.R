# Amounts as ledgers write them: debit and credit in two columns, and columns in thousands.

debit_side <- paste0("^(debits?|debet|soll|d\u00e9bit|debe|dare|debito|d\u00e9bito|winien|",
                      "\u0434\u0435\u0431\u0435\u0442)$")
credit_side <- paste0("^(credits?|kredit|haben|cr\u00e9dit|haber|avere|credito|cr\u00e9dito|ma|",
                       "\u043a\u0440\u0435\u0434\u0438\u0442)$")

# The columns of debit and credit among `names`, c(debit, credit); NULL where there are not both.
ledger_pair <- function(names) {
  word <- sub("_?(amount|betrag|montant|importe|bedrag|eur|usd|gbp)_?", "", column_word(names))
  debit <- names[grepl(debit_side, word)]
  credit <- names[grepl(credit_side, word)]
  if (length(debit) == 1 && length(credit) == 1) c(debit, credit)
}

# Debit and credit as one amount, proposed: which of both is the sale only the person knows.
offer_ledger <- function(data, rows) {
  pair <- ledger_pair(rows$column[rows$role == "measure"])
  if (is.null(pair)) return(NULL)
  debit <- as.double(data[[pair[1]]])
  credit <- as.double(data[[pair[2]]])
  both <- !is.na(debit) & debit != 0 & !is.na(credit) & credit != 0
  if (mean(both) > .05) return(NULL)
  sums <- c(sum(debit, na.rm = TRUE), sum(credit, na.rm = TRUE))
  formula <- function(plus, minus) {
    held <- function(x) paste0("ifelse(is.na(", x, "), 0, ", x, ")")
    paste0("amount=", held(name_text(plus)), " - ", held(name_text(minus)))
  }
  way <- if (sums[2] >= sums[1]) 2:1 else 1:2
  option <- paste("--compute", shell_quoted(formula(pair[way[1]], pair[way[2]])))
  an_offer(Inf, paste0(
    pair[1], " and ", pair[2], " are one amount in two columns (", amount_text(sums[1]), " and ",
    amount_text(sums[2]), "). ", option, " makes it ", pair[way[1]], " less ", pair[way[2]], ": ",
    amount_text(sums[way[1]] - sums[way[2]]), " (in a brief: fields: {amount: {is: ...}})"), option)
}

thousand_words <- paste0("('000|\\b000s?\\b|\\bin (thousands|tausend)|\\bthousands\\b|\\bteur\\b|",
                         "\\bt\u20ac|",
                         "\\bk(eur|\u20ac|usd|gbp)\\b|k\u20ac|\\btsd\\b|\\btausend\\b|",
                         "\\bmilliers\\b|\\bmiles\\b|",
                         "\\bx ?1[.,]?000\\b|\u0442\u044b\u0441)")

# A column that its header tells to be in thousands.
offer_thousands <- function(data, rows) {
  hit <- rows$column[rows$role == "measure" & grepl(thousand_words, tolower(rows$column), perl = TRUE)]
  if (!length(hit)) return(NULL)
  total <- sum(as.double(data[[hit[1]]]), na.rm = TRUE)
  option <- paste("--define", shell_quoted(paste0("revenue=sum(", name_text(hit[1]), ") * 1000")))
  an_offer(total, paste0(
    hit[1], " is in thousands by its name, and figures are shown as they stand (", amount_text(total),
    "). ", option, " shows them in full: ", amount_text(total * 1000)), option)
}
