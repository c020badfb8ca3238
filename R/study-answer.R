# The answer of a study: what its rooms say one after the other, put together as a result.
#
# A study `X` is
#   X_question(book, args)   the question, from checked arguments
#   X_work(question)         what is found, see study-found.R
# and what is said of the two, each function of (question, found) alone:
#   X_table     list(table, columns, parts, further, coded), see study-label-columns.R
#   X_settings, X_finding, X_reading, X_notes, X_proof
#   X_behind    which lines a row or cell stands for, see study-detail-behind.R

# `args` are the study's arguments as they were given, or checked already (by the command or a
# brief); as.list(environment()) at the head of a function is all of its arguments.
answer <- function(declared, book, args) {
  force(book)
  of_whole_files(rooms_in_order(declared, book, args), source_behind(book))
}

# The lines of a book, or of a result; NULL for anything else.
source_behind <- function(of) {
  if (inherits(of, "ll_book")) return(of$source)
  held <- if (inherits(of, "ll_result")) facts(inner_result(of))$book$source
  if (!is.null(held)) kernel_strong(held)
}

# What is worked out while no file of a kept book is cut short: one that is reads as nothing from
# there on, and what comes of that, an error of R's own among it, is told nobody.
of_whole_files <- function(work, source) {
  hurt <- kernel_mappings_hurt()
  refuse <- function(e = NULL) {
    if (kernel_mappings_hurt() > hurt || !all_there(source))
      ll_abort(c("What was kept of these lines was cut short while it was asked.",
                 i = "Open the book and ask again: what was kept is made anew."), "file")
  }
  out <- withCallingHandlers(work, error = refuse)
  refuse()
  out
}

rooms_in_order <- function(declared, book, args) {
  if (!declared$of_results) check_book(book)
  if (!inherits(args, "ll_checked"))
    args <- check_args(declared, given_args(args[names(args) != "book"]))
  clock <- step_clock(if (!declared$of_results && isTRUE(book$lines > many_lines))
    paste0(declared$name, " of ", count_text(book$lines), " lines: "))
  room <- function(part) get(paste0(declared$name, "_", part), envir = topenv(), mode = "function")
  ask <- function(args) clock("question", room("question")(book, args))
  question <- ask(args)
  found <- clock("work", room("work")(question))
  say <- function(part) clock(part, room(part)(question, found))
  table <- with_label_columns(question$book, say("table"))
  table$columns <- with_plain_headings(question, table$columns)
  table$further <- lapply(table$further, with_plain_headings, question = question)
  behind <- say("behind")
  finding <- say("finding")
  if (is.character(finding)) finding <- new_finding(finding)
  alike <- like_note(question, args, finding, function(args) {
    again <- ask(args)
    told <- room("finding")(again, clock("work", room("work")(again)))
    if (is.character(told)) told else told$text
  })
  lead <- with_lead(question, finding)
  settings <- say("settings")
  reading <- paste0(say("reading"), kept_book_words(book))
  notes <- sorted_notes(rbind(alike, digits_note(question, table$table), say("notes")))
  # Last, so that a table which changed since any of its statements is found by it.
  proof <- say("proof")
  source <- source_behind(question$book)
  if (!all(proof$holds) && !is.null(source)) source_unchanged(source)
  result <- new_result(
    declared$name, table$table, settings, table$columns, lead, reading, notes, proof,
    asked = telling_args(declared, args),
    parts = Filter(Negate(is.null), table$parts), further = table$further %||% list(),
    book = behind$book %||% question$book, only = behind$only %||% question$asked$only,
    behind = behind[setdiff(names(behind), c("book", "only"))])
  tell(paste0(declared$name, " took ", clock()), "debug")
  result
}

# Of a kept book, from when what it tells is.
kept_book_words <- function(book) {
  when <- book$cache$when
  if (is.null(when)) "" else paste0(" From the book kept on ", date_text(as.Date(when, tz = "")), " at ",
                                    format(when, "%H:%M"), ".")
}

# Lines beyond which a terminal is shown which step is at work, and what the longest do.
many_lines <- 5e6
answer_steps <- c(work = "counting", notes = "what is to be noted", proof = "a second route")

# Times steps: clock(step, work) gives what the work comes to, clock() tells the seconds of all.
# Work on what is named `shown` is shown at a terminal while it goes on.
step_clock <- function(shown = NULL) {
  steps <- numeric()
  function(step, work) {
    if (missing(step))
      return(paste0(round(sum(steps), 2), " s (", paste(names(steps), round(steps, 2),
                                                       collapse = ", "), ")"))
    started <- proc.time()[["elapsed"]]
    while_shown(paste0(shown, answer_steps[step], " ..."), !is.null(shown) && step %in%
                  names(answer_steps), work)
    steps[[step]] <<- proc.time()[["elapsed"]] - started
    work
  }
}

# What a finding says itself of what it stands on. dated: it tells of the period; compared: it tells
# of a change; alike: it tells the same days of both periods, where they are unlike; where: the
# condition that is still to be said before it.
new_finding <- function(text, dated = FALSE, compared = FALSE, alike = FALSE, ...) {
  structure(list(text = text, dated = dated, compared = compared, alike = alike, ...),
            class = "ll_finding_parts")
}

# A finding is read alone, as a title, on a slide or as one line, so the period, what it is compared
# with, the condition and the fewest orders stand before it, and the same days of periods that are
# unlike after it.
with_lead <- function(question, finding) {
  where <- if ("where" %in% names(finding)) finding$where else question$asked$only
  least <- arg_or_null(question, "min_orders")
  compared <- finding$compared || tells_change(question)
  alike <- if (compared && !finding$alike && length(question$metrics))
    like_sentence(question, like_totals(question))
  text <- paste(c(finding$text, alike), collapse = " ")
  lead <- c(if (!finding$dated) period_lead(question, compared && !finding$alike),
            if (!is.null(where)) paste("where", fit_text(tree_words(where), 90)),
            if (!is.null(least)) paste("of", level_words(question), "with at least",
                                       plural(least, order_word(question$book))))
  if (!length(lead)) return(text)
  paste0(capital(paste(lead, collapse = ", ")), ": ", small_start(question, text))
}

# Whether the metric told is itself a change or growth against another period.
tells_change <- function(question) {
  if (!length(question$metrics)) return(FALSE)
  length(nodes_where(question$metrics[[1]]$tree, function(t) t$kind == "versus")) > 0
}

# "in 2026 to 16 September", "in Q2 2026, against Q2 2025"
period_lead <- function(question, compared = FALSE) {
  now <- question$asked$now
  if (is.null(now) || anyNA(c(now$from, now$to)) || identical(now$text, "all")) return(NULL)
  c(period_phrase(now, question$book), if (compared && !is.null(question$asked$before))
    paste("against", before_phrase(now, question$asked$before, question$book)))
}
