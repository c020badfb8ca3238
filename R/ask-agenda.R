# What to ask: what this book makes worth asking now, each as a call with its reason.

# list of list(reason, study, args), a few at most; each is one that the study takes.
worth_asking <- function(book) {
  out <- list()
  add <- function(reason, study, args) {
    if (fits_book(book, list(study = study, args = args)))
      out <<- c(out, list(list(reason = reason, study = study, args = args)))
  }
  found <- tryCatch(answer(declared_check, book, list()), ll_error = function(e) NULL)
  if (!is.null(found) && nrow(found)) add(sub("[.]$", "", ll_finding(found)), "check", list())
  customer <- customer_field(book)
  if (!is.null(book$date) && length(book$metrics)) {
    total <- tryCatch(answer(declared_total, book, list(when = "last quarter")),
                      ll_error = function(e) NULL)
    growth <- if (!is.null(total)) total$growth[1]
    if (!is.null(growth) && !is.na(growth))
      add(paste0(spoken(total$metric[1]), if (growth < 0) " fell by " else " rose by ",
                 format_number(abs(growth), "percent"), " in the last quarter, against a year ",
                 "before"), "drill", list(when = "last quarter"))
    if (!is.null(customer)) {
      add(paste("which", plural_word(field_noun(book, customer)), "fell the most this year"),
          "standings", list(each = customer, metrics = c(change = paste0(
            "change(", name_text(names(book$metrics)[1]), ")")), bottom = 10,
            when = "this year to date", against = "year before"))
      add(paste("which", plural_word(field_noun(book, customer)), "have stopped"), "lapsed",
          list(each = customer, never = "leave", top = 20))
    }
  }
  out
}
