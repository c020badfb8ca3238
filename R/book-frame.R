# A data frame that is given as lines, as a register or as a plan.

check_frame <- function(x, what) {
  if (!is.data.frame(x))
    ll_abort(c(paste0(quoted(what), " must be a data frame or the path of a file."),
               x = paste0("It is ", shown(class(x)[1]), ".")), "argument")
  if (!ncol(x) || !nrow(x))
    ll_abort(paste0("The data frame of ", what, " has no ", if (ncol(x)) "rows" else "columns",
                    "."),
             "data")
  nameless <- which(is_blank(as_utf8(names(x))))
  if (length(nameless))
    ll_abort(c(paste0("The data frame of ", what, " has a column without a name."),
               x = paste0("It is column ", nameless[1], "."),
               i = "Give every column a name."), "data")
  check_duplicate_names(trimmed(as_utf8(names(x))), paste0("The data frame of ", what), "data")
  # Tables that are changed in place by their owner must not change under the book.
  if (inherits(x, "data.table")) x <- data.table::copy(x)
  x <- as.data.frame(x)
  plain_columns(x, function(names, types) {
    ll_abort(c(paste0("A column of ", what, " is of a type that cannot be used: ", quoted(names[1]),
                      "."),
               x = paste0(and_list(paste(quoted(names), types)), "."),
               i = "Turn it into numbers, text or dates, or leave it out."), "data")
  })
}

refuse_infinite <- function(x, name, where) {
  if (!is.double(x) || !any(is.infinite(x))) return(invisible())
  at <- which(is.infinite(x))
  ll_abort(c(paste0("The field ", quoted(name), " holds infinite values, which no total can hold (",
                    where, ")."),
             x = paste0(line_word(at[1], where), " says ", x[at[1]], "; ",
                        plural(length(at), "such line"), "."),
             i = "Fix the lines, or leave those values empty."), "data")
}
