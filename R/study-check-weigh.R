# Check, continued: how much a finding weighs, and the line of brief that fixes it.

most_left_out <- .1

# The line of brief that leaves out what was found, unless that is too much to be a fault: more than
# a tenth of the lines or of the money.
leave_out <- function(found, where, weighed) {
  much <- weighed$lines > most_left_out * found$lines$lines ||
    isTRUE(abs(weighed$money) > most_left_out * abs(found$lines$values[[1]][1]))
  if (much) "" else paste0("exclude: ", tree_text(where))
}

# Lines and money where a condition holds.
weigh <- function(question, found, where) {
  fold <- fold_question(question, character(), where = and_also(question$asked$where_now, where))
  list(lines = fold$lines, money = fold$values[[1]][1], where = where)
}

one_finding <- function(weight, finding, field, weighed, examples = character(), fix = "") {
  data.frame(weight = weight, finding = finding, field = field, lines = weighed$lines,
             money = as.double(weighed$money %||% NA),
             examples = paste(fit_text(show_blanks(utils::head(as.character(examples), 3)), 24),
                              collapse = ", "), fix = fix, where = I(list(weighed$where)))
}

own_fields <- function(question) question$book$fields[question$book$fields$from == "lines", ]

is_missing <- function(field) node("missing", arg = node("name", name = field))

less_than <- function(field, value, type = "number") {
  node("compare", op = "<", type = type,
       args = list(node("name", name = field), node(type, value = value)))
}

# The distinct numbers and dates of each field, with how often each occurs.
counted_numbers <- function(question) {
  own <- own_fields(question)
  numbers <- own$name[!own$type %in% c("text", "empty")]
  lapply(stats::setNames(numbers, numbers), function(name) {
    source_counted(question$book$source, node("name", name = name), NULL, question$asked$where_now)
  })
}
