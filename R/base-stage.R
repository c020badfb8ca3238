# Folders of our own, in which files are made before they take their place; what a dead process left
# goes with the next that works there.

stage_prefix <- ".longladder-"

# A folder of our own: list(path, held). Others may come and look for left ones at the same moment,
# so it counts only once its lock is held and it is still there.
open_stage <- function(beside, refuse, rescue = NULL) {
  sweep_stages(beside, rescue)
  for (try in 1:20) {
    path <- tempfile(stage_prefix, beside)
    if (!dir.create(path, showWarnings = FALSE, mode = "0700"))
      refuse(paste("the folder", quoted(beside), "takes no new files"))
    held <- kernel_hold(file.path(path, "lock"))
    if (held >= 0 && file.exists(file.path(path, "lock")))
      return(list(path = path, held = held))
    kernel_let_go(held)
  }
  refuse(paste("no folder could be made in", quoted(beside)))
}

close_stage <- function(stage) {
  unlink(stage$path, recursive = TRUE)
  kernel_let_go(stage$held)
}

# Takes away what dead processes left in a folder, once `rescue` has put back what was to be
# kept of it. A lock that can be had belongs to nobody alive, on whatever machine.
sweep_stages <- function(folder, rescue = NULL) {
  left <- list.files(folder, paste0("^", gsub(".", "\\.", stage_prefix, fixed = TRUE)),
                     all.files = TRUE, full.names = TRUE)
  for (path in left) take_left(path, "lock", function() if (!is.null(rescue)) rescue(path, folder))
}

take_left <- function(path, lock, first = function() NULL) {
  lock <- file.path(path, lock)
  if (!kernel_own(path, TRUE) || !kernel_own(lock, FALSE)) return(invisible())
  held <- kernel_hold(lock)
  if (held < 0) return(invisible())
  first()
  unlink(path, recursive = TRUE)
  kernel_let_go(held)
}
