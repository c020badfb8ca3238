# Columns of data frames and of files that keep types: every type is read right or refused with its
# name. What is read: whole numbers of 32 and 64 bits, doubles, text, factors, TRUE and FALSE, dates
# and times of day.

# A table's columns as plain vectors; `refuse` is given the names of those that cannot be used and
# what they are.
plain_columns <- function(table, refuse) {
  types <- vapply(table, odd_type, "")
  odd <- nzchar(types)
  if (any(odd)) refuse(names(table)[odd], types[odd])
  table[] <- lapply(table, plain_column)
  table
}

# What a column is when it cannot be used, in words; "" when it can.
odd_type <- function(x) {
  if (is.data.frame(x)) return("is a table of its own")
  if (length(dim(x)) > 1) return("is a matrix")
  if (inherits(x, "POSIXlt")) return("")
  if (is.complex(x)) return("holds complex numbers")
  if (is.raw(x)) return("holds raw bytes")
  if (is.list(x) && all(class(x) %in% c("list", "AsIs"))) return("holds lists")
  if (!is.atomic(x)) return(paste("is of the class", quoted(class(x)[1])))
  if (inherits(x, "difftime") && !inherits(x, "hms")) return("holds time differences")
  known <- c("integer64", "factor", "ordered", "Date", "IDate", "POSIXct", "POSIXt", "AsIs",
             "noquote", "hms", "difftime")
  other <- if (is.object(x)) setdiff(class(x), known)
  if (length(other)) paste("is of the class", quoted(other[1])) else ""
}

plain_column <- function(x) {
  if (inherits(x, "integer64")) return(kernel_integer64(unclass(x)))
  if (inherits(x, "POSIXlt")) return(as.POSIXct(x))
  if (inherits(x, "hms")) return(clock_text(as.numeric(x, units = "secs")))
  if (inherits(x, c("AsIs", "noquote"))) class(x) <- setdiff(class(x), c("AsIs", "noquote"))
  if (is.null(dim(x))) x else as.vector(x)
}

# A time of day as 09:30:00.
clock_text <- function(seconds) {
  out <- sprintf("%02d:%02d:%02d", as.integer(seconds %/% 3600), as.integer(seconds %/% 60 %% 60),
                 as.integer(seconds %% 60))
  out[is.na(seconds)] <- NA
  out
}

# What a column is, in words.
kind_of_column <- function(x) {
  if (all(is.na(x))) return("empty")
  if (inherits(x, "Date")) "dates" else if (inherits(x, "POSIXct")) "times" else
    if (is.numeric(x)) "numbers" else "text"
}

# A missing value of the kind of the first part that holds any.
gap_like <- function(parts) {
  empty <- vapply(parts, kind_of_column, "") == "empty"
  parts[[match(FALSE, empty, nomatch = 1)]][NA_integer_]
}
