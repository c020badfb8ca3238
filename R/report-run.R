# Everything of a brief at once: tables, pictures, workbook, report, notebook, and a record of what
# was read. All is made beside the target and put in its place at the end.

#' Run a brief
#'
#' Runs the pages of a brief and writes, into a folder: each page as a table (`.csv`) and a picture
#' (`.png`), `workbook.xlsx`, `report.html`, `notebook.Rmd`, and `record.json`, which tells what was
#' read (files with size, checksum and lines, dates, versions) and what became of each page. New
#' lines, customers and names need no edit.
#'
#' A page that fails is told, and the others still come. Everything is made in a folder beside the
#' target and moved into it at the end, so that a run that is stopped leaves the earlier output as
#' it was; files of an earlier run that are no longer made are then taken away, others are left.
#'
#' @param brief (`ll_brief` or path) the brief.
#' @param out (text) the folder; it is made where it does not exist.
#' @param pages (text) names of pages; all if not given.
#' @param for_each (text) a dimension: one set of files, in a folder of its own, for each of its
#'   names.
#' @param tell (function) called with each message while it runs.
#' @return Invisibly, a data frame of `group` (the name of `for_each`, or empty), `page`, `study`,
#'   `file` (what its files are called), `finding`, `proof` (what does not hold; empty where all
#'   does) and `problem` (empty where all went well).
#' @section Errors: `ll_error_target` where the folder cannot be written, `ll_error_word` for an
#' unknown page or dimension, and those of [ll_brief()].
#' @examplesIf requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available("2.0")
#' brief <- system.file("extdata", "longladder.yml", package = "longladder")
#' made <- ll_run(brief, file.path(tempdir(), "march"), pages = "reps")
#' list.files(file.path(tempdir(), "march"))
#' @export
ll_run <- function(brief, out, pages = NULL, for_each = NULL, tell = function(text) NULL) {
  if (!inherits(brief, "ll_brief")) brief <- ll_brief(brief)
  check_folder(out)
  groups <- run_groups(brief, for_each)
  staged <- tempfile(paste0(".", basename(out), "-"), dirname(out))
  if (!dir.create(staged, showWarnings = FALSE))
    ll_abort(paste0("The folder ", quoted(dirname(out)), " may not be written to."), "target")
  on.exit(unlink(staged, recursive = TRUE))
  made <- do.call(rbind, lapply(groups, function(group) {
    run_group(brief, group, staged, out, pages, tell)
  }))
  row.names(made) <- NULL
  write_record(brief, made, staged, for_each)
  put_in_place(staged, out)
  tell(paste0("wrote ", length(list.files(out, recursive = TRUE)), " files into ", out))
  invisible(made)
}

check_folder <- function(out) {
  if (!is.character(out) || length(out) != 1 || is.na(out) || !nzchar(out))
    ll_abort("'out' must be one folder.", "argument")
  refuse <- function(why) {
    ll_abort(c(paste0("The folder ", quoted(out), " cannot be written."), x = why), "target")
  }
  if (file.exists(out) && !dir.exists(out)) refuse("A file has that name.")
  above <- dirname(out)
  if (!dir.exists(above)) refuse(paste0("The folder ", quoted(above), " does not exist."))
  if (file.access(above, 2) != 0 || dir.exists(out) && file.access(out, 2) != 0)
    refuse("You may not write there.")
}

# Names of the dimension, each with a folder and its book; without a dimension the whole book.
run_groups <- function(brief, for_each) {
  if (is.null(for_each)) return(list(list(name = "", folder = "", book = brief$book)))
  for_each <- check_words(for_each, "for_each", one = TRUE)
  names <- names_on_lines(brief$book, for_each)
  if (!length(names))
    ll_abort(paste0("No line has a name for ", quoted(for_each), "."), "data")
  Map(function(name, folder) {
    condition <- stats::setNames(list(name), for_each)
    list(name = name, folder = folder, only = condition,
         book = do.call(ll_where, c(list(brief$book), condition)))
  }, names, file_words(names))
}

# Names of a dimension that have lines, in order.
names_on_lines <- function(book, dimension) {
  asked <- pick_dimensions(book, dimension, "for_each")
  where <- and_also(kept_lines(asked$book), asked$book$only)
  names <- source_fold(book$source, key_trees(asked$book, asked$names, where), list(),
                       where)$keys[[1]]
  sort(names[!is.na(names)])
}

run_group <- function(brief, group, staged, out, pages, tell) {
  folder <- file.path(staged, group$folder)
  if (nzchar(group$folder)) dir.create(folder)
  label <- if (nzchar(group$name)) paste0(group$name, ": ") else ""
  done <- run_pages(brief, pages, group$book, function(name) tell(paste0(label, "page ", name)))
  files <- file_words(vapply(done, `[[`, "", "name"))
  told <- unlist(Map(function(page, file) write_page(page, file.path(folder, file)), done, files))
  whole <- function(what, work) {
    tell(paste0(label, what))
    tryCatch({
      work(file.path(folder, what))
      ""
    }, ll_error = conditionMessage)
  }
  title <- paste(c(brief$book$title, if (nzchar(group$name)) group$name), collapse = " \u00b7 ")
  further <- c(
    workbook.xlsx = whole("workbook.xlsx", function(path) write_workbook(done, title, path)),
    report.html = whole("report.html", function(path) write_report(done, path, title)),
    notebook.Rmd = whole("notebook.Rmd", function(path) {
      ll_notebook(brief, path, pages, path_from(brief$file, file.path(out, group$folder)),
                  c(brief$only, group$only))
    }))
  rows <- data.frame(
    group = group$name, page = names(done), study = vapply(done, `[[`, "", "study"), file = files,
    finding = vapply(done, function(p) if (page_failed(p)) "" else ll_finding(p$result), ""),
    proof = vapply(done, page_unproven, ""), problem = told)
  broken <- further[nzchar(further)]
  if (length(broken)) rows <- rbind(rows, data.frame(
    group = group$name, page = "", study = "", file = names(broken), finding = "",
    proof = "", problem = unname(broken)))
  rows
}

# What of a page's proof does not hold.
page_unproven <- function(page) {
  if (page_failed(page)) "" else paste(broken_proof(ll_proof(page$result)), collapse = " ")
}

# A page's table and picture; gives back what went wrong, empty where nothing did.
write_page <- function(page, path) {
  if (page_failed(page)) return(conditionMessage(page$error))
  tryCatch({
    ll_save(page$result, paste0(path, ".csv"))
    ll_save(page$result, paste0(path, ".png"))
    ""
  }, error = conditionMessage)
}

# A path as seen from a folder, with forward slashes; whole where they have nothing in common.
path_from <- function(file, folder) {
  file <- strsplit(normalizePath(file, "/"), "/", fixed = TRUE)[[1]]
  folder <- strsplit(normalizePath(folder, "/", mustWork = FALSE), "/", fixed = TRUE)[[1]]
  if (folder[1] %in% c(".", "..") || !identical(file[1], folder[1]))
    return(paste(file, collapse = "/"))
  n <- min(length(file) - 1, length(folder))
  same <- sum(cumprod(file[seq_len(n)] == folder[seq_len(n)]))
  if (same < 2) return(paste(file, collapse = "/"))
  paste(c(rep("..", length(folder) - same), file[-seq_len(same)]), collapse = "/")
}

# Finished files go over the old ones one by one, the record last; what only the earlier record
# names is taken away.
put_in_place <- function(staged, out) {
  files <- list.files(staged, recursive = TRUE)
  files <- c(setdiff(files, "record.json"), "record.json")
  earlier <- recorded_files(out)
  for (folder in unique(file.path(out, dirname(files)))) dir.create(folder, FALSE, TRUE)
  for (file in files) if (!file.rename(file.path(staged, file), file.path(out, file)))
    ll_abort(paste0("The file ", quoted(file.path(out, file)), " cannot be written."), "target")
  left <- setdiff(earlier, files)
  unlink(file.path(out, left))
  # Folders of names that are gone, if nothing else is in them.
  for (folder in setdiff(unique(dirname(left)), "."))
    if (!length(list.files(file.path(out, folder), all.files = TRUE, no.. = TRUE)))
      unlink(file.path(out, folder), recursive = TRUE)
}

recorded_files <- function(out) {
  path <- file.path(out, "record.json")
  if (!file.exists(path)) return(character())
  found <- tryCatch(jsonlite::fromJSON(path)$files, error = function(e) NULL)
  # Only files that lie in the folder are ours to take away.
  found <- as.character(unlist(found))
  found[!grepl("(^|/)\\.\\.(/|$)|^/|^[A-Za-z]:", found)]
}
