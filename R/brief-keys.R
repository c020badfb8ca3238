# What a brief may hold: the keys, what each takes, and one line of help. The checks and the schema
# for editors are made from this table.

# A value: `type` text (any scalar), texts (one or a list), number, flag, choice, rows (a list of
# maps), or none where only keys are taken; `keys`: what a map may hold; `each`: what every entry of
# a map of names is.
key_spec <- function(help, type = "none", keys = NULL, each = NULL, choices = NULL) {
  list(help = help, type = type, keys = keys, each = each, choices = choices)
}

brief_spec <- function() {
  file_or <- function(help, keys) key_spec(help, "text", keys)
  text <- function(help) key_spec(help, "text")
  texts <- function(help) key_spec(help, "texts")
  one_of <- function(help, choices) key_spec(help, "choice", choices = choices)
  list(
    title = text("the book's name, on figures, reports and workbooks"),
    lines = lines_spec(),
    date = text("the date field that periods go by"),
    order = text("the identifier that counts orders"),
    people = text("the dimension of the people who sell"),
    as_of = text("the day that 'last quarter' counts back from"),
    fields = key_spec("what fields are", each = key_spec("a role, or more", "choice", list(
      role = one_of("what the field is", roles),
      column = text("its column in the lines, to give the field another name"),
      is = text("a formula over lines that makes the field"),
      also = texts("other names for it"),
      same = key_spec("spellings to fold: alike, or names with their spellings", "text",
                      each = texts("spellings of this name")),
      fill = text("what stands for missing values: zero, mean, median or a value"),
      form = one_of("how its dates or its decimals are written",
                    field_forms),
      currency = text("the currency that counts, or any")), choices = c(roles, field_forms))),
    registers = key_spec("all names of a dimension that should exist, with their own fields",
                         each = file_or("a file, or more", c(
                           list(file = text("the file"), key = text("its column of the names")),
                           sheet_keys_spec(),
                           list(connect = connect_spec("lines: the database of the lines; or ")),
                           table_keys_spec()))),
    metrics = key_spec("named formulas over lines", each = file_or("a formula, or more", list(
      is = text("the formula"), show = one_of("how it is shown", metric_shows),
      better = one_of("whether more or less is better", c("high", "low"))))),
    parameters = key_spec("named numbers for formulas and conditions",
                          each = key_spec("a number, or number and title", "number", list(
                            is = key_spec("the number", "number"),
                            title = text("what it stands for")))),
    bands = key_spec("dimensions made of bands of a number", each = key_spec("a band", keys = list(
      of = text("a formula over lines, or with 'each' a metric"),
      each = text("the names that the metric is of"),
      over = one_of("which lines the metric is of", c("book", "shown")),
      from = texts("lower bounds, included"), labels = texts("a label for each bound"),
      below = text("what lies under the first bound"),
      table = key_spec("rows of label, from and to", "rows")))),
    calendar = key_spec("where fiscal years start", keys = list(
      fiscal_start = text("the month in which the fiscal year starts"),
      weeks = text("quarters of weeks: 4-4-5, 4-5-4, 5-4-4"),
      week_starts = text("the weekday on which weeks start"),
      begins = one_of("which weekday the year begins with", c("nearest", "on or before")),
      time_zone = text("whose days count where times carry an offset"))),
    set_aside = text("a condition: lines that are left out of every question, and counted"),
    grain = one_of("whether figures were added up before", c("lines", "summed")),
    unfold = key_spec("columns to turn into lines", keys = list(
      columns = texts("the columns, or a pattern"), names = text("what the columns are called"),
      values = text("what their cells are called"))),
    repairs = key_spec("what is mended on opening: yes, no, or switches", "flag",
                       lapply(all_repairs, function(on) key_spec("yes or no", "flag"))),
    control = key_spec("the ledger's own totals", each = key_spec(
      "a total, or totals by period", "number", each = key_spec("the period's total", "number"))),
    sets = key_spec("saved sets of names", each = key_spec("a set", keys = list(
      each = text("whose names"), is = text("its definition"),
      names = texts("its names"), file = text("a file of its names")))),
    pages = key_spec("the pages: a study each, with its arguments",
                     each = key_spec("a page", keys = list())))
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
       header_row = key_spec("the row of the names of its columns", "number"))
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

# The keys of a page of one study.
page_keys <- function(study) {
  c(list(study = key_spec("the study", "choice", choices = names(declarations())),
         title = key_spec("the page's name in reports and workbooks", "text")),
    lapply(declaration_of(study)$args, function(a) key_spec(a$help, "argument")))
}
