#' Save a result to a file
#'
#' The kind goes by the ending: `.csv` and `.parquet` (the table), `.json` (everything),
#' `.xlsx` (the table, and a sheet with reading, notes and proof), `.png`, `.svg`, `.pdf` (the
#' figure). Files are made in a folder beside the target, looked at and renamed when they are whole,
#' so that a stop or a full disk leaves an older file as it was. A file that the answer comes from
#' is never written over.
#'
#' @param x (`ll_result`) what a study returned.
#' @param file (text) the path; its ending says what to write.
#' @param width,height (number, inches) the size of a figure; a PNG has 144 dots per inch.
#' @param foot (`TRUE` or `FALSE`) whether CSV and Parquet also have the rows below the table, which
#'   hold the rest, what has no name and the total; then a column `row` says `"table"` or `"foot"`.
#' @return The path, invisibly.
#' @section Errors: `ll_error_target` for an unknown ending, a place that cannot be written, a full
#' disk or a file that was read,
#' `ll_error_package` where a package for the kind is missing.
#' @examples
#' file <- tempfile(fileext = ".csv")
#' ll_save(ll_standings(ll_demo(), each = "rep", top = 5), file)
#' readLines(file, n = 2)
#' @export
ll_save <- function(x, file, width = 8.9, height = 5.6, foot = FALSE) {
  facts(x)
  foot <- check_flag(foot, "foot")
  if (!is.character(file) || length(file) != 1 || is.na(file) || !nzchar(file))
    ll_abort("'file' must be one path.", "argument")
  kind <- check_ending(file)
  table <- rows_of(x, foot && kind %in% c("csv", "parquet"))
  write_whole(file, function(path) {
    switch(kind, csv = write_csv(table, path), json = put_lines(as_json(x), path),
           xlsx = write_xlsx(x, path), parquet = write_parquet(table, path),
           write_figure(x, path, kind, width, height))
  }, facts(x)$book$files, nrow(table))
}

save_kinds <- c("csv", "json", "xlsx", "parquet", "png", "svg", "pdf")

write_parquet <- function(table, path) {
  needs_package("nanoparquet", "A Parquet file")
  nanoparquet::write_parquet(table, path)
}

check_ending <- function(file) {
  kind <- tolower(sub(".*\\.", "", basename(file)))
  if (!grepl(".", basename(file), fixed = TRUE) || !kind %in% save_kinds)
    ll_abort(c(paste0("The ending of ", quoted(file), " says not what to write."),
               i = paste0("Endings: ", and_list(paste0(".", save_kinds), 9, "or"), ".")), "target")
  kind
}
