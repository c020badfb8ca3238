# Connections from a brief or the command: the driver by its name, the rest as its package wants it.
# Secrets come from environment variables or the driver's own files and are shown nowhere.

connection_drivers <- list(
  sqlite = list(package = "RSQLite", file = "dbname"),
  postgres = list(package = "RPostgres"),
  duckdb = list(package = "duckdb", file = "dbdir"),
  clickhouse = list(package = "RClickhouse"))

# What a connection may name. `password_from` is an environment variable.
connection_keys <- c("driver", "file", "host", "port", "dbname", "user", "password_from", "sslmode")

check_connection <- function(spec) {
  if (!is.list(spec) || is.null(names(spec)))
    ll_abort(c("'connect' needs keys and values.",
               i = "For example connect: {driver: postgres, host: db.example, dbname: sales}."),
             "argument")
  secret <- grep("^(pass(word)?|pwd|token|secret)$", names(spec), value = TRUE)
  if (length(secret))
    ll_abort(c(paste0("'connect' holds no secrets, and ", quoted(secret[1]), " is one."),
               i = paste0("Put it into an environment variable and name that: password_from: ",
                          "SALES_PASSWORD; or use the driver's own file, such as .pgpass.")),
             "argument")
  unknown <- setdiff(names(spec), connection_keys)
  if (length(unknown))
    ll_abort(c(paste0("'connect' has an unknown key ", quoted(unknown[1]), "."),
               offer(unknown[1], connection_keys, "Keys")), "word")
  spec$driver <- check_choice(spec$driver, "driver of connect",
                              list(choices = names(connection_drivers)))
  spec
}

# A connection of ours is closed when nobody holds its book any more.
close_with <- function(source) {
  reg.finalizer(source, function(s) try(DBI::dbDisconnect(s$con), silent = TRUE), onexit = TRUE)
}

# Opens a connection that reads only, where the engine can.
connect_to <- function(spec, folder = NULL) {
  spec <- check_connection(spec)
  driver <- connection_drivers[[spec$driver]]
  needs_package(driver$package, paste("Connecting to", spec$driver))
  secret <- connection_secret(spec)
  con <- tryCatch(open_connection(spec, secret), error = function(e) {
    if (inherits(e, "ll_error")) stop(e)
    why <- fit_text(one_line(conditionMessage(e)), 200)
    if (length(secret) && nzchar(secret)) why <- gsub(secret, "***", why, fixed = TRUE)
    ll_abort(c(paste0("No connection to ", connection_words(spec), "."),
               x = paste0("It says: ", why),
               i = "Is the server up, and are host, port, name and user right?"), "database")
  })
  dialect <- dialect_of(con)
  for (sql in dialect$read_only) DBI::dbExecute(con, sql)
  attr(con, "ll_own") <- TRUE
  con
}

connection_secret <- function(spec) {
  variable <- spec$password_from
  if (is.null(variable)) return(NULL)
  secret <- Sys.getenv(variable, NA)
  if (is.na(secret))
    ll_abort(c(paste0("The environment variable ", quoted(variable), " is not set."),
               i = "It should hold the password of the connection."), "argument")
  secret
}

# Where it goes, without the secret.
connection_words <- function(spec) {
  if (!is.null(spec$file)) return(paste0(spec$driver, " ", spec$file))
  paste0(spec$driver, " at ", spec$host %||% "localhost",
         if (!is.null(spec$port)) paste0(":", spec$port),
         if (!is.null(spec$dbname)) paste0(", database ", spec$dbname),
         if (!is.null(spec$user)) paste0(", user ", spec$user))
}

open_connection <- function(spec, secret) {
  if (spec$driver %in% c("sqlite", "duckdb")) return(open_file_database(spec))
  port <- if (!is.null(spec$port)) as.integer(check_number(spec$port, "port of connect", list()))
  given <- list(host = spec$host, port = port, dbname = spec$dbname, user = spec$user,
                password = secret, sslmode = spec$sslmode)
  given <- Filter(Negate(is.null), given)
  if (spec$driver == "postgres")
    return(do.call(DBI::dbConnect, c(list(RPostgres::Postgres(), bigint = "numeric",
                                          check_interrupts = TRUE), given)))
  names(given)[names(given) == "dbname"] <- "db"
  given$sslmode <- NULL
  do.call(DBI::dbConnect, c(list(RClickhouse::clickhouse()), given))
}

# A file that is not there would be made by the driver.
open_file_database <- function(spec) {
  file <- spec$file %||% spec$dbname
  # Nothing is fetched from a network because a query names an address.
  fetch_none <- list(autoinstall_known_extensions = "false")
  if (is.null(file) && spec$driver == "duckdb")
    return(DBI::dbConnect(duckdb::duckdb(config = fetch_none)))
  if (is.null(file))
    ll_abort("'connect' to sqlite needs the file of the database.", "argument")
  check_readable(file, "tables")
  if (spec$driver == "duckdb")
    return(DBI::dbConnect(duckdb::duckdb(dbdir = file, read_only = TRUE, config = fetch_none)))
  tell(trace_words(file))
  # Extensions are native code that a query could load.
  DBI::dbConnect(RSQLite::SQLite(), dbname = file, flags = RSQLite::SQLITE_RO,
                 loadable.extensions = FALSE, synchronous = NULL)
}

# A file of SQLite in WAL mode (bytes 18 and 19 of its header, see "The SQLite database file format")
# cannot be read without files beside it, which the last reader leaves there.
trace_words <- function(file) {
  head <- readBin(file, "raw", 20)
  beside <- paste0(file, c("-wal", "-shm"))
  if (length(head) == 20 && head[19] == as.raw(2) && !all(file.exists(beside))) paste0(
    "note: ", quoted(file), " is in SQLite's WAL mode; reading it leaves ",
    and_list(quoted(basename(beside))), " beside it, as every reader does")
}
