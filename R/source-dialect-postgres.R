# PostgreSQL, 12 or later. Text sorts by the database's collation unless told otherwise; sums of
# whole numbers are exact numerics; moments have a time zone, which the calendar names.

postgres_dialect <- function() {
  new_dialect(
    name = "PostgreSQL",
    columns = postgres_columns,
    text = function(x) paste0("CAST(", x, " AS TEXT)"),
    date = function(x, storage, zone) {
      switch(storage, date = x, instant = paste0("CAST(", x, " AT TIME ZONE '", zone, "' AS DATE)"),
             paste0("CAST(", x, " AS DATE)"))
    },
    hour = function(x, storage, zone) {
      if (storage == "instant") x <- paste0("(", x, " AT TIME ZONE '", zone, "')")
      if (storage == "text_time") x <- paste0("CAST(", x, " AS TIMESTAMP)")
      paste0("CAST(EXTRACT(HOUR FROM ", x, ") AS INTEGER)")
    },
    # COUNT(DISTINCT) sorts; a subquery is hashed.
    distinct_of_all = function(x, from) {
      paste0("(SELECT COUNT(*) FROM (SELECT DISTINCT ", x, " FROM ", from, " WHERE ", x,
             " IS NOT NULL) AS ll_names)")
    },
    keeps = function(name, sql) paste0("WITH ", name, " AS MATERIALIZED (\n", sql, ")"),
    decimal_nan = TRUE,
    is_nan = function(x) paste0(x, " = 'NaN'"),
    binary = function(x) paste0("(CAST(", x, " AS TEXT) COLLATE \"C\")"),
    bare = function(x) paste0("BTRIM(", x, ", E' \\t\\r\\n')"),
    by_bytes = function(x) paste0(x, " COLLATE \"C\""),
    quantile = function(x, prob) {
      paste0("PERCENTILE_CONT(", number_literal(prob), ") WITHIN GROUP (ORDER BY CAST(", x,
             " AS DOUBLE PRECISION))")
    },
    variance = function(x) paste0("CAST(VAR_SAMP(", x, ") AS DOUBLE PRECISION)"),
    lookup = function(alias, names, values) {
      paste0("(", values_table(names, values), ") AS ", alias, " (", alias, "_n, ", alias, "_v)")
    },
    # The number of the transaction that wrote a line.
    latest_change = "MAX(CAST(CAST(xmin AS TEXT) AS BIGINT))",
    guard = postgres_guard,
    read_only = "SET SESSION CHARACTERISTICS AS TRANSACTION READ ONLY")
}

# A session can be made to write again by a function that a query calls; a transaction that has
# begun to read cannot, and what was set in it goes with its end. Within a transaction of the
# person's it is a part of that one.
postgres_guard <- function(con, work) {
  inside <- !own_connection(con) && postgres_transacting(con)
  begin <- if (inside) c("SAVEPOINT ll_question", "SET LOCAL transaction_read_only = on") else
    "BEGIN TRANSACTION READ ONLY"
  end <- if (inside) c("ROLLBACK TO SAVEPOINT ll_question", "RELEASE SAVEPOINT ll_question") else
    "ROLLBACK"
  for (sql in begin) DBI::dbExecute(con, sql)
  # A connection that was lost meanwhile has ended it by itself.
  on.exit(try(for (sql in end) DBI::dbExecute(con, sql), silent = TRUE))
  work()
}

# Within a transaction the clock stands still.
postgres_transacting <- function(con) {
  now <- function() DBI::dbGetQuery(con, "SELECT CAST(NOW() AS TEXT) AS ll_now")$ll_now
  identical(now(), now())
}

postgres_columns <- function(con, from) {
  asked <- DBI::dbSendQuery(con, paste("SELECT * FROM", from, "LIMIT 0"))
  info <- tryCatch(DBI::dbColumnInfo(asked), finally = DBI::dbClearResult(asked))
  kind <- sub("^_?", "", info$`.typname` %||% info$type)
  storage <- c(int2 = "whole", int4 = "whole", int8 = "whole", oid = "whole", numeric = "decimal",
               money = "other", float4 = "double", float8 = "double", bool = "flag", date = "date",
               timestamp = "time", timestamptz = "instant", text = "text", varchar = "text",
               bpchar = "text", char = "text", name = "text", uuid = "text", citext = "text")[kind]
  text <- postgres_texts(con, info[[".oid"]][is.na(storage)])
  if (length(text)) storage[info[[".oid"]] %in% text] <- "text"
  storage[is.na(storage)] <- "other"
  data.frame(name = info$name, storage = unname(storage), kind = kind)
}

# Which types, by their numbers, are kinds of text: the driver knows none that came after it
# connected.
postgres_texts <- function(con, types) {
  if (!length(types)) return(integer())
  DBI::dbGetQuery(con, paste0("SELECT oid FROM pg_type WHERE typcategory = 'S' AND oid IN (",
                              paste(types, collapse = ", "), ")"))$oid
}
