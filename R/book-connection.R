# Whether lines are given by a connection to a database.

is_connection <- function(x) inherits(x, "DBIConnection")

connection_name <- function(connect) {
  if (is_connection(connect)) class(connect)[1] else connection_words(connect)
}
