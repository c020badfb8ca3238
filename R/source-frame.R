# Lines in memory. The source is an environment: the raw columns as given, and beside them, made
# once on first use, their coded and scaled forms. Nothing outside this file looks inside.
#
# fields     data frame: name, column, from ("lines", or the register's dimension), type
# registers  per dimension list(names, table): the key of each register row and its fields

new_frame_source <- function(columns, fields, registers = list(), coded = list()) {
  source <- new.env(parent = emptyenv())
  source$columns <- columns
  source$n <- length(columns[[1]])
  source$fields <- fields
  source$registers <- registers
  source$coded <- coded
  source$scaled <- list()
  source
}

source_size <- function(source) source$n

field_at <- function(source, name) {
  as.list(source$fields[match(name, source$fields$name), ])
}

# The coded form of a field: list(codes, levels).
coded_field <- function(source, name) {
  if (is.null(source$coded[[name]])) {
    field <- field_at(source, name)
    source$coded[[name]] <- if (field$from == "lines")
      code_column(source$columns[[field$column]]) else code_register_field(source, field)
  }
  source$coded[[name]]
}

code_register_field <- function(source, field) {
  base <- coded_field(source, field$from)
  register <- source$registers[[field$from]]
  code_through(base$codes, base$levels, register$names, register$table[[field$column]])
}

# The numbers of a field (dates as days), as a scaled vector.
scaled_field <- function(source, name) {
  if (is.null(source$scaled[[name]])) {
    field <- field_at(source, name)
    values <- raw_field(source, field)
    source$scaled[[name]] <- scale_column(as.numeric(values))
  }
  source$scaled[[name]]
}

# A field's values as given, one for each line.
raw_field <- function(source, field) {
  if (field$from == "lines") return(source$columns[[field$column]])
  register <- source$registers[[field$from]]
  base <- field_at(source, field$from)
  key <- plain_key(source$columns[[base$column]])
  register$table[[field$column]][match(key, register$names)]
}

plain_key <- function(x) if (is.character(x)) x else plain_text(x)

# First and last day and the days on which there are lines.
source_days <- function(source, date) {
  days <- as.integer(scaled_value(scaled_field(source, date)))
  days <- sort(unique(days))
  as.Date(days, origin = "1970-01-01")
}

# keys: names of fields; parts: aggregate nodes; where: a resolved condition or NULL.
source_fold <- function(source, keys, parts, where = NULL) {
  columns <- lapply(stats::setNames(keys, keys), coded_field, source = source)
  asked <- lapply(parts, fold_request, source = source)
  out <- fold_columns(columns, asked, line_mask(source, where), source$n)
  out$keys <- Map(function(codes, column) c(NA_character_, column$levels)[codes + 1L],
                  out$keys, columns)
  out
}

fold_request <- function(part, source) {
  keep <- line_mask(source, part$where)
  if (is.null(part$arg)) return(list(fn = "lines", column = NULL, keep = keep))
  named <- part$arg$kind == "name"
  codes <- named && (part$fn == "distinct" || part$fn == "count" && is_text(source, part$arg$name))
  column <- if (codes) coded_field(source, part$arg$name) else row_values(source, part$arg)
  list(fn = part$fn, column = column, keep = keep)
}

is_text <- function(source, name) field_at(source, name)$type %in% c("text", "empty")

# A formula over lines as a scaled vector.
row_values <- function(source, tree) {
  switch(tree$kind,
         number = , date = scaled_number(tree$value), name = scaled_field(source, tree$name),
         op = {
           args <- lapply(tree$args, row_values, source = source)
           if (length(args) == 2) scaled_arithmetic(tree$op, args[[1]], args[[2]])
           else if (tree$op == "abs") scaled_absolute(args[[1]]) else scaled_negate(args[[1]])
         })
}

# A condition as TRUE or FALSE for each line; NULL when there is none. A comparison with a missing
# value is FALSE.
line_mask <- function(source, tree) {
  if (is.null(tree)) return(NULL)
  switch(tree$kind,
         logic = logic_mask(source, tree), missing = missing_mask(source, tree$arg),
         within = within_mask(source, tree), compare = compare_mask(source, tree))
}

logic_mask <- function(source, tree) {
  masks <- lapply(tree$args, line_mask, source = source)
  switch(tree$op, `!` = !masks[[1]], `&` = masks[[1]] & masks[[2]], `|` = masks[[1]] | masks[[2]])
}

missing_mask <- function(source, arg) {
  if (arg$kind == "name" && is_text(source, arg$name)) return(coded_field(source,
                                                                          arg$name)$codes == 0L)
  is.na(row_values(source, arg)$v)
}

# A test of names is made once for each name, then carried to the lines by their codes.
mask_by_level <- function(column, passes) c(FALSE, passes)[column$codes + 1L]

within_mask <- function(source, tree) {
  if (tree$arg$kind == "name" && is_text(source, tree$arg$name)) {
    column <- coded_field(source, tree$arg$name)
    return(mask_by_level(column, column$levels %in% tree$set$values))
  }
  found <- scaled_value(row_values(source, tree$arg)) %in% tree$set$values
  found
}

compare_mask <- function(source, tree) {
  left <- tree$args[[1]]
  right <- tree$args[[2]]
  if (tree$type == "text") {
    column <- coded_field(source, left$name)
    if (right$kind == "text")
      return(mask_by_level(column, if (tree$op == "==") column$levels == right$value else
        column$levels != right$value))
    other <- coded_field(source, right$name)
    same <- c(NA, column$levels)[column$codes + 1L] == c(NA, other$levels)[other$codes + 1L]
    return(!is.na(same) & same == (tree$op == "=="))
  }
  a <- row_values(source, left)
  if (is_exact(a) && right$kind %in% c("number", "date"))
    return(kernel_compare(a$v, tree$op, right$value * 10^a$places))
  compare_scaled(tree$op, a, row_values(source, right))
}

compare_scaled <- function(op, a, b) {
  gap <- scaled_add(a, b, -1)
  v <- gap$v
  if (!is_exact(gap)) {
    near <- abs(v) <= 1e-9 * pmax(abs(scaled_value(a)), abs(scaled_value(b)))
    v[!is.na(near) & near] <- 0
  }
  out <- switch(op, `==` = v == 0, `!=` = v != 0, `<` = v < 0, `<=` = v <= 0, `>` = v > 0,
                `>=` = v >= 0)
  out & !is.na(out)
}
