# Answers of a desk: asked once, kept for all who ask the same, long ones by a process beside, so
# that nobody waits for another's question.

answers_kept <- 80

# What all who look at one desk share: the book, the pages, answers that were given.
# `reopen` opens the brief anew; `opened` tells all sessions how often it was, `found` that the side
# has more to tell.
new_shared <- function(book, brief = NULL, reopen = NULL) {
  list2env(list(book = book, pages = brief$pages, brief = brief, reopen = reopen, answers = list(),
                agenda = NULL, job = NULL, begun = 0, kept = character(), health = NULL,
                opened = shiny::reactiveVal(0), found = shiny::reactiveVal(0)), parent = emptyenv())
}

kept_answer <- function(shared, key) shared$answers[[key]]

keep_answer <- function(shared, key, result) {
  shared$answers[[key]] <- result
  shared$answers <- utils::tail(shared$answers, answers_kept)
}

# How many times as long as a plain question a study takes, about; the rest as one or two.
heavy_studies <- c(drill = 30, check = 40, portrait = 15, whitespace = 20, associations = 15,
                   substitution = 10, cohorts = 5, lapsed = 5, sets = 5, benchmark = 5)

# Lines times that, beyond which a question is asked beside: about half a second.
beside_from <- 2e7

asks_beside <- function(book, call) {
  if (!forks(book)) return(FALSE)
  weight <- heavy_studies[call$study]
  weight <- if (is.na(weight)) 1 else weight[[1]]
  if (!is.null(call$args$resamples)) weight <- max(weight, 30)
  book$lines * weight > as.numeric(Sys.getenv("LONGLADDER_DESK_BESIDE", beside_from))
}

# Whether a process beside can ask the book: a connection to a server is not shared between two.
forks <- function(book) .Platform$OS.type == "unix" && inherits(book$source, "frame_source")

# An answer, or the error that came in its place.
answer_or_error <- function(book, call, read) {
  tryCatch(step_answer(book, call, read), error = identity)
}

# Work in a process of its own that shares the book's memory; see beside_done(). Here, where that
# cannot be.
start_beside <- function(book, work) {
  if (!forks(book)) return(list(value = work()))
  parallel::mcparallel(work(), mc.set.seed = FALSE, silent = TRUE)
}

# NULL while it works; then list(value): of a result the book is the one that is open here.
beside_done <- function(job, book) {
  if (!inherits(job, "process")) return(job)
  got <- parallel::mccollect(job, wait = FALSE)
  if (is.null(got)) return(NULL)
  value <- got[[1]]
  if (is.null(value) || inherits(value, "try-error"))
    value <- simpleError("the process that worked on it ended without an answer")
  list(value = if (inherits(value, "ll_result")) on_source(value, book$source) else value)
}

stop_beside <- function(job) {
  if (!inherits(job, "process")) return(invisible())
  tools::pskill(job$pid, tools::SIGKILL)
  try(parallel::mccollect(job, wait = FALSE), silent = TRUE)
  invisible()
}
