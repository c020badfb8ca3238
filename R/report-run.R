# Everything of a brief at once: tables, pictures, workbook, report, notebook, and a record of what
# was read. All is made in a hidden folder and put in its place at the end.

#' Run a brief
#'
#' Runs the pages of a brief and writes, into a folder: each page as a table (`.csv`) and a picture
#' (`.png`), `workbook.xlsx`, `report.html`, `notebook.Rmd`, and `record.json`, which tells what was
#' read (files with size, checksum and lines, dates, versions) and what became of each page. New
#' lines, customers and names need no edit.
#'
#' A page that fails is told, and the others still come. Everything is made in a hidden folder and
#' moved into its place at the end, all files or none, so that a run that is stopped or finds the
#' disk full leaves the earlier output as it was. Files of an earlier run that are no longer made
#' are then taken away; a notebook that was edited stays as it is; whatever else is there is left,
#' and where it bears the name of a file of the run, the run is refused.
#'
#' What an earlier run wrote is known by its record, which bears a signature by this account's key
#' (in the folder that [tools::R_user_dir()] gives for configuration, or that the environment variable
#' `LONGLADDER_CONFIG` names). A record that this account did not sign decides nothing: say
#' `trust_folder` where an earlier run wrote it under another account, in a container, or by a
#' version that did not sign.
#'
#' @param brief (`ll_brief` or path) the brief.
#' @param out (text) the folder; it is made where it does not exist.
#' @param pages (text) names of pages; all if not given.
#' @param for_each (text) a dimension: one set of files, in a folder of its own, for each of its
#'   names, and one of "(none)" for lines without a name. Where it is not given and amounts are in
#'   several currencies that nothing decides, one for each currency.
#' @param tell (function) called with each message while it runs.
#' @param replace (flag) whether to write over files that no earlier run wrote or that were changed
#'   since; never over what was read.
#' @param trust_folder (flag) whether the record of the folder counts as one of this account's though
#'   it bears no signature of it.
#' @return Invisibly, a data frame of `group` (the name of `for_each`, or empty), `page`, `study`,
#'   `file` (what its files are called), `finding`, `proof` (what does not hold; empty where all
#'   does) and `problem` (empty where all went well). Its attribute `left` tells which files of an
#'   earlier run were changed since and were left, `obeyed` which files of the folder can run code
#'   when a notebook is rendered there by hand (see [ll_render()]).
#' @section Errors: `ll_error_target` where the folder cannot be written or holds files of others,
#' `ll_error_word` for an unknown page or dimension, and those of [ll_brief()].
#' @examplesIf requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available("2.0")
#' brief <- system.file("extdata", "longladder.yml", package = "longladder")
#' made <- ll_run(brief, file.path(tempdir(), "march"), pages = "reps")
#' list.files(file.path(tempdir(), "march"))
#' @export
ll_run <- function(brief, out, pages = NULL, for_each = NULL, tell = function(text) NULL,
                   replace = FALSE, trust_folder = FALSE) {
  if (!inherits(brief, "ll_brief")) brief <- ll_brief(brief)
  check_folder(out)
  trust_folder <- check_flag(trust_folder, "trust_folder")
  replace <- check_flag(replace, "replace")
  groups <- run_groups(brief, for_each)
  # Told before the work as far as it is known, and looked at again when all is made.
  refuse <- function(files) refuse_foreign(out, files, brief, replace, trust_folder)
  earlier <- refuse(planned_files(brief, groups, pages))
  # Within the folder where it is there: beside it another disk may be.
  beside <- if (dir.exists(out)) out else dirname(out)
  stage <- open_stage(beside, function(why) target_error(out, why), restore_placed)
  on.exit(close_stage(stage))
  staged <- file.path(stage$path, "new")
  dir.create(staged)
  made <- do.call(rbind, lapply(groups, function(group) {
    run_group(brief, group, staged, out, pages, tell)
  }))
  row.names(made) <- NULL
  refuse_full(made, stage, out)
  left <- if (!replace) keep_edited(staged, out, earlier)
  tryCatch({
    # What was left stays known as ours, by what we once wrote.
    write_record(brief, made, staged, for_each, earlier[earlier$file %in% left, ])
    files <- list.files(staged, recursive = TRUE)
    earlier <- refuse(files)
    place_files(stage, out, setdiff(earlier$file[earlier$same], c(files, left)))
  }, disk_error = function(e) target_error(out, conditionMessage(e)))
  tell(paste0("wrote ", length(files), " files into ", out))
  folders <- unique(dirname(file.path(out, files)))
  invisible(structure(made, left = left_words(out, earlier, files, left),
                      obeyed = unlist(lapply(folders, obeyed_words))))
}

# Where the disk is full no page is worth keeping: the whole run is refused, for that reason.
refuse_full <- function(made, stage, out) {
  if (!any(nzchar(made$problem))) return(invisible())
  wrong <- no_room(stage$path)
  if (length(wrong))
    target_error(out, wrong, i = if (file.exists(out)) "The folder stays as it was.")
}

# What the run will write, as far as its pages tell.
planned_files <- function(brief, groups, pages) {
  names <- file_words(pages_in_order(brief, pages))
  each <- c(paste0(names, ".csv"), paste0(names, ".png"), "workbook.xlsx", "report.html")
  folders <- vapply(groups, `[[`, "", "folder")
  c(unlist(lapply(folders, function(folder) {
    if (nzchar(folder)) file.path(folder, each) else each
  })), "record.json")
}

# Stops where files of others are in the way; gives back those of an earlier run.
refuse_foreign <- function(out, files, brief, replace, trust) {
  record <- own_record(out, trust)
  earlier <- recorded_files(out, record)
  # The record itself is known by its signature.
  mine <- c(earlier$file[earlier$same], if (!is.null(record)) "record.json")
  held <- in_the_way(out, files, mine, brief$book$files, replace)
  if (is.null(held)) return(earlier)
  unsigned <- held$foreign && is.null(record) && !is.null(own_record(out, TRUE))
  target_error(held$file, if (unsigned)
    "the record of its folder bears no signature of this account" else held$why,
    i = if (unsigned) paste(
      "If an earlier run of yours wrote that folder, under another account, in a container or by an",
      "older version: --trust-folder (from R: trust_folder = TRUE)."),
    i = paste0("Choose another folder", if (held$foreign)
      ", move the file, or write over it with --replace (from R: replace = TRUE)", "."))
}

# A notebook is meant to be edited: one that was is not written over. Gives back which were left.
keep_edited <- function(staged, out, earlier) {
  changed <- changed_files(out, earlier)
  left <- intersect(changed[basename(changed) == "notebook.Rmd"],
                    list.files(staged, recursive = TRUE))
  unlink(file.path(staged, left))
  left
}

changed_files <- function(out, earlier) {
  earlier$file[!earlier$same & file.exists(file.path(out, earlier$file))]
}

# Files of the earlier run that others have changed since, and that were therefore left.
left_words <- function(out, earlier, files, edited) {
  kept <- setdiff(changed_files(out, earlier), files)
  paste0(quoted(file.path(out, kept))[seq_along(kept)],
         " was changed since the earlier run and is left as it is",
         ifelse(kept %in% edited, "", ", though it is no longer made"), recycle0 = TRUE)
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

# Names of the dimension, each with a folder and its book; without a dimension the whole book, or the
# currencies where there are several.
run_groups <- function(brief, for_each) {
  # Lines in several currencies are run apart.
  if (is.null(for_each) && any(vapply(brief$book$metrics, adds_money, NA)))
    for_each <- brief$book$currencies$field
  if (is.null(for_each)) return(list(list(name = "", folder = "", book = brief$book)))
  for_each <- check_words(for_each, "for_each", one = TRUE)
  names <- names_on_lines(brief$book, for_each)
  if (!length(names))
    ll_abort(paste0("No line has a name for ", quoted(for_each), "."), "data")
  names <- shown_names(names)
  Map(function(name, folder) {
    condition <- stats::setNames(list(name), for_each)
    list(name = name, folder = folder, only = condition,
         book = do.call(ll_where, c(list(brief$book), condition)))
  }, names, file_words(names))
}

# Names of a dimension that have lines, in order; lines without a name come last, missing. Nothing
# where no line has a name.
names_on_lines <- function(book, dimension) {
  asked <- pick_dimensions(book, dimension, "for_each")
  where <- and_also(kept_lines(asked$book), asked$book$only)
  names <- source_fold(book$source, key_trees(asked$book, asked$names, where), list(),
                       where)$keys[[1]]
  if (all(is.na(names))) names[0] else sort(names, na.last = TRUE)
}

run_group <- function(brief, group, staged, out, pages, tell) {
  folder <- staged
  if (nzchar(group$folder)) dir.create(folder <- file.path(staged, group$folder))
  label <- if (nzchar(group$name)) paste0(group$name, ": ") else ""
  done <- run_pages(brief, pages, group$book, function(name) tell(paste0(label, "page ", name)))
  files <- file_words(vapply(done, `[[`, "", "name"))
  # What went wrong speaks of the folder in which the files will be.
  placed <- function(text) gsub(staged, out, text, fixed = TRUE)
  told <- unlist(Map(function(page, file) {
    placed(write_page(page, file.path(folder, file)))
  }, done, files))
  whole <- function(what, work) {
    tell(paste0(label, what))
    tryCatch({
      work(file.path(folder, what))
      ""
    }, ll_error = function(e) placed(conditionMessage(e)))
  }
  title <- paste(c(brief$book$title, if (nzchar(group$name)) group$name), collapse = " \u00b7 ")
  further <- c(
    workbook.xlsx = whole("workbook.xlsx", function(path) {
      write_whole(path, function(part) write_workbook(done, title, part))
    }),
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
    # Lines are read, not drawn.
    if (!inherits(page$result, "ll_result_detail")) ll_save(page$result, paste0(path, ".png"))
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
