# Exports of companies drawn at random, shape by language by fault, each with the clean lines beside
# it as the truth. What reads them knows nothing of this file, and this file nothing of what reads.

# Headers and forms of each language.
export_tongues <- list(
  en = list(order = "Invoice No", line = "Line", day = "Invoice Date", customer = "Customer",
            item = "Item", rep = "Sales Rep", zip = "Zip Code", qty = "Qty", listed = "List Amount",
            rate = "Discount Rate", net = "Net Amount", type = "Doc Type", period = "Month",
            time = "Time", sub = "Subtotal", all = "Grand Total", page = "Page total",
            foot = "Printed on Monday", titles = c("Sales report", "Period: 2025"),
            invoice = "INV", credit = "CN", decimal = ".", groups = c("", ","),
            days = c("%Y-%m-%d", "%d %b %Y", "%m/%d/%Y"), separators = c(",", "\t", ";"),
            months = c("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov",
                       "Dec"), quarter = "Q", week = "W", pieces = " pcs"),
  de = list(order = "Belegnummer", line = "Pos", day = "Belegdatum", customer = "Kunde",
            item = "Artikel", rep = "Vertreter", zip = "PLZ", qty = "Menge", listed = "Listenbetrag",
            rate = "Rabattsatz", net = "Umsatz netto", type = "Belegart", period = "Monat",
            time = "Uhrzeit", sub = "Summe", all = "Gesamtsumme", page = "Seitensumme",
            foot = "Erstellt am Montag", titles = c("Umsatzliste", "Zeitraum 2025"),
            invoice = "Rechnung", credit = "Gutschrift", decimal = ",", groups = c("", "."),
            days = c("%d.%m.%Y", "%d.%m.%y"), separators = c(";", "\t"),
            months = c("Jan", "Feb", "M\u00e4rz", "April", "Mai", "Juni", "Juli", "Aug", "Sept",
                       "Okt", "Nov", "Dez"), quarter = "Q", week = "KW ", pieces = " St"),
  fr = list(order = "N\u00b0 facture", line = "Ligne", day = "Date facture", customer = "Client",
            item = "Article", rep = "Commercial", zip = "Code postal", qty = "Quantit\u00e9",
            listed = "Montant brut", rate = "Taux remise", net = "Montant HT",
            type = "Type de pi\u00e8ce", period = "Mois", time = "Heure", sub = "Sous-total",
            all = "Total g\u00e9n\u00e9ral", page = "Total page", foot = "Imprim\u00e9 lundi",
            titles = c("Liste des ventes", "P\u00e9riode 2025"), invoice = "Facture",
            credit = "Avoir", decimal = ",", groups = c("", "\u202f", "\u00a0", " "),
            days = c("%d/%m/%Y", "%Y-%m-%d"), separators = c(";", "\t"),
            months = c("janv.", "f\u00e9vr.", "mars", "avril", "mai", "juin", "juil.",
                       "ao\u00fbt", "sept.", "oct.", "nov.", "d\u00e9c."), quarter = "T",
            week = "S", pieces = " pcs"),
  nl = list(order = "Factuurnr", line = "Regel", day = "Factuurdatum", customer = "Klant",
            item = "Artikel", rep = "Verkoper", zip = "Postcode", qty = "Aantal",
            listed = "Bruto bedrag", rate = "Korting", net = "Netto bedrag", type = "Soort",
            period = "Maand", time = "Tijd", sub = "Subtotaal", all = "Totaal",
            page = "Totaal pagina", foot = "Afgedrukt op maandag",
            titles = c("Verkooplijst", "Periode 2025"), invoice = "Factuur", credit = "Creditnota",
            decimal = ",", groups = c("", "."), days = c("%d-%m-%Y", "%d/%m/%Y"),
            separators = c(";", ","), months = c("jan", "feb", "mrt", "apr", "mei", "jun", "jul",
                                                 "aug", "sep", "okt", "nov", "dec"),
            quarter = "K", week = "W", pieces = " st"),
  es = list(order = "N\u00ba factura", line = "L\u00ednea", day = "Fecha", customer = "Cliente",
            item = "Producto", rep = "Vendedor", zip = "C\u00f3digo postal", qty = "Cantidad",
            listed = "Importe bruto", rate = "Descuento", net = "Importe neto",
            type = "Tipo documento", period = "Mes", time = "Hora", sub = "Subtotal",
            all = "Total general", page = "Total p\u00e1gina", foot = "Impreso el lunes",
            titles = c("Listado de ventas", "Periodo 2025"), invoice = "Factura", credit = "Abono",
            decimal = ",", groups = c("", "."), days = c("%d/%m/%Y", "%d-%m-%Y"),
            separators = c(";", "\t"), months = c("ene", "feb", "mar", "abr", "may", "jun", "jul",
                                                  "ago", "sept", "oct", "nov", "dic"),
            quarter = "T", week = "S", pieces = " uds"),
  ru = list(order = "\u041d\u043e\u043c\u0435\u0440 \u0441\u0447\u0435\u0442\u0430",
            line = "\u0421\u0442\u0440\u043e\u043a\u0430", day = "\u0414\u0430\u0442\u0430",
            customer = "\u041a\u043b\u0438\u0435\u043d\u0442",
            item = "\u0422\u043e\u0432\u0430\u0440",
            rep = "\u041c\u0435\u043d\u0435\u0434\u0436\u0435\u0440",
            zip = "\u0418\u043d\u0434\u0435\u043a\u0441",
            qty = "\u041a\u043e\u043b\u0438\u0447\u0435\u0441\u0442\u0432\u043e",
            listed = "\u0421\u0443\u043c\u043c\u0430 \u043f\u043e \u043f\u0440\u0430\u0439\u0441\u0443",
            rate = "\u0421\u043a\u0438\u0434\u043a\u0430",
            net = "\u0421\u0443\u043c\u043c\u0430",
            type = "\u0422\u0438\u043f \u0434\u043e\u043a\u0443\u043c\u0435\u043d\u0442\u0430",
            period = "\u041c\u0435\u0441\u044f\u0446", time = "\u0412\u0440\u0435\u043c\u044f",
            sub = "\u0418\u0442\u043e\u0433\u043e", all = "\u041e\u0431\u0449\u0438\u0439 \u0438\u0442\u043e\u0433",
            page = "\u0418\u0442\u043e\u0433\u043e \u043f\u043e \u0441\u0442\u0440\u0430\u043d\u0438\u0446\u0435",
            foot = "\u041d\u0430\u043f\u0435\u0447\u0430\u0442\u0430\u043d\u043e",
            titles = c("\u041e\u0442\u0447\u0435\u0442 \u043e \u043f\u0440\u043e\u0434\u0430\u0436\u0430\u0445",
                       "2025"),
            invoice = "\u0421\u0447\u0435\u0442", credit = "\u0412\u043e\u0437\u0432\u0440\u0430\u0442",
            decimal = ",", groups = c("", "\u00a0"), days = "%d.%m.%Y", separators = c(";", "\t"),
            months = c("\u044f\u043d\u0432", "\u0444\u0435\u0432", "\u043c\u0430\u0440",
                       "\u0430\u043f\u0440", "\u043c\u0430\u0439", "\u0438\u044e\u043d",
                       "\u0438\u044e\u043b", "\u0430\u0432\u0433", "\u0441\u0435\u043d",
                       "\u043e\u043a\u0442", "\u043d\u043e\u044f", "\u0434\u0435\u043a"),
            quarter = "Q", week = "W", pieces = " \u0448\u0442"))

# Order lines as they were, in cents.
clean_lines <- function(n = sample(c(1, 3, 12, 40, 120), 1, prob = c(1, 1, 4, 6, 4))) {
  customers <- sample(c("Harlow Apiary", "Bramble Farm", "Tarn Supplies", "Otter Club", "Marl & Co",
                        "Wick, Shop", "Total Honey", "Summers Ltd", "7 Oaks"), 5)
  items <- c("Hive", "Frame", "Suit", "Jar 12", "Feed 5 kg")
  price <- c(12950, 320, 8890, 975, 1425)
  order <- cumsum(sample(c(0, 1, 1), n, TRUE))
  order <- order - min(order) + sample(c(1001, 40001, 7000123), 1)
  who <- sample(5, max(order) - min(order) + 1, TRUE)[order - min(order) + 1]
  when <- sort(sample(0:330, max(order) - min(order) + 1, TRUE))[order - min(order) + 1]
  what <- sample(5, n, TRUE)
  qty <- sample(30, n, TRUE)
  rate <- sample(c(0, 0, .05, .1, .125), n, TRUE)
  listed <- price[what] * qty
  data.frame(order = as.character(order), line = stats::ave(seq_len(n), order, FUN = seq_along) *
               sample(c(1, 10), 1), day = as.Date("2025-01-06") + when, customer = customers[who],
             item = items[what], rep = c("Ann Lock", "Bert Ode", "Cara Finn")[who %% 3 + 1],
             zip = sprintf("%05d", c(1067, 80331, 20095, 50667, 70173))[who], qty = qty,
             listed = listed, rate = rate, net = round(listed * (1 - rate)),
             type = sample(c("invoice", "credit"), n, TRUE, c(9, 1)))
}

# An amount in cents as the language writes it.
money_text <- function(cents, style, tongue) {
  whole <- sprintf("%.0f", abs(cents) %/% 100)
  if (nzchar(style$group))
    whole <- gsub("(?<=[0-9])(?=([0-9]{3})+$)", style$group, whole, perl = TRUE)
  text <- paste0(whole, tongue$decimal, sprintf("%02.0f", abs(cents) %% 100))
  bare <- text
  text <- paste0(text, style$mark)
  ifelse(cents >= 0, text, switch(style$minus, late = paste0(bare, "-", style$mark),
                                  "()" = paste0("(", text, ")"), paste0("-", text)))
}

period_text <- function(day, form, tongue) {
  year <- format(day, "%Y")
  month <- format(day, "%m")
  switch(form, iso = format(day, "%Y-%m"), named = paste(tongue$months[as.integer(month)], year),
         slashed = paste0(month, "/", year), compact = paste0(year, month),
         quarter = paste0(year, " ", tongue$quarter, (as.integer(month) + 2) %/% 3),
         week = paste0(tongue$week, format(day, "%V"), "/", format(day, "%G")),
         fiscal = paste0("FY", format(day, "%y"), " P", month))
}

draw_shape <- function() {
  tongue <- sample(names(export_tongues), 1)
  own <- export_tongues[[tongue]]
  shape <- sample(c("lines", "lines", "grouped", "paged", "periods", "wide"), 1)
  flip <- function(p) stats::runif(1) < p
  style <- list(
    tongue = tongue, shape = shape, kind = sample(c("csv", "csv", "csv", "xlsx"), 1),
    group = sample(own$groups, 1), minus = sample(c("-", "late", "()"), 1),
    mark = sample(c("", "", "", " \u20ac", " EUR"), 1), days = sample(own$days, 1),
    separator = sample(own$separators, 1), encoding = sample(c("UTF-8", "UTF-8", "UTF-8-BOM"), 1),
    titles = if (flip(.3)) sample(2, 1) else 0, blanks = flip(.3), foot = flip(.2),
    total = flip(.4), credit = shape == "lines" && flip(.25), pieces = flip(.2),
    form = sample(c("iso", "named", "slashed", "compact", "quarter", "week", "fiscal"), 1),
    totals_column = flip(.5), by = sample(c("customer", "rep"), 1), negative = flip(.3),
    text_numbers = flip(.3), cover = flip(.4), time = flip(.2), two_heads = flip(.3),
    quote_all = flip(.2))
  if (style$encoding == "UTF-8" && tongue != "ru" && flip(.3) && style$mark != " \u20ac" &&
      style$group != "\u202f") style$encoding <- "latin1"
  lines <- clean_lines()
  if (style$negative) lines$net[sample(nrow(lines), 1)] <- -1234
  made <- switch(shape, lines = shape_lines(lines, style, own), paged = shape_paged(lines, style, own),
                 grouped = shape_grouped(lines, style, own),
                 periods = shape_periods(lines, style, own), wide = shape_wide(lines, style, own))
  c(list(style = style, names = own), made)
}

# The cells of each column, amounts and dates as the language has them; numbers stay numbers where a
# spreadsheet holds them as such.
shown_cells <- function(lines, style, own) {
  raw <- style$kind == "xlsx" && !style$text_numbers
  net <- if (style$credit) abs(lines$net) else lines$net
  list(order = lines$order, line = lines$line, day = if (raw) lines$day else
    localized_day(lines$day, style$days, own), type = unname(unlist(own[lines$type])),
    customer = lines$customer, item = lines$item, rep = lines$rep,
    zip = lines$zip, time = sprintf("%02d:%02d", lines$qty %% 24, lines$net %% 60), qty = if (raw) lines$qty else
      paste0(lines$qty, if (style$pieces) own$pieces),
    listed = if (raw) lines$listed / 100 else money_text(lines$listed, style, own),
    rate = if (raw) lines$rate else sub(".", own$decimal, format_rate(lines$rate), fixed = TRUE),
    net = if (raw) net / 100 else money_text(net, style, own))
}

format_rate <- function(rate) format(rate, trim = TRUE, nsmall = 2, scientific = FALSE)

localized_day <- function(day, form, own) {
  month <- as.integer(format(day, "%m"))
  if (!grepl("%b", form)) return(format(day, form))
  paste(format(day, "%d"), own$months[month], format(day, "%Y"))
}

truth_of <- function(lines, keys = c("customer", "rep", "item"), sign = 1) {
  net <- lines$net * sign
  list(total = sum(net), n = nrow(lines), qty = sum(lines$qty * sign),
       by = lapply(stats::setNames(keys, keys), function(k) tapply(net, lines[[k]], sum)),
       months = tapply(net, format(lines$day, "%Y-%m"), sum))
}

shape_lines <- function(lines, style, own) {
  if (style$credit) lines$type[1] <- "invoice"
  cells <- shown_cells(lines, style, own)
  keep <- c("order", if (stats::runif(1) < .6) "line", "day", if (style$time) "time",
            if (style$credit) "type", "customer",
            "item", "rep", if (stats::runif(1) < .4) "zip", "qty",
            if (stats::runif(1) < .4) c("listed", "rate"), "net")
  if (stats::runif(1) < .3) keep <- sample(keep)
  sign <- if (style$credit) {
    lines$net <- abs(lines$net)
    ifelse(lines$type == "credit", -1, 1)
  } else 1
  rows <- as_rows(cells[keep])
  totals <- style$total && nrow(lines) > 2 && !style$credit
  if (totals) rows <- c(rows, list(total_row(keep, own$all, sum(lines$net), sum(lines$qty),
                                             style, own)))
  list(head = unlist(own[keep]), keys = keep, rows = rows, truth = truth_of(lines, sign = sign),
       totals = as.integer(totals), rates = lines$rate)
}

as_rows <- function(cells) lapply(seq_along(cells[[1]]), function(i) lapply(cells, `[`, i))

# A row of a total: its word in the first column of names, sums where they are added up.
total_row <- function(keep, word, net, qty, style, own, at = NULL) {
  raw <- style$kind == "xlsx" && !style$text_numbers
  if (is.null(at)) at <- intersect(keep, c("order", "customer", "item", "rep"))[1]
  stats::setNames(lapply(keep, function(k) {
    if (k == at) return(word)
    switch(k, net = if (raw) net / 100 else money_text(net, style, own),
           qty = if (raw) qty else paste0(qty, if (style$pieces) own$pieces), "")
  }), keep)
}

shape_grouped <- function(lines, style, own) {
  keep <- c(style$by, setdiff(c("order", "day", "customer", "item", "rep", "qty", "net"), style$by))
  lines <- lines[order(lines[[style$by]]), ]
  cells <- shown_cells(lines, style, own)
  group <- match(lines[[style$by]], unique(lines[[style$by]]))
  rows <- as_rows(cells[keep])
  out <- list()
  for (g in unique(group)) {
    own_rows <- which(group == g)
    name <- lines[[style$by]][own_rows[1]]
    out <- c(out, rows[own_rows], list(total_row(
      keep, paste(own$sub, name), sum(lines$net[own_rows]), sum(lines$qty[own_rows]), style, own,
      style$by)))
  }
  out <- c(out, list(total_row(keep, own$all, sum(lines$net), sum(lines$qty), style, own, style$by)))
  list(head = unlist(own[keep]), keys = keep, rows = out, truth = truth_of(lines),
       totals = max(group) + 1L, grouped = TRUE)
}

shape_paged <- function(lines, style, own) {
  keep <- c("order", "day", "customer", "item", "rep", "qty", "net")
  cells <- shown_cells(lines, style, own)
  rows <- as_rows(cells[keep])
  size <- sample(c(5, 10, 25), 1)
  page <- (seq_along(rows) - 1) %/% size
  again <- stats::runif(1) < .5
  out <- list()
  for (p in unique(page)) {
    at <- which(page == p)
    out <- c(out, if (again && p > 0) list(stats::setNames(as.list(unname(unlist(own[keep]))), keep)),
             rows[at], list(total_row(keep, own$page, sum(lines$net[at]), sum(lines$qty[at]), style,
                                      own, sample(c("order", "customer", "item"), 1))))
  }
  list(head = unlist(own[keep]), keys = keep, rows = out, truth = truth_of(lines),
       totals = max(page) + 1L)
}

shape_periods <- function(lines, style, own) {
  lines$period <- period_text(lines$day, style$form, own)
  lines$first <- match(lines$period, lines$period)
  group <- interaction(lines$period, lines$customer, lines$item, drop = TRUE)
  first <- !duplicated(group)
  at <- lines[first, ]
  at$net <- as.vector(tapply(lines$net, group, sum)[as.character(group[first])])
  at$qty <- as.vector(tapply(lines$qty, group, sum)[as.character(group[first])])
  style$pieces <- FALSE
  cells <- shown_cells(at, style, own)
  cells$period <- at$period
  keep <- c("period", "customer", "item", "rep", "qty", "net")
  truth <- truth_of(at)
  truth$months <- if (style$form %in% c("quarter", "week")) NULL else truth$months
  list(head = unlist(own[keep]), keys = keep, rows = as_rows(cells[keep]), truth = truth, totals = 0L)
}

shape_wide <- function(lines, style, own) {
  if (style$form %in% c("week", "fiscal", "compact")) style$form <- "iso"
  period <- period_text(lines$day, style$form, own)
  periods <- unique(period[order(lines$day)])
  customers <- unique(lines$customer)
  net <- tapply(lines$net, list(factor(lines$customer, customers), factor(period, periods)), sum)
  raw <- style$kind == "xlsx" && !style$text_numbers
  text <- function(cents) if (raw) as.list(cents / 100) else as.list(money_text(cents, style, own))
  row_of <- function(name, rep, values) {
    shown <- text(ifelse(is.na(values), 0, values))
    shown[is.na(values)] <- ""
    c(list(name, rep), shown, if (style$totals_column) text(sum(values, na.rm = TRUE)))
  }
  rows <- lapply(seq_along(customers), function(i) {
    row_of(customers[i], lines$rep[match(customers[i], lines$customer)], net[i, ])
  })
  totals <- style$total && length(customers) > 1
  if (totals) rows <- c(rows, list(row_of(own$all, "", colSums(net, na.rm = TRUE))))
  truth <- truth_of(lines, c("customer", "rep"))
  truth["n"] <- list(NULL)
  truth["qty"] <- list(NULL)
  truth$months <- if (style$form == "quarter") NULL else truth$months
  top <- if (style$two_heads && style$form == "named" && length(unique(substr(periods, nchar(periods) - 3, 99))) == 1)
    c("", "", sub("^.* ", "", periods[1]), rep("", length(periods) - 1), if (style$totals_column) "")
  list(top = top, head = c(own$customer, own$rep, if (is.null(top)) periods else sub(" [0-9]{4}$", "", periods),
                           if (style$totals_column) own$all),
       keys = c("customer", "rep", periods), rows = rows, truth = truth,
       totals = as.integer(totals), periods = length(periods))
}

# Written as the style says; gives the path.
write_shape <- function(one, folder) {
  style <- one$style
  file <- file.path(folder, paste0("export.", style$kind))
  rows <- c(list(as.list(unname(one$head))), lapply(one$rows, unname))
  width <- length(one$head)
  if (!is.null(one$top)) rows <- c(list(as.list(one$top)), rows)
  empty <- rep(list(""), width)
  if (style$blanks && length(rows) > 4)
    rows <- append(rows, list(empty), sample(3:(length(rows) - 1), 1))
  if (style$foot) rows <- c(rows, if (style$blanks) list(empty), list(c(list(one$names$foot),
                                                                       empty[-1])))
  if (style$titles)
    rows <- c(lapply(one$names$titles[seq_len(style$titles)], function(t) c(list(t), empty[-1])), rows)
  if (style$kind == "xlsx") return(write_sheet(rows, file, style))
  text <- vapply(rows, function(row) {
    cells <- vapply(row, as.character, "")
    hurt <- grepl(paste0("[\"\n", style$separator, "]"), cells) | style$quote_all & nzchar(cells)
    cells[hurt] <- paste0("\"", gsub("\"", "\"\"", cells[hurt], fixed = TRUE), "\"")
    paste(cells, collapse = style$separator)
  }, "")
  bytes <- charToRaw(paste0(paste(enc2utf8(text), collapse = "\r\n"), "\r\n"))
  if (style$encoding == "UTF-8-BOM") bytes <- c(as.raw(c(0xef, 0xbb, 0xbf)), bytes)
  if (style$encoding == "latin1")
    bytes <- iconv(rawToChar(bytes), "UTF-8", "latin1", toRaw = TRUE)[[1]]
  writeBin(bytes, file)
  file
}

write_sheet <- function(rows, file, style) {
  book <- openxlsx::createWorkbook()
  if (style$cover) {
    openxlsx::addWorksheet(book, "Cover")
    openxlsx::writeData(book, "Cover", "Prepared for the sales meeting", colNames = FALSE)
  }
  openxlsx::addWorksheet(book, "Data")
  for (j in seq_along(rows[[1]])) {
    column <- lapply(rows, `[[`, j)
    kinds <- vapply(column, function(x) class(x)[1], "")
    for (run in split(seq_along(column), cumsum(c(TRUE, kinds[-1] != kinds[-length(kinds)])))) {
      values <- do.call(c, column[run])
      if (is.character(values)) values[!nzchar(values)] <- NA
      if (!all(is.na(values)))
        openxlsx::writeData(book, "Data", values, startCol = j, startRow = run[1], colNames = FALSE)
    }
  }
  openxlsx::saveWorkbook(book, file, overwrite = TRUE)
  file
}

# A person's way with a file: its first answer, with one correction as the tool prints it where it
# prints any. Gives list(book, told, corrected) or list(error).
open_as_told <- function(file, one) {
  first <- open_words(file)
  words <- correction_in(first$text, one)
  if (!length(words)) return(first)
  again <- open_words(c(file, words))
  again$corrected <- words
  again
}

open_words <- function(words) {
  inside <- function(name) getFromNamespace(name, "longladder")
  book <- NULL
  text <- utils::capture.output(type = "message", book <- tryCatch({
    read <- inside("read_words")(inside("declaration_of")("total"), words, most = Inf)
    inside("with_drafted")(inside("command_book")(read))
  }, error = identity))
  if (inherits(book, "error"))
    return(list(error = if (inherits(book, "ll_error")) conditionMessage(book) else
      paste("raw error:", conditionMessage(book)), text = conditionMessage(book)))
  list(book = book, text = paste(text, collapse = "\n"))
}

# The first option in a sentence that leaves something to decide, as words of the command.
correction_in <- function(text, one) {
  lines <- grep("^read as|^no metric|--define", strsplit(text, "\n")[[1]], value = TRUE, invert = TRUE)
  at <- regexpr("--[a-z][a-z-]* ([A-Za-z_.]*='[^']*'|'[^']*'|[^ ,;()]+)", lines)
  found <- regmatches(lines, at)
  if (!length(found)) return(NULL)
  # Where both ways are printed the person knows which one is meant.
  if (grepl("decimal (point|comma)", found[1]))
    found <- sub("decimal (point|comma)", paste("decimal", if (one$names$decimal == ".") "point" else
      "comma"), found[1])
  if (grepl("month first", found[1]) && !startsWith(one$style$days, "%m")) return(NULL)
  c(sub(" .*", "", found[1]), gsub("'", "", sub("^[^ ]* ", "", found[1])))
}

# What is wrong with how an export was read, or NULL.
shape_trouble <- function(one, file) {
  got <- open_as_told(file, one)
  if (!is.null(got$error)) return(paste("refused:", got$error))
  book <- got$book
  truth <- one$truth
  head <- stats::setNames(unname(one$head)[seq_along(one$keys)], one$keys)
  own <- book$fields[book$fields$from == "lines", ]
  role <- function(key) own$role[match(head[[key]], own$name)]
  trouble <- character()
  say <- function(...) trouble <<- c(trouble, paste0(...))
  for (key in intersect(c("order", "line", "zip", "customer", "item", "rep"), one$keys))
    if (role(key) %in% c("measure", NA)) say(key, " is ", role(key))
  if ("rate" %in% one$keys && any(one$rates != 0) && !isTRUE(own$rate[own$name == head[["rate"]]]))
    say("the rate is none")
  if (!"revenue" %in% names(book$metrics)) return(c(trouble, paste(
    "no revenue among", paste(names(book$metrics), collapse = ", "))))
  near <- function(a, b) length(a) == length(b) && all(abs(a - b) < .005)
  total <- longladder::ll_total(book, "revenue")
  if (!near(total$value, truth$total / 100)) say("revenue ", total$value, " for ", truth$total / 100)
  proof <- longladder::ll_proof(total)
  if (!all(proof$holds)) say("proof: ", proof$check[!proof$holds][1])
  if (!is.null(truth$n) && book$lines != truth$n) say(book$lines, " lines for ", truth$n)
  if (!is.null(truth$qty) && !is.null(book$metrics$units)) {
    units <- longladder::ll_total(book, "units")$value
    if (!near(units, truth$qty)) say("units ", units, " for ", truth$qty)
  }
  for (key in intersect(names(truth$by), one$keys)) {
    by <- as.data.frame(longladder::ll_standings(book, head[[key]], "revenue"))
    want <- truth$by[[key]]
    if (!setequal(by[[2]], names(want)) ||
        !near(by$revenue[match(names(want), by[[2]])], as.vector(want) / 100)) say("by ", key)
  }
  if (!is.null(truth$months)) {
    if (is.null(book$date)) say("no date") else for (month in utils::head(names(truth$months), 2)) {
      value <- longladder::ll_total(book, "revenue", when = month)$value
      if (!near(value, truth$months[[month]] / 100)) {
        say(month, " is ", value, " for ", truth$months[[month]] / 100)
        break
      }
    }
  }
  trouble <- c(trouble, sentence_trouble(one, book, got))
  if (length(trouble)) trouble
}

# Sentences on opening: each fault that is there, with its count, and none that is not.
sentence_trouble <- function(one, book, got) {
  fixes <- book$fixes
  of <- function(kind) fixes[fixes$kind == kind, , drop = FALSE]
  counted <- sum(as.numeric(sub("[^0-9].*", "", grep("^[0-9]+ .*row", of("total_rows")$text,
                                                     value = TRUE))))
  c(if (counted != one$totals && is.null(one$grouped)) paste("told", counted, "total rows of",
                                                             one$totals),
    if (any(!grepl("month first", book$offers$text))) paste("still to decide:", book$offers$text[1]),
    if (one$style$shape != "wide" && NROW(of("unpivot"))) "unpivoted without months in columns",
    if (!one$style$credit && NROW(of("sign"))) "signs changed without credit notes",
    if (length(strsplit(got$text, "\n")[[1]]) > 6) paste("too many sentences:", got$text))
}
