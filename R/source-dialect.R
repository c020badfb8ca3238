# What differs between database engines. A dialect is a list of functions that give SQL text;
# `plain_dialect` is standard SQL, and each engine's own file says where it departs from it.
#
# Columns are kept by `storage`: text, whole, decimal, double, flag, date, time (a clock on the
# wall), instant (a moment, whose day depends on the time zone), text_date and text_time (ISO dates
# kept as text), days and seconds (counted from 1970); other types cannot be used.

plain_dialect <- list(
  name = "SQL",
  # The columns of a relation: a data frame of name and storage (`kind` the engine's own word).
  columns = NULL,
  # Whether groups, and picks of rows within them, can be told by window functions.
  windows = TRUE,
  whole = function(x) paste0("CAST(", x, " AS BIGINT)"),
  double = function(x) paste0("CAST(", x, " AS DOUBLE PRECISION)"),
  text = function(x) paste0("CAST(", x, " AS VARCHAR)"),
  # Results of sums as doubles: whole numbers below 2^53 are exact in them.
  sum = function(x, whole) paste0("CAST(SUM(", x, ") AS DOUBLE PRECISION)"),
  distinct = function(x) paste0("COUNT(DISTINCT ", x, ")"),
  # The same over all lines, as a column beside others.
  distinct_of_all = function(x, from) paste0("COUNT(DISTINCT ", x, ")"),
  # Whose days count where a column holds moments and the calendar names no time zone.
  own_zone = "UTC",
  divide_whole = function(a, b) paste0("(", a, ") / ", b),
  # A comparison with a missing value is false.
  sure = function(test) paste0("COALESCE(", test, ", FALSE)"),
  is_nan = function(x) NULL,
  # Whether decimals can be no number too.
  decimal_nan = FALSE,
  literal_date = function(day) paste0("DATE '", format(as_day(day)), "'"),
  # A column as a date, and a date as the days since 1970.
  date = function(x, storage, zone) if (storage == "date") x else paste0("CAST(", x, " AS DATE)"),
  day_number = function(date) paste0("(", date, " - DATE '1970-01-01')"),
  # Months since the year 0 of a date.
  month_number = function(date) {
    paste0("CAST(EXTRACT(YEAR FROM ", date, ") * 12 + EXTRACT(MONTH FROM ", date,
           ") - 1 AS BIGINT)")
  },
  from_day_number = function(n) paste0("(DATE '1970-01-01' + CAST(", n, " AS INTEGER))"),
  hour = function(x, storage, zone) paste0("CAST(EXTRACT(HOUR FROM ", x, ") AS INTEGER)"),
  # Text without the blanks of both ends.
  bare = function(x) paste0("TRIM(BOTH ' \t\r\n' FROM ", x, ")"),
  # Text of a column compared and grouped by its bytes, whatever collation the column has: under a
  # case-blind one two names would be one.
  binary = function(x) x,
  # Whether text holds zero bytes, at which names would be cut; NULL where it cannot.
  zero_bytes = function(x) NULL,
  # Text that sorts by its bytes.
  by_bytes = function(x) x,
  starts = function(x, text, n) paste0("SUBSTR(", x, ", 1, ", n, ") = ", text),
  holds = function(x, text) paste0("POSITION(", text, " IN ", x, ") > 0"),
  # Quantiles by linear interpolation between order statistics (Hyndman and Fan 1996, type 7); NULL
  # where there are none of this kind.
  quantile = function(x, prob) {
    paste0("PERCENTILE_CONT(", number_literal(prob), ") WITHIN GROUP (ORDER BY ", x, ")")
  },
  # The sample variance, by a way that does not lose digits; NULL where there is none.
  variance = function(x) paste0("VAR_SAMP(", x, ")"),
  # Lines picked once for all of a statement, under a name; NULL where each use picks them anew.
  keeps = NULL,
  # Rows of values among those of a subquery.
  rows_in = " IN ",
  # The columns `n`, `low` and `high` of an engine that has the sorted values and no quantile:
  # their number and the two between which the quantile lies. Or NULL.
  order_statistics = NULL,
  # A value for each name by lists of both; or NULL.
  transform = NULL,
  # Looks names up in a table of literals: a join of `alias` with the columns ll_n and ll_v.
  lookup = NULL,
  # Settings of a session, made when a book is opened; they touch nothing but that session.
  settings = character(),
  # The latest change of any line of a table, as a number; NULL where there is none.
  latest_change = NULL,
  # Asks by `work` so that it can write nothing and leaves no setting behind.
  guard = function(con, work) work(),
  # Statements that make a connection of ours read only.
  read_only = character(),
  # Whether the connection is of no more use after a statement that failed.
  breaks = FALSE)

new_dialect <- function(...) utils::modifyList(plain_dialect, list(...))

# Connections that we opened, which are in no transaction of the person's.
own_connection <- function(con) isTRUE(attr(con, "ll_own", exact = TRUE))
