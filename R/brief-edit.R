# Changes of a brief's file as text: an entry more, a condition more; the rest stays as it is, with
# its comments and its order. What would come of it is read before anything is written.

# The brief's file with changed lines, once they read as a brief whose book opens and that `check`
# takes.
write_changed_brief <- function(brief, lines, check = function(book) NULL) {
  aside <- tempfile(fileext = ".yml", tmpdir = dirname(brief))
  on.exit(unlink(aside))
  put_lines(lines, aside)
  book <- ll_brief(aside)$book
  check(book)
  write_whole(brief, function(path) put_lines(lines, path))
  invisible(book)
}

# The lines with "key: value" at the entry of a name in a block (fields, metrics); `plain` is the
# key that a short entry stands for, as in "account: dimension".
with_entry <- function(lines, block, name, text, plain) {
  start <- grep(paste0("^", block, ":"), lines)
  own <- paste0("  ", yaml_scalar(name), ": {", text, "}")
  if (!length(start)) return(c(lines, "", paste0(block, ":"), own))
  if (!grepl(paste0("^", block, ": *(#.*)?$"), lines[start[1]]))
    ll_abort(c(paste0("The brief's ", block, " stand on one line; write them one under the other."),
               i = paste0("Add by hand: ", trimmed(own), ".")), "brief")
  after <- grep("^[^ #]", lines)
  end <- c(after[after > start[1]] - 1L, length(lines))[1]
  within <- seq(start[1], end)
  at <- within[grepl(paste0("^  ['\"]?", name, "['\"]?:"), lines[within])]
  if (!length(at)) return(append(lines, own, start[1]))
  lines[at] <- entry_with(lines[at], name, text, plain)
  lines
}

# "account: dimension" as "account: {role: dimension, same: similar}"; a list gets one more.
entry_with <- function(line, name, text, plain) {
  parts <- regmatches(line, regexec("^(  [^:]+:) *(.*?) *(#.*)?$", line, perl = TRUE))[[1]]
  value <- parts[3]
  key <- sub(":.*", "", text)
  list <- regmatches(text, regexec("^[^:]+: *\\[(.*)\\]$", text))[[1]]
  value <- if (length(list) && grepl(paste0(key, ": *\\["), value)) {
    at <- regexpr(paste0(key, ": *\\["), value)
    end <- at + attr(at, "match.length")
    paste0(substr(value, 1, end - 1), list[2], ", ", substring(value, end))
  } else if (grepl(paste0("[{, ]", key, ":"), value)) {
    ll_abort(paste0("The entry of ", quoted(name), " has a key ", quoted(key), " already."),
             "brief")
  } else if (grepl("^[{].*[}]$", value)) {
    sub("[}]$", paste0(", ", gsub("\\", "\\\\", text, fixed = TRUE), "}"), value)
  } else if (nzchar(value) && !grepl("^[|>&*]", value)) {
    paste0("{", plain, ": ", value, ", ", text, "}")
  } else {
    ll_abort(c(paste0("The entry of ", quoted(name), " is of several lines."),
               i = paste0("Add by hand: ", text, ".")), "brief")
  }
  paste0(parts[2], " ", value, if (nzchar(parts[4])) paste0("   ", parts[4]))
}

# Lines that meet a condition are excluded too.
with_exclusion <- function(lines, condition) {
  at <- grep("^exclude:", lines)
  if (!length(at)) return(c(lines, "", paste0("exclude: ", yaml_scalar(condition))))
  before <- tryCatch(yaml::yaml.load(lines[at[1]], eval.expr = FALSE)$exclude,
                     error = function(e) NULL)
  if (!is.character(before) || length(before) != 1)
    ll_abort(c("The brief's 'exclude' is of several lines.",
               i = paste0("Add by hand: | (", condition, ").")), "brief")
  lines[at[1]] <- paste0("exclude: ", yaml_scalar(paste0("(", before, ") | (", condition, ")")))
  lines
}

# What `check` proposes, put into the brief: "fields: {rep: {same: similar}}", "exclude: net < 0".
accept_fix <- function(brief, fix) {
  lines <- readLines(brief, warn = FALSE)
  field <- regmatches(fix, regexec("^fields: [{](.+?): [{](.+)[}][}]$", fix, perl = TRUE))[[1]]
  lines <- if (length(field)) with_entry(lines, "fields", field[2], field[3], "role") else
    if (is_fix(fix)) with_exclusion(lines, sub("^exclude: ", "", fix)) else
      ll_abort(paste0("This is not fixed in a brief: ", fix, "."), "argument")
  write_changed_brief(brief, lines)
}

# Whether a fix that `check` proposes can be put into a brief.
is_fix <- function(fix) grepl("^(fields: [{]|exclude: )", fix)

# A metric or a computed field by its formula.
define_in_brief <- function(brief, block, name, formula, unit = NULL) {
  lines <- readLines(brief, warn = FALSE)
  text <- paste0("is: ", yaml_scalar(formula), if (!is.null(unit)) paste0(", unit: ", unit))
  write_changed_brief(brief, with_entry(lines, block, name, text, "is"))
}
