# What all who look at one desk share, with answers that were given: asked once, kept for all who
# ask the same.

answers_kept <- 80

# What all who look at one desk share: the book, the pages, answers that were given.
# `reopen` opens the brief anew; `opened` tells all sessions how often it was, `found` that the side
# has more to tell.
new_shared <- function(book, brief = NULL, reopen = NULL, helper = NULL, upload = FALSE) {
  list2env(list(book = book, brief = brief, reopen = reopen, answers = list(),
                helper = helper, upload = upload,
                agenda = NULL, before = NULL, job = NULL, begun = 0, kept = character(),
                health = NULL,
                opened = shiny::reactiveVal(0), found = shiny::reactiveVal(0)), parent = emptyenv())
}

kept_answer <- function(shared, key) shared$answers[[key]]

# An answer with what may be asked next.
keep_answer <- function(shared, key, shown) {
  shared$answers[[key]] <- shown
  shared$answers <- utils::tail(shared$answers, answers_kept)
}

# An answer, or the error that came in its place.
answer_or_error <- function(book, call, read) {
  tryCatch(step_answer(book, call, read), error = identity)
}
