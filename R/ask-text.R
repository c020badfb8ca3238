# A question as tokens: words without case, accents and marks, numbers, dates, texts in quotes, each
# with the place where it stands.

longest_question <- 4000   # signs

# list(text, low, kind, from, to): `low` is what is looked up; kind is word, number, percent, date,
# quoted or comma.
ask_tokens <- function(text) {
  if (isTRUE(nchar(text) > longest_question))
    ll_abort(paste0("A question has ", count_text(longest_question), " signs at most; this one has ",
                    count_text(nchar(text)), "."), "question")
  forms <- c(quoted = "\"(?:[^\"]|\"\")*\"|\u201c[^\u201d]*\u201d",
             date = paste0("[0-9]{4}-[0-9]{2}-[0-9]{2}(?:/[0-9]{4}-[0-9]{2}-[0-9]{2})?",
                           "|[0-9]{4}-(?:[Qq][1-4]|[Ww][0-9]{2}|[0-9]{2})(?![0-9-])",
                           "|[Ff][Yy] ?[0-9]{2,4}(?:-[QqPp][0-9]{1,2})?"),
             number = paste0("(?<![[:alnum:]])-?[0-9]{1,3}(?:,[0-9]{3})+(?:\\.[0-9]+)?",
                             "(?:[kKmM](?![[:alnum:]]))?(?: ?%)?",
                             "|(?<![[:alnum:]])-?(?:0|[1-9][0-9]*)(?:\\.[0-9]+)?",
                             "(?:[kKmM](?![[:alnum:]]))?(?: ?%)?(?![[:alnum:]])"),
             word = "(?:[[:alnum:]\\p{M}]|\u2019|')+", comma = "[,;:]")
  # Letters of any language are letters.
  any_letter <- "(*UCP)"
  empty <- list(text = character(), low = character(), kind = character(), from = integer(),
                to = integer())
  found <- gregexpr(paste0(any_letter, paste0("(?:", forms, ")", collapse = "|")), text,
                    perl = TRUE)[[1]]
  if (found[1] < 0) return(empty)
  from <- as.integer(found)
  to <- from + attr(found, "match.length") - 1L
  part <- substring(text, from, to)
  kind <- rep("word", length(part))
  for (form in rev(names(forms))) {
    hit <- grepl(paste0(any_letter, "^(?:", forms[[form]], ")$"), part, perl = TRUE)
    kind[hit] <- form
  }
  kind[kind == "number" & grepl("%", part)] <- "percent"
  low <- ifelse(kind == "word", plain_words(part), tolower(part))
  keep <- nzchar(low)
  list(text = part[keep], low = low[keep], kind = kind[keep], from = from[keep], to = to[keep])
}

# Words as they are looked up: small letters without accents; 's and marks gone; others apart.
plain_words <- function(x) {
  out <- kernel_plain_words(as.character(x))
  other <- which(is.na(out) & !is.na(x))
  out[other] <- plain_letters(x[other])
  out
}

# The same of names with letters beyond the plain ones.
plain_letters <- function(x) {
  x <- gsub("\u2019", "'", tolower(as_utf8(x)), fixed = TRUE)
  x <- gsub("'", "", gsub("'s\\b", "", x, perl = TRUE), fixed = TRUE)
  gsub("^ +| +$", "", gsub("(*UCP)[^\\p{L}\\p{N}\\p{M}]+", " ", spelling_key(x), perl = TRUE))
}

token_number <- function(text) {
  bare <- gsub("[,% ]", "", tolower(text))
  unit <- if (grepl("k$", bare)) 1e3 else if (grepl("m$", bare)) 1e6 else 1
  as.numeric(sub("[km]$", "", bare)) * unit
}

number_words <- c(two = 2, three = 3, four = 4, five = 5, six = 6, seven = 7, eight = 8, nine = 9,
                  ten = 10, eleven = 11, twelve = 12, fifteen = 15, twenty = 20, thirty = 30,
                  fifty = 50, hundred = 100)

# The one word nearest to one that is not known, where it is near enough to be a slip: a letter
# more, less or other, two neighbours changed about, two such in a long word (Damerau 1964,
# doi:10.1145/363958.363994). NULL where there is none, or more than one as near.
slip_of <- function(word, known) {
  n <- nchar(word)
  if (n < 4 || grepl("[0-9]", word)) return(NULL)
  most <- if (n >= 7) 2 else 1
  near <- known[abs(nchar(known) - n) <= most & nchar(known) >= 4]
  near <- near[substr(near, 1, 1) == substr(word, 1, 1) | n >= 6]
  # Short words are too near each other but for a letter more or less, or two changed about.
  if (n <= 5) near <- near[nchar(near) != n | n == 5 & sorted_letters(near) == sorted_letters(word)]
  if (!length(near)) return(NULL)
  distance <- as.vector(utils::adist(word, near))
  swapped <- distance == 2 & nchar(near) == n & sorted_letters(near) == sorted_letters(word)
  distance[swapped] <- 1
  # Who slips at the first letter slips nowhere else: "helpers" are no sellers.
  distance[distance > 1 & substr(near, 1, 1) != substr(word, 1, 1)] <- Inf
  # A letter left out or twice is a slip sooner than another letter.
  rank <- distance + ifelse(nchar(near) == n & !swapped, .5, 0)
  if (min(distance) > most) return(NULL)
  best <- unique(near[rank == min(rank[distance <= most])])
  # A plural beside its singular is no doubt.
  if (length(best) == 2 && diff(range(nchar(best))) == 1 &&
        startsWith(best[which.max(nchar(best))], best[which.min(nchar(best))]))
    best <- best[which.min(abs(nchar(best) - n))]
  if (length(best) == 1) best
}

sorted_letters <- function(x) {
  vapply(strsplit(x, ""), function(letters) paste(sort(letters), collapse = ""), "")
}
