# The JSON Schema of briefs, from the same tables as the checks.

#' The schema of a brief
#'
#' The JSON Schema (draft 7) of briefs, with which editors complete and check them while one types.
#' It comes with the package as `schema/longladder.schema.json`; in an editor that reads modelines
#' the first line of a brief may name it: `# yaml-language-server: $schema=longladder.schema.json`.
#'
#' @param file (text) where to write it; `NULL` to only give it back.
#' @return The lines of the schema, a character vector; invisibly when written.
#' @section Errors: `ll_error_target` where the file cannot be written, or does not end in
#' `.json`.
#' @source JSON Schema draft 7, <https://json-schema.org/draft-07>.
#' @examples
#' head(ll_schema(), 12)
#' @export
ll_schema <- function(file = NULL) {
  text <- jsonlite::toJSON(brief_schema(), pretty = 2, auto_unbox = TRUE, digits = NA)
  text <- strsplit(text, "\n", fixed = TRUE)[[1]]
  if (is.null(file)) return(text)
  file <- check_words(file, "file", one = TRUE)
  if (!grepl("[.]json$", file, ignore.case = TRUE, perl = TRUE))
    ll_abort(paste0("A schema ends in .json, not as ", quoted(basename(file)), "."), "target")
  write_whole(file, function(path) put_lines(text, path))
  invisible(text)
}

brief_schema <- function() {
  keys <- brief_spec()
  top <- lapply(keys, value_schema)
  studies <- names(declarations())
  top$pages$additionalProperties <- list(
    type = "object", required = I("study"),
    properties = list(study = list(enum = I(studies))),
    allOf = unname(lapply(studies, function(study) {
      list("if" = list(properties = list(study = list(const = study))),
           then = page_schema(study))
    })))
  list("$schema" = "http://json-schema.org/draft-07/schema#", title = "A brief of Long Ladder",
       type = "object", properties = top, additionalProperties = FALSE)
}

scalar_types <- I(c("string", "number", "boolean"))

# The schema of a value: a scalar, a map, or either.
value_schema <- function(spec) {
  scalar <- switch(spec$type, none = NULL, rows = list(type = "array"),
                   texts = list(type = I(c(scalar_types, "array"))),
                   choice = list(enum = I(spec$choices)), number = list(type = I("number")),
                   flag = list(type = I(c("boolean", "string"))), list(type = scalar_types))
  map <- if (!is.null(spec$keys)) {
    list(type = "object", properties = lapply(spec$keys, value_schema),
         additionalProperties = FALSE)
  } else if (!is.null(spec$each)) {
    list(type = "object", additionalProperties = value_schema(spec$each))
  }
  # Spellings of a field come under names or as one word.
  kinds <- Filter(Negate(is.null), list(scalar, map))
  c(if (length(kinds) == 1) kinds[[1]] else list(anyOf = kinds), list(description = spec$help))
}

page_schema <- function(study) {
  args <- declaration_of(study)$args
  needed <- names(args)[vapply(args, function(a) a$required, NA)]
  own <- page_keys(study)
  keys <- c(list(study = list(const = study), title = list(type = "string"),
                 asks = value_schema(own$asks), comment = value_schema(own$comment)),
            lapply(args, argument_schema))
  c(list(properties = keys, additionalProperties = FALSE),
    if (length(needed)) list(required = I(needed)))
}

argument_schema <- function(a) {
  several <- list(type = I(c(scalar_types, "array")))
  table <- list(type = I(c("string", "object", "array")))
  out <- switch(
    a$type, words = , metrics = , shares = , percents = several,
    bounds = , steps = , sets = , values = table,
    whole = , number = {
      low <- a$from %||% if (a$type == "whole") 1
      c(list(type = if (a$type == "whole") "integer" else "number"),
        if (!is.null(low)) list(minimum = low), if (!is.null(a$to)) list(maximum = a$to))
    },
    choice = list(enum = I(a$choices)), flag = list(type = I(c("boolean", "string"))),
    list(type = scalar_types))
  c(out, list(description = a$help))
}
