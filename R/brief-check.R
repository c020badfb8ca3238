# A brief checked as a whole, before anything is read: every problem with its line, the key, what
# is allowed and the nearest known word.

# Checks a parsed brief and gives its pages (`ll_page`, by name), or stops with every problem.
# `settings` are the keys given with --set.
check_brief <- function(brief, file, lines, settings = character()) {
  refuse_crowded(brief, file, lines)
  pages <- pages_of(brief)
  pages <- Map(check_page, stats::setNames(nm = names(pages)), pages)
  found <- c(check_map(brief, brief_spec(), character()),
             unlist(lapply(unname(pages), attr, "problems"), recursive = FALSE))
  if (!length(found)) return(pages)
  at <- vapply(found, function(f) line_of(f$path, lines), 0L)
  found <- found[order(at)]
  where <- vapply(found, function(f) {
    path <- paste(f$path, collapse = ".")
    if (path %in% settings) return(paste0("--set ", path))
    paste(c(if (line_of(f$path, lines)) paste("line", line_of(f$path, lines)), path),
          collapse = ", ")
  }, "")
  texts <- paste0(where, ": ", vapply(found, `[[`, "", "text"))
  ll_abort(c(paste0("The brief ", quoted(file), " has ", if (length(texts) > most_problems)
    paste("more than", most_problems, "problems:") else if (length(texts) > 1)
      paste(length(texts), "problems:") else "a problem:"),
    paste0("- ", gsub("\n", "\n  ", utils::head(texts, most_problems)))), "brief")
}

# What no brief of a person's has, refused before each of them is looked at.
refuse_crowded <- function(brief, file, lines) {
  for (key in intersect(names(brief), names(brief_spec()))) {
    most <- if (key == "registers") most_registers else most_entries
    if (is_map(brief[[key]]) && length(brief[[key]]) > most)
      ll_abort(c(paste0("The brief ", quoted(file), " has ", count_text(length(brief[[key]])),
                        " entries in ", quoted(key), "."), x = paste0(count_text(most), " are the most."),
                 i = if (line_of(key, lines)) paste0("Line ", line_of(key, lines), ".")), "brief")
  }
}

most_entries <- 500
most_registers <- 100

brief_problem <- function(path, ...) {
  text <- c(...)
  marks <- names(text) %||% rep("", length(text))
  list(list(path = path, text = paste(paste0(ifelse(nzchar(marks), paste0(marks, " "), ""), text),
                                      collapse = "\n")))
}

pages_of <- function(brief) {
  pages <- brief$pages
  if (is_map(pages)) pages
}

is_map <- function(x) is.list(x) && !is.null(names(x))

# A map against the keys it may hold.
check_map <- function(x, keys, path) {
  unknown <- utils::head(setdiff(names(x), names(keys)), most_problems + 1)
  c(unlist(lapply(unknown, function(key) {
    brief_problem(c(path, key), paste0("unknown key ", quoted(key), "."),
                  near_only(key, names(keys)),
                  i = paste0("Keys", if (length(path)) paste0(" of ", paste(path, collapse = ".")),
                             ": ", and_list(names(keys), 40), "."))
  }), recursive = FALSE),
  unlist(lapply(intersect(names(keys), names(x)), function(key) {
    check_value(x[[key]], keys[[key]], c(path, key))
  }), recursive = FALSE))
}

check_value <- function(x, spec, path) {
  # A key with nothing after it is as good as absent.
  if (is.null(x)) return(NULL)
  # What a page must be is told with its study.
  if (length(path) == 2 && path[1] == "pages") return(NULL)
  if (is_map(x) && !is.null(spec$each))
    return(unlist(lapply(names(x), function(name) {
      check_value(x[[name]], spec$each, c(path, name))
    }), recursive = FALSE))
  if (is_map(x) && !is.null(spec$keys)) return(check_map(x, spec$keys, path))
  takes <- value_words(spec)
  flags <- c("yes", "no", "true", "false", "on", "off")
  ok <- switch(spec$type, none = FALSE, rows = is.list(x), texts = all_scalars(x),
               choice = one_scalar(x) && x %in% spec$choices,
               number = !is.na(as_single_number(x)),
               flag = one_scalar(x) && tolower(x) %in% flags, one_scalar(x))
  if (ok) return(NULL)
  brief_problem(path, paste0("needs ", takes, ": ", spec$help, "."),
                x = paste0("It is ", shown(x), "."),
                if (spec$type == "choice" && one_scalar(x)) near_only(x, spec$choices))
}

one_scalar <- function(x) is.atomic(x) && length(x) == 1

all_scalars <- function(x) {
  length(x) > 0 && !is_map(x) && all(vapply(x, one_scalar, NA))
}

# "a number", "money, percent or count", "names with values"
value_words <- function(spec) {
  first <- switch(spec$type, none = NULL, texts = "a text or a list of texts",
                  choice = and_list(spec$choices, 12, "or"), number = "a number",
                  flag = "yes or no", rows = "a list of rows", "a text")
  map <- if (!is.null(spec$each)) "names and values" else if (!is.null(spec$keys))
    paste("the keys", and_list(names(spec$keys), 12))
  paste(c(first, map), collapse = ", or ")
}

# A page against its study's declaration: the page, or its problems as an attribute of nothing.
check_page <- function(name, page) {
  path <- c("pages", name)
  failed <- function(problems) structure(list(), problems = problems)
  known <- names(declarations())
  all <- c(i = paste0("Studies: ", and_list(known, 40), "."))
  if (!is_map(page)) return(failed(page_text_problem(path, name, page, known)))
  if (is.null(page$study)) return(failed(brief_problem(path, "the page has no study.", all)))
  if (!one_scalar(page$study) || !page$study %in% known)
    return(failed(brief_problem(c(path, "study"),
                                paste0("there is no study called ", shown(page$study), "."),
                                if (one_scalar(page$study)) near_only(page$study, known), all)))
  declared <- declaration_of(page$study)$args
  given <- lapply(page[intersect(names(page), names(declared))], page_value)
  args <- list()
  problems <- lapply(names(declared), function(key) {
    # What is not given is checked too, when it must be.
    tryCatch({
      args[key] <<- list(check_arg(given[[key]], key, declared[[key]]))
      NULL
    }, ll_error = function(e) brief_problem(c(path, key), conditionMessage(e)))
  })
  problems <- c(check_map(page[!names(page) %in% names(declared)], page_keys(page$study), path),
                unlist(problems, recursive = FALSE))
  if (length(problems)) failed(problems) else
    new_page(page$study, args, given, page$title, unlist(page$asks), page$comment)
}

# A page of a brief, one put there in R as a list too.
as_page <- function(name, page) {
  if (inherits(page, "ll_page")) return(page)
  page <- check_page(name, page)
  problems <- attr(page, "problems")
  if (!is.null(problems))
    ll_abort(c(paste0("The page ", quoted(name), " cannot be run."),
               paste0("- ", vapply(problems, `[[`, "", "text"))), "argument")
  page
}

# A page that is no map: what it should be, with the study that was meant.
page_text_problem <- function(path, name, page, known) {
  study <- if (one_scalar(page) && page %in% known) page else "standings"
  brief_problem(path, "a page needs a study and its arguments.",
                x = paste0("It is ", shown(page), "."),
                i = paste0("For example ", name, ": {study: ", study, ", each: rep}."))
}

# Lists of YAML as R has them.
page_value <- function(value) if (is.list(value)) unlist(value) else value
