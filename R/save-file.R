#' Save a result to a file
#'
#' The kind goes by the ending: `.csv` and `.parquet` (the bare table), `.json` (everything),
#' `.xlsx` (the table, and a sheet with reading, notes and proof), `.png`, `.svg`, `.pdf` (the
#' figure). Files are written beside the target and renamed when complete, so that a stop leaves an
#' older file whole.
#'
#' @param x (`ll_result`) what a study returned.
#' @param file (text) the path; its ending says what to write.
#' @param width,height (number, inches) the size of a figure; a PNG has 144 dots per inch.
#' @return The path, invisibly.
#' @section Errors: `ll_error_target` for an unknown ending or a place that cannot be written,
#' `ll_error_package` where a package for the kind is missing.
#' @examples
#' file <- tempfile(fileext = ".csv")
#' ll_save(ll_standings(ll_demo(), each = "rep", top = 5), file)
#' readLines(file, n = 2)
#' @export
ll_save <- function(x, file, width = 8.9, height = 5.6) {
  facts(x)
  if (!is.character(file) || length(file) != 1 || is.na(file) || !nzchar(file))
    ll_abort("'file' must be one path.", "argument")
  kind <- check_ending(file)
  write_whole(file, function(path) {
    switch(kind, csv = write_csv(x, path), json = writeLines(as_json(x), path, useBytes = TRUE),
           xlsx = write_xlsx(x, path), parquet = write_parquet(x, path),
           write_figure(x, path, kind, width, height))
  })
  invisible(file)
}

save_kinds <- c("csv", "json", "xlsx", "parquet", "png", "svg", "pdf")

# The bare table.
write_parquet <- function(x, path) {
  needs_package("nanoparquet", "A Parquet file")
  nanoparquet::write_parquet(plain_frame(x), path)
}

check_ending <- function(file) {
  kind <- tolower(sub(".*\\.", "", basename(file)))
  if (!grepl(".", basename(file), fixed = TRUE) || !kind %in% save_kinds)
    ll_abort(c(paste0("The ending of ", quoted(file), " says not what to write."),
               i = paste0("Endings: ", and_list(paste0(".", save_kinds), 9, "or"), ".")), "target")
  kind
}

# Writes under a temporary name beside the target, then renames.
write_whole <- function(file, write) {
  check_target(file)
  part <- tempfile(paste0(".", basename(file), "-"), dirname(file),
                   paste0(".", sub(".*\\.", "", basename(file))))
  on.exit(unlink(part))
  tryCatch(write(part), error = function(e) {
    if (inherits(e, "ll_error")) stop(e)
    target_error(file, conditionMessage(e))
  })
  if (!file.exists(part) || !suppressWarnings(file.rename(part, file)))
    target_error(file, "the finished file could not be put in its place")
}

target_error <- function(file, why, ...) {
  ll_abort(c(paste0("The file ", quoted(file), " cannot be written."),
             x = paste0(fit_text(one_line(why), 200), "."), ...), "target")
}

check_target <- function(file) {
  folder <- dirname(file)
  if (dir.exists(file)) target_error(file, "a folder has that name")
  if (!dir.exists(folder)) target_error(file,
                                        paste0("the folder ", quoted(folder), " does not exist"))
  if (file.access(folder, 2) != 0)
    target_error(file, paste0("the folder ", quoted(folder), " may not be written to"))
}
