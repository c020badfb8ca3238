# What is told beside the result: to standard error, and to a file where one is asked for. The
# logger package is loaded only for -v and --log, since it takes longer than many a question.

log_state <- new.env()
log_state$level <- "info"
log_state$file <- FALSE

# level: "quiet" (errors alone), "info" or "debug"; file: a path to append to, or NULL.
start_log <- function(level = "info", file = NULL) {
  log_state$level <- level
  log_state$wrong <- NULL
  log_state$file <- !is.null(file)
  if (!log_uses_logger()) return(invisible())
  if (!requireNamespace("logger", quietly = TRUE))
    ll_abort(c("--verbose and --log need the logger package.",
               i = "install.packages(\"logger\")"), "package")
  plain <- function(level, msg, ...) msg
  logger::log_threshold(switch(level, quiet = logger::ERROR, debug = logger::DEBUG, logger::INFO),
                        "longladder")
  logger::log_layout(plain, "longladder")
  logger::log_appender(function(lines) cat(lines, sep = "\n", file = stderr()), "longladder")
  if (is.null(file)) return(invisible())
  logger::log_threshold(logger::DEBUG, "longladder", 2)
  logger::log_layout(logger::layout_simple, "longladder", 2)
  logger::log_appender(function(lines) keep_lines(lines, file), "longladder", 2)
}

# What a log could not take is told at the end, since here it is told to the log.
keep_lines <- function(lines, file) {
  wrong <- write_lines(lines, file, append = TRUE)
  if (nzchar(wrong) && is.null(log_state$wrong)) log_state$wrong <- wrong
}

check_log <- function() {
  if (is.null(log_state$wrong)) return(invisible())
  wrong <- log_state$wrong
  log_state$wrong <- NULL
  ll_abort(c("The log could not be written as a whole.", x = paste0(capital(wrong), ".")), "target")
}

# A log begins with a level and a time.
is_log <- function(file) {
  start <- readBin(file, "raw", 20)
  grepl("^(FATAL|ERROR|WARN|SUCCESS|INFO|DEBUG|TRACE) \\[[0-9]{4}-",
        rawToChar(start[start != as.raw(0)]), useBytes = TRUE)
}

log_uses_logger <- function() log_state$file || log_state$level == "debug"

# Text is told as it is: nothing in it is filled in or run.
tell <- function(text, level = "info") {
  if (!length(text)) return(invisible())
  text <- seen_text(unguarded(text))
  if (log_uses_logger()) {
    severity <- switch(level, error = logger::ERROR, debug = logger::DEBUG, logger::INFO)
    for (one in text)
      logger::log_level(severity, logger::skip_formatter(one), namespace = "longladder")
  } else if (level == "error" || level == "info" && log_state$level != "quiet") {
    cat(text, sep = "\n", file = stderr())
  }
}

# Work with a line about it on a terminal, gone when it is done.
while_shown <- function(text, long, work) {
  if (!long || log_state$level == "quiet" || !isatty(stderr())) return(work)
  text <- substr(text, 1, 78)
  cat(text, "\r", sep = "", file = stderr())
  on.exit(cat(strrep(" ", nchar(text)), "\r", sep = "", file = stderr()))
  work
}

seconds_since <- function(started) paste(round(proc.time()[["elapsed"]] - started, 2), "s")
