# Names in formulas over lines and in conditions against what the book knows; see words-resolve.R.

all_names <- function(known) c(known$fields$name, names(known$also))

# The field of that name, or of that other name; NULL when there is none.
field_called <- function(name, known) {
  if (guarded(name) %in% known$fields$name) return(guarded(name))
  if (!name %in% known$fields$name && name %in% names(known$also)) name <- known$also[[name]]
  if (name %in% known$fields$name) return(name)
  # "net amount" is Net_Amount where no other field is.
  if (!guarded(name) %in% c(names(known$metrics), names(known$parameters)))
    same_word(name, known$fields$name)
}

# Fields and parameters in a formula over lines. `fn` is the aggregate around it, if any.
resolve_row <- function(tree, known, context, fn = NULL) {
  switch(tree$kind,
         name = resolve_name(tree$name, known, context, fn),
         as_of = as_of_date(known, context),
         op = {
           tree$args <- lapply(tree$args, resolve_row, known = known, context = context,
                               fn = if (is.null(fn)) "arithmetic" else fn)
           check_arithmetic(tree$op, vapply(tree$args, row_type, "", known = known), context)
           tree
         },
         choose = resolve_choose(tree, known, context, fn),
         bucket = resolve_bucket(tree, known, context), tree)
}

resolve_name <- function(name, known, context, fn) {
  field <- field_called(name, known)
  if (!is.null(field)) {
    if (isTRUE(known$inner)) return(node("name", name = field, inner = TRUE))
    refuse_added_identifier(field, known, context, fn)
    return(known$computed[[field]] %||% node("name", name = field))
  }
  if (name %in% names(known$parameters))
    return(node("number", value = known$parameters[[name]]))
  if (guarded(name) %in% names(known$metrics))
    refuse(context, paste0(quoted(name), " is a metric; only fields can stand here"),
           c(i = "Divide or add metrics outside the aggregates, as in revenue / orders."),
           word = name)
  if (isTRUE(known$inner))
    refuse(context, paste0("after per() a condition knows only it, the inner value, not ",
                           quoted(name)),
           c(i = "A condition on lines belongs inside: per(order_no, sum(net[qty > 3]))."),
           word = name)
  refuse(context, paste0("there is no field called ", quoted(name)),
         offer(name, c(all_names(known), names(known$parameters)), "Fields"), word = name)
}

refuse_added_identifier <- function(name, known, context, fn) {
  field <- known$fields[match(name, known$fields$name), ]
  if (is.null(fn) || fn %in% c("count", "distinct")) return(invisible())
  # Dates and texts have refusals of their own.
  if (field$role == "identifier")
    refuse(context, paste0(quoted(name), " is an identifier: it is counted, never added up"),
           c(i = paste0("distinct(", name_text(name), ") counts them; if it is an amount, ",
                        "give it the role measure.")), word = name)
  if (field$role == "dimension" && isTRUE(field$numeric))
    refuse(context, paste0(quoted(name), " is a dimension: its numbers are names"),
           c(i = "If it is an amount, give it the role measure."), word = name)
  if (field$from != "lines" && field$from != "computed" && field$type == "number" &&
        fn %in% c("sum", "mean"))
    refuse(context, paste0(quoted(name), " stands in the register of ", field$from,
                           ", once for each name; on the lines it would be added again and again"),
           word = name)
}

# Both sides of a choice must be of one kind.
resolve_choose <- function(tree, known, context, fn) {
  tree$test <- resolve_condition(tree$test, known, context)
  tree$args <- lapply(tree$args, resolve_row, known = known, context = context, fn = fn)
  types <- vapply(tree$args, row_type, "", known = known)
  if (types[1] != types[2])
    refuse(context, paste0("ifelse() chooses between two of one kind, and here are a ", types[1],
                           " and a ", types[2]), word = "ifelse")
  tree$type <- types[1]
  tree
}

resolve_bucket <- function(tree, known, context) {
  tree$arg <- resolve_row(tree$arg, known, context)
  if (row_type(tree$arg, known) != "date")
    refuse(context, paste0(tree$part, "() needs a date, and ", quoted(tree_text(tree$arg)),
                           " is none"), word = tree$part)
  refuse_finer_part(tree, known, context)
  if (tree$part %in% time_parts) {
    timed <- tree$arg$kind == "name" &&
      isTRUE(known$fields$timed[match(tree$arg$name, known$fields$name)])
    if (!timed)
      refuse(context, paste0(tree$part, "() needs a time of day, and ",
                             quoted(tree_text(tree$arg)), " has none"), word = tree$part)
  }
  tree
}

# Lines by month know nothing of weekdays.
refuse_finer_part <- function(tree, known, context) {
  if (!identical(tree$arg$name, known$date) || is.null(known$unit) || known$unit == "day") return()
  finer <- c("hour", "part_of_day", "day", "weekday", "week", "month", "fiscal_month", "quarter", "fiscal_quarter",
             "fiscal_year")
  most <- switch(known$unit, week = 4, month = 5, quarter = 7, 10)
  if (tree$part %in% finer[seq_len(most)])
    refuse(context, paste0("the lines are by ", known$unit, ", so nothing is known by ",
                           spoken(tree$part)), word = tree$part)
}

# number, text, date, or empty
row_type <- function(tree, known) {
  switch(tree$kind, number = "number", text = "text", date = "date", bucket = , band = ,
         banded = , mapped = "text", computed = , choose = tree$type,
         name = known$fields$type[match(tree$name, known$fields$name)],
         op = arithmetic_type(tree$op, vapply(tree$args, row_type, "", known = known)))
}

resolve_condition <- function(tree, known, context) {
  row <- function(t) resolve_row(t, known, context)
  switch(tree$kind,
         logic = {
           tree$args <- lapply(tree$args, resolve_condition, known = known, context = context)
           tree
         },
         missing = {
           tree$arg <- row(tree$arg)
           tree
         },
         within = {
           tree$arg <- row(tree$arg)
           if (!is.null(tree$set$name)) return(resolve_saved(tree, known, context))
           tree$set$values <- as_type_of(tree$arg, tree$set$values, known, context)
           tree$set$dates <- row_type(tree$arg, known) == "date"
           tree
         },
         match = {
           tree$arg <- row(tree$arg)
           if (!row_type(tree$arg, known) %in% c("text", "empty"))
             refuse(context, paste0(tree$fn, "() looks into text, and ",
                                    quoted(tree_text(tree$arg)), " holds none"), word = tree$fn)
           tree
         },
         compare = resolve_compare(tree, known, context))
}

# A saved set holds names of one dimension.
resolve_saved <- function(tree, known, context) {
  saved <- known$sets[[tree$set$name]]
  name <- tree$set$name
  if (is.null(saved) && name %in% known$set_names)
    refuse(context, paste0("a computed field cannot ask the set ", quoted(name)),
           c(i = paste("Sets are made of lines with their computed fields; conditions and metrics",
                       "ask them.")), word = name)
  if (is.null(saved))
    refuse(context, paste0("there is no set called ", quoted(name)),
           offer(name, names(known$sets), "Sets"), word = name)
  if (!identical(tree$arg$name, saved$each))
    refuse(context, paste0("the set ", quoted(name), " is one of ", plural_word(spoken(saved$each)),
                           ", and ", quoted(tree_text(tree$arg)), " is another field"), word = name)
  tree$set <- node("set", name = name, text = saved$text, lazy = saved$lazy)
  tree
}

resolve_compare <- function(tree, known, context) {
  # A literal on the left is turned to the right, so that later steps see one form.
  if (tree$args[[1]]$kind %in% c("number", "text") &&
        !tree$args[[2]]$kind %in% c("number", "text"))
    tree <- node("compare", op = turned(tree$op), args = rev(tree$args))
  tree$args <- lapply(tree$args, resolve_row, known = known, context = context)
  types <- vapply(tree$args, row_type, "", known = known)
  # Parts of a date but weekdays are named so that their names sort in time.
  ordered <- tree$args[[1]]$kind == "bucket" && tree$args[[1]]$part != "weekday"
  if (types[1] == "text" && !tree$op %in% c("==", "!=") && !ordered)
    refuse(context, "text is compared with == or !=, it has no order", word = tree$op)
  right <- tree$args[[2]]
  if (right$kind %in% c("number", "text")) {
    value <- as_type_of(tree$args[[1]], right$value, known, context)
    tree$args[[2]] <- if (types[1] == "date") node("date", value = value) else
      node(if (is.character(value)) "text" else "number", value = value)
  } else if (types[1] != types[2]) {
    refuse(context, paste0("a ", types[1], " and a ", types[2], " cannot be compared"),
           word = tree$op)
  }
  tree$type <- types[1]
  tree
}

turned <- function(op) {
  switch(op, `<` = ">", `<=` = ">=", `>` = "<", `>=` = "<=", op)
}

# Literals as the left side needs them; says how to write them where they do not fit.
as_type_of <- function(left, values, known, context) {
  type <- row_type(left, known)
  name <- tree_text(left)
  if (left$kind == "bucket") return(bucket_literals(left, values, context))
  if (left$kind %in% c("band", "banded")) check_band_names(left, values, context)
  if (type == "number" && !is.numeric(values))
    refuse(context, paste0(quoted(name), " holds numbers and ", shown(values[1]), " is text"))
  if (type == "text" && is.numeric(values))
    refuse(context, paste0(quoted(name), " holds text and ", format_plain(values[1]),
                           " is a number; put it in quotes"))
  if (type != "date") return(values)
  dates <- as_iso_date(as.character(values))
  if (anyNA(dates))
    refuse(context, paste0(quoted(name), " holds dates and ", shown(values[is.na(dates)][1]),
                           " is none; write them as \"2026-03-31\""))
  as.numeric(dates)
}

check_band_names <- function(left, values, context) {
  unknown <- setdiff(values, left$labels)
  if (length(unknown))
    refuse(context, paste0("the bands of ", quoted(left$name), " have no ", shown(unknown[1])),
           offer(as.character(unknown[1]), left$labels, "Bands"), word = as.character(unknown[1]))
}

# What a part of a date is compared with must look like one of its names.
bucket_literals <- function(left, values, context) {
  text <- if (is.numeric(values)) format_plain(values) else values
  if (left$part == "hour") text <- sub("^([0-9])$", "0\\1", text)
  # "morning" for "06-12 morning".
  if (left$part == "part_of_day") {
    at <- match(tolower(text), sub(".* ", "", day_parts_named))
    text <- ifelse(is.na(at), text, day_parts_named[at])
  }
  form <- switch(left$part, day = "^\\d{4}-\\d{2}-\\d{2}$", week = "^\\d{4}-W\\d{2}$",
                 month = "^\\d{4}-\\d{2}$", quarter = "^\\d{4}-Q[1-4]$", year = "^\\d{4}$",
                 fiscal_month = "^FY\\d{4}-P\\d{2}$", fiscal_quarter = "^FY\\d{4}-Q[1-4]$",
                 fiscal_year = "^FY\\d{4}$", hour = "^([01]\\d|2[0-3])$",
                 part_of_day = paste0("^(", paste(day_parts_named, collapse = "|"), ")$"),
                 weekday = paste0("^(", paste(weekday_levels, collapse = "|"), ")$"))
  bad <- !grepl(form, text)
  if (any(bad))
    refuse(context, paste0(left$part, "() has no ", shown(values[bad][1])),
           c(i = paste0("Its names look like ", bucket_sample(left$part), ".")), word = left$part)
  text
}

bucket_sample <- function(part) {
  switch(part, day = "2026-03-31", week = "2026-W14", month = "2026-03", quarter = "2026-Q1",
         year = "2026", fiscal_month = "FY2026-P03", fiscal_quarter = "FY2026-Q1",
         fiscal_year = "FY2026", weekday = "Tuesday", hour = "09",
         part_of_day = "morning or 06-12 morning")
}

# ISO dates as text; NA where it is none.
as_iso_date <- function(x) {
  ok <- grepl("^[0-9]{4}-[0-9]{1,2}-[0-9]{1,2}$", x)
  out <- as.Date(rep(NA_character_, length(x)))
  out[ok] <- as.Date(x[ok], format = "%Y-%m-%d")
  out
}

# Whether a node holds a field against names that are written out.
names_literals <- function(t) {
  t$kind == "within" && t$arg$kind == "name" && is.null(t$set$name) &&
    is.character(t$set$values) ||
    t$kind == "compare" && t$op %in% c("==", "!=") && t$args[[1]]$kind == "name" &&
    t$args[[2]]$kind == "text"
}

# Literals that a condition compares with text fields: list of list(field, values), so that the
# book can look whether such names exist.
literals_in <- function(tree) {
  named <- nodes_where(tree, names_literals)
  lapply(named, function(t) {
    if (t$kind == "within") list(field = t$arg$name, values = t$set$values) else
      list(field = t$args[[1]]$name, values = t$args[[2]]$value)
  })
}
