# What a session works on: the steps that have no answer yet, one after the other, then the agenda.

# Milliseconds between two answers, or two parts of an address.
breath <- 5

# Whether something that came from a page, this or another, is to be dealt with first: it waits in a
# row of which the server takes one after each piece of work, and would wait for all of a long
# address. An answer waits for the row a second at most.
others_wait <- function(me) {
  now <- proc.time()[["elapsed"]]
  if (later::next_op_secs() <= 0) {
    me$stood_back <- me$stood_back %||% now
    if (now - me$stood_back < 1) return(TRUE)
  }
  me$stood_back <- NULL
  FALSE
}

# One answer at a time, each shown before the next is begun; then the agenda, item by item.
work_on <- function(me) {
  desk <- me$desk()
  me$work()
  shared <- me$shared
  if (!me$known) return(shiny::invalidateLater(50))
  opened <- shared$opened()
  if (!identical(me$opened, opened)) see_changed(me, opened)
  waiting <- collect_jobs(me)
  if (others_wait(me)) return(shiny::invalidateLater(breath))
  if (take_coming(me)) return(shiny::invalidateLater(breath))
  # What answers depend on is looked at when the desk changes, not each time we come by.
  if (!identical(me$looked_at, desk)) {
    me$keys <- lapply(desk$steps, step_key, desk = desk)
    me$looked_at <- desk
  }
  for (k in seq_along(desk$steps)) {
    step <- desk$steps[[k]]
    key <- me$keys[[k]]
    id <- as.character(step$id)
    if (identical(me$done[[id]], key) || isTRUE(step$shut)) next
    drop_job(me, id)
    me$done[[id]] <- key
    call <- step_call(desk, step)
    kept <- kept_answer(shared, key)
    if (is.null(kept) && !is.null(shared$helper) && asks_beside(shared$book, call)) {
      job <- list(kind = "answer", call = call, read = step$read)
      me$jobs[[id]] <- list(key = key, job = start_job(shared, job))
      me$answers[[id]] <- list(job = TRUE)
      waiting <- TRUE
      next
    }
    if (is.null(kept)) show_answer(me, id, key, answer_or_error(shared$book, call, step$read)) else
      me$answers[[id]] <- kept
    return(shiny::invalidateLater(breath))
  }
  if (take_brought(me)) waiting <- TRUE
  if (find_next(me)) return(shiny::invalidateLater(40))
  handed <- if (!is.null(me$handing)) job_done(shared, me$handing)
  if (!is.null(handed)) {
    me$handing <- NULL
    said_note(me, paste0(as.character(handed$value)[1], me$told))
  }
  if (waiting || !is.null(me$handing)) shiny::invalidateLater(150)
}

show_answer <- function(me, id, key, result) {
  if (inherits(result, "ll_error_currencies") && split_step(me, id, result)) return(invisible())
  shown <- list(result = result)
  if (inherits(result, "ll_result")) {
    shown$follows <- tryCatch(ll_next(result), ll_error = function(e) NULL)
    keep_answer(me$shared, key, shown)
  }
  me$answers[[id]] <- shown
}

# A question that would add up several currencies becomes one for each, side by side, where there is
# room for them; whether it did.
split_step <- function(me, id, error) {
  desk <- me$desk()
  at <- step_place(desk, id)
  codes <- error$codes
  if (!length(at) || length(codes) > apart_most || length(desk$steps) + length(codes) > steps_most)
    return(FALSE)
  step <- desk$steps[[at]]
  held <- held_for(desk, step)
  apart <- lapply(seq_along(codes), function(i) {
    step$pinned <- list(where = c(held$where, currency_condition(error$field, codes[i])),
                        when = held$when)
    step["id"] <- list(NULL)
    step
  })
  desk$steps <- c(desk$steps[seq_len(at - 1)], apart, desk$steps[-seq_len(at)])
  set_desk(me, desk)
  said_note(me, paste("Amounts are in", plural(length(codes), "currency"), "and are shown apart."))
  TRUE
}

# Whether some process works still; what others have found is shown.
collect_jobs <- function(me) {
  for (id in names(me$jobs)) {
    job <- me$jobs[[id]]
    done <- job_done(me$shared, job$job)
    if (is.null(done)) next
    me$jobs[[id]] <- NULL
    if (isTRUE(done$value$changed)) tryCatch(take_in(me), error = function(e) me$said(e))
    show_answer(me, id, job$key, done$value)
  }
  length(me$jobs) > 0
}

# The agenda, made once for all: its items at first, then what is worth asking and one finding after
# the other, found by a process beside so that no question waits. Whether there is more to come.
find_next <- function(me) {
  shared <- me$shared
  if (is.null(shared$agenda)) {
    shared$agenda <- begun_agenda(shared)
  } else {
    done <- if (!is.null(shared$job)) job_done(shared, shared$job)
    if (!is.null(done)) {
      shared$job <- NULL
      worth <- if (is.list(done$value) && !inherits(done$value, "condition")) done$value
      if (shared$begun == 1) shared$agenda <- c(worth, shared$agenda)
      else shared$agenda[[shared$finding]]$finding <- as.character(done$value)[1]
    }
    if (is.null(shared$job) && !begin_finding(shared) &&
          identical(shiny::isolate(me$agenda()), shared$agenda)) return(FALSE)
  }
  if (!identical(shiny::isolate(me$agenda()), shared$agenda)) me$agenda(shared$agenda)
  TRUE
}

# The agenda as it stands at first; after a page was kept with what had been found before.
begun_agenda <- function(shared) {
  before <- shared$before
  is_one <- c("kind", "title", "study", "args")
  items <- lapply(desk_agenda(shared$book, shared$brief$pages), function(item) {
    for (one in before$agenda)
      if (identical(one[is_one], item[is_one])) item$finding <- one$finding
    item
  })
  if (!isTRUE(before$worth)) return(items)
  shared$begun <- 2
  c(Filter(function(one) one$kind == "worth", before$agenda), items)
}

# Begins the next thing to find; whether there is one.
begin_finding <- function(shared) {
  if (shared$begun == 0) {
    shared$begun <- 1
    shared$job <- start_job(shared, list(kind = "worth"))
    return(TRUE)
  }
  shared$begun <- 2
  open <- Filter(function(i) is.null(shared$agenda[[i]]$finding), seq_along(shared$agenda))
  if (!length(open)) return(FALSE)
  shared$finding <- open[1]
  item <- shared$agenda[[open[1]]]
  shared$job <- start_job(shared, list(kind = "finding", item = item))
  TRUE
}
