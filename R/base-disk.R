# Text to files and to standard output, each write looked at: R itself tells nothing of a full disk.

# Lines as UTF-8; gives back what went wrong, empty where nothing did.
write_lines <- function(lines, path, append = FALSE) {
  lines <- enc2utf8(lines)
  kernel_write(path, charToRaw(paste0(lines, "\n", collapse = "")), append)
}

# Lines to a file that is still being made; what goes wrong is told by who makes it.
put_lines <- function(lines, path) {
  wrong <- write_lines(lines, path)
  if (nzchar(wrong)) disk_error(wrong)
}

# A copy is shorter where the disk is full, and nothing is said of it.
put_copy <- function(from, to) {
  if (!file.copy(from, to) || file.size(to) != file.size(from))
    disk_error(paste("only a part of the file could be copied to", quoted(dirname(to))))
}

disk_error <- function(why) {
  stop(structure(class = c("disk_error", "error", "condition"), list(message = why, call = NULL)))
}

# Stops where standard output did not take everything; a reader who has seen enough is no error.
check_stdout <- function() {
  flush(stdout())
  wrong <- kernel_stdout()
  if (wrong %in% c("", "closed")) return(invisible())
  ll_abort(c("The answer could not be written to standard output as a whole.",
             x = paste0(capital(wrong), ".")), "target")
}

# A file written aside and put in its place as a whole; its size.
put_beside <- function(path, write) {
  aside <- tempfile(paste0(basename(path), "-"), dirname(path))
  on.exit(unlink(aside))
  write(aside)
  if (!file.rename(aside, path)) stop("the file could not be put in its place")
  file.size(path)
}
