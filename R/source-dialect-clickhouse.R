# ClickHouse, 18.16 or later, a table of kind Distributed included. It has no window functions and
# no joins of several tables there; sums of whole numbers overflow without a word; a missing value
# is neither in a list nor out of it; medians come from sorted arrays. Statements stand flat, since
# a subquery over a Distributed table would bring its rows to one server before they are folded.

clickhouse_dialect <- function() {
  new_dialect(
    name = "ClickHouse",
    windows = FALSE,
    columns = function(con, from) {
      info <- DBI::dbGetQuery(con, paste(if (startsWith(from, "(")) "DESCRIBE" else
        "DESCRIBE TABLE", sub(" AS ll_lines$", "", from)))
      data.frame(name = info$name, kind = info$type,
                 storage = vapply(info$type, clickhouse_storage, "", USE.NAMES = FALSE))
    },
    whole = function(x) paste0("toInt64(", x, ")"),
    double = function(x) paste0("toFloat64(", x, ")"),
    text = function(x) paste0("toString(", x, ")"),
    sum = function(x, whole) paste0("toFloat64(SUM(", x, "))"),
    divide_whole = function(a, b) paste0("intDiv(", a, ", ", b, ")"),
    sure = function(test) paste0("ifNull(", test, ", 0)"),
    is_nan = function(x) paste0("isNaN(", x, ")"),
    literal_date = function(day) paste0("toDate('", format(as_day(day)), "')"),
    date = function(x, storage, zone) {
      switch(storage, date = x, instant = if (is.null(zone)) paste0("toDate(", x, ")") else
        paste0("toDate(", x, ", '", zone, "')"), paste0("toDate(", x, ")"))
    },
    day_number = function(date) paste0("toInt64(toInt32(", date, "))"),
    month_number = function(date) {
      paste0("toInt64(toYear(", date, ") * 12 + toMonth(", date, ") - 1)")
    },
    from_day_number = function(n) paste0("toDate(", n, ")"),
    hour = function(x, storage, zone) {
      paste0("toHour(", x, if (!is.null(zone)) paste0(", '", zone, "'"), ")")
    },
    zero_bytes = function(x) paste0("position(toString(", x, "), '\\0') > 0"),
    bare = function(x) paste0("replaceRegexpAll(", x, ", '^[ \\t\\r\\n]+|[ \\t\\r\\n]+$', '')"),
    starts = function(x, text, n) paste0("startsWith(", x, ", ", text, ")"),
    holds = function(x, text) paste0("position(", x, ", ", text, ") > 0"),
    quantile = function(x, prob) NULL,
    order_statistics = function(x, prob) {
      sorted <- paste0("arraySort(groupArrayIf(assumeNotNull(", x, "), isNotNull(", x, ")))")
      n <- paste0("toInt64(length(", sorted, "))")
      low <- paste0("toUInt64(floor(greatest(", n, " - 1, 0) * ", double_literal(prob),
                    " + 4e-15)) + 1")
      c(n = n, low = paste0(sorted, "[", low, "]"),
        high = paste0(sorted, "[least(", low, " + 1, length(", sorted, "))]"))
    },
    # Not varSampStable() itself, whose states do not travel between the shards of 18.16.
    variance = function(x) {
      paste0("arrayReduce('varSampStable', groupArrayIf(assumeNotNull(", x, "), isNotNull(", x,
             ")))")
    },
    # Of missing values alone the count of distinct ones is missing.
    distinct = function(x) paste0("ifNull(COUNT(DISTINCT ", x, "), 0)"),
    own_zone = NULL,
    transform = clickhouse_transform,
    rows_in = " GLOBAL IN ",
    # Registers of many names make long statements.
    settings = paste("SET", c("max_query_size = 1000000000", "max_ast_elements = 100000000",
                              "max_expanded_ast_elements = 100000000")),
    read_only = "SET readonly = 2",
    breaks = TRUE)
}

# The literal of each name's value, by an array of names and one of values; `missing` stands for
# other names, and is none of the values.
clickhouse_transform <- function(base, names, literals, text) {
  none <- if (isTRUE(base$numeric) || base$type == "date") "-9007199254740991" else "''"
  missing <- if (text) "''" else "-9007199254740991"
  paste0("nullIf(transform(ifNull(", base$sql, ", ", none, "), [", paste(names, collapse = ", "),
         "], [", paste(literals, collapse = ", "), "], ", missing, "), ", missing, ")")
}

clickhouse_storage <- function(kind) {
  kind <- sub("^Nullable\\((.*)\\)$", "\\1", sub("^LowCardinality\\((.*)\\)$", "\\1", kind))
  kind <- sub("^Nullable\\((.*)\\)$", "\\1", kind)
  switch(sub("\\(.*", "", kind), String = , FixedString = , Enum8 = , Enum16 = , UUID = "text",
         Int8 = , Int16 = , Int32 = , Int64 = , UInt8 = , UInt16 = , UInt32 = "whole",
         UInt64 = , Decimal = "decimal", Float32 = , Float64 = "double", Date = "date",
         DateTime = "instant", "other")
}
