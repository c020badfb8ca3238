# Help, made from the declarations.

show_help <- function() {
  known <- declarations()
  names <- names(known)
  commands <- c(draft = command_draft$title, run = command_run$title,
                render = command_render$title, schema = command_schema$title, sql = command_sql$title,
                cache = command_cache$title, ask = command_ask$title, desk = command_desk$title)
  writeLines(c(
    "longladder: rank, score and explain commercial performance from order lines", "",
    "usage: longladder STUDY [LINES] [options]",
    "       longladder FILE           what a new file is, and what to ask it", "", "studies",
    paste0("  ", pad(names, max(nchar(names))), "  ", vapply(known, `[[`, "", "title")), "",
    "commands", paste0("  ", pad(names(commands), max(nchar(names))), "  ", commands), "",
    "longladder STUDY --help    options and examples of a study",
    "longladder --version       the version", "",
    "LINES are files of order lines (CSV, Parquet, XLSX); without them, longladder.yml here tells.",
    "Exit status: 0 done, 2 something you can fix, 1 anything else."))
  0L
}

# A study's help on a screen: its own options with an example each; those of every study by name
# alone, and in full with `all`.
study_help <- function(declaration, all = FALSE) {
  run <- paste0("  longladder ", declaration$name, " ")
  c(declaration$answers, "",
    paste0("usage: longladder ", declaration$name, " [LINES] [options]"), "",
    option_help(declaration$args, vapply(names(declaration$args), example_of, "", declaration)), "",
    if (all) all_groups_help() else groups_help(declaration$name), "", "in plain words",
    paste0("  longladder ask --brief inst/extdata/longladder.yml ",
           vapply(declaration$asked, shell_quoted, "")), "",
    "examples (run on the demo lines)",
    paste0(run, "--brief inst/extdata/longladder.yml ",
           declaration$examples[seq_len(if (all) length(declaration$examples) else 2)]),
    if (!is.null(declaration$bare))
      paste0(run, "inst/extdata/order_lines.csv --define 'revenue=sum(net)' ", declaration$bare))
}

# The options of every study, by what they are for.
option_groups <- function() {
  list(
    "which lines" = c("brief", "set", "only"),
    "what fields and metrics are" = c("field", "compute", "label", "plural", "fill", "define",
                                      "register", "parameter", "saved_set", "date", "order",
                                      "people"),
    "how lines count" = c("as_of", "fiscal_start", "covered_to", "exclude", "grain", "match", "sign",
                          "currency", "exchange_rates"),
    "files" = c("cache", "unpivot", "unpivot_into", "fix", "source_field", "sheet", "range",
                "header_row", "encoding", "through"),
    "databases" = c("connect", "table", "query", "trust_connection"),
    "output" = c("format", "out", "foot", "width", "notes", "hints", "verbose", "quiet", "log",
                 "help"))
}

groups_help <- function(name) {
  groups <- option_groups()
  width <- max(nchar(names(groups)))
  lines <- Map(function(group, options) {
    hanging(paste0("--", dashed(options), collapse = " "), group, width + 2, 100)
  }, names(groups), groups)
  c(paste0("options of every study (told by longladder ", name, " --help all)"),
    unlist(lines, use.names = FALSE))
}

# A label, and the text beside it over as many lines as it takes; `by` how far it stands off.
hanging <- function(text, label, by, width) {
  lines <- strwrap(one_line(text), max(width - by, 30))
  paste0("  ", c(pad(label, by), rep(strrep(" ", by), length(lines) - 1)), lines)
}

all_groups_help <- function() {
  specs <- common_options()
  groups <- option_groups()
  unlist(Map(function(group, options, gap) {
    c(if (gap) "", group, option_help(specs[options]))
  }, names(groups), groups, seq_along(groups) > 1), use.names = FALSE)
}

# An option's value to copy: that of an example of the study, or else of its kind.
example_of <- function(name, declaration) {
  spec <- declaration$args[[name]]
  if (spec$type == "flag") return("")
  for (example in declaration$examples) {
    words <- scan(text = example, what = "", quote = "'\"", quiet = TRUE)
    at <- match(paste0("--", dashed(name)), words)
    if (!is.na(at)) return(shell_word(words[at + 1]))
  }
  other <- setdiff(spec$choices, spec$default)
  shell_word(if (length(other)) other[1] else if (is.numeric(spec$default))
    plain_number(spec$default) else if (name %in% names(usual_examples)) usual_examples[[name]] else
      plain_number(spec$from %||% 10))
}

usual_examples <- c(
  where = "net < 0", when = "2026-Q2", against = "year before", metrics = "revenue", by = "channel",
  bands = "50,80,100", fixed = "50000", dims = "family,type", sort_by = "net", low = "orders",
  tie_break = "orders", below = "none", old = "HV-001", column = "revenue", resamples = "1000",
  min_orders = "5", in_top = "3", sample = "100000", cap = "1000", max_gaps = "50")

shell_word <- function(x) {
  if (grepl("^[A-Za-z0-9_.,:/%+-]+$", x)) x else paste0("'", x, "'")
}
