# Keys of a fold as SQL: what is grouped by, and how the engine's values become names. A part of a
# date is grouped by a number and named here; names that are told by a table held here are grouped
# by the name they hang on and put together afterwards, or looked up in the statement where that
# would not do.

# list(sql, coded, coarse): `coded` turns the values that come back into a coded column; a `coarse`
# key gives several rows for one name.
sql_key <- function(writer, tree, coarse) {
  if (tree$kind == "computed") return(sql_key(writer, tree$tree, coarse))
  map <- if (tree$kind %in% c("mapped", "banded", "name")) name_map(writer$source, tree)
  if (!is.null(map)) return(sql_mapped_key(writer, map, coarse))
  if (tree$kind == "band")
    return(list(sql = sql_band(writer, tree), coarse = FALSE,
                coded = function(x) code_labels(x, tree$labels)))
  if (tree$kind == "bucket") return(sql_bucket_key(writer, tree, coarse))
  x <- sql_row(writer, tree)
  list(sql = x$sql, coarse = FALSE, coded = coder_of(x))
}

sql_mapped_key <- function(writer, map, coarse) {
  values <- if (is.null(map$labels)) code_column(map$values) else
    code_labels(match(map$values, map$labels) - 1L, map$labels)
  base <- sql_row(writer, map$arg)
  if (!coarse)
    return(list(sql = sql_lookup(writer, base, map$names[values$codes > 0],
                                 number_literal(values$codes[values$codes > 0]), FALSE),
                coarse = FALSE, coded = function(x) {
                  codes <- as.integer(x)
                  codes[is.na(codes)] <- 0L
                  list(codes = codes, levels = values$levels)
                }))
  coder <- coder_of(base)
  list(sql = base$sql, coarse = TRUE, coded = function(x) {
    names <- coder(x)
    to <- values$codes[match(names$levels, map$names)]
    to[is.na(to)] <- 0L
    list(codes = c(0L, to)[names$codes + 1L], levels = values$levels)
  })
}
