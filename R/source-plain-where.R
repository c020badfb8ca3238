# Conditions on the second route, in base R over the raw columns; see source-plain.R.

plain_condition <- function(source, tree) {
  date <- only_date(source, tree)
  if (!is.null(date)) {
    of <- plain_days(source, date)
    return(plain_condition(day_source(source, date, of$days), tree)[of$at])
  }
  row <- function(t) plain_row(source, t)
  out <- switch(tree$kind,
                logic = {
                  args <- lapply(tree$args, plain_condition, source = source)
                  switch(tree$op, `!` = !args[[1]], `&` = args[[1]] & args[[2]],
                         `|` = args[[1]] | args[[2]])
                },
                missing = is.na(row(tree$arg)),
                within = plain_within(source, tree$arg, stats::na.omit(set_values(tree$set))),
                since = {
                  of <- plain_names(source, tree$arg)
                  row(tree$date) >= tree$from[match(of$names, tree$names)][of$at]
                },
                match = {
                  text <- row(tree$arg)
                  if (tree$fn == "contains") regexpr(tree$text, text, fixed = TRUE) > 0 else
                    substr(text, 1, nchar(tree$text)) == tree$text
                },
                compare = if (names_one(source, tree)) plain_by_name(source, tree) else
                  plain_compare(tree$op, row(tree$args[[1]]), row(tree$args[[2]]),
                                plain_slack(tree)))
  if (anyNA(out)) out[is.na(out)] <- FALSE
  for_lines(source, out)
}

# Whether the names of a field are held against one: judged once for each name.
names_one <- function(source, tree) {
  is_name_field(source, tree$args[[1]]) && tree$args[[2]]$kind == "text"
}

plain_by_name <- function(source, tree) {
  of <- plain_names(source, tree$args[[1]])
  plain_compare(tree$op, of$names, tree$args[[2]]$value, 0)[of$at]
}

# The date field that a comparison is about and nothing else; such are judged once for each day.
only_date <- function(source, tree) {
  if (!tree$kind %in% c("compare", "logic") || isTRUE(source$by_day)) return(NULL)
  names <- names_in(tree)
  if (length(names) != 1 || field_at(source, names)$type != "date" ||
      length(nodes_where(tree, function(t) t$kind == "bucket"))) return(NULL)
  names
}

# Days as a source of their own.
day_source <- function(source, name, days) {
  out <- new_frame_source(list(days), data.frame(name = name, column = 1, from = "lines",
                                                 type = "date"), calendar = source$calendar)
  out$by_day <- TRUE
  out
}

# One value is compared sooner than looked up; many are looked up once for each name.
plain_within <- function(source, arg, values) {
  if (length(values) == 1) return(plain_row(source, arg) == values)
  if (!is.character(values)) return(plain_row(source, arg) %in% values)
  of <- plain_names(source, arg)
  (of$names %in% values)[of$at]
}

# How far computed numbers may be apart and still be equal, relative: quotients 1e-9, as said in the
# reference; other arithmetic what doubles lose, so that 0.1 + 0.2 is at most 0.3.
plain_slack <- function(tree) {
  ops <- vapply(nodes_where(tree, function(t) t$kind == "op"), `[[`, "", "op")
  if ("/" %in% ops) 1e-9 else if (length(ops)) 1e-13 else 0
}

# Text has the order of its bytes.
plain_compare <- function(op, a, b, slack) {
  if (is.character(a) || is.character(b)) {
    if (op %in% c("==", "!=")) return(do.call(op, list(a, b)))
    order <- sort(unique(c(a, b)), method = "radix")
    return(do.call(op, list(match(a, order), match(b, order))))
  }
  if (!slack) return(do.call(op, list(a, b)))
  near <- a == b | abs(a - b) <= slack * pmax(abs(a), abs(b))
  switch(op, `==` = near, `!=` = !near, `<` = a < b & !near, `>` = a > b & !near,
         `<=` = a < b | near, `>=` = a > b | near)
}
