# Records: lists that are written once. `$` takes whole names alone and refuses those that are not
# there, so that a misspelled field is an error where it stands, and not a NULL; a changed record is
# a new one.

new_record <- function(class, fields) structure(fields, class = c(class, "ll_record"))

# The record with some fields otherwise, or more of them.
altered <- function(record, ...) {
  changed <- list(...)
  fields <- unclass(record)
  fields[names(changed)] <- changed
  new_record(class(record)[1], fields)
}

# A field that some records of its kind do not have.
field_or_null <- function(record, name) if (name %in% names(record)) record[[name]]

refuse_field <- function(record, name) {
  stop("There is no `", name, "` in this ", class(record)[1], ", which has: ",
       paste(names(record), collapse = ", "), ".", call. = FALSE)
}

refuse_writing <- function(record) {
  stop("A ", class(record)[1], " is not written to after it was made; altered() makes another.",
       call. = FALSE)
}

#' @export
`$.ll_record` <- function(x, name) {
  if (!name %in% names(x)) refuse_field(x, name)
  .subset2(x, name)
}

#' @export
`[[.ll_record` <- function(x, i) {
  if (is.character(i) && !i %in% names(x)) refuse_field(x, i)
  .subset2(x, i)
}

# Some of the fields, as a plain list.
#' @export
`[.ll_record` <- function(x, i) {
  for (name in if (is.character(i)) setdiff(i, names(x))) refuse_field(x, name)
  unclass(x)[i]
}

#' @export
`$<-.ll_record` <- function(x, name, value) refuse_writing(x)

#' @export
`[[<-.ll_record` <- function(x, i, value) refuse_writing(x)

#' @export
`[<-.ll_record` <- function(x, i, value) refuse_writing(x)
