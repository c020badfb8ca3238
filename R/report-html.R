# The report: one HTML file that needs nothing else, by rmarkdown from a template.

#' Write a report
#'
#' One HTML file of all pages of a brief, or of the results given: what was found first, then the
#' pages in their order, each with its finding, figure, table, reading, notes, proof and CSV.
#' It needs no other file and no network, in a browser or printed. A page that fails is shown with
#' the reason, and the others still come.
#'
#' The report is rendered by rmarkdown with pandoc from the template "Report of a brief" of this
#' package; `rmarkdown::draft("report.Rmd", "report", "longladder", edit = FALSE)` gives a copy to
#' edit, whose output format is `ll_report_format()` and whose body is written by
#' `ll_report_body()`.
#'
#' @param x (`ll_brief`, or named list of `ll_result`) whose pages.
#' @param file (text) the path, ending in `.html`.
#' @param pages (text) names of pages of the brief; all if not given.
#' @param title (text) the report's title; the book's if not given.
#' @return `ll_report()`: the path, invisibly. `ll_report_format()`: an rmarkdown output format.
#'   `ll_report_body()`: the body as text for a chunk with `results = "asis"`, printed.
#' @section Errors: `ll_error_package` where rmarkdown or pandoc is missing, `ll_error_word` for an
#' unknown page, `ll_error_target` where the file cannot be written.
#' @examplesIf requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available("2.0")
#' file <- tempfile(fileext = ".html")
#' ll_report(list(reps = ll_standings(ll_demo(), "rep", "revenue", top = 5)), file)
#' @export
ll_report <- function(x, file, pages = NULL, title = NULL) {
  made <- report_pages(x, pages)
  if (!grepl("\\.html?$", file, ignore.case = TRUE, perl = TRUE))
    ll_abort(paste0("A report ends in .html, not as ", quoted(basename(file)), "."), "target")
  write_report(made, file, title)
}

# What both brief and results come to: pages of a brief, already run.
report_pages <- function(x, pages = NULL) {
  if (inherits(x, "ll_brief")) return(run_pages(x, pages))
  if (inherits(x, "ll_result")) x <- list(x)
  if (!is.list(x) || !length(x))
    ll_abort(c("A report is of a brief, or of results in a named list.",
               i = "ll_brief(\"longladder.yml\") opens a brief."), "argument")
  # Pages that were run before.
  if (all(vapply(x, function(p) is.list(p) && !is.null(p$stage), NA))) return(x)
  Map(function(name, result) {
    study <- facts(result)$study
    list(name = name, title = capital(spoken(name)), study = study, stage = stage_of(study),
         result = result)
  }, result_names(x), x)
}

write_report <- function(pages, file, title = NULL) {
  need_pandoc()
  first <- Filter(function(p) !page_failed(p), pages)
  write_whole(file, function(path) {
    folder <- tempfile("report-")
    dir.create(folder)
    on.exit(unlink(folder, recursive = TRUE))
    source <- file.path(folder, "report.Rmd")
    put_copy(template_file("skeleton", "skeleton.Rmd"), source)
    named <- title %||% if (length(first)) facts(first[[1]]$result)$title else "Report"
    made <- with_pandoc_home(function() {
      rmarkdown::render(source, output_format = ll_report_format(named),
                        output_file = "report.html", output_dir = folder, quiet = TRUE,
                        params = list(pages = pages, name = named), envir = new.env())
    })
    put_copy(made, path)
  }, files_behind(lapply(first, `[[`, "result")))
}

template_file <- function(...) {
  system.file("rmarkdown", "templates", "report", ..., package = "longladder", mustWork = TRUE)
}

#' @rdname ll_report
#' @export
ll_report_format <- function(title = NULL) {
  need_pandoc()
  template <- tempfile(fileext = ".html")
  part <- function(name) literal_part(read_text(template_file(name)))
  page <- read_text(template_file("page.html"))
  page <- sub("$style$", part("report.css"), page, fixed = TRUE)
  # Written here rather than handed over: what pandoc is told goes through a shell.
  if (!is.null(title)) {
    title <- literal_part(htmltools::htmlEscape(page_text(title)))
    page <- sub("$pagetitle$", title, page, fixed = TRUE)
  }
  script <- paste(part("tables.js"), part("report.js"), sep = "\n")
  put_lines(sub("$script$", script, page, fixed = TRUE), template)
  rmarkdown::output_format(
    knitr = rmarkdown::knitr_options(),
    pandoc = rmarkdown::pandoc_options(
      to = "html5", from = "markdown-smart+raw_attribute",
      args = c("--template", template, "--wrap=none", "--metadata", "pagetitle=report")),
    clean_supporting = TRUE)
}

# A dollar sign begins a variable of pandoc's templates.
literal_part <- function(text) gsub("$", "$$", text, fixed = TRUE)

read_text <- function(path) paste(readLines(path, encoding = "UTF-8"), collapse = "\n")

#' @rdname ll_report
#' @export
ll_report_body <- function(x, title = NULL) {
  pages <- report_pages(x)
  body <- as.character(report_html(pages, title))
  # Raw HTML for pandoc, fenced by more signs than any text in it has.
  longest <- max(0, attr(gregexpr("`+", body)[[1]], "match.length"))
  fence <- strrep("`", max(longest, 2) + 1)
  cat("\n", fence, "{=html}\n", body, "\n", fence, "\n", sep = "")
}

report_html <- function(pages, title = NULL) {
  ids <- file_words(vapply(pages, `[[`, "", "name"))
  pages <- Map(function(p, id) {
    p$file <- id
    p$id <- paste0("page-", id)
    p
  }, pages, ids)
  pages <- lapply(pages, function(p) {
    p$follows <- following_pages(p, pages)
    p
  })
  staged <- by_stage(pages)
  done <- Filter(function(p) !page_failed(p), pages)
  book <- if (length(done)) facts(done[[1]]$result)$book
  tags <- htmltools::tags
  version <- utils::packageVersion("longladder")
  htmltools::tagList(
    tags$header(tags$h1(page_text(title %||% book$title %||% "Report")),
                if (!is.null(book)) tags$p(page_text(book_words(book))), unproven_html(done)),
    contents_html(staged),
    tags$main(id = "main", found_html(pages), lapply(staged, stage_html),
              tags$footer(paste0("Made with Long Ladder ", version, "."))))
}

stage_html <- function(part) {
  list(if (!is.null(part$stage))
       htmltools::tags$h2(id = paste0("stage-", file_words(part$stage)), part$stage),
       lapply(part$pages, function(p) page_html(p, p$id)))
}

# "41,204 order lines, 2 January 2024 to 16 September 2026"
book_words <- function(book) {
  paste(c(paste(count_text(book$lines), "order lines"),
          if (length(book$days)) span_text(first_day(book), last_day(book))), collapse = ", ")
}

# The proofs that do not hold, at the head of the report.
unproven_html <- function(pages) {
  tags <- htmltools::tags
  texts <- lapply(pages, function(p) broken_proof(ll_proof(p$result)))
  if (!any(lengths(texts))) return(NULL)
  lines <- lapply(unique(unlist(texts)), function(text) {
    on <- Filter(function(i) text %in% texts[[i]], seq_along(pages))
    links <- vapply(utils::head(on, 4), function(i) as.character(page_link(pages[[i]])), "")
    text <- capital(sub("^The proof does not hold: ", "", text))
    # One text, since tags would stand apart by blanks.
    tags$li(htmltools::HTML(paste0(
      htmltools::htmlEscape(page_text(text)), " (", paste(links, collapse = ", "),
      if (length(on) > 4) paste(" and", length(on) - 4, "more"), ")")))
  })
  tags$section(class = "broken", id = "unproven", role = "alert",
               tags$h2("The proof does not hold"), tags$ul(lines))
}

page_link <- function(page, text = page$title) {
  htmltools::tags$a(href = paste0("#", page$id), page_text(text))
}

contents_html <- function(staged) {
  tags <- htmltools::tags
  title <- function(page) {
    paste0(page$title, if (page_failed(page)) " (failed)"
           else if (!all(ll_proof(page$result)$holds)) " (proof does not hold)")
  }
  stages <- lapply(staged, function(part) {
    list(if (!is.null(part$stage)) tags$h3(part$stage),
         tags$ol(lapply(part$pages, function(p) tags$li(page_link(p, title(p))))))
  })
  tags$nav(id = "contents", "aria-label" = "Contents", tags$details(
    open = NA, tags$summary("Contents"),
    tags$ol(tags$li(tags$a(href = "#found", "What was found"))), stages))
}

# The chief findings large, the others below them.
found_html <- function(pages) {
  tags <- htmltools::tags
  chief <- chief_findings(pages)
  lines <- function(pages) lapply(pages, function(p) tags$li(page_link(p, ll_finding(p$result))))
  chosen <- vapply(chief, `[[`, "", "id")
  others <- Filter(function(p) !page_failed(p) && !p$id %in% chosen, pages)
  failed <- Filter(page_failed, pages)
  tags$section(
    id = "found", tags$h2("What was found"), tags$ol(class = "chief", lines(chief)),
    if (length(others)) tags$ul(class = "others", lines(others)),
    if (length(failed)) tags$p(class = "broken", paste0(
      plural(length(failed), "page"), " could not be made; the reason stands there.")))
}
