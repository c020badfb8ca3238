# Lines in memory. The source is an environment: the raw columns as given, and beside them, made
# once on first use, their coded and scaled forms. Nothing outside the source- files looks inside.
#
# fields     data frame: name, column, from ("lines", or the register's dimension), type, timed
# registers  per dimension list(names, table): the key of each register row and its fields
# calendar   see core-calendar.R

new_frame_source <- function(columns, fields, registers = list(), coded = list(),
                             calendar = plain_calendar) {
  source <- new.env(parent = emptyenv())
  source$columns <- columns
  source$n <- if (length(columns)) length(columns[[1]]) else 0L
  source$fields <- fields
  source$registers <- registers
  source$coded <- coded
  source$scaled <- list()
  source$made <- list()
  # What the second route has looked up, the names of saved sets, names spelled alike, and days.
  source$plain <- source$second_days <- source$distinct <- source$sets <- source$alike <-
    source$days <- list()
  source$calendar <- calendar
  class(source) <- "frame_source"
  source
}

#' @export
source_begin.frame_source <- function(source) invisible()

#' @export
source_size.frame_source <- function(source) source$n

# Lines in memory are here already.
#' @export
source_here.frame_source <- function(source, trees, where = NULL, first = NULL) source

#' @export
source_extremes.frame_source <- function(source, trees, keys, value, where, highest) source

#' @export
source_sampled.frame_source <- function(source, trees, order, value, where, most, seed) {
  list(source = source, of = NULL)
}

# Names keep the codes of the whole, and bands over the book are the book's.
#' @export
source_narrowed.frame_source <- function(source, where) {
  keep <- line_mask(source, where)
  if (is.null(keep)) source else source_rows(source, which(keep))
}

source_rows <- function(source, rows) {
  part <- new_frame_source(list(), source$fields, source$registers, calendar = source$calendar)
  part$whole <- source
  part$rows <- rows
  part$n <- length(rows)
  part
}

#' @export
source_alike.frame_source <- function(source, fields, where = NULL) {
  columns <- lapply(fields, function(name) {
    if (field_at(source, name)$type %in% c("text", "empty")) return(coded_field(source, name)$codes)
    v <- scaled_field(source, name)$v
    if (is.integer(v)) v else as.double(v)
  })
  part <- source_rows(source, kernel_alike(columns, line_mask(source, where)))
  # A few lines are coded by themselves: nobody asks which names of the whole they have not, and
  # numbers of the whole may never have been coded.
  part$apart <- TRUE
  part
}

#' @export
source_names.frame_source <- function(source, tree) coded_tree(source, tree)$levels

# Spellings are compared once for all names of a field, unless they are a great many more.
#' @export
source_similar_names.frame_source <- function(source, tree, names) {
  if (tree$kind != "name") return(spelled_similarly(names))
  if (is.null(source$alike[[tree$name]])) {
    all <- source_names(source, tree)
    if (length(all) > 4 * length(names) + 1000) return(spelled_similarly(names))
    source$alike[[tree$name]] <- spelled_similarly(all)
  }
  alike <- lapply(source$alike[[tree$name]], intersect, names)
  alike[lengths(alike) > 1]
}

#' @export
source_days.frame_source <- function(source, date) {
  if (is.null(source$days[[date]])) {
    days <- whole_days(scaled_field(source, date))
    source$days[[date]] <- as_day(distinct_whole(as.integer(days))$values)
  }
  source$days[[date]]
}

#' @export
source_fold.frame_source <- function(source, keys, parts, where = NULL, totals = list()) {
  asked <- list(keys = as_keys(keys), parts = parts, where = where, totals = totals)
  out <- kept_fold(source, asked)
  if (!is.null(out)) return(out)
  out <- source_pairs(source, asked$keys, parts, where, totals)
  named <- function(folded) {
    folded$keys <- Map(names_at, folded$keys, out$levels[names(folded$keys)])
    folded
  }
  totals <- lapply(out$totals, named)
  out <- named(out)
  out$totals <- totals
  remember_fold(source, asked, out)
  out
}

#' @export
source_pairs.frame_source <- function(source, keys, parts, where = NULL, totals = list()) {
  kernel_threads(thread_count())
  columns <- lapply(keys, coded_tree, source = source)
  asked <- lapply(parts, fold_request, source = source)
  out <- fold_columns(columns, asked, line_mask(source, where), source$n, totals)
  c(out, list(levels = lapply(columns, `[[`, "levels")))
}

# The names that codes stand for; missing where there is none.
names_at <- function(codes, levels) {
  if (length(codes) && isTRUE(min(codes) > 0L)) return(levels[codes])
  out <- rep(NA_character_, length(codes))
  out[codes > 0L] <- levels[codes[codes > 0L]]
  out
}

as_keys <- function(keys) {
  if (is.list(keys)) return(keys)
  lapply(stats::setNames(keys, keys), function(name) node("name", name = name))
}

fold_request <- function(part, source) {
  if (!is.null(part$arg) && part$arg$kind == "per") return(per_request(part, source))
  keep <- line_mask(source, part$where)
  if (is.null(part$arg)) return(list(fn = "lines", column = NULL, keep = keep))
  codes <- part$fn == "distinct" || part$fn == "count" && is_text(source, part$arg)
  list(fn = part$fn, keep = keep, prob = part$prob$value,
       column = if (codes) coded_tree(source, part$arg) else row_values(source, part$arg))
}

per_request <- function(part, source) {
  per <- part$arg
  list(fn = part$fn, prob = part$prob$value, keep = NULL,
       per = list(column = coded_tree(source, per$by),
                  parts = lapply(parts_of(list(per$inner)), fold_request, source = source),
                  value = function(parts) metric_value(per$inner, parts),
                  keep = function(it) line_mask(inner_source(it), part$where)))
}

# The inner values of per() as a source of their own, so that conditions on `it` read like others.
inner_source <- function(it) {
  source <- new_frame_source(list(it$v), data.frame(name = "it", column = 1, from = "lines",
                                                    type = "number"))
  source$scaled$it <- it
  source
}

#' @export
source_counted.frame_source <- function(source, value, by = NULL, where = NULL) {
  value <- row_values(source, value)
  keep <- line_mask(source, where)
  if (is.null(by) && is_exact(value) && is.integer(value$v))
    return(c(list(group = NULL), count_whole(value, keep)))
  if (!is.null(keep)) value <- take(value, which(keep))
  missing <- sum(is.na(value$v))
  if (is.null(by)) return(c(list(group = NULL, missing = missing), count_values(value)))
  column <- coded_tree(source, by)
  codes <- if (is.null(keep)) column$codes else column$codes[keep]
  parts <- lapply(split(seq_along(codes), codes), take, x = value)
  counted <- lapply(parts, count_values)
  of <- function(part) unlist(lapply(counted, `[[`, part), use.names = FALSE)
  group <- rep(names_at(as.integer(names(parts)), column$levels),
               vapply(counted, function(x) length(x$value), 0L))
  list(group = group, missing = missing, value = as.double(of("value")),
       times = as.double(of("times")))
}

#' @export
source_latest.frame_source <- function(source, key, date, where, fields) {
  if (is.null(date)) {
    column <- coded_tree(source, key)
    of <- names_at(column$codes, column$levels)
    lines <- seq_along(of)
  } else {
    best <- source_holders(source, list(name = key), node("name", name = date), where)
    of <- best$name
    lines <- best$line
  }
  list(name = of, line = lines, source = source)
}

# Who holds the highest or lowest value of a row formula, in each group: the keys, the line's
# number, its value; every holder when tied.
source_holders <- function(source, keys, value, where = NULL, highest = TRUE, but = integer()) {
  columns <- lapply(as_keys(keys), coded_tree, source = source)
  keep <- line_mask(source, where)
  # The lines of `but` are out of the question.
  if (length(but)) {
    keep <- keep %||% rep(TRUE, source$n)
    keep[but] <- FALSE
  }
  out <- fold_holders(columns, row_values(source, value), keep, source$n, highest)
  keys <- Map(names_at, out$keys, lapply(columns, `[[`, "levels"))
  data.frame(c(keys, list(line = out$lines, value = scaled_value(out$value))), check.names = FALSE)
}

#' @export
source_gaps.frame_source <- function(source, key, date, where = NULL) {
  kernel_threads(thread_count())
  column <- coded_tree(source, key)
  out <- gaps_by_name(column, scaled_value(row_values(source, date)), line_mask(source, where))
  c(list(name = column$levels), out)
}

# Fields of some lines, as given.
source_lines <- function(source, lines, fields) {
  out <- lapply(stats::setNames(fields, fields), function(name) {
    values <- raw_field(source, name)[lines]
    if (is.factor(values)) as.character(values) else values
  })
  as.data.frame(out, optional = TRUE)
}
