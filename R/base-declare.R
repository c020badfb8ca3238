# Declarations: what a study or a command takes. Checks, command options, brief keys and help are
# made from them.

# `answers` is the question that it answers, in the words of the trade; `examples` are asked of the
# demo's brief, `asked` too, in plain words; `bare` one of a file alone, where not the usual one;
# `pictures` are its own and other ones of the same answer, see figure-other.R; `of_results` where a
# result may stand in place of the book; `next_answer` and `next_row` are the questions that make
# sense after the answer and after a row of it, see study-next.R.
declare <- function(name, title, args, examples = character(), parts = character(),
                    bare = if (all(c("each", "top") %in% names(args))) "--each item --top 5",
                    of_results = FALSE, answers = title, asked = character(),
                    pictures = character(), next_answer = character(), next_row = character()) {
  list(name = name, title = title, answers = answers, args = args, examples = examples,
       parts = parts, bare = bare, of_results = of_results, asked = asked,
       pictures = pictures, next_answer = next_answer, next_row = next_row)
}

# One argument. `type` is one of the readers below; `help` is one line.
arg <- function(type, help, default = NULL, choices = NULL, from = NULL, to = NULL,
                required = FALSE) {
  list(type = type, help = help, default = default, choices = choices, from = from, to = to,
       required = required)
}

# An option whose value is a path that is read, or written to: see cli-paths.R.
reads <- function(arg) c(arg, path = "read")
writes <- function(arg) c(arg, path = "write")

# The arguments most studies take, as their declarations have them.
arg_metrics <- function(help = "metrics (default: the book's first)") arg("metrics", help)
arg_where <- arg("condition", "only lines that meet this condition")
arg_when <- arg("period", "only this period: 2026, 2026-Q2, 2026-04-01/2026-06-30, last quarter")

arg_resamples <- arg("whole", paste("resamples of orders (for reps of customers), for ranges of",
                                    "ranks: 1000"), from = 50, to = 65000)
arg_seed <- arg("whole", "seed of the random numbers", 1, from = 0)

# Every declaration of this package, by name. A declaration is an object `declared_<name>`.
declarations <- function() {
  if (is.null(found_once$all)) {
    home <- parent.env(environment())
    found <- mget(ls(home, pattern = "^declared_"), envir = home)
    found_once$all <- stats::setNames(found, vapply(found, function(d) d$name, ""))
  }
  found_once$all
}

# They are looked up once: the namespace holds a few thousand names.
found_once <- new.env(parent = emptyenv())

declaration_of <- function(study) {
  known <- declarations()
  if (!study %in% names(known))
    ll_abort(c(paste0("There is no study called ", quoted(study), "."),
               offer(study, names(known), "Studies")), "word")
  known[[study]]
}

# The values of a study's arguments, checked and in their types. Values may be text from the command
# or a brief, or R values.
check_args <- function(declaration, values) {
  # Once, not anew by each argument that finds it wrong.
  force(values)
  thunks <- lapply(names(declaration$args), function(name) {
    function() check_arg(values[[name]], name, declaration$args[[name]])
  })
  checked <- do.call(together, thunks)
  new_record("ll_checked", stats::setNames(checked, names(declaration$args)))
}

check_arg <- function(value, name, spec) {
  if (is.null(value)) {
    if (spec$required)
      ll_abort(c(paste0(quoted(name), " must be given: ", spec$help, ".")), "argument")
    return(spec$default)
  }
  refuse_objects(value, name, within = TRUE)
  if (!length(value)) ll_abort(c(paste0(quoted(name), " is empty."), i = paste0(
    "It takes: ", spec$help, ".")), "argument")
  value <- utf8_value(value)
  switch(spec$type,
         words = check_words(value, name), metrics = check_metric_words(value, name),
         shares = check_shares(value, name), percents = check_shares(value, name, 10),
         plan = check_plan(value, name), bounds = check_bounds(value, name),
         steps = check_steps(value, name), sets = check_sets(value, name),
         values = check_values(value, name),
         level = check_level(value, name, spec),
         whole = check_whole(value, name, spec), number = check_number(value, name, spec),
         choice = check_choice(value, name, spec), flag = check_flag(value, name),
         condition = check_formula_like(value, name), period = check_words(value, name, one = TRUE),
         text = check_words(value, name, one = TRUE))
}

# Functions, environments and the like are no value of any argument, nor of one within a list of a
# study; a register's list may hold a connection.
refuse_objects <- function(value, name, within = FALSE) {
  if (within && is.list(value)) lapply(value, refuse_objects, name, within)
  if (is.atomic(value) || is.list(value) || inherits(value, "formula")) return(invisible())
  ll_abort(c(paste0(quoted(name), " must be text, a number or a list."),
             x = paste0("It is ", if (is.function(value)) "a function" else
               paste0("of class ", class(value)[1]), ".")), "argument")
}

check_words <- function(value, name, one = FALSE) {
  ok <- is.character(value) && length(value) > 0 && !anyNA(value) && all(nzchar(trimmed(value)))
  if (!ok || (one && length(value) != 1))
    ll_abort(c(paste0(quoted(name), " must be ", if (one) "one text" else "text", ", not empty."),
               x = paste0("It is ", shown(value), ".")), "argument")
  trimmed(value)
}

# Names of metrics, or named formulas: c(average = "revenue / orders").
check_metric_words <- function(value, name) {
  if (inherits(value, "formula")) return(list(value))
  if (is.list(value)) {
    fits <- function(one) {
      is.list(one) || inherits(one, "formula") ||
        is.character(one) && length(one) == 1 && !is.na(one) && nzchar(trimmed(one))
    }
    plain <- vapply(value, fits, NA)
    if (all(plain)) return(value)
    ll_abort(c(paste0(quoted(name), " must be names of metrics, or named formulas."),
               x = paste0("It is ", shown(value[!plain][[1]]), ".")), "argument")
  }
  labels <- names(value)
  value <- check_words(value, name)
  names(value) <- labels
  value
}

check_whole <- function(value, name, spec) {
  number <- as_single_number(value)
  low <- if (is.null(spec$from)) 1 else spec$from
  high <- if (is.null(spec$to)) 2^31 - 1 else spec$to
  if (is.na(number) || number != round(number) || number < low || number > high)
    ll_abort(c(paste0(quoted(name), " must be a whole number from ",
                      plain_number(low),
                      if (is.null(spec$to)) " up." else paste0(" to ", plain_number(high), ".")),
               x = paste0("It is ", shown(value), ".")), "argument")
  number
}

check_number <- function(value, name, spec) {
  number <- as_single_number(value)
  low <- if (is.null(spec$from)) -Inf else spec$from
  high <- if (is.null(spec$to)) Inf else spec$to
  if (is.na(number) || number < low || number > high)
    ll_abort(c(paste0(quoted(name), " must be a number",
                      if (is.finite(low)) paste(" from", plain_number(low)),
                      if (is.finite(high)) paste(" to", plain_number(high)),
                      "."), x = paste0("It is ", shown(value), ".")), "argument")
  number
}

as_single_number <- function(value) {
  if (length(value) != 1 || !is.numeric(value) && !is.character(value)) return(NA_real_)
  plain <- is.numeric(value) || grepl("^\\s*[-+]?[0-9]*\\.?[0-9]+([eE][-+]?[0-9]+)?\\s*$", value)
  if (is.na(value) || !plain) return(NA_real_)
  number <- as.numeric(value)
  if (is.finite(number)) number else NA_real_
}

# 5000, 0.04, "4 %"; missing where it is no number.
number_or_percent <- function(value) {
  percent <- length(value) == 1 && grepl("%\\s*$", value)
  number <- as_single_number(sub("\\s*%\\s*$", "", value))
  if (percent) of_hundred(number) else as_single_number(value)
}

# "a=1,b=2" as list(left, right); NULL where a part has no "=".
split_pairs <- function(text) {
  words <- unlist(strsplit(as.character(text), ",", fixed = TRUE))
  parts <- regmatches(words, regexpr("=", words), invert = TRUE)
  if (all(lengths(parts) == 2))
    list(left = trimmed(vapply(parts, `[`, "", 1)), right = trimmed(vapply(parts, `[`, "", 2)))
}

# Named lower bounds as "Copper=0,Brass=5000", c(Copper = 0, Brass = 5000), or a table of label,
# from and, if wanted, to: what band_table() reads.
check_bounds <- function(value, name) {
  # As they are when they were read before.
  if (is.list(value) && identical(names(value), c("from", "labels"))) return(value)
  if (is.list(value) && identical(names(value), "table")) value <- value$table
  if (is.data.frame(value) || is.list(value) && is.null(names(value))) return(list(table = value))
  if (is.null(names(value))) {
    pairs <- split_pairs(value)
    if (is.null(pairs))
      ll_abort(c(paste0(quoted(name), " must be names with their lower bounds."),
                 x = paste0("It is ", shown(value), "."),
                 i = "For example Copper=0,Brass=5000,Silver=20000."), "argument")
    value <- stats::setNames(pairs$right, pairs$left)
  }
  list(from = trimmed(vapply(value, as.character, "")), labels = names(value))
}

# Tables of lower bounds and what holds from there up: "0=2%,20000=4%" (several apart by ";"), named
# values, a data frame of from and pays, or a list of these. Gives a list of data frames of text.
check_steps <- function(value, name) {
  if (is.list(value) && !is.data.frame(value) && is.null(names(value)))
    return(unlist(lapply(value, check_steps, name), recursive = FALSE))
  if (is.data.frame(value) || is.list(value)) {
    if (!all(c("from", "pays") %in% names(value)))
      ll_abort(paste0(quoted(name), " as a table needs the columns from and pays."), "argument")
    return(list(data.frame(from = as.character(unlist(value$from)),
                           pays = as.character(unlist(value$pays)))))
  }
  if (!is.null(names(value)))
    return(list(data.frame(from = names(value), pays = vapply(value, as.character, ""))))
  lapply(unlist(strsplit(as.character(value), ";", fixed = TRUE)), function(text) {
    pairs <- split_pairs(text)
    if (!length(pairs$left))
      ll_abort(c(paste0(quoted(name), " must be lower bounds with what is paid from there up."),
                 x = paste0("It is ", shown(text), "."), i = "For example 0=2%,20000=4%."),
               "argument")
    data.frame(from = pairs$left, pays = pairs$right)
  })
}

# Numbers in an order, or named: "3,2,1", "revenue=3,orders=1", c(revenue = 3); percent signs count.
check_values <- function(value, name) {
  labels <- names(value)
  if (is.character(value) && length(value) == 1 && is.null(labels)) {
    words <- strsplit(value, ",", fixed = TRUE)[[1]]
    if (any(grepl("=", words, fixed = TRUE))) labels <- trimmed(sub("=.*", "", words))
    value <- trimmed(sub(".*=", "", words))
  }
  if (is.list(value)) value <- unlist(value)
  number <- vapply(as.character(value), number_or_percent, 0, USE.NAMES = FALSE)
  if (!length(number) || anyNA(number))
    ll_abort(c(paste0(quoted(name), " must be numbers."),
               x = paste0("They are ", shown(value), "."),
               i = "For example 3,2,1 or revenue=3,orders=1."), "argument")
  stats::setNames(number, labels)
}

# Definitions of sets, named or not: "old=active(2025)", c(old = "active(2025)"), formulas.
check_sets <- function(value, name) {
  if (inherits(value, "formula")) value <- list(value)
  labels <- names(value) %||% rep("", length(value))
  value <- lapply(value, check_formula_like, name = name)
  for (i in which(labels == "")) if (is.character(value[[i]])) {
    parts <- regmatches(value[[i]], regexec("^([A-Za-z][A-Za-z0-9_.]*)[ ]*=([^=].*)$",
                                            value[[i]]))[[1]]
    if (length(parts)) {
      labels[i] <- parts[2]
      value[[i]] <- trimmed(parts[3])
    }
  }
  twice <- labels[nzchar(labels) & duplicated(labels)]
  if (length(twice))
    ll_abort(paste0("Two sets are called ", quoted(twice[1]), "."), "argument")
  stats::setNames(value, labels)
}

# Shares of a whole as 0.8, 80 or "80 %": numbers above 1 are percent, unless they may be shares too
# and stand beside one that is: 0.8 and 1.1 are 80 % and 110 %. Rising, each once.
check_shares <- function(value, name, most = 1) {
  text <- trimmed(unlist(strsplit(as.character(value), ",", fixed = TRUE)))
  number <- vapply(sub("\\s*%$", "", text), as_single_number, 0, USE.NAMES = FALSE)
  bare <- !grepl("%$", text)
  shares <- any(bare & !is.na(number) & number < 1 & number > 0) &&
    all(number[bare & !is.na(number)] <= most)
  percent <- !bare | !shares & !is.na(number) & number > 1
  share <- ifelse(percent, of_hundred(number), number)
  bad <- is.na(share) | share <= 0 | share > most
  if (!length(text) || any(bad))
    ll_abort(c(paste0(quoted(name), " must be shares above 0 and up to ", most * 100, " %."),
               x = paste0("It is ", shown(value), "."),
               i = "For example 80% (or 0.8), or several: 80%,95%."), "argument")
  sort(unique(share))
}

# One of the choices, or a number: 5000, 0.3, "30 %".
check_level <- function(value, name, spec) {
  if (length(value) == 1 && value %in% spec$choices) return(as.character(value))
  number <- number_or_percent(value)
  if (is.na(number))
    ll_abort(c(paste0(quoted(name), " must be ", and_list(quoted(spec$choices), last = "or"),
                      ", or a number."), x = paste0("It is ", shown(value), "."),
               if (is.character(value) && length(value) == 1) near_only(value, spec$choices)),
             "argument")
  number
}

# A register's field, a file, or a data frame.
check_plan <- function(value, name) {
  if (is.data.frame(value)) value else check_words(value, name, one = TRUE)
}

check_choice <- function(value, name, spec) {
  if (!is.character(value) || length(value) != 1 || !value %in% spec$choices)
    ll_abort(c(paste0(quoted(name), " must be ", and_list(quoted(spec$choices), last = "or"), "."),
               x = paste0("It is ", shown(value), "."),
               if (is.character(value) && length(value) == 1) near_only(value, spec$choices)),
             "argument")
  value
}

near_only <- function(word, candidates) {
  near <- nearest(word, candidates, 1)
  if (length(near)) c(i = paste0("Nearest: ", quoted(near), "."))
}

check_flag <- function(value, name) {
  if (is.character(value) && length(value) == 1)
    value <- switch(tolower(value), yes = , true = , on = TRUE, no = , false = , off = FALSE, NA)
  if (!is.logical(value) || length(value) != 1 || is.na(value))
    ll_abort(paste0(quoted(name), " must be yes or no (TRUE or FALSE in R)."), "argument")
  value
}

check_formula_like <- function(value, name) {
  if (inherits(value, "formula")) return(value)
  check_words(value, name, one = TRUE)
}

# A value as an error shows it: short, on one line.
shown <- function(value) {
  if (is.null(value)) return("NULL")
  if (is.character(value) && length(value) == 1 && !is.na(value))
    return(quoted(fit_text(one_line(value), 60)))
  fit_text(one_line(paste(deparse(value, width.cutoff = 60, nlines = 1), collapse = " ")), 60)
}

# A value of a brief: `type` text (any scalar), texts (one or a list), number, flag, choice, rows (a
# list of maps), or none where only keys are taken; `keys`: what a map may hold; `each`: what every
# entry of a map of names is.
key_spec <- function(help, type = "none", keys = NULL, each = NULL, choices = NULL) {
  list(help = help, type = type, keys = keys, each = each, choices = choices)
}

# The arguments of a function from as.list(environment()) at its head: one without a default that
# was not given is the empty name there.
given_args <- function(args) {
  args[!vapply(args, function(one) identical(one, quote(expr = )), NA)]  # nolint
}
