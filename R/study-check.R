# Check: the book's health on one page.

most_left_out <- .1
stops_names <- 200   # of fields with more names, who stopped is a question for `lapsed`
stops_days <- 92

declared_check <- declare(
  "check", "The book's health: every field, what looks wrong, and the line of brief that mends it",
  args = list(metrics = arg_metrics("the metric that weighs findings (default: the first)")),
  examples = "--metrics revenue")

#' Check: the book's health
#'
#' Looks at every field and for what usually goes wrong, and tells how many lines and how much of a
#' metric each finding touches, with examples and the line of a brief that would mend it.
#'
#' Looked for: missing values; names that differ only in case, blanks or accents; lines entered
#' twice; orders whose lines disagree on the customer or date; negative and zero measures; values
#' far out; dates far from the others; dates before the order's; names missing from a register and
#' the reverse; part months at both ends and months without lines; names that stop; fields with one
#' name only.
#'
#' A value is *far out* where it lies 20 widths of the middle half beyond it and its logarithm 3
#' (where the middle half has one value, a wider middle serves; Tukey 1977). A name *stops* that
#' has no line in the last 92 days of the book, nor for longer than it ever paused before, after
#' lines in at least six months; fields of up to 200 names are
#' asked (of others, [ll_lapsed()] tells). A date is *far from the
#' others* that lies more than 92 days, and three times the usual step, from the rest with few
#' beside it; months and what stops go by the others. Leaving lines out is only offered where it
#' takes at most a tenth of the lines and of the metric.
#'
#' @param book (`ll_book`) the book.
#' @param metrics (text) one metric that adds up, to weigh findings by.
#'
#' @return A data frame of class `ll_result_check`, a row for each finding, heaviest first:
#'   `weight` (`"high"`, `"middle"`, `"low"`), `finding`, `field`, `lines`, the metric over those
#'   lines (missing where it says nothing), `examples` and `mend`, the line of brief. Part `fields`:
#'   a row for each field with `field`, `role`, `type`, `why`, `missing`, the metric over the lines
#'   where it is missing, `distinct`, `lowest`, `highest` and `examples`.
#' @section Errors: As [ll_standings()]; `ll_error_argument` for a metric that does not add up.
#' @references Tukey, J. W. (1977) *Exploratory Data Analysis*. Addison-Wesley, chapter 2.
#' @examples
#' ll_check(ll_demo())
#' @export
ll_check <- function(book, metrics = NULL) {
  check_book(book)
  # A bare file has no metric yet: its lines are what findings weigh.
  bare <- is.null(metrics) && !length(book$metrics)
  if (bare) metrics <- c(line_count = "count()")
  q <- refuse_compared(ask_book(book, check_args(declared_check, list(metrics = metrics))), "check")
  if (length(q$metrics) > 1 || !q$first$adds_up)
    ll_abort("'check' weighs findings by one metric that adds up, such as sum(net).", "argument")
  s <- list(q = q, bare = bare, lines = fold_question(q, character()))
  s$counted <- counted_numbers(s)
  s$days <- q$book$days[!q$book$days %in% stray_days(q$book)]
  s$fields <- check_fields_table(s)
  s$findings <- all_findings(s)
  table <- s$findings[names(s$findings) != "where"]
  names(table)[names(table) == "money"] <- q$first$name
  if (bare) s$findings$money <- rep(NA_real_, nrow(s$findings))
  new_answer(q, "check", table, question_settings(q),
             new_columns(names(table), c("text", "text", "text", "count", q$first$unit, "text",
                                         "text"), c(rep(TRUE, 4), !bare, TRUE, FALSE)),
             check_finding(s), check_reading(s), check_notes(s), check_proof(s),
             parts = list(fields = s$fields),
             behind = list(rows = as.list(unclass(s$findings$where))))
}

# The line of brief that leaves out what was found, unless that is too much to be a fault: more than
# a tenth of the lines or of the money.
leave_out <- function(s, where, weighed) {
  much <- weighed$lines > most_left_out * s$lines$lines ||
    isTRUE(abs(weighed$money) > most_left_out * abs(s$lines$values[[1]][1]))
  if (much) "" else paste0("set_aside: ", tree_text(where))
}

# Lines and money where a condition holds.
weigh <- function(s, where) {
  fold <- fold_question(s$q, character(), where = and_also(s$q$asked$where_now, where))
  list(lines = fold$lines, money = fold$values[[1]][1], where = where)
}

one_finding <- function(weight, finding, field, weighed, examples = character(), mend = "") {
  data.frame(weight = weight, finding = finding, field = field, lines = weighed$lines,
             money = as.double(weighed$money %||% NA),
             examples = paste(fit_text(show_blanks(utils::head(as.character(examples), 3)), 24),
                              collapse = ", "), mend = mend, where = I(list(weighed$where)))
}

own_fields <- function(s) s$q$book$fields[s$q$book$fields$from == "lines", ]

is_missing <- function(field) node("missing", arg = node("name", name = field))

less_than <- function(field, value, type = "number") {
  node("compare", op = "<", type = type,
       args = list(node("name", name = field), node(type, value = value)))
}

# The distinct numbers and dates of each field, with how often each occurs.
counted_numbers <- function(s) {
  own <- own_fields(s)
  numbers <- own$name[!own$type %in% c("text", "empty")]
  lapply(stats::setNames(numbers, numbers), function(name) {
    source_counted(s$q$book$source, node("name", name = name), NULL, s$q$asked$where_now)
  })
}

# One row for each field of the lines.
check_fields_table <- function(s) {
  own <- own_fields(s)
  rows <- lapply(seq_len(nrow(own)), function(i) {
    field <- own[i, ]
    named <- field$type %in% c("text", "empty")
    seen <- if (named) names_of(s$q$book, field$name)
    counted <- s$counted[[field$name]]
    plain <- function(x) if (field$type == "date") day_of(x) else format_plain(x)
    held <- if (named) seen else counted$value
    range <- if (named || !length(held)) c("", "") else plain(range(held))
    # Of numbers and dates the commonest.
    few <- utils::head(if (named) held else held[order(-counted$times, held)], 3)
    data.frame(field = field$name, role = field$role, type = field$type, why = field$why,
               missing = field$missing,
               money = if (field$missing) weigh(s, is_missing(field$name))$money else 0,
               distinct = length(held),
               lowest = range[1], highest = range[2],
               examples = paste(fit_text(show_blanks(if (named) few else plain(few)), 20),
                                collapse = ", "))
  })
  out <- do.call(rbind, rows)
  names(out)[names(out) == "money"] <- paste0("missing_", s$q$first$name)
  out
}

all_findings <- function(s) {
  out <- rbind(find_missing(s), find_spellings(s), find_twins(s), find_disagreeing(s),
               find_signs(s), find_outlying(s), find_far_dates(s), find_early_dates(s),
               find_unregistered(s), find_ends(s), find_gaps(s), find_stopped(s), find_single(s))
  if (is.null(out)) out <- one_finding("low", "", "", list(lines = 0))[0, ]
  rank <- match(out$weight, c("high", "middle", "low"))
  out <- out[order(rank, -abs(ifelse(is.na(out$money), 0, out$money)), -out$lines), ]
  rownames(out) <- NULL
  out
}

find_missing <- function(s) {
  own <- own_fields(s)
  do.call(rbind, lapply(which(own$missing > 0), function(i) {
    field <- own$name[i]
    weighed <- weigh(s, is_missing(field))
    mend <- if (own$role[i] == "measure") paste0("fields: {", field, ": {fill: zero}}") else
      if (own$role[i] == "date") leave_out(s, is_missing(field), weighed) else
        paste0("fields: {", field, ": {fill: unknown}}")
    used <- field %in% unlist(lapply(s$q$book$metrics, function(m) names_in(m$tree)))
    one_finding(if (used || own$role[i] == "dimension") "middle" else "low", "missing values",
                field, weighed, mend = mend)
  }))
}

find_spellings <- function(s) {
  own <- own_fields(s)
  dims <- own$name[own$role == "dimension" & own$type == "text"]
  do.call(rbind, lapply(dims, function(field) {
    names <- names_of(s$q$book, field)
    if (length(names) > 2e5) return(NULL)
    alike <- lapply(spelled_alike(names), match, names)
    if (!length(alike)) return(NULL)
    fold <- source_fold(s$q$book$source, field, list())
    count <- fold$lines[match(names, fold$keys[[1]])]
    rarer <- unlist(lapply(alike, function(at) at[-which.max(count[at])]))
    where <- node("within", arg = node("name", name = field),
                  set = node("set", values = names[rarer]))
    one_finding("high", "spelled alike", field, weigh(s, where), names[unlist(alike)],
            paste0("fields: {", field, ": {same: alike}}"))
  }))
}

# Lines that agree in every field, beyond the first of each.
find_twins <- function(s) {
  own <- own_fields(s)
  if (nrow(own) < 2) return(NULL)
  # Compared by name only where a first look found lines alike.
  alike <- s$q
  alike$book$source <- source_alike(s$q$book$source, own$name, s$q$asked$where_now)
  fold <- fold_question(alike, own$name, where = NULL)
  twice <- which(fold$lines > 1)
  if (!length(twice)) return(NULL)
  value <- fold$values[[1]][twice]
  first <- own$name[own$role == "identifier"][1]
  one_finding("high", "lines entered twice", "", list(
    lines = sum(fold$lines[twice] - 1),
    money = sum(value * (1 - 1 / fold$lines[twice]), na.rm = TRUE)),
    if (!is.na(first)) unique(fold$keys[[first]][twice]),
    "mend the export: a brief cannot tell twins apart")
}

# Orders on more than one customer or date.
find_disagreeing <- function(s) {
  order <- s$q$book$order
  if (is.null(order)) return(NULL)
  own <- own_fields(s)
  customers <- own$name[grepl("^(account|customer|client|buyer)", column_word(own$name)) &
                          own$role == "dimension"]
  do.call(rbind, lapply(c(customers[1], s$q$book$date), function(field) {
    if (is.na(field)) return(NULL)
    names <- node("aggregate", fn = "distinct", arg = node("name", name = field))
    fold <- source_fold(s$q$book$source, order, list(n = names), s$q$asked$where_now)
    several <- fold$keys[[1]][!is.na(fold$keys[[1]]) & fold$parts$n$v > 1]
    if (!length(several)) return(NULL)
    where <- node("within", arg = node("name", name = order), set = node("set", values = several))
    weighed <- weigh(s, where)
    one_finding("high", paste0("orders under two ", plural_word(spoken(field))), field, weighed,
                several, leave_out(s, where, weighed))
  }))
}
