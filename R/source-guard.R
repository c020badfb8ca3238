# Questions to a database are put so that they can write nothing, even where the query comes from a
# brief of somebody else's. What an engine cannot guard is told in SECURITY.md.

# Asks by `work` inside the guard of the engine. Where another program holds the database, which
# files of SQLite are for a moment at each writing, it is tried again for some seconds.
guarded_question <- function(con, work, dialect = dialect_of(con)) {
  until <- Sys.time() + getOption("longladder.wait_seconds", 5)
  repeat {
    answer <- tryCatch(dialect$guard(con, work), error = identity)
    if (!inherits(answer, "error")) return(answer)
    if (!grepl(locked_words, conditionMessage(answer)) || Sys.time() > until) stop(answer)
    Sys.sleep(.1)
  }
}

locked_words <- "database (table |schema )?is locked|SQLITE_BUSY"

# What may be a query: one statement that stays within the brackets it is put in, since some drivers
# run all that stand behind one another.
check_query <- function(query) {
  # Engines differ in what a backslash before a quote means; it must be one statement either way.
  wrong <- unique(unlist(lapply(c(FALSE, TRUE), query_trouble, text = query)))
  if (length(wrong))
    ll_abort(c("'query' must be one statement that reads: SELECT, WITH, VALUES, TABLE or FROM.",
               x = wrong[1], i = "Give it without a semicolon, as it would stand within brackets."),
             "argument")
  sub("[;[:space:]]+$", "", query)
}

# What keeps a text from being one statement; NULL where nothing does.
query_trouble <- function(text, escapes) {
  bare <- bare_query(text, escapes)
  if (is.na(bare)) return("A quote or a remark in it is not closed.")
  bare <- sub("[;[:space:]]+$", "", bare)
  if (grepl(";", bare, fixed = TRUE)) return("It holds more than one statement.")
  signs <- strsplit(gsub("[^()]", "", bare), "")[[1]]
  depth <- cumsum(c(0, ifelse(signs == "(", 1, -1)))
  if (any(depth < 0) || depth[length(depth)] != 0) return("Its brackets do not match.")
  word <- toupper(sub("^[(\\s]*([A-Za-z]*).*$", "\\1", bare, perl = TRUE))
  if (!word %in% c("SELECT", "WITH", "VALUES", "TABLE", "FROM"))
    return(paste0("It begins with ", shown(word), "."))
}

# The query without what stands in quotes and remarks; missing where one of them is not closed.
bare_query <- function(text, escapes) {
  inner <- function(quote) {
    paste0(quote, "(?:[^", quote, if (escapes) "\\\\", "]|", quote, quote,
           if (escapes) "|\\\\.", ")*+", quote)
  }
  parts <- c(inner("'"), inner("\""), inner("`"), "(\\$(?:[A-Za-z_]\\w*)?\\$).*?\\1",
             "--[^\n]*+", "/\\*.*?\\*/")
  bare <- gsub(paste0("(?s)", paste(parts, collapse = "|")), " ", text, perl = TRUE)
  if (grepl("['\"`]|/\\*|\\$\\w*\\$", bare, perl = TRUE)) NA_character_ else bare
}
