# A first brief, as a command.

# A first brief for new files, to standard output or to --out.
run_draft <- function(words) {
  read <- read_words(command_draft, words, most = Inf, list(
    out = common_options()$out, replace = arg("flag", "write over a file that is there"),
    help = common_options()$help))
  if (isTRUE(read$options$help)) {
    writeLines(draft_help())
    return(0L)
  }
  if (!length(read$lines))
    ll_abort(c("'draft' needs at least one file.",
               i = paste("For example: longladder draft", command_draft$examples)), "argument")
  out <- read$options$out
  if (length(out) > 1) ll_abort("'draft' writes one brief; give '--out' once.", "argument")
  if (!is.null(out)) {
    check_target(out, read$lines)
    if (file.exists(out) && !isTRUE(read$options$replace))
      target_error(out, "it is there already", i = "Write over it with --replace.")
  }
  text <- ll_draft(read$lines, if (is.null(out)) "." else dirname(out))
  if (is.null(out)) {
    writeLines(enc2utf8(text), useBytes = TRUE)
  } else {
    write_whole(out, function(path) put_lines(text, path), read$lines)
    tell(paste("wrote", out))
  }
  0L
}

draft_help <- function() {
  c("usage: longladder draft FILE... [--out FILE] [--replace]", "",
    paste0(command_draft$title, "."), "",
    "The file with most measured lines is taken for the order lines, the others for registers.",
    "Without --out the brief goes to standard output; a file that is there is written over only",
    "with --replace.", "", "example",
    paste0("  longladder draft ", command_draft$examples))
}
