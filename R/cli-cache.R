# The command `cache`: books kept opened.

run_cache <- function(words) {
  read <- read_words(command_cache, words, most = Inf)
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(cache_help())
    return(0L)
  }
  begin_log(options)
  keeping <- length(read$lines) || !is.null(options$brief) || !is.null(options$connect)
  asked <- intersect(names(command_cache$args), names(options))
  if (keeping && length(asked))
    ll_abort(c(paste0("'--", asked[1], "' takes no file of lines to keep."),
               i = "Give one or the other."), "argument")
  if (!keeping && !length(asked))
    ll_abort(c("'cache' needs files of lines, a brief, or one of its options.",
               i = paste("For example: longladder cache", command_cache$examples[1])), "argument")
  if (keeping) return(keep_by_command(read))
  before <- nrow(ll_cache())
  there <- ll_cache(options$remove, isTRUE(options$verify), bytes_of(options$limit))
  if (!is.null(options$remove) || !is.null(options$limit))
    tell(paste0("removed ", plural(before - nrow(there), "kept book"), "; at most ",
                size_text(attr(there, "limit")), " are kept"))
  if (isTRUE(options$list)) writeLines(cache_lines(there))
  damaged <- attr(there, "damaged")
  if (isTRUE(options$verify))
    tell(if (length(damaged)) paste0("removed kept book ", substr(names(damaged), 1, 8), ": ",
                                     damaged) else
      paste0("whole and unchanged: ", plural(nrow(there), "kept book")))
  if (length(damaged)) 2L else 0L
}

keep_by_command <- function(read) {
  # A brief is told by its ending.
  if (length(read$lines) == 1 && grepl("[.]ya?ml$", read$lines, ignore.case = TRUE, perl = TRUE)) {
    read$options$brief <- read$lines
    read$lines <- character()
  }
  read$options$cache <- "yes"
  read$options$keeping <- TRUE
  if (length(read$lines) > 1) read$lines <- expand_files(read$lines)
  book <- command_book(read)
  done <- book$cache
  if (!is.null(done$failed)) ll_abort(done$failed, "target")
  if (!isTRUE(done$used) && is.null(done$size))
    ll_abort(c("These lines are in no files: they cannot be kept.",
               i = "Files can be (CSV, Parquet, XLSX), with registers that are files too."),
             "argument")
  tell(if (isTRUE(done$used)) paste0(
    plural(book$lines, "line"), " are kept already, since ", format(done$when, "%Y-%m-%d %H:%M"))
    else paste0("kept ", plural(book$lines, "line"), ", ", size_text(done$size), ", in ",
                cache_folder()))
  0L
}

# "50GB" as bytes.
bytes_of <- function(text) {
  if (is.null(text)) return(NULL)
  parts <- regmatches(text, regexec("^ *([0-9.]+) *([KMGT]?)B? *$", text, ignore.case = TRUE))[[1]]
  number <- if (length(parts)) suppressWarnings(as.numeric(parts[2])) else NA
  if (is.na(number))
    ll_abort(c("'--limit' must be a size, as 500MB or 50GB.",
               x = paste0("It is ", shown(text), ".")), "argument")
  number * 1000^match(toupper(parts[3]), c("", "K", "M", "G", "T")) / 1000
}

cache_lines <- function(there) {
  head <- paste0(plural(nrow(there), "kept book"), ", ", size_text(sum(there$size)), " of at most ",
                 size_text(attr(there, "limit")), ", in ", cache_folder())
  if (!nrow(there)) return(head)
  day <- function(time) format(time, "%Y-%m-%d %H:%M")
  block <- function(name, x, right = FALSE) pad(c(name, x), max(nchar(c(name, x), "width")), right)
  lines <- ifelse(is.na(there$lines), "", vapply(there$lines, count_text, ""))
  c(head, "", sub(" +$", "", paste(
    block("key", substr(there$key, 1, 8)), block("lines", lines, TRUE),
    block("size", vapply(there$size, size_text, ""), TRUE), block("kept", day(there$kept)),
    block("last used", day(there$used)), block("files", there$files), sep = "  ")))
}

cache_help <- function() {
  c(paste0(command_cache$title, "."), "",
    "usage: longladder cache FILE... [options of the lines]", "       longladder cache BRIEF.yml",
    "       longladder cache --list | --remove FILE | --verify | --limit SIZE", "",
    option_help(command_cache$args, rep("", length(command_cache$args))), "",
    strwrap(paste(
      "A kept book serves while its files have the same size, time and ends; otherwise they are",
      "opened anew, and that is said. 'cache: yes' in a brief keeps it by itself. The folder is",
      "yours alone; LONGLADDER_CACHE names another."), 100), "", "examples",
    paste("  longladder cache", command_cache$examples))
}
