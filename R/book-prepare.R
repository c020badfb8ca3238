# From a table as it came to columns that can serve: grand-total rows excluded, numbers in ledger
# forms read. Each fix is one line of the report.

# `data` a list of columns, `file` TRUE where they come from a text table. Gives list(data, fixes,
# removed): removed counts the rows excluded.
prepare_columns <- function(data, specs, switches, where, file, total_line = NULL) {
  labelled <- if (switches[["total_rows"]]) labelled_totals(data) else integer()
  totals <- lapply(data, function(x) as.character(x[labelled]))
  if (length(labelled)) data <- lapply(data, function(x) x[-labelled])
  read <- read_number_columns(data, specs, switches, where, file)
  data <- read$data
  nameless <- if (switches[["total_rows"]] && !length(labelled)) nameless_total(data) else integer()
  if (length(nameless)) {
    totals <- lapply(data, function(x) as.character(x[nameless]))
    data <- lapply(data, function(x) x[-nameless])
  }
  removed <- length(labelled) + length(nameless)
  list(data = data, removed = removed, fixes = rbind(
    read$fixes, if (removed) total_fixes(totals, data, removed, read$decimals),
    if (length(total_line)) total_line_fix(total_line, data)))
}

# Rows at the foot, five at most, that call themselves a total and leave most cells blank.
labelled_totals <- function(data) {
  n <- length(data[[1]])
  if (n < 2 || length(data) < 2) return(integer())
  rows <- rev(utils::tail(seq_len(n), min(5, n - 1)))
  found <- integer()
  for (row in rows) {
    cells <- vapply(data, function(x) as.character(x[row]), "")
    blank <- is_blank(cells)
    label <- vapply(data, is_label_column, TRUE) & !blank &
      grepl(total_words, trimmed(cells), ignore.case = TRUE, perl = TRUE)
    keys <- vapply(data, is_label_column, TRUE)
    if (!any(label) || (sum(keys) > 1 && mean(blank[keys & !label]) < .5)) break
    # With one column of names only, a name like that must also hold the sum of those above.
    if (sum(keys) == 1 && !holds_sum(data, row)) break
    found <- c(row, found)
  }
  found
}

is_label_column <- function(x) !is.numeric(x)

# A last row without any name whose numbers are the sums of those above.
nameless_total <- function(data) {
  n <- length(data[[1]])
  keys <- vapply(data, is_label_column, TRUE)
  if (n < 3 || all(keys) || !any(keys)) return(integer())
  cells <- vapply(data[keys], function(x) as.character(x[n]), "")
  if (!all(is_blank(cells)) || !holds_sum(data, n)) return(integer())
  n
}

# Whether some number of a row, and not a trivial one, is the sum of those above it.
holds_sum <- function(data, row) {
  numbers <- Filter(is.numeric, data)
  if (!length(numbers)) return(FALSE)
  value <- vapply(numbers, function(x) as.double(x[row]), 0)
  above <- vapply(numbers, function(x) sum(as.double(x[seq_len(row - 1)]), na.rm = TRUE), 0)
  same <- !is.na(value) & value != 0 & abs(value - above) <= 1e-6 * abs(above)
  any(same)
}

total_fixes <- function(totals, data, removed, decimals) {
  cells <- unlist(lapply(totals, function(x) x[!is_blank(x)][1]))
  first <- fix("total_rows", NA, removed,
               paste0(plural(removed, "grand-total row"), " at the foot excluded (",
                      and_list(fit_text(one_line(cells[!is.na(cells)]), 24), 4), ")"))
  checks <- lapply(names(data), function(name) {
    if (!is.numeric(data[[name]]) || grepl("price|rate|percent|discount", tolower(name)))
      return(NULL)
    value <- read_numbers(totals[[name]], decimals[[name]] %||% ".")$value
    value <- value[!is.na(value)]
    if (length(value) != 1) return(NULL)
    fix("total_check", name, 1, paste0("the grand-total row's ", name, " = the lines'"),
        value, sum(as.double(data[[name]]), na.rm = TRUE))
  })
  do.call(rbind, c(list(first), checks))
}

# A total line with fewer cells tells one amount: it must be the sum of some column.
total_line_fix <- function(cells, data) {
  amount <- utils::tail(cells, 1)
  values <- c(read_numbers(amount, ".")$value, read_numbers(amount, ",")$value)
  sums <- vapply(Filter(is.numeric, data), function(x) sum(as.double(x), na.rm = TRUE), 0)
  if (all(is.na(values)) || !length(sums)) return(NULL)
  # By whichever decimal mark it comes nearest to some sum.
  gaps <- abs(outer(sums, values, `-`))
  best <- arrayInd(which.min(gaps), dim(gaps))
  near <- names(sums)[best[1]]
  value <- values[best[2]]
  fix("total_check", near, 1,
                           paste0("the total line below the lines = the sum of ", near), value,
                           sums[[near]])
}

read_number_columns <- function(data, specs, switches, where, file) {
  fixes <- NULL
  decimals <- list()
  thunks <- lapply(names(data), function(name) {
    function() {
      out <- number_column(data[[name]], name, specs[[name]], switches, where, file)
      if (!is.null(out$fix)) fixes <<- rbind(fixes, out$fix)
      decimals[[name]] <<- out$decimal
      out$value
    }
  })
  list(data = stats::setNames(do.call(together, thunks), names(data)), fixes = fixes,
       decimals = decimals)
}

# A text column whose every cell can be read as a number becomes one, unless it names things.
number_column <- function(x, name, spec, switches, where, file) {
  must <- identical(spec$role, "measure")
  may <- (is.character(x) || is.factor(x) && (must || file)) &&
    may_be_number(x, name, spec, must, file)
  text <- if (may) as.character(x) else x
  read <- if (may) number_texts(text, name, spec, switches, where)
  if (is.null(read)) return(list(value = if (must) text else x))
  at <- match(text, read$text)
  value <- in_currency(read, spec$currency)[at]
  if (!must && !is_measure(value, name)) return(list(value = x))
  if (is.null(decimal_form(spec)) && length(read$doubt)) refuse_two_ways(read, name, where)
  list(value = value, decimal = read$decimal,
       fix = if (any(read$odd)) number_fix(text, name, read, read$odd[at], at, spec$currency))
}

# The distinct texts of a column read as numbers, `odd` telling those that had to be fixed; NULL
# where they are to stay text.
number_texts <- function(x, name, spec, switches, where) {
  must <- identical(spec$role, "measure")
  distinct <- unique(x)
  read <- read_numbers(distinct, decimal_form(spec))
  if (all(read$none) || !must && too_long(distinct)) return(NULL)
  check_currency(read, name, spec, where)
  bad <- is.na(read$value) & !read$none
  if (any(bad) && must) refuse_numbers(x, distinct, read, name, where)
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
may_be_number <- function(x, name, spec, must, file) {
  must || file && is.null(spec$role) && mostly_numbers(first_held(x), decimal_form(spec)) &&
    !names_things(x, name)
}

# The decimal mark that the person named.
decimal_form <- function(spec) {
  switch(spec$form %||% "", "decimal point" = ".", "decimal comma" = ",")
}

mostly_numbers <- function(some, decimal) {
  read <- read_numbers(some, decimal)
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
  grepl(id_words, column_word(name)) || any(grepl("^-?0[0-9]", unique(x)))
}

check_currency <- function(read, name, spec, where) {
  found <- unique(read$currency[!is.na(read$currency) & !is.na(read$value)])
  if (length(found) < 2 || !is.null(spec$currency)) return(invisible())
  ll_abort(c(paste0("The field ", quoted(name), " holds several currencies (", where, ")."),
             x = paste0("Found: ", and_list(found), "."),
             i = paste0("Say which one counts: fields = list(", name, " = list(currency = \"",
                        found[1], "\")), which leaves the others out, or \"any\" to add them as ",
                        "they stand.")), "data")
}
