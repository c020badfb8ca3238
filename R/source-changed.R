# Whether a table in a database is still as it was when the book was opened: by what it holds, since
# lines that were changed leave their number as it is. What was learned on opening (names, days,
# decimal places) would no longer hold, and an answer would be made of two states of the table.

# What the lines come to: their number; of each column how many values; sums of numbers and of the
# lengths of texts, the latest of dates; and the latest change, where the engine tells it of each
# line.
source_remember <- function(source) UseMethod("source_remember")

#' @export
source_remember.frame_source <- function(source) invisible()

#' @export
source_remember.database_source <- function(source) {
  source$changes <- if (!startsWith(source$from, "(")) source$dialect$latest_change
  source$contents <- tryCatch(contents(source), ll_error_database = function(e) {
    if (is.null(source$changes)) stop(e)
    # Views and tables in parts have no such mark.
    source$changes <- NULL
    contents(source)
  })
  lines <- source$contents[[1]]
  if (!is.null(source$n) && source$n != lines)
    refuse_changed("while the book was opened", source$n, lines)
  invisible()
}

contents <- function(source) {
  w <- sql_writer(source)
  own <- source$fields[source$fields$from == "lines", ]
  made <- unlist(lapply(seq_len(nrow(own)), function(i) {
    x <- sql_field(w, own$name[i])
    c(paste0("COUNT(", x$sql, ")"),
      if (x$type == "number") source$dialect$sum(x$sql, !is.na(x$decimals)),
      if (x$type == "date") paste0("MAX(", x$sql, ")"),
      if (x$type == "text") paste0("SUM(LENGTH(", source$dialect$text(x$sql), "))"))
  }))
  select <- c("COUNT(*)", source$changes, made)
  sql <- paste0("SELECT ", paste0(select, " AS ll_v", seq_along(select), collapse = ",\n       "),
                "\nFROM ", source$from)
  answer <- ask_afresh(source, sql, "what the lines come to", FALSE)
  vapply(answer, as.double, 0)
}

# Stops where the table was changed since.
source_unchanged <- function(source) UseMethod("source_unchanged")

#' @export
source_unchanged.frame_source <- function(source) invisible()

#' @export
source_unchanged.database_source <- function(source) {
  origin <- source$origin %||% source
  if (is.null(origin$contents)) return(invisible())
  now <- contents(origin)
  # Sums that are no whole numbers depend on the order in which the engine adds.
  same <- now == origin$contents | abs(now - origin$contents) <= 1e-9 * abs(now) &
    now != round(now) | is.na(now) & is.na(origin$contents)
  if (all(same %in% TRUE)) return(invisible())
  refuse_changed("since the book was opened", origin$contents[[1]], now[[1]])
}

refuse_changed <- function(when, before, now) {
  ll_abort(c(paste0("The lines in the database were changed ", when, "."),
             x = paste0("There were ", plural(before, "line"), ", there are ", count_text(now),
                        if (now == before) ", and some of their values are others", "."),
             i = "Open the book and ask again."), "data")
}
