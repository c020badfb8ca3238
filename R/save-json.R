# Everything a result knows, as JSON: numbers at full precision, missing as null.

# `further` are parts that stand beside those of the result.
as_json <- function(x, further = list()) {
  facts <- facts(x)
  one <- jsonlite::unbox
  parts <- c(facts$parts, Filter(Negate(is.null), further))
  out <- list(study = one(facts$study), finding = one(facts$finding), reading = one(facts$reading),
              settings = json_settings(facts),
              columns = facts$columns[c("name", "unit")], rows = plain_frame(x),
              notes = facts$notes, proof = facts$proof, parts = if (length(parts)) parts else
              empty_object())
  mark <- number_mark(out)
  text <- jsonlite::toJSON(rapply(out, full_number, "numeric", how = "replace", mark = mark),
                           dataframe = "rows", na = "null", null = "null", rownames = FALSE)
  gsub(paste0("\"", mark, "([-+0-9.e]+)\""), "\\1", text)
}

# jsonlite writes at most 15 digits. Numbers are therefore written by us, 17 digits where they need
# them, as text whose quotes are taken off afterwards. It is marked by a word that begins no text of
# the result.
number_mark <- function(out) {
  texts <- c(rapply(out, as.character, c("character", "factor"), how = "unlist"), all_keys(out))
  n <- 0
  while (any(startsWith(texts[!is.na(texts)], paste0("#", n, "#")))) n <- n + 1
  paste0("#", n, "#")
}

all_keys <- function(x) {
  if (is.list(x)) c(names(x), unlist(lapply(unname(x), all_keys))) else names(x)
}

full_number <- function(x, mark) {
  text <- rep(NA_character_, length(x))
  known <- is.finite(x)
  short <- sprintf("%.15g", x[known])
  text[known] <- paste0(mark, ifelse(as.numeric(short) == x[known], short,
                                     sprintf("%.17g", x[known])))
  if (inherits(x, "scalar")) jsonlite::unbox(text) else text
}

empty_object <- function() structure(list(), names = character())

# What may be several is an array, of one too, so that programs need not look how many there are.
several_types <- c("words", "metrics", "shares", "percents", "bounds", "steps", "sets", "values")
several_settings <- c("metrics", "bounds", "labels", "parts", "telling", "pays", "adds_up")

json_settings <- function(facts) {
  args <- declarations()[[facts$study]]$args
  several <- c(names(args)[vapply(args, `[[`, "", "type") %in% several_types], several_settings)
  Map(function(value, name) {
    if (name %in% several && is.atomic(value)) value else json_setting(value)
  }, facts$settings, names(facts$settings))
}

json_setting <- function(value) {
  if (is.list(value)) return(lapply(value, json_setting))
  if (length(value) == 1) jsonlite::unbox(value) else value
}
