# Words of the command line to options, by optparse. What optparse does not do is done before it:
# unknown names get an offer, repeatable options keep every value, a value may begin with a minus.

common_options <- list(
  brief = arg("text", "the brief (default, when no LINES are given: longladder.yml here)"),
  define = arg("text", "a metric, as NAME=FORMULA: 'revenue=sum(net)' (repeatable)"),
  parameter = arg("text", "a parameter, as NAME=NUMBER (repeatable)"),
  set = arg("text", paste("a value of the brief, as KEY=VALUE: big_order=2000, PAGE.top=5",
                          "(repeatable)")),
  only = arg("text", "only these names, as FIELD=NAME,NAME (repeatable)"),
  field = arg("text", paste("a field's role, as NAME=identifier|date|dimension|measure, or how it",
                            "is written, as NAME='decimal comma' (repeatable)")),
  compute = arg("text", paste("a field made from others, as NAME=FORMULA:",
                              "'days=ship_date - order_date' (repeatable)")),
  set_aside = arg("text", "leave out lines that meet this condition, and count them"),
  fiscal_start = arg("text", "the month in which the fiscal year starts"),
  grain = arg("text", "lines, or summed when the figures were added up before"),
  unfold = arg("text", "columns to turn into lines, as NAME,NAME or a pattern: '2026-*'"),
  unfold_into = arg("text", paste("what the unfolded columns and their cells are called",
                                  "(default: period,amount)")),
  repair = arg("text", "switch a repair of the file off, as NAME=no (repeatable)"),
  saved_set = arg("text", paste("a set for conditions, as NAME=EACH: DEFINITION:",
                                "'gone=account: active(2025) - active(2026)' (repeatable)")),
  register = arg("text", "a dimension's register, as NAME=FILE (repeatable)"),
  source_field = arg("text", "a field that tells which of several files each line came from"),
  sheet = arg("text", "the sheet of a spreadsheet, by name or number"),
  range = arg("text", "the cells of the table in the sheet, such as A3:F500"),
  header_row = arg("whole", "the row of the sheet that names the columns"),
  through = arg("text", "duckdb: files larger than memory, read in pieces by that engine"),
  connect = arg("text", paste("lines in a database: 'driver=postgres,host=db,dbname=sales',",
                              "'driver=sqlite,file=shop.db'; drivers: sqlite, postgres, duckdb,",
                              "clickhouse")),
  table = arg("text", "the table of the lines in that database"),
  query = arg("text", "a query in place of the table"),
  date = arg("text", "the date field that periods go by"),
  order = arg("text", "the identifier that counts orders"),
  people = arg("text", "the dimension of the people who sell"),
  as_of = arg("text", "the day that 'last quarter' counts back from"),
  format = arg("choice", paste("what standard output gets: table, csv, json, or line, the finding",
                               "alone (default: table)")),
  out = arg("text", "also write a file: .csv .json .xlsx .parquet .png .svg .pdf (repeatable)"),
  foot = arg("flag", paste("CSV and Parquet with the rows below the table too: rest, (none) and",
                           "total")),
  width = arg("whole", "columns of the printed table (default: the terminal's)"),
  verbose = arg("flag", "tell more while it runs (-v)"),
  quiet = arg("flag", "tell nothing but errors"),
  log = arg("text", "append everything that is told to this file, with its time"),
  help = arg("flag", "show this help"))

replace_option <- arg("flag", paste("write over files that are there, if no earlier run wrote them",
                                   "or they were changed since; never over what was read"))

repeatable <- c("define", "parameter", "only", "field", "compute", "repair", "register",
                "saved_set", "sets", "set", "out")

dashed <- function(name) gsub("_", "-", name, fixed = TRUE)

# list(options, lines)
read_words <- function(declaration, words, common = common_options, most = 1) {
  specs <- c(declaration$args, common)
  words <- join_values(words, specs)
  counts <- table(factor(option_names(words), repeatable))
  words <- number_repeats(words)
  parser <- option_parser(specs, counts, declaration)
  read <- tryCatch(
    optparse::parse_args(parser, args = words, positional_arguments = TRUE,
                         convert_hyphens_to_underscores = TRUE, print_help_and_exit = FALSE),
    error = function(e) {
      ll_abort(paste0("The options cannot be read: ", one_line(conditionMessage(e))), "argument")
    })
  options <- gather_repeats(read$options, counts)
  if (length(read$args) > most)
    ll_abort(c(if (most) "Give one file of lines." else "This takes no files.",
               x = paste0("There are ", length(read$args), ": ", and_list(quoted(read$args)),
                          ".")), "argument")
  list(options = options, lines = read$args)
}

# Every option as one word, --name=value, with its name checked.
join_values <- function(words, specs) {
  out <- character()
  seen <- character()
  i <- 1
  while (i <= length(words)) {
    word <- words[i]
    if (word == "--") {
      # Files from here on; optparse would take some of their names for options.
      files <- words[-seq_len(i)]
      return(c(out, ifelse(startsWith(files, "-"), paste0("./", files), files)))
    }
    if (word == "-h") word <- "--help"
    if (word == "-v") word <- "--verbose"
    if (!startsWith(word, "--")) {
      if (startsWith(word, "-") && nchar(word) > 1) unknown_option(word, specs)
      out <- c(out, word)
      i <- i + 1
      next
    }
    name <- gsub("-", "_", sub("=.*", "", substring(word, 3)), fixed = TRUE)
    spec <- specs[[name]]
    if (is.null(spec)) unknown_option(sub("=.*", "", word), specs)
    if (name %in% seen && !name %in% repeatable)
      ll_abort(paste0("The option '--", dashed(name), "' is given twice."), "argument")
    seen <- c(seen, name)
    has_value <- grepl("=", word, fixed = TRUE)
    if (spec$type == "flag") {
      if (has_value) ll_abort(paste0("The option '--", dashed(name), "' takes no value."),
                              "argument")
    } else {
      if (!has_value && i < length(words) && !startsWith(words[i + 1], "--")) {
        word <- paste0(word, "=", words[i + 1])
        i <- i + 1
      }
      # optparse drops a sign = at the end.
      if (!grepl("=.*[^= \t\r\n]", word))
        ll_abort(paste0("The option '--", dashed(name), "' needs a value: ", spec$help, "."),
                 "argument")
    }
    value <- sub("^[^=]*", "", word)
    out <- c(out, paste0("--", dashed(name), value))
    i <- i + 1
  }
  out
}

unknown_option <- function(word, specs) {
  known <- paste0("--", dashed(names(specs)))
  near <- nearest(dashed(sub("^-+", "", gsub("_", "-", word))), sub("^--", "", known))
  ll_abort(c(paste0("There is no option ", quoted(word), "."),
             i = if (length(near)) paste0("Nearest: ",
                                          and_list(quoted(paste0("--", near)), last = "or"), ".")
             else paste0("Options: ", paste(known, collapse = " "), ".")), "word")
}

option_names <- function(words) {
  ifelse(startsWith(words, "--"), gsub("-", "_", sub("=.*", "", substring(words, 3))), "")
}

# optparse keeps the last of a repeated option: each gets a number, and so a name of its own.
number_repeats <- function(words) {
  names <- option_names(words)
  for (name in repeatable) {
    at <- which(names == name)
    words[at] <- paste0("--", dashed(name), ".", seq_along(at), sub("^[^=]*", "", words[at]))
  }
  words
}

option_parser <- function(specs, counts, declaration) {
  one <- function(name, spec) {
    if (spec$type == "flag")
      return(optparse::make_option(paste0("--", dashed(name)), action = "store_true",
                                   help = spec$help))
    optparse::make_option(paste0("--", dashed(name)), type = "character", help = spec$help,
                          metavar = "VALUE")
  }
  plain <- specs[setdiff(names(specs), repeatable)]
  numbered <- unlist(lapply(repeatable, function(name) {
    if (counts[[name]]) stats::setNames(rep(specs[name], counts[[name]]),
                                        paste0(name, ".", seq_len(counts[[name]])))
  }), recursive = FALSE)
  all <- c(plain, numbered)
  optparse::OptionParser(usage = paste("longladder", declaration$name, "[LINES] [options]"),
                         option_list = unname(Map(one, names(all), all)), add_help_option = FALSE)
}

gather_repeats <- function(options, counts) {
  names(options) <- gsub("-", "_", names(options), fixed = TRUE)
  for (name in repeatable) if (counts[[name]]) {
    numbered <- paste0(name, ".", seq_len(counts[[name]]))
    options[[name]] <- unlist(options[numbered], use.names = FALSE)
    options[numbered] <- NULL
  }
  options
}

# -v, --quiet and --log.
begin_log <- function(options) {
  if (isTRUE(options$quiet) && isTRUE(options$verbose))
    ll_abort("'--quiet' and '--verbose' exclude each other.", "argument")
  if (!is.null(options$log)) check_log_file(options$log)
  level <- if (isTRUE(options$quiet)) "quiet" else if (isTRUE(options$verbose)) "debug" else "info"
  start_log(level, options$log)
}

# A log goes on where it is, and nothing that is no log is written to.
check_log_file <- function(file) {
  check_target(file)
  if (utils::file_test("-f", file) && file.size(file) > 0 && !is_log(file))
    target_error(file, "it is there, and is no log of this command",
                 i = "'--log' takes a new file, or one that it wrote before.")
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
