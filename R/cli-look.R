# A first look at a file, for who types nothing but its name: what it is, what was fixed, the first
# figures, what looks wrong, and what to type next.

command_look <- declare(
  "FILE", "Look at new lines: what they are, what was fixed, first figures, what looks wrong",
  args = list(), examples = "order_lines.csv")

# Whether the first word is a file's name and no command's.
names_a_file <- function(word) {
  grepl("[.](csv|tsv|txt|xlsx?|xlsm|parquet|ya?ml|gz|zip)$", word, ignore.case = TRUE, perl = TRUE) ||
    file.exists(word) && !dir.exists(word) || grepl("[*?]", word)
}

run_look <- function(words) {
  read <- read_words(command_look, words, most = Inf)
  if (isTRUE(read$options$help)) {
    writeLines(look_help())
    return(0L)
  }
  begin_log(read$options)
  refuse_files(read)
  # A brief tells of its lines.
  if (length(read$lines) == 1 && grepl("[.]ya?ml$", read$lines, ignore.case = TRUE, perl = TRUE)) {
    read$options$brief <- read$lines
    read$lines <- character()
  }
  # What opening it tells stands in the answer.
  book <- narrow_by_options(opened_book(command_lines(read), read$options$brief, read$options),
                            read$options)
  drafted <- drafted_formulas(book)
  figures <- each_currency(drafted$book, look_figures)
  check <- answer(declaration_of("check"), book, list())
  read$drafted <- drafted$define
  proof <- do.call(rbind, lapply(figures, function(one) if (!is.null(one)) ll_proof(one)))
  width <- output_width(read$options)
  lines <- c(look_head(book), look_fields(book, width), look_fixes(book, width),
             look_amounts(figures, drafted$book), look_wrong(check, width),
             if (!is.null(proof)) format_proof(proof), look_next(figures[[1]], book, read))
  writeLines(enc2utf8(lines), useBytes = TRUE)
  if (!is.null(proof) && length(broken_proof(proof))) 2L else 0L
}

# The first look is read, and nothing else.
refuse_files <- function(read) {
  given <- intersect(c("out", "format"), names(read$options))
  if (length(given))
    ll_abort(c(paste0("A first look has no '--", given[1], "'."),
               i = paste0("A study has: longladder total", words_of_book(read), " --", given[1], " ",
                          read$options[[given[1]]][1], ".")), "argument")
}

look_help <- function() {
  c("usage: longladder FILE... [options]", "",
    paste0(command_look$title, "."), "",
    "Options tell how the lines are read, as of every study: --sheet, --unpivot, --field and others",
    "(longladder total --help all).", "", "example",
    paste0("  longladder ", command_look$examples))
}

# The first four metrics; NULL where there is none.
look_figures <- function(book) {
  if (length(book$metrics))
    answer(declaration_of("total"), book, list(metrics = utils::head(names(book$metrics), 4)))
}

look_head <- function(book) {
  own <- book$fields[book$fields$from == "lines", ]
  dates <- if (length(book$days)) paste0(", ", span_text(first_day(book), last_day(book)), " (by ",
                                         unguarded(book$date), ")") else ", without a date"
  paste0(book$title %||% "The lines", ": ", plural(book$lines, "line"), " of ",
         plural(nrow(own), "column"), dates)
}

look_most <- 12   # fields of a role that are named

look_fields <- function(book, width) {
  own <- book$fields[book$fields$from == "lines", ]
  words <- c(identifier = "counted", date = "dates", dimension = "names", measure = "added up",
             rate = "rates")
  role <- ifelse(own$role == "measure" & (own$rate %in% TRUE | named_like_rate(own$column)), "rate",
                 own$role)
  c("", "columns", unlist(lapply(names(words), function(r) {
    names <- own$name[role == r]
    # Those that people ask by come first.
    names <- union(intersect(c(customer_field(book), product_field(book), book$people), names), names)
    shown <- vapply(utils::head(names, look_most), function(name) {
      if (r != "dimension") return(unguarded(name))
      paste0(unguarded(name), " (", count_text(length(names_of(book, name))), ")")
    }, "")
    more <- length(names) - look_most
    if (length(names)) hanging(paste0(c(shown, if (more > 0) paste(count_text(more), "more")),
                                      collapse = ", "), words[[r]], 10, width)
  })), if (!is.null(book$order)) hanging(paste("by", unguarded(book$order)), "orders", 10, width))
}

look_fixes <- function(book, width) {
  # The name of a file stays as it is.
  begun <- function(t) if (grepl("^[^ ]+[.][A-Za-z]+: ", t)) t else capital(t)
  part <- function(head, text) if (length(text)) c("", head, unlist(lapply(one_line(text), function(t) {
    strwrap(begun(t), width, indent = 2, exdent = 4)
  })))
  c(part("fixed on opening", fixes_made(book)$text), part("to decide", book$offers$text))
}

look_amounts <- function(figures, book) {
  if (is.null(figures[[1]]))
    return(c("", "first figures", "  none yet: no column tells an amount of all lines"))
  metrics <- book$metrics[utils::head(names(book$metrics), 4)]
  unlist(lapply(seq_along(figures), function(i) {
    table <- as.data.frame(figures[[i]])
    value <- unlist(Map(function(m, x) format_number(x, m$unit, m$digits), metrics, table$value))
    code <- names(figures)[i]
    c("", paste0("first figures", if (length(code)) if (nzchar(code)) paste(" in", code) else
      " of lines without a currency"), paste0(
        "  ", pad(spoken(names(metrics)), max(nchar(spoken(names(metrics))))), "  ",
        pad(value, max(nchar(value)), TRUE), "  ", unguarded(vapply(metrics, `[[`, "", "text"))))
  }))
}

look_wrong <- function(check, width) {
  found <- as.data.frame(check)
  found <- utils::head(found[found$weight != "low", ], 4)
  if (!nrow(found)) return(c("", "looks wrong", "  nothing of weight that check looks for"))
  facts <- mapply(function(n, examples) paste(c(if (n > 0) plural(n, "line"), if (nzchar(examples)) examples),
                                              collapse = "; "), found$lines, found$examples)
  text <- paste0(capital(found$finding), ifelse(nzchar(found$field), paste0(": ", found$field), ""),
                 ifelse(nzchar(facts), paste0(" (", facts, ")"), ""))
  c("", "looks wrong", unlist(lapply(one_line(text), strwrap, width, indent = 2, exdent = 4)))
}

# What is first to decide, the next questions, and the brief that keeps what was found.
look_next <- function(figures, book, read) {
  known <- utils::head(if (!is.null(figures)) next_commands(figures, read), 2)
  again <- words_of_book(read)
  draft <- if (length(read$lines)) data.frame(
    question = "what was found, kept and to be corrected?",
    command = paste0("longladder draft", paste0(" ", vapply(read$lines, shell_quoted, ""),
                                                collapse = ""), " --out longladder.yml"))
  decided <- if (NROW(book$offers)) data.frame(
    question = "and as the first thing to decide has it?",
    command = paste0("longladder", again, " ", book$offers$option[1]))
  all <- rbind(decided, known[c("question", "command")], draft, data.frame(
    question = "what looks wrong, in full?", command = paste0("longladder check", again)))
  hint_lines(utils::head(all, 3))
}
