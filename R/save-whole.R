# Files written as a whole or not at all: made in a folder of our own beside the target, looked at,
# brought to rest on the disk, and only then renamed. A stop leaves the older file as it was, and
# what a dead process left behind goes with the next that writes there.

# `write(path)` makes the file under another name with the same ending; `read` are files that the
# answer comes from, which are never written over; `rows` of a table that should be in it.
write_whole <- function(file, write, read = character(), rows = NULL) {
  check_target(file, read)
  stage <- open_stage(dirname(file), function(why) target_error(file, why), restore_placed)
  on.exit(close_stage(stage))
  # Packages that write files draw names of temporary ones, which is nothing to the caller's draws.
  seed <- globalenv()$.Random.seed
  on.exit(restore_seed(seed), add = TRUE)
  part <- file.path(stage$path, paste0("part.", file_ending(file)))
  told <- list()
  wrong <- tryCatch({
    # What a device warns of while the disk is full is told once, as the reason.
    withCallingHandlers(write(part), warning = function(w) {
      told <<- c(told, list(w))
      invokeRestart("muffleWarning")
    })
    NULL
  }, error = function(e) {
    if (inherits(e, "ll_error")) stop(e)
    conditionMessage(e)
  })
  wrong <- wrong %||% damage(part, file_ending(file), rows)
  if (length(wrong)) target_error(file, no_room(stage$path) %||% wrong, i = older_stays(file))
  if (!suppressWarnings(file.rename(part, file)))
    target_error(file, "the finished file could not be put in its place", i = older_stays(file))
  kernel_settle(dirname(file))
  for (w in told) warning(w)
  invisible(file)
}

restore_seed <- function(seed) {
  if (!is.null(seed)) return(assign(".Random.seed", seed, globalenv()))
  if (exists(".Random.seed", globalenv(), inherits = FALSE)) rm(".Random.seed", envir = globalenv())
}

older_stays <- function(file) if (file.exists(file)) "The older file stays as it was."

file_ending <- function(file) tolower(sub(".*\\.", "", basename(file)))

# What keeps a folder, or that of temporary files, from taking a file of some size; NULL where
# nothing does.
no_room <- function(folder, size = 2^20) {
  for (place in c(folder, tempdir())) {
    probe <- tempfile("probe-", place)
    why <- kernel_write(probe, raw(size), FALSE)
    unlink(probe)
    if (nzchar(why)) return(paste0(
      why, if (place != folder) paste0(", in the folder for temporary files, ", quoted(place))))
  }
}

# R keeps its temporary files in a folder that it does not take away when it is killed. Ours are
# marked, and those of dead processes go at the next start.
mark_temporary <- function() {
  if (is.null(temporary$held) || temporary$held < 0)
    temporary$held <- kernel_hold(file.path(tempdir(), temporary_lock))
  for (path in list.files(dirname(tempdir()), "^Rtmp", full.names = TRUE))
    if (path != tempdir()) take_left(path, temporary_lock)
}

temporary <- new.env(parent = emptyenv())
temporary_lock <- "longladder.lock"

# Before anything is asked: a place that cannot be written to, or a file that was read.
check_target <- function(file, read = character()) {
  folder <- dirname(file)
  if (dir.exists(file)) target_error(file, "a folder has that name")
  if (!dir.exists(folder)) target_error(file,
                                        paste0("the folder ", quoted(folder), " does not exist"))
  if (file.access(folder, 2) != 0)
    target_error(file, paste0("the folder ", quoted(folder), " may not be written to"))
  if (file.exists(file) && file.access(file, 2) != 0)
    target_error(file, "it is there and may not be written to")
  refuse_read(file, read)
  refuse_odd_target(file)
}

# A link is not written through, and nothing takes the place of a pipe or a device.
refuse_odd_target <- function(file) {
  if (is_link(file))
    target_error(file, paste("it is a link to", quoted(Sys.readlink(file))),
                 i = "Name that file itself.")
  if (file.exists(file) && !dir.exists(file) && !kernel_regular(path.expand(file)))
    target_error(file, "it is there and is no regular file")
}

refuse_read <- function(file, read) {
  if (length(read) && any(kernel_same_file(path.expand(file), path.expand(read))))
    target_error(file, "the answer comes from this very file", i = "Give another name.")
}
