# The result: a data frame that knows its finding, reading, notes and proof. Whatever changes its
# rows or columns gives a plain data frame, so that no sentence or proof outlives the table it
# speaks of.

sentence_most <- 2000

bare_result <- function(study, table, settings, columns, finding, reading, notes, proof,
                        asked = list(), parts = list(), book, only = NULL, further = list(),
                        behind = list()) {
  table <- to_decimals(table)
  parts <- lapply(parts, to_decimals)
  # Sentences are one line each, whatever the names in them hold, and end somewhere.
  finding <- fit_text(one_line(finding), sentence_most)
  reading <- fit_text(one_line(reading), sentence_most)
  notes$text <- fit_text(one_line(notes$text), sentence_most)
  proof$check <- one_line(proof$check)
  # What cannot be told does not hold.
  proof$holds <- proof$holds %in% TRUE
  # The book is kept by a reference that neither holds it open nor is saved with the result.
  book$source <- kernel_weak(book$source)
  structure(table, class = c(paste0("ll_result_", study), "ll_result", "data.frame"),
            ll = list(study = study, asked = asked, settings = settings, columns = columns,
                      finding = finding, reading = reading, notes = notes, proof = proof,
                      parts = parts, title = book$title, book = book, only = only,
                      further = further, behind = behind))
}

# Differences and sums of decimals that were made after the fold have lost their last bits: what is
# within a few of them of a decimal of six places is that decimal.
to_decimals <- function(table) {
  if (!is.data.frame(table)) return(table)
  for (i in which(vapply(table, function(x) is.double(x) && !is.object(x), NA))) {
    x <- table[[i]]
    near <- round(x * 1e6) / 1e6
    hit <- which(near != x & abs(x) < 1e9 & abs(near - x) <= 2e-15 * pmax(abs(x), 1))
    x[hit] <- near[hit]
    table[[i]] <- x
  }
  table
}

# label: the column of what this one's codes are called, which is shown with them; heading: what
# stands above it, where that is not its name.
new_columns <- function(name = character(), unit = character(), shown = TRUE, digits = NA,
                        heading = NA) {
  data.frame(name = name, unit = unit, shown = rep_len(shown, length(name)),
             digits = rep_len(as.integer(digits), length(name)),
             label = rep(NA_character_, length(name)),
             heading = rep_len(as.character(heading), length(name)))
}

column_headings <- function(columns) {
  ifelse(is.na(columns$heading), spoken(columns$name), columns$heading)
}

# The unit of a column, from the facts of a result.
column_unit <- function(facts, name) facts$columns$unit[match(name, facts$columns$name)]

new_notes <- function(kind = character(), text = character()) {
  data.frame(kind = kind, text = text)
}

facts <- function(x) {
  if (!inherits(x, "ll_result"))
    ll_abort(c("This is no result of a study.",
               i = "Taking rows or columns out of a result gives a plain data frame."), "argument")
  attr(x, "ll", exact = TRUE)
}

#' Take a result apart
#'
#' A result is a data frame with more to say: `ll_finding()` is one sentence of what came out,
#' `ll_reading()` one of how the question was read, `ll_notes()` what a careful colleague would
#' point
#' out, `ll_proof()` the control totals, `ll_part()` further tables and `ll_settings()` the values
#' used. `as.data.frame()` gives the bare table; whatever else changes rows or columns (`[`, `$<-`,
#' `head()`, `rbind()`, `merge()`) gives a plain data frame too.
#'
#' @param x (`ll_result`) what a study returned.
#' @param name (text) the part's name; without it, all parts as a list.
#' @return
#' * `ll_finding()` and `ll_reading()`: one text
#' * `ll_notes()`: a data frame of `kind` and `text`
#' * `ll_proof()`: a data frame of `check`, `expected`, `found` and `holds`
#' * `ll_part()`: a data frame, or the list of them
#' * `ll_settings()`: a named list
#' @section Errors: `ll_error_word` for an unknown part, `ll_error_argument` for what is no result.
#' @examples
#' top <- ll_standings(ll_demo(), each = "rep", top = 5)
#' ll_finding(top)
#' ll_proof(top)
#' ll_part(top, "foot")
#' @export
ll_finding <- function(x) facts(x)$finding

#' @rdname ll_finding
#' @export
ll_reading <- function(x) facts(x)$reading

#' @rdname ll_finding
#' @export
ll_notes <- function(x) facts(x)$notes

#' @rdname ll_finding
#' @export
ll_proof <- function(x) facts(x)$proof

#' @rdname ll_finding
#' @export
ll_settings <- function(x) facts(x)$settings

#' @rdname ll_finding
#' @export
ll_part <- function(x, name = NULL) {
  parts <- facts(x)$parts
  if (is.null(name)) return(parts)
  if (!name %in% names(parts))
    ll_abort(c(paste0("This result has no part called ", shown(name), "."),
               offer(name, names(parts), "Parts")), "word")
  parts[[name]]
}

plain_frame <- function(x) {
  attr(x, "ll") <- NULL
  class(x) <- "data.frame"
  x
}

#' @export
as.data.frame.ll_result <- function(x, ...) plain_frame(x)

# One definition for everything that makes another table of this one.
#' @export
`[.ll_result` <- function(x, ...) plain_frame(x)[...]

#' @export
`[<-.ll_result` <- function(x, ..., value) {
  x <- plain_frame(x)
  x[...] <- value
  x
}

#' @export
`[[<-.ll_result` <- function(x, ..., value) {
  x <- plain_frame(x)
  x[[...]] <- value
  x
}

#' @export
`$<-.ll_result` <- function(x, name, value) {
  x <- plain_frame(x)
  x[[name]] <- value
  x
}

#' @export
`names<-.ll_result` <- function(x, value) {
  x <- plain_frame(x)
  names(x) <- value
  x
}

#' @export
`dimnames<-.ll_result` <- function(x, value) {
  x <- plain_frame(x)
  dimnames(x) <- value
  x
}

#' @export
`row.names<-.ll_result` <- function(x, value) {
  x <- plain_frame(x)
  row.names(x) <- value
  x
}

#' @export
head.ll_result <- function(x, ...) utils::head(plain_frame(x), ...)

#' @export
tail.ll_result <- function(x, ...) utils::tail(plain_frame(x), ...)

#' @export
merge.ll_result <- function(x, y, ...) {
  merge(plain_frame(x), if (inherits(y, "ll_result")) plain_frame(y) else y, ...)
}

#' @export
transform.ll_result <- function(`_data`, ...) {
  # The expressions in dots belong to the caller's columns; base R's method reads them there.
  `_data` <- plain_frame(`_data`)
  NextMethod("transform", `_data`)
}

#' @export
rbind.ll_result <- function(...) do.call(rbind, all_plain(list(...)))

#' @export
cbind.ll_result <- function(...) do.call(cbind, all_plain(list(...)))

all_plain <- function(x) {
  lapply(x, function(one) if (inherits(one, "ll_result")) plain_frame(one) else one)
}

note <- function(kind, ...) {
  text <- paste0(...)
  new_notes(rep(kind, length(text)), text)
}

# The book that a result was made from, as long as somebody keeps it open.
book_of <- function(x) {
  if (!inherits(x, "ll_result")) return(x)
  kept <- facts(x)$book
  source <- kernel_strong(kept$source)
  if (is.null(source))
    ll_abort(c("The book of this result is no longer open.",
               i = "Keep it in a variable, or ask the book itself: ll_detail(book, where = ...)."),
             "argument")
  kept$source <- source
  kept
}

# A result that another process made of the same book, on the book that is open here.
on_source <- function(result, source) {
  told <- facts(result)
  told$book$source <- kernel_weak(source)
  attr(result, "ll") <- told
  result
}

# The result with more to say before its reading, further proof and parts.
told_with <- function(result, before, proof, parts) {
  told <- facts(result)
  told$reading <- paste(before, told$reading)
  told$proof <- rbind(told$proof, proof)
  told$parts <- c(told$parts, parts)
  attr(result, "ll") <- told
  result
}
