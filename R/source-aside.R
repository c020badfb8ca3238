# Long columns lie in files of the session's folder of temporary files and are mapped from there, so
# that the system can take back the memory of those that nobody looks at. That is what lets a table
# be opened whose columns do not all fit at once.

aside_size <- function() getOption("longladder.aside", 2e8)   # bytes of a column

# Whether columns of so many lines are laid aside. Where files are not mapped nothing is won by it.
goes_aside <- function(lines) 8 * lines >= aside_size() && .Platform$OS.type != "windows"

# A plain vector, or one of a column of so many `lines`, as it is or from a file; texts as a factor.
lay_aside <- function(x, lines = length(x)) {
  if (!goes_aside(lines)) return(x)
  if (is.character(x)) {
    of <- kernel_number_text(x)
    x <- structure(of$codes, levels = of$levels, class = "factor")
  }
  if (!is_number_like(x)) return(x)
  aside_parts(list(x), typeof(x), NULL, attributes(x)) %||% x
}

is_number_like <- function(x) is.double(x) || is.integer(x) || is.logical(x)

# Parts one behind another. Codes become what `tables` has for each; `attributes` are those of the
# whole, or else those of the parts.
join_parts <- function(parts, tables = NULL, attributes = NULL) {
  if (goes_aside(sum(lengths(parts))) && all(vapply(parts, is_number_like, NA))) {
    kinds <- vapply(parts, typeof, "")
    kind <- intersect(c("double", "integer", "logical"), kinds)[1]
    if (is.null(attributes)) attributes <- attributes(do.call(c, lapply(parts, utils::head, 1)))
    out <- aside_parts(parts, kind, tables, attributes)
    if (!is.null(out)) return(out)
  }
  if (is.null(tables)) return(do.call(c, parts))
  out <- unlist(Map(function(part, table) table[part], parts, tables))
  do.call(structure, c(list(as.integer(out)), attributes))
}

# NULL where they cannot be written, which is no reason not to go on.
aside_parts <- function(parts, kind, tables, attributes) {
  file <- tempfile("column-")
  # What is mapped stays there without its name, and goes with the last that holds it.
  on.exit(unlink(file))
  if (nzchar(kernel_write_parts(file, parts, kind == "double", tables))) return(NULL)
  kernel_mapped(file, kind, file.size(file), as.list(attributes), "", integer())
}
