# Words taught to a brief: other names of fields and metrics, put into the file as text, which is
# otherwise left as it is.

#' Teach a brief words
#'
#' Adds other names of fields and metrics to a brief's file (`also:`), so that questions in plain
#' words know them from then on. Comments and the order of the file stay.
#'
#' @param brief (text) the path of the brief.
#' @param words (named character) what each new word means: `c(clients = "account", turnover =
#'   "revenue")`.
#' @return The path of the brief, invisibly.
#' @section Errors: `ll_error_word` for a field or metric that the brief's book does not know;
#' `ll_error_brief` where the entry stands in a form that cannot be added to; `ll_error_file` and
#' `ll_error_target` for the file itself.
#' @examples
#' folder <- tempfile()
#' dir.create(folder)
#' file.copy(list.files(system.file("extdata", package = "longladder"), full.names = TRUE), folder)
#' brief <- file.path(folder, "longladder.yml")
#' ll_teach(brief, c(patches = "territory"))
#' grep("patches", readLines(brief), value = TRUE)
#' @export
ll_teach <- function(brief, words) {
  brief <- check_words(brief, "brief", one = TRUE)
  targets <- check_words(words, "words")
  if (is.null(names(words)) || any(!nzchar(trimmed(names(words)))))
    ll_abort(c("Words must be named: c(clients = \"account\").",
               x = paste0("They are ", shown(words), ".")), "argument")
  lines <- readLines(brief, warn = FALSE)
  keys <- read_brief(brief)$keys
  for (i in seq_along(targets)) {
    block <- if (targets[i] %in% names(keys$metrics)) "metrics" else "fields"
    lines <- taught_lines(lines, block, targets[i], trimmed(names(words)[i]))
  }
  # As it would be read, before anything is written.
  aside <- tempfile(fileext = ".yml", tmpdir = dirname(brief))
  on.exit(unlink(aside))
  writeLines(enc2utf8(lines), aside, useBytes = TRUE)
  book <- ll_brief(aside)$book
  unknown <- setdiff(targets, c(book$fields$name, unguarded(names(book$metrics))))
  if (length(unknown)) ll_abort(paste0("The book knows no ", quoted(unknown[1]), "."), "word")
  write_whole(brief, function(path) put_lines(lines, path))
  invisible(brief)
}

taught_lines <- function(lines, block, name, word) {
  said <- yaml_scalar(word)
  start <- grep(paste0("^", block, ":"), lines)
  if (!length(start)) return(c(lines, "", paste0(block, ":"),
                               paste0("  ", name, ": {also: [", said, "]}")))
  after <- grep("^[^ #]", lines)
  end <- c(after[after > start[1]] - 1L, length(lines))[1]
  own <- seq(start[1], end)
  at <- own[grepl(paste0("^  ['\"]?", name, "['\"]?:"), lines[own])]
  if (!length(at))
    return(append(lines, paste0("  ", name, ": {also: [", said, "]}"), start[1]))
  lines[at] <- taught_entry(lines[at], block, name, said)
  lines
}

# "account: dimension" as "account: {role: dimension, also: [clients]}"; lists get one word more.
taught_entry <- function(line, block, name, said) {
  parts <- regmatches(line, regexec("^(  [^:]+:) *(.*?) *(#.*)?$", line, perl = TRUE))[[1]]
  value <- parts[3]
  if (grepl("also: *\\[", value)) {
    value <- sub("(also: *\\[)", paste0("\\1", said, ", "), value)
  } else if (grepl("^[{].*[}]$", value)) {
    value <- sub("[}]$", paste0(", also: [", said, "]}"), value)
  } else if (nzchar(value) && !grepl("^[|>&*]", value)) {
    value <- paste0("{", if (block == "metrics") "is: " else "role: ", value, ", also: [", said,
                    "]}")
  } else {
    ll_abort(c(paste0("The entry of ", quoted(name), " is of several lines."),
               i = paste0("Add by hand: also: [", said, "].")), "brief")
  }
  paste0(parts[2], " ", value, if (nzchar(parts[4])) paste0("   ", parts[4]))
}
