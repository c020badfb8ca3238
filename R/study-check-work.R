# Check, continued: the question and what is found.

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
