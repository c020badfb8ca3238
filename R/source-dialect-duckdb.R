# DuckDB. Division of whole numbers is // there; sums of 64-bit numbers are 128 bits wide.

duckdb_dialect <- function() {
  new_dialect(
    name = "DuckDB",
    columns = function(con, from) {
      info <- DBI::dbGetQuery(con, paste("DESCRIBE SELECT * FROM", from))
      data.frame(name = info$column_name, kind = info[["column_type"]],
                 storage = vapply(info[["column_type"]], duckdb_storage, "", USE.NAMES = FALSE))
    },
    double = function(x) paste0("CAST(", x, " AS DOUBLE)"),
    sum = function(x, whole) paste0("CAST(SUM(", x, ") AS DOUBLE)"),
    divide_whole = function(a, b) paste0("(", a, ") // ", b),
    date = function(x, storage, zone) {
      if (storage == "instant") x <- paste0("(", x, " AT TIME ZONE '", zone, "')")
      if (storage == "date") x else paste0("CAST(", x, " AS DATE)")
    },
    hour = function(x, storage, zone) {
      if (storage == "instant") x <- paste0("(", x, " AT TIME ZONE '", zone, "')")
      if (storage == "text_time") x <- paste0("CAST(", x, " AS TIMESTAMP)")
      paste0("CAST(EXTRACT(HOUR FROM ", x, ") AS INTEGER)")
    },
    is_nan = function(x) paste0("ISNAN(", x, ")"),
    binary = function(x) paste0("(", x, " COLLATE \"binary\")"),
    zero_bytes = function(x) paste0("CONTAINS(", x, ", CHR(0))"),
    bare = function(x) paste0("TRIM(", x, ", CHR(32) || CHR(9) || CHR(13) || CHR(10))"),
    keeps = function(name, sql) paste0("WITH ", name, " AS MATERIALIZED (\n", sql, ")"),
    holds = function(x, text) paste0("CONTAINS(", x, ", ", text, ")"),
    starts = function(x, text, n) paste0("STARTS_WITH(", x, ", ", text, ")"),
    quantile = function(x, prob) {
      paste0("QUANTILE_CONT(CAST(", x, " AS DOUBLE), ", number_literal(prob), ")")
    },
    lookup = function(alias, names, values) {
      paste0("(", values_table(names, values), ") AS ", alias, " (", alias, "_n, ", alias, "_v)")
    })
}

duckdb_storage <- function(kind) {
  kind <- sub(" COLLATE.*", "", sub("\\(.*", "", kind))
  switch(kind, TINYINT = , SMALLINT = , INTEGER = , BIGINT = , UTINYINT = , USMALLINT = ,
         UINTEGER = "whole", UBIGINT = , HUGEINT = , DECIMAL = "decimal", FLOAT = ,
         DOUBLE = "double", BOOLEAN = "flag", DATE = "date", TIMESTAMP = , TIMESTAMP_S = ,
         TIMESTAMP_MS = , TIMESTAMP_NS = "time", `TIMESTAMP WITH TIME ZONE` = "instant",
         VARCHAR = , UUID = "text", if (grepl("^ENUM", kind)) "text" else "other")
}
