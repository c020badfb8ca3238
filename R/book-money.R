# Which of the measures is the money that a company means by its revenue, told from the names of
# columns in the languages of exports.

net_words <- "net|netto|neto|netta|ht|hors_taxes?|excl|exkl|\u043d\u0435\u0442\u0442\u043e"
revenue_words <- paste0(
  "revenues?|turnover|sales|umsatz|umsaetze|ums\u00e4tze|erl\u00f6se?|omzet|ca|chiffre|ventas?|",
  "facturado|",
  "fatturato|vendite|przych\u00f3d|sprzeda\u017c|vendas|",
  "\u0432\u044b\u0440\u0443\u0447\u043a\u0430|",
  "\u043f\u0440\u043e\u0434\u0430\u0436\u0438|\u9500\u552e\u989d|\u58f2\u4e0a")
sum_words <- paste0(
  "amount|betrag|montant|importe|importo|bedrag|kwota|valor|value|wert|valeur|waarde|",
  "warto\u015b\u0107|",
  "\u0441\u0443\u043c\u043c\u0430|\u0441\u0442\u043e\u0438\u043c\u043e\u0441\u0442\u044c|",
  "\u91d1\u989d")
# What things would have cost at the price of the list.
list_price_words <- paste0("gross|brut|brutto?|bruto|list|liste|listino|tarifa|catalog(ue|o)?|",
                     "\u043f\u0440\u0430\u0439\u0441\u0443?")
# Amounts of money that are not what was earned.
other_money_words <- paste0(list_price_words, "|listen|tariff|before|ttc|incl|inkl|unit|each|target|",
                            "budget|plan|quota|ziel")
tax_words <- paste0("vat|tax|taxes|mwst|mw_st|mehrwertsteuer|ust|us_t|steuer|tva|iva|btw|impuestos|",
                    "podatku|\u043d\u0434\u0441")
cost_words <- paste0(
  tax_words, "|costs?|cogs|kosten|co\u00fbts?|coste|costo|custo|koszt|freight|shipping|fracht|port|",
  "porto|transporte?|discount|rabatt|remise|descuento|sconto|korting|",
  "margin|marge|profit|gewinn|\u0437\u0430\u0442\u0440\u0430\u0442\u044b")

# "Amount excl. VAT", "Betrag ohne MwSt" are net, "con IVA" is gross; neither is an amount of tax.
taxes_said <- function(word) {
  without <- paste0("without|excl|excluding|exclusive|exkl|ohne|hors|sans|sin|senza|sem|zonder|bez|",
                    "ex|before|net_of|\u0431\u0435\u0437")
  with <- "with|incl|including|inclusive|inkl|mit|avec|con|com|met|z|inc|\u0441|\u0432\u043a\u043b"
  said <- function(words) paste0("(^|_)(", words, ")_(of_|de_)?(", tax_words, ")(_|$)")
  sub(said(with), "\\1gross\\5", sub(said(without), "\\1net\\5", word))
}

# The measure that is likeliest the revenue; NULL where by their names none is.
likely_money <- function(fields) {
  score <- money_scores(fields)
  if (any(score > -.5)) fields$name[which.max(score)]
}

# How likely measures are to be the revenue; below zero what is none by its name. `fields` has name,
# why, rate; a word joined to others counts too (Nettobetrag, Listenbetrag).
money_scores <- function(fields) {
  word <- taxes_said(column_word(unguarded(fields$name)))
  has <- function(words, joined = TRUE) {
    ends <- paste0("|^(", words, ")[a-z\u00e4\u00f6\u00fc\u00df]|[a-z](", words, ")$")
    grepl(paste0("(^|_)(", words, ")(_|$)", if (joined) ends), word)
  }
  total <- has("total|totals|sum|summe|gesamt|totaal|totale|\u0438\u0442\u043e\u0433\u043e", FALSE)
  cost <- has(cost_words, FALSE)
  joined_cost <- grepl("kosten|steuer|fracht|rabatt$", word)
  counted <- named_like_quantity(fields$name)
  rate <- fields$rate %in% TRUE | named_like_rate(fields$name)
  score <- 4 * has(net_words, FALSE) + 1 * grepl("^net+o?[a-z]", word) +
    3 * has(revenue_words, FALSE) + 2 * grepl("umsatz|erl\u00f6s|fatturat", word) +
    2 * has(sum_words) + total + grepl("decimals", fields$why) -
    5 * (has(other_money_words, FALSE) | grepl("^(brutto?|listen?)[a-z]", word)) -
    6 * cost - 6 * joined_cost - 8 * counted - 8 * rate
  # A list price is better than nothing, a cost is no revenue.
  ifelse(cost | joined_cost | counted | rate, score, pmax(score, 0) + score / 1000)
}

# Headers of what things would have cost at the price of the list, by the piece or by the line.
named_like_list <- function(name) {
  grepl(paste0("(^|_)(", list_price_words, "|listed)(_|$)|^(brutto|listen)[a-z]"), column_word(name))
}

# The likeliest of the columns, of rows as describe_column() gives them; NULL where there is none.
first_money <- function(rows) {
  own <- rows[rows$role == "measure", ]
  if (!nrow(own)) return(NULL)
  own$name <- own$column
  likely_money(own)
}

piece_words <- paste0(
  "qty|quantity|quantities|units|pieces|pcs|menge|anzahl|st\u00fcck(zahl)?|quantit\u00e9|qt\u00e9|",
  "quantit\u00e0|qta|cantidad|unidades|uds|aantal|antal|ilo\u015b\u0107|quantidade|qtde?|",
  "\u043a\u043e\u043b\u0438\u0447\u0435\u0441\u0442\u0432\u043e|\u043a\u043e\u043b_\u0432\u043e|",
  "\u6570\u91cf|\u6570")
measured_words <- paste0(
  "weight|volume|hours|length|gewicht|volumen|stunden|l\u00e4nge|poids|heures|peso|horas|uren|",
  "waga|",
  "\u0432\u0435\u0441|\u043e\u0431\u044a\u0435\u043c")

# Headers of counts of pieces; and of quantities of any kind, whose cells may bear their unit:
# "12 pcs", "1,5 kg".
named_like_pieces <- function(name) {
  grepl(paste0("(^|_)(", piece_words, ")(_|$)|[a-z](menge|anzahl)$"), column_word(name))
}

named_like_quantity <- function(name) {
  named_like_pieces(name) |
    grepl(paste0("(^|_)(", measured_words, ")(_|$)|[a-z](gewicht|stunden)$"), column_word(name))
}
