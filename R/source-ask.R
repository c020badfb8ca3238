# Questions to a database: one statement each, told in the log, guarded against more rows than
# memory, and taken back when the person stops.

# `why` tells what is asked, in the log; `guard`: a fold, whose rows are counted.
ask <- function(source, sql, why, guard = FALSE) {
  if (!is.null(source$answers[[sql]])) return(source$answers[[sql]])
  answer <- ask_afresh(source, sql, why, guard)
  # The same statement within one question has the same answer.
  if (nrow(answer) <= 1e5) source$answers[[sql]] <- answer
  answer
}

ask_afresh <- function(source, sql, why, guard) {
  most <- getOption("longladder.most_rows", 1e7)
  if (guard) sql <- paste0(sql, "\nLIMIT ", sprintf("%.0f", most + 1))
  started <- proc.time()[["elapsed"]]
  answer <- while_shown(paste0("asking ", source$dialect$name, ": ", why), isTRUE(source$n > 1e6), {
    tryCatch(
      guarded_question(source$con, function() fetch_answer(source$con, sql), source$dialect),
      error = function(e) refused(source, e))
  })
  took <- proc.time()[["elapsed"]] - started
  if (!is.null(ask_log$statements))
    ask_log$statements <- c(ask_log$statements,
                            list(list(sql = sql, why = why, rows = nrow(answer))))
  tell(paste0(sql, "\n-- ", why, ": ", plural(nrow(answer), "row"), " in ", round(took, 2), " s"),
       "debug")
  if (guard && nrow(answer) > most)
    ll_abort(c(paste0("This question comes to more than ", count_text(most), " rows."),
               i = paste0("Narrow it, rank by a dimension with fewer names, or raise the limit: ",
                          "options(longladder.most_rows = 1e8).")), "data")
  answer
}

# The statements asked so far, while somebody listens.
ask_log <- new.env(parent = emptyenv())
ask_log$statements <- NULL

# The statements that a call asks, as text.
statements_of <- function(call) {
  ask_log$statements <- list()
  on.exit(ask_log$statements <- NULL)
  call()
  ask_log$statements
}

# A statement that is stopped midway is cancelled by clearing its result.
fetch_answer <- function(con, sql) {
  # The driver hears an interrupt by itself, and takes the statement back.
  kernel_hurried(FALSE)
  on.exit(kernel_hurried(TRUE))
  result <- DBI::dbSendQuery(con, enc2utf8(sql))
  on.exit(DBI::dbClearResult(result), add = TRUE, after = FALSE)
  out <- as.data.frame(DBI::dbFetch(result, n = -1))
  # Counts fit into doubles; columns of 64-bit integers lose their class when they are joined.
  wide <- vapply(out, inherits, NA, "integer64")
  out[wide] <- lapply(out[wide], as.double)
  out
}

# What went wrong, told as what the person can fix where it is that.
refused <- function(source, e) {
  why <- fit_text(one_line(conditionMessage(e)), 300)
  if (grepl(locked_words, why)) refuse_locked(source$dialect)
  if (!still_there(source, why))
    ll_abort(c(paste0("The connection to ", source$dialect$name, " was lost; nothing was made."),
               x = paste0("It says: ", why)), "lost")
  gone <- vanished_columns(source)
  if (length(gone))
    ll_abort(c(paste0("The column ", quoted(gone[1]), " is no longer among the lines."),
               i = "The table has changed since the book was opened: open it again."), "data")
  ll_abort(c(paste0(source$dialect$name, " refused a question."), x = paste0("It says: ", why),
             i = if (source$dialect$breaks)
               "Its driver gives the connection up with that: open the book again."), "database")
}

refuse_locked <- function(dialect) {
  ll_abort(c(paste0(dialect$name, " is locked: another program is writing."),
             x = paste0("Waited ", getOption("longladder.wait_seconds", 5), " seconds."),
             i = "Ask again when it is done."), "database")
}

lost_words <- paste("terminating connection", "closed the connection", "connection .*(lost|reset)",
                    "broken pipe", "[Ii]nvalid .*connection", "fail to send data", sep = "|")

# By what the driver says, since some connect anew without a word; and by asking once more, unless
# the driver loses its connection with every statement that fails.
still_there <- function(source, why) {
  if (grepl(lost_words, why, ignore.case = TRUE, perl = TRUE)) return(FALSE)
  if (source$dialect$breaks) return(TRUE)
  tryCatch({
    DBI::dbGetQuery(source$con, "SELECT 1 AS ll_one")
    TRUE
  }, error = function(e) FALSE)
}

vanished_columns <- function(source) {
  if (source$dialect$breaks) return(character())
  now <- tryCatch(source$dialect$columns(source$con, source$from)$name, error = function(e) NULL)
  if (is.null(now)) return(character())
  setdiff(vapply(source$columns, `[[`, "", "name"), now)
}
