# The reader of a question's segments: where it stands, what words there are, and the frame in
# which is noted what they were taken for. A frame is what a question asks for, before it is known
# which study answers: see ask-call.R.

new_frame <- function() {
  list2env(list(cues = list(), metrics = character(), fields = list(), names = list(),
                compares = list(), said = list(), whens = list()),
           parent = emptyenv())
}

# The segment so many places on; NULL beyond the ends.
seg <- function(p, at = 0L) {
  i <- p$i + at
  if (i >= 1L && i <= length(p$segments)) p$segments[[i]]
}

# Whether a segment is a word of one of these kinds.
is_kind <- function(one, ...) {
  if (is.null(one)) return(FALSE)
  kinds <- c(...)
  for (m in one$means) if (m$type == "word" && m$kind %in% kinds) return(TRUE)
  FALSE
}

# Kinds of words that tell from which end.
ask_sizes <- c("best", "worst", "top", "bottom", "first_names")

means_of <- function(one, type) Filter(function(m) m$type == type, one$means)

is_name_of <- function(one, field) {
  any(vapply(means_of(one, "name"), function(m) identical(m$field, field), NA))
}

is_of_book <- function(one) {
  any(vapply(one$means, function(m) m$type %in% c("field", "metric", "name", "set"), NA))
}

# Notes what words were taken for: `n` segments from here.
noted <- function(p, n, taken, value = "") {
  at <- length(p$frame$said) + 1L
  p$frame$said[[at]] <- list(from = seg(p)$from, to = seg(p, n - 1L)$to, taken = taken,
                             value = value)
  n
}

add_cue <- function(p, n, cue, taken = "what is asked") {
  p$frame$cues[[cue]] <- list(at = p$i, text = p$segments[[p$i]]$text)
  noted(p, n, taken, "")
}

# Places on over words without a meaning of their own and those that join.
ahead <- function(p, at, ...) {
  kinds <- c("filler", ...)
  repeat {
    one <- seg(p, at)
    if (is.null(one) || is_of_book(one) || one$kind != "phrase" || !is_kind(one, kinds)) return(at)
    at <- at + 1L
  }
}
