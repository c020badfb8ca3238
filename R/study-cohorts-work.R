# Cohorts, continued: the question and what is found.

since_words <- "^(customer_|account_)?(since|first_order|opened|joined)(_on|_date)?$"
most_cohorts <- 1500   # each cohort stands against each period

cohorts_question <- function(book, args) {
  q <- ask_by_period(book, args, "cohorts", "each")
  refuse_pairs(q, "cohorts")
  q <- covered_stretch(q, q$dates$first, last_day(book))
  q$since <- since_field(q)
  q$extra <- list(.names = distinct_names(q$each))
  if (q$book$grain != "summed") q$extra[[paste0(".", orders_column(q))]] <- order_count(q$book)
  q
}

# What the column of order_count() is called.
orders_column <- function(q) plural_word(order_word(q$book))

# The register's date that tells who was there before.
since_field <- function(q) {
  fields <- named_once(q$book$fields)
  dates <- fields[fields$from == q$each & fields$type == "date", ]
  if (identical(q$since, "none")) return(NULL)
  if (is.null(q$since)) {
    own <- dates$name[grepl(since_words, tolower(dates$name))]
    return(if (length(own)) own[1])
  }
  field <- real_name(q$book, q$since)
  if (!field %in% fields$name[fields$from == q$each & fields$type == "date"])
    ll_abort(c(paste0("The register of ", q$each, " has no date called ", quoted(q$since), "."),
               offer(q$since, dates$name, "Dates"),
               if (!nrow(dates)) c(i = "Without one, since = \"none\".")), "word")
  field
}

# The cohorts are the question's own; a result does not keep a word for every name.
without_cohorts <- function(book) {
  book$computed$.cohort <- NULL
  book$fields <- book$fields[book$fields$name != ".cohort", ]
  book
}

# Each name's cohort, as a field of the question's book.
cohorts_names <- function(q) {
  book <- q$book
  shown <- q$over == "shown"
  where <- if (shown) q$asked$where_ever else kept_lines(book)
  fold <- fold_metrics(book, q$each, list(day = list(tree = extreme_day(book, "min"))), where)
  first <- fold$values[[1]]
  named <- !is.na(fold$keys[[1]]) & !is.na(first)
  names <- fold$keys[[1]][named]
  first <- first[named]
  # The register knows who was a customer, not who bought such lines.
  q$unused_since <- !is.null(q$since) && shown && !is.null(q$asked$only)
  since <- NULL
  if (!is.null(q$since) && !q$unused_since) {
    register <- book$registers[[q$each]]
    column <- book$fields$column[match(q$since, book$fields$name)]
    since <- as.numeric(register$table[[column]])[match(names, register$names)]
  }
  cohorts <- cohorts_of(first, since, q$every, q$calendar, min(as.numeric(book$days)))
  map <- list2env(list(names = names, to = cohorts$label), parent = emptyenv())
  q$book <- put_field(book, ".cohort", node("mapped", name = ".cohort", map = map,
                                            arg = key_tree(book, q$each)), "dimension", "text", "")
  late <- if (is.null(since)) 0 else sum(!is.na(since) & since > first)
  list(q = q, cohorts = cohorts, late = late)
}

# What is new, existing, unknown and without a name in each period.
cohorts_split <- function(s) {
  q <- s$q
  cohort <- q$book$computed$.cohort
  period <- key_tree(q$book, q$period)
  new <- node("compare", op = "==", type = "text", args = list(period, cohort))
  unknown <- and_also(node("within", arg = cohort,
                           set = node("set", values = s$cohorts$unknown)),
                      node("compare", op = "==", type = "text",
                           args = list(period, node("text", value = s$cohorts$opens))))
  none <- node("missing", arg = cohort)
  s$periods <- trend_periods(q, most_cohorts)
  s$unsplit <- s$cohorts$unknown %in% s$cohorts$order & s$periods$label == s$cohorts$opens
  kinds <- list(new = new, existing = and_also(unmet(none), and_also(unmet(new), unmet(unknown))),
                unknown = if (any(s$unsplit)) unknown, none = none)
  kinds <- Filter(Negate(is.null), kinds)
  fold <- function(also = NULL, extra = list()) {
    made <- fold_question(q, q$period, list(character()), extra,
                          and_also(q$asked$where_now, also))
    at <- match(s$periods$label, made$keys[[1]])
    rows <- made$values[at, , drop = FALSE]
    for (name in names(rows)) {
      zero <- name %in% names(extra) || q$metrics[[name]]$zero
      if (zero) rows[[name]][is.na(at)] <- 0
    }
    list(rows = rows, whole = as.list(made$totals[[1]]$values[1, , drop = FALSE]),
         lines = sum(made$lines), exact = made$exact)
  }
  s$all <- fold(extra = q$extra)
  # Names and orders are dear to count: of new names both, of the others the names for the proof.
  s$kinds <- Map(function(kind, name) {
    fold(kind, if (name == "new") q$extra else if (name != "none") q$extra[".names"] else list())
  }, kinds, names(kinds))
  s$trees <- kinds
  s$total <- s$all$whole[names(q$metrics)]
  s$exact <- s$all$exact[names(q$metrics)]
  s
}

# Cohorts by periods, one row each.
cohorts_triangle <- function(s) {
  q <- s$q
  keys <- c(".cohort", q$period)
  fold <- fold_question(q, keys, extra = q$extra)
  ever <- fold_question(q, ".cohort", extra = q$extra[".names"],
                        where = q$asked$where_ever)
  out <- data.frame(cohort = fold$keys[[1]], period = fold$keys[[2]])
  start <- match(out$cohort, s$periods$label)
  # Those of the opening period, and from before it, are followed from there.
  early <- out$cohort %in% c(s$cohorts$before, s$cohorts$unknown)
  opens <- match(s$cohorts$opens, s$periods$label)
  start[early] <- opens
  out$size <- ever$values$.names[match(out$cohort, ever$keys[[1]])]
  out$age <- match(out$period, s$periods$label) - start
  out$names <- fold$values$.names
  out$names_share <- out$names / out$size
  for (m in q$metrics) out[[m$name]] <- fold$values[[m$name]]
  base <- out[[q$first$name]][match(paste(out$cohort, 0, recycle0 = TRUE),
                                    paste(out$cohort, out$age, recycle0 = TRUE))]
  out$metric_share <- ifelse(!is.na(base) & base > 0, out[[q$first$name]] / base, NA)
  if (!q$first$adds_up) out$metric_share[] <- NA_real_
  counted <- orders_column(q)
  if (!counted %in% names(q$metrics)) out[[counted]] <- fold$values[[paste0(".", counted)]]
  out <- out[!is.na(out$cohort) & !is.na(out$period), ]
  out <- out[order(match(out$cohort, s$cohorts$order), match(out$period, s$periods$label)), ]
  first <- c("cohort", "size", "period", "age")
  out <- out[c(first, setdiff(names(out), first))]
  rownames(out) <- NULL
  out
}
