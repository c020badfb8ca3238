# What a person's session on the desk does with its state: changes it, tells it to the page, takes
# it from the address.

# A new state of the desk: shown, and written into the address as one more place to come back to.
set_desk <- function(me, desk, push = TRUE) {
  desk$steps <- lapply(desk$steps, function(step) {
    if (is.null(step$id)) {
      me$last_id <- me$last_id + 1L
      step$id <- me$last_id
    }
    # Said once: it takes as long as a plain question.
    if (is.null(step$sentence))
      step$sentence <- say_call(me$shared$book, step$study, step$args)
    step
  })
  for (step in desk$steps) me$seen[[step$sentence]] <- step
  me$desk(desk)
  if (push) tell_page(me, "address", list(state = desk_text(me$shared$book, desk)))
}

tell_page <- function(me, what, value) me$session$sendCustomMessage(what, value)

# The state of an address: at the start, by the browser's back and forward.
go_to <- function(me, text) {
  desk <- desk_of_text(me$shared$book, text %||% "", me$seen)
  if (desk$lost)
    said_note(me, paste(plural(desk$lost, "part"), "of this address", verb(desk$lost, "is"),
                        "not of this book, and left out."))
  desk$lost <- NULL
  # Steps that are there stay what they are.
  free <- shiny::isolate(me$desk())$steps
  desk$steps <- lapply(desk$steps, function(step) {
    same <- which(vapply(free, function(one) {
      identical(one[c("study", "args", "pinned")], step[c("study", "args", "pinned")])
    }, NA))
    if (length(same)) {
      step[c("id", "read", "asked")] <- free[[same[1]]][c("id", "read", "asked")]
      free <<- free[-same[1]]
    }
    step
  })
  set_desk(me, desk, push = FALSE)
}

said_note <- function(me, text) me$said(list(note = text))

# A count that tells those who look at it that there is something new.
one_more <- function(count) count(shiny::isolate(count()) + 1)

step_place <- function(desk, id) {
  which(vapply(desk$steps, function(step) identical(step$id, as.integer(id)), NA))
}

drop_job <- function(me, id) {
  if (is.null(me$jobs[[id]])) return(invisible())
  stop_job(me$shared, me$jobs[[id]]$job)
  me$jobs[[id]] <- NULL
}
