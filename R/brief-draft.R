# Draft: a first brief for new files, commented so that a person can correct it.

#' Draft a brief
#'
#' Looks at one or several text tables, takes the one with most measured lines for the order lines
#' and the others for registers of its fields, and writes a first brief: roles with the reason,
#' registers, likely metrics (revenue, margin, margin rate, orders, average order, units) and pages.
#' Columns of months are turned into lines. The brief is opened and its pages are run once before it
#' is given: a page that cannot run is left out, with why. Comments tell what to look at.
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
  turned <- c(stats::na.omit(books[[main]]$offers$unpivot), NA)[1]
  if (!is.na(turned)) {
    turned <- unpivot_of(turned, books[[main]])
    books[[main]] <- ll_book(files[main], unpivot = turned)
  } else turned <- NULL
  book <- books[[main]]
  links <- lapply(seq_along(books)[-main], function(i) draft_link(book, books[[i]], files[i]))
  pages_that_run(draft_text(book, files[main], folder, links, turned,
                            with_links(book, files[main], links, turned)), folder)
}

# The columns to turn, with names for what they become that are free.
unpivot_of <- function(asked, book) {
  free <- function(name) if (is.null(same_word(name, book$fields$name))) name else paste0(name, "_of_column")
  list(columns = strsplit(asked, ",", fixed = TRUE)[[1]], names = free("period"),
       values = free("amount"))
}

# The book with the registers that were found, whose fields bring dates, people and customers.
with_links <- function(book, file, links, unpivot) {
  used <- Filter(function(link) !is.null(link$field), links)
  if (!length(used)) return(book)
  names(used) <- unguarded(vapply(used, `[[`, "", "field"))
  used <- used[!duplicated(names(used))]
  rules <- Filter(length, lapply(used, `[[`, "rules"))
  ll_book(file, unpivot = unpivot, match = if (length(rules)) rules,
          registers = lapply(used, function(link) list(file = link$file, key = link$key)))
}

# The lines of a brief of an open book, whose lines are in `file`; `joined` is the same with its
# registers.
draft_text <- function(book, file, folder, links = list(), unpivot = NULL, joined = book) {
  unguarded(c(draft_head(joined, file, folder, unpivot), draft_fields(book, links),
              draft_registers(links, folder), draft_metrics(book, header_metrics(joined)),
              draft_rest(joined)))
}

# Amounts that stand with the order and not with its lines: added up once for each order.
header_metrics <- function(joined) {
  if (is.null(joined$order)) return(NULL)
  of_order <- named_once(joined$fields[joined$fields$from == joined$order, ])
  of_order <- of_order[of_order$role == "measure" & of_order$type == "number" &
                         !of_order$rate %in% TRUE, ]
  fields <- utils::head(of_order$name, 3)
  if (!length(fields)) return(NULL)
  made <- paste0("order_", gsub("[^[:alnum:]]+", "_", tolower(sub("^.*[.]", "", unguarded(fields)))))
  stats::setNames(lapply(fields, function(field) {
    list(is = paste0("sum(per(", name_text(joined$order), ", max(", name_text(field), ")))"),
         unit = "money")
  }), made)
}

# The drafted lines after all pages ran once: those that cannot run as comments, with the reason.
pages_that_run <- function(text, folder) {
  brief <- read_brief_lines(text, file.path(folder, "draft"))
  brief$book <- open_keys(brief$keys, folder)
  # Of lines in several currencies those of one are enough to try them.
  failed <- Filter(page_failed, each_currency(brief$book, function(book) {
    done <- run_pages(brief, book = book)
    for (page in done) if (inherits(page$error, "ll_error_currencies")) stop(page$error)
    done
  })[[1]])
  for (page in failed) {
    at <- which(startsWith(text, paste0("  ", draft_word(page$name), ": ")))
    text[at] <- paste0("  # ", trimmed(text[at]), "   # left out: ",
                       one_line(conditionMessage(page$error)))
  }
  text
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

# Whether each order stands once in one table and several times in the other, under whatever header
# and written alike or nearly so.
is_header_of <- function(header, lines) {
  texts <- function(book) book$fields$name[book$fields$type == "text"]
  times <- function(book, name) length(names_of(book, name))
  once <- Filter(function(name) times(header, name) == header$lines, texts(header))
  again <- Filter(function(name) times(lines, name) < lines$lines, texts(lines))
  for (rules in c(list(character()), match_tries))
    if (best_link(lines, header, once, again, rules)$share > .5) return(TRUE)
  FALSE
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

draft_head <- function(book, file, folder, unpivot = NULL) {
  c("# A first brief, made by looking at the files. Correct what is wrong; keys that are not",
    "# needed can go. `longladder check --brief FILE` tells what looks wrong in the lines.",
    paste0("title: ", draft_quoted(book$title)), paste0("lines: ", draft_path(file, folder)),
    if (!is.null(unpivot)) paste0("unpivot: {columns: [", paste(draft_quoted(unpivot$columns),
                                                                collapse = ", "), "], names: ",
                                  unpivot$names, ", values: ", unpivot$values,
                                  "}   # a line for each cell"),
    if (!is.null(book$date)) paste0("date: ", draft_word(book$date),
                                    "   # periods go by this date"),
    if (!is.null(book$order)) paste0("order: ", draft_word(book$order),
                                     "   # orders are counted by this"),
    if (!is.null(book$people)) paste0("people: ", draft_word(book$people),
                                      "   # results per head go by this"),
    # What is left to the person stands there as such.
    if (NROW(book$offers)) paste0("# to decide: ", one_line(book$offers$text)),
    paste0("# ", one_line(shared_names(book) %||% character()), recycle0 = TRUE), "")
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

draft_metrics <- function(book, more) {
  metrics <- c(drafted_metrics(book), more)
  if (!length(metrics)) return(c("# metrics: {revenue: sum(amount)}   # none could be told", ""))
  c("metrics:", paste0("  ", names(metrics), ": ", vapply(metrics, function(one) {
    is <- draft_quoted(one$is)
    if (is.null(one$unit)) is else paste0("{is: ", is, ", unit: ", one$unit, "}")
  }, "")), "")
}

draft_rest <- function(book) {
  own <- named_once(book$fields[book$fields$from %in% c("lines", book$order), ])
  own <- own[own$role == "dimension" & own$type == "text" &
               !own$why %in% positions_why & !grepl("part of a date", own$why), ]
  revenue <- names(drafted_metrics(book))[1]
  ranked <- if (length(revenue)) paste0(", metrics: [", revenue, "]")
  own <- utils::head(setdiff(own$name, book$currencies$field), 4)
  pages <- make.unique(paste0("top_", gsub("[^[:alnum:]]+", "_", own)), "_")
  c("# calendar: {fiscal_start: april}   # where the fiscal year does not start in January",
    "# as_of: 2026-09-30                 # the day that 'last quarter' counts back from",
    paste0("# control: {", revenue %||% "revenue",
           ": 0}             # the ledger's own total, held against the lines"),
    "", "pages:", "  health: {study: check}",
    if (!is.null(book$date)) paste0("  months: {study: trend", ranked, "}"),
    sprintf("  %s: {study: standings, each: %s%s, top: 10}", draft_word(pages), draft_word(own),
            ranked %||% ""))
}
