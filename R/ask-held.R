# What is to hold for every answer, in words: "only Moor", "2026", "not the web", or a condition as
# it is typed.

# list(where, when): conditions as text and a period, either NULL.
ask_held <- function(book, text) {
  text <- asked_line(text)
  typed <- tryCatch(condition_of(book, text, "condition"), ll_error = function(e) NULL)
  # A name alone is a condition of a field that is true or not; words are read as words.
  if (!is.null(typed) && grepl("[=<>%(&|!]", text)) return(list(where = text, when = NULL))
  asked <- asked_frame(book, text)
  x <- frame_of(asked$frame, book, text)
  held <- list(where = asked_where(x), when = asked_when(x))
  left <- setdiff(x$left(), silent_cues)
  if (length(left)) left_over(x, left, list(study = "what holds"))
  if (is.null(held$where) && is.null(held$when))
    refuse_question(text, "This holds nothing", c(
      i = paste0("Say names, a condition or a period: ", quoted("only Moor"), ", ", quoted("2026"),
                 ", ", quoted("net > 100"), ".")))
  held
}
