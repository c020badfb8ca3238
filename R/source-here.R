# Lines brought into memory from where they are: for what cannot be told from added-up rows.

# Brought lines have no numbers in the book; `origin` is the source that they came from.
line_numbers <- function(source, lines) {
  if (is.null(source$origin)) lines else rep(NA_integer_, length(lines))
}

# Whether only the first of the lines were brought.
is_partial <- function(source) isTRUE(source$partial)

#' @export
source_here.database_source <- function(source, trees, where = NULL, first = NULL) {
  bring_lines(source, trees, where, first)
}

# The fields of the lines that trees need: those of registers by their keys.
line_fields <- function(source, trees) {
  names <- unique(unlist(lapply(trees, names_in)))
  own <- character()
  while (length(names)) {
    from <- source$fields$from[match(names, source$fields$name)]
    own <- c(own, names[from == "lines"])
    names <- unique(from[!from %in% c("lines", "computed", NA)])
  }
  unique(own)
}

# A source in memory of the lines that meet `where` and the further test `also`, a piece of SQL.
bring_lines <- function(source, trees, where, first = NULL, also = NULL) {
  names <- line_fields(source, c(trees, list(where, first$by)))
  # The number of lines stands for itself where no field is wanted.
  if (!length(names)) names <- source$fields$name[source$fields$from == "lines"][1]
  w <- sql_writer(source)
  made <- lapply(names, brought_column, w = w, source = source)
  columns <- unlist(lapply(seq_along(made), function(i) {
    paste0(made[[i]]$columns, " AS ll_c", i, "_", names(made[[i]]$columns))
  }))
  ending <- if (!is.null(first)) first_lines(w, first)
  rest <- from_where_also(w, if (is.null(first)) sayable(source, where) else where, also)
  if (is.null(first)) check_brought(source, rest)
  answer <- ask(source, paste0("SELECT ", paste(columns, collapse = ",\n       "), "\n", rest,
                               ending), "lines brought")
  data <- lapply(seq_along(made), function(i) {
    made[[i]]$read(lapply(stats::setNames(nm = names(made[[i]]$columns)), function(part) {
      answer[[paste0("ll_c", i, "_", part)]]
    }))
  })
  fields <- source$fields
  own <- fields$from == "lines"
  fields$column[own] <- fields$name[own]
  here <- new_frame_source(stats::setNames(data, names), fields, source$registers,
                           calendar = source$calendar)
  here$n <- nrow(answer)
  here$origin <- source$origin %||% source
  here$partial <- !is.null(first)
  here
}

# What of a condition can be said in SQL: lines that do not meet the rest are brought too, and left
# out here.
sayable <- function(source, where) {
  if (is.null(where)) return(NULL)
  said <- tryCatch({
    sql_where(sql_writer(source), where)
    TRUE
  }, no_sql = function(e) FALSE)
  if (said) return(where)
  if (where$kind != "logic" || where$op != "&") return(NULL)
  and_also(sayable(source, where$args[[1]]), sayable(source, where$args[[2]]))
}

# One field's columns, and how they become its values again.
brought_column <- function(name, w, source) {
  field <- field_at(source, name)
  x <- sql_field(w, name)
  if (field$type == "date") {
    columns <- c(day = x$sql, if (field$timed) c(hour = x$hour()))
    return(list(columns = columns, read = function(c) {
      if (!field$timed) return(as_day(as.numeric(c$day)))
      as.POSIXct(as.numeric(c$day) * 86400 + as.numeric(c$hour) * 3600, origin = "1970-01-01",
                 tz = "UTC")
    }))
  }
  if (field$type == "number" || isTRUE(x$numeric)) {
    decimals <- x$decimals
    return(list(columns = c(v = x$sql), read = function(c) {
      scaled_value(scaled(as.double(c$v), decimals))
    }))
  }
  # Text as it is, blanks included, as lines of a file are kept.
  column <- source$columns[[field$column]]
  if (column$storage == "text") x$sql <- quoted_name(source$con, column$name)
  list(columns = c(v = x$sql), read = function(c) as_utf8(as.character(c$v)))
}

# Only the first of the lines, missing values last.
first_lines <- function(w, first) {
  x <- sql_row(w, first$by)
  by <- if (x$type == "text" && !isTRUE(x$numeric)) w$dialect$by_bytes(x$sql) else x$sql
  paste0("\nORDER BY ", by, if (first$highest) " DESC" else " ASC", " NULLS LAST\nLIMIT ",
         sprintf("%.0f", first$n))
}

# How many lines may be brought.
most_brought <- function() getOption("longladder.most_lines", 2e7)

# Lines are brought while memory allows.
check_brought <- function(source, rest) {
  most <- most_brought()
  if (source_size(source$origin %||% source) <= most) return(invisible())
  answer <- ask(source, paste0("SELECT COUNT(*) AS ll_n\n", rest), "how many lines to bring")
  n <- as.double(answer$ll_n)
  if (n > most)
    ll_abort(c(paste0("This question needs single lines, and ", count_text(n), " of them would be ",
                      "brought here."),
               x = paste0("The limit is ", count_text(most), "."),
               i = paste0("Narrow it with 'where' or 'when', or raise the limit: ",
                          "options(longladder.most_lines = 1e9).")), "data")
}
