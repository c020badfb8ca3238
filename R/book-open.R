#' Open a book of order lines
#'
#' A book is the order lines with what each field is, the registers, the metrics and the parameters.
#' It is opened once and asked many times; studies such as [ll_standings()] take it as their first
#' argument.
#'
#' @param lines (data frame, text, connection or list) the order lines, one row each:
#'   * a data frame, which is never changed, and whose later changes do not reach the book
#'   * paths or patterns (`"lines-*.csv"`) of text tables, Parquet files or spreadsheets: several
#'     are one book, with columns matched by name. In a text table, empty cells and `NA` are
#'     missing, numbers with leading zeros stay text
#'   * an open DBI connection, with `table` or `query`
#'   * a list that says more: of files `file`, `columns` (only these are read), `source_field` (a
#'     field that tells the file of each line), `sheet`, `range` and `header_row` of a spreadsheet,
#'     `encoding` of a text table (`"windows-1250"`), `through = "duckdb"` for files larger than
#'     memory; of a database `connect` (a connection, or a list of `driver`, `"sqlite"`, `"postgres"`,
#'     `"duckdb"` or `"clickhouse"`, and `file` or `host`, `port`, `dbname`, `user`,
#'     `password_from`, an environment variable) and `table` or `query`.
#'     See `vignette("h-sources", package = "longladder")`
#' @param fields (named list or character) what fields are where the guess is wrong: a role, or a
#'   list (see Fields below). Roles:
#'   * `"identifier"`: counted, never added up; kept as text
#'   * `"date"`
#'   * `"dimension"`: slices, and can be ranked: customer, product, rep, region
#'   * `"measure"`: a number that is added up
#' @param metrics (named character or list) formulas over lines, such as
#'   `c(revenue = "sum(net)", orders = "distinct(order_no)", average = "revenue / orders")`.
#'   One-sided formulas serve too. A list gives more: `list(is = "sum(net)", unit = "money",
#'   better = "low", also = "turnover")`, where `unit` is `"money"`, `"percent"`, `"count"` or
#'   `"number"`, `better` is `"high"` or `"low"` and `also` are other names for it in questions.
#'   See [ll_languages] for what formulas may hold.
#' @param registers (named list) per dimension a data frame or path of all the names that should
#'   exist, with their own fields; or a list of `table` (or `file`, with `sheet`, `range` and
#'   `header_row` of a spreadsheet, or `encoding`) and `key` where the key column bears another name; or of
#'   `connect` (as in `lines`, or `"lines"` for the database of the lines) and `table` or `query`.
#'   A register's fields serve as if they stood on the lines: under their own name where that
#'   is free, and always as `dimension.field`.
#' @param parameters (named numbers) usable by name in formulas and conditions.
#' @param date (text) the date field that periods go by; the first one if not given.
#' @param order (text) the identifier of an order, which `min_orders` counts; guessed from its name.
#' @param people (text) the dimension of the people who sell, for results per head; guessed.
#' @param as_of (date or text) the day that "last quarter" and the like count back from; the last
#'   date of the lines if not given.
#' @param control (named numbers, or a list of these by period) the ledger's own totals of metrics,
#'   over the whole book (`c(revenue = 9180264.05)`) or by period (`list(revenue = c("2026-01" =
#'   301224.50, "2026-02" = 287113.20))`, one more entry next month); every proof holds them against
#'   the lines, to the last decimal.
#' @param title (text) the book's name, on figures and workbooks.
#' @param bands (named list) dimensions made of bands of a number: `list(size = list(of = "net",
#'   from = c(0, 100, 1000), labels = c("small", "middle", "large")))`. `of` is a formula over
#'   lines, or with `each` a metric of each name: `list(class_of = list(of = "revenue",
#'   each = "account", from = c(0, 5000)))`, measured `over = "book"` (the default) or
#'   `over = "shown"`, the lines of each question. Bounds are lower bounds, included; `below` names
#'   what lies under the first. A
#'   `table` of `label`, `from` and `to` serves too, and is checked for gaps and overlaps.
#' @param calendar (named list) `fiscal_start` (month 1 to 12 or its name): where the fiscal year
#'   starts; it is named after the year it ends in. For years of 52 or 53 weeks `weeks` (`"4-4-5"`,
#'   `"4-5-4"`, `"5-4-4"`), `week_starts` (`"Monday"` and so on) and `begins`: `"nearest"` that
#'   weekday to the first of the month, or the last one `"on or before"` it. `time_zone`, as in
#'   `"Europe/Lisbon"`: whose days count where times carry an offset from UTC. `covered_to`: the day
#'   to which the lines are complete, with or without lines there. `events`: feasts and fairs that
#'   lie
#'   on other days every year, such as `list("spring fair" = c("2025-04-20", "2026-04-05"))`.
#' @param exclude (text or one-sided formula) a condition; lines that meet it are left out of
#'   every question and counted in every proof.
#' @param grain (text) `"lines"`, or `"summed"` when the figures were added up before, so that
#'   counting, averages and medians are refused.
#' @param unpivot (list or text) for a file with a column per month: `list(columns = "2026-*",
#'   names = "month", values = "net")` turns each filled cell of those columns into a line.
#' @param fixes (`TRUE`, `FALSE` or named list) switches of what is fixed on opening, such as
#'   `list(total_rows = FALSE)`: `title_rows` above the header, `foot_rows` below the lines,
#'   `total_rows` (grand totals at the foot), `numbers` (`(45.00)`, `45.00-`, `1.234,56`, `12 %`,
#'   `EUR 9`), `dates` (`31/03/2026`, `31 Mar 2026`), `encoding` (Latin-1, UTF-16).
#'
#' @param sets (named list) saved sets of names, for conditions such as `account %in% gone`:
#'   `list(gone = list(each = "account", is = "active('2025') - active('2026')"))`, in the language
#'   of [ll_sets()]. Instead of `is`, `names` or a `file` lists names from elsewhere. They are made
#'   of all lines that are not excluded, whatever a question asks.
#'
#' @param match (named list) rules by which names on the lines meet those of their register where both
#'   are written differently, `list(account = c("trim", "zeros"))`: `trim` (blanks), `case`, `zeros`
#'   (leading ones) and `punctuation`. Opening proposes those that win lines.
#' @param sign (named list) for exports that write credit notes without a minus: per field the words
#'   whose amounts count as negative, `list(doc_type = c(CN = -1))` or `list(doc_type = "CN")`.
#'   Amounts that are negative already stay; prices and rates too.
#' @param currency (text or list) where a field, or the cells of the amounts, tell several
#'   currencies (`"EUR 12.50"`; kept as the field `currency`): the one that counts, the others'
#'   lines being left out; `"any"` to add them as they stand; or `list(to = "EUR", rates = rates)`
#'   to convert them by a table (data frame or path) of date, currency and rate, what
#'   one unit is worth, the last one known on the day of each line. Not given, no sum is made over
#'   several: studies refuse (`ll_error_currencies`), the command, a run and the desk show each apart.
#' @param cache (flag) for lines in files: `TRUE` keeps what opening gave for the next time, see
#'   [ll_cache()]; not given, a kept book serves where there is one, and nothing is written; `FALSE`
#'   opens the files anew. Option `longladder.cache` is its default.
#' @param table,query (text) with a connection: the table (`"schema.table"` too), or a query in its
#'   place. Questions run in the database, which only ever sees `SELECT`; added-up rows travel.
#'
#' @section Fields:
#' A list for a field may hold
#' * `role`, and `column`: the column's name in `lines`, to give the field another one
#' * `is`: a formula over lines that makes the field, such as `"ship_date - order_date"` (days),
#'   `"month(order_date)"`, or `"ifelse(net >= 1000, \"large\", \"small\")"`
#' * `also`: other names by which formulas and questions may call it
#' * `same`: spellings to be merged: `"similar"` for names that differ only in case, blanks or
#'   accents, or `list("Tamsin Orrell" = c("tamsin orrell", "T. Orrell"))`
#' * `fill`: what stands for missing values: `"above"` for the last one above, as in reports that
#'   print a group's name once, `"zero"`, `"mean"`, `"median"` or a value
#' * `form`: `"day first"` or `"month first"`, for dates such as 03/04/2026; `"decimal point"` or
#'   `"decimal comma"`, for numbers such as 1.234 where no cell of the column tells
#' * `label`: the field that tells what each of its codes is called, of its register or of the
#'   lines: "Quarry Combe Garden Centre (03085)". Sentences, pages and pictures show both, tables
#'   have a column for each (`account`, `account_label`), and either may be typed. Not given, the
#'   first field of the register that names nearly each code serves; names that are words already
#'   need none
#' * `plural`: what several of its names are called in sentences, where English does not make it:
#'   `"Haendler"`
#' * `currency`: where a column holds several, the one that counts, or `"any"`
#'
#' None of this touches the file or the data frame. What was fixed is reported once, shown
#' when the book is printed, and counted in every proof.
#'
#' @return An object of class `ll_book`. Printing it shows its lines, dates, fields with role,
#'   reason and gaps, registers and metrics.
#' @section Errors:
#' `ll_error_file` for a file that cannot be read, `ll_error_data` for lines that cannot serve,
#' `ll_error_word` and `ll_error_formula` for words and metrics that do not fit, `ll_error_package`
#' where a package for the kind of lines is missing, `ll_error_database` for a server or table that
#' cannot be reached; later `ll_error_lost` where a connection is lost midway.
#' @examples
#' lines <- data.frame(
#'   order_no = c("A1", "A1", "A2", "A3"), day = as.Date("2026-03-01") + 0:3,
#'   rep = c("Ida", "Ida", "Tom", "Tom"), net = c(12.5, 7.5, 30, 4))
#' book <- ll_book(lines, metrics = c(revenue = "sum(net)", orders = "distinct(order_no)"))
#' book
#' @export
ll_book <- function(lines, fields = NULL, metrics = NULL, registers = NULL, parameters = NULL,
                    date = NULL, order = NULL, people = NULL, as_of = NULL, control = NULL,
                    title = NULL, bands = NULL, calendar = NULL, exclude = NULL,
                    grain = "lines", unpivot = NULL, fixes = TRUE, sets = NULL, match = NULL,
                    sign = NULL, currency = NULL, cache = NULL, table = NULL, query = NULL) {
  args <- check_book_args(given_args(as.list(environment())))
  finish_book(start_book(open_lines(args), args), args)
}

# The arguments of ll_book(), checked as far as they can be by themselves.
check_book_args <- function(args) {
  kernel_threads(thread_count())
  if (is.null(args$lines))
    ll_abort("'lines' must be given: a data frame, the path of a file, or a connection.",
             "argument")
  declared <- book_declaration()
  single <- names(declared)[vapply(declared, function(arg) arg$spec$type == "text", NA)]
  # A day or a condition need not be text.
  single <- c(setdiff(single, c("as_of", "exclude", "currency")), "table", "query")
  for (name in setdiff(names(declared), c(single, "as_of", "exclude", "currency", "grain")))
    if (!is.null(args[[name]])) {
      refuse_objects(args[[name]], name)
      args[[name]] <- utf8_value(args[[name]])
    }
  for (name in single) if (!is.null(args[[name]])) check_words(args[[name]], name, one = TRUE)
  args$specs <- check_fields(args$fields)
  args$switches <- check_fixes(args$fixes)
  args["cache"] <- list(args$cache %||% getOption("longladder.cache"))
  if (!is.null(args$cache)) args$cache <- check_flag(args$cache, "cache")
  args$calendar <- check_calendar(args$calendar)
  args["match"] <- list(check_match(args$match, args$registers))
  args["sign"] <- list(check_sign(args$sign))
  args["currency"] <- list(check_currency_key(args$currency))
  args$grain <- check_choice(args$grain, "grain", declared$grain$spec)
  new_record("ll_book_args", args)
}

# The lines and registers, read or looked at where they are, or as they were kept: list(source,
# fields, registers, title, units, cache, and what was removed and fixed). `cache` tells whether a
# kept book was `used`, or else why one did not serve, how many seconds opening `took`, whether it
# is `possible` to keep it, and its size or why it `failed` where that was asked.
open_lines <- function(args) {
  place <- lines_place(args$lines, args$table, args$query)
  kept_at <- kept_place(place, args)
  kept <- find_kept(kept_at)
  if (!is.null(kept$opened)) return(kept$opened)
  keeping <- isTRUE(args$cache) && !is.null(kept_at)
  before <- if (keeping) lapply(kept_at$files, file_state)
  start <- proc.time()[["elapsed"]]
  opened <- open_anew(place, args)
  took <- proc.time()[["elapsed"]] - start
  done <- if (keeping) keep_opened(opened, kept_at, before) else list(used = FALSE)
  # From here on what was kept serves, and the memory is free.
  if (!is.null(done$size)) opened <- find_kept(kept_at)$opened %||% opened
  opened$cache <- c(done, list(why = kept$why, took = took,
                               possible = !keeping && !is.null(kept_at)))
  opened
}

open_anew <- function(place, args) {
  far <- !is.null(place$con)
  kept <- FALSE
  if (isTRUE(place$ours))
    on.exit(if (!kept) try(DBI::dbDisconnect(place$con), silent = TRUE))
  if (far && !is.null(args$unpivot)) refuse_unpivot()
  if (far && (length(args$sign) || length(args$match) || !is.null(args$currency$rates)))
    ll_abort(c("'sign', 'match' and 'rates' change lines of files, not those of a database.",
               i = paste("Write it into a view or a query:",
                         "CASE WHEN doc_type = 'CN' THEN -net ELSE net END.")), "argument")
  columns <- if (far) open_database(place$con, place$table, place$query, args$specs) else
    open_columns(place, args$specs, args$unpivot, args$switches, names(args$registers))
  tables <- open_registers(args$registers, names(if (far) columns$columns else columns$data),
                           args$switches, columns$con)
  called <- names(tables$tables)
  if (!far) columns <- with_header_date(columns, tables$tables, args)
  described <- if (far) describe_database(columns, args$specs, tables$tables, args$calendar) else
    describe_fields(columns, args, tables)
  names(tables$tables) <- guarded(called)
  fields <- all_fields(described$rows, tables$tables)
  source <- if (far) described$source else
    new_frame_source(described$data, fields, tables$tables, described$coded, args$calendar)
  source$fields <- fields
  source_remember(source)
  if (isTRUE(place$ours)) close_with(source)
  kept <- TRUE
  list(source = source, fields = fields, registers = tables$tables, title = columns$title,
       removed = columns$removed, records = columns$records,
       units = described$units %||% columns$units,
       fixes = rbind(columns$fixes, columns$header_fix, described$fixes, tables$fixes),
       offers = described$offers)
}

# A book of lines that are open, with its calendar, orders and people.
start_book <- function(opened, args) {
  book <- list(source = opened$source, fields = opened$fields, registers = opened$registers,
               parameters = check_parameters(args$parameters, opened$fields), metrics = list(),
               only = NULL, aside = NULL, title = args$title %||% opened$title,
               lines = source_size(opened$source), removed = opened$removed,
               records = opened$records, fixes = opened$fixes, grain = args$grain,
               calendar = args$calendar, offers = offers_for(opened$offers, args$metrics))
  book <- set_calendar(book, args$date, args$as_of, opened$units)
  book$cache <- opened$cache
  book$order <- pick_field(args$order, book, "order", "identifier", order_words)
  book$people <- pick_field(args$people, book, "people", "dimension", people_words)
  class(book) <- "ll_book"
  book
}

# What is made of its fields: computed ones, bands, sets, metrics; lines excluded; the ledger.
finish_book <- function(book, args) {
  book$set_names <- names(args$sets)
  book$labels <- given_labels(book, args$specs)
  book <- add_computed(book, args$specs, args$bands)
  book$also <- other_names(args$specs, book$fields)
  book$plurals <- spec_values(args$specs, "plural")
  book$sets <- declare_sets(args$sets)
  book <- add_metrics(book, args$metrics)
  book <- finish_metric_bands(book)
  book$aside <- condition_of(book, args$exclude, "condition 'exclude'")
  if (length(sets_in(book$aside)))
    ll_abort("'exclude' cannot look into a set: sets are made of the lines that are left.",
             "argument")
  book <- settle_currencies(book, args$currency)
  book <- finish_sets(book)
  book$control <- check_control(args$control, book)
  book$files <- files_named(args$lines, args$registers, args$sets)
  book
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
  # A parameter may be list(is = 1000, title = "a big order").
  stats::setNames(lapply(names(values), function(n) {
    value <- values[[n]]
    if (is.list(value)) value <- value$is
    check_number(value, paste("parameter", n), list())
  }), names(values))
}

pick_field <- function(given, book, what, role, words) {
  known <- book$fields[book$fields$from == "lines" & book$fields$role == role, ]
  if (!is.null(given)) {
    given <- guarded(given)
    if (!given %in% book$fields$name) given <- same_word(given, known$name) %||% given
    if (!given %in% book$fields$name)
      ll_abort(c(paste0(quoted(what), " names an unknown field ", quoted(given), "."),
                 offer(given, known$name, "Fields")), "word")
    return(given)
  }
  named <- known$name[grepl(words, column_word(known$name))]
  if (length(named)) return(named[1])
  if (role != "dimension") return(NULL)
  # Headers of orders bear the people of their lines.
  of_order <- named_once(book$fields[book$fields$from %in% book$order, ])
  of_order <- of_order$name[of_order$role == role]
  named <- of_order[grepl(words, column_word(of_order))]
  if (length(named)) named[1]
}
