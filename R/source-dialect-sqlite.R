# SQLite, 3.25 or later. It has no dates: they are ISO text, or numbers in columns declared as DATE
# or TIMESTAMP. A column may hold values of another kind than it declares.

sqlite_dialect <- function() {
  new_dialect(
    name = "SQLite",
    columns = sqlite_columns,
    whole = function(x) paste0("CAST(", x, " AS INTEGER)"),
    double = function(x) paste0("CAST(", x, " AS REAL)"),
    text = function(x) paste0("CAST(", x, " AS TEXT)"),
    # Sums of whole numbers refuse to overflow; the writer keeps them below that.
    sum = function(x, whole) paste0("CAST(SUM(", x, ") AS REAL)"),
    keeps = function(name, sql) paste0("WITH ", name, " AS (\n", sql, ")"),
    literal_date = function(day) paste0("'", format(as_day(day)), "'"),
    date = function(x, storage, zone) {
      switch(storage, text_date = x, text_time = paste0("SUBSTR(", x, ", 1, 10)"),
             days = paste0("DATE(", x, " * 86400, 'unixepoch')"),
             seconds = paste0("DATE(", x, ", 'unixepoch')"))
    },
    day_number = function(date) paste0("CAST(JULIANDAY(", date, ") - 2440587.5 AS INTEGER)"),
    month_number = function(date) {
      paste0("(CAST(SUBSTR(", date, ", 1, 4) AS INTEGER) * 12 + CAST(SUBSTR(", date,
             ", 6, 2) AS INTEGER) - 1)")
    },
    from_day_number = function(n) paste0("DATE((", n, ") * 86400, 'unixepoch')"),
    hour = function(x, storage, zone) {
      if (storage == "seconds") x <- paste0("DATETIME(", x, ", 'unixepoch')")
      paste0("CAST(SUBSTR(", x, ", 12, 2) AS INTEGER)")
    },
    binary = function(x) paste0("(", x, " COLLATE BINARY)"),
    zero_bytes = function(x) paste0("INSTR(CAST(", x, " AS BLOB), X'00') > 0"),
    bare = function(x) paste0("TRIM(", x, ", CHAR(32, 9, 13, 10))"),
    holds = function(x, text) paste0("INSTR(", x, ", ", text, ") > 0"),
    guard = sqlite_guard,
    quantile = function(x, prob) NULL,
    variance = function(x) NULL,
    # Grouped and of one type, so that it is laid out once and looked up by an index of its own.
    lookup = function(alias, names, values) {
      type <- if (startsWith(names[1], "'")) "TEXT" else "NUMERIC"
      paste0("(SELECT CAST(column1 AS ", type, ") AS ", alias, "_n, MAX(column2) AS ", alias,
             "_v FROM (", values_table(names, values), ") GROUP BY 1)")
    })
}

# A connection of the person's may write; it does not while it is asked.
sqlite_guard <- function(con, work) {
  if (own_connection(con)) return(work())
  before <- DBI::dbGetQuery(con, "PRAGMA query_only")[[1]]
  DBI::dbExecute(con, "PRAGMA query_only = ON")
  on.exit(try(DBI::dbExecute(con, paste("PRAGMA query_only =", before)), silent = TRUE))
  work()
}

# Declared types first, then what a sample of the values says.
sqlite_columns <- function(con, from) {
  some <- DBI::dbGetQuery(con, paste("SELECT * FROM", from, "LIMIT 1"))
  declared <- sqlite_declared(con, from)
  storage <- vapply(names(some), function(name) {
    column <- quoted_name(con, name)
    kinds <- DBI::dbGetQuery(con, paste0(
      "SELECT DISTINCT TYPEOF(", column, ") AS kind FROM (SELECT ", column, " FROM ", from,
      " WHERE ", column, " IS NOT NULL LIMIT 1000)"))$kind
    word <- toupper(if (name %in% names(declared)) declared[[name]] else "")
    sqlite_storage(kinds, word)
  }, "")
  data.frame(name = names(some), storage = unname(storage), kind = unname(storage))
}

sqlite_storage <- function(kinds, word) {
  if (!length(kinds))
    kinds <- if (grepl("INT", word)) "integer" else if (grepl("REAL|FLOA|DOUB|NUM|DEC", word))
      "real" else "text"
  if ("blob" %in% kinds) return("other")
  if ("text" %in% kinds) return("text")
  if (grepl("TIMESTAMP|DATETIME", word)) return("seconds")
  if (grepl("DATE", word)) return("days")
  if (word == "BOOLEAN") return("flag")
  if ("real" %in% kinds) "double" else "whole"
}

# The declared types of a table; none of a query.
sqlite_declared <- function(con, from) {
  if (startsWith(from, "(")) return(character())
  # `main`.`order_lines` is asked of its schema.
  schema <- sub("^(`.*`\\.)?(`.*`)$", "\\1", from)
  info <- DBI::dbGetQuery(con, paste0("PRAGMA ", schema, "table_info(",
                                      substring(from, nchar(schema) + 1), ")"))
  stats::setNames(info$type, info$name)
}
