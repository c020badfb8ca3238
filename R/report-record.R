# The record of a run: what was read, by what versions, and what became of each page. No secrets.

# `made` are the rows of the run, `folder` holds its finished files, `left` are rows of the earlier
# record whose files stay.
write_record <- function(brief, made, folder, for_each, left) {
  book <- brief$book
  one <- jsonlite::unbox
  files <- list.files(folder, recursive = TRUE)
  paths <- file.path(folder, files)
  written <- rbind(data.frame(file = files, bytes = file.size(paths),
                              md5 = unname(tools::md5sum(paths))),
                   left[c("file", "bytes", "md5")])
  signature <- own_signature(written_text(written), make = TRUE)
  record <- list(
    # By its signature and the sums of its files the next run knows them for ours.
    program = one("longladder"),
    made = one(format(Sys.time(), "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")),
    brief = list(file = one(brief$file), md5 = one(unname(tools::md5sum(brief$file)))),
    set = lapply(as.list(brief$set), function(x) one(paste(x, collapse = ","))),
    only = brief$only %||% empty_object(),
    for_each = if (!is.null(for_each)) one(for_each),
    read = files_read(brief), lines = one(book$lines),
    first_day = if (length(book$days)) one(format(as_day(first_day(book)))),
    last_day = if (length(book$days)) one(format(as_day(last_day(book)))),
    versions = list(longladder = one(format(utils::packageVersion("longladder"))),
                    R = one(as.character(getRversion())), platform = one(R.version$platform)),
    pages = made[c("group", "page", "study", "file", "finding", "proof", "problem")],
    files = I(c(files, "record.json")), written = written,
    signed = if (!is.null(signature)) one(signature))
  put_lines(jsonlite::toJSON(record, pretty = 2, null = "null", na = "null", digits = NA),
            file.path(folder, "record.json"))
  if (is.null(signature)) tell(paste0(
    "note: no key could be kept in ", quoted(own_folder()), ", so that the record is not signed; ",
    "the next run into this folder wants --trust-folder"))
}

# Each file that the book was read from, with its size, checksum and rows.
files_read <- function(brief) {
  read <- brief$book$read
  paths <- unlist(read, use.names = FALSE)
  if (!length(paths)) return(data.frame())
  what <- rep(names(read), lengths(read))
  rows <- c(lines = brief$book$lines, vapply(brief$book$registers, `[[`, 0, "rows"))
  # Of several files the rows are known together only.
  alone <- what %in% names(read)[lengths(read) == 1]
  data.frame(what = what, file = paths, bytes = file.size(paths),
             md5 = unname(tools::md5sum(paths)), rows = ifelse(alone, unname(rows[what]), NA))
}
