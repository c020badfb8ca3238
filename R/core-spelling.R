# Names that may be one: they differ only in case, blanks or accents.

# What such names have in common.
spelling_key <- function(names) {
  # What is long for many names is done for those that need it.
  plain <- tolower(names)
  blank <- grep("[[:space:]]", plain)
  plain[blank] <- gsub("[[:space:]]+", " ", trimmed(plain[blank]))
  accented <- grepl("[^ -~]", plain)
  ascii <- suppressWarnings(iconv(plain[accented], "UTF-8", "ASCII//TRANSLIT"))
  plain[accented] <- ifelse(is.na(ascii), plain[accented], ascii)
  plain
}

# Names with more than one spelling, as lists of them.
spelled_similarly <- function(names) {
  key <- spelling_key(names)
  if (!anyDuplicated(key)) return(list())
  several <- key %in% key[duplicated(key)]
  unname(split(names[several], key[several]))
}
