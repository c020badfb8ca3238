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
  # Of an address that is still being read only what came already is on the desk.
  if (push && !is.null(me$coming)) me$coming$pushed <- TRUE
  else if (push) tell_page(me, "address", list(state = desk_text(me$shared$book, desk)))
}

tell_page <- function(me, what, value) me$session$sendCustomMessage(what, value)

# The state of an address: at the start, by the browser's back and forward. Its questions are read
# a few at a time, so that one person's long address does not hold up the others.
go_to <- function(me, text) {
  read <- address_parts(me$shared$book, text %||% "")
  me$coming <- c(read[c("steps", "lost", "over")],
                 list(free = shiny::isolate(me$desk())$steps, at = 0L, pushed = FALSE))
  set_desk(me, read$desk, push = FALSE)
  take_coming(me)
  one_more(me$work)
}

# Reads on in the address for a tenth of a second; whether there is more of it.
take_coming <- function(me) {
  coming <- me$coming
  if (is.null(coming)) return(FALSE)
  desk <- shiny::isolate(me$desk())
  until <- proc.time()[["elapsed"]] + .1
  while (length(coming$steps) && proc.time()[["elapsed"]] < until) {
    step <- step_of_text(me$shared$book, coming$steps[[1]], me$seen)
    coming$steps <- coming$steps[-1]
    if (is.null(step)) coming$lost <- coming$lost + 1
    if (is.null(step)) next
    # Steps that are there stay what they are.
    same <- which(vapply(coming$free, function(one) {
      identical(one[c("study", "args", "pinned")], step[c("study", "args", "pinned")])
    }, NA))
    if (length(same)) {
      step[c("id", "read", "asked")] <- coming$free[[same[1]]][c("id", "read", "asked")]
      coming$free <- coming$free[-same[1]]
    }
    # Before what was asked since.
    desk$steps <- append(desk$steps, list(step), min(coming$at, length(desk$steps)))
    coming$at <- coming$at + 1L
  }
  me$coming <- coming
  set_desk(me, desk, push = FALSE)
  if (length(coming$steps)) return(TRUE)
  end_coming(me)
  FALSE
}

# The whole address is read; what a person did meanwhile belongs into the page's own.
end_coming <- function(me) {
  coming <- me$coming
  me$coming <- NULL
  left <- c(if (coming$lost) paste(plural(coming$lost, "part"), verb(coming$lost, "is"),
                                   "not of this book"),
            if (coming$over) paste(plural(coming$over, "part"), verb(coming$over, "is"),
                                   "more than a desk holds"))
  if (length(left)) said_note(me, paste0("Of this address ", and_list(left), "; left out."))
  if (coming$pushed) set_desk(me, shiny::isolate(me$desk()))
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
