# Check, continued: the question and what is found.

# One row for each field of the lines.
check_fields_table <- function(question, found) {
  own <- own_fields(question)
  rows <- lapply(seq_len(nrow(own)), function(i) {
    field <- own[i, ]
    named <- field$type %in% c("text", "empty")
    seen <- if (named) names_of(question$book, field$name)
    counted <- found$counted[[field$name]]
    plain <- function(x) if (field$type == "date") day_of(x) else format_plain(x)
    held <- if (named) seen else counted$value
    range <- if (named || !length(held)) c("", "") else plain(range(held))
    # Of numbers and dates the commonest.
    few <- utils::head(if (named) held else held[order(-counted$times, held)], 3)
    data.frame(field = field$name, role = field$role, type = field$type, why = field$why,
               missing = field$missing,
               money = if (field$missing) weigh(question, found, is_missing(field$name))$money else
               0, distinct = length(held),
               lowest = range[1], highest = range[2],
               examples = paste(fit_text(show_blanks(if (named) few else plain(few)), 20),
                                collapse = ", "))
  })
  out <- do.call(rbind, rows)
  names(out)[names(out) == "money"] <- paste0("missing_", first_metric(question)$name)
  out
}

all_findings <- function(question, found) {
  out <- rbind(find_missing(question, found), find_spellings(question, found),
               find_duplicates(question, found), find_disagreeing(question, found),
               find_signs(question, found), find_outlying(question, found),
               find_far_dates(question, found), find_early_dates(question, found),
               find_unregistered(question, found), find_labels(question, found),
               find_ends(question, found), find_late(question, found),
               find_gaps(question, found),
               find_stopped(question, found), find_single(question, found))
  if (is.null(out)) out <- one_finding("low", "", "", list(lines = 0))[0, ]
  out <- with_returns(question, found, out)
  rank <- match(out$weight, c("high", "middle", "low"))
  out <- out[order(rank, -abs(ifelse(is.na(out$money), 0, out$money)), -out$lines), ]
  rownames(out) <- NULL
  out
}

find_missing <- function(question, found) {
  own <- own_fields(question)
  do.call(rbind, lapply(which(own$missing > 0), function(i) {
    field <- own$name[i]
    weighed <- weigh(question, found, is_missing(field))
    # Gaps that are excluded are none.
    if (weighed$lines == 0) return(NULL)
    fix <- if (own$role[i] == "measure") paste0("fields: {", field, ": {fill: zero}}") else
      if (own$role[i] == "date") leave_out(found, is_missing(field), weighed) else
        paste0("fields: {", field, ": {fill: unknown}}")
    used <- field %in% unlist(lapply(question$book$metrics, function(m) names_in(m$tree)))
    one_finding(if (used || own$role[i] == "dimension") "middle" else "low", "missing values",
                field, weighed, fix = fix)
  }))
}

find_spellings <- function(question, found) {
  own <- own_fields(question)
  dims <- own$name[own$role == "dimension" & own$type == "text"]
  do.call(rbind, lapply(dims, function(field) {
    names <- names_of(question$book, field)
    if (length(names) > 2e5) return(NULL)
    alike <- lapply(spelled_similarly(names), match, names)
    if (!length(alike)) return(NULL)
    fold <- source_fold(question$book$source, field, list())
    count <- fold$lines[match(names, fold$keys[[1]])]
    rarer <- unlist(lapply(alike, function(at) at[-which.max(count[at])]))
    where <- node("within", arg = node("name", name = field),
                  set = node("set", values = names[rarer]))
    one_finding("high", "similar spellings", field, weigh(question, found, where),
                names[unlist(alike)],
                paste0("fields: {", field, ": {same: similar}}"))
  }))
}

# Lines that agree in every field, beyond the first of each.
find_duplicates <- function(question, found) {
  own <- own_fields(question)
  if (nrow(own) < 2) return(NULL)
  # Compared by name only where a first look found lines alike.
  book <- question$book
  book$source <- source_alike(book$source, own$name, question$asked$where_now)
  fold <- fold_question(altered(question, book = book), own$name, where = NULL)
  twice <- which(fold$lines > 1)
  if (!length(twice)) return(NULL)
  value <- fold$values[[1]][twice]
  first <- own$name[own$role == "identifier"][1]
  one_finding("high", "duplicate lines", "", list(
    lines = sum(fold$lines[twice] - 1),
    money = sum(value * (1 - 1 / fold$lines[twice]), na.rm = TRUE)),
              if (!is.na(first)) unique(fold$keys[[first]][twice]),
              "fix the export: a brief cannot tell duplicates apart")
}

# Orders on more than one customer or date.
find_disagreeing <- function(question, found) {
  order <- question$book$order
  if (is.null(order)) return(NULL)
  own <- own_fields(question)
  customers <- own$name[grepl("^(account|customer|client|buyer)", column_word(own$name)) &
                          own$role == "dimension"]
  do.call(rbind, lapply(c(customers[1], question$book$date), function(field) {
    if (is.na(field)) return(NULL)
    names <- node("aggregate", fn = "distinct", arg = node("name", name = field))
    # Orders are a great many, those with two few: only these are named.
    fold <- source_pairs(question$book$source, as_keys(order), list(n = names),
                         question$asked$where_now)
    codes <- fold$keys[[1]]
    several <- fold$levels[[1]][codes[codes > 0 & fold$parts$n$v > 1]]
    if (!length(several)) return(NULL)
    where <- node("within", arg = node("name", name = order), set = node("set", values = several))
    weighed <- weigh(question, found, where)
    one_finding("high", paste0("orders under two ", plural_word(spoken(field))), field, weighed,
                several, leave_out(found, where, weighed))
  }))
}

# A bare file has no metric yet: its lines are what findings weigh.
check_question <- function(book, args) {
  bare <- is.null(args$metrics) && !length(book$metrics)
  if (bare) args <- altered(args, metrics = c(line_count = "count()"))
  question <- refuse_compared(ask_book(book, args, mixed = TRUE), "check")
  if (length(question$metrics) > 1 || !first_metric(question)$adds_up)
    ll_abort("'check' weighs findings by one metric that adds up, such as sum(net).", "argument")
  with_args(question, bare = bare)
}

check_found <- found_of(
  "check", common = list(),
  lines = holds("list", NULL, "the fold over all lines"),
  counted = holds("list", NULL, "of each field of numbers or dates: value, times, missing"),
  days = holds("date", NULL, "the book's days without stray ones"),
  fields = holds("table", NULL, "a row for each field of the lines"),
  findings = holds("table", NULL, "weight, finding, field, lines, money, examples, fix, where, returns"))

check_work <- function(question) {
  days <- question$book$days
  found <- list(lines = fold_question(question, character()))
  found$counted <- counted_numbers(question)
  found$days <- days[!days %in% stray_days(question$book)]
  found$fields <- check_fields_table(question, found)
  found$findings <- all_findings(question, found)
  do.call(check_found, found)
}
