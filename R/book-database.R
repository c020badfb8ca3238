# Opening a book on lines in a database: what the columns are, in three statements, and nothing of
# the lines themselves.

refuse_unpivot <- function() {
  ll_abort(c("'unpivot' turns columns of files and data frames into lines, not of databases.",
             i = "Give a query that unpivots them."), "argument")
}

# What a table or query holds, its columns under the names that the person gave.
open_database <- function(con, table, query, specs) {
  dialect <- dialect_of(con)
  for (sql in dialect$settings) DBI::dbExecute(con, sql)
  from <- database_relation(con, table, query)
  where <- if (is.null(query)) paste("the table", quoted(table)) else "the query"
  found <- database_columns(con, from, dialect, where)
  refuse_fixes(specs, where)
  data <- rename_columns(stats::setNames(as.list(found$name), found$name), specs, where)
  columns <- lapply(seq_along(data), function(i) {
    list(name = data[[i]], storage = found$storage[match(data[[i]], found$name)],
         kind = found$kind[match(data[[i]], found$name)])
  })
  names(columns) <- names(data)
  unusable <- vapply(columns, function(c) c$storage == "other", NA)
  wanted <- intersect(names(columns)[unusable], names(specs))
  if (length(wanted))
    ll_abort(c(paste0("The column ", quoted(wanted[1]), " of ", where, " is of a type that ",
                      "cannot be used."),
               x = paste0("Its type is ", columns[[wanted[1]]]$kind, "."),
               i = "Give a query that turns it into text, a number or a date."), "data")
  fixes <- do.call(rbind, lapply(names(columns)[unusable], function(name) {
    fix("types", name, 1, paste0("the column ", name, " is of the type ", columns[[name]]$kind,
                                 " and was left out"))
  }))
  if (all(unusable)) ll_abort(paste0("No column of ", where, " can be used."), "data")
  list(con = con, from = from, dialect = dialect, columns = columns[!unusable], where = where,
       fixes = fixes, removed = 0L, title = if (is.null(query)) table else "the query")
}

# The table, quoted, or the query in brackets.
database_relation <- function(con, table, query) {
  if (is.null(table) == is.null(query))
    ll_abort(c("Lines in a database need 'table' or 'query', one of them.",
               i = "For example ll_book(con, table = \"order_lines\")."), "argument")
  if (!is.null(query)) {
    query <- check_words(query, "query", one = TRUE)
    # On a line of its own the bracket is in no remark.
    return(paste0("(", check_query(query), "\n) AS ll_lines"))
  }
  # A schema is given before a point, where no table has a point in its name.
  table <- check_words(table, "table", one = TRUE)
  known <- tryCatch(DBI::dbListTables(con), error = function(e) character())
  parts <- if (table %in% known) table else strsplit(table, ".", fixed = TRUE)[[1]]
  paste(quoted_name(con, parts), collapse = ".")
}

database_columns <- function(con, from, dialect, where) {
  asked <- function() dialect$columns(con, from)
  found <- tryCatch(guarded_question(con, asked, dialect), error = function(e) {
    if (grepl(locked_words, conditionMessage(e))) refuse_locked(dialect)
    tables <- tryCatch(DBI::dbListTables(con), error = function(e) character())
    table <- sub("^the table '(.*)'$", "\\1", where)
    ll_abort(c(paste0(capital(where), " cannot be read in ", dialect$name, "."),
               x = paste0("It says: ", fit_text(one_line(conditionMessage(e)), 200)),
               if (table != where && !table %in% tables) offer(table, tables, "Tables")),
             "database")
  })
  check_duplicate_names(found$name, capital(where), "data")
  found
}

# What fixes columns in memory does not reach into a database.
refuse_fixes <- function(specs, where) {
  for (name in names(specs)) {
    bad <- intersect(names(specs[[name]]), c("same", "fill", "form", "currency"))
    if (length(bad))
      ll_abort(c(paste0("'", bad[1], "' of ", quoted(name), " fixes lines in memory; these are in ",
                        "a database (", where, ")."),
                 i = "Give a query that fixes the column, or bring the lines into a data frame."),
               "argument")
  }
}

# The source and the rows of its field table: list(source, rows).
describe_database <- function(opened, specs, tables, calendar) {
  columns <- read_storage(opened, specs)
  source <- new_database_source(opened$con, opened$from, opened$dialect, columns, calendar)
  told <- database_facts(source, setdiff(names(columns), c(names(specs), names(tables))))
  if (!told$lines)
    ll_abort(paste0(capital(opened$where), " holds no lines."), "data")
  source$n <- told$lines
  cut <- cut_columns(told$columns, c(names(specs), names(tables)), opened$where)
  columns <- columns[setdiff(names(columns), cut$field)]
  rows <- lapply(names(columns), function(name) {
    fact <- told$columns[[name]]
    known <- c("decimals", "largest", "blank", "nan")
    source$columns[[name]][known] <- fact[known]
    role <- specs[[name]]$role
    check_database_role(fact, name, role, opened$where)
    facts <- describe_facts(fact, name, role, name %in% names(tables))
    field_rows(guarded(name), name, "lines", facts)
  })
  names(tables) <- guarded(names(tables))
  source$registers <- tables
  list(source = source, rows = rows, fixes = cut)
}

# Columns of text with zero bytes, at which names would be cut and fall together: left out, and
# told; refused where they are asked for.
cut_columns <- function(told, wanted, where) {
  hit <- Filter(function(name) told[[name]]$zero > 0, names(told))
  needed <- intersect(hit, wanted)
  if (length(needed))
    ll_abort(c(paste0("The column ", quoted(needed[1]), " of ", where,
                      " holds zero bytes, at which names would be cut."),
               x = paste0("In ", plural(told[[needed[1]]]$zero, "line"), "."),
               i = "Give a query that takes them out."), "data")
  do.call(rbind, lapply(hit, function(name) {
    n <- told[[name]]$zero
    fix("types", name, n, paste0("the column ", name, " holds zero bytes in ", plural(n, "line"),
                                 ", at which names would be cut, and was left out"))
  }))
}

check_database_role <- function(fact, name, role, where) {
  if (is.null(role)) return(invisible())
  wrong <- role == "measure" && !fact$type %in% "number" || role == "date" && fact$type != "date"
  if (wrong)
    ll_abort(c(paste0("The ", role, " ", quoted(name), " in ", where, " holds ",
                      switch(fact$type, text = "text", number = "numbers", date = "dates",
                             "no values"), "."),
               i = paste0("Give a query that makes it a ", if (role == "date") "date" else "number",
                          ", such as SELECT CAST(", name, " AS ",
                          if (role == "date") "DATE" else "DECIMAL(12, 2)", ") ...")), "data")
}

# Text that is ISO dates is dates; of other text and numbers nothing is guessed.
read_storage <- function(opened, specs) {
  columns <- opened$columns
  text <- Filter(function(name) {
    columns[[name]]$storage == "text" && specs[[name]]$role %||% "date" == "date"
  }, names(columns))
  if (!length(text)) return(columns)
  names <- quoted_name(opened$con, vapply(columns[text], `[[`, "", "name"))
  select <- paste0(names, " AS ll_c", seq_along(text), collapse = ", ")
  some <- ask(opened, paste("SELECT", select, "FROM", opened$from, "LIMIT 1000"),
              "some of the text, for dates")
  for (i in seq_along(text)) {
    x <- some[[paste0("ll_c", i)]]
    x <- x[!is_blank(x)]
    day <- grepl("^[0-9]{4}-[01][0-9]-[0-3][0-9]$", x)
    time <- grepl("^[0-9]{4}-[01][0-9]-[0-3][0-9][ T][0-2][0-9]:[0-5][0-9]", x)
    if (length(x) && all(day)) columns[[text[i]]]$storage <- "text_date"
    if (length(x) && all(time)) columns[[text[i]]]$storage <- "text_time"
  }
  columns
}

# One statement about every column: how many values, the largest number, the decimal places that
# numbers need, blank texts, and how many names where the role has to be guessed from that.
database_facts <- function(source, guessed) {
  made <- lapply(names(source$columns), function(name) {
    fact_columns(source, source$columns[[name]], name %in% guessed)
  })
  select <- unlist(lapply(seq_along(made), function(i) {
    paste0(made[[i]], " AS ll_f", i, "_", names(made[[i]]))
  }))
  answer <- ask(source, paste0("SELECT ", paste(c("COUNT(*) AS ll_lines", select),
                                                collapse = ",\n       "), "\nFROM ", source$from),
                "what the columns hold")
  lines <- as.double(answer$ll_lines)
  columns <- lapply(seq_along(made), function(i) {
    value <- function(part) as.double(answer[[paste0("ll_f", i, "_", part)]])
    read_facts(source, source$columns[[i]], value, lines)
  })
  list(lines = lines, columns = stats::setNames(columns, names(source$columns)))
}

fact_columns <- function(source, column, guessed) {
  d <- source$dialect
  x <- quoted_name(source$con, column$name)
  if (column$storage == "text") {
    zero <- if (!grepl("FixedString", column$kind %||% "")) d$zero_bytes(x)
    return(c(if (!is.null(zero)) c(zero = paste0("COUNT(CASE WHEN ", zero, " THEN 1 END)")),
             known = paste0("COUNT(CASE WHEN ", d$bare(x), " <> '' THEN 1 END)"),
             held = paste0("COUNT(", x, ")"),
             if (guessed) c(distinct = d$distinct_of_all(d$binary(x), source$from))))
  }
  if (!column$storage %in% c("whole", "decimal", "double"))
    return(c(known = paste0("COUNT(", x, ")")))
  nan <- if (column$storage == "double" || column$storage == "decimal" && d$decimal_nan) d$is_nan(x)
  held <- if (is.null(nan)) x else paste0("CASE WHEN ", nan, " THEN NULL ELSE ", x, " END")
  out <- c(known = paste0("COUNT(", held, ")"), least = d$double(paste0("MIN(", held, ")")),
           most = d$double(paste0("MAX(", held, ")")),
           if (!is.null(nan)) c(all = paste0("COUNT(", x, ")")))
  if (column$storage == "whole") return(out)
  # The fewest places at which the number, made whole and brought back, is the same to the last bit.
  value <- d$double(held)
  fits <- vapply(0:most_decimals, function(p) {
    power <- paste0(sprintf("%.0f", 10^p), "e0")
    paste0(" WHEN ROUND(", value, " * ", power, ") / ", power, " = ", value, " THEN ", p)
  }, "")
  c(out, decimals = paste0("MAX(CASE WHEN ", x, " IS NULL THEN 0", paste(fits, collapse = ""),
                           " ELSE ", most_decimals + 1, " END)"))
}

read_facts <- function(source, column, value, lines) {
  known <- value("known")
  number <- column$storage %in% c("whole", "decimal", "double")
  type <- if (!known) "empty" else if (number) "number" else
    if (column$storage %in% c("text", "flag")) "text" else "date"
  out <- list(type = type, of = lines, known = known, numeric = number,
              timed = column$storage %in% c("time", "instant", "text_time", "seconds"),
              blank = column$storage == "text" && value("held") > known, nan = FALSE,
              zero = if (length(value("zero"))) value("zero") else 0,
              decimals = NA_integer_, largest = Inf)
  # How many names there are is asked for when a guess depends on it.
  out$distinct <- function() {
    if (column$storage == "flag") return(min(known, 2))
    if (length(value("distinct"))) return(value("distinct"))
    x <- quoted_name(source$con, column$name)
    x <- source$dialect$distinct(if (column$storage == "text") source$dialect$binary(x) else x)
    as.double(ask(source, paste0("SELECT ", x, " AS ll_n\nFROM ", source$from),
                  paste("how many names of", column$name))$ll_n)
  }
  if (!number || !known) return(out)
  largest <- max(abs(value("least")), abs(value("most")))
  if (is.infinite(largest))
    ll_abort(c(paste0("The column ", quoted(column$name),
                      " holds infinite values, which no total can hold."),
               i = "Give a query that leaves them out or turns them into missing ones."), "data")
  decimals <- if (column$storage == "whole") 0 else value("decimals")
  out$nan <- length(value("all")) && value("all") > known
  if (decimals <= most_decimals && largest * 10^decimals < whole_limit)
    out[c("decimals", "largest")] <- list(as.integer(decimals), largest * 10^decimals)
  span <- value("most") - value("least") + 1
  c(out, list(whole = function() decimals == 0, shares = function() largest <= 1,
              # Lines in a database have no order: different numbers without a gap do rise.
              rising = function() known == lines && span == known && out$distinct() == known))
}

# A whole table or query as a data frame, for registers.
whole_table <- function(con, table, query) {
  opened <- open_database(con, table, query, list())
  made <- describe_database(opened, list(), list(), plain_calendar)
  made$source$fields <- all_fields(made$rows, list())
  names <- made$source$fields$name
  here <- source_here(made$source, lapply(names, function(n) node("name", name = n)))
  source_lines(here, seq_len(source_size(here)), names)
}
