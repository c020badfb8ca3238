# The code page of a text table that is not in UTF-8: said by the person, or told from its bytes.

# Code pages that exports are written in, those that are commonest first. Latin-1 is read as
# Windows-1252, which has the euro sign and curly quotes besides.
code_pages <- c("CP1252", "CP1250", "CP1251", "CP1254", "CP850", "CP866", "KOI8-R", "MACINTOSH")
wide_pages <- c("SHIFT-JIS", "GB18030", "EUC-KR", "BIG5")

page_name <- function(page) sub("^CP(125[0-9])$", "Windows-\\1", page)

# Bytes in UTF-8; NULL where the code page has no such letters.
recoded <- function(bytes, page) {
  # Of a list of bytes iconv() would give back what it cannot read.
  text <- tryCatch(iconv(rawToChar(bytes), page, "UTF-8"), error = function(e) NA,
                   warning = function(w) NA)
  if (!is.na(text) && validUTF8(text)) charToRaw(text)
}

check_encoding_word <- function(encoding) {
  if (is.null(encoding)) return(NULL)
  page <- toupper(check_words(encoding, "encoding", one = TRUE))
  page <- sub("^WINDOWS-?", "CP", sub("^(ISO-?8859-?1|LATIN-?1)$", "CP1252", page))
  if (is.null(recoded(charToRaw("a"), page)))
    ll_abort(c(paste0("There is no encoding ", quoted(encoding), "."),
               offer(page, c("UTF-8", code_pages, wide_pages), "Encodings")), "word")
  page
}

# What the bytes beyond ASCII of a file's beginning are most likely to be; NULL for UTF-8.
guess_page <- function(path, size = 2^18) {
  sample <- sample_bytes(path, size)
  text <- rawToChar(sample[sample != as.raw(0)])
  if (all(sample < as.raw(0x80)) || validUTF8(text)) return(NULL)
  words <- high_words(sample)
  # A handful of letters may be anything.
  if (sum(unlist(words) >= as.raw(0x80)) < 5) return("CP1252")
  whole <- vapply(wide_pages, wide_share, 0, sample = sample)
  if (max(whole) > .95) return(wide_pages[which.max(whole)])
  score <- vapply(code_pages, page_score, 0, words = words)
  # Of those that read equally well the commoner.
  code_pages[which.max(score - .01 * seq_along(score))]
}

# The beginning up to the end of a line; where that is plain, as much of the end.
sample_bytes <- function(path, size) {
  from <- file(path, "rb")
  on.exit(close(from))
  bytes <- readBin(from, "raw", size)
  if (all(bytes < as.raw(0x80)) && file.size(path) > size) {
    seek(from, max(size, file.size(path) - size))
    bytes <- readBin(from, "raw", size)
  }
  ends <- which(bytes == as.raw(10))
  if (length(bytes) == size && length(ends) > 1) bytes <- bytes[ends[1]:max(ends)]
  bytes
}

# Words with letters beyond ASCII, each once: a list of bytes.
high_words <- function(bytes) {
  code <- as.integer(bytes)
  letter <- code >= 128 | code >= 65 & code <= 90 | code >= 97 & code <= 122
  run <- cumsum(c(TRUE, diff(letter) != 0))
  high <- unique(run[code >= 128])
  words <- split(bytes[run %in% high], run[run %in% high])
  # A sign alone, such as one of a currency, is no word.
  words <- words[lengths(words) > 1]
  utils::head(words[!duplicated(vapply(words, paste, "", collapse = ""))], 2000)
}

# How well words read in a code page, 0 to 1: of their signs beyond ASCII, letters that stand among
# letters, and no capital after a small letter. Where most stand beside one another, as no Latin
# script writes them, Latin letters count for nothing; letters of other scripts do not stand in a
# word with Latin ones.
page_score <- function(page, words) {
  text <- recoded(unlist(lapply(unname(words), c, as.raw(10))), page)
  if (is.null(text)) return(0)
  signs <- utf8ToInt(rawToChar(text))
  one <- intToUtf8(signs, multiple = TRUE)
  high <- signs >= 128
  letter <- grepl("^\\p{L}$", one, perl = TRUE)
  small <- letter & one == tolower(one)
  capital <- letter & one == toupper(one) & !small
  n <- length(one)
  before <- c(FALSE, letter[-n])
  after <- c(letter[-1], FALSE)
  odd <- c(FALSE, small[-n]) & capital
  # A capital within small ones, or a small letter that begins a word whose rest is capitals.
  odd <- odd | small & c(FALSE, capital[-n]) & c(capital[-1], FALSE) |
    small & !before & c(capital[-1], FALSE)
  beside <- c(FALSE, high[-n]) | c(high[-1], FALSE)
  latin <- signs < 0x250
  crowded <- mean(beside[high]) > .75
  ascii <- letter & !high
  word <- cumsum(signs == 10)
  mixed <- !latin & word %in% word[ascii]
  good <- letter & !odd & !mixed & !(crowded & latin)
  # Marks of currency, quotes and the like stand beside letters of no word.
  mark <- !letter & !(before & after) &
    (signs >= 0xa0 & signs <= 0xbf | signs >= 0x2010 & signs <= 0x2026 |
       signs %in% c(0x20ac, 0x2116, 0x2122))
  sum((good | mark)[high]) / sum(high) - .2 * mean(mark[high]) - .2 * mean(unlikely_letters(one[high]))
}

# Letters that Windows-1252 has where others have those of Turkish and Czech: of languages that few
# write, or that no one language has side by side.
unlikely_letters <- function(letters) {
  few <- letters %in% c("\u00f0", "\u00fd", "\u00fe", "\u00d0", "\u00dd", "\u00de")
  slashed <- letters %in% c("\u00f8", "\u00d8")
  grave <- letters %in% c("\u00e8", "\u00ec", "\u00f2", "\u00f9")
  few | if (any(slashed) && any(grave)) slashed | grave else FALSE
}

# The share of letters of East Asian scripts among what is beyond ASCII, those apart that stand beside
# a Latin letter as the second half of a word does; 0 where the bytes do not fit.
wide_share <- function(page, sample) {
  text <- recoded(sample, page)
  if (is.null(text)) return(0)
  signs <- utf8ToInt(rawToChar(text))
  ascii <- signs >= 65 & signs <= 90 | signs >= 97 & signs <= 122
  beside <- c(FALSE, ascii[-length(ascii)]) | c(ascii[-1], FALSE)
  common <- signs >= 0x3041 & signs <= 0x30ff | signs >= 0x4e00 & signs <= 0x9fa5 |
    signs >= 0xac00 & signs <= 0xd7a3
  marks <- signs >= 0x3000 & signs <= 0x3002 | signs >= 0xff01 & signs <= 0xff5e | signs == 0xa5
  # A letter or two may be chance.
  if (sum(common & !beside) < 4) 0 else mean((common & !beside | marks)[signs >= 128])
}
