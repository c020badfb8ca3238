# Every path that a command reads and every path that it writes, as its options declare them: what
# would write over what is read, or twice into one file, is refused before anything is done.

# Refuses by what was typed; files that a brief names are known when it is opened, and refused
# there.
refuse_paths <- function(options, files, specs) {
  of <- function(way) {
    named <- names(Filter(function(spec) identical(spec$path, way), specs))
    unlist(lapply(intersect(named, names(options)), function(name) {
      paths <- paths_in(options[[name]])
      stats::setNames(paths, rep(paste0("--", dashed(name)), length(paths)))
    }))
  }
  to <- of("write")
  if (!length(to)) return(invisible())
  from <- c(of("read"), stats::setNames(files, rep("the lines", length(files))),
            if ("brief" %in% names(specs) && is.null(options$brief) && !length(files))
              c("the brief" = "longladder.yml"))
  for (i in seq_along(to)) {
    beside <- to[seq_len(i - 1)]
    twice <- Filter(function(k) is_same_path(to[[i]], beside[[k]]), seq_along(beside))
    if (length(twice))
      target_error(to[[i]], paste0("it would be written twice, by ", names(beside)[twice[1]],
                                   " and ", names(to)[i]), i = "Give two names.")
    over <- Filter(function(k) is_same_path(to[[i]], from[[k]]), seq_along(from))
    if (length(over))
      target_error(to[[i]], paste0("it is read, by ", names(from)[over[1]]),
                   i = "Give another name.")
  }
}

# "account=accounts.csv" and "driver=sqlite,file=shop.db" hold a path; others are one.
paths_in <- function(values) {
  in_connection <- grepl("(^|,)file=", values)
  values[in_connection] <- sub("^(.*,)?file=([^,]*).*$", "\\2", values[in_connection])
  pair <- !in_connection & !file.exists(values) & grepl("^[^=/]+=", values)
  values[pair] <- sub("^[^=]*=", "", values[pair])
  values
}

# One file by whatever name; of files that are not there yet, one place.
is_same_path <- function(a, b) {
  if (file.exists(a) && file.exists(b)) return(kernel_same_file(path.expand(a), path.expand(b)))
  place <- function(path) file.path(normalizePath(dirname(path), mustWork = FALSE), basename(path))
  place(a) == place(b)
}
