# Draft: a first brief for new files, commented so that a person can correct it.

#' Draft a brief
#'
#' Looks at one or several text tables, takes the one with most measured lines for the order lines
#' and the others for registers of its fields, and writes a first brief: roles with the reason,
#' registers, likely metrics (revenue, margin, margin rate, orders, average order, units) and pages.
#' The brief runs as written; its comments tell what to look at.
#'
#' @param files (text) paths of text tables.
#' @param folder (text) the folder in which the brief will stand; paths in it count from there.
#' @return The lines of the brief, a character vector, to be written with [writeLines()].
#' @section Errors: `ll_error_file` for a file that cannot be read; `ll_error_data` where no file
#' has a measure.
#' @examples
#' folder <- system.file("extdata", package = "longladder")
#' brief <- ll_draft(file.path(folder, c("order_lines.csv", "accounts.csv")), folder)
#' cat(brief[1:12], sep = "\n")
#' @export
ll_draft <- function(files, folder = ".") {
  files <- check_words(files, "files")
  thunks <- lapply(files, function(file) function() ll_book(file))
  books <- do.call(together, thunks)
  main <- draft_main(books, files)
  book <- books[[main]]
  links <- lapply(seq_along(books)[-main], function(i) draft_link(book, books[[i]], files[i]))
  draft_text(book, files[main], folder, links)
}

# The lines of a brief of an open book, whose lines are in `file`.
draft_text <- function(book, file, folder, links = list()) {
  unguarded(c(draft_head(book, file, folder), draft_fields(book, links),
              draft_registers(links, folder), draft_metrics(book), draft_rest(book)))
}

# The lines: the file with most lines among those that have a measure, dates first.
draft_main <- function(books, files) {
  has <- function(role) vapply(books, function(b) any(b$fields$role == role), TRUE)
  if (!any(has("measure")))
    ll_abort(c("None of the files has a measure to add up.",
               x = paste0("Looked at: ", and_list(quoted(files)), ".")), "data")
  size <- vapply(books, `[[`, 0, "lines")
  best <- order(!has("measure"), !has("date"), -size)
  # Headers of orders bear the date, the amounts stand on lines of the same orders.
  under <- Filter(function(i) has("measure")[i] && is_header_of(books[[best[1]]], books[[i]]), best[-1])
  c(under, best)[1]
}

# Whether each order stands once in one table and several times in the other.
is_header_of <- function(header, lines) {
  keys <- intersect(header$fields$name[header$fields$type == "text"],
                    lines$fields$name[lines$fields$type == "text"])
  any(vapply(keys, function(key) {
    own <- names_of(header, key)
    other <- names_of(lines, key)
    length(own) == header$lines && length(other) < lines$lines && mean(other %in% own) > .5
  }, NA))
}

# The column of a file whose names are those of a field of the lines, each once: list(file, key,
# field, seen, rules), the rules by which they meet where they are written differently; or list(file,
# why) where none serves.
draft_link <- function(book, register, file) {
  texts <- register$fields$name[register$fields$type == "text"]
  once <- vapply(texts, function(name) length(names_of(register, name)) == register$lines, NA)
  fields <- book$fields$name[book$fields$type == "text"]
  for (rules in c(list(character()), match_tries)) {
    best <- best_link(book, register, texts[once], fields, rules)
    if (best$share >= .5)
      return(list(file = file, key = best$key, field = best$field, seen = best$seen, rules = rules))
  }
  again <- best_link(book, register, texts[!once], fields, character())
  list(file = file, why = if (again$share >= .5) paste0(
    "its ", again$key, " are those of ", again$field, ", but stand more than once") else
      "has no column that names a field of the lines")
}

best_link <- function(book, register, keys, fields, rules) {
  known <- lapply(stats::setNames(keys, keys), function(key) by_rules(names_of(register, key), rules))
  # A rule that joins names of the register is none.
  known <- Filter(function(names) !length(rules) || !anyDuplicated(names), known)
  best <- list(share = 0)
  for (field in fields) {
    seen <- by_rules(names_of(book, field), rules)
    for (key in names(known)) {
      share <- if (length(seen)) mean(seen %in% known[[key]]) else 0
      # Of equal matches the one of the same name.
      same <- share > 0 && column_word(key) == column_word(field)
      if (share + same / 100 > best$share)
        best <- list(share = share + same / 100, key = key, field = field, seen = share)
    }
  }
  best
}

# Words that YAML would read as something else are quoted.
draft_word <- function(x) {
  plain <- grepl("^[A-Za-z_][A-Za-z0-9_.]*$", x) &
    !tolower(x) %in% c("y", "n", "yes", "no", "on", "off", "true", "false", "null")
  ifelse(plain, x, paste0("'", gsub("'", "''", x), "'"))
}

# A path as the brief's folder sees it.
draft_path <- function(file, folder) {
  file <- normalizePath(file)
  folder <- paste0(normalizePath(folder), .Platform$file.sep)
  draft_quoted(if (startsWith(file, folder)) substring(file, nchar(folder) + 1) else file)
}

draft_quoted <- function(x) paste0("'", gsub("'", "''", x), "'")

draft_head <- function(book, file, folder) {
  c("# A first brief, made by looking at the files. Correct what is wrong; keys that are not",
    "# needed can go. `longladder check --brief FILE` tells what looks wrong in the lines.",
    paste0("title: ", draft_quoted(book$title)), paste0("lines: ", draft_path(file, folder)),
    if (!is.null(book$date)) paste0("date: ", draft_word(book$date),
                                    "   # periods go by this date"),
    if (!is.null(book$order)) paste0("order: ", draft_word(book$order),
                                     "   # orders are counted by this"),
    if (!is.null(book$people)) paste0("people: ", draft_word(book$people),
                                      "   # results per head go by this"),
    # What is left to the person stands there as such.
    if (NROW(book$offers)) paste0("# to decide: ", one_line(book$offers$text)), "")
}

draft_fields <- function(book, links) {
  own <- book$fields[book$fields$from == "lines", ]
  keyed <- unlist(lapply(links, `[[`, "field"))
  own$role[own$name %in% setdiff(keyed, book$order)] <- "dimension"
  label <- paste0("  ", draft_word(own$name), ": ", own$role)
  why <- paste0("# ", own$why, ifelse(own$missing > 0, paste0(", ", own$missing, " missing"), ""))
  hint <- vapply(seq_len(nrow(own)), function(i) {
    if (own$role[i] != "dimension" || own$type[i] != "text") return("")
    names <- names_of(book, own$name[i])
    if (length(names) > 2e5 || !anyDuplicated(spelling_key(names))) return("")
    paste0("; some have similar spellings: {role: dimension, same: similar} merges them")
  }, "")
  c("# identifier: counted; date; dimension: slices and is ranked; measure: added up", "fields:",
    paste0(pad(label, max(nchar(label))), "   ", one_line(why), hint), "")
}

draft_registers <- function(links, folder) {
  if (!length(links)) return(NULL)
  used <- Filter(function(link) !is.null(link$field), links)
  left <- Filter(function(link) is.null(link$field), links)
  c(if (length(used)) c("registers:", vapply(used, function(link) {
    paste0("  ", draft_word(link$field), ": {file: ", draft_path(link$file, folder), ", key: ",
           draft_word(link$key), "}   # knows ", format_number(link$seen, "percent", 0),
           " of the names on the lines")
  }, "")), draft_match(used), vapply(left, function(link) {
    paste0("# not used: ", one_line(link$file), ": ", one_line(link$why))
  }, ""), "")
}

# Rules by which names of lines and registers meet.
draft_match <- function(links) {
  links <- Filter(function(link) length(link$rules), links)
  if (!length(links)) return(NULL)
  c("match:", vapply(links, function(link) {
    paste0("  ", draft_word(link$field), ": [", paste(link$rules, collapse = ", "),
           "]   # so that both are written alike")
  }, ""))
}

draft_metrics <- function(book) {
  metrics <- drafted_metrics(book)
  c("metrics:", paste0("  ", names(metrics), ": ", vapply(metrics, function(one) {
    is <- draft_quoted(one$is)
    if (is.null(one$unit)) is else paste0("{is: ", is, ", unit: ", one$unit, "}")
  }, "")), "")
}

draft_rest <- function(book) {
  own <- book$fields[book$fields$from == "lines" & book$fields$role == "dimension" &
                       book$fields$type == "text" &
                       !grepl("^positions|part of a date", book$fields$why), ]
  revenue <- if ("revenue" %in% book$fields$name) "total_revenue" else "revenue"
  c("# calendar: {fiscal_start: april}   # where the fiscal year does not start in January",
    "# as_of: 2026-09-30                 # the day that 'last quarter' counts back from",
    paste0("# control: {", revenue,
           ": 0}             # the ledger's own total, held against the lines"),
    "", "pages:", "  health: {study: check}",
    if (!is.null(book$date)) paste0("  months: {study: trend, metrics: [", revenue, "]}"),
    unlist(lapply(utils::head(own$name, 4), function(name) {
      paste0("  ", draft_word(paste0("top_", gsub("[^A-Za-z0-9]+", "_", name))),
             ": {study: standings, each: ", draft_word(name), ", metrics: [", revenue,
             "], top: 10}")
    })))
}
