# What the next questions start from: the call that was answered, and the row that one points at.

# Whether the study would take the question: what is refused is not proposed.
fits_book <- function(book, call) {
  tryCatch({
    question_of(call$study, book, call$args)
    TRUE
  }, ll_error = function(e) FALSE)
}

# The question that a call puts to a book; an error where the study refuses it.
question_of <- function(study, book, args) {
  room <- get(paste0(study, "_question"), envir = topenv(), mode = "function")
  room(book, check_args(declaration_of(study), args))
}

# What a next question starts from: the call that was answered (study, args), its book and question,
# and of a row the fields and names it stands for, with the condition of its lines as text.
next_context <- function(result, row, column = NULL) {
  book <- book_of(result)
  told <- facts(inner_result(result))
  asked <- told$asked
  question <- question_of(told$study, book, asked)
  x <- list(study = told$study, args = asked, book = book, question = question,
            metric = told$settings$metrics[1], when = asked$when,
            where = condition_text(asked$where), n = nrow(result))
  each <- unlist(arg_or_null(question, "each"))
  x$each <- if (length(each) == 1 && !each %in% question$book$made) each
  if (is.null(row)) x else next_row(x, inner_result(result), row, column)
}

condition_text <- function(where) if (inherits(where, "formula")) formula_text(where) else where

# The row's own part: NULL where it stands for no lines that can be asked for again.
next_row <- function(x, result, row, column) {
  behind <- facts(result)$behind
  x$row <- row
  x$table <- plain_frame(result)
  cells <- x$table[row, , drop = FALSE]
  if (!is.null(behind$rows)) {
    tree <- behind$rows[[row]]
    x$here <- if (!is.null(tree)) asked_text(tree)
    return(x)
  }
  keys <- behind$keys
  if (!is.null(behind$of)) keys[] <- cells[[behind$of]]
  texts <- character()
  for (key in names(keys)) {
    field <- keys[[key]]
    name <- as.character(cells[[key]])
    part <- date_part_of(x$question$book, field)
    if (!is.null(part) && identical(part, x$book$date) && !name %in% c("(none)", "(all)")) {
      x$when <- name
      next
    }
    tree <- name_condition(x$question, field, name, behind$kept[[field]])
    if (is.null(tree)) next
    texts <- c(texts, asked_text(tree))
    # A name of its own, and no gathered row.
    if (tree$kind == "within" && length(tree$set$values) == 1) {
      x$names[field] <- tree$set$values
      x$columns[field] <- key
    }
  }
  cell <- column_condition(behind, column)
  x$here <- all_hold(c(texts, if (!is.null(cell)) asked_text(cell)))
  if (identical(cell$kind, "within") && length(cell$set$values) == 1 && cell$arg$kind == "name")
    x$names[cell$arg$name] <- cell$set$values
  x
}

# The date that a field is a part of, as in order_date_month.
date_part_of <- function(book, field) {
  tree <- book$computed[[field]]$tree
  if (identical(tree$kind, "bucket") && tree$arg$kind == "name") tree$arg$name
}

# A condition as it can be typed: one name is told by ==.
asked_text <- function(tree) {
  if (tree$kind == "logic" && tree$op == "&")
    return(paste(vapply(tree$args, asked_text, ""), collapse = " & "))
  if (tree$kind == "within" && is.null(tree$set$name) && is.character(tree$set$values) &&
        length(tree$set$values) == 1)
    return(paste(asked_text(tree$arg), "==", text_literal(tree$set$values)))
  if (tree$kind == "missing") return(paste0("is.na(", asked_text(tree$arg), ")"))
  # Parts of dates serve without being fields.
  if (tree$kind == "computed" && tree$tree$kind == "bucket") return(tree_text(tree$tree))
  if (tree$kind == "logic" && tree$op == "|")
    return(paste0("(", paste(vapply(tree$args, asked_text, ""), collapse = " | "), ")"))
  tree_text(tree)
}
