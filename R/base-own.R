# What this account has of its own, in the user's configuration folder, where nothing that came from
# elsewhere reaches: a key that signs what a run writes, and the connections of briefs that the
# person trusts.

own_folder <- function() {
  own <- Sys.getenv("LONGLADDER_CONFIG")
  if (nzchar(own)) path.expand(own) else user_folder("config")
}

# Where R keeps what belongs to a user; a home that is not there is no matter yet.
user_folder <- function(which) suppressWarnings(tools::R_user_dir("longladder", which))

# The folder, made if it is not there; NULL where none can be had that is safe.
made_own_folder <- function() {
  folder <- own_folder()
  if (!dir.exists(folder)) dir.create(folder, FALSE, recursive = TRUE, mode = "0700")
  if (safe_folder(folder)) folder
}

# Whether a folder is the user's own and nobody else may write there.
safe_folder <- function(folder) {
  if (!kernel_own(folder, TRUE)) return(FALSE)
  .Platform$OS.type == "windows" || !bitwAnd(as.integer(file.info(folder)$mode), 18L)
}

# The signature of a text by this account's key: HMAC (RFC 2104) with SHA-256. NULL where there is no
# key; with `make` one is drawn where there is none yet.
own_signature <- function(text, make = FALSE) {
  key <- own_key(make)
  if (!is.null(key)) digest::hmac(key, enc2utf8(text), "sha256")
}

own_key <- function(make) {
  folder <- if (make) made_own_folder() else if (safe_folder(own_folder())) own_folder()
  if (is.null(folder)) return(NULL)
  file <- file.path(folder, "key")
  if (make && !file.exists(file)) put_key(file)
  if (!kernel_own(file, FALSE)) return(NULL)
  key <- readLines(file, 1, warn = FALSE)
  if (length(key) && grepl("^[0-9a-f]{64}$", key)) key
}

# Of two processes that draw one at the same moment the first counts: a link takes no name that is
# taken. Where the file system has no links, the last.
put_key <- function(file) {
  aside <- tempfile("key-", dirname(file))
  on.exit(unlink(aside))
  if (nzchar(write_lines(random_word(32), aside))) return(invisible())
  Sys.chmod(aside, "0600")
  linked <- suppressWarnings(file.link(aside, file))
  if (!linked && !file.exists(file)) suppressWarnings(file.rename(aside, file))
}

# Bytes that nobody can guess, in hexadecimal digits.
random_word <- function(bytes) {
  drawn <- if (file.exists("/dev/urandom")) {
    from <- file("/dev/urandom", "rb", raw = TRUE)
    on.exit(close(from))
    readBin(from, "raw", bytes)
  } else {
    # Hashed, what a stranger would have to guess: when, which process, where its files are.
    seed <- paste(format(as.numeric(Sys.time()), digits = 17), Sys.getpid(), tempfile())
    digest::digest(seed, "sha512", serialize = FALSE, raw = TRUE)[seq_len(bytes)]
  }
  paste(format(drawn), collapse = "")
}

# What was said of briefs: a line each, its first word the sum of what was trusted, the rest for
# people. What cannot be kept holds for this process.
trusted_here <- new.env(parent = emptyenv())

is_trusted <- function(what) {
  sum <- trust_sum(what)
  if (!is.null(trusted_here[[sum]])) return(TRUE)
  file <- file.path(own_folder(), "trusted")
  safe_folder(own_folder()) && kernel_own(file, FALSE) &&
    sum %in% sub(" .*", "", readLines(file, warn = FALSE))
}

# Whether it could be kept.
trust <- function(what, words) {
  trusted_here[[trust_sum(what)]] <- TRUE
  folder <- made_own_folder()
  if (is.null(folder)) return(FALSE)
  file <- file.path(folder, "trusted")
  !nzchar(write_lines(paste(trust_sum(what), Sys.Date(), one_line(words)), file, append = TRUE))
}

trust_sum <- function(what) digest::digest(enc2utf8(what), "sha256", serialize = FALSE)
