# The pages of a brief, run one after the other. A page that fails is told, and the others still
# come.

# The stages of the work, and in each the studies in the order in which one looks at them.
page_stages <- list(
  "Know the data" = "check",
  "Where we stand" = c("total", "portrait", "trend", "crosstab", "versus"),
  "Who is ahead" = c("standings", "holders", "benchmark", "score", "pareto", "quadrants", "tiers",
                     "payout", "distribution", "associations"),
  "Why it changed" = c("bridge", "drill", "substitution"),
  "New, gone and missing" = c("cohorts", "lapsed", "sets", "whitespace"),
  "The lines" = "detail")

stage_of <- function(study) {
  names(page_stages)[vapply(page_stages, function(s) study %in% s, NA)]
}

# Names of the pages asked for, or all in the order of the brief.
pages_in_order <- function(brief, names = NULL) {
  known <- names(brief$pages)
  unknown <- setdiff(names, known)
  if (length(unknown))
    ll_abort(c(paste0("The brief has no page called ", quoted(unknown[1]), "."),
               offer(unknown[1], known, "Pages")), "word")
  names %||% known
}

# The pages by stages of the work, where they stand so, else all under none: list(stage, pages).
by_stage <- function(pages) {
  stages <- vapply(pages, `[[`, "", "stage")
  if (anyDuplicated(rle(stages)$values)) return(list(list(stage = NULL, pages = pages)))
  lapply(unique(stages), function(stage) list(stage = stage, pages = pages[stages == stage]))
}

# The pages asked for, each a list of name, title, study, stage, and result or error. `tell`
# is called with each page's name before it runs.
run_pages <- function(brief, names = NULL, book = brief$book, tell = function(text) NULL) {
  if (!length(brief$pages) && is.null(names))
    ll_abort(c(paste0("The brief ", quoted(brief$file), " has no pages to run."),
               i = "Add for example `pages: {reps: {study: standings, each: rep}}`."), "brief")
  wanted <- pages_in_order(brief, names)
  lapply(stats::setNames(nm = wanted), function(name) {
    tell(name)
    run_page(name, brief$pages[[name]], book)
  })
}

run_page <- function(name, page, book) {
  page <- as_page(name, page)
  out <- list(name = name, title = attr(page, "title") %||% capital(spoken(name)),
              study = page$study, stage = stage_of(page$study), comment = attr(page, "said"))
  result <- tryCatch(answer(declaration_of(page$study), book, page_args(page)), error = identity)
  if (inherits(result, "error")) out$error <- result else out$result <- result
  out
}

page_failed <- function(page) !is.null(page$error)

# The three findings to begin with: why it changed, who is gone or missing, who is ahead; then what
# comes first.
chief_findings <- function(pages, most = 3) {
  pages <- Filter(function(p) !page_failed(p), pages)
  wanted <- c("drill", "bridge", "lapsed", "standings", "whitespace", "pareto", "score", "trend",
              "total", "cohorts", "quadrants", "portrait", "crosstab", "versus")
  stages <- vapply(pages, `[[`, "", "stage")
  at <- order(match(vapply(pages, `[[`, "", "study"), wanted))
  # One of each stage before a second of any.
  at <- at[order(duplicated(stages[at]))]
  pages[first_few(at, most)]
}

# Names of files from names of people's choosing: letters, digits and hyphens, each once.
file_words <- function(x) {
  plain <- iconv(as_utf8(x), "UTF-8", "ASCII//TRANSLIT", sub = "-")
  plain <- gsub("(^-+|-+$)", "", gsub("[^A-Za-z0-9]+", "-", tolower(plain)))
  plain[is.na(plain) | !nzchar(plain)] <- "unnamed"
  plain <- substr(plain, 1, 60)
  while (anyDuplicated(plain)) {
    twice <- which(duplicated(plain))
    plain[twice] <- paste0(plain[twice], "-", seq_along(twice) + 1)
  }
  plain
}
