# A call of a study, list(study, args), as text: the words of the command, and each argument as a
# person types it. Arguments are as check_args() has them, or as they were given.

# The arguments of a call that say something: neither missing nor the default.
telling_args <- function(declared, args) {
  args <- unclass(args)
  args <- args[names(declared$args)[names(declared$args) %in% names(args)]]
  plain <- vapply(names(args), function(name) {
    is.null(args[[name]]) || identical(args[[name]], declared$args[[name]]$default)
  }, NA)
  args[!plain]
}

# The same of arguments as they were given.
asked_args <- function(study, args) {
  declared <- declaration_of(study)
  telling_args(declared, check_args(declared, args))
}

# "standings --each account --top 10"; metrics of this question alone are defined before.
call_command <- function(study, args) {
  declared <- declaration_of(study)
  args <- telling_args(declared, args)
  defined <- unlist(lapply(args[names(args) %in% metric_args(declared)], defined_metrics))
  words <- Map(function(value, name) {
    text <- arg_texts(value, declared$args[[name]], own_names = TRUE)
    if (declared$args[[name]]$type == "flag") return(paste0("--", gsub("_", "-", name)))
    if (declared$args[[name]]$type == "sets")
      return(paste0("--sets ", vapply(text, shell_quoted, "")))
    paste0("--", gsub("_", "-", name), " ", shell_quoted(list_text(text)))
  }, args, names(args))
  paste(c(study, if (length(defined)) paste("--define", vapply(unique(defined), shell_quoted, "")),
          unlist(words)), collapse = " ")
}

metric_args <- function(declared) {
  names(declared$args)[vapply(declared$args, function(spec) spec$type == "metrics", NA)]
}

# "rise=growth(revenue)" for metrics that are formulas with a name.
defined_metrics <- function(value) {
  names <- names(value)
  if (is.null(names)) return(NULL)
  own <- nzchar(names)
  if (any(own)) paste0(names[own], "=", vapply(value[own], metric_formula, ""))
}

metric_formula <- function(one) {
  if (inherits(one, "formula")) return(formula_text(one))
  if (is.list(one)) metric_formula(one$is) else one
}

# An argument's value as text, one for each thing that it lists. Metrics of this question by their
# own names, or with their formulas.
arg_texts <- function(value, spec, own_names = FALSE) {
  switch(spec$type,
         metrics = metric_texts(value, own_names),
         shares = , percents = paste0(full_number_text(100 * as.numeric(value)), "%"),
         bounds = if (is.null(value$from)) stop("a table of bounds has no text") else
           paste0(value$labels, "=", value$from),
         steps = paste(vapply(value, function(one) {
           paste0(one$from, "=", one$pays, collapse = ",")
         }, ""), collapse = ";"),
         sets = set_texts(value),
         values = paste0(if (!is.null(names(value))) paste0(names(value), "="),
                         full_number_text(unname(value))),
         level = if (is.numeric(value)) full_number_text(value) else value,
         whole = , number = full_number_text(as.numeric(value)),
         flag = if (isTRUE(value)) "yes" else "no",
         condition = if (inherits(value, "formula")) formula_text(value) else value,
         as.character(value))
}

metric_texts <- function(value, own_names) {
  names <- names(value) %||% rep("", length(value))
  formulas <- vapply(value, metric_formula, "")
  unname(ifelse(nzchar(names), if (own_names) names else paste0(names, "=", formulas), formulas))
}

set_texts <- function(value) {
  formulas <- vapply(value, function(one) if (inherits(one, "formula")) formula_text(one) else one,
                     "")
  names <- names(value) %||% rep("", length(value))
  unname(ifelse(nzchar(names), paste0(names, "=", formulas), formulas))
}

# Seventeen digits where it takes so many, and no more than it takes.
full_number_text <- function(x) {
  vapply(x, function(one) {
    short <- sprintf("%.15g", one)
    if (as.numeric(short) == one) short else sprintf("%.17g", one)
  }, "")
}

# Words with commas between; one that holds a comma stands in quotes.
list_text <- function(words) {
  odd <- grepl("[,\"]", words) & length(words) > 1
  words[odd] <- in_quotes(words[odd])
  paste(words, collapse = ",")
}

# Words of a list with commas between; `name` is the option that was given.
split_list <- function(text, name) {
  words <- if (grepl("(^|,)\\s*\"", text)) quoted_list(text) else
    trimmed(strsplit(text, ",", fixed = TRUE)[[1]])
  if (!length(words) || any(!nzchar(words)))
    ll_abort(paste0("'--", gsub("_", "-", name), "' must be words with commas between; it is ",
                    shown(text), "."), "argument")
  words
}

# Words in quotes may hold commas; a quote in them is written twice.
quoted_list <- function(text) {
  pattern <- "\\s*\"(?:[^\"]|\"\")*\"\\s*(?=,|$)|[^,]+"
  parts <- trimmed(regmatches(text, gregexpr(pattern, text, perl = TRUE))[[1]])
  inside <- grepl("^\".*\"$", parts)
  bare <- substr(parts[inside], 2, nchar(parts[inside]) - 1)
  parts[inside] <- gsub("\"\"", "\"", bare, fixed = TRUE)
  parts
}
