# What a book takes, declared once: the arguments of ll_book(), the keys of a brief, the options of
# the command, their checks, help and schema are made from this table.

# spec: what a brief may hold, see key_spec(); default: the argument's in R; options: of the
# command, by name.
book_arg <- function(spec, default = NULL, options = list()) {
  list(spec = spec, default = default, options = options)
}

# An option that tells the argument, or a part of it. `as` is how: a plain value, pairs of
# NAME=VALUE, formulas (pairs whose values are formulas of fields), sets (NAME=EACH: DEFINITION),
# words (a list with commas, for each key of `key`), key (pairs of NAME=VALUE, the value that of the
# key `key` of NAME), or entry, the value of the key `key` of a list.
# One with a default goes with another one.
book_option <- function(help, as = "value", key = NULL, default = NULL, path = NULL) {
  list(help = help, as = as, key = key, default = default, path = path)
}

# One option, of the argument's own name.
plain_option <- function(name, help) stats::setNames(list(book_option(help)), name)

# Texts that are named one by one; their options bear the same help.
text_arg <- function(name, help) {
  book_arg(key_spec(help, "text"), options = plain_option(name, help))
}

roles <- c("identifier", "date", "dimension", "measure")
# How dates and decimals may be written where they leave it open.
field_forms <- c("day first", "month first", "decimal point", "decimal comma")
metric_units <- c("money", "percent", "count", "number")

# The keys of each entry of an argument, or of the argument itself.
book_keys <- function(name) {
  spec <- book_declaration()[[name]]$spec
  names(spec$each$keys %||% spec$keys)
}

book_declaration <- function() {
  found_once$book <- found_once$book %||% declare_book()
  found_once$book
}

declare_book <- function() {
  text <- function(help) key_spec(help, "text")
  texts <- function(help) key_spec(help, "texts")
  one_of <- function(help, choices) key_spec(help, "choice", choices = choices)
  list(
    fields = book_arg(key_spec("what fields are", each = field_spec()), options = list(
      field = book_option(paste(
        "a field's role, as NAME=identifier|date|dimension|measure, or how it is written, as",
        "NAME='decimal comma' (repeatable)"), "pairs"),
      compute = book_option(paste(
        "a field made from others, as NAME=FORMULA: 'days=ship_date - order_date' (repeatable)"),
        "formulas"),
      label = book_option(paste("the field that tells what a dimension's codes are called, as",
                                "NAME=FIELD (repeatable)"), "key", "label"),
      plural = book_option("what several of a field's names are called, as NAME=WORD (repeatable)",
                           "key", "plural"),
      fill = book_option(paste("what stands for a field's missing values, as NAME=above (the last",
                               "one above), zero, mean, median or a value (repeatable)"),
                         "key", "fill"))),
    metrics = book_arg(
      key_spec("named formulas over lines", each = key_spec("a formula, or more", "text", list(
        is = text("the formula"), unit = one_of("its unit", metric_units),
        better = one_of("whether more or less is better", c("high", "low")),
        also = texts("other names for it in questions")))),
      options = list(define = book_option(
        "a metric, as NAME=FORMULA: 'revenue=sum(net)' (repeatable)", "pairs"))),
    registers = book_arg(
      key_spec("all names of a dimension that should exist, with their own fields",
               each = register_spec()),
      options = list(register = book_option("a dimension's register, as NAME=FILE (repeatable)",
                                            "pairs", path = "read"))),
    parameters = book_arg(
      key_spec("named numbers for formulas and conditions",
               each = key_spec("a number, or number and title", "number", list(
                 is = key_spec("the number", "number"), title = text("what it stands for")))),
      options = list(parameter = book_option("a parameter, as NAME=NUMBER (repeatable)",
                                             "pairs"))),
    date = text_arg("date", "the date field that periods go by"),
    order = text_arg("order", "the identifier that counts orders"),
    people = text_arg("people", "the dimension of the people who sell"),
    as_of = text_arg("as_of", "the day that 'last quarter' counts back from"),
    control = book_arg(key_spec("the ledger's own totals", each = key_spec(
      "a total, or totals by period", "number", each = key_spec("the period's total", "number")))),
    title = book_arg(text("the book's name, on figures, reports and workbooks")),
    bands = book_arg(key_spec("dimensions made of bands of a number", each = key_spec(
      "a band", keys = list(
        of = text("a formula over lines, or with 'each' a metric"),
        each = text("the names that the metric is of"),
        over = one_of("which lines the metric is of", c("book", "shown")),
        from = texts("lower bounds, included"), labels = texts("a label for each bound"),
        below = text("what lies under the first bound"),
        table = key_spec("rows of label, from and to", "rows"))))),
    calendar = book_arg(
      key_spec("where fiscal years start", keys = list(
        fiscal_start = text("the month in which the fiscal year starts"),
        weeks = text("quarters of weeks: 4-4-5, 4-5-4, 5-4-4"),
        week_starts = text("the weekday on which weeks start"),
        begins = one_of("which weekday the year begins with", c("nearest", "on or before")),
        time_zone = text("whose days count where times carry an offset"),
        covered_to = text("the day to which the lines are complete, with or without lines there"),
        events = key_spec("feasts and fairs that lie on other days every year",
                          each = texts("the days on which it began")))),
      options = list(fiscal_start = book_option("the month in which the fiscal year starts",
                                                "entry", "fiscal_start"),
                     covered_to = book_option(paste("the day to which the lines are complete,",
                                                    "with or without lines there"),
                                              "entry", "covered_to"))),
    exclude = book_arg(
      text("a condition: lines that are left out of every question, and counted"),
      options = plain_option("exclude",
                             "leave out lines that meet this condition, and count them")),
    grain = book_arg(one_of("whether figures were added up before", c("lines", "summed")), "lines",
                     plain_option("grain",
                                  "lines, or summed when the figures were added up before")),
    unpivot = book_arg(
      key_spec("columns to turn into lines", keys = list(
        columns = texts("the columns, or a pattern"), names = text("what the columns are called"),
        values = text("what their cells are called"))),
      options = list(
        unpivot = book_option("columns to turn into lines, as NAME,NAME or a pattern: '2026-*'",
                              "words", "columns"),
        unpivot_into = book_option(paste("what the unpivoted columns and their cells are called",
                                         "(default: period,amount)"),
                                   "words", c("names", "values"), "period,amount"))),
    fixes = book_arg(
      key_spec("what is fixed on opening: yes, no, or switches", "flag",
               lapply(all_fixes, function(on) key_spec("yes or no", "flag"))), TRUE,
      list(fix = book_option("switch a fix of the file off, as NAME=no (repeatable)",
                             "pairs"))),
    sets = book_arg(
      key_spec("saved sets of names", each = key_spec("a set", keys = list(
        each = text("whose names"), is = text("its definition"),
        names = texts("its names"), file = text("a file of its names")))),
      options = list(saved_set = book_option(
        paste("a set for conditions, as NAME=EACH: DEFINITION:",
              "'gone=account: active(2025) - active(2026)' (repeatable)"), "sets"))),
    match = book_arg(
      key_spec("rules by which names on the lines meet those of their register",
               each = key_spec("trim, case, zeros, punctuation", "texts")),
      options = list(match = book_option(paste(
        "rules by which a dimension's names meet its register, as NAME=RULE,RULE of trim, case,",
        "zeros and punctuation (repeatable)"), "pairs"))),
    sign = book_arg(
      key_spec("lines whose amounts count as negative, by a field that tells credit notes",
               each = key_spec("its words, or words with 1 or -1", "texts",
                               each = key_spec("1 or -1", "number"))),
      options = list(sign = book_option(
        "words of a field whose amounts count as negative, as NAME=WORD (repeatable)", "pairs"))),
    currency = book_arg(
      key_spec("which currency counts, where lines are in several", "text", list(
        to = text("the currency that counts, or any"),
        rates = text("a table of date, currency and rate, by which the others are converted"))),
      options = list(
        currency = book_option("the currency that counts, or any to add them as they stand",
                               "entry", "to"),
        exchange_rates = book_option(
          "a table of date, currency and rate, to convert the others by", "entry", "rates",
          path = "read"))),
    cache = book_arg(key_spec("keep the files opened for the next time: yes or no", "flag"),
                     options = plain_option("cache", paste(
                       "yes keeps the files opened for the next time, no opens them anew;",
                       "see 'longladder cache --help'"))))
}

field_spec <- function() {
  text <- function(help) key_spec(help, "text")
  key_spec("a role, or more", "choice", list(
    role = key_spec("what the field is", "choice", choices = roles),
    column = text("its column in the lines, to give the field another name"),
    is = text("a formula over lines that makes the field"),
    also = key_spec("other names for it", "texts"),
    plural = text("what several of its names are called: accounts"),
    label = text("the field, of its register or of the lines, that names each of its codes"),
    same = key_spec("spellings to merge: similar, or names with their spellings", "text",
                    each = key_spec("spellings of this name", "texts")),
    fill = text("what stands for missing values: above, zero, mean, median or a value"),
    form = key_spec("how its dates or its decimals are written", "choice", choices = field_forms),
    currency = text("the currency that counts, or any")), choices = c(roles, field_forms))
}

register_spec <- function() {
  key_spec("a file, or more", "text", c(
    list(file = key_spec("the file", "text"), key = key_spec("its column of the names", "text")),
    sheet_keys_spec(), list(connect = connect_spec("lines: the database of the lines; or ")),
    table_keys_spec()))
}

lines_spec <- function() {
  texts <- function(help) key_spec(help, "texts")
  key_spec(paste("the files of order lines, or where they are in a database; paths and patterns",
                 "count from the brief's folder"), "texts", c(
    list(file = texts("files, or patterns such as lines-*.csv")), sheet_keys_spec(),
    list(columns = texts("only these columns are read"),
         source_field = key_spec("a field that tells the file of each line", "text"),
         through = key_spec("read in pieces by this engine", "choice", choices = "duckdb"),
         connect = connect_spec()), table_keys_spec()))
}

sheet_keys_spec <- function() {
  list(sheet = key_spec("the sheet of a spreadsheet, by name or number", "text"),
       range = key_spec("the cells of the table, such as A3:F500", "text"),
       header_row = key_spec("the row of the names of its columns", "number"),
       encoding = key_spec("the character encoding of a text table: windows-1250, shift-jis", "text"))
}

table_keys_spec <- function() {
  list(table = key_spec("the table in the database", "text"),
       query = key_spec("a query in its place", "text"))
}

# How to reach a database; a register may be in that of the lines.
connect_spec <- function(first = "") {
  text <- function(help) key_spec(help, "text")
  key_spec(paste0(first, "how to reach the database"), if (nzchar(first)) "choice" else "none",
           choices = if (nzchar(first)) "lines", keys = list(
    driver = key_spec("the engine", "choice", choices = names(connection_drivers)),
    file = text("the file of a SQLite or DuckDB database"), host = text("the server"),
    port = key_spec("its port", "number"), dbname = text("the database"),
    user = text("the user"),
    password_from = text("the environment variable that holds the password"),
    sslmode = text("how PostgreSQL encrypts")))
}
