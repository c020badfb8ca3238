# The files of a run put in their place: all of them, or none and the folder as it was. What an
# earlier run wrote is known by its record and by its content; nothing else is replaced or deleted,
# and no link is followed out of the folder.

# `stage` holds the finished files in its folder `new`; `mine` are files of an earlier run that may
# be replaced, `gone` those that are no longer made. Moves are planned in a file first, so that the
# next run can take them back if this one is killed midway.
place_files <- function(stage, out, gone = character()) {
  new <- file.path(stage$path, "new")
  if (!file.exists(out)) {
    Sys.chmod(new, "0777")
    if (suppressWarnings(file.rename(new, out))) return(invisible(kernel_settle(dirname(out))))
    target_error(out, "the finished folder could not be put in its place")
  }
  files <- list.files(new, recursive = TRUE)
  files <- c(setdiff(files, "record.json"), "record.json")
  there <- files[file.exists(file.path(out, files))]
  inside <- same_folder(dirname(stage$path), out)
  plan <- list(out = if (inside) "." else basename(out), files = files, there = there, gone = gone,
               mark = plan_mark(stage$path, out))
  put_lines(jsonlite::toJSON(plan, auto_unbox = FALSE), file.path(stage$path, "plan.json"))
  wrong <- tryCatch({
    move_files(stage$path, out, files, c(there, gone))
    NULL
  }, error = identity, interrupt = identity)
  if (is.null(wrong)) return(invisible(kernel_settle(out)))
  restore_placed(stage$path, dirname(stage$path))
  if (inherits(wrong, "error")) target_error(out, conditionMessage(wrong),
                                             i = "The folder stays as it was.")
  stop(wrong)
}

move_files <- function(stage, out, files, away) {
  for (file in away) move_file(file.path(out, file), file.path(stage, "old", file))
  for (file in files) move_file(file.path(stage, "new", file), file.path(out, file))
  remove_empty(out, dirname(away))
  unlink(file.path(stage, "plan.json"))
}

move_file <- function(from, to) {
  dir.create(dirname(to), FALSE, TRUE)
  if (!suppressWarnings(file.rename(from, to)))
    stop("the file ", quoted(basename(to)), " could not be moved")
}

# Folders of names that are gone, if nothing else is in them.
remove_empty <- function(out, folders) {
  for (folder in file.path(out, setdiff(unique(folders), ".")))
    if (dir.exists(folder) && !length(list.files(folder, all.files = TRUE, no.. = TRUE)))
      unlink(folder, recursive = TRUE)
}

same_folder <- function(a, b) identical(kernel_identity(a), kernel_identity(b))

# A plan counts only where it was made: one that came in an archive has other marks.
plan_mark <- function(stage, out) {
  c(kernel_identity(file.path(stage, "lock")), kernel_identity(out))
}

# Takes back what was moved by a run that did not come to its end.
restore_placed <- function(stage, beside) {
  path <- file.path(stage, "plan.json")
  if (!kernel_own(path, FALSE)) return(invisible())
  plan <- tryCatch(jsonlite::fromJSON(path), error = function(e) NULL)
  out <- file.path(beside, basename(as.character(plan$out)))
  if (!length(plan$mark) || !identical(plan$mark, plan_mark(stage, out))) return(invisible())
  for (file in as.character(plan$files))
    if (!file %in% plan$there && !file.exists(file.path(stage, "new", file)))
      unlink(literal_path(out, file))
  for (file in as.character(c(plan$there, plan$gone)))
    if (file.exists(file.path(stage, "old", file)))
      file.rename(file.path(stage, "old", file), file.path(out, file))
  remove_empty(out, dirname(as.character(plan$files)))
  unlink(path)
}

# unlink() reads wildcards in a name; names of ours have none, and others are left.
literal_path <- function(folder, file) {
  file.path(folder, file[!grepl("[*?[]", file)])
}

# What stands in the way of the files of a run: NULL, or list(file, why, foreign), the last whether
# the person may have it written over.
in_the_way <- function(out, files, mine, read, replace) {
  for (file in files) {
    path <- file.path(out, file)
    why <- refused_place(path, dirname(file) != ".", read)
    foreign <- is.null(why) && !replace && !file %in% mine && (file.exists(path) || is_link(path))
    if (foreign) why <- "no earlier run wrote it, or it was changed since"
    if (length(why)) return(list(file = path, why = why, foreign = foreign))
  }
}

# Why nothing can be written there whatever the person says; NULL where it can.
refused_place <- function(path, in_folder, read) {
  folder <- dirname(path)
  if (in_folder && is_link(folder)) return("its folder is a link to another")
  if (file.exists(folder) && !dir.exists(folder)) return("a file stands where its folder should")
  if (dir.exists(path)) return("a folder has that name")
  if (file.exists(path) && length(read) && any(kernel_same_file(path, path.expand(read))))
    "the answer comes from this very file"
}

is_link <- function(path) !Sys.readlink(path) %in% c("", NA)

# The files that the record of a folder, if it is ours, names, by exact name: a data frame of file, bytes, md5 and
# same, whether the file is still as it was written. Empty where the record is none of ours.
recorded_files <- function(out, record) {
  known <- record$written
  if (is.null(known)) known <- data.frame(file = character(), bytes = numeric(), md5 = character())
  known <- known[grepl(run_name, known$file), ]
  at <- file.path(out, known$file)
  plain <- file.exists(at) & !dir.exists(at) & !is_link(at) &
    (dirname(known$file) == "." | !is_link(dirname(at)))
  # Of a folder there is no sum, and R would warn of it.
  known$same <- plain
  known$same[plain] <- known$md5[plain] == unname(tools::md5sum(at[plain]))
  known
}

# The record of a folder; NULL where there is none of ours: one that this account's key signed, or,
# where the person says that it is theirs (`trust`), one that looks so.
own_record <- function(out, trust = FALSE) {
  path <- file.path(out, "record.json")
  if (!file.exists(path)) return(NULL)
  record <- tryCatch(jsonlite::fromJSON(path), error = function(e) NULL)
  ours <- is.list(record) && identical(record$program, "longladder") &&
    is.data.frame(record$written) && all(c("file", "bytes", "md5") %in% names(record$written)) &&
    is.character(record$written$file) && is.character(record$written$md5)
  if (ours && (trust || is_signed(record))) record
}

is_signed <- function(record) {
  signature <- own_signature(written_text(record$written))
  !is.null(signature) && identical(record$signed, signature)
}

# What a record is signed for: the files and their contents, wherever the folder is moved.
written_text <- function(written) {
  each <- sprintf("%s %.0f %s", written$file, written$bytes, written$md5)
  paste(c("longladder run", sort(each, method = "radix")), collapse = "\n")
}

# What files of a run are called, in a folder of a name or without: see file_words().
run_name <- paste0("^([a-z0-9-]+/)?([a-z0-9-]+\\.(csv|png)|workbook\\.xlsx|report\\.html|",
                   "notebook\\.Rmd)$")
