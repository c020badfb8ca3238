# Lines kept in files in the form that questions ask them in: columns as they are, their codes and
# names, and whole numbers of the last decimal place. They are mapped from there, not read.
#
# A kept vector is list(file, kind, bytes, sum, attributes): a file of kernel_write_vector(), what it
# holds, its size, its checksum and its attributes. A column of text is kept as the codes and names of
# a factor.

# Writes what a source holds into a folder; refuse(why) is told what stands in the way. The parts of
# mapped_source().
keep_source <- function(source, folder, refuse) {
  count <- 0
  keep <- function(x, attributes = list()) {
    count <<- count + 1
    file <- paste0("v", count)
    wrong <- kernel_write_vector(file.path(folder, file), x)
    if (nzchar(wrong)) refuse(wrong)
    list(file = file, kind = if (is.character(x)) "text" else typeof(x),
         bytes = file.size(file.path(folder, file)), sum = kernel_sum_file(file.path(folder, file)),
         attributes = attributes)
  }
  own <- source$fields[source$fields$from == "lines", ]
  columns <- coded <- scaled <- days <- list()
  for (i in seq_len(nrow(own))) {
    name <- own$name[i]
    raw <- source$columns[[own$column[i]]]
    if (is.character(raw) || is.factor(raw)) {
      column <- coded_field(source, name)
      names <- keep(column$levels)
      codes <- keep(column$codes)
      coded[[name]] <- list(codes = codes, levels = names, lines = keep(column$lines))
      columns[[own$column[i]]] <- kept_text(raw, column, codes, names, keep)
    } else if (is.logical(raw)) {
      columns[[own$column[i]]] <- keep(as.vector(raw))
    } else {
      value <- scaled_field(source, name)
      whole <- keep_numbers(raw, value$v, keep)
      columns[[own$column[i]]] <- whole$raw
      scaled[[name]] <- c(list(v = whole$v), value[setdiff(names(value), "v")])
    }
    if (own$type[i] == "date") days[[name]] <- source_days(source, name)
  }
  list(n = source$n, fields = source$fields, registers = source$registers,
       calendar = source$calendar, columns = columns, coded = coded, scaled = scaled, days = days)
}

# A column of text as a factor. Where each line's name is just its text, codes and names serve it
# too; lines without one have no code, as R has it.
kept_text <- function(raw, column, codes, names, keep) {
  none <- column$codes == 0L
  if (is_own_names(raw, column, none)) {
    plain <- column$codes
    plain[none] <- NA_integer_
    if (any(none)) codes <- keep(plain)
  } else {
    texts <- if (is.factor(raw)) list(codes = as.integer(raw), levels = levels(raw)) else
      kernel_number_text(raw)
    names <- keep(texts$levels)
    codes <- keep(texts$codes)
  }
  c(codes[c("file", "kind", "bytes", "sum")], list(attributes = list(class = "factor"), levels = names))
}

# Whether no two texts are one name, and none is blank; `none` are the lines without a name.
is_own_names <- function(raw, column, none) {
  if (!all(is.na(raw[none]))) return(FALSE)
  if (!is.factor(raw)) return(identical(column$levels[column$codes[!none]], raw[!none]))
  used <- levels(raw)[tabulate(raw, nlevels(raw)) > 0]
  length(used) == length(column$levels) && all(used %in% column$levels)
}

# Numbers as they are and as whole numbers of their last place, in one file where both are the same;
# days as whole numbers.
keep_numbers <- function(raw, v, keep) {
  of <- attributes(raw)
  of$names <- NULL
  bare <- as.vector(unclass(raw))
  if (inherits(raw, "Date") && is.double(bare) && is_whole_days(bare)) bare <- as.integer(bare)
  kept <- keep(bare, attributes = as.list(of))
  list(raw = kept, v = if (identical(bare, as.vector(v))) {
    kept$attributes <- list()
    kept
  } else keep(as.vector(v)))
}

is_whole_days <- function(x) {
  all(is.na(x) | x == round(x) & abs(x) < .Machine$integer.max)
}

# The source that was kept in a folder; NULL where a file is gone, is not what was written, or holds
# codes that stand for no name. All is looked through once, so that no kernel reads what it should not.
mapped_source <- function(kept, folder) {
  lost <- FALSE
  seen <- all <- list()
  map <- function(x, codes = integer()) {
    attributes <- x$attributes
    levels <- if (!is.null(x$levels)) map(x$levels)
    if (!is.null(levels)) {
      attributes <- c(list(levels = levels), attributes)
      codes <- c(1L, length(levels))
    }
    # One file may serve two vectors.
    sum <- if (is.null(seen[[x$file]])) x$sum else ""
    out <- kernel_mapped(file.path(folder, x$file), x$kind, x$bytes, attributes, sum, codes)
    if (is.null(out)) lost <<- TRUE else seen[[x$file]] <<- TRUE
    all <<- c(all, list(out))
    out
  }
  columns <- lapply(kept$columns, map)
  coded <- lapply(kept$coded, function(column) {
    levels <- map(column$levels)
    list(codes = map(column$codes, c(0L, length(levels))), levels = levels, lines = map(column$lines))
  })
  scaled <- lapply(kept$scaled, function(value) {
    value$v <- map(value$v)
    value
  })
  long <- c(columns, lapply(coded, `[[`, "codes"), lapply(scaled, `[[`, "v"))
  if (lost || any(lengths(long) != kept$n)) return(NULL)
  source <- new_frame_source(columns, kept$fields, kept$registers, coded, kept$calendar)
  source$scaled <- scaled
  source$days <- kept$days
  source$mapped <- all
  source
}

# Whether the files that a source is mapped from are as long as when it was opened.
all_there <- function(source) {
  if (!is.null(source$whole)) return(all_there(source$whole))
  is.null(source$mapped) || kernel_all_whole(source$mapped)
}
