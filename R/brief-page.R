# A page of a brief: its study and the checked arguments of it. What was given stays with it, for
# the notebook. A page that is changed in R is checked anew, so that one that runs was checked.

new_page <- function(study, args, given, title = NULL, asks = NULL, comment = NULL) {
  # As `said`: base R shows an object's comment() otherwise.
  structure(c(list(study = study), unclass(args)), given = given, title = title, asks = asks,
            said = comment, class = "ll_page")
}

# The arguments of a page as its study takes them.
page_args <- function(page) new_record("ll_checked", unclass(page)[setdiff(names(page), "study")])

#' @export
`$<-.ll_page` <- function(x, name, value) {
  study <- x$study
  given <- attr(x, "given")
  title <- attr(x, "title")
  if (name == "study") study <- value else if (name == "title") title <- value
  else given[[name]] <- value
  declaration <- declaration_of(check_words(study, "study", one = TRUE))
  known <- names(declaration$args)
  if (!name %in% c("study", "title", known))
    ll_abort(c(paste0("A page of ", study, " has no argument ", quoted(name), "."),
               offer(name, known, "Arguments")), "argument")
  given <- given[intersect(names(given), known)]
  new_page(study, check_args(declaration, given), given, title, attr(x, "asks"), attr(x, "said"))
}

#' @export
`[[<-.ll_page` <- function(x, i, value) {
  if (!is.character(i))
    ll_abort("An argument of a page is set by its name.", "argument")
  do.call(`$<-`, list(x, i, value))
}

#' @export
print.ll_page <- function(x, ...) {
  given <- attr(x, "given")
  writeLines(paste0("page of ", x$study, if (length(given))
    paste0(": ", paste(names(given), vapply(given, shown, ""), sep = " = ", collapse = ", "))))
  invisible(x)
}
