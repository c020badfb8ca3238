# An error about a file: its name, then what is wrong.

file_error <- function(path, problem, ...) {
  ll_abort(c(paste0("The file ", quoted(path), " ", problem, "."), ...), "file")
}
