# How many bytes of memory are free, as far as the system tells (Linux does); NA where it does not.
# Option longladder.memory sets another figure.

memory_free <- function() {
  set <- getOption("longladder.memory")
  if (!is.null(set)) return(as.numeric(set))
  number <- function(file, pattern = "") {
    text <- tryCatch(suppressWarnings(readLines(file, warn = FALSE)), error = function(e) NULL)
    text <- grep(pattern, text, value = TRUE)
    suppressWarnings(as.numeric(gsub("[^0-9]", "", c(text, NA)[1])))
  }
  # Of what a group of processes uses, pages of files that nobody has looked at lately are given
  # back.
  group <- "/sys/fs/cgroup/memory."
  used <- number(paste0(group, "current")) -
    sum(number(paste0(group, "stat"), "^inactive_file "), na.rm = TRUE)
  free <- c(1024 * number("/proc/meminfo", "^MemAvailable:"),
            number(paste0(group, "max"), "^[0-9]+$") - used)
  if (all(is.na(free))) NA_real_ else min(free, na.rm = TRUE)
}
