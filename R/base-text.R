# Text for people: quoting, lists, plurals, dates, fitting to a width.

quoted <- function(x) paste0("'", one_line(x), "'")

# A text as it is read back from double quotes: those within are written twice.
in_quotes <- function(x) paste0("\"", gsub("\"", "\"\"", x, fixed = TRUE), "\"")

# "a", "a and b", "a, b and c"; at most `most` are named.
and_list <- function(x, most = 6, last = "and") {
  x <- one_line(as.character(x))
  if (length(x) > most) x <- c(x[seq_len(most - 1)],
                               paste(count_text(length(x) - most + 1), "more"))
  if (length(x) < 2) return(paste0(x, character(0), collapse = ""))
  paste(paste(x[-length(x)], collapse = ", "), last, x[length(x)])
}

count_text <- function(n) {
  format(n, big.mark = ",", scientific = FALSE, trim = TRUE)
}

# "1 line", "2 lines", "1,200 territories".
plural <- function(n, word) {
  one <- if (is_countable(word)) word else paste("value of", word)
  paste(count_text(n), if (n == 1) one else plural_word(word))
}

# Words that begin with a verb, as they go with so many: verb(2, " has none") is " have none".
verb <- function(n, words) {
  if (n == 1) return(words)
  one <- sub("^ ?([a-z]+).*$", "\\1", words)
  many <- switch(one, is = "are", has = "have", was = "were",
                 sub(if (grepl("(ch|sh|ss)es$", one)) "es$" else "s$", "", one))
  sub(one, many, words, fixed = TRUE)
}

# The plural: the one that a noun bears, see noun(); by the rules of English; or "values of x" where
# the word is none that they know.
plural_word <- function(word) {
  if (!is.null(attr(word, "plural"))) return(attr(word, "plural"))
  if (!is_countable(word)) return(paste("values of", word))
  foreign <- foreign_plural(word)
  if (!is.null(foreign)) return(foreign)
  if (grepl("[^siu]s$", word)) return(word)
  if (grepl("part of day$", word)) return(sub("part of day$", "parts of the day", word))
  if (grepl("person$", word)) return(sub("person$", "people", word))
  if (grepl("[a-z]man$", word)) return(sub("man$", "men", word))
  if (grepl("[^aeiou]y$", word)) return(sub("y$", "ies", word))
  if (grepl("(s|x|z|ch|sh)$", word)) return(paste0(word, "es"))
  paste0(word, "s")
}

plural_words <- function(words) vapply(words, plural_word, "", USE.NAMES = FALSE)

# Whether the word has a plural, as k and when have none.
is_countable <- function(word) {
  last <- tolower(sub("^.* ", "", word))
  !is.null(attr(word, "plural")) || grepl("[[:alpha:]]{3}$", last) && !last %in% no_nouns
}

# Words that begin with a verb, after a name that is a plural by itself or is none: "orders were".
after_name <- function(name, words) verb(if (grepl("[^siu]s$", name)) 2 else 1, words)

# A word with the plural that the person gave it.
noun <- function(word, plural = NULL) structure(word, plural = plural)

no_nouns <- c("when", "where", "what", "who", "why", "how", "new", "old", "active", "and", "not")

# An option's name as it is typed.
dashed <- function(name) gsub("_", "-", name, fixed = TRUE)

# A field or metric name as people read it.
spoken <- function(x) gsub("[_.]+", " ", one_line(unguarded(x)))

# Days since 1970 as dates.
as_day <- function(x) as.Date(x, origin = "1970-01-01")

date_text <- function(x) {
  x <- as.Date(x)
  paste(as.integer(format(x, "%d")), month.name[as.integer(format(x, "%m"))], format(x, "%Y"))
}

capital <- function(x) paste0(toupper(substr(x, 1, 1)), substring(x, 2))

# A cell or name on one line, whatever it holds; what other packages say may be in any encoding.
one_line <- function(x) gsub(control_signs, " ", as_utf8(x))

# A text as it is typed in a formula, in quotes; signs that cannot be seen are written out.
text_literal <- function(x) {
  out <- encodeString(x, quote = "\"")
  hidden <- grep(hidden_signs, out, perl = TRUE)
  out[hidden] <- vapply(out[hidden], function(one) {
    signs <- strsplit(one, "")[[1]]
    unseen <- grepl(hidden_signs, signs, perl = TRUE)
    code <- vapply(signs[unseen], utf8ToInt, 0L)
    signs[unseen] <- ifelse(code < 65536, sprintf("\\u%04x", code), sprintf("\\U%08x", code))
    paste(signs, collapse = "")
  }, "", USE.NAMES = FALSE)
  out
}

hidden_signs <- "(*UCP)[\\p{Cf}\\p{Zl}\\p{Zp}]|(?! )\\p{Zs}"

# Control characters, and signs that turn the direction in which others are written: both would
# steer a terminal or hide what stands there.
control_signs <- "[[:cntrl:]\u202a-\u202e\u2066-\u2069]+"

# Text of several lines for a terminal or a log: what would steer it is shown as a sign of its own.
seen_text <- function(x) {
  gsub("[\u0001-\u0008\u000b-\u001f\u007f-\u009f\u202a-\u202e\u2066-\u2069]", "\ufffd", x)
}

# Codes with what they are called: "Quarry Combe Garden Centre (03085)"; the code where nothing is.
labelled_text <- function(code, label) {
  known <- which(!is.na(label))
  code[known] <- paste0(label[known], " (", code[known], ")")
  code
}

# Names of several dimensions as one: "Maren Holt \u00b7 Fen".
joined_names <- function(keys) do.call(paste, c(unname(lapply(keys, one_line)), sep = " \u00b7 "))

# Blanks that the eye misses, at the ends, doubled or of another kind, as open boxes; accents that
# are signs of their own beside an open circle, so that no two names look alike.
show_blanks <- function(x) {
  odd <- gregexpr(paste0("^ +| +$| {2,}|", unseen_signs), x)
  regmatches(x, odd) <- lapply(regmatches(x, odd), function(m) strrep("\u2423", nchar(m)))
  one_line(gsub("([\u0300-\u036f])", "\u25cc\\1", x))
}

# Blanks that are not the keyboard's, and signs of no width.
unseen_signs <- "[\u00a0\u1680\u2000-\u200d\u202f\u205f\u2060\u3000\ufeff]"

# Texts with the keyboard's blank in their place, one where several stand together, none at the ends.
with_plain_blanks <- function(x) {
  far <- grep("[^ -~]", x)
  x[far] <- gsub(unseen_signs, " ", gsub("[\u200b-\u200d\u2060\ufeff]", "", as_utf8(x[far])))
  gsub("[[:space:]]+", " ", trimmed(x))
}

# Cut to a display width, with a mark where something was left out.
fit_text <- function(x, width) {
  long <- nchar(x, "width") > width
  x[long] <- paste0(strtrim(x[long], max(width - 3, 1)), "...")
  x
}

pad <- function(x, width, right = FALSE) {
  gap <- strrep(" ", pmax(width - nchar(x, "width"), 0))
  if (right) paste0(gap, x) else paste0(x, gap)
}

# Text without the blanks at its ends. base::trimws() looks at a run of blanks within again from
# each of its signs, which for a hundred thousand takes minutes.
trimmed <- function(x) {
  gsub("^[ \t\r\n]+|(?<![ \t\r\n])[ \t\r\n]+$", "", x, perl = TRUE)
}

# A value given in R with all its texts and names as as_utf8() has them.
utf8_value <- function(x) {
  if (is.data.frame(x) || is.object(x) && !is.list(x) || !is.character(x) && !is.list(x)) return(x)
  if (!is.null(names(x))) names(x) <- as_utf8(names(x))
  if (is.list(x)) x[] <- lapply(x, utf8_value) else x[] <- as_utf8(x)
  x
}

# Text as valid UTF-8. Bytes that are no UTF-8 are read as Latin-1, with the signs that Windows has in
# the place of its control characters; the two codes that Unicode keeps
# free of characters, which regular expressions refuse, become its sign for what cannot be shown.
as_utf8 <- function(x) {
  if (!is.character(x)) return(x)
  x <- enc2utf8(x)
  bad <- which(!validUTF8(x))
  if (length(bad)) {
    latin <- iconv(x[bad], "CP1252", "UTF-8")
    x[bad] <- ifelse(is.na(latin), iconv(x[bad], "latin1", "UTF-8"), latin)
  }
  free <- grep("\xef\xbf[\xbe\xbf]", x, perl = TRUE, useBytes = TRUE)
  if (length(free)) {
    x[free] <- gsub("\xef\xbf[\xbe\xbf]", "\xef\xbf\xbd", x[free], perl = TRUE, useBytes = TRUE)
    Encoding(x)[free] <- "UTF-8"
  }
  x
}

visible_signs <- rawToChar(as.raw(33:126))

is_blank <- function(x) {
  if (!is.character(x)) return(is.na(x) | !nzchar(trimmed(x)))
  out <- logical(length(x))
  # Most begin with a visible sign of ASCII, which is told sooner.
  open <- kernel_texts_begin(x, visible_signs, TRUE)
  out[open] <- is.na(x[open]) | !nzchar(with_plain_blanks(x[open]))
  out
}

# Where row i stands, as the person sees it: a file has its header above.
line_word <- function(i, where) {
  if (grepl("file", where)) paste("Line", i + 1) else paste("Row", i)
}

# A word of a command for a POSIX shell.
shell_quoted <- function(x) {
  if (grepl("^[A-Za-z0-9_.,:/%+=-]+$", x)) x else paste0("'", gsub("'", "'\\''", x, fixed = TRUE),
                                                         "'")
}

# A column's name as lower case words joined by underscores: "Invoice No." is invoice_no.
column_word <- function(name) {
  words <- gsub("[^[:alnum:]]+", "_", gsub("([a-z])([A-Z])", "\\1_\\2", name))
  tolower(gsub("^_+|_+$", "", words))
}

# The one of `names` that is the same as a name but for case, blanks and underscores; NULL where
# there is none, or are several.
same_word <- function(name, names) {
  hit <- names[column_word(names) == column_word(name)]
  if (length(hit) == 1) hit
}
