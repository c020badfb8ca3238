# Lines in a database. The source asks the engine questions in SQL and reads folded rows; it writes
# nothing there. Nothing outside the source- files looks inside.
#
# con        the DBI connection
# from       the table, quoted, or the query in brackets
# dialect    see source-dialect.R
# columns    per column list(name, storage, decimals, largest, blank, nan): what it is, the decimal
#            places at which its numbers are whole, and whether it holds blank texts or NaN
# only       a condition that narrows the lines, or NULL; `least` lines that a group must have
# fields, registers, calendar as in source-frame.R

new_database_source <- function(con, from, dialect, columns, calendar = plain_calendar) {
  source <- new.env(parent = emptyenv())
  source$con <- con
  source$from <- from
  source$dialect <- dialect
  source$columns <- columns
  source$calendar <- calendar
  source$zone <- calendar$time_zone %||% dialect$own_zone
  source$registers <- source$maps <- source$names <- source$days <- source$sets <- list()
  source$answers <- source$folds <- list()
  class(source) <- "database_source"
  source
}

# The same lines, or some of them, asked differently.
derived_source <- function(source, ...) {
  part <- list2env(mget(ls(source, all.names = TRUE), source), parent = emptyenv())
  changes <- list(...)
  for (name in names(changes)) assign(name, changes[[name]], part)
  part$n <- NULL
  part$origin <- source$origin %||% source
  class(part) <- "database_source"
  part
}

#' @export
source_begin.database_source <- function(source) {
  source$answers <- source$folds <- list()
  invisible()
}

#' @export
source_size.database_source <- function(source) {
  if (is.null(source$n)) source$n <- ask_count(source, NULL)
  source$n
}

# How many lines meet a condition.
ask_count <- function(source, where) {
  w <- sql_writer(source)
  rest <- from_where(w, where)
  as.double(ask(source, paste0("SELECT COUNT(*) AS ll_n\n", rest), "how many lines")$ll_n)
}

#' @export
source_days.database_source <- function(source, date) {
  if (is.null(source$days[[date]])) {
    w <- sql_writer(source)
    day <- sql_field(w, date)$sql
    answer <- ask(source, paste0("SELECT DISTINCT ", day, " AS ll_day\n", from_where(w, NULL)),
                  paste("the days of", date))
    source$days[[date]] <- as_day(sort(as.numeric(answer$ll_day)))
  }
  source$days[[date]]
}

#' @export
source_names.database_source <- function(source, tree) {
  key <- deparse_whole(tree)
  if (is.null(source$names[[key]])) {
    names <- source_fold(source, list(name = tree), list())$keys$name
    source$names[[key]] <- names[!is.na(names)]
  }
  source$names[[key]]
}

#' @export
source_similar_names.database_source <- function(source, tree, names) spelled_similarly(names)

#' @export
source_fold.database_source <- function(source, keys, parts, where = NULL, totals = list()) {
  keys <- as_keys(keys)
  tryCatch(
    ask_fold(source, keys, parts, where, totals),
    no_sql = function(e) {
      # What cannot be said in SQL is folded here, from the lines.
      tell(paste0("not in SQL: ", conditionMessage(e), "; the lines are brought"), "debug")
      here <- source_here(source, c(keys, parts), where)
      source_fold(here, keys, parts, where, totals)
    })
}

# Folds of one question that can be put together from a finer one asked before are not asked again.
# Conditions and keys that hold tables of their own are not told apart by their text, and are.
keep_fold <- function(source, keys, parts, where, out) {
  if (length(out$lines) > 1e6 || !told_by_text(c(keys, parts, list(where)))) return(invisible())
  kept <- list(keys = lapply(keys, deparse_whole), parts = lapply(parts, deparse_whole),
               where = deparse_whole(where), out = out)
  source$folds <- utils::head(c(list(kept), source$folds), 12)
}

known_fold <- function(source, keys, parts, where) {
  if (!told_by_text(c(keys, parts, list(where)))) return(NULL)
  keys <- lapply(keys, deparse_whole)
  parts <- lapply(parts, deparse_whole)
  where <- deparse_whole(where)
  for (kept in source$folds) {
    fits <- identical(kept$where, where) && all(unlist(parts) %in% unlist(kept$parts)) &&
      (!length(keys) || identical(kept$keys[names(keys)], keys))
    if (!fits) next
    out <- kept$out
    out$parts <- stats::setNames(out$parts[match(unlist(parts), unlist(kept$parts))], names(parts))
    return(roll_rows(out, names(keys)))
  }
}

# "fold by territory: sum(net), count()"
fold_words <- function(keys, parts) {
  fit_text(one_line(paste0("fold", if (length(keys)) paste0(" by ", and_list(names(keys), 6)),
                           if (length(parts)) paste0(": ", and_list(names(parts), 6)))), 100)
}

# Folded rows with names for keys. Subtotals are put together from the rows where the parts allow
# it, and asked for where not.
ask_fold <- function(source, keys, parts, where, totals = list()) {
  rolls <- all(vapply(parts, adds_over_groups, NA))
  out <- if (rolls) known_fold(source, keys, parts, where)
  if (is.null(out)) {
    statements <- fold_statements(source, keys, parts, where)
    answers <- lapply(statements, function(s) {
      ask(source, s$sql, fold_words(keys, parts), guard = length(keys) > 0)
    })
    out <- settle_rows(read_fold(answers, statements, parts), rolls)
    if (rolls) keep_fold(source, keys, parts, where, out)
  }
  totals <- lapply(totals, function(subset) {
    if (rolls) name_rows(roll_rows(out, subset)) else
      ask_fold(source, keys[subset], parts, where)
  })
  out <- name_rows(out)
  out$totals <- totals
  out
}

# Rows of the same names put together, in the order of the names.
settle_rows <- function(out, rolls) {
  if (!length(out$keys)) return(out)
  if (rolls) return(roll_rows(out, names(out$keys)))
  at <- do.call(order, unname(lapply(out$keys, `[[`, "codes")))
  list(keys = lapply(out$keys, take_codes, at), parts = lapply(out$parts, take, at),
       lines = out$lines[at])
}

# A folded table over some of its keys.
roll_rows <- function(out, subset) {
  coarse <- coarser_rows(out$keys[subset], out$lines)
  list(keys = Map(function(codes, key) list(codes = codes, levels = key$levels), coarse$keys,
                  out$keys[subset]),
       parts = lapply(out$parts, coarse$roll), lines = coarse$lines)
}

name_rows <- function(out) {
  out$keys <- lapply(out$keys, function(key) names_at(key$codes, key$levels))
  out
}

#' @export
source_pairs.database_source <- function(source, keys, parts, where = NULL, totals = list()) {
  out <- source_fold(source, keys, parts, where, totals)
  coded <- lapply(out$keys, code_column)
  out$keys <- lapply(coded, `[[`, "codes")
  out$levels <- lapply(coded, `[[`, "levels")
  out
}

#' @export
source_counted.database_source <- function(source, value, by = NULL, where = NULL) {
  w <- sql_writer(source)
  x <- sql_row(w, value)
  key <- if (!is.null(by)) sql_key(w, by, coarse = FALSE)
  alias <- c(if (!is.null(by)) "ll_k1", "ll_value")
  select <- c(if (!is.null(by)) paste(key$sql, "AS ll_k1"), paste(x$sql, "AS ll_value"),
              "COUNT(*) AS ll_times")
  answer <- ask(source, paste0("SELECT ", paste(select, collapse = ", "), "\n",
                               from_where(w, where), "\nGROUP BY ",
                               paste(alias, collapse = ", ")), "how often each value occurs",
                guard = TRUE)
  v <- scaled_value(scaled(as.double(answer$ll_value), x$decimals))
  times <- as.double(answer$ll_times)
  coded <- if (!is.null(by)) key$coded(answer$ll_k1)
  at <- order(if (is.null(by)) integer(length(v)) else coded$codes, v)
  at <- at[!is.na(v[at])]
  list(group = if (!is.null(by)) names_at(coded$codes, coded$levels)[at],
       missing = sum(times[is.na(v)]), value = v[at], times = times[at])
}

#' @export
source_gaps.database_source <- function(source, key, date, where = NULL) {
  # Each name's days, once each, are all that is needed.
  fold <- source_fold(source, list(name = key, day = node("bucket", part = "day", arg = date)),
                      list(), where)
  column <- code_column(fold$keys$name)
  out <- gaps_by_name(column, as.numeric(as.Date(fold$keys$day)), NULL)
  c(list(name = column$levels), out)
}

#' @export
source_latest.database_source <- function(source, key, date, where, fields) {
  latest <- NULL
  if (!is.null(date)) {
    w <- sql_writer(source)
    name <- sql_key(w, key, coarse = FALSE)$sql
    day <- sql_field(w, date)$sql
    last <- paste0("SELECT ", name, " AS ll_k, MAX(", day, ") AS ll_m\n", from_where(w, where),
                   "\nGROUP BY ll_k")
    if (!length(w$joins))
      latest <- paste0("(", name, ", ", day, ")", source$dialect$rows_in, "(", last, ")")
  }
  trees <- c(list(key), fields, if (!is.null(date)) list(node("name", name = date)))
  here <- bring_lines(source, trees, where, also = latest)
  # Lines of one day come in no order of their own: the last by their values serves.
  found <- source_latest(here, key, date, where, fields)
  by <- lapply(fields, function(tree) {
    if (is_text(here, tree)) coded_tree(here, tree)$codes else scaled_value(row_values(here, tree))
  })
  by <- c(unname(lapply(by, `[`, found$line)), list(found$line))
  at <- do.call(order, by)
  list(name = found$name[at], line = found$line[at], source = here)
}

#' @export
source_narrowed.database_source <- function(source, where) {
  if (is.null(where)) return(source)
  derived_source(source, only = and_also(source$only, where))
}

#' @export
source_alike.database_source <- function(source, fields, where = NULL) {
  derived_source(source, only = and_also(source$only, where), least = 2)
}
