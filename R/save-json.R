# Everything a result knows, as JSON: numbers at full precision, missing as null.

as_json <- function(x) {
  f <- facts(x)
  one <- jsonlite::unbox
  parts <- lapply(f$parts, function(part) part)
  out <- list(study = one(f$study), finding = one(f$finding), reading = one(f$reading),
              settings = lapply(f$settings, json_setting),
              columns = f$columns[c("name", "unit")], rows = plain_frame(x), notes = f$notes,
              proof = f$proof, parts = if (length(parts)) parts else empty_object())
  jsonlite::toJSON(out, dataframe = "rows", na = "null", null = "null", digits = I(17),
                   pretty = FALSE)
}

empty_object <- function() structure(list(), names = character())

json_setting <- function(value) {
  if (is.list(value)) return(lapply(value, json_setting))
  if (length(value) == 1) jsonlite::unbox(value) else value
}
