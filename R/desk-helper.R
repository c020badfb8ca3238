# A process of its own, forked before the page is served, with the book in its memory; it forks a
# worker for each job. The process that serves the page cannot fork: its server has threads, and a
# copy of one of their locks may never be let go. Jobs and what came of them are files of a folder
# that only we may read.

# How many times as long as a plain question a study takes, about; the rest as one or two.
heavy_studies <- c(drill = 30, check = 40, portrait = 15, whitespace = 20, associations = 15,
                   substitution = 10, cohorts = 5, lapsed = 5, sets = 5, benchmark = 5)

# Lines times that, beyond which a question is asked beside: about half a second.
beside_from <- 2e7

asks_beside <- function(book, call) {
  weight <- heavy_studies[call$study]
  weight <- if (is.na(weight)) 1 else weight[[1]]
  if (!is.null(call$args$resamples)) weight <- max(weight, 30)
  book$lines * weight > as.numeric(Sys.getenv("LONGLADDER_DESK_BESIDE", beside_from))
}

# Whether a process beside can ask the book: a connection to a server is not shared between two.
forks <- function(book) .Platform$OS.type == "unix" && inherits(book$source, "frame_source")

start_helper <- function(book, brief, reopen) {
  if (!forks(book)) return(NULL)
  folder <- tempfile("desk-work-")
  dir.create(folder, mode = "0700")
  main <- Sys.getpid()
  job <- parallel::mcparallel(help_desk(folder, main, book, brief, reopen), mc.set.seed = FALSE,
                              silent = TRUE)
  list2env(list(folder = folder, process = job, count = 0, opened = 0), parent = emptyenv())
}

# Works as long as the desk is there.
help_desk <- function(folder, main, book, brief, reopen) {
  opened <- 0
  running <- list()
  found <- function(ending) list.files(folder, paste0("[.]", ending, "$"), full.names = TRUE)
  while (dir.exists(folder) && !left_alone(main)) {
    for (file in found("job")) {
      job <- readRDS(file)
      unlink(file)
      # The brief was changed since.
      if (job$opened > opened && !is.null(reopen)) {
        brief <- tryCatch(renew_brief(brief, reopen), error = function(e) brief)
        book <- with_drafted(brief$book)
        opened <- job$opened
      }
      id <- sub("[.]job$", "", basename(file))
      running[[id]] <- parallel::mcparallel(work_on_job(brief, book, job, reopen, folder, id),
                                            mc.set.seed = FALSE, silent = TRUE, detached = TRUE)
    }
    for (file in found("stop")) {
      unlink(file)
      stopped <- running[[sub("[.]stop$", "", basename(file))]]
      if (!is.null(stopped)) tools::pskill(stopped$pid, tools::SIGKILL)
    }
    Sys.sleep(.03)
  }
  # Otherwise it would wait for a word of the one that is gone.
  tools::pskill(Sys.getpid(), tools::SIGKILL)
}

# Whether the process that began this one is gone; one that is dead and not yet buried still has its
# number, where /proc does not tell whose child we are.
left_alone <- function(main) {
  stat <- "/proc/self/stat"
  if (!file.exists(stat)) return(!tools::pskill(main, 0))
  fields <- strsplit(sub("^.*[)] ", "", readLines(stat, 1, warn = FALSE)), " ")[[1]]
  as.integer(fields[2]) != main
}

work_on_job <- function(brief, book, job, reopen, folder, id) {
  put_file(tryCatch({
    check_unchanged(brief, job$text)
    job_value(book, job, reopen)
  }, error = identity), folder, id, "out")
}

# A brief opened by the process beside must be the one that the desk has open.
check_unchanged <- function(brief, text) {
  if (identical(brief$text, text)) return(brief)
  ll_abort(c(paste0(basename(brief$file), " was changed on disk meanwhile."), i = "Ask again."),
           "file", changed = TRUE)
}

job_value <- function(book, job, reopen) {
  switch(job$kind, answer = step_answer(book, job$call, job$read), worth = worth_items(book),
         finding = item_finding(book, job$item), bring = brought_book(job$path, job$title),
         run = run_for_desk(reopen, job))
}

# A file that somebody brought.
brought_book <- function(path, title) ll_book(path, title = title, cache = FALSE)

# What is to be told, in a file that is there whole or not at all.
put_file <- function(value, folder, id, ending) {
  put_beside(file.path(folder, paste0(id, ".", ending)), function(file) {
    saveRDS(value, file, compress = FALSE)
  })
}

# A job begun: its number with the helper; done here, list(value), where there is none.
start_job <- function(shared, job) {
  job$text <- shared$brief$text
  helper <- shared$helper
  if (is.null(helper))
    return(list(value = tryCatch(job_value(shared$book, job, shared$reopen), error = identity)))
  helper$count <- helper$count + 1
  job$opened <- helper$opened
  id <- sprintf("j%06d", helper$count)
  put_file(job, helper$folder, id, "job")
  id
}

# NULL while it works; then list(value): of a result the book is the one that is open here.
job_done <- function(shared, id) {
  if (is.list(id)) return(id)
  file <- file.path(shared$helper$folder, paste0(id, ".out"))
  if (!file.exists(file)) return(NULL)
  value <- readRDS(file)
  unlink(file)
  list(value = if (inherits(value, "ll_result")) on_source(value, shared$book$source) else value)
}

stop_job <- function(shared, id) {
  if (!is.list(id)) file.create(file.path(shared$helper$folder, paste0(id, ".stop")))
  invisible()
}

stop_helper <- function(shared) {
  helper <- shared$helper
  if (is.null(helper)) return(invisible())
  unlink(helper$folder, recursive = TRUE)
  tools::pskill(helper$process$pid)
  invisible()
}

# Pages of a brief handed over: report, workbook and notebook in a folder beside it; what is to be
# said of it.
run_for_desk <- function(reopen, job) {
  pages <- job$pages
  tryCatch({
    brief <- check_unchanged(reopen(), job$text)
    folder <- file.path(dirname(brief$file), "hand-over")
    made <- ll_run(brief, folder, if (length(pages)) pages)
    paste(c(paste0("Handed over: report.html, workbook.xlsx and notebook.Rmd of ",
           plural(if (length(pages)) length(pages) else length(brief$pages), "page"), ", in ",
           folder, "."), attr(made, "obeyed")), collapse = " ")
  }, error = function(e) paste("Not handed over:", conditionMessage(e)))
}
