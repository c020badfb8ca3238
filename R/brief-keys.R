# What a brief may hold: the keys, what each takes, and one line of help. The checks and the schema
# for editors are made from this table.

# The book's own keys are those of book_declaration().
brief_spec <- function() {
  keys <- lapply(book_declaration(), `[[`, "spec")
  c(keys["title"], list(lines = lines_spec()), keys[names(keys) != "title"],
    list(pages = key_spec("the pages: a study each, with its arguments",
                          each = key_spec("a page", keys = list()))))
}

# The keys of a page of one study.
page_keys <- function(study) {
  c(list(study = key_spec("the study", "choice", choices = names(declarations())),
         title = key_spec("the page's name in reports and workbooks", "text"),
         asks = key_spec("further wordings that lead to the page in questions", "texts"),
         comment = key_spec("what one has to say to it, shown beside the finding", "text")),
    lapply(declaration_of(study)$args, function(a) key_spec(a$help, "argument")))
}
