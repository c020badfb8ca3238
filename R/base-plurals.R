# Plurals of the trade's nouns in other languages, where English rules would make a word of none:
# singular, plural; and nouns that are the same in both.

foreign_plurals <- c(
  # German
  kunde = "Kunden", kundin = "Kundinnen", artikel = "Artikel", vertreter = "Vertreter",
  mitarbeiter = "Mitarbeiter", "h\u00e4ndler" = "H\u00e4ndler", filiale = "Filialen",
  gebiet = "Gebiete", produkt = "Produkte", auftrag = "Auftr\u00e4ge",
  bestellung = "Bestellungen", rechnung = "Rechnungen", warengruppe = "Warengruppen",
  lieferant = "Lieferanten", "verk\u00e4ufer" = "Verk\u00e4ufer", kategorie = "Kategorien",
  haushalt = "Haushalte", kanal = "Kan\u00e4le", lager = "Lager",
  # French
  client = "clients", produit = "produits", vendeur = "vendeurs", magasin = "magasins",
  commande = "commandes", famille = "familles", canal = "canaux",
  # Spanish and Portuguese
  cliente = "clientes", producto = "productos", vendedor = "vendedores", tienda = "tiendas",
  pedido = "pedidos", produto = "produtos", loja = "lojas",
  # Italian
  prodotto = "prodotti", venditore = "venditori", negozio = "negozi", ordine = "ordini",
  # Dutch
  klant = "klanten", verkoper = "verkopers", winkel = "winkels", bestelling = "bestellingen")

# The plural of a foreign noun in the case it was written in; NULL of words that are not known.
foreign_plural <- function(word) {
  last <- sub("^.* ", "", word)
  plural <- foreign_plurals[tolower(last)]
  if (is.na(plural)) return(NULL)
  plural <- unname(plural)
  plural <- if (last == tolower(last)) tolower(plural) else
    paste0(toupper(substr(plural, 1, 1)), substring(plural, 2))
  paste0(substr(word, 1, nchar(word) - nchar(last)), plural)
}
