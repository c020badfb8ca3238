#' Open a book of order lines
#'
#' A book is the order lines with what each field is, the registers, the metrics and the parameters.
#' It is opened once and asked many times; studies such as [ll_standings()] take it as their first
#' argument.
#'
#' @param lines (data frame, or path of a text table) the order lines, one row each. The data frame
#'   is never changed, and later changes to it do not reach the book. In a file, empty cells and
#'   `NA` are missing, numbers with leading zeros stay text.
#' @param fields (named list or character) what fields are where the guess is wrong: a role, or a
#'   list of `role` and `column` (the column's name in `lines`, to give the field another one).
#'   Roles:
#'   * `"identifier"`: counted, never added up; kept as text
#'   * `"date"`
#'   * `"dimension"`: slices, and can be placed: customer, product, rep, region
#'   * `"measure"`: a number that is added up
#' @param metrics (named character or list) formulas over lines, such as
#'   `c(revenue = "sum(net)", orders = "distinct(order_no)", average = "revenue / orders")`.
#'   One-sided formulas serve too. A list gives more: `list(is = "sum(net)", show = "money",
#'   better = "low")`, where `show` is `"money"`, `"percent"`, `"count"` or `"number"` and `better`
#'   is `"high"` or `"low"`. Formulas know `sum`, `mean`, `count`, `distinct`, `abs`, arithmetic,
#'   and `[condition]` inside an aggregate: `sum(net[quantity >= 10])`.
#' @param registers (named list) per dimension a data frame or path of all the names that should
#'   exist, with their own fields; or a list of `table` and `key` where the key column bears another
#'   name. A register's fields serve as if they stood on the lines: under their own name where that
#'   is free, and always as `dimension.field`.
#' @param parameters (named numbers) usable by name in formulas and conditions.
#' @param date (text) the date field that periods go by; the first one if not given.
#' @param order (text) the identifier of an order, which `at_least` counts; guessed from its name.
#' @param people (text) the dimension of the people who sell, for results per head; guessed.
#' @param as_of (date or text) the day that "last quarter" and the like count back from; the last
#'   date of the lines if not given.
#' @param control (named numbers) the ledger's own totals of metrics over the whole book; every
#'   proof holds them against the lines.
#' @param title (text) the book's name, on figures and workbooks.
#'
#' @return An object of class `ll_book`. Printing it shows its lines, dates, fields with role,
#'   reason and gaps, registers and metrics.
#' @section Errors:
#' `ll_error_file` for a file that cannot be read, `ll_error_data` for lines that cannot serve,
#' `ll_error_word` and `ll_error_formula` for words and metrics that do not fit.
#' @examples
#' lines <- data.frame(
#'   order_no = c("A1", "A1", "A2", "A3"), day = as.Date("2026-03-01") + 0:3,
#'   rep = c("Ida", "Ida", "Tom", "Tom"), net = c(12.5, 7.5, 30, 4))
#' book <- ll_book(lines, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"))
#' book
#' @export
ll_book <- function(lines, fields = NULL, metrics = NULL, registers = NULL, parameters = NULL,
                    date = NULL, order = NULL, people = NULL, as_of = NULL, control = NULL,
                    title = NULL) {
  columns <- open_columns(lines, fields)
  tables <- open_registers(registers, names(columns$data))
  described <- describe_fields(columns$data, columns$roles, tables, columns$where)
  columns$data <- described$data
  source <- new_frame_source(described$data, described$fields, tables, described$coded)
  book <- list(source = source, fields = described$fields, registers = tables,
               parameters = check_parameters(parameters, described$fields), metrics = list(),
               only = NULL, title = title %||% columns$title, lines = source_size(source))
  book <- set_calendar(book, date, as_of)
  book$order <- pick_field(order, book, "order", "identifier", order_words)
  book$people <- pick_field(people, book, "people", "dimension", people_words)
  class(book) <- "ll_book"
  book <- add_metrics(book, metrics)
  book$control <- check_control(control, book)
  book
}

# The lines as a plain list of columns of our own, with the names and roles that the person gave.
open_columns <- function(lines, fields) {
  if (is.character(lines) && length(lines) == 1 && !is.na(lines)) {
    data <- read_table_file(lines)
    where <- paste0("the file ", quoted(lines))
    title <- sub("\\.[^.]*$", "", basename(lines))
  } else {
    data <- check_frame(lines, "lines")
    where <- "the data frame"
    title <- NULL
  }
  names(data) <- as_utf8(trimws(names(data)))
  given <- check_fields(fields, names(data), where)
  renamed <- match(given$column, names(data))
  names(data)[renamed] <- given$name
  check_duplicate_names(names(data), capital(where), "data")
  check_reserved(names(data), "field")
  list(data = as.list(data), roles = stats::setNames(given$role, given$name), where = where,
       title = title)
}

check_frame <- function(x, what) {
  if (!is.data.frame(x))
    ll_abort(c(paste0(quoted(what), " must be a data frame or the path of a file."),
               x = paste0("It is ", shown(class(x)[1]), ".")), "argument")
  if (!ncol(x) || !nrow(x))
    ll_abort(paste0("The data frame of ", what, " has no ", if (ncol(x)) "rows" else "columns",
                    "."),
             "data")
  check_duplicate_names(names(x), paste0("The data frame of ", what), "data")
  # Tables that are changed in place by their owner must not change under the book.
  if (inherits(x, "data.table")) x <- data.table::copy(x)
  x <- as.data.frame(x)
  odd <- names(x)[!vapply(x, function(column) is.atomic(column) || is.factor(column), TRUE)]
  if (length(odd))
    ll_abort(paste0("Columns must be plain vectors; ", and_list(quoted(odd)), " of ", what,
                    if (length(odd) == 1) " is not." else " are not."), "data")
  x
}

check_fields <- function(fields, columns, where) {
  if (is.null(fields)) return(list(name = character(), column = character(), role = character()))
  if (is.null(names(fields)) || any(!nzchar(names(fields))))
    ll_abort("'fields' must be named: c(account = \"dimension\").", "argument")
  one <- function(name) {
    spec <- fields[[name]]
    if (!is.list(spec)) spec <- list(role = spec)
    unknown <- setdiff(names(spec), c("role", "column"))
    if (length(unknown))
      ll_abort(c(paste0("The field ", quoted(name), " has an unknown key ", quoted(unknown[1]),
                        "."),
                 offer(unknown[1], c("role", "column"), "Keys")), "word")
    column <- spec$column %||% name
    if (!column %in% columns)
      ll_abort(c(paste0("There is no column ", quoted(column), " in ", where, "."),
                 offer(column, columns, "Columns")), "word")
    role <- spec$role %||% NA_character_
    if (!is.na(role) && !role %in% roles)
      ll_abort(c(paste0("The role of ", quoted(name), " must be ",
                        and_list(quoted(roles), last = "or"), "."),
                 x = paste0("It is ", shown(role), "."), near_only(role, roles)), "word")
    c(column, role)
  }
  thunks <- lapply(names(fields), function(name) function() one(name))
  found <- do.call(together, thunks)
  list(name = names(fields), column = vapply(found, `[`, "", 1), role = vapply(found, `[`, "", 2))
}

reserved_names <- c("place", "place_overall", "place_before", "moved", "inside", "class",
                    "quadrant", "tier", "to_next", "score", "payout", "step")
reserved_endings <- c("place", "share", "running_total", "running_share", "before", "change",
                      "growth")

check_reserved <- function(names, what) {
  bad <- intersect(names, reserved_names)
  if (length(bad))
    ll_abort(c(paste0("A ", what, " may not be called ", and_list(quoted(bad), last = "or"),
                      ": results have columns of that name."),
               i = if (what == "field")
                 paste0("Give it another name on opening: fields = list(own_", bad[1],
                        " = list(column = \"", bad[1], "\")).")
               else paste0("For example own_", bad[1], ".")), "word")
}

# The field table of lines and registers, and the columns with their dates read.
describe_fields <- function(data, given, tables, where) {
  rows <- list()
  coded <- list()
  for (name in names(data)) {
    role <- if (name %in% names(given) && !is.na(given[[name]])) given[[name]]
    if (is.null(role) || role == "date")
      data[[name]] <- read_date_column(data[[name]], name, where, must = !is.null(role))
    x <- data[[name]]
    check_usable(x, name, role, where)
    if (column_type(x) == "text") coded[[name]] <- code_column(x)
    rows[[name]] <- cbind(data.frame(name = name, column = name, from = "lines"),
                          describe_column(x, name, role, name %in% names(tables), coded[[name]]))
  }
  fields <- do.call(rbind, c(rows, unlist(lapply(names(tables), function(dimension) {
    register_fields(dimension, tables[[dimension]], names(data))
  }), recursive = FALSE)))
  rownames(fields) <- NULL
  list(data = data, fields = fields, coded = coded)
}

check_usable <- function(x, name, role, where) {
  if (is.null(role) || role != "measure") return(invisible())
  if (column_type(x) == "empty")
    ll_abort(paste0("Every value of the measure ", quoted(name), " is missing."), "data")
  if (!is.numeric(x)) {
    text <- as.character(x)
    bad <- which(!is.na(text) & is.na(suppressWarnings(as.numeric(text))))
    ll_abort(c(paste0("The measure ", quoted(name), " must hold numbers."),
               x = if (length(bad)) paste0(line_word(bad[1], where), " says ", shown(text[bad[1]]),
                                           ".")),
             "data")
  }
}

check_parameters <- function(parameters, fields) {
  if (is.null(parameters)) return(list())
  values <- as.list(parameters)
  if (is.null(names(values)) || any(!nzchar(names(values))))
    ll_abort("'parameters' must be named numbers: c(big_order = 1000).", "argument")
  clash <- intersect(names(values), fields$name)
  if (length(clash))
    ll_abort(paste0("A parameter may not bear the name of a field: ", and_list(quoted(clash)), "."),
             "word")
  stats::setNames(lapply(names(values), function(n) {
    check_number(values[[n]], paste("parameter", n), list())
  }), names(values))
}

set_calendar <- function(book, date, as_of) {
  dates <- book$fields$name[book$fields$role == "date" & book$fields$from == "lines"]
  if (!is.null(date) && !date %in% dates)
    ll_abort(c(paste0("There is no date field called ", quoted(date), "."),
               offer(date, dates, "Date fields")), "word")
  if (is.null(date) && length(dates)) date <- dates[1]
  book$date <- date
  book$days <- if (is.null(date)) as.Date(character()) else source_days(book$source, date)
  if (!is.null(as_of)) {
    day <- as_iso_date(as.character(as_of))
    if (length(day) != 1 || is.na(day))
      ll_abort(paste0("'as_of' must be one date such as 2026-03-31; it is ", shown(as_of), "."),
               "argument")
    book$as_of <- day
  }
  book
}

pick_field <- function(given, book, what, role, words) {
  known <- book$fields[book$fields$from == "lines" & book$fields$role == role, ]
  if (!is.null(given)) {
    if (!given %in% book$fields$name)
      ll_abort(c(paste0(quoted(what), " names an unknown field ", quoted(given), "."),
                 offer(given, known$name, "Fields")), "word")
    return(given)
  }
  named <- known$name[grepl(words, tolower(known$name))]
  if (length(named)) named[1] else NULL
}
