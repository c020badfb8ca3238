# Lines that come late: names whose last days hold far fewer lines than such days usually do, while
# others go on. A territory without its last weeks looks like a fall.

late_names <- 60      # of fields with more names single ones are not looked at

# Fields that stand for where lines come from. Whoever sells, and what is sold, ends for other
# reasons.
late_words <- paste0("(territor|region|area|district|countr|market|branch|store|shop|site|depot|",
                     "outlet|office|channel|source|system|compan|entity|division|sector|zone|",
                     "warehouse|gebiet|filiale|vertrieb|kanal|land$|lager|secteur|agence|magasin|",
                     "canal|pais|pays|tienda|loja|winkel)")

# What is late: NULL, or list(field, names, after, last): names of `field` and the last day that
# each is covered to, while the others go on to `last`. `field` is NULL where the whole book thins
# out. Fields are tried by how much they explain, then by how few names they need.
late_lines <- function(book) {
  if (is.null(book$date) || length(book$days) < 60 || (book$unit %||% "day") != "day") return(NULL)
  key <- paste(book$date, last_covered(book), if (!is.null(book$aside)) tree_text(book$aside))
  once(book$source, key, find_late_lines(book, last_covered(book)))
}

find_late_lines <- function(book, last) {
  days <- daily_counts(book, NULL, last)
  short <- late_days(days$counts[[1]])
  if (short) return(list(field = NULL, names = NULL, after = last - short, last = last,
                         seen = sum(utils::tail(days$counts[[1]], short))))
  found <- lapply(late_candidates(book), late_of_field, book = book, last = last)
  found <- Filter(Negate(is.null), found)
  if (!length(found)) return(NULL)
  missing <- vapply(found, `[[`, 0, "missing")
  many <- vapply(found, function(x) length(x$names), 0)
  found[[order(-(missing > .8 * max(missing)), many)[1]]]
}

late_candidates <- function(book) {
  fields <- setdiff(dimensions_of(book), names(book$computed))
  fields <- fields[grepl(late_words, tolower(spoken(fields)))]
  # Of a database each look is a statement more.
  if (!inherits(book$source, "frame_source")) fields <- utils::head(fields, 2)
  size <- vapply(fields, function(field) length(names_of(book, field)), 0)
  fields[size >= 2 & size <= late_names]
}

late_of_field <- function(book, field, last) {
  days <- daily_counts(book, field, last)
  short <- vapply(days$counts, late_days, 0L)
  late <- which(short > 0)
  # Where most names thin out together, trade does.
  if (!length(late) || length(late) > length(short) / 2) return(NULL)
  rate <- vapply(days$counts[late], function(x) {
    mean(utils::head(utils::tail(x, late_basis), -28))
  }, 0)
  seen <- mapply(function(x, k) sum(utils::tail(x, k)), days$counts[late], short[late])
  list(field = field, names = days$names[late], after = last - short[late], last = last,
       seen = seen, missing = sum(rate * short[late]))
}

# Lines of each day up to `last`, of all lines or of each name of a field: list(names, counts).
daily_counts <- function(book, field, last) {
  first <- max(first_day(book), last - late_most - late_basis - 364)
  date <- node("name", name = book$date)
  keys <- c(if (!is.null(field)) list(name = key_tree(book, field)),
            list(day = node("bucket", part = "day", arg = date)))
  fold <- source_fold(book$source, keys, list(),
                      and_also(kept_lines(book), in_period(book, list(from = first, to = last))))
  at <- as.integer(as.Date(fold$keys$day) - first) + 1L
  whole <- as.integer(last - first) + 1L
  name <- if (is.null(field)) rep("", length(at)) else fold$keys$name
  known <- !is.na(at) & !is.na(name)
  rows <- split(which(known), name[known])
  list(names = names(rows), counts = lapply(unname(rows), function(r) {
    counts <- numeric(whole)
    counts[at[r]] <- fold$lines[r]
    counts
  }))
}

# What of it a question touches: lines of a name that is late within what is asked for, in a period
# that reaches beyond where it ends.
late_in_question <- function(book, asked) {
  if (!length(book$days)) return(NULL)
  # A database is asked for it where two periods are compared: it takes statements of its own.
  if (!inherits(book$source, "frame_source") && is.null(asked$before)) return(NULL)
  to <- if (is.null(asked$now)) last_covered(book) else asked$now$to
  if (to < last_covered(book) - late_most) return(NULL)
  late <- late_lines(book)
  if (is.null(late)) return(NULL)
  touched <- late$after < to
  if (!is.null(late$field) && !is.null(asked$only)) {
    held <- source_fold(book$source, list(name = key_tree(book, late$field)), list(),
                        and_also(kept_lines(book), asked$only))$keys$name
    touched <- touched & late$names %in% held
  }
  if (!any(touched)) return(NULL)
  late$names <- late$names[touched]
  late$after <- late$after[touched]
  late$seen <- late$seen[touched]
  late
}
