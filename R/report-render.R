# A notebook rendered where nothing else lies. R Markdown and pandoc obey files of the folder that
# they work in (`_output.yml` may run R by `!expr` or a filter of pandoc), and a folder may be
# anybody's. So a copy is rendered in an empty folder, while its chunks see their own.

# What rendering picks up in a notebook's own folder without being asked.
obeyed_files <- c("_output.yml", "_output.yaml", "_site.yml", "_metadata.yml", "_quarto.yml",
                  "_bookdown.yml", ".Rprofile", ".Renviron")

#' Render a notebook
#'
#' Renders an R Markdown file, such as the `notebook.Rmd` of [ll_run()], in an empty folder: nothing
#' beside it is obeyed, neither `_output.yml`, which can run code, nor `_site.yml`, `_metadata.yml`
#' and the like. Paths in its chunks count from its own folder, and so do the pictures that its text
#' names. A notebook is R code itself: render what you or those whom you trust wrote.
#'
#' @param file (text) the notebook, ending in `.Rmd`.
#' @param out (text) where the rendered file is written; beside the notebook, with the ending of
#'   its output format, if not given.
#' @return The path of the rendered file, invisibly.
#' @section Errors: `ll_error_file` where there is no such notebook, `ll_error_package` where
#' rmarkdown or pandoc is missing, `ll_error_render` where a chunk or pandoc fails, with its reason,
#' and `ll_error_target` where the file cannot be written.
#' @examplesIf requireNamespace("rmarkdown", quietly = TRUE) && rmarkdown::pandoc_available("2.0")
#' brief <- ll_brief(system.file("extdata", "longladder.yml", package = "longladder"))
#' file <- file.path(tempdir(), "reps.Rmd")
#' ll_notebook(brief, file, pages = "reps")
#' ll_render(file)
#' @export
ll_render <- function(file, out = NULL) {
  file <- check_words(file, "file", one = TRUE)
  if (!is.null(out)) out <- check_words(out, "out", one = TRUE)
  check_readable(file, "chunks")
  if (!grepl("[.]rmd$", file, ignore.case = TRUE, perl = TRUE))
    ll_abort(paste0("A notebook ends in .Rmd, not as ", quoted(basename(file)), "."), "file")
  need_pandoc()
  if (!is.null(out)) check_target(out, file)
  base <- tempfile("render-")
  dir.create(base, mode = "0700")
  on.exit(unlink(base, recursive = TRUE))
  copy <- file.path(base, "notebook.Rmd")
  put_copy(file, copy)
  made <- render_apart(copy, normalizePath(dirname(file), "/"), file)
  out <- out %||% file.path(dirname(file), sub("[.][^.]*$", paste0(".", file_ending(made)),
                                               basename(file)))
  if (file_ending(out) != file_ending(made))
    target_error(out, paste0("the notebook's output ends in .", file_ending(made)))
  write_whole(out, function(path) put_copy(made, path), file)
}

# `file` is what the person calls the notebook that was copied.
render_apart <- function(copy, folder, file) {
  old <- options()
  on.exit(options(old))
  # Pictures that the text names are looked for beside the notebook too.
  beside <- paste0("--resource-path=", paste(c(".", folder), collapse = .Platform$path.sep))
  tryCatch(with_pandoc_home(function() {
    own <- rmarkdown::default_output_format(copy)$options$pandoc_args
    rmarkdown::render(copy, quiet = TRUE, knit_root_dir = folder, envir = new.env(),
                      output_options = list(pandoc_args = c(own, beside)))
  }), error = function(e) {
    if (inherits(e, "ll_error")) stop(e)
    ll_abort(c(paste0("The notebook ", quoted(file), " could not be rendered."),
               x = fit_text(one_line(conditionMessage(e)), 400)), "render")
  })
}

# What is told of a folder into which a notebook is written.
obeyed_words <- function(folder) {
  there <- obeyed_files[file.exists(file.path(folder, obeyed_files))]
  if (length(there)) paste0(
    "note: ", quoted(folder), " holds ", and_list(there), ", which R and R Markdown obey when ",
    "notebook.Rmd is rendered there by hand, and which can run code; 'longladder render' leaves ",
    if (length(there) > 1) "them" else "it", " out")
}
