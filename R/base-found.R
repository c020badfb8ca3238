# What the work of a study found: a record whose fields are declared, with type, length and when
# they are missing. Which fields there are is checked whenever one is made; what they hold too under
# options(longladder.strict = TRUE), which the tests and random input set.

# A field. `type` is text, flag, date, keys (a list of the names of each dimension), table, matrix,
# list, tree, book or any, or for numbers their unit: metric (that of the first metric), number,
# count, share (0 to 1), rank or days. `each` says what the field runs along, "one" for a single
# value; fields along the same thing are equally long. `missing` says when values are missing and
# `absent` when the whole field is NULL; without them neither happens.
holds <- function(type, each, what, missing = NULL, absent = NULL) {
  list(type = type, each = each, what = what, missing = missing, absent = absent)
}

# The constructor of what a study found. A field that is not declared, or not as it is
# declared, is an error. `common` are fields that studies share.
found_of <- function(.study, ..., common = found_totals) {
  fields <- c(common, list(...))
  function(...) {
    given <- list(...)
    for (field in setdiff(names(fields), names(given)))
      if (!is.null(fields[[field]]$absent)) given[field] <- list(NULL)
    held_to(new_record(paste0("found_", .study), given), fields)
  }
}

# Over all lines asked for.
found_totals <- list(
  total = holds("list", "metric", "each metric over all lines asked for, by its name"),
  exact = holds("flag", "metric", "whether each metric is exact, or within a relative 1e-9"),
  counted = holds("count", "one", "lines counted"))

# Names in the order of a metric, from ranked_names().
found_ranked <- c(found_totals, list(
  keys = holds("keys", "name", "the names by dimension, in their order"),
  value = holds("metric", "name", "their values"),
  rank = holds("rank", "name", "their ranks, ties sharing one"),
  none = holds("metric", "nameless", "values of lines without a name",
               missing = "where such lines have no value"),
  valueless = holds("count", "one", "names without a value, left out")))

# A metric that changed from one period to the other, from period_totals().
found_change <- list(
  total_now = holds("metric", "one", "the metric now, as it stands"),
  total_before = holds("metric", "one", "the metric then, as it stands"),
  now = holds("metric", "one", "the metric now, per day where that is asked for"),
  then = holds("metric", "one", "the metric then, likewise"),
  exact = holds("flag", "one", "whether these are exact"),
  counted = holds("count", "one", "lines counted now"))

is_of_type <- list(
  text = is.character, flag = is.logical, date = function(x) inherits(x, "Date"),
  keys = is.list, table = is.data.frame, list = is.list, tree = is.list, matrix = is.matrix,
  book = is.list, any = function(x) TRUE)

held_to <- function(found, fields) {
  for (name in setdiff(names(found), names(fields))) found_error(found, name, "is not declared")
  for (name in setdiff(names(fields), names(found))) found_error(found, name, "is not given")
  if (isTRUE(getOption("longladder.strict"))) check_fields_held(found, fields)
  found
}

# What was needed on the way alone.
without <- function(found, ...) found[setdiff(names(found), c(...))]

check_fields_held <- function(found, fields) {
  lengths <- list(one = 1L)
  for (name in names(fields)) {
    field <- fields[[name]]
    value <- found[[name]]
    if (is.null(value)) {
      if (is.null(field$absent)) found_error(found, name, "is not there")
      next
    }
    # Nothing at all, and nothing but missing values, have no type in R.
    is <- is_of_type[[field$type]] %||% is.numeric
    if (!is(value) && !(is.logical(value) && all(is.na(value))))
      found_error(found, name, paste("is not of type", field$type))
    if (is.null(field$missing) && is.atomic(value) && anyNA(value))
      found_error(found, name, "has missing values")
    if (is.null(field$each)) next
    n <- found_length(value, field)
    if (n != (lengths[[field$each]] %||% n))
      found_error(found, name, paste0("has length ", n, ", others for each ", field$each, " have ",
                                      lengths[[field$each]]))
    lengths[[field$each]] <- n
  }
}

# Tables and matrices run along their rows, keys along their names.
found_length <- function(value, field) {
  if (is.data.frame(value) || is.matrix(value)) return(nrow(value))
  if (field$type == "keys") length(value[[1]]) else length(value)
}

found_error <- function(found, name, why) {
  stop("`", name, "` of a ", class(found)[1], " ", why, ".", call. = FALSE)
}
