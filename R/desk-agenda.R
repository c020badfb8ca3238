# What an empty desk shows: the pages of the brief, or the plain ones of bare lines, and what is
# worth asking now. An item is list(kind, id, title, study, args, finding), the finding NULL until
# it is known.

desk_agenda <- function(book, pages) {
  with_ids("page", if (length(pages)) lapply(names(pages), function(name) {
    page_item(name, pages[[name]])
  }) else plain_items(book))
}

with_ids <- function(kind, items) {
  Map(function(item, i) c(item, id = paste0(kind, i)), items, seq_along(items))
}

# What is worth asking now, which takes some questions to tell.
worth_items <- function(book) {
  with_ids("worth", lapply(worth_asking(book), function(one) {
    list(kind = "worth", title = capital(say_call(book, one$study, one$args)), study = one$study,
         args = one$args, finding = paste0(capital(one$reason), "."))
  }))
}

page_item <- function(name, page) {
  page <- as_page(name, page)
  list(kind = "page", title = attr(page, "title") %||% capital(spoken(name)), study = page$study,
       args = page_args(page))
}

# What a first brief would ask of these lines.
plain_items <- function(book) {
  item <- function(title, study, ...) {
    list(kind = "page", title = title, study = study, args = list(...))
  }
  fields <- utils::head(telling_dimensions(book, NULL, names(book$registers)), 4)
  out <- c(if (!is.null(book$date) && length(book$metrics))
    list(item("Over time", "trend")), if (length(book$metrics)) lapply(fields, function(field) {
      item(paste("Top", plural_word(field_noun(book, field))), "standings", each = field, top = 10)
    }))
  Filter(function(one) fits_book(book, one), out)
}

# The finding of an item, or why there is none.
item_finding <- function(book, item) {
  tryCatch(ll_finding(answer(declaration_of(item$study), book, item$args)),
           error = function(e) sub("\n.*", "", conditionMessage(e)))
}
