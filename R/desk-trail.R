# What is on a desk: what holds for every answer, and the answers in the order in which they were
# asked. It can be written as text, for the page's address, and read back; nothing in it is code,
# since an answer stands there as the sentence that asks for it.
#
# A step is list(id, study, args, read, asked, pinned, shut, beside): the call; how the words were
# read where it was asked in words, and the words; what holds for it alone (NULL: what holds for
# all); whether it is closed, or stands beside the one before; and another `picture` of it.

new_desk <- function() list(where = character(), when = NULL, steps = list())

steps_most <- 60
held_most <- 60         # conditions
address_most <- 20000   # letters of an address

new_step <- function(study, args, read = NULL) {
  args <- asked_args(study, args)
  list(study = study, args = args, read = read, pinned = NULL, shut = FALSE, beside = FALSE)
}

# The step of a question that was read, with the words as they were typed.
read_step <- function(call, asked = NULL) {
  step <- new_step(call$study, call$args, call[c("words", "tokens", "used", "taken")])
  if (is.null(step$read$words)) step["read"] <- list(NULL)
  step$asked <- asked
  step
}

# What holds for a step.
held_for <- function(desk, step) step$pinned %||% desk[c("where", "when")]

# Whether the period that holds reaches a step: "no" where its study takes none, "own" where it was
# asked with another.
period_reach <- function(step) {
  if (!"when" %in% names(declaration_of(step$study)$args)) "no" else
    if (!is.null(step$args$when)) "own" else "yes"
}

# A step as it is asked while this holds: list(study, args, where), the conditions apart.
step_call <- function(desk, step) {
  held <- held_for(desk, step)
  args <- step$args
  if (!is.null(held$when) && period_reach(step) == "yes") args$when <- held$when
  list(study = step$study, args = args, where = held$where)
}

# The book with what holds for a step.
step_book <- function(book, call) {
  if (length(call$where)) do.call(ll_where, c(list(book), as.list(call$where))) else book
}

step_answer <- function(book, call, read = NULL) {
  book <- step_book(book, call)
  if (!is.null(read)) return(answer_read(book, c(call[c("study", "args")], read)))
  answer(declaration_of(call$study), book, call$args)
}

# What a step's answer depends on, as text.
step_key <- function(desk, step) {
  paste(deparse(list(step_call(desk, step), step$read$words)), collapse = "\n")
}

# --- text -----------------------------------------------------------------------------------------

desk_text <- function(book, desk) {
  held <- function(x) Filter(length, list(w = I(x$where), p = x$when))
  steps <- lapply(desk$steps, function(step) {
    out <- list(q = step$sentence %||% say_call(book, step$study, step$args))
    if (!is.null(step$pinned)) out$own <- held(step$pinned)
    if (step$shut) out$shut <- TRUE
    if (step$beside) out$beside <- TRUE
    if (!is.null(step$picture)) out$as <- step$picture
    out
  })
  if (!length(steps) && !length(desk$where) && is.null(desk$when)) return("")
  as.character(jsonlite::toJSON(c(held(desk), list(t = steps)), auto_unbox = TRUE))
}

# The parts of an address: list(desk, steps, lost, over), the desk with what holds; its steps as
# they stand there, to be read by step_of_text(); how many parts this book does not answer, and how
# many are more than a desk holds.
address_parts <- function(book, text) {
  none <- list(desk = new_desk(), steps = list(), lost = 0, over = 0)
  if (!one_text(text) || !nzchar(text)) return(none)
  read <- if (nchar(text) <= address_most)
    tryCatch(jsonlite::fromJSON(text, simplifyVector = FALSE), error = function(e) NULL)
  if (!is.list(read)) return(utils::modifyList(none, list(lost = 1)))
  held <- held_of_text(book, read)
  list(desk = utils::modifyList(none$desk, held[c("where", "when")], keep.null = TRUE),
       steps = utils::head(as.list(read$t), steps_most), lost = held$lost,
       over = max(0, length(read$t) - steps_most) + max(0, length(read$w) - held_most))
}

one_text <- function(x) is.character(x) && length(x) == 1 && !is.na(x)

held_of_text <- function(book, read) {
  out <- list(where = character(), when = NULL, lost = 0)
  for (text in utils::head(as.list(read$w), held_most)) {
    fits <- one_text(text) && !is.null(tryCatch(condition_of(book, text, "condition"),
                                               ll_error = function(e) NULL))
    if (fits) out$where <- c(out$where, text) else out$lost <- out$lost + 1
  }
  if (one_text(read$p)) {
    fits <- tryCatch(!is.null(read_period(read$p, book_dates(book, "when"))),
                     ll_error = function(e) FALSE)
    if (fits) out$when <- read$p else out$lost <- out$lost + 1
  }
  out
}

# A step of an address, NULL where it is none of this book; `seen` are steps that were read before,
# by their sentences.
step_of_text <- function(book, one, seen = list()) {
  if (!is.list(one) || !one_text(one$q)) return(NULL)
  step <- seen[[one$q]] %||% tryCatch(read_step(ask_read(book, one$q)),
                                      ll_error = function(e) NULL)
  if (is.null(step)) return(NULL)
  step$sentence <- one$q
  # One that was seen stood elsewhere, in another way.
  step[c("id", "pinned", "picture")] <- list(NULL)
  if (is.list(one$own)) step$pinned <- held_of_text(book, one$own)[c("where", "when")]
  step$shut <- isTRUE(one$shut)
  step$beside <- isTRUE(one$beside)
  if (one_text(one$as) && one$as %in% declaration_of(step$study)$pictures) step$picture <- one$as
  step
}

# --- changes: each gives the desk anew ------------------------------------------------------------

add_step <- function(desk, step) {
  if (length(desk$steps) >= steps_most)
    ll_abort(c(paste0("There are ", steps_most, " answers on the desk."),
               i = "Remove some, or begin anew."), "argument")
  desk$steps <- c(desk$steps, list(step))
  desk
}

# What holds with one more thing; a period, or a name of the same field, takes the place of another.
hold_also <- function(desk, held) {
  desk$where <- as.character(unique(c(still_hold(desk$where, held$where), held$where)))
  if (!is.null(held$when)) desk$when <- held$when
  desk
}

move_step <- function(desk, at, by) {
  to <- at + by
  if (to < 1 || to > length(desk$steps)) return(desk)
  desk$steps[c(at, to)] <- desk$steps[c(to, at)]
  desk
}

# A step that is pinned keeps what holds now, whatever holds later.
pin_step <- function(desk, at) {
  step <- desk$steps[[at]]
  held <- if (is.null(step$pinned)) desk[c("where", "when")]
  desk$steps[[at]]["pinned"] <- list(held)
  desk
}

flip_step <- function(desk, at, what) {
  desk$steps[[at]][[what]] <- !desk$steps[[at]][[what]]
  desk
}
