# The book that the words of a command tell of.

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
  book <- opened_book(lines, file, options)
  if (is.null(file)) tell_roles(book)
  tell_fixes(book)
  tell_cache(book, isTRUE(options$keeping))
  narrow_by_options(book, options)
}

opened_book <- function(lines, file, options) {
  with_progress(if (is.null(file)) lines else file, function() {
    if (is.null(file)) plain_book(lines, options) else brief_book(file, lines, options)
  })
}

# The lines that the words and options tell of: files, with what is said of them, or a database.
command_lines <- function(read) {
  options <- read$options
  spec <- Filter(Negate(is.null), options[c("source_field", "sheet", "range", "header_row",
                                            "encoding", "through", "table", "query")])
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
  do.call(ll_book, c(list(lines), book_arguments(options)))
}

# Options as arguments of ll_book(), only those given, as the book's declaration tells.
book_arguments <- function(options) {
  args <- lapply(book_declaration(), function(arg) {
    given <- intersect(names(arg$options), names(options))
    # An option with a default goes with another one, and need not be given.
    beside <- names(Filter(function(option) !is.null(option$default), arg$options))
    if (length(given) && !length(setdiff(given, beside)))
      ll_abort(paste0("'--", dashed(given), "' needs '--",
                      dashed(setdiff(names(arg$options), beside)), "'."), "argument")
    Reduce(join_entries, lapply(if (length(given)) union(given, beside), function(name) {
      option <- arg$options[[name]]
      option_as_argument(name, options[[name]] %||% option$default, option)
    }))
  })
  Filter(function(x) length(x) > 0, args)
}

# What two options say of one argument; of the same entry both hold.
join_entries <- function(one, other) {
  both <- intersect(names(one), names(other))
  one[both] <- Map(function(a, b) c(as_field_spec(a), as_field_spec(b)), one[both], other[both])
  c(one, other[setdiff(names(other), both)])
}

option_as_argument <- function(name, value, option) {
  pairs <- function(read = identity) lapply(pairs_of(value, dashed(name)), read)
  switch(option$as, value = value, pairs = pairs(),
         formulas = pairs(function(formula) list(is = formula)), sets = pairs(set_option),
         key = pairs(function(value) stats::setNames(list(value), option$key)),
         entry = stats::setNames(list(value), option$key),
         words = words_as_entries(name, split_list(value, name), option$key))
}

# One key takes all words, several one each.
words_as_entries <- function(name, words, keys) {
  if (length(keys) == 1) return(stats::setNames(list(words), keys))
  if (length(words) != length(keys))
    ll_abort(paste0("'--", dashed(name), "' takes two names: that of the columns, that of their ",
                    "cells."), "argument")
  stats::setNames(as.list(words), keys)
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

brief_book <- function(file, lines, options) {
  open_brief_book(command_brief(file, options), lines)
}

# A brief that was read, with the book that was opened by it and what the options change.
opened_brief <- function(brief, book, lines, options) {
  structure(list(book = book, pages = brief$pages, file = brief$file, lines = lines,
                 set = unlist(pairs_of(options[["set"]], "set")), keys = brief$keys,
                 text = brief$text, only = only_option(options)), class = "ll_brief")
}

# The brief with what the options change.
command_brief <- function(file, options) {
  brief <- read_brief(file, unlist(pairs_of(options[["set"]], "set")))
  given <- book_arguments(options)
  # A path typed counts from the folder we are in, not from the brief's.
  given$registers <- lapply(given$registers, normalizePath, mustWork = FALSE)
  for (key in names(given)) brief$keys[[key]] <- override(brief$keys[[key]], given[[key]])
  brief$typed <- given
  brief$trust <- isTRUE(options$trust_connection)
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

# A book without metrics is asked in words by those of a first brief, which are told: list(book,
# define), their formulas by name.
draft_for_words <- function(book) {
  made <- drafted_formulas(book)
  if (length(made$define))
    tell(paste0("no metric was given; as a first brief has them: ",
                paste0(names(made$define), " = ", made$define, collapse = ", "),
                " ('longladder draft' writes that brief, --define gives others)"))
  made
}

drafted_formulas <- function(book) {
  out <- with_drafted(book)
  made <- setdiff(names(out$metrics), names(book$metrics))
  define <- vapply(out$metrics[made], `[[`, "", "text")
  names(define) <- unguarded(made)
  list(book = out, define = define)
}

# Those of the drafted metrics that the words of a call need, as words of the command.
drafted_words <- function(define, call) {
  said <- function(text) {
    names(define)[vapply(names(define), function(name) grepl(paste0("\\b", name, "\\b"), text), NA)]
  }
  # Without a metric the first serves.
  need <- union(utils::head(names(define), 1), said(call))
  repeat {
    more <- union(need, unlist(lapply(define[need], said)))
    if (length(more) == length(need)) break
    need <- more
  }
  used <- paste0(names(define), "=", define)[names(define) %in% need]
  if (length(used)) paste("--define", vapply(used, shell_quoted, ""))
}

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
                " (--field NAME=ROLE to change)"), open_order(book, "--order FIELD", shell_quoted),
         shared_names(book)))
}

# What the file needed to be read, and what is left to the person: three sentences at most, those
# of most weight first.
tell_fixes <- function(book) {
  done <- fixes_made(book)
  told <- c(if (NROW(book$offers)) paste0("to decide: ", book$offers$text),
            if (NROW(done)) paste0("fixed: ", done$text[order(match(done$kind, weighty_fixes))]))
  if (length(told) > most_fixes)
    told <- c(told[seq_len(most_fixes - 1)], paste0(
      "fixed: ", plural(length(told) - most_fixes + 1, "more thing"), " on opening; 'longladder check' ",
      "lists them"))
  tell(told)
}

most_fixes <- 3
# Kinds of fixes, those that touch most money first.
weighty_fixes <- c("sign", "currency", "total_rows", "unpivot", "numbers", "fill", "columns", "dates")

slow_opening <- 5   # seconds, from which on keeping it is proposed

# What became of keeping the book; a kept one is used in silence. A command that is about `keeping`
# says itself what came of it.
tell_cache <- function(book, keeping) {
  cache <- book$cache
  tell(c(
    if (!is.null(cache$why)) paste0(
      "opened anew: what was kept does not serve, ", cache$why,
      if (isTRUE(cache$possible)) "; 'longladder cache' with the same words keeps it again"),
    if (!is.null(cache$failed) && !keeping) paste0("not kept: ", cache$failed),
    if (isTRUE(cache$possible) && is.null(cache$why) && cache$took > slow_opening)
      paste0("opening took ", round(cache$took), " s; 'longladder cache' with the same words, or ",
             "'cache: yes' in the brief, keeps it opened")))
}

# Reading a large file takes a while; on a terminal it is said.
with_progress <- function(given, work) {
  files <- if (is.list(given)) given$file else given
  if (isatty(stderr()) && isTRUE(sum(file.size(files), na.rm = TRUE) > 5e7))
    tell(paste("reading", and_list(files, 3), "..."))
  work()
}
