# Names that may be one: they differ only in case, blanks or accents.

# What such names have in common.
spelling_key <- function(names) {
  # What is long for many names is done for those that need it.
  plain <- tolower(names)
  blank <- grep("[^!-~]", plain)
  plain[blank] <- with_plain_blanks(plain[blank])
  accented <- grepl("[^ -~]", plain)
  plain[accented] <- without_accents(plain[accented])
  plain
}

# Letters without their accents, as far as they have such a form: those of other alphabets stay.
without_accents <- function(x) {
  x <- gsub("[\u0300-\u036f]+", "", as_utf8(x), perl = TRUE)
  ascii <- suppressWarnings(iconv(x, "UTF-8", "ASCII//TRANSLIT"))
  # What has no such form becomes a question mark, or nothing at all.
  marks <- function(text) nchar(gsub("[^?]", "", text))
  lost <- which(is.na(ascii) | marks(ascii) > marks(x))
  if (!length(lost)) return(ascii)
  letters <- strsplit(x[lost], "", fixed = TRUE)
  of <- unique(unlist(letters))
  to <- suppressWarnings(iconv(of, "UTF-8", "ASCII//TRANSLIT"))
  none <- is.na(to) | grepl("?", to, fixed = TRUE)
  to[none] <- of[none]
  ascii[lost] <- vapply(letters, function(one) paste(to[match(one, of)], collapse = ""), "")
  ascii
}

# Names with more than one spelling, as lists of them.
spelled_similarly <- function(names) {
  key <- spelling_key(names)
  if (!anyDuplicated(key)) return(list())
  several <- key %in% key[duplicated(key)]
  unname(split(names[several], key[several]))
}
