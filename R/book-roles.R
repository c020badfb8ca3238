# What each column is: identifier, date, dimension or measure, guessed from names, types and how
# many distinct values there are, with the reason.

order_words <- paste0("order|invoice|document|doc|receipt|ticket|transaction|shipment|delivery|",
                      "bill|nota(_fiscal)?|nfe?|",
                      "auftrag|beleg|bestell(ung)?|rechnung|lieferschein|commande|facture|pedido|",
                      "factura|ordine|fattura|factuur|bestelling|zam\u00f3wienie|faktura|",
                      "\u0441\u0447[\u0435\u0451]\u0442\u0430?|",
                      "\u0437\u0430\u043a\u0430\u0437\u0430?|",
                      "\u043d\u0430\u043a\u043b\u0430\u0434\u043d(\u0430\u044f|\u043e\u0439)|",
                      "\u0434\u043e\u043a\u0443\u043c\u0435\u043d\u0442\u0430?")
things <- paste0("account|customer|client|item|product|article|material|store|outlet|",
                      "kunde|debitor|artikel|produkt|cliente|articulo|producto|art\u00edculo|",
                      "prodotto|",
                      "articolo|klant|klient|produit|\u043a\u043b\u0438\u0435\u043d\u0442\u0430?|",
                      "\u0442\u043e\u0432\u0430\u0440\u0430?")
thing_words <- paste0("^(", things, ")$")
part_words <- paste0("^(year|month|quarter|week|day|weekday|hour|period|postcode|post_code|zip|",
                     "zip_code|postal|postal_code|plz|postleitzahl|code_postal|cp|cap|postcode|",
                     "codigo_postal|c\u00f3digo_postal|postnummer|postnr|",
                     "\u0438\u043d\u0434\u0435\u043a\u0441|jahr|monat|quartal|woche|",
                     "ann\u00e9e|mois|a\u00f1o|mes|anno|mese|jaar|maand)$")
# Positions of lines within their order.
position_words <- paste0("^(line|pos|position|posnr|line_item|item_line|zeile|ligne|linea|",
                         "l\u00ednea|riga|",
                     "regel|pozycja|lp|\u0441\u0442\u0440\u043e\u043a\u0430|",
                     "\u043f\u043e\u0437\u0438\u0446\u0438\u044f|(line|row|seq|sequence|",
                     "item)_?(no|nr|num|number|pos)|",
                     "pos_?(no|nr|nummer)|zeilen?_?(nr|nummer))$")
# Numbers of these names are added up, however they look.
added_words <- paste0(
  "net|gross|amount|revenue|sales|turnover|value|total|sum|price|cost|qty|quantity|units|pieces|",
  "margin|profit|freight|tax|vat|discount|budget|target|plan|quota|weight|volume|hours|count|",
  "umsatz|betrag|wert|summe|preis|kosten|menge|anzahl|st\u00fcck|netto|brutto|erl\u00f6se?|gewinn|",
  "marge|rabatt|fracht|steuer|ziel|montant|prix|co\u00fbt|quantit\u00e9|ca|chiffre|valeur|remise|",
  "importe|precio|coste|cantidad|ventas|valor|importo|prezzo|costo|quantit\u00e0|fatturato|bedrag|",
  "prijs|aantal|omzet|waarde|korting|kwota|ilo\u015b\u0107|warto\u015b\u0107|cena|koszt")
people_words <- paste0("^(sales_?)?(reps?|representative|person|man|seller|agent|employee|clerk|",
                       "adviser|advisor|consultant)(_?name)?$|^(key_?)?account_?manager$|",
                       "^(vertreter|verk(\u00e4|ae)ufer|au(\u00df|ss)endienst)(_?name)?$")
customer_words <- paste0("accounts?|customers?|clients?|buyers?|company|companies|members?|",
                         "patients?|outlets?|sold_to(_party)?|kunden?|debitor(en)?")
product_words <- paste0("items?|products?|articles?|sku|machines?|materials?|titles?|artikel|",
                        "produkte?|waren?")

# What the field table says of a column: list(role, type, why, missing, timed, numeric, rate).
# `found` is the role that was guessed while it was read, when it was numbers.
describe_column <- function(x, name, role = NULL, is_key = FALSE, coded = NULL, found = NULL) {
  told <- column_facts(x, coded)
  told$numeric <- told$numeric || !is.null(found)
  describe_facts(told, name, role, is_key, found)
}

# Headers whose numbers are never measures, unless the person says so.
named_like_number <- function(header) is_id_word(column_word(header))

# Words for a number at the end ("order_no"), or first where the language has it so.
is_id_word <- function(word) {
  grepl(id_words, word, perl = TRUE) | grepl(first_numbered, word, perl = TRUE)
}

# What a column of numbers, TRUE and FALSE of a file is, for the reader of files; see
# read_table_file(). `known` are specs by the names of columns, `keys` the columns of registers.
role_finder <- function(known, keys) {
  function(name, x) {
    role <- known[[name]]$role
    if (!is.null(role)) return(if (role != "date") list(role, "given"))
    told <- column_facts(x)
    if (name %in% keys) return(guess_role(told, name, TRUE))
    # Dates written as numbers are found later.
    if (!is.null(numeric_dates(x, name, FALSE))) return(NULL)
    guess_role(told, name, FALSE)
  }
}

describe_facts <- function(told, name, role = NULL, is_key = FALSE, found = NULL) {
  type <- told$type
  guess <- if (is.null(role)) found %||% guess_role(told, name, is_key) else list(role, "given")
  named <- guess[[1]] %in% c("identifier", "dimension") && type == "number"
  list(role = guess[[1]], type = if (named) "text" else type, why = guess[[2]],
       missing = told$of - told$known, timed = told$timed, numeric = told$numeric,
       rate = guess[[1]] == "measure" && named_like_rate(name) && ask_fact(told, "shares"))
}

guess_role <- function(told, name, is_key) {
  word <- column_word(name)
  type <- told$type
  if (type == "date") return(list("date", "it holds dates"))
  if (is_key) return(list(
    if (named_like_order(word)) "identifier" else
      "dimension", "a register is keyed by it"))
  if (type == "empty") return(list("dimension", "it holds no values"))
  if (type == "text") return(guess_text(told, word))
  guess_number(told, word)
}

# Where the word for a number comes first: "N\u00b0 facture", "Nr zam\u00f3wienia".
number_first <- paste0("^(n|n\u00ba|n\u00b0|no|nr|num|numero|n\u00famero|num\u00e9ro|nummer|numer|",
                       "\u043d\u043e\u043c\u0435\u0440|\u043a\u043e\u0434)_")

first_numbered <- paste0(number_first, "(", order_words, "|", things, ")$")

# Whether a header names the numbers of orders.
named_like_order <- function(word) {
  grepl(paste0("(^|_)(", order_words, ")(_(no|nr|num|number|id))?$"), word, perl = TRUE)
}

guess_text <- function(told, word) {
  distinct <- told$distinct()
  if (named_like_time(word)) return(list("dimension", "named like a time of day"))
  share <- distinct / max(told$known, 1)
  if (grepl(paste0("^(", order_words, ")$"), word, perl = TRUE) ||
        is_id_word(word) && (grepl(order_words, word, perl = TRUE) || share > .2))
    return(list("identifier", paste0("named like a number, ", distinct_text(distinct))))
  if (share > .5 && told$known >= 100)
    return(list("identifier", paste0("text, ", distinct_text(distinct))))
  list("dimension", paste0("text, ", distinct_text(distinct)))
}

positions_why <- "positions of lines within their order"

guess_number <- function(told, word) {
  named <- is_id_word(word) || grepl(thing_words, word, perl = TRUE)
  if (!told$whole() && !named) return(list("measure", "numbers with decimals"))
  sums <- paste0("(^|_)(", added_words, ")(_|$)|(menge|wert|betrag|preis|kosten|umsatz)$")
  added <- grepl(sums, word, perl = TRUE) |
    named_like_quantity(word) || names_period(word)
  positions <- !named && !added && !grepl(paste0("^(", order_words, ")s?$"), word, perl = TRUE) &&
    ask_fact(told, "positions")
  if (grepl(position_words, word, perl = TRUE) || positions)
    return(list("dimension", positions_why))
  if (grepl(part_words, word, perl = TRUE))
    return(list("dimension", "named like a part of a date or place"))
  if (is_id_word(word)) {
    distinct <- told$distinct()
    if (grepl(order_words, word, perl = TRUE) || distinct / told$known > .2)
      return(list("identifier", paste0("named like a number, ", distinct_text(distinct))))
    return(list("dimension", paste0("named like a number, ", distinct_text(distinct))))
  }
  # "Billing document" of whole numbers, and no count of documents, which would be few.
  if (grepl(paste0("(^|_)(", order_words, ")$"), word, perl = TRUE) &&
      told$distinct() / told$known > .1)
    return(list("identifier", paste0("named like an order, ", distinct_text(told$distinct()))))
  if (grepl(thing_words, word, perl = TRUE))
    return(list("dimension", "numbers that name things"))
  if (told$known >= 100 && told$rising())
    return(list("identifier", "whole numbers that rise with every line"))
  if (!added && ask_fact(told, "of_one_width")) {
    distinct <- told$distinct()
    return(list(if (distinct / told$known > .2) "identifier" else "dimension", paste0(
      "whole numbers of as many digits each, ", distinct_text(distinct))))
  }
  list("measure", "whole numbers")
}

# Whether a header is a period, so that amounts stand below it: "jan_2025".
names_period <- function(word) !is.null(read_periods(gsub("_", " ", word))$unit)

# A fact that only columns in memory tell.
ask_fact <- function(told, name) !is.null(told[[name]]) && told[[name]]()

distinct_text <- function(n) paste(count_text(n), "distinct")
