# The brief's file on the disk, which others may change while the desk is open: what they changed is
# taken in when the desk writes to the file or hands its pages over, and is told then.

brief_file <- function(me) {
  file <- me$shared$brief$file
  if (is.null(file))
    ll_abort(c("This desk has no brief to write to.",
               i = "Have one drafted and open the desk on it: longladder draft, longladder desk."),
             "argument")
  me$meanwhile <- changed_on_disk(me$shared$brief)
  file
}

# What the file says otherwise than the brief that is open, as by brief_changes(); NULL for nothing.
changed_on_disk <- function(brief) {
  text <- read_brief_text(brief$file)
  if (!identical(text, brief$text)) changed_text(brief, text)
}

changed_text <- function(brief, text) {
  brief_changes(parse_brief(brief$text, brief$file), parse_brief(text, brief$file))
}

# What others changed, after what is said to who took it in.
meanwhile_said <- function(me) {
  if (!is.null(me$meanwhile))
    paste0(" It had been changed on disk meanwhile, and the answers here are by what it says now: ",
           changes_said(me$meanwhile), ".")
}

# The brief opened anew: for all who look at this desk, who are told where its numbers may change.
changed_brief <- function(me) {
  shared <- me$shared
  former <- list(book = shared$book, brief = shared$brief)
  shared$brief <- renew_brief(shared$brief, shared$reopen)
  shared$book <- with_drafted(shared$brief$book)
  # What was found of a book stays true where only pages came.
  same <- identical(shared$book, former$book)
  shared$before <- if (same) list(agenda = shared$agenda, worth = shared$begun == 2)
  shared$told <- NULL
  if (!same) {
    shared$answers <- list()
    shared$health <- NULL
    changes <- changed_text(former$brief, shared$brief$text)
    if (!is.null(changes)) shared$told <- paste0(
      brief_called(shared$brief), " was changed, and the answers here are by what it says now: ",
      changes_said(changes), ".")
  }
  shared$agenda <- NULL
  shared$begun <- 0
  shared$job <- NULL
  if (!is.null(shared$helper)) shared$helper$opened <- shared$helper$opened + 1
  ask_vocabulary(shared$book)
  one_more(shared$opened)
  me$opened <- shiny::isolate(shared$opened())
  me$done <- list()
}

# What others look at is of another brief than before.
see_changed <- function(me, opened) {
  me$done <- list()
  if (!is.null(me$opened)) tell_changed(me)
  me$opened <- opened
}

tell_changed <- function(me) if (!is.null(me$shared$told)) said_note(me, me$shared$told)

# The process beside found the file changed since the desk read it.
take_in <- function(me) {
  changed_brief(me)
  tell_changed(me)
}
