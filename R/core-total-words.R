# Texts that call a row or a column a total.

# Words for a total in the languages of exports, as a pattern.
total_words <- local({
  prefix <- "((grand|sub|report|overall|page|running|general|final|total)[ -]?)?"
  # Longer ones first: the first that fits counts.
  words <- c("totale? g[e\u00e9]n[e\u00e9]rale?", "total geral", "algemeen totaal", "totals?",
             "sub-?totals?", "sum", "summe", "gesamt(summe|ergebnis|betrag|wert)?",
             "(zwischen|teil|seiten|end|tages|monats)(summe|ergebnis)", "ergebnis", "insgesamt",
             "\u00fcbertrag", "carried forward", "brought forward", "(sub|eind)?totaal", "totale",
             "all", "alle", "tous( les)?", "toutes( les)?", "todos( los| os)?", "todas( las| as)?",
             "tutt[ie]( i| gli| le)?", "\u0432\u0441\u0435", "sous[- ]total", "somme", "ensemble", "subtotale",
             "suma", "razem", "og\u00f3\u0142em", "\u0142\u0105cznie", "summa", "yhteens\u00e4",
             "i alt", "celkem", "\u00f6sszesen", "toplam",
             paste0("(\u043e\u0431\u0449\u0438\u0439 |\u043f\u0440\u043e\u043c\u0435\u0436\u0443",
                    "\u0442\u043e\u0447\u043d\u044b\u0439 )?\u0438\u0442\u043e\u0433\u043e?"),
             "\u0432\u0441\u0435\u0433\u043e", "\u5408\u8ba1", "\u603b\u8ba1", "\u5c0f\u8ba1",
             "\u5408\u8a08", "\u7dcf\u8a08", "\u5c0f\u8a08")
  paste0(prefix, "(", paste(words, collapse = "|"), ")")
})
total_at_ends <- paste0("(*UCP)^", total_words, "\\b[ :.-]*|[ :.-]*\\b", total_words, "[ :.-]*$")

# Texts that begin or end with a word for a total.
names_total <- function(text) {
  grepl(total_at_ends, trimmed(text), ignore.case = TRUE, perl = TRUE)
}

# Of what a total may be without a name: a page, a list, a stretch of time.
general_words <- paste0(
  "(*UCP)^(\u043f\u043e |de (la )?|per |pro |de l')?(pages?|p\u00e1gina|pagina|seite|blatt|side|",
  "strona|sida|",
  "\u0441\u0442\u0440\u0430\u043d\u0438\u0446[\u0435\u044b\u0430]|list|liste|report|bericht|year|",
  "jahr|",
  "a\u00f1o|ann\u00e9e|anno|jaar|month|monat|mes|mois|maand|mese|period[eo]?|zeitraum|quarter|",
  "quartal)\\b")

# What such a text says beside that word: what the total is of. Nothing, but for a number, where it
# is of all, of a page or of a year.
total_of_what <- function(text) {
  rest <- trimmed(gsub(total_at_ends, "", trimmed(text), ignore.case = TRUE, perl = TRUE))
  rest <- sub(general_words, "", rest, ignore.case = TRUE, perl = TRUE)
  rest <- sub("^(for|of|f\u00fcr|von|de|du|des|van|di|per|por)[ :]+", "", rest, ignore.case = TRUE, perl = TRUE)
  gsub("^[^[:alpha:]]*$", "", rest)
}

# Texts that are a total of all by what they say.
calls_itself_total <- function(text) names_total(text) & !nzchar(total_of_what(text))
