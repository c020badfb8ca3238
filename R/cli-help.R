# Help, made from the declarations.

show_help <- function() {
  known <- declarations()
  names <- names(known)
  commands <- c(draft = command_draft$title, run = command_run$title,
                schema = command_schema$title, sql = command_sql$title)
  writeLines(c(
    "longladder: rank, score and explain commercial performance from order lines", "",
    "usage: longladder STUDY [LINES] [options]", "", "studies",
    paste0("  ", pad(names, max(nchar(names))), "  ", vapply(known, `[[`, "", "title")), "",
    "commands", paste0("  ", pad(names(commands), max(nchar(names))), "  ", commands), "",
    "longladder STUDY --help    options and examples of a study",
    "longladder --version       the version", "",
    "LINES are files of order lines (CSV, Parquet, XLSX); without them, longladder.yml here tells.",
    "Exit status: 0 done, 2 something you can mend, 1 anything else."))
  0L
}

study_help <- function(declaration) {
  c(paste0("usage: longladder ", declaration$name, " [LINES] [options]"), "",
    paste0(declaration$title, "."), "", "options of this study",
    option_help(declaration$args), "", "options of every study", option_help(common_options), "",
    "examples (run on the demo lines)",
    paste0("  longladder ", declaration$name, " --brief inst/extdata/longladder.yml ",
           declaration$examples),
    if (!is.null(declaration$bare))
      paste0("  longladder ", declaration$name,
             " inst/extdata/order_lines.csv --define 'revenue=sum(net)' ", declaration$bare))
}

option_help <- function(specs) {
  labels <- paste0("  --", dashed(names(specs)),
                   ifelse(vapply(specs, `[[`, "", "type") == "flag", "",
                                                       " VALUE"))
  labels <- pad(labels, max(nchar(labels)))
  unlist(Map(function(label, spec) {
    extra <- c(if (!is.null(spec$choices)) paste0("(", paste(spec$choices, collapse = ", "), ")"),
               if (!is.null(spec$default) && !is.logical(spec$default))
                 paste0("(default: ", plain_number(spec$default), ")"))
    wrapped <- strwrap(paste(c(spec$help, extra), collapse = " "), 100 - nchar(label))
    c(paste0(label, "  ", wrapped[1]), if (length(wrapped) > 1)
      paste0(strrep(" ", nchar(label) + 2), wrapped[-1]))
  }, labels, specs), use.names = FALSE)
}

draft_help <- function() {
  c("usage: longladder draft FILE... [--out FILE] [--replace]", "",
    paste0(command_draft$title, "."), "",
    "The file with most measured lines is taken for the order lines, the others for registers.",
    "Without --out the brief goes to standard output; a file that is there is written over only",
    "with --replace.", "", "example",
    paste0("  longladder draft ", command_draft$examples))
}
