# The words nearest to one that is not known: by letters and by shared words.

# Up to `most` of `candidates`, best first. By letters: edit distance (Levenshtein 1966, as in
# utils::adist) of at most a third of the letters. By words: "client kind" finds "account kind".
nearest <- function(word, candidates, most = 3) {
  if (!is.character(word) || length(word) != 1 || is.na(word) || !nzchar(word)) return(character())
  word <- as_utf8(word)
  # Edit distance to very long names would take longer than it helps.
  if (nchar(word) > 100) return(character())
  # Of very many names those that may be near, before any is looked at letter by letter.
  if (length(candidates) > 5000)
    candidates <- candidates[kernel_text_near(candidates, tolower(word), telling_parts(word),
                                              as.integer(ceiling(nchar(word) / 3)), 500L)]
  candidates <- unique(as_utf8(candidates[!is.na(candidates)]))
  candidates <- candidates[nchar(candidates) <= 100]
  if (!length(candidates)) return(character())
  distance <- as.vector(utils::adist(word, candidates, ignore.case = TRUE))
  close <- distance <= ceiling(nchar(word) / 3)
  shared <- shared_words(word, candidates)
  starts <- startsWith(tolower(candidates), tolower(word)) & nchar(word) >= 3
  fit <- close | shared > 0 | starts
  rank <- order(ifelse(close, distance, 50), -shared, nchar(candidates))
  utils::head(candidates[rank][fit[rank]], most)
}

shared_words <- function(word, candidates) {
  mine <- telling_parts(word)
  vapply(parts_split(candidates), function(theirs) sum(mine %in% theirs), 0)
}

parts_split <- function(x) strsplit(tolower(x), "[^[:alnum:]]+")

# The words of a name that tell it from others, in small letters.
telling_parts <- function(word) {
  parts <- parts_split(word)[[1]]
  parts[nchar(parts) > 2]
}

# The line of an error that offers them, or names what there is when nothing is near. `beyond` are
# words of other kinds by kind, list(metric = "orders"): one that is near tells what was confused.
offer <- function(word, candidates, what = "There are", beyond = list()) {
  near <- nearest(word, candidates)
  if (length(near)) return(c(i = paste0("Nearest: ", and_list(quoted(near), last = "or"), ".")))
  near <- Filter(length, lapply(beyond, nearest, word = word, most = 1))
  c(if (length(near)) c(i = paste0("Nearest: the ", names(near)[1], " ", quoted(near[[1]]), ".")),
    offer_all(what, candidates))
}

# The line of an error that names what there is, where there is anything.
offer_all <- function(what, candidates) {
  if (length(candidates)) c(i = paste0(what, ": ", and_list(candidates, 12), "."))
}
