# Cohorts, continued: the question and what is found.

since_words <- "^(customer_|account_)?(since|first_order|opened|joined)(_on|_date)?$"
most_cohorts <- 1500   # each cohort stands against each period

cohorts_question <- function(book, args) {
  question <- ask_by_period(book, args, "cohorts", "each")
  refuse_pairs(question, "cohorts")
  question <- covered_stretch(question, question$args$dates$first, last_day(book))
  since <- since_field(question)
  # The register knows who was a customer, not who bought such lines.
  unused <- !is.null(since) && args$over == "shown" && !is.null(question$asked$only)
  extra <- list(.names = distinct_names(question$args$each))
  if (book$grain != "summed") extra[[paste0(".", orders_column(question))]] <- order_count(book)
  question <- with_args(question, since = since, unused_since = unused, extra = extra)
  with_cohorts(question)
}

# What the column of order_count() is called.
orders_column <- function(question) plural_word(order_word(question$book))

# The register's date that tells who was there before.
since_field <- function(question) {
  args <- question$args
  fields <- named_once(question$book$fields)
  dates <- fields[fields$from == args$each & fields$type == "date", ]
  if (identical(args$since, "none")) return(NULL)
  if (is.null(args$since)) {
    own <- dates$name[grepl(since_words, tolower(dates$name))]
    return(if (length(own)) own[1])
  }
  field <- real_name(question$book, args$since)
  if (!field %in% fields$name[fields$from == args$each & fields$type == "date"])
    ll_abort(c(paste0("The register of ", args$each, " has no date called ", quoted(args$since),
                      "."),
               offer(args$since, dates$name, "Dates"),
               if (!nrow(dates)) c(i = "Without one, since = \"none\".")), "word")
  field
}

# The cohorts are the question's own; a result does not keep a word for every name.
without_cohorts <- function(book) {
  book$computed$.cohort <- NULL
  book$fields <- book$fields[book$fields$name != ".cohort", ]
  book
}

# The question with each name's cohort as a field of its book.
with_cohorts <- function(question) {
  book <- question$book
  args <- question$args
  where <- if (args$over == "shown") question$asked$where_ever else kept_lines(book)
  fold <- fold_metrics(book, args$each, list(day = list(tree = extreme_day(book, "min"))),
                       where)
  first <- fold$values[[1]]
  named <- !is.na(fold$keys[[1]]) & !is.na(first)
  names <- fold$keys[[1]][named]
  first <- first[named]
  since <- NULL
  if (!is.null(args$since) && !args$unused_since) {
    register <- book$registers[[args$each]]
    column <- book$fields$column[match(args$since, book$fields$name)]
    since <- as.numeric(register$table[[column]])[match(names, register$names)]
  }
  cohorts <- cohorts_of(first, since, args$every, args$calendar, min(as.numeric(book$days)))
  map <- list2env(list(names = names, to = cohorts$label), parent = emptyenv())
  book <- put_field(book, ".cohort", node("mapped", name = ".cohort", map = map,
                                          arg = key_tree(book, args$each)),
                    "dimension", "text", "")
  late <- if (is.null(since)) 0 else sum(!is.na(since) & since > first)
  with_args(altered(question, book = book), cohorts = cohorts, late = late)
}

# What is new, existing, unknown and without a name in each period.
cohorts_split <- function(question) {
  cohorts <- question$args$cohorts
  cohort <- question$book$computed$.cohort
  period <- key_tree(question$book, question$args$period)
  new <- node("compare", op = "==", type = "text", args = list(period, cohort))
  unknown <- and_also(node("within", arg = cohort,
                           set = node("set", values = cohorts$unknown)),
                      node("compare", op = "==", type = "text",
                           args = list(period, node("text", value = cohorts$opens))))
  none <- node("missing", arg = cohort)
  found <- list(periods = trend_periods(question, most_cohorts))
  found$unsplit <- cohorts$unknown %in% cohorts$order &
    found$periods$label == cohorts$opens
  kinds <- list(new = new, existing = and_also(unmet(none), and_also(unmet(new), unmet(unknown))),
                unknown = if (any(found$unsplit)) unknown, none = none)
  kinds <- Filter(Negate(is.null), kinds)
  fold <- function(also = NULL, extra = list()) {
    made <- fold_question(question, question$args$period, list(character()), extra,
                          and_also(question$asked$where_now, also))
    at <- match(found$periods$label, made$keys[[1]])
    rows <- made$values[at, , drop = FALSE]
    for (name in names(rows)) {
      zero <- name %in% names(extra) || question$metrics[[name]]$zero
      if (zero) rows[[name]][is.na(at)] <- 0
    }
    list(rows = rows, whole = as.list(made$totals[[1]]$values[1, , drop = FALSE]),
         lines = sum(made$lines), exact = made$exact)
  }
  found$all <- fold(extra = question$args$extra)
  # Names and orders are dear to count: of new names both, of the others the names for the proof.
  found$kinds <- Map(function(kind, name) {
    fold(kind, if (name == "new") question$args$extra else
         if (name != "none") question$args$extra[".names"] else list())
  }, kinds, names(kinds))
  found$trees <- kinds
  found$total <- found$all$whole[names(question$metrics)]
  found$exact <- found$all$exact[names(question$metrics)]
  found
}

# Cohorts by periods, one row each.
cohorts_triangle <- function(question, found) {
  args <- question$args
  metric <- first_metric(question)
  cohorts <- args$cohorts
  keys <- c(".cohort", args$period)
  fold <- fold_question(question, keys, extra = args$extra)
  ever <- fold_question(question, ".cohort", extra = args$extra[".names"],
                        where = question$asked$where_ever)
  out <- data.frame(cohort = fold$keys[[1]], period = fold$keys[[2]])
  start <- match(out$cohort, found$periods$label)
  # Those of the opening period, and from before it, are followed from there.
  early <- out$cohort %in% c(cohorts$before, cohorts$unknown)
  opens <- match(cohorts$opens, found$periods$label)
  start[early] <- opens
  out$size <- ever$values$.names[match(out$cohort, ever$keys[[1]])]
  out$age <- match(out$period, found$periods$label) - start
  out$names <- fold$values$.names
  out$names_share <- out$names / out$size
  out$names_elsewhere <- names_anywhere(question, keys, fold) - out$names
  for (m in question$metrics) out[[m$name]] <- fold$values[[m$name]]
  base <- out[[metric$name]][match(paste(out$cohort, 0, recycle0 = TRUE),
                                   paste(out$cohort, out$age, recycle0 = TRUE))]
  out$metric_share <- ifelse(!is.na(base) & base > 0, out[[metric$name]] / base, NA)
  if (!metric$adds_up) out$metric_share[] <- NA_real_
  counted <- orders_column(question)
  if (!counted %in% names(question$metrics)) out[[counted]] <- fold$values[[paste0(".", counted)]]
  out <- out[!is.na(out$cohort) & !is.na(out$period), ]
  out <- out[order(match(out$cohort, cohorts$order), match(out$period, found$periods$label)),
             ]
  first <- c("cohort", "size", "period", "age")
  out <- out[c(first, setdiff(names(out), first))]
  rownames(out) <- NULL
  out
}

# How many of the names asked for have lines in each cell, whatever the conditions leave out.
names_anywhere <- function(question, keys, fold) {
  if (is.null(question$asked$only)) return(fold$values$.names)
  each <- question$args$each
  shown <- fold_metrics(question$book, each, list(), question$asked$where_ever)$keys
  shown <- lapply(shown, function(names) names[!is.na(names)])
  any <- fold_metrics(question$book, keys, list(), and_also(
    and_also(kept_lines(question$book), question$asked$period_now),
    these_names(question, shown)), extra = question$args$extra[".names"])
  any$values$.names[match_keys(fold$keys, any$keys)]
}

cohorts_found <- found_of(
  "cohorts", common = found_totals[c("total", "exact")],
  periods = holds("table", "period", "label, first and last day, days, part"),
  unsplit = holds("flag", "period", "whether new and existing cannot be told apart in it"),
  all = holds("list", NULL, "rows (by period), whole, lines, exact: of everybody"),
  kinds = holds("list", NULL, "the same of new, existing, unknown and nameless"),
  trees = holds("list", NULL, "the conditions of these kinds"),
  triangle = holds("table", NULL, "cohorts by periods: size, age, names, shares, metrics"))

cohorts_work <- function(question) {
  found <- cohorts_split(question)
  found$triangle <- cohorts_triangle(question, found)
  do.call(cohorts_found, found)
}
