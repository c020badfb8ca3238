# A desk on lines alone works on the brief that a first look would write. It stands in a folder of
# ours until the person saves it from the page, and is gone with the process otherwise.

# list(book, brief, reopen) of an open book whose lines are in the file at `path`, which a saved
# brief calls `name`; without a brief where nothing can be added up.
drafted_desk <- function(book, path, name = path) {
  out <- with_drafted(book)
  if (!length(out$metrics)) return(list(book = out))
  folder <- tempfile("desk-brief-")
  dir.create(folder, mode = "0700")
  file <- file.path(folder, "longladder.yml")
  writeLines(enc2utf8(draft_text(book, path, folder)), file, useBytes = TRUE)
  unsaved <- list(path = path, name = name)
  read <- read_brief(file)
  list(book = out, brief = structure(list(book = out, pages = read$pages, file = file,
                                          keys = read$keys, text = read$text, unsaved = unsaved),
                                     class = "ll_brief"),
       reopen = function() {
         brief <- ll_brief(file)
         brief$unsaved <- unsaved
         brief
       })
}

# What the brief is called where it is told that something stands in it.
brief_called <- function(brief) {
  if (is.null(brief$unsaved)) basename(brief$file) else
    "the brief, which is not saved yet (The brief, at the side)"
}

# The text of a brief as it is saved, its lines by the name that the person knows.
brief_to_save <- function(brief) {
  text <- as_utf8(readLines(brief$file, warn = FALSE))
  unsaved <- brief$unsaved
  if (is.null(unsaved) || identical(unsaved$path, unsaved$name)) return(text)
  gsub(draft_path(unsaved$path, dirname(brief$file)), draft_quoted(unsaved$name), text,
       fixed = TRUE)
}

save_brief <- function(me) {
  shiny::downloadHandler("longladder.yml", function(file) {
    if (!me$known || is.null(me$shared$brief)) stop("There is no brief to save.")
    writeLines(enc2utf8(brief_to_save(me$shared$brief)), file, useBytes = TRUE)
  }, "application/yaml")
}
