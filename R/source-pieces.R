# A large text table is read in pieces, so that what reading needs on the way stays small: a column
# of text keeps the distinct texts of all pieces and, for each line, which of them it has. The lines
# of a piece are whole, since line breaks within cells were rewritten before.

piece_size <- function() getOption("longladder.piece", 3e8)   # bytes

# As read_columns() gives them, text as factors. `read(path, text, select)` reads one piece; `lines`
# are those of the whole table.
read_pieces <- function(path, from, named, text, select, lines, read) {
  cuts <- piece_cuts(path, from, piece_size())
  aside <- function(x) {
    if (!is.list(x)) return(lay_aside(x, lines))
    x$codes <- lay_aside(x$codes, lines)
    x
  }
  each <- function(text, select) {
    lapply(seq_len(length(cuts) - 1), function(k) {
      # The header and the lines of the piece.
      piece <- copy_bytes(path, list(c(from, cuts[1]), cuts[k + 0:1]), named)
      on.exit(unlink(piece))
      lapply(read(piece, text, select, cuts[k]), function(x) aside(numbered_texts(x)))
    })
  }
  pieces <- each(text, select)
  names <- names(pieces[[1]])
  kinds <- lapply(names, function(name) {
    setdiff(unique(vapply(pieces, function(p) piece_kind(p[[name]]), "")), "empty")
  })
  # Where pieces differ the whole column is text, as if it had been read at once.
  mixed <- which(lengths(kinds) > 1)
  if (length(mixed)) {
    places <- if (is.null(select)) mixed else select[mixed]
    again <- each(places, places)
    pieces <- Map(function(one, other) {
      one[mixed] <- other
      one
    }, pieces, again)
  }
  out <- list()
  for (k in seq_along(names)) {
    out[[k]] <- bind_pieces(lapply(pieces, `[[`, k))
    # What is put together is let go.
    pieces <- lapply(pieces, function(p) {
      p[k] <- list(NULL)
      p
    })
  }
  structure(stats::setNames(out, names), class = "data.frame",
            row.names = .set_row_names(length(out[[1]])))
}

# Texts as list(codes, levels); other columns as they are.
numbered_texts <- function(x) {
  if (is.factor(x)) return(list(codes = as.integer(x), levels = levels(x)))
  if (is.character(x)) kernel_number_text(x) else x
}

# TRUE and FALSE beside texts make a column of texts as they were written.
piece_kind <- function(x) {
  if (is.list(x)) return("text")
  if (is.logical(x) && !all(is.na(x))) "logical" else kind_of_column(x)
}

bind_pieces <- function(parts) {
  texts <- vapply(parts, is.list, NA)
  if (!any(texts)) return(join_parts(unname(with_kind(parts))))
  parts[!texts] <- lapply(parts[!texts], function(x) list(codes = x, levels = character()))
  levels <- lapply(parts, `[[`, "levels")
  all <- kernel_number_text(unlist(levels))
  tables <- unname(split(all$codes, rep(factor(seq_along(levels)), lengths(levels))))
  codes <- lapply(parts, function(part) as.integer(part$codes))
  join_parts(codes, tables, list(levels = all$levels, class = "factor"))
}

# A piece with nothing but gaps takes the kind of the others.
with_kind <- function(parts) {
  none <- gap_like(parts)
  lapply(parts, function(x) if (kind_of_column(x) == "empty") rep(none, length(x)) else x)
}

# Bytes at which pieces begin, and where the last ends: line ends about so many bytes apart.
piece_cuts <- function(path, from, size) {
  end <- file.size(path)
  file <- file(path, "rb")
  on.exit(close(file))
  head <- next_line(file, from)
  cuts <- head
  while (cuts[length(cuts)] + 1.5 * size < end) {
    at <- next_line(file, cuts[length(cuts)] + size)
    if (at >= end) break
    cuts <- c(cuts, at)
  }
  c(cuts, end)
}

# The byte after the next line end.
next_line <- function(file, at) {
  seek(file, at)
  repeat {
    bytes <- readBin(file, "raw", 65536)
    if (!length(bytes)) return(at)
    hit <- which(bytes == as.raw(10))
    if (length(hit)) return(at + hit[1])
    at <- at + length(bytes)
  }
}

# How many lines there are before a byte.
lines_before <- function(path, at) {
  file <- file(path, "rb")
  on.exit(close(file))
  count <- 0
  while (at > 0 && length(block <- readBin(file, "raw", min(at, 2^24)))) {
    count <- count + sum(block == as.raw(10))
    at <- at - length(block)
  }
  count
}
