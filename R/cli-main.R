#' Run the command
#'
#' `longladder <study> [LINES] [options]`, as on a command line. The script `longladder` calls it;
#' `Rscript -e 'longladder::ll_main()' <study> ...` works anywhere R does.
#'
#' @param args (text) the words of the command line.
#' @return The exit status, invisibly: 0 done, 2 something that the person can mend, a proof that
#'   does not hold included, 1 any other.
#'   The result goes to standard output, everything else to standard error.
#' @examples
#' ll_main(c("standings", "--help"))
#' @export
ll_main <- function(args = commandArgs(trailingOnly = TRUE)) {
  utf8_if_can()
  start_log()
  kernel_outlive_writes()
  if (!interactive()) {
    kernel_interrupts(TRUE)
    on.exit(kernel_interrupts(FALSE))
  }
  mark_temporary()
  tell_environment()
  status <- tryCatch(
    withCallingHandlers({
      done <- run_command(args)
      check_stdout()
      check_log()
      done
    }, warning = function(w) {
      tell(paste("note:", conditionMessage(w)))
      invokeRestart("muffleWarning")
    }),
    ll_error = function(e) {
      tell(paste0("longladder: ", conditionMessage(e)), "error")
      # A server that went away is nothing that was typed wrong.
      if (inherits(e, "ll_error_lost")) 1L else 2L
    },
    interrupt = function(e) {
      kernel_interrupts(FALSE)
      tell("longladder: stopped", "error")
      1L
    },
    error = function(e) {
      tell(c(paste0("longladder: something went wrong that should not: ", conditionMessage(e)),
             "Please report it with the command that you typed."), "error")
      1L
    })
  invisible(as.integer(status))
}

# Names in any script need a UTF-8 locale; R may have been started without one.
utf8_if_can <- function() {
  if (l10n_info()[["UTF-8"]]) return(invisible())
  for (locale in c("C.UTF-8", "en_US.UTF-8", "UTF-8"))
    if (nzchar(suppressWarnings(Sys.setlocale("LC_CTYPE", locale)))) return(invisible())
}

# R read the folder's .Renviron before the command began, unless it was told of another: the folder
# may be anybody's, and its settings reach far.
tell_environment <- function() {
  if (!file.exists(".Renviron") || nzchar(Sys.getenv("R_ENVIRON_USER")) ||
        normalizePath(".") == normalizePath("~")) return(invisible())
  tell(paste("note: R was started with the settings of '.Renviron' in this folder; set",
             "R_ENVIRON_USER to leave them out"))
}

run_command <- function(args) {
  args <- as_utf8(args)
  if (!length(args) || args[1] %in% c("--help", "-h", "help")) return(show_help())
  if (args[1] %in% c("--version", "-V")) {
    writeLines(paste("longladder", utils::packageVersion("longladder")))
    return(0L)
  }
  if (startsWith(args[1], "-"))
    ll_abort(c(paste0("A study comes first; ", quoted(args[1]), " is an option."),
               i = paste0("Studies: ", and_list(names(declarations()), 30), ".")), "word")
  if (args[1] == "draft") return(run_draft(args[-1]))
  if (args[1] == "run") return(run_brief(args[-1]))
  if (args[1] == "schema") return(run_schema(args[-1]))
  if (args[1] == "sql") return(run_sql(args[-1]))
  run_study(declaration_of(args[1]), args[-1])
}

# A first brief for new files, to standard output or to --out.
run_draft <- function(words) {
  read <- read_words(command_draft, words, most = Inf, list(
    out = common_options$out, replace = arg("flag", "write over a file that is there"),
    help = common_options$help))
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

run_study <- function(declaration, words) {
  read <- read_words(declaration, words, most = Inf)
  if (isTRUE(read$options$help)) {
    writeLines(study_help(declaration))
    return(0L)
  }
  begin_log(read$options)
  check_output(read$options)
  result <- ask_study(declaration, read)
  broken <- broken_proof(ll_proof(result))
  if (length(broken)) tell(paste0("longladder: ", broken), "error")
  write_result(result, read$options)
  if (length(broken)) 2L else 0L
}

# The study's result on the book that the words tell of.
ask_study <- function(declaration, read) {
  started <- proc.time()[["elapsed"]]
  book <- command_book(read)
  tell(paste0("opened ", plural(book$lines, "line"), " in ", seconds_since(started)), "debug")
  values <- study_values(declaration, read$options)
  study <- get(paste0("ll_", declaration$name), envir = parent.env(environment()))
  started <- proc.time()[["elapsed"]]
  result <- do.call(study, c(list(book), values))
  tell(paste0(declaration$name, " took ", seconds_since(started)), "debug")
  result
}

seconds_since <- function(started) paste(round(proc.time()[["elapsed"]] - started, 2), "s")

# Options of the study as its arguments: comma lists become several words.
study_values <- function(declaration, options) {
  given <- intersect(names(declaration$args), names(options))
  values <- lapply(stats::setNames(given, given), function(name) {
    type <- declaration$args[[name]]$type
    if (type %in% c("words", "metrics")) split_list(options[[name]], name) else options[[name]]
  })
  # What is wrong is told before anything is opened; the study reads what was typed, once.
  check_args(declaration, values)
  values
}

split_list <- function(text, name) {
  words <- trimmed(strsplit(text, ",", fixed = TRUE)[[1]])
  if (!length(words) || any(!nzchar(words)))
    ll_abort(paste0("'--", dashed(name), "' must be words with commas between; it is ",
                    shown(text), "."), "argument")
  words
}

check_output <- function(options) {
  check_choice(options$format %||% "table", "format",
               list(choices = c("table", "csv", "json", "line")))
  for (file in options$out) {
    check_ending(file)
    check_target(file)
  }
}

write_result <- function(result, options) {
  for (file in options$out) refuse_read(file, facts(result)$book$files)
  # Files first: when one fails, nothing looks done.
  for (file in options$out) {
    ll_save(result, file, foot = isTRUE(options$foot))
    tell(paste("wrote", file))
  }
  lines <- switch(options$format %||% "table", json = as_json(result), line = ll_finding(result),
                  csv = csv_lines(rows_of(result, isTRUE(options$foot))), NULL)
  if (is.null(lines)) return(print(result, width = output_width(options)))
  writeLines(enc2utf8(lines), useBytes = TRUE)
}

output_width <- function(options) {
  if (!is.null(options$width)) return(check_whole(options$width, "width", list(from = 40)))
  if (isatty(stdout())) max(cli::console_width(), 40) else 120
}

# The book: from the brief named or the one in this folder, or from the lines alone; then what the
# options add.
command_book <- function(read) {
  options <- read$options
  file <- options$brief
  lines <- command_lines(read)
  if (is.null(file) && is.null(lines) && file.exists("longladder.yml")) file <- "longladder.yml"
  if (is.null(file) && is.null(lines))
    ll_abort(c("No lines: give a file, or a brief with --brief FILE.",
               i = paste0("For example: longladder standings order_lines.csv --each rep ",
                          "--define 'revenue=sum(net)'")),
             "argument")
  if (is.null(file) && !is.null(options[["set"]]))
    ll_abort(c("'--set' changes a value of a brief, and there is none.",
               i = "Give --brief FILE, or --parameter NAME=NUMBER."), "argument")
  book <- with_progress(if (is.null(file)) lines else file, function() {
    if (is.null(file)) plain_book(lines, options) else brief_book(file, lines, options)
  })
  if (is.null(file)) tell_roles(book)
  tell_repairs(book)
  narrow_by_options(book, options)
}

# The lines that the words and options tell of: files, with what is said of them, or a database.
command_lines <- function(read) {
  options <- read$options
  spec <- Filter(Negate(is.null), options[c("source_field", "sheet", "range", "header_row",
                                            "through", "table", "query")])
  files <- read$lines
  if (!is.null(options$connect)) {
    if (length(files))
      ll_abort("Lines are in files or in a database: give LINES or '--connect', not both.",
               "argument")
    pairs <- pairs_of(split_list(options$connect, "connect"), "connect")
    return(c(list(connect = check_connection(pairs)), spec))
  }
  if (!length(files)) {
    if (length(spec))
      ll_abort(c(paste0("'--", dashed(names(spec)[1]), "' needs ",
                        if (names(spec)[1] %in% c("table", "query")) "'--connect'." else
                          "files of lines."),
                 i = "See --help for both."), "argument")
    return(NULL)
  }
  if (length(files) == 1 && !length(spec)) files else c(list(file = files), spec)
}

plain_book <- function(lines, options) {
  do.call(ll_book, c(list(lines), book_options(options)))
}

# Options as arguments of ll_book(), only those given.
book_options <- function(options) {
  fields <- c(pairs_of(options$field, "field"),
              lapply(pairs_of(options$compute, "compute"), function(x) list(is = x)))
  out <- list(fields = fields, registers = pairs_of(options$register, "register"),
              metrics = pairs_of(options$define, "define"),
              parameters = pairs_of(options$parameter, "parameter"), date = options$date,
              order = options$order, people = options$people, as_of = options$as_of,
              set_aside = options$set_aside, grain = options$grain,
              calendar = if (!is.null(options$fiscal_start))
                list(fiscal_start = options$fiscal_start),
              sets = lapply(pairs_of(options$saved_set, "saved-set"), set_option),
              unfold = unfold_option(options), repairs = pairs_of(options$repair, "repair"))
  Filter(function(x) length(x) > 0, out)
}

# "account: active(2025)" as list(each, is).
set_option <- function(text) {
  at <- regexpr(":", text, fixed = TRUE)
  if (at < 2)
    ll_abort(c("'--saved-set' must be NAME=EACH: DEFINITION.",
               x = paste0("It is ", shown(text), "."),
               i = "For example 'gone=account: active(2025) - active(2026)'."), "argument")
  list(each = trimmed(substr(text, 1, at - 1)), is = trimmed(substring(text, at + 1)))
}

unfold_option <- function(options) {
  if (is.null(options$unfold)) {
    if (!is.null(options$unfold_into)) ll_abort("'--unfold-into' needs '--unfold'.", "argument")
    return(NULL)
  }
  into <- split_list(options$unfold_into %||% "period,amount", "unfold_into")
  if (length(into) != 2)
    ll_abort("'--unfold-into' takes two names: that of the columns, that of their cells.",
             "argument")
  list(columns = split_list(options$unfold, "unfold"), names = into[1], values = into[2])
}

brief_book <- function(file, lines, options) {
  open_brief_book(command_brief(file, options), lines)
}

# The brief with what the options change.
command_brief <- function(file, options) {
  brief <- read_brief(file, unlist(pairs_of(options[["set"]], "set")))
  given <- book_options(options)
  # A path typed counts from the folder we are in, not from the brief's.
  given$registers <- lapply(given$registers, normalizePath, mustWork = FALSE)
  for (key in names(given)) brief$keys[[key]] <- override(brief$keys[[key]], given[[key]])
  brief$typed <- given
  brief
}

# An option wins over the brief's key of that name; lists are joined.
override <- function(old, new) {
  if (is.list(old) && is.list(new)) utils::modifyList(old, new) else new
}

# name=value options as a named list.
pairs_of <- function(values, option) {
  if (is.null(values)) return(NULL)
  at <- regexpr("=", values, fixed = TRUE)
  bad <- at < 2
  if (any(bad))
    ll_abort(c(paste0("'--", option, "' must be NAME=VALUE."),
               x = paste0("It is ", shown(values[bad][1]), ".")),
             "argument")
  names <- trimmed(substr(values, 1, at - 1))
  if (anyDuplicated(names))
    ll_abort(paste0("'--", option, "' gives ", quoted(names[duplicated(names)][1]), " twice."),
             "argument")
  stats::setNames(as.list(trimmed(substring(values, at + 1))), names)
}

narrow_by_options <- function(book, options) {
  only <- only_option(options)
  if (is.null(only)) return(book)
  do.call(ll_where, c(list(book), only))
}

only_option <- function(options) {
  only <- pairs_of(options$only, "only")
  if (!is.null(only)) lapply(only, split_list, "only")
}

most_told <- 40

# Without a brief the person should see how the columns were understood.
tell_roles <- function(book) {
  own <- book$fields[book$fields$from == "lines", ]
  one <- function(role) {
    names <- own$name[own$role == role]
    more <- length(names) - most_told
    if (more > 0) names <- c(utils::head(names, most_told), paste("and", count_text(more), "more"))
    if (length(names)) paste0(role, ": ", paste(names, collapse = ", "))
  }
  tell(c(paste0("read as ", paste(unlist(lapply(roles, one)), collapse = "; "),
                " (--field NAME=ROLE to change)"), open_order(book, "--order FIELD")))
}

# What the file needed to be read.
tell_repairs <- function(book) {
  done <- repairs_made(book)
  if (NROW(done)) tell(paste0("mended: ", done$text))
}

# Reading a large file takes a while; on a terminal it is said.
with_progress <- function(given, work) {
  files <- if (is.list(given)) given$file else given
  if (isatty(stderr()) && isTRUE(sum(file.size(files), na.rm = TRUE) > 5e7))
    tell(paste("reading", and_list(files, 3), "..."))
  work()
}
