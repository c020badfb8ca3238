# Whether a finished file is whole, by what its kind must begin and end with. Devices and writers of
# other packages tell nothing when the disk is full, and leave a shorter file.

# What is wrong with a file of a kind, NULL where nothing is.
damage <- function(path, kind, rows = NULL) {
  if (!file.exists(path) || file.size(path) == 0) return("nothing was written")
  whole <- tryCatch(switch(
    kind, csv = ends_in(path, "\n"), json = , rmd = , yml = , yaml = , md = ends_in(path, "\n"),
    svg = closes(tail_text(path), "svg"), html = , htm = closes(tail_text(path), "html"),
    png = whole_png(path), pdf = whole_pdf(path), xlsx = whole_xlsx(path),
    parquet = whole_parquet(path, rows), TRUE), error = function(e) FALSE)
  if (!isTRUE(whole)) return("the file that came out is not whole")
  wrong <- kernel_settle(path)
  if (nzchar(wrong)) wrong
}

last_bytes <- function(path, n) {
  con <- file(path, "rb")
  on.exit(close(con))
  seek(con, max(0, file.size(path) - n))
  readBin(con, "raw", n)
}

tail_text <- function(path) rawToChar(last_bytes(path, 200))

ends_in <- function(path, text) identical(rawToChar(last_bytes(path, nchar(text))), text)

# Text of XML or HTML whose last tag is that of its root.
closes <- function(text, root) {
  grepl(paste0("</", root, ">\\s*$"), text, ignore.case = TRUE, useBytes = TRUE)
}

# Blocks of length, name and content follow one another up to the one called IEND (PNG, section 5).
whole_png <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  if (!identical(bytes[1:8], as.raw(c(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a))))
    return(FALSE)
  at <- 8
  while (at + 12 <= length(bytes)) {
    size <- sum(as.integer(bytes[at + 1:4]) * 256^(3:0))
    name <- rawToChar(bytes[at + 5:8])
    at <- at + 12 + size
    if (name == "IEND") return(at == length(bytes))
  }
  FALSE
}

# The end names the byte at which the table of objects begins (PDF, section on file structure).
whole_pdf <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  tail <- rawToChar(utils::tail(bytes, 100))
  found <- regmatches(tail, regexec("startxref\\s+([0-9]+)\\s+%%EOF\\s*$", tail))[[1]]
  at <- as.numeric(found[2])
  if (is.na(at) || at + 10 > length(bytes)) return(FALSE)
  identical(rawToChar(bytes[1:5]), "%PDF-") &&
    grepl("^\\s*(xref|[0-9]+ 0 obj)", rawToChar(bytes[at + 1:10]))
}

# Each part of the archive unpacks, and each of XML ends with the tag that it began with.
whole_xlsx <- function(path) {
  parts <- utils::unzip(path, list = TRUE)
  if (!all(c("[Content_Types].xml", "xl/workbook.xml") %in% parts$Name)) return(FALSE)
  all(mapply(function(name, size) {
    con <- unz(path, name, "rb")
    on.exit(close(con))
    bytes <- readBin(con, "raw", size + 1)
    if (length(bytes) != size || size == 0) return(FALSE)
    if (!grepl("\\.(xml|rels|vml)$", name)) return(TRUE)
    root <- regmatches(start <- rawToChar(bytes[seq_len(min(size, 2000))]),
                       regexpr("<[A-Za-z][^ />]*", start, useBytes = TRUE))
    end <- rawToChar(utils::tail(bytes, 100))
    closes(end, substring(root, 2)) || grepl("^<[^>]*/>\\s*$", sub("^<\\?.*?\\?>\\s*", "", start),
                                             useBytes = TRUE)
  }, parts$Name, parts$Length))
}

# The end holds the table of contents, whose length stands before the last mark.
whole_parquet <- function(path, rows) {
  if (!ends_in(path, "PAR1")) return(FALSE)
  found <- nanoparquet::read_parquet_info(path)$num_rows
  is.null(rows) || isTRUE(found == rows)
}

target_error <- function(file, why, ...) {
  ll_abort(c(paste0("The file ", quoted(file), " cannot be written."),
             x = paste0(sub("\\.$", "", fit_text(one_line(why), 200)), "."), ...), "target")
}
