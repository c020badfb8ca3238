# The index of the names of a field, of which there may be a million: their plain forms in order, to
# be looked up. That of a kept book is kept with it and mapped, as its columns are.

index_version <- 3L

# Names and what they are called, in their plain form and in order: list(plain, value, from).
index_names <- function(names, labels, from) {
  plain <- plain_words(names)
  value <- names
  known <- which(!is.na(labels))
  if (length(known)) {
    plain <- c(plain, plain_words(labels[known]))
    value <- c(value, names[known])
  }
  at <- order(plain, method = "radix")
  list(plain = plain[at], value = value[at], from = from)
}

# Where the index of a field lies in the folder of a kept book, by what it depends on beyond that
# book; NULL for other books and for fields that are neither of the lines nor of a register.
index_place <- function(book, field) {
  row <- book$fields[match(field, book$fields$name), ]
  kept <- book$source$kept
  if (is.null(kept) || !row$from %in% c("lines", names(book$registers)) ||
        !safe_folder(kept$folder)) return(NULL)
  label <- if (field %in% names(book$registers)) label_column(book, field)
  # The same files may have been kept anew in that folder since this book was opened.
  told <- serialize(list(index_version, as.numeric(kept$when), field, row$from, label), NULL,
                    ascii = TRUE, version = 2)
  file.path(kept$folder, paste0("names-", bytes_sum(told)))
}

# An index that was kept; NULL where none is, or it is not whole.
kept_index <- function(book, field) {
  path <- index_place(book, field)
  kept <- if (!is.null(path)) read_sealed(path)
  if (is.null(kept)) return(NULL)
  parts <- Map(function(part, bytes, sum) {
    kernel_mapped(paste0(path, "-", part), "text", bytes, list(), sum, integer())
  }, c("plain", "value"), kept$bytes, kept$sums)
  if (any(vapply(parts, is.null, NA)) || diff(lengths(parts)) != 0) return(NULL)
  c(parts, list(from = kept$from))
}

# Keeps an index where the book is kept: the mapped one then, or the given where it cannot be kept,
# which is no reason not to answer. What tells of it comes last, so that none is found half there.
keep_index <- function(book, field, index) {
  path <- index_place(book, field)
  if (is.null(path)) return(index)
  tryCatch({
    make_room(dirname(dirname(path)), 2 * sum(nchar(index$plain, "bytes") + 8),
              basename(dirname(path)))
    bytes <- vapply(c("plain", "value"), function(part) {
      put_beside(paste0(path, "-", part), function(file) {
        wrong <- kernel_write_vector(file, index[[part]])
        if (nzchar(wrong)) stop(wrong)
      })
    }, 0)
    put_beside(path, function(file) {
      save_sealed(list(bytes = bytes, from = index$from, sums = part_sums(path, names(bytes))), file)
    })
    kept_index(book, field) %||% index
  }, error = function(e) index)
}

# The names that are just this phrase, of every field.
names_called <- function(made, phrase) {
  unlist(lapply(names(made$index), function(field) {
    index <- made$index[[field]]
    at <- kernel_find_text(index$plain, phrase)
    if (at[1] > at[2]) return(NULL)
    lapply(unique(index$value[at[1]:at[2]]), function(value) {
      c(list(type = "name", field = field, value = value, from = index$from),
        if (plain_words(value) != phrase) list(label = TRUE))
    })
  }), recursive = FALSE)
}

places_with <- function(plain, phrase, most) {
  if (length(plain) <= 1e5)
    return(grep(paste0(" ", phrase, " "), paste0(" ", plain, " "), fixed = TRUE))
  at <- kernel_find_text(plain, phrase, TRUE)
  if (at[1] <= at[2]) seq(at[1], min(at[2], at[1] + most))
}

# The names that hold these words one after the other; of many names those that begin so.
names_with <- function(made, phrase, most = 40) {
  out <- list()
  for (field in names(made$index)) {
    index <- made$index[[field]]
    hit <- places_with(index$plain, phrase, most)
    for (value in unique(utils::head(index$value[hit], most)))
      out <- c(out, list(list(type = "name", field = field, value = value, from = index$from)))
  }
  out
}
