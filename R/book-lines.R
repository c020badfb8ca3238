# The lines of files and data frames as columns, under the names that the person gave: each file
# read and its fixes made, several of them as one table.

# The lines as a plain list of columns of our own, under the names that the person gave; `keys` are
# the fields that registers are keyed by.
open_columns <- function(place, specs, unpivot, switches, keys) {
  if (is.null(place$file))
    return(open_table(list(data = check_frame(place$lines, "lines")), specs, unpivot, switches,
                      "the data frame", FALSE))
  files <- place$file
  several <- length(files) > 1
  open <- function(file, names) {
    read <- read_lines_file(file, switches, place$spec, specs, keys, names)
    own <- if (several) present_specs(specs, names(read$data), unpivot) else specs
    out <- open_table(read, own, unpivot, switches, paste0("the file ", quoted(file)), TRUE)
    if (!several) return(out)
    if (!is.null(out$fixes)) out$fixes$text <- paste0(basename(file), ": ", out$fixes$text)
    out$data <- lapply(out$data, function(x) lay_aside(x, length(files) * length(x)))
    out
  }
  tables <- lapply(files, open, names = character())
  out <- if (several) join_tables(with_currencies(open_same_kinds(tables, files, open, specs)),
                                  files, specs) else tables[[1]]
  out$title <- if (several) paste(length(files), "files") else
    sub("\\.[^.]*$", "", basename(files))
  with_source_field(out, place, vapply(tables, function(t) length(t$data[[1]]), 0L))
}

# A file of lines; `names` are columns that name things, beside those that the person said.
read_lines_file <- function(file, switches, spec, specs, keys, names) {
  known <- column_specs(specs)
  columns <- vapply(base::names(known), function(n) known[[n]]$column %||% n, "")
  of <- stats::setNames(known, columns)
  column_of <- function(n) if (n %in% base::names(columns)) columns[[n]] else n
  keys <- vapply(keys, column_of, "", USE.NAMES = FALSE)
  things <- Filter(function(n) isTRUE(of[[n]]$role %in% c("identifier", "dimension")), columns)
  read_file(file, switches = switches, spec = spec, names = c(things, keys, names),
            like_names = named_like_number, role_of = role_finder(of, keys))
}

# A column that names things in one file does so in all: where another was read as numbers, it is
# read again as text.
open_same_kinds <- function(tables, files, open, specs) {
  kind <- function(t, name) if (name %in% names(t$data)) kind_of_column(t$data[[name]])
  names <- unique(unlist(lapply(tables, function(t) names(t$data))))
  mixed <- Filter(function(name) {
    all(c("text", "numbers") %in% unlist(lapply(tables, kind, name)))
  }, names)
  if (!length(mixed)) return(tables)
  columns <- vapply(mixed, function(name) specs[[name]]$column %||% name, "")
  tables <- Map(function(table, file) {
    if (any(vapply(mixed, function(name) identical(kind(table, name), "numbers"), NA)))
      open(file, columns) else table
  }, tables, files)
  tables[[1]]$fixes <- rbind(tables[[1]]$fixes, do.call(rbind, lapply(mixed, function(name) {
    of <- vapply(tables, function(t) length(t$data[[name]]), 0L)
    fix("columns", name, sum(of), paste0(
      "the column ", name, " holds numbers and text in different files and is read as text"))
  })))
  tables
}

# A table as it was read, under the names given and with its fixes made. Totals are found before
# columns are turned into lines.
open_table <- function(read, specs, unpivot, switches, where, file) {
  data <- as.list(read$data)
  names(data) <- trimmed(as_utf8(names(data)))
  turned <- unpivoted_names(unpivot, names(data), where)
  early <- standing_specs(specs, setdiff(names(data), turned))
  data <- rename_columns(data, early, where)
  made <- prepare_columns(data, specs, switches, where, file, read$total_line, read$heads)
  unpivoted <- unpivot_columns(made$data, unpivot, where, switches)
  data <- rename_columns(unpivoted$data, specs[setdiff(names(specs), names(early))], where)
  cells <- intersect(unpivoted$values, names(data))
  late <- read_number_columns(data[cells], specs, switches, where, file)
  data[names(late$data)] <- late$data
  list(data = data, where = where, removed = made$removed, code = c(made$code, late$code)[1],
       rates = c(made$rates, late$rates),
       records = if (is.null(unpivot)) read$records, roles = named_as(read$roles, specs),
       units = named_as(unpivoted$units, specs),
       fixes = rbind(read$fixes, made$fixes, unpivoted$fixes, late$fixes))
}

# Those of the fields whose columns stand in the table already.
standing_specs <- function(specs, names) {
  Filter(function(spec) {
    !is.null(spec$is) || spec$column %in% names || !is.null(same_word(spec$column, names))
  }, with_columns(specs))
}

# Fields with the column that each is of.
with_columns <- function(specs) {
  Map(function(spec, name) {
    if (is.null(spec$is)) spec$column <- spec$column %||% name
    spec
  }, specs, names(specs))
}

# What was found of columns, under the names that the person gave.
named_as <- function(roles, specs) {
  if (is.null(roles)) return(NULL)
  for (name in names(column_specs(specs))) {
    column <- specs[[name]]$column %||% name
    at <- names(roles) == column
    names(roles)[at] <- name
  }
  roles
}

# Of several files each may lack some columns; none may lack in all.
present_specs <- function(specs, names, unpivot) {
  standing_specs(specs, c(names, unlist(unpivot[c("names", "values")])))
}

# Files that have next to nothing in common are no parts of one table.
refuse_unlike <- function(tables, files) {
  for (i in seq_along(tables)[-1]) {
    common <- intersect(names(tables[[1]]), names(tables[[i]]))
    if (length(common) > 1 || length(common) == min(lengths(tables[c(1, i)])) ||
          min(lengths(tables[c(1, i)])) < 3) next
    pair <- vapply(files[c(1, i)], shell_quoted, "")
    ll_abort(c(paste0("The files ", and_list(quoted(files[c(1, i)])), " are no parts of one table: ",
                      if (length(common)) paste("only", quoted(common), "is a column of both.") else
                        "no column is in both."),
               i = paste0("Headers of orders and their lines, or lines and a register, make a brief: ",
                          "longladder draft ", paste(pair, collapse = " "), ".")), "file")
  }
}

join_tables <- function(tables, files, specs) {
  part <- function(what) lapply(tables, `[[`, what)
  refuse_unlike(part("data"), files)
  bound <- bind_tables(part("data"), files)
  missing <- setdiff(names(column_specs(specs)), names(bound$data))
  if (length(missing)) {
    column <- specs[[missing[1]]]$column %||% missing[1]
    ll_abort(c(paste0("There is no column ", quoted(column), " in any of the ",
                      plural(length(files), "file"), "."),
               offer(column, names(bound$data), "Columns")), "word")
  }
  records <- part("records")
  list(data = bound$data, where = paste("the", plural(length(files), "file")),
       removed = sum(unlist(part("removed"))), units = tables[[1]]$units,
       roles = do.call(c, unname(part("roles"))), rates = unique(unlist(part("rates"))),
       records = if (!any(vapply(records, is.null, NA))) sum(unlist(records)),
       fixes = rbind(do.call(rbind, part("fixes")), bound$fixes))
}

# The file that each line came from, as a field, where it was asked for.
with_source_field <- function(out, place, size) {
  name <- place$spec$source_field
  if (is.null(name)) return(out)
  name <- check_words(name, "source_field", one = TRUE)
  if (name %in% names(out$data))
    ll_abort(c(paste0("'source_field' would make a second column ", quoted(name), "."),
               i = "Choose another name."), "argument")
  out$data[[name]] <- rep(basename(place$file), size)
  out
}
