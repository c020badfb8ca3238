# The engines that are known, and which one a connection leads to.

dialects <- function() {
  list(SQLite = sqlite_dialect(), PostgreSQL = postgres_dialect(), DuckDB = duckdb_dialect(),
       ClickHouse = clickhouse_dialect())
}

# The dialect of an open connection: by its class, or by what it answers.
dialect_of <- function(con) {
  kinds <- c(SQLiteConnection = "SQLite", PqConnection = "PostgreSQL",
             PostgreSQLConnection = "PostgreSQL", duckdb_connection = "DuckDB",
             ClickhouseConnection = "ClickHouse")
  known <- kinds[intersect(names(kinds), class(con))]
  if (length(known)) return(dialects()[[known[[1]]]])
  answer <- tryCatch(DBI::dbGetQuery(con, "SELECT library_version FROM pragma_version()"),
                     error = function(e) NULL)
  if (!is.null(answer)) return(dialects()$DuckDB)
  ll_abort(c("This kind of database connection is not known.",
             x = paste0("It is a ", class(con)[1], "."),
             i = paste0("Known: ", and_list(names(dialects())), ".")), "argument")
}
