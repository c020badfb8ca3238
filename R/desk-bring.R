# A file of one's own on the desk, where whoever serves it lets people bring one: it is opened as a
# book of that person alone, with the metrics of a first brief, and is gone when the page is.

# The file is opened beside, so that nobody waits for it.
bring_file <- function(me, brought) {
  if (!me$shared$upload || !is.data.frame(brought) || nrow(brought) != 1) return(invisible())
  title <- one_line(basename(as.character(brought$name)))
  ending <- tolower(tools::file_ext(title))
  if (!ending %in% brought_endings())
    ll_abort(c(paste0(quoted(title), " is no file of lines that can be brought here."),
               i = paste0("Bring one as ", and_list(brought_endings(), last = "or"), ".")), "file")
  # Under a name of ours: what a file is called is not to be trusted as a path.
  folder <- tempfile("brought-")
  dir.create(folder, mode = "0700")
  path <- file.path(folder, paste0("lines.", ending))
  suppressWarnings(file.rename(brought$datapath, path)) || file.copy(brought$datapath, path)
  me$brought <- c(me$brought, folder)
  job <- list(kind = "bring", path = path, title = tools::file_path_sans_ext(title))
  me$bringing <- list(job = start_job(me$home, job), path = path, name = title)
  one_more(me$work)
  said_note(me, paste0("Opening ", quoted(title), " \u2026"))
}

# The file when it is open: from then on this page is about it. Whether it is still being opened.
take_brought <- function(me) {
  bringing <- me$bringing
  if (is.null(bringing)) return(FALSE)
  done <- job_done(me$home, bringing$job)
  if (is.null(done)) return(TRUE)
  me$bringing <- NULL
  tryCatch({
    if (inherits(done$value, "condition")) stop(done$value)
    show_brought(me, done$value, bringing)
  }, error = function(e) {
    # Nobody knows the file by our name for it.
    me$said(said_error(gsub(bringing$path, bringing$name, conditionMessage(e), fixed = TRUE)))
    keep_brought(me, setdiff(me$brought, dirname(bringing$path)))
  })
  FALSE
}

show_brought <- function(me, book, bringing) {
  desk <- drafted_desk(book, bringing$path, bringing$name)
  keep_brought(me, dirname(c(bringing$path, desk$brief$file)))
  look_at(me, new_shared(desk$book, desk$brief, desk$reopen, upload = TRUE))
  fixes <- fixes_made(book)
  said_note(me, paste0(
    "This page is about ", quoted(bringing$name), " now, ", plural(book$lines, "line"),
    if (NROW(fixes)) paste0("; on opening: ", paste(fixes$text, collapse = "; ")),
    ". Loaded anew it is about the desk's own book again."))
}

# Another book for one person, on an empty desk.
look_at <- function(me, shared) {
  for (id in names(me$jobs)) drop_job(me, id)
  me$shared <- shared
  me$done <- list()
  me$seen <- list()
  me$coming <- NULL
  me$looked_at <- NULL
  me$form(NULL)
  me$agenda(NULL)
  set_desk(me, new_desk())
  one_more(me$book)
  tell_page(me, "book", list(title = page_text(desk_title(shared$book)),
                             words = page_text(book_words(shared$book)),
                             hint = page_text(question_hint(shared$book))))
}

# Only these of the folders of one person; none when they are gone.
keep_brought <- function(me, folders) {
  unlink(setdiff(me$brought, folders), recursive = TRUE)
  me$brought <- folders
}
