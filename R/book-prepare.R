# From a table as it came to columns that can serve: rows that are no lines excluded, numbers in
# ledger forms read. Each fix is one line of the report.

# `data` a list of columns, `file` TRUE where they come from a text table or a spreadsheet. Gives
# list(data, fixes, removed, code, rates): removed counts the rows excluded, code is the one currency
# that cells tell.
prepare_columns <- function(data, specs, switches, where, file, total_line = NULL, heads = NULL) {
  bare <- if (file) exclude_no_lines(data, switches, heads) else list(data = data, removed = 0L)
  read <- read_number_columns(bare$data, specs, switches, where, file)
  made <- exclude_totals(read$data, switches)
  list(data = made$data, removed = bare$removed + made$removed, code = read$code,
       rates = read$rates, fixes = rbind(
    bare$fixes, read$fixes, made$fixes,
    if (length(total_line)) total_line_fix(total_line, made$data)))
}

# Without rows that are no lines: headers repeated on every page, rows of nothing but separators,
# notes below the lines.
exclude_no_lines <- function(data, switches, heads = NULL) {
  n <- length(data[[1]])
  again <- if (switches[["title_rows"]]) repeated_heads(data, heads) else integer()
  units <- if (switches[["title_rows"]] && unit_row(data)) 1L
  idle <- if (switches[["foot_rows"]]) idle_rows(data, n) else integer()
  rows <- unique(c(again, units, idle))
  if (!length(rows) || length(rows) == n) return(list(data = data, removed = 0L))
  list(data = lapply(data, function(x) x[-rows]), removed = length(rows), fixes = rbind(
    if (length(again)) fix("title_rows", NA, length(again), paste0(
      plural(length(again), "row"), " that repeat", if (length(again) == 1) "s",
      " the header excluded")),
    if (length(units)) fix("title_rows", NA, 1, paste0(
      "1 row of units below the header excluded: ", and_list(quoted(unname(cells_of(data, 1))), 4))),
    if (length(idle)) fix("foot_rows", NA, length(idle), paste0(
      plural(length(idle), "row"), " without lines excluded", idle_words(data, idle)))))
}

# Whether the first row tells units: texts without a digit, each above numbers or dates, and nothing
# else: "(pcs)", "(EUR)".
unit_row <- function(data) {
  held <- cells_of(data, 1)
  if (!length(held) || length(data[[1]]) < 3 || any(grepl("[0-9]", held))) return(FALSE)
  all(vapply(data[names(held)], function(x) {
    below <- utils::head(as.character(x)[-1], 50)
    below <- below[!is_blank(below)]
    length(below) > 1 && all(grepl("[0-9]", below)) && !any(grepl("[[:alpha:]]{4}", below)) &&
      mean(grepl("^[-+(]?[0-9]", below)) > .5
  }, NA))
}

# Rows with nothing in them, and those below the lines that hold one text and nothing else.
idle_rows <- function(data, n) {
  if (length(data) < 3) return(integer())
  empty <- which(is_blank_cell(data[[1]]))
  for (x in data[-1]) empty <- empty[is_blank_cell(x[empty])]
  foot <- integer()
  for (row in seq(n, max(2, n - 30))) {
    held <- cells_of(data, row)
    if (length(held) > 1 || any(vapply(data[names(held)], is.numeric, NA)) ||
          any(names_total(held))) break
    foot <- c(foot, row)
  }
  union(empty, foot)
}

idle_words <- function(data, rows) {
  texts <- unlist(lapply(utils::tail(sort(rows), 3), function(row) cells_of(data, row)))
  if (length(texts)) paste0(": ", fit_text(one_line(paste(texts, collapse = " / ")), 80)) else ""
}

# Texts as numbers: list(data, fixes, code, rates); rates are columns of percent signs. A column whose
# own cells leave the decimal mark open has that of the other columns of the file.
read_number_columns <- function(data, specs, switches, where, file) {
  looked <- lapply(stats::setNames(names(data), names(data)), function(name) {
    if (may_be_number(data[[name]], name, specs[[name]], file))
      number_texts(data[[name]], name, specs[[name]], switches, where)
  })
  looked <- Filter(Negate(is.null), looked)
  mark <- if (file) common_mark(data, looked)
  fixes <- NULL
  thunks <- lapply(names(looked), function(name) {
    function() {
      out <- number_column(data[[name]], name, looked[[name]], specs[[name]], mark, where)
      if (!is.null(out$fix)) fixes <<- rbind(fixes, out$fix)
      out$value
    }
  })
  told <- cell_currencies(data, looked, specs, where)
  if (length(thunks)) data[names(looked)] <- do.call(together, thunks)
  if (!is.null(told$name)) data[[told$name]] <- told$codes
  list(data = data, fixes = rbind(fixes, told$fixes), code = told$code,
       rates = names(Filter(function(read) isTRUE(read$percents), looked)))
}

# The decimal mark that all columns agree on which tell one; NULL where they do not.
common_mark <- function(data, looked) {
  told <- unlist(lapply(looked, function(read) if (!length(read$doubt)) read$decimal_told))
  pointed <- vapply(data[setdiff(names(data), names(looked))], function(x) {
    if (!is.double(x) || inherits(x, c("Date", "POSIXct"))) return(FALSE)
    some <- first_known(x, 1000)
    any(some != round(some))
  }, NA)
  marks <- unique(c(told, if (any(pointed)) "."))
  if (length(marks) == 1) marks
}

# A text column whose every cell can be read as a number becomes one, unless it names things.
number_column <- function(x, name, read, spec, mark, where) {
  must <- identical(spec$role, "measure")
  text <- as.character(x)
  borrowed <- length(read$doubt) > 0 && !is.null(mark)
  if (borrowed) read <- read_again(read, mark, name)
  at <- match(text, read$text)
  value <- in_currency(read, spec$currency)[at]
  if (!must && !is_measure(value, name)) return(list(value = x))
  if (is.null(decimal_form(spec)) && length(read$doubt) && !borrowed)
    refuse_two_ways(read, name, where)
  list(value = value,
       fix = if (any(read$odd)) number_fix(text, name, read, read$odd[at], at, spec$currency))
}

# The same texts with the decimal mark of other columns.
read_again <- function(read, mark, name) {
  again <- read_numbers(read$text, mark, units = named_like_quantity(name))
  again$odd <- read$odd | again$odd | again$none & !is_blank(read$text) |
    read$text %in% read$doubt
  again$forms <- unique(c(again$forms, "the decimal mark of other columns"))
  c(again, list(text = read$text))
}

# The distinct texts of a column read as numbers, `odd` telling those that had to be fixed; NULL
# where they are to stay text.
number_texts <- function(x, name, spec, switches, where) {
  must <- identical(spec$role, "measure")
  distinct <- unique(as.character(x))
  read <- read_numbers(distinct, decimal_form(spec), units = must || named_like_quantity(name))
  if (all(read$none) || !must && too_long(distinct)) return(NULL)
  bad <- is.na(read$value) & !read$none
  if (any(bad) && must) refuse_numbers(as.character(x), distinct, read, name, where)
  read$odd <- read$odd | read$none & !is_blank(distinct)
  if (any(bad) || any(read$odd) && !switches[["numbers"]]) return(NULL)
  c(read, list(text = distinct))
}

# What names things though its texts can be read as numbers stays as it stands.
is_measure <- function(value, name) {
  guess_role(column_facts(value), name, FALSE)[[1]] == "measure"
}

# Only the currency that counts, where one was named.
in_currency <- function(read, currency) {
  if (is.null(currency) || currency == "any") return(read$value)
  ifelse(is.na(read$currency) | read$currency == currency, read$value, NA)
}

# In a data frame only what was called a measure is read; in a file also what nobody spoke of.
may_be_number <- function(x, name, spec, file) {
  if (!is.character(x) && !is.factor(x)) return(FALSE)
  identical(spec$role, "measure") || file && is.null(spec$role) &&
    mostly_numbers(first_held(x), decimal_form(spec), named_like_quantity(name)) &&
    !names_things(x, name)
}

# The decimal mark that the person named.
decimal_form <- function(spec) {
  switch(spec$form %||% "", "decimal point" = ".", "decimal comma" = ",")
}

mostly_numbers <- function(some, decimal, units) {
  read <- read_numbers(some, decimal, units = units)
  length(some) > 0 && mean(is.na(read$value) & !read$none) <= .1
}

# More digits than a double holds.
too_long <- function(text) any(nchar(gsub("[^0-9]", "", text)) > 15, na.rm = TRUE)

refuse_numbers <- function(x, distinct, read, name, where) {
  if (read$conflict)
    ll_abort(c(paste0("The measure ", quoted(name), " mixes decimal points and decimal commas (",
                      where, ")."), i = "Write them one way."), "data")
  first <- match(distinct[is.na(read$value) & !read$none][1], x)
  ll_abort(c(paste0("The measure ", quoted(name), " must hold numbers."),
             x = paste0(line_word(first, where), " says ", shown(x[first]), ".")), "data")
}

# 1.234 is a little more than one or above a thousand, and no cell of the column tells which.
refuse_two_ways <- function(read, name, where) {
  sample <- read$doubt[1]
  as <- function(decimal) format_plain(read_numbers(sample, decimal)$value)
  ll_abort(c(paste0("The numbers of ", quoted(name), " can be read two ways (", where, ")."),
             x = paste0(shown(sample), " is ", as("."), " with a decimal point and ", as(","),
                        " with a decimal comma, and no cell of the column tells which."),
             i = if (grepl("^the file", where)) paste0(
               "Say it: fields = list(", name, " = list(form = \"decimal point\")) or ",
               "\"decimal comma\" in R, fields: {", name, ": {form: decimal point}} in a brief, ",
               "--field ", name, "='decimal point' on the command; or give ", quoted(name),
               " the role dimension to keep it as text.") else
                 "Write one of them with its decimals, such as 1,234.00, or without any mark."),
           "data")
}

number_fix <- function(x, name, read, odd, at, currency) {
  held <- !read$none[at]
  left_out <- !is.null(currency) && currency != "any"
  empty <- unique(trimmed(x[read$none[at] & !is_blank(x)]))
  forms <- c(read$forms, if (length(empty)) paste(and_list(quoted(empty), 3), "as missing"),
             if (read$decimal == "," && !"decimal commas" %in% read$forms) "decimal commas")
  text <- paste0(plural(sum(odd), "cell"), " of ", name, " read as numbers",
                 if (length(forms)) paste0(" (", and_list(forms), ")"),
                 if (left_out) paste0("; other currencies than ", currency, " left out"))
  fix("numbers", name, sum(odd), text, if (left_out) NA else sum(held),
      if (left_out) NA else sum(!is.na(read$value[at])))
}

# Numbers that name things keep their text: by the name of the column, or by leading zeros.
names_things <- function(x, name) {
  named_like_number(name) || any(grepl("^-?0[0-9]", unique(x)))
}
