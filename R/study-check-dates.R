# Check, continued: dates, registers, what has no recent lines, what stands alone; its sentences and
# proof.

# Dates far from the others, at either end of the book.
find_far_dates <- function(question, found) {
  stray <- stray_days(question$book)
  if (!length(stray)) return(NULL)
  date <- question$book$date
  one <- function(op, day, finding, days, fix) {
    if (!length(days)) return(NULL)
    where <- node("compare", op = op, type = "date", args = list(
      node("name", name = date), node("date", value = as.numeric(day))))
    weighed <- weigh(question, found, where)
    one_finding("high", finding, date, weighed, format(days),
                if (is.null(fix)) leave_out(found, where, weighed) else fix)
  }
  last <- max(found$days)
  rbind(one(">", last, "dates far ahead of the others", stray[stray > last],
            paste0("as_of: ", last)),
        one("<", min(found$days), "dates far before the others", stray[stray < last], NULL))
}

# Another date that comes after the book's on nearly every line and before it on a few.
find_early_dates <- function(question, found) {
  date <- question$book$date
  own <- own_fields(question)
  others <- setdiff(own$name[own$role == "date"], date)
  if (is.null(date)) return(NULL)
  do.call(rbind, lapply(others, function(other) {
    where <- node("compare", op = "<", type = "date",
                  args = list(node("name", name = other), node("name", name = date)))
    early <- source_fold(question$book$source, other, list(), where)
    held <- question$book$lines - own$missing[own$name == other]
    if (!length(early$lines) || sum(early$lines) > .1 * held) return(NULL)
    weighed <- weigh(question, found, where)
    if (!weighed$lines) return(NULL)
    one_finding("middle", paste(spoken(other), "before", spoken(date)), other, weighed,
                early$keys[[1]], leave_out(found, where, weighed))
  }))
}

find_unregistered <- function(question, found) {
  book <- question$book
  do.call(rbind, lapply(names(book$registers), function(dimension) {
    match <- register_match(book, dimension)
    where <- node("within", arg = node("name", name = dimension),
                  set = node("set", values = match$unknown))
    none <- list(lines = 0)
    unused <- paste("registered,", plural(length(match$unused), noun_of(question, dimension)),
                    "without lines")
    rbind(if (length(match$unknown)) one_finding(
            "high", "names not in the register", dimension, weigh(question, found, where),
            match$unknown, "add them to the register, or merge their spellings"),
          if (length(match$unused)) one_finding("low", unused, dimension, none, match$unused),
          if (match$twice) one_finding("middle", "register rows that repeat a name", dimension,
                                       none,
                                   fix = "fix the register: the first row serves"))
  }))
}

# Labels that miss or repeat: the one is not found, the other asked back; and codes with several on
# the lines, of which that of the most lines serves.
find_labels <- function(question, found) {
  book <- question$book
  do.call(rbind, lapply(labelled(book), function(dimension) {
    table <- label_table(book, dimension)
    field <- spoken(table$column)
    many <- plural_word(noun_of(question, dimension))
    touched <- function(names) {
      weigh(question, found, node("within", arg = node("name", name = dimension),
                                  set = node("set", values = names)))
    }
    low <- function(finding, names, shown, fix) {
      if (length(names)) one_finding("low", finding, dimension, touched(names), shown, fix)
    }
    of_lines <- is.null(book$registers[[dimension]]$table[[table$column]])
    where <- if (of_lines) "lines" else "register"
    blank <- is_blank(table$labels)
    twice <- unique(table$labels[duplicated(table$labels) & !blank])
    rbind(low(paste("no", field, "in the register"), table$names[blank], table$names[blank],
              "fix the register"),
          low(paste("one", field, "of several", many), table$names[table$labels %in% twice], twice,
              paste("fix the", where, "or ask for them by their codes")),
          low(paste("several", field, "for one", noun_of(question, dimension)), table$several,
              table$several, "the one on most lines serves"))
  }))
}

# Part months at both ends of the book.
find_ends <- function(question, found) {
  days <- found$days
  if (length(days) < 2) return(NULL)
  first <- min(days)
  last <- max(days)
  begin <- unit_start(first, "month")
  end <- months_after(unit_start(last, "month"), 1) - 1
  inside <- function(from, to) in_period(question$book, list(from = from, to = to))
  rbind(if (first - begin > part_days) one_finding(
          "low", "the first month is incomplete", question$book$date,
          weigh(question, found, inside(first, months_after(begin, 1) - 1)), format(first)),
        if (covered_to(question$book, end) < end) one_finding(
          "middle", "the last month is incomplete", question$book$date,
          weigh(question, found, inside(unit_start(last, "month"), last)), format(last)))
}

# Names whose last days are not in yet, while others go on.
find_late <- function(question, found) {
  late <- late_lines(question$book)
  if (is.null(late)) return(NULL)
  field <- late$field %||% question$book$date
  where <- and_also(
    if (!is.null(late$field)) node("within", arg = node("name", name = late$field),
                                   set = node("set", values = late$names)),
    in_period(question$book, list(from = min(late$after) + 1, to = late$last)))
  one_finding("high", if (all(late$seen == 0)) "no lines in the last days" else
    "hardly any lines in the last days", field, weigh(question, found, where),
    paste0(late$names, if (!is.null(late$field)) " after ", late$after),
    paste0("ask for the missing lines; until then: when = ", min(late$after), " at the latest"))
}

find_gaps <- function(question, found) {
  days <- found$days
  if (length(days) < 2) return(NULL)
  # Months as numbers: days of centuries are many texts.
  there <- do.call(function(year, month) 12 * year + month - 1, day_parts(days))
  between <- setdiff(seq(min(there), max(there)), there)
  empty <- sprintf("%04.0f-%02.0f", between %/% 12, between %% 12 + 1)
  if (length(empty))
    one_finding("high", "months without lines", question$book$date, list(lines = 0), empty)
}

# Names, of lines and registers, that were there for long and are there no more.
find_stopped <- function(question, found) {
  book <- question$book
  if (length(found$days) < 6) return(NULL)
  dims <- setdiff(telling_dimensions(book, NULL), names(book$computed))
  do.call(rbind, lapply(dims, function(field) {
    n <- length(names_of(book, field))
    if (n < 2 || n > stops_names) return(NULL)
    latest <- stopped_names(question, found, field)
    if (!length(latest)) return(NULL)
    where <- node("within", arg = node("name", name = field),
                  set = node("set", values = names(latest)))
    one_finding("middle", "no recent lines", field, weigh(question, found, where),
                paste0(names(latest), " after ", latest))
  }))
}

# The last month of each name that stopped.
stopped_names <- function(question, found, field) {
  day <- node("name", name = question$book$date)
  fold <- source_fold(question$book$source, list(name = node("name", name = field), day = day),
                      list(), question$asked$where_now)
  day <- as.numeric(found$days)[match(fold$keys$day, format(found$days))]
  known <- !is.na(fold$keys$name) & !is.na(day)
  runs <- lapply(split(day[known], fold$keys$name[known]), sort)
  stopped <- vapply(runs, function(own) {
    silent <- as.numeric(max(found$days)) - own[length(own)]
    silent > max(stops_days, diff(own)) && length(unique(substr(day_of(own), 1, 7))) >= 6
  }, NA)
  vapply(runs[stopped], function(own) substr(day_of(max(own)), 1, 7), "")
}

# A field with one name: whatever is concluded holds for that one only.
find_single <- function(question, found) {
  own <- own_fields(question)
  dims <- own$name[own$role == "dimension" & own$type %in% c("text", "empty")]
  do.call(rbind, lapply(dims, function(field) {
    levels <- names_of(question$book, field)
    if (length(levels) > 1) return(NULL)
    one_finding("low", if (length(levels)) "one name only" else "no values at all", field,
            list(lines = found$lines$lines), levels)
  }))
}

# Whether the words of a finding name its field, or several of its names.
says_field <- function(finding, field) {
  words <- c(spoken(field), plural_word(spoken(field)))
  any(vapply(paste0(" ", words, " "), grepl, NA, paste0(" ", finding, " "), fixed = TRUE))
}

stops_names <- 200   # of fields with more names, who stopped is a question for `lapsed`

stops_days <- 92
