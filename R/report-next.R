# Links from a page of the report to those that answer its next questions.

# A data frame of words and id of the pages that ask what is proposed after a page's answer.
following_pages <- function(page, pages) {
  none <- data.frame(words = character(), id = character())
  if (page_failed(page)) return(none)
  # A result whose book is closed proposes nothing.
  proposed <- tryCatch(ll_next(page$result), ll_error = function(e) NULL)
  if (!NROW(proposed)) return(none)
  others <- Filter(function(p) !page_failed(p) && p$id != page$id, pages)
  calls <- lapply(others, function(p) {
    told <- facts(inner_result(p$result))
    call_asked(told$study, told$asked, told$book)
  })
  hits <- Map(function(study, args, words) {
    wanted <- call_asked(study, args, facts(page$result)$book)
    at <- which(vapply(calls, identical, NA, wanted))
    if (length(at)) data.frame(words = words, id = others[[at[1]]]$id)
  }, proposed$study, proposed$args, proposed$question)
  out <- do.call(rbind, c(list(none), unname(hits)))
  out[!duplicated(out$id), ]
}

# What a call asks, but for how much of it is shown.
call_asked <- function(study, args, book) {
  args <- asked_args(study, args)
  args <- args[setdiff(names(args), c("top", "bottom", "with_fields", "max_segments"))]
  args$metrics <- unlist(args$metrics)[1] %||% names(book$metrics)[1]
  if (is.character(args$metrics)) args$metrics <- unname(unguarded(args$metrics))
  list(study = study, args = args[order(names(args))])
}
