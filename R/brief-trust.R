# Whose servers a brief may speak to. One that came by mail could send a question, and the password
# in any environment variable, to a host of its writer's. The first time a brief wants a password or
# another machine the person is asked; what was answered is kept by the brief's path and what its
# connections say (see base-own.R). Connections that are typed or given from R are the person's own.

trust_connections <- function(brief, lines) {
  wanted <- Filter(reaches_out, brief_connections(brief$keys, is.null(lines)))
  path <- normalizePath(brief$file, "/", mustWork = FALSE)
  for (spec in unique(wanted)) {
    spec <- check_connection(spec)
    what <- connection_content(path, spec)
    if (is_trusted(what)) next
    asked <- paste("The brief", quoted(brief$file), outward_words(spec))
    if (!isTRUE(brief$trust) && !person_agrees(asked)) refuse_connection(asked)
    if (!trust(what, paste(path, "to", connection_words(spec))))
      tell(paste0("note: that this connection is trusted could not be kept in ", quoted(own_folder()),
                  ", and will be asked again"))
  }
}

# The connections that opening the brief would make: those of its own lines, of registers and sets.
brief_connections <- function(keys, own_lines) {
  given <- c(if (own_lines) list(keys$lines), keys$registers, keys$sets)
  Filter(is.list, lapply(Filter(is.list, given), function(spec) spec[["connect"]]))
}

# Whether a connection wants a password or goes to another machine. Files of databases do neither.
reaches_out <- function(spec) {
  in_file <- identical(as.character(spec$driver), "sqlite") ||
    identical(as.character(spec$driver), "duckdb")
  !is.null(spec$password_from) || !in_file && !all(is_this_machine(spec$host))
}

# No host is that of the driver, which is this machine or what the person's own settings say; one
# that begins with a slash is a socket.
is_this_machine <- function(host) {
  host <- tolower(as.character(host))
  host %in% c("localhost", "127.0.0.1", "::1") | startsWith(host, "/")
}

connection_content <- function(path, spec) {
  spec <- spec[order(names(spec))]
  paste(c(path, paste0(names(spec), "=", vapply(spec, paste, "", collapse = ","))), collapse = "\n")
}

# "connects to postgres at db.example, and sends it the password in SALES_PASSWORD".
outward_words <- function(spec) {
  paste0("connects to ", fit_text(one_line(connection_words(spec)), 200),
         if (!is.null(spec$password_from))
           paste0(", and sends it the password in ", quoted(fit_text(one_line(paste(
             spec$password_from)), 80))))
}

refuse_connection <- function(asked) {
  ll_abort(c(paste0(asked, "."), x = "Nobody said on this account that this brief may.",
             i = paste("If you know that brief and that host: --trust-connection (from R:",
                       "trust_connection = TRUE), once; it is remembered.")), "trust")
}

# Whether somebody sits there to be asked: not while a desk serves.
person <- new.env(parent = emptyenv())
person$there <- TRUE

# Asked where somebody sits; nobody agrees where nobody does.
person_agrees <- function(asked) {
  if (!person$there || !interactive() && !(isatty(stdin()) && isatty(stderr()))) return(FALSE)
  cat(seen_text(paste0(asked, ".\nTrust it, now and from now on? [yes/no] ")), file = stderr())
  answer <- if (interactive()) readline() else {
    from <- file("stdin")
    on.exit(close(from))
    readLines(from, 1, warn = FALSE)
  }
  length(answer) > 0 && tolower(trimmed(answer)) %in% c("yes", "y")
}
