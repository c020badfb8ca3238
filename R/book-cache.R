# Books kept opened: what opening files gave, in a folder of the user's cache, found again by the
# files and by what opening depends on.
#
# Each kept book is a folder of its own, named by its key: the vectors of source-mapped.R, the rest
# in `kept`, and `used`, whose time tells when it was last opened. It is made aside and put in
# its place as a whole. Nothing in it is trusted that is not the user's own.

cache_version <- 5L
cache_limit <- 2e10       # bytes, unless the user sets another
state_blocks <- 64L       # blocks of 4 KB within a file that are looked at on each opening

cache_folder <- function() {
  own <- Sys.getenv("LONGLADDER_CACHE")
  if (nzchar(own)) path.expand(own) else user_folder("cache")
}

# The folder, made if it is not there; an error where it is not safe to use.
own_cache_folder <- function() {
  folder <- cache_folder()
  if (!dir.exists(folder) && !dir.create(folder, FALSE, recursive = TRUE, mode = "0700"))
    cache_error("cannot be made", i = "LONGLADDER_CACHE names another folder.")
  if (!safe_folder(folder))
    cache_error("is not yours alone", i = paste0(
      "Others may write there, and what is kept would be read: make it your own (mode 0700), or ",
      "name another by LONGLADDER_CACHE."))
  folder
}

cache_error <- function(why, ...) {
  ll_abort(c(paste0("The folder of kept books ", quoted(cache_folder()), " ", why, "."), ...),
           "target")
}

# Where a book is kept: list(files, path), path NULL where nothing is kept and nothing is to be; or
# NULL for lines that are in no files or hang on tables that a database holds.
kept_place <- function(place, args) {
  # Rates are other ones tomorrow.
  if (is.null(place$file) || isFALSE(args$cache) || !is.null(args$currency$rates)) return(NULL)
  files <- normalizePath(place$file, mustWork = FALSE)
  registers <- lapply(args$registers, function(given) {
    spec <- register_parts(given)
    if (is.character(spec$table)) spec$table <- normalizePath(spec$table, mustWork = FALSE)
    if (is.character(spec$file)) spec$file <- normalizePath(spec$file, mustWork = FALSE)
    spec
  })
  if (any(vapply(registers, function(spec) !is.null(spec$connect), NA))) return(NULL)
  of_files <- unlist(lapply(registers, function(spec) {
    c(if (is.character(spec$table)) spec$table, spec$file)
  }))
  path <- if (isTRUE(args$cache) || dir.exists(cache_folder()))
    file.path(cache_folder(), kept_key(files, place$spec, registers, args))
  list(files = unname(c(files, of_files)), path = path)
}

# A checksum of what opening depends on.
kept_key <- function(files, spec, registers, args) {
  of_fields <- lapply(args$specs, function(spec) {
    spec[intersect(names(spec), c("role", "column", "same", "fill", "form", "currency"))]
  })
  of_fields <- of_fields[vapply(args$specs, function(spec) is.null(spec$is), NA)]
  if (!length(of_fields)) of_fields <- NULL
  bytes_sum(serialize(list(cache_version, as.character(utils::packageVersion("longladder")), files,
                           spec, of_fields, registers, args$unpivot, args$switches,
                           args$calendar, args$sign, args$currency, args$match,
                           if (length(registers)) args$date), NULL, ascii = TRUE, version = 2))
}

file_sum <- function(path) unname(tools::md5sum(path))

bytes_sum <- function(bytes) {
  path <- tempfile()
  on.exit(unlink(path))
  writeBin(bytes, path)
  file_sum(path)
}

# What tells a file from a changed one without reading it all: its size and times, the number by
# which the system knows it, its ends and blocks of it drawn at random, others for each size.
file_state <- function(path) {
  state <- kernel_file_state(path, state_blocks)
  if (is.null(state)) list(path = path, size = NA_real_) else c(list(path = path), state)
}

# What is kept beside vectors, behind its own checksum; NULL where the bytes are not those written.
save_sealed <- function(x, file) {
  bytes <- serialize(x, NULL)
  writeBin(c(charToRaw(kernel_sum_bytes(bytes)), bytes), file)
}

read_sealed <- function(file) {
  if (!kernel_own(file, FALSE)) return(NULL)
  bytes <- readBin(file, "raw", file.size(file))
  if (length(bytes) < 17) return(NULL)
  body <- bytes[-(1:16)]
  if (identical(bytes[1:16], charToRaw(kernel_sum_bytes(body)))) unserialize(body)
}

# list(opened) of a kept book; list(why) where one is there that does not serve; list() where none.
find_kept <- function(place) {
  if (is.null(place$path) || !dir.exists(place$path) || !safe_folder(cache_folder()))
    return(list())
  kept <- read_kept(place$path)
  if (is.null(kept)) return(list(why = "it is not whole"))
  for (state in kept$states) {
    now <- file_state(state$path)
    if (!identical(now, state[names(now)]))
      return(list(why = paste(quoted(basename(state$path)), if (is.na(now$size)) "is gone" else
        "has changed since")))
  }
  source <- mapped_source(kept$source, place$path)
  if (is.null(source)) return(list(why = "it is not whole"))
  source$kept <- list(folder = place$path, when = kept$when)
  Sys.setFileTime(file.path(place$path, "used"), Sys.time())
  opened <- c(list(source = source, fields = kept$source$fields,
                   registers = kept$source$registers), kept$more)
  opened$cache <- list(used = TRUE, when = kept$when)
  list(opened = opened)
}

# What a folder of a kept book tells; NULL where it is no such folder of the user's own.
read_kept <- function(path) {
  if (!safe_folder(path)) return(NULL)
  kept <- read_sealed(file.path(path, "kept"))
  if (is.list(kept) && identical(kept$version, cache_version)) kept
}

# Keeps what was opened: list(used = FALSE, size), or list(used = FALSE, failed) with what stood in
# the way, which is no reason not to answer. `before` are the states of the files before they were
# read.
keep_opened <- function(opened, place, before) {
  tryCatch({
    folder <- own_cache_folder()
    refuse <- function(why) cache_error(paste("takes no more:", why))
    stage <- open_stage(folder, refuse)
    on.exit(close_stage(stage))
    made <- file.path(stage$path, "book")
    dir.create(made, mode = "0700")
    make_room(folder, kept_size(opened$source), basename(place$path))
    source <- keep_source(opened$source, made, refuse)
    if (!identical(before, lapply(place$files, file_state)))
      cache_error("does not take a file that changes while it is read")
    kept <- list(version = cache_version, when = Sys.time(), source = source,
                 states = lapply(before, function(state) c(state, sum = file_sum(state$path))),
                 more = opened[setdiff(names(opened), c("source", "fields", "registers"))])
    save_sealed(kept, file.path(made, "kept"))
    file.create(file.path(made, "used"))
    size <- folder_size(made)
    if (dir.exists(place$path)) file.rename(place$path, file.path(stage$path, "old"))
    # Where another process kept the same meanwhile, its folder serves.
    if (!file.rename(made, place$path) && !dir.exists(place$path))
      refuse("the finished folder could not be put in its place")
    kernel_settle(folder)
    list(used = FALSE, size = size, path = place$path)
  }, error = function(e) list(used = FALSE, failed = conditionMessage(e)))
}

# About how many bytes a source takes when it is kept.
kept_size <- function(source) {
  4096 + sum(vapply(source$columns, function(x) {
    source$n * if (is.character(x)) 12 else if (is.integer(x)) 8 else 16
  }, 0))
}

folder_size <- function(folder) {
  sum(file.size(list.files(folder, all.files = TRUE, recursive = TRUE, full.names = TRUE)),
      na.rm = TRUE)
}

# Kept books that were opened longest ago go until there is room for so many bytes.
make_room <- function(folder, size, but = character()) {
  limit <- read_limit(folder)
  if (size > limit)
    cache_error(paste0("may hold ", size_text(limit), "; this book takes about ", size_text(size)),
                i = "Allow more with 'longladder cache --limit 50GB'.")
  there <- kept_books(folder)
  there <- there[!there$key %in% but, ]
  gone <- there$key[cumsum(there$size) + size > limit]
  for (key in gone) remove_kept(folder, key)
  invisible(gone)
}

read_limit <- function(folder) {
  file <- file.path(folder, "limit")
  if (!kernel_own(file, FALSE)) return(cache_limit)
  limit <- suppressWarnings(as.numeric(readLines(file, 1, warn = FALSE)))
  if (length(limit) == 1 && !is.na(limit) && limit >= 0) limit else cache_limit
}

# First out of the way, so that nobody finds it half gone.
remove_kept <- function(folder, key) {
  stage <- open_stage(folder, function(why) cache_error(why))
  on.exit(close_stage(stage))
  file.rename(file.path(folder, key), file.path(stage$path, "old"))
}

# The kept books of a folder: key, lines, size in bytes, when they were kept and last used, and
# their files.
kept_books <- function(folder = cache_folder()) {
  keys <- if (dir.exists(folder) && safe_folder(folder)) list.files(folder, "^[0-9a-f]{32}$")
  found <- lapply(keys, function(key) {
    path <- file.path(folder, key)
    kept <- read_kept(path)
    if (is.null(kept))
      return(data.frame(key = key, lines = NA_real_, size = folder_size(path),
                        kept = file.info(path)$mtime, used = file.info(path)$mtime, files = ""))
    data.frame(key = key, lines = as.double(kept$source$n), size = folder_size(path),
               kept = kept$when, used = file.info(file.path(path, "used"))$mtime,
               files = paste(vapply(kept$states, `[[`, "", "path"), collapse = ", "))
  })
  none <- data.frame(key = character(), lines = numeric(), size = numeric(),
                     kept = as.POSIXct(character()), used = as.POSIXct(character()),
                     files = character())
  out <- do.call(rbind, c(list(none), found))
  out[order(out$used, decreasing = TRUE), ]
}

# What is wrong with a kept book, all of its files and of those that it was read from looked
# through; NULL where nothing is.
kept_damage <- function(folder, key) {
  path <- file.path(folder, key)
  kept <- read_kept(path)
  if (is.null(kept)) return("it is not whole")
  for (state in kept$states) {
    sum <- file_sum(state$path)
    if (is.na(sum)) return(paste(quoted(state$path), "is gone"))
    if (sum != state$sum) return(paste(quoted(state$path), "has changed since"))
  }
  # What was kept with it later, as the index of its names, tells its own sums.
  later <- lapply(list.files(path, "^names-[0-9a-f]+$", full.names = TRUE), function(file) {
    sums <- read_sealed(file)$sums
    !is.null(sums) && identical(sums, part_sums(file, names(sums)))
  })
  if (is.null(mapped_source(kept$source, path)) || !all(unlist(later)))
    return("its own files have changed")
}

# The checksums of the parts of what is kept at a path, by the names of the parts.
part_sums <- function(path, parts) {
  vapply(stats::setNames(nm = parts), function(part) kernel_sum_file(paste0(path, "-", part)), "")
}

#' Books kept opened
#'
#' Opening a large file takes far longer than asking it. A book opened with `ll_book(..., cache =
#' TRUE)`, by a brief with `cache: yes` or by the command `longladder cache` is kept in coded form
#' in the user's cache folder, and the same files, opened in the same way, are mapped from there:
#' whatever their size in next to no time, by several processes at once without a copy.
#'
#' A kept book serves as long as its files have the same size, times of change, number in the file
#' system, and checksum of their first and last 64 KB and of 64 blocks between; `verify` reads them
#' whole. Its own files bear checksums, which are looked through on each opening: one that is not
#' what was written opens the book anew, and one that is cut short while it is asked ends the answer.
#' Another version of the package, other
#' `fields`, `registers`, `unpivot`, `fixes` or `calendar` open them anew. The folder is that of
#' [tools::R_user_dir()], or the one that the environment variable `LONGLADDER_CACHE` names; only
#' its owner may read it (mode 0700), and one that others may write to is not used. Beyond `limit`
#' the books opened longest ago go.
#'
#' @param remove (text) keys or files of kept books to remove, or `"all"`.
#' @param verify (flag) look through all kept books and the files that they were read from, and
#'   remove those that are no longer the same.
#' @param limit (number) how many bytes may be kept; 20 GB if never set.
#' @return A data frame of the kept books, last used first: `key`, `lines`, `size` (bytes), `kept`
#'   and `used` (times), `files`; with an attribute `limit` (bytes) and, after `verify`, `damaged`,
#'   a named character vector of what was wrong with those that were removed.
#' @section Errors: `ll_error_word` for a book that is not kept; `ll_error_argument` for a limit
#' that is no number of bytes; `ll_error_target` for a folder that cannot be used.
#' @examples
#' ll_cache()
#' @export
ll_cache <- function(remove = NULL, verify = FALSE, limit = NULL) {
  verify <- check_flag(verify, "verify")
  if (dir.exists(cache_folder())) own_cache_folder()
  there <- kept_books()
  if (!is.null(limit)) {
    limit <- check_number(limit, "limit", list(from = 0))
    writeLines(format(limit, scientific = FALSE), file.path(own_cache_folder(), "limit"))
    make_room(cache_folder(), 0)
  }
  if (!is.null(remove)) {
    remove <- check_words(remove, "remove")
    gone <- lapply(remove, function(one) kept_called(there, one))
    for (key in unique(unlist(gone))) remove_kept(own_cache_folder(), key)
  }
  damaged <- character()
  if (verify) {
    for (key in kept_books()$key) {
      wrong <- kept_damage(cache_folder(), key)
      if (is.null(wrong)) next
      damaged[key] <- wrong
      remove_kept(own_cache_folder(), key)
    }
  }
  structure(kept_books(), limit = read_limit(cache_folder()), damaged = damaged)
}

# The keys of the kept books of a file, or with a key that begins so.
kept_called <- function(there, name) {
  if (name == "all") return(there$key)
  path <- normalizePath(name, mustWork = FALSE)
  of <- strsplit(there$files, ", ", fixed = TRUE)
  hit <- vapply(of, function(files) path %in% files || name %in% basename(files), NA) |
    nchar(name) >= 4 & startsWith(there$key, name)
  if (!any(hit))
    ll_abort(c(paste0("No kept book is of ", quoted(name), "."),
               offer(name, basename(as.character(unlist(of))), "Kept files")), "word")
  there$key[hit]
}
