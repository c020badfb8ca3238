# Exports that are not one clean table: headers beside their lines, a register whose keys nearly
# meet, several currencies, some three hundred columns, a file that was cut off. Each with its
# truth; what is wrong with how one was read, or NULL.

currency_words <- c(en = "Currency", de = "W\u00e4hrung", fr = "Devise", nl = "Valuta",
                    es = "Moneda", ru = "\u0412\u0430\u043b\u044e\u0442\u0430")

draw_beside <- function() {
  tongue <- sample(names(export_tongues), 1)
  own <- export_tongues[[tongue]]
  style <- list(tongue = tongue, kind = "csv", group = "", minus = "-", mark = "",
                days = sample(own$days, 1), separator = sample(own$separators, 1),
                encoding = "UTF-8", titles = 0, blanks = FALSE, foot = FALSE, total = FALSE,
                credit = FALSE, pieces = FALSE, quote_all = FALSE,
                beside = sample(c("headers", "register", "currencies", "columns", "cut"), 1),
                spoilt = sample(c("none", "zeros", "case", "trim", "punctuation"), 1))
  list(style = style, names = own, lines = clean_lines(sample(c(30, 80), 1)),
       noise = sample(250:320, 1))
}

beside_table <- function(one, cells, name, folder, head = unlist(one$names[names(cells)])) {
  file <- write_shape(list(style = one$style, names = one$names, head = head, keys = names(cells),
                           rows = as_rows(cells)), folder)
  to <- file.path(folder, paste0(name, ".csv"))
  file.rename(file, to)
  to
}

# The same key as another system writes it.
spoilt_keys <- function(keys, how) {
  switch(how, zeros = paste0("000", keys), case = tolower(keys), trim = paste0(keys, " "),
         punctuation = sub("^(.)", "\\1-", keys), keys)
}

beside_trouble <- function(one, folder) {
  get(paste0("trouble_", one$style$beside))(one, folder)
}

# Which of the figures are others than these, in cents by name.
other_figures <- function(book, field, metric, want) {
  got <- as.data.frame(longladder::ll_standings(book, field, metric))
  value <- got[[metric]][match(names(want), got[[2]])]
  if (!setequal(got[[2]], names(want)) || any(abs(value - as.vector(want) / 100) > .005))
    paste0("by ", field)
}

trouble_headers <- function(one, folder) {
  lines <- one$lines
  cells <- shown_cells(lines, one$style, one$names)
  first <- !duplicated(lines$order)
  keys <- if (one$style$spoilt == "zeros") spoilt_keys(lines$order, "zeros") else lines$order
  head <- beside_table(one, lapply(cells[c("order", "day", "customer", "rep")], `[`, first),
                       "orders", folder)
  cells$order <- keys
  body <- beside_table(one, cells[c("order", "item", "qty", "net")], "lines", folder)
  files <- sample(c(head, body))
  text <- longladder::ll_draft(files)
  file <- file.path(folder, "longladder.yml")
  writeLines(text, file, useBytes = TRUE)
  brief <- longladder::ll_brief(file)
  total <- longladder::ll_total(brief$book, "revenue")
  month <- format(lines$day[1], "%Y-%m")
  c(if (abs(total$value - sum(lines$net) / 100) > .005) "revenue",
    if (!all(longladder::ll_proof(total)$holds)) "proof",
    other_figures(brief$book, one$names$customer, "revenue",
                  tapply(lines$net, lines$customer, sum)),
    if (abs(longladder::ll_total(brief$book, "revenue", when = month)$value -
            sum(lines$net[format(lines$day, "%Y-%m") == month]) / 100) > .005) "month")
}

trouble_register <- function(one, folder) {
  lines <- one$lines
  codes <- stats::setNames(paste0("K", 17 * seq_len(5)), unique(c(lines$customer, letters))[1:5])
  lines$customer <- codes[lines$customer]
  cells <- shown_cells(lines, one$style, one$names)
  file <- beside_table(one, cells[c("order", "day", "customer", "item", "qty", "net")], "lines",
                       folder)
  how <- one$style$spoilt
  # None of these codes begins with a digit.
  register <- list(customer = spoilt_keys(codes, if (how == "zeros") "none" else how),
                   team = rep_len(c("North", "South"), 5))
  register <- beside_table(one, register, "customers", folder, c(one$names$customer, "Team"))
  words <- c(file, "--register", paste0(one$names$customer, "=", register))
  got <- open_words(words)
  if (how %in% c("case", "trim", "punctuation")) {
    correction <- correction_in(sub("(?s)^.*?--match", "--match", got$text, perl = TRUE), one)
    # Blanks at the ends of cells may be taken off already in reading.
    if (length(correction)) got <- open_words(c(words, correction)) else if (how != "trim")
      return(paste("no correction:", got$text))
  }
  if (!is.null(got$error)) return(got$error)
  team <- rep_len(c("North", "South"), 5)[match(lines$customer, codes)]
  other_figures(got$book, "Team", "revenue", tapply(lines$net, team, sum))
}

trouble_currencies <- function(one, folder) {
  lines <- one$lines
  lines$currency <- sample(c("EUR", "GBP", "USD"), nrow(lines), TRUE, c(3, 2, 1))
  lines$currency[1:2] <- c("EUR", "GBP")
  cells <- c(shown_cells(lines, one$style, one$names), list(currency = lines$currency))
  keep <- c("order", "day", "customer", "currency", "item", "qty", "net")
  head <- unlist(one$names[keep])[keep]
  head[4] <- currency_words[[one$style$tongue]]
  file <- beside_table(one, cells[keep], "lines", folder, unname(head))
  got <- open_words(file)
  if (!is.null(got$error)) return(got$error)
  if (!inherits(try(longladder::ll_total(got$book, "revenue"), silent = TRUE), "try-error"))
    return("currencies are added up")
  if (!grepl("several currencies", got$text)) return("currencies are not told")
  define <- paste0("revenue=", got$book$metrics$revenue$text)
  utils::capture.output(type = "message", apart <- utils::capture.output(longladder::ll_main(c(
    "total", file, "--metrics", "revenue", "--format", "json", "--define", define))))
  shown <- unlist(lapply(jsonlite::fromJSON(apart, simplifyVector = FALSE),
                         function(part) part$rows[[1]]$value))
  want <- tapply(lines$net, lines$currency, sum) / 100
  if (length(shown) != length(want) || any(abs(sort(shown) - sort(as.vector(want))) > .005))
    "figures of each currency"
}

trouble_columns <- function(one, folder) {
  cells <- shown_cells(one$lines, one$style, one$names)
  n <- nrow(one$lines)
  noise <- lapply(seq_len(one$noise), function(i) {
    switch(i %% 5 + 1, rep("", n), sample(c("Y", "N"), n, TRUE), sample(c("0", "1"), n, TRUE),
           sprintf("text %d", sample(9, n, TRUE)), sample(c("", "A1"), n, TRUE))
  })
  keep <- c("order", "day", "customer", "item", "rep", "qty", "net")
  at <- sort(sample(one$noise, length(keep)))
  all <- noise
  names(all) <- paste0("n", seq_along(all))
  all[at] <- cells[keep]
  head <- paste0("Attr_", seq_along(all))
  head[at] <- unlist(one$names[keep])
  got <- open_words(beside_table(one, all, "lines", folder, head))
  if (!is.null(got$error)) return(got$error)
  total <- longladder::ll_total(got$book, "revenue")
  c(if (abs(total$value - sum(one$lines$net) / 100) > .005) "revenue",
    if (!all(longladder::ll_proof(total)$holds)) "proof")
}

# Cut within a line, so that it has fewer cells: never read without a word.
trouble_cut <- function(one, folder) {
  cells <- shown_cells(one$lines, one$style, one$names)
  keep <- c("order", "day", "customer", "item", "rep", "qty", "net")
  file <- beside_table(one, cells[keep], "lines", folder)
  bytes <- readBin(file, "raw", file.size(file))
  ends <- which(bytes == as.raw(10))
  last <- bytes[(ends[length(ends) - 1] + 1):length(bytes)]
  marks <- which(last == charToRaw(one$style$separator))
  writeBin(bytes[seq_len(ends[length(ends) - 1] + sample(marks[2:6], 1) - 1)], file)
  got <- open_words(file)
  if (!is.null(got$error))
    return(if (!grepl("cut off", got$error)) paste("refused without the reason:", got$error))
  if (!grepl("cut off", got$text)) "a file that was cut off is read without a word"
}
