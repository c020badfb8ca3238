# The command `run`: a brief from start to end. `render`, for its notebook. And `schema`, which prints the schema of briefs.

# Options of `run` beside those that change what the brief says of the book.
run_options <- function() {
  common <- common_options()
  c(command_run$args, common[setdiff(names(common), c("brief", "format", "width", "out"))],
    list(out = writes(arg("text", "the folder to write into")), replace = replace_option,
         trust_folder = arg("flag", paste(
           "take the folder's record for one of yours that this account did not sign: of another",
           "account, a container, an older version"))))
}

run_brief <- function(words) {
  own <- run_options()
  read <- read_words(command_run, words, own[setdiff(names(own), names(command_run$args))],
                     most = Inf)
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(run_help())
    return(0L)
  }
  begin_log(options)
  if (length(options$out) != 1)
    ll_abort(c("'run' writes into one folder: give '--out' once.",
               i = paste("For example: longladder run", command_run$examples[1])), "argument")
  given <- run_targets(read$lines)
  check_folder(options$out)
  started <- proc.time()[["elapsed"]]
  opened <- command_brief(given$brief, options)
  tell(paste("reading", given$brief), "debug")
  book <- narrow_by_options(open_brief_book(opened, options$lines), options)
  tell_fixes(book)
  brief <- opened_brief(opened, book, options$lines, options)
  tell(paste0("read ", plural(book$lines, "line")), "debug")
  made <- ll_run(brief, options$out, given$pages, options$for_each,
                 tell_progress(), isTRUE(options$replace),
                 isTRUE(options$trust_folder))
  tell(paste("all took", seconds_since(started)), "debug")
  tell_run(made, options)
  if (any(nzchar(c(made$problem, made$proof)))) 2L else 0L
}

# The brief is the word that ends as YAML does, or the one in this folder; other words are pages.
run_targets <- function(words) {
  is_brief <- grepl("\\.ya?ml$", words, ignore.case = TRUE, perl = TRUE)
  if (sum(is_brief) > 1) ll_abort("'run' takes one brief.", "argument")
  brief <- if (any(is_brief)) words[is_brief] else "longladder.yml"
  if (!any(is_brief) && !file.exists(brief))
    ll_abort(c("No brief: give its file, or run in the folder of longladder.yml.",
               i = paste("For example: longladder run", command_run$examples[1])), "argument")
  list(brief = brief, pages = if (any(!is_brief)) words[!is_brief])
}

# On a terminal and in a log each page is told as it comes.
tell_progress <- function() {
  function(text) tell(text, if (isatty(stderr())) "info" else "debug")
}

# What became of it: where the files are, the chief findings, and what went wrong.
tell_run <- function(made, options) {
  broken <- unproven(made)
  if (length(broken)) tell(paste0("longladder: ", broken), "error")
  wrong <- made[nzchar(made$problem), ]
  for (i in seq_len(nrow(wrong))) tell(paste0(
    "longladder: ", if (nzchar(wrong$group[i])) paste0(wrong$group[i], ", "),
    if (nzchar(wrong$page[i])) paste("page", wrong$page[i]) else wrong$file[i],
    " could not be made: ", wrong$problem[i]), "error")
  tell(c(attr(made, "left"), attr(made, "obeyed")))
  if (isTRUE(options$quiet)) return(invisible())
  out <- options$out
  found <- chief_found(made)
  where <- function(name) {
    paste(c(sub("/+$", "", out), if (length(unique(made$group)) > 1) "*", name), collapse = "/")
  }
  whole <- setdiff(c("report.html", "workbook.xlsx", "notebook.Rmd"), wrong$file)
  kinds <- sub("[.].*", "", whole)
  writeLines(enc2utf8(c(
    if (length(broken)) c("the proof does not hold",
                          paste0("  - ", sub("^The proof does not hold: ", "", broken)), ""),
    if (length(found)) c("found", paste0("  ", seq_along(found), ". ", found), ""),
    paste0(pad(kinds, 8), "  ", vapply(whole, where, "")),
    paste0("pages     ", where("*.csv"), ", ", where("*.png")),
    paste0("record    ", sub("/+$", "", out), "/record.json"))), useBytes = TRUE)
}

# What does not hold, once for all the pages of which it is told.
unproven <- function(made) {
  hit <- nzchar(made$proof)
  texts <- strsplit(made$proof[hit], "(?<=[.]) (?=The proof does not hold: )", perl = TRUE)
  pages <- split(rep(made$page[hit], lengths(texts)), factor(unlist(texts), unique(unlist(texts))))
  vapply(names(pages), function(text) {
    of <- unique(pages[[text]])
    paste0(text, " (", if (length(of) > 1) "pages " else "page ", and_list(of, 4), ")")
  }, "", USE.NAMES = FALSE)
}

chief_found <- function(made) {
  good <- made[nzchar(made$finding), ]
  if (!nrow(good) || length(unique(made$group)) > 1) return(character())
  pages <- Map(function(study, finding) {
    list(study = study, stage = stage_of(study), finding = finding)
  }, good$study, good$finding)
  vapply(chief_findings(pages), `[[`, "", "finding", USE.NAMES = FALSE)
}

run_help <- function() {
  c("usage: longladder run [BRIEF] [PAGE...] --out DIR [options]", "",
    paste0(command_run$title, "."), "",
    "BRIEF ends in .yml; without it, longladder.yml in this folder. Without pages all are run.", "",
    "options", option_help(run_options()), "", "examples",
    paste0("  longladder run ", command_run$examples))
}

run_render <- function(words) {
  read <- read_words(command_render, words, common_options()[c("verbose", "quiet", "log", "help")])
  options <- read$options
  if (isTRUE(options$help)) {
    writeLines(c("usage: longladder render NOTEBOOK.Rmd [--out FILE]", "",
                 paste0(command_render$title, "."), "", "options",
                 option_help(command_render$args)))
    return(0L)
  }
  begin_log(options)
  if (length(read$lines) != 1)
    ll_abort(c("'render' takes one notebook.", i = paste("For example: longladder render",
                                                        command_render$examples)), "argument")
  made <- ll_render(read$lines, options$out)
  tell(paste("wrote", made))
  0L
}

run_schema <- function(words) {
  read <- read_words(command_schema, words, common_options()[c("out", "help")], most = 0)
  if (isTRUE(read$options$help)) {
    writeLines(c("usage: longladder schema [--out FILE]", "", paste0(command_schema$title, ".")))
  } else if (is.null(read$options$out)) {
    writeLines(ll_schema())
  } else {
    ll_schema(read$options$out[1])
    tell(paste("wrote", read$options$out[1]))
  }
  0L
}
