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
    option_help(declaration$args), "", "options of every study", option_help(common_options()), "",
    "examples (run on the demo lines)",
    paste0("  longladder ", declaration$name, " --brief inst/extdata/longladder.yml ",
           declaration$examples),
    if (!is.null(declaration$bare))
      paste0("  longladder ", declaration$name,
             " inst/extdata/order_lines.csv --define 'revenue=sum(net)' ", declaration$bare))
}
