# Keys of a fold as SQL: what is grouped by, and how the engine's values become names. A part of a
# date is grouped by a number and named here; names that are told by a table held here are grouped
# by the name they hang on and put together afterwards, or looked up in the statement where that
# would not do.

# list(sql, coded, coarse): `coded` turns the values that come back into a coded column; a `coarse`
# key gives several rows for one name.
sql_key <- function(w, tree, coarse) {
  if (tree$kind == "computed") return(sql_key(w, tree$tree, coarse))
  map <- if (tree$kind %in% c("mapped", "banded", "name")) name_map(w$source, tree)
  if (!is.null(map)) return(sql_mapped_key(w, map, coarse))
  if (tree$kind == "band")
    return(list(sql = sql_band(w, tree), coarse = FALSE,
                coded = function(x) code_labels(x, tree$labels)))
  if (tree$kind == "bucket") return(sql_bucket_key(w, tree, coarse))
  x <- sql_row(w, tree)
  list(sql = x$sql, coarse = FALSE, coded = coder_of(x))
}

# How values of an expression become a coded column.
coder_of <- function(x) {
  places <- x$places
  if (x$type == "date") return(function(v) code_column(as_day(as.numeric(v))))
  if (x$type == "number" || isTRUE(x$numeric))
    return(function(v) code_column(scaled_value(scaled(as.numeric(v), places))))
  function(v) code_column(as_utf8(as.character(v)))
}

# Positions among labels, from 0.
code_labels <- function(at, labels) {
  at <- as.integer(at)
  present <- sort(unique(at[!is.na(at)]))
  list(codes = match(at, present, nomatch = 0L), levels = labels[present + 1L])
}

sql_mapped_key <- function(w, map, coarse) {
  values <- if (is.null(map$labels)) code_column(map$values) else
    code_labels(match(map$values, map$labels) - 1L, map$labels)
  base <- sql_row(w, map$arg)
  if (!coarse)
    return(list(sql = sql_lookup(w, base, map$names[values$codes > 0],
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

# A part of a date as a number: its first day, its month, or the weekday or hour itself.
sql_bucket <- function(w, tree) {
  x <- sql_row(w, tree$arg)
  calendar <- w$source$calendar
  part <- tree$part
  if (part == "hour") {
    if (is.null(x$hour)) no_sql("hours of computed times")
    return(list(sql = x$hour(), part = part))
  }
  weekday <- paste0("((", x$sql, " + 3) % 7 + 7) % 7")
  if (part == "weekday") return(list(sql = paste0(weekday, " + 1"), part = part))
  if (part == "week") return(list(sql = paste0(x$sql, " - ", weekday), part = part))
  fiscal <- startsWith(part, "fiscal")
  if (part == "day" || fiscal && !is.null(calendar$weeks))
    return(list(sql = x$sql, part = part, coarse = part != "day"))
  date <- x$date %||% w$dialect$from_day_number(x$sql)
  months <- w$dialect$month_number(date)
  by <- if (grepl("month$", part)) 1 else if (grepl("quarter$", part)) 3 else 12
  shift <- if (fiscal) calendar$fiscal_start - 1 else 0
  if (by > 1) months <- w$dialect$divide_whole(
    if (shift) paste0(months, " - ", shift) else months, by)
  list(sql = months, part = part, by = by, shift = shift)
}

sql_bucket_key <- function(w, tree, coarse) {
  key <- sql_bucket(w, tree)
  calendar <- w$source$calendar
  if (isTRUE(key$coarse) && !coarse) {
    x <- sql_names(w, tree)
    return(list(sql = x$sql, coarse = FALSE, coded = coder_of(x)))
  }
  list(sql = key$sql, coarse = isTRUE(key$coarse), coded = function(v) {
    v <- as.numeric(v)
    if (key$part == "weekday") return(code_labels(v - 1, weekday_levels))
    if (key$part == "hour") return(code_labels(v, sprintf("%02d", 0:23)))
    if (!is.null(key$by)) {
      month <- v * key$by + if (key$by > 1) key$shift else 0
      known <- !is.na(month)
      v[known] <- first_of_month(month[known] %/% 12, month[known] %% 12 + 1)
    }
    code_bucket(v, key$part, calendar)
  })
}

# Names told by a table held here: list(arg, names, values, labels): the tree of the names it hangs
# on, those names, the value of each, and for bands their labels in order. NULL for other trees.
name_map <- function(source, tree) {
  if (tree$kind == "mapped")
    return(list(arg = tree$arg, names = tree$map$names, values = tree$map$to))
  if (tree$kind == "banded") return(banded_map(source, tree))
  if (tree$kind != "name" || isTRUE(tree$inner)) return(NULL)
  field <- field_at(source, tree$name)
  if (field$from %in% c("lines", NA)) return(NULL)
  register <- source$registers[[field$from]]
  values <- register$table[[field$column]]
  if (!is.numeric(values) && field$type == "text") {
    values <- plain_key(values)
    values[is_blank(values)] <- NA
  }
  map <- list(arg = node("name", name = field$from), names = register$names, values = values)
  # A register may be keyed by a field of another.
  under <- name_map(source, map$arg)
  if (is.null(under)) return(map)
  list(arg = under$arg, names = under$names,
       values = map$values[match(plain_key(under$values), map$names)])
}

banded_map <- function(source, tree) {
  text <- deparse_whole(tree)
  if (is.null(source$maps[[text]])) {
    fold <- source_fold(source$origin %||% source, list(each = tree$each),
                        parts_of(list(tree$metric)), tree$scope)
    value <- metric_value(tree$metric, fold$parts)
    value$v <- rep_len(value$v, length(fold$lines))
    band <- code_bands(value, tree$bounds, tree$labels)
    named <- !is.na(fold$keys$each)
    source$maps[[text]] <- list(arg = tree$each, names = fold$keys$each[named],
                                values = names_at(band$codes, band$levels)[named],
                                labels = tree$labels)
  }
  source$maps[[text]]
}
