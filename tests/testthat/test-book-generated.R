# Exports drawn at random: every way of writing numbers crossed with blanks, quotes, line breaks,
# separators, line ends, encodings, title rows, totals and several files, each held against the
# values that it was made from.

export_names <- c("Ida", "Tom ", "O'Brien", "say \"hi\"", "two\nlines", "a;b,c|d\te", "\"quoted\"",
                  "Jos\u00e9", "5\" pipe", "1.10", "1.1", "00123", "1E5", "total war", "=1+1",
                  "end\"", "new\r\nline", "(x)", "-", "n/a b")

draw_export <- function() {
  n <- sample(c(1:6, 40), 1)
  list(rep = sample(export_names, n, TRUE),
       note = sample(c(NA, export_names, "a\n\n\"b\", c\n"), n, TRUE),
       cents = sample(c(NA, -99999:999999, 5, 0, 100000 * 1:9), n, TRUE),
       qty = sample(c(NA, 0:12), n, TRUE), day = as.Date("2026-01-01") + sample(400, n, TRUE),
       style = list(decimal = sample(c(".", ","), 1),
                    group = sample(c("", "", "mark", " ", "'"), 1),
                    negative = sample(c("-", "()", "late", "CR"), 1),
                    currency = sample(c("", "", "EUR ", " EUR", "$", "\u00a3"), 1),
                    none = sample(c("", "n/a", "-", "NA", "--"), 1),
                    quote = sample(c("needed", "all", "text"), 1),
                    separator = sample(c(",", ";", "\t", "|"), 1),
                    end = sample(c("\n", "\r\n", "\r"), 1),
                    encoding = sample(c("UTF-8", "BOM", "latin1", "UTF-16"), 1),
                    titles = sample(c(0, 0, 2), 1), total = sample(c(FALSE, FALSE, TRUE), 1),
                    last_end = sample(c(TRUE, FALSE), 1), files = if (n > 3) sample(3, 1) else 1))
}

write_amount <- function(cents, style) {
  whole <- sprintf("%.0f", abs(cents) %/% 100)
  mark <- switch(style$group, mark = if (style$decimal == ".") "," else ".", style$group)
  whole <- gsub("(?<=[0-9])(?=([0-9]{3})+$)", mark, whole, perl = TRUE)
  text <- paste0(whole, style$decimal, sprintf("%02.0f", abs(cents) %% 100))
  money <- if (startsWith(style$currency, " ")) paste0(text, style$currency) else
    paste0(style$currency, text)
  below <- switch(style$negative, "-" = paste0("-", money), "()" = paste0("(", money, ")"),
                  late = paste0(text, "-"), CR = paste(text, "CR"))
  unname(ifelse(is.na(cents), style$none, ifelse(cents < 0, below, money)))
}

write_export <- function(one, lines, file) {
  style <- one$style
  cell <- function(x, text) {
    x <- ifelse(is.na(x), "", as.character(x))
    needs <- grepl("[\"\n\r\t;,|]", x) | startsWith(x, " ") | style$quote == "all" |
      style$quote == "text" & text & nzchar(x)
    ifelse(needs, paste0("\"", gsub("\"", "\"\"", x, fixed = TRUE), "\""), x)
  }
  columns <- list(rep = cell(one$rep[lines], TRUE), note = cell(one$note[lines], TRUE),
                  net = cell(write_amount(one$cents[lines], style), FALSE),
                  qty = cell(one$qty[lines], FALSE), day = cell(format(one$day[lines]), FALSE))
  rows <- c(paste(names(columns), collapse = style$separator),
            do.call(paste, c(columns, sep = style$separator)))
  if (style$titles) rows <- c("Sales report", "made by Pat", rows)
  # A grand total of one line looks like any line.
  if (style$total && length(lines) > 2 && !anyNA(one$cents[lines]))
    rows <- c(rows, paste(c("Grand total", "", cell(write_amount(sum(one$cents[lines]), style),
                                                    FALSE), "", ""), collapse = style$separator))
  text <- paste0(paste(rows, collapse = style$end), if (style$last_end) style$end)
  bytes <- switch(style$encoding, "UTF-8" = charToRaw(text),
                  BOM = charToRaw(paste0("\ufeff", text)),
                  latin1 = iconv(text, "UTF-8", "latin1", toRaw = TRUE)[[1]],
                  iconv(text, "UTF-8", "UTF-16", toRaw = TRUE)[[1]])
  writeBin(bytes, file)
}

export_files <- function(one, folder) {
  n <- length(one$rep)
  part <- sort(rep_len(seq_len(one$style$files), n))
  vapply(seq_len(one$style$files), function(i) {
    file <- file.path(folder, paste0("part-", i, ".csv"))
    write_export(one, which(part == i), file)
    file
  }, "")
}

test_that("exports of every kind give the values that they were made from", {
  skip_unless_all()
  folder <- withr::local_tempdir()
  for (seed in seq_len(cases(120))) {
    withr::local_seed(seed)
    one <- draw_export()
    files <- export_files(one, folder)
    info <- paste(seed, paste(names(one$style), shQuote(unlist(one$style)), collapse = " "))
    book <- tryCatch(ll_book(files, fields = c(net = "measure", qty = "measure", rep = "dimension",
                                               note = "dimension", day = "date"),
                             metrics = c(revenue = "sum(net)", units = "sum(qty)", n = "count()",
                                         last = "max(day)")), error = identity)
    if (!inherits(book, "ll_book")) {
      # Columns without any value are no measures.
      void <- all(is.na(one$cents)) || all(is.na(one$qty))
      expect_true(void && grepl("is missing", conditionMessage(book)),
                  info = paste(info, conditionMessage(book)))
      next
    }
    got <- ll_standings(book, "rep", c("revenue", "units", "n", "last"))
    expect_true(all(ll_proof(got)$holds), info = info)
    want <- tapply(one$cents / 100, one$rep, function(v) if (all(is.na(v))) NA else
                   sum(v, na.rm = TRUE))
    at <- match(names(want), got$rep)
    expect_false(anyNA(at), info = info)
    expect_equal(got$revenue[at], as.vector(want), info = info)
    expect_equal(got$n[at], as.vector(tapply(one$rep, one$rep, length)), info = info)
    expect_equal(as.numeric(got$last[at]), as.vector(tapply(as.numeric(one$day), one$rep, max)),
                 info = info)
    notes <- ll_standings(book, "note", "n")
    expect_setequal(setdiff(notes$note, "(none)"), unique(one$note[!is.na(one$note)]))
  }
})
