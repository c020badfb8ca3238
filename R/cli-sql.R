# The command `sql`: the statements that a question asks of a database.

# Later statements depend on what earlier ones gave, so the question is asked and its statements are
# told, the result left out.
run_sql <- function(words) {
  if (!length(words) || words[1] %in% c("--help", "-h")) {
    writeLines(sql_help())
    return(0L)
  }
  declaration <- declaration_of(words[1])
  read <- read_words(declaration, words[-1], most = Inf)
  if (isTRUE(read$options$help)) {
    writeLines(sql_help())
    return(0L)
  }
  begin_log(read$options)
  statements <- statements_of(function() ask_study(declaration, read))
  if (!length(statements))
    ll_abort(c("The lines of this question are no database's: nothing is asked in SQL.",
               i = "Give --connect and --table, or a brief whose lines have 'connect'."),
             "argument")
  text <- vapply(seq_along(statements), function(i) {
    s <- statements[[i]]
    paste0("-- ", i, ". ", s$why, ": ", plural(s$rows, "row"), "\n", s$sql, ";\n")
  }, "")
  writeLines(enc2utf8(sub("\n$", "", text)), sep = "\n\n", useBytes = TRUE)
  0L
}

sql_help <- function() {
  c("usage: longladder sql STUDY [options of the study]", "", paste0(command_sql$title, "."), "",
    "The question is asked, since later statements depend on earlier answers; its result is left",
    "out. The statements of opening the book come first. Nothing is written there.", "", "example",
    paste("  longladder sql", command_sql$examples))
}
